"""What is led as a bight: its legs lie side by side, not twisted about each other, from whichever side it comes."""

import itertools

import pytest

from dim_ladder.trace import check_structure, trace
from dim_ladder.trace.diagram import tangle
from dim_ladder.trace.reduce import simplified
from helpers.weaves import weave_of


def passages(count, first, last, edge, over, rounds):
    """Of every end, in a chain of two cords of so many rounds whose last bight is locked, laid as short as can be."""
    way = "up" if over == "over" else "down"
    begin = [f"{first}: {over} own {edge} @k", f"{last}: bight {way} @k @m"]
    links = [f"{first}: bight {way} @m @k", f"{last}: bight {way} @k @m"]
    t = trace(weave_of(count, *begin, *links * rounds, f"{last}: {way} @m"))
    assert not t.problems
    assert check_structure(t) == []
    return [len(w) for w in simplified(tangle(t)).walks]


@pytest.mark.parametrize("over", ["over", "under"])
@pytest.mark.parametrize("edge", ["left", "right"])
@pytest.mark.parametrize(("count", "first", "last"), [(2, 1, 2), (2, 2, 1), (3, 1, 3)])
def test_bights_of_two_cords_go_through_each_other_alike_in_every_round(count, first, last, edge, over):
    """The drawing of a longer chain is larger, and its bights come another way; no turn of theirs counts."""
    sizes = [passages(count, first, last, edge, over, rounds) for rounds in (3, 4, 5)]
    more = [[b - a for a, b in zip(x, y, strict=True)] for x, y in itertools.pairwise(sizes)]
    assert more[0] == more[1]
    if (edge == "left") == (
        first < last
    ):  # the first loop stands between the two tails: one cord as the other
        assert more[0][first - 1] == more[0][last - 1] == 8
        assert sum(more[0]) == 16
