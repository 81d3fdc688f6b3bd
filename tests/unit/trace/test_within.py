"""Into and out of the loop a knot begins with."""

import pytest

from dim_ladder.trace import trace
from dim_ladder.trace.within import Passage, passages
from helpers.weaves import weave_of


def test_what_is_led_goes_into_the_first_loop_and_out_of_it_in_turn() -> None:
    t = trace(weave_of(2, "button-two (1 | 2)"))
    a, b = (s.end for s in t.steps)
    assert passages(t, 0) == {1: Passage(a, into=True), 2: Passage(a, into=False)}
    assert passages(t, 1) == {1: Passage(a, into=True), 3: Passage(a, into=False)}
    assert b != a


@pytest.mark.parametrize(
    "knot", ["button (1)", "butterfly (1)", "carrick-mat (1 | 2)", "diamond-2 (1 | 2)", "button-two (1 | 2)"]
)
def test_an_end_that_is_in_a_loop_comes_out_before_it_goes_in_again(knot: str) -> None:
    t = trace(weave_of(2, knot, knot))
    met = 0
    for index, _ in enumerate(t.steps):
        inside: dict[int, bool] = {}
        for hop, passage in sorted(passages(t, index).items()):
            assert inside.get(passage.owner, not passage.into) != passage.into, (index, hop)
            inside[passage.owner] = passage.into
            met += 1
    assert met >= 4


def test_what_only_crosses_tails_meets_no_loop() -> None:
    t = trace(weave_of(4, "half-right (1 | 2 3 | 4)", "overhand (1)"))
    assert all(passages(t, i) == {} for i in range(len(t.steps)))


def test_an_end_that_crosses_its_own_cord_once_more_on_its_way_down() -> None:
    """No hop leads it there: after the last one it hangs down over what it laid before."""
    t = trace(weave_of(1, "1: over own right", "1: over own right, over own at 1"))
    last = t.steps[1]
    assert last.hops[-1].stop < last.stop
    assert all(0 <= hop < len(last.hops) for hop in passages(t, 1))
    assert passages(t, 1) == {1: Passage(last.end, into=True)}
