"""A step on its way: the same picture at rest, and nothing that is not there yet."""

import math

import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.picture.diagrams import step_picture
from dim_ladder.picture.display import Area, Disc
from dim_ladder.picture.look import Style
from dim_ladder.picture.motion import Motion, eased_time
from dim_ladder.picture.parts import cut, flattened, passed_at, way_length
from dim_ladder.trace import trace
from helpers.weaves import TERN, weave_of

BAND = trace(parse_strict(TERN))


def tip(picture):
    """Where the lettered disc of the moving end is: drawn last of all discs."""
    return next((s.x, s.y) for s in reversed(picture.shapes) if isinstance(s, Disc) and s.tag == "label")


@pytest.mark.parametrize("weave", [parse_strict(TERN), weave_of(2, "carrick-mat (1 | 2)"), weave_of(2, "1+2: over own left")])  # fmt: skip
def test_at_rest_it_is_the_picture_of_the_step(weave):
    t = trace(weave)
    motion = Motion(t, 0, len(t.steps) - 1)
    for i, r in enumerate(t.steps):
        if r.hops:
            assert motion.picture(i + 1.0).shapes == step_picture(t, i).shapes
    assert motion.picture(-5) == motion.picture(0.0)
    assert motion.picture(99) == motion.picture(motion.end)


def test_the_tip_goes_along_its_way_and_crossings_show_as_it_comes_to_them():
    motion = Motion(BAND, 0, 3)
    parts = motion.parts(1)
    way = flattened(parts.movers[0].path)
    gone = []
    for k in range(1, 20):
        at = passed_at(way, tip(motion.picture(1 + k / 20)), 1.0)
        assert at == pytest.approx(k / 20, abs=0.01)
        gone.append(at)
    assert gone == sorted(gone)
    reached = [at for at, _ in parts.fresh]
    assert len(reached) == BAND.steps[1].stop - BAND.steps[1].start + 1  # and a ring
    assert all(0 < at < 1 for at in reached)
    counts = [len(motion.picture(1 + k / 40).shapes) for k in range(1, 40)]
    assert counts == sorted(counts)
    assert counts[-1] > counts[0]
    assert not [s for s in motion.picture(1.5).shapes if isinstance(s, Area)]  # the arrow comes at rest
    assert [s for s in motion.picture(2.0).shapes if isinstance(s, Area)]


def test_a_moment_belongs_to_the_step_that_ends_there():
    motion = Motion(BAND, 1, 3)
    assert [motion.step_at(m) for m in (1.0, 1.5, 2.0, 2.001, 4.0, 99)] == [1, 1, 1, 2, 3, 3]
    with pytest.raises(ValueError, match="of 5"):
        Motion(BAND, 2, 9)


def test_from_behind_left_is_right_and_front_is_back():
    front = Motion(BAND, 0, 1).parts(0)
    back = Motion(BAND, 0, 1, style=Style(behind=True)).parts(0)
    assert back.width == pytest.approx(front.width)
    a = [x for x, _ in flattened(front.movers[0].path)]
    b = [x for x, _ in flattened(back.movers[0].path)]
    assert b == pytest.approx([front.width - x for x in a])
    # What lies over the fillers in front goes under them from behind: no bridge of the mover itself.
    assert {s.tag for _, shapes in front.fresh for s in shapes} == {"gap", "end3"}
    assert {s.tag for _, shapes in back.fresh for s in shapes} == {"gap", "end1", "end2"}


def test_ways_are_cut_by_length():
    way = [(0.0, 0.0), (10.0, 0.0), (10.0, 10.0)]
    assert way_length(way) == 20
    assert cut(way, 0.0) == [(0.0, 0.0), (0.0, 0.0)]
    assert cut(way, 0.75) == [(0.0, 0.0), (10.0, 0.0), (10.0, 5.0)]
    assert cut(way, 1.0)[-1] == (10.0, 10.0)
    assert passed_at(way, (10.0, 5.0), 0.1) == pytest.approx(0.75)
    assert passed_at(way, (50.0, 5.0), 0.1) is None
    assert (
        passed_at([*way, (0.0, 10.0), (0.0, 0.0), (10.0, 0.0)], (5.0, 0.0), 0.1) > 0.8
    )  # the last time counts
    assert math.isclose(eased_time(0.5), 0.5)
    assert eased_time(0.1) < 0.1
