"""Which ends a knot treats alike, told from the knot and not from who was led first."""

import pytest

from dim_ladder.trace import trace
from dim_ladder.trace.alike import alike_ends
from helpers.weaves import weave_of


@pytest.mark.parametrize(
    ("count", "lines", "alike"),
    [
        (3, ["half-right (1 | 2 | 3)"], ((0, 2),)),
        (5, ["half-right (1 | 2 3 4 | 5)", "half-left (1 | 2 3 4 | 5)"], ((0, 4),)),
        (2, ["k2.a: over k1.a", "k1.a: down k2.a", "k2.a: over k1.a", "k1.a: down k2.a"], ((0, 1),)),
        (2, ["snake (1 | 2)"], ((0, 1),)),
        (2, ["diamond-2 (1 | 2)"], ((0, 1),)),
        (2, ["button-two (1 | 2)"], ((0, 1),)),
        (2, ["snake (1 | 2)", "snake-left (1 | 2)"], ((0, 1),)),
        (2, ["double-connection (1 | 2)"], ((0, 1),)),
        (2, ["hitch-chain (1 | 2)", "reef (1 | 2)"], ((0, 1),)),
        (4, ["crown-4 (1 | 2 | 3 | 4)", "wall-4 (1 | 2 | 3 | 4)"], ((0, 1, 2, 3),)),
        (6, ["half-right (1 | 2 | 3)", "half-right (4 | 5 | 6)"], ((0, 2), (3, 5))),
        # ends of different knots are not, though they cross as often
        (4, ["square (1 | 2 3 | 4)", "reef (2 | 3)"], ((0, 3), (1, 2))),
        (4, ["square (1 | 2 3 | 4)", "snake (2 | 3)"], ((0, 3), (1, 2))),
        (5, ["reef (1 | 2)", "reef (4 | 5)", "square (2 | 3 | 4)"], ((0, 4), (1, 3))),
        (6, ["square (1 | 2 3 4 5 | 6)", "square (2 | 3 4 | 5)"], ((0, 5), (1, 4))),
        (2, ["coil-3 (1)", "half-hitch (2 | 1)"], ()),
        # one end goes round, the other stands still: or is led across to be hitched to
        (2, ["half-hitch (1 | 2)"], ()),
        (2, ["double-hitch-right (1 | 2)"], ()),
        (5, ["bar-right (1 | 2..5)"], ()),
        (3, ["overhand-round (1 | 2 3)"], ()),
        (1, ["button (1)"], ()),
        # ends that come in are nobody's twins
        (2, ["add k2.b at 1", "2: over 1"], ()),
    ],
)
def test_alike(count, lines, alike):
    assert alike_ends(trace(weave_of(count, *lines), units=1)) == alike


def test_what_is_alike_in_one_unit_and_not_in_the_next_is_not_alike_in_many():
    edges = [
        "half-right (2 | 3 4 | 5)",
        "larks-head (1 | 2)",
        "half-left (2 | 3 4 | 5)",
        "upright-hitch-left (5 | 6)",
    ]
    t = trace(weave_of(6, *edges), units=1)
    assert alike_ends(t) == ((0, 5),)  # each ties two hitches on its neighbour
    assert alike_ends(t, often=True) == ()  # but the right one changes places with it
    plait = trace(weave_of(4, "round-4 (1 | 2 | 3 | 4)"), units=1)
    assert alike_ends(plait, often=True) == alike_ends(plait)
    band = trace(weave_of(4, "half-right (1 | 2 3 | 4)"), units=1)  # its workers change sides
    assert alike_ends(band, often=True) == alike_ends(band) == ((0, 3),)


def test_neighbours_on_one_runner_of_several_rows_that_are_tied_once_are_not_alike():
    leaf = (
        "double-hitch-left (each 2..1 | 3)",
        "double-hitch-right (4 | each 5..6)",
        "double-hitch-left (each 3..2 | 4)",
    )
    assert alike_ends(trace(weave_of(6, *leaf), units=1)) == ()
    # In a body rows even that out; but what leads one row and wraps in the next is not like what wraps in both.
    diamond = ("double-hitch-left (each 4..2 | 5)", "double-hitch-right (5 | each 6..8)")
    closed = ("double-hitch-right (1 | each 2..4)", "double-hitch-left (each 7..5 | 8)")
    once = trace(weave_of(8, *diamond, *closed), units=1)
    assert alike_ends(once) == ()
    assert alike_ends(once, often=True) == ((1, 2, 5, 6, 7),)
    band = trace(weave_of(4, "square (1 | 2 3 | 4)", "double-hitch-right (2 | 3)"), units=1)
    assert alike_ends(band) == ((0, 3),)
