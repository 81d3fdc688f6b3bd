"""Units of several knots that share ends: in each of them hands draw up what it treats alike, and friction keeps that there."""

from dataclasses import replace

import numpy as np
import pytest

from dim_ladder.notation import Count
from dim_ladder.shape import tight
from dim_ladder.shape.parted import knot_by_knot, strung
from dim_ladder.shape.rope import along_of
from dim_ladder.shape.tighten import job_for, pulled
from helpers.restarts import begun_elsewhere
from helpers.weaves import weave_of


def once(weave):
    s = weave.sections[0]
    return replace(weave, sections=(replace(s, kind="finish", count=Count()),))


@pytest.mark.parametrize("pairs", [2, 3])
def test_snakes_beside_each_other_at_a_finish_are_each_what_one_is(pairs):
    """Where cord could slide from one end to the other it did, one snake was half of itself, and the piece was said to be lopsided."""
    one = tight(once(weave_of(2, "snake (1 | 2)")), "s")
    lines = [f"snake ({2 * k + 1} | {2 * k + 2})" for k in range(pairs)]
    many = tight(once(weave_of(2 * pairs, *lines)), "s")
    assert many.converged, many.amiss
    assert many.pitch == pytest.approx(one.pitch, rel=0.08)
    each = np.mean(list(one.per_end.values()))
    assert list(many.per_end.values()) == pytest.approx([each] * 2 * pairs, rel=0.08)


def test_a_crown_that_goes_on_in_snakes_keeps_its_cord_in_each():
    lines = ["crown-4 (1 | 2 | 3 | 4)", "snake (1 | 2)", "snake (3 | 4)"]
    weave = weave_of(4, *lines)
    assert [len(w.sections[0].items) for w in knot_by_knot(weave, "s")] == [
        1,
        2,
    ]  # the snakes lie beside each other
    shape = tight(weave, "s")
    assert shape.converged, shape.amiss
    took = shape.per_end.values()
    assert max(took) < 1.1 * min(took)
    crown, snake = tight(once(weave_of(4, lines[0])), "s"), tight(once(weave_of(2, "snake (1 | 2)")), "s")
    assert shape.pitch == pytest.approx(crown.pitch + snake.pitch, rel=0.05)
    for line, goes_on in zip(shape.lines, shape.follow, strict=True):
        assert np.diff(along_of(line)).max() < 1.0  # in one
        step = shape.lines[goes_on][0] + [0.0, shape.pitch, 0.0] - line[-1]
        assert np.linalg.norm(step) < 0.7


def test_a_knot_in_which_one_end_would_lie_straight_is_found_out():
    """A plait that is reefed to an end beside it: that end takes part in nothing else, and is drawn up in the reef as the other is."""
    shape = tight(weave_of(4, "plait-3 (1 | 2 | 3)", "reef (3 | 4)"), "s")
    reef = tight(weave_of(2, "reef (1 | 2)"), "s")
    assert shape.converged, shape.amiss
    beyond = shape.per_end["k4.a"] - (shape.pitch - reef.pitch)
    assert beyond == pytest.approx(reef.per_end["k1.a"], rel=0.15)


@pytest.mark.parametrize("between", [(), ("span 20 mm",)])
def test_ends_that_change_places_take_the_mean_of_what_they_take_in_all_units(between):
    shape = tight(weave_of(3, "half-right (1 | 2 | 3)", *between, "snake (2 | 3)"), "s")
    assert shape.converged, shape.amiss
    assert len(set(shape.follow)) == 3
    assert shape.follow[0] != 0  # the ends go round
    took = shape.per_end.values()
    assert max(took) == pytest.approx(min(took), rel=1e-6)


@pytest.mark.parametrize(
    ("many", "lines"),
    [
        (4, ["half-right (1 | 2 3 | 4)", "half-left (1 | 2 3 | 4)"]),
        (3, ["plait-3 (1 | 2 | 3)"]),
        (4, ["snake (1 | 2)", "snake (3 | 4)"]),
    ],
)
def test_what_is_one_knot_or_lies_beside_each_other_is_not_parted(many, lines):
    assert knot_by_knot(weave_of(many, *lines), "s") == ()


@pytest.mark.parametrize(
    ("work", "seeds"),
    [
        ((2, "coil-3 (1)", "half-hitch (2 | 1)"), (5, 8)),
        ((2, "overhand (1)", "half-hitch (2 | 1)"), (5, 9)),
        ((3, "half-hitch (1 | 2)", "overhand (2)", "half-hitch (3 | 2)"), (5,)),
    ],
)
def test_a_knot_of_one_end_that_others_are_tied_on_to_keeps_its_cord(work, seeds):
    """All of it drawn up together came to rest in two ways, a sixth longer or shorter: the coil beside the hitch, or above it."""
    job = job_for(weave_of(*work), "s")
    *_, found = pulled(job)
    assert found.converged, found.amiss
    each = [tight(once(weave_of(work[0], step)), "s").pitch for step in work[1:]]
    assert found.pitch == pytest.approx(sum(each), rel=0.1)
    for seed in seeds:
        *_, again = pulled(begun_elsewhere(job, seed))
        assert again.pitch == pytest.approx(found.pitch, rel=0.03)
        assert sum(again.per_end.values()) == pytest.approx(sum(found.per_end.values()), rel=0.02)


def test_a_coil_of_a_worker_is_pressed_in_beside_the_band():
    """Nothing is tied on to it: it takes no length of its own."""
    assert not strung(weave_of(4, "square (1 | 2 3 | 4)", "coil-3 (1)", "coil-3 (4)"), "s")
    assert len(strung(weave_of(4, "square (1 | 2 3 | 4)", "coil-3 (2)", "coil-3 (3)"), "s")) == 2


def test_works_beside_each_other_are_no_longer_for_being_told_in_turn():
    """A coil and a hitch on either side: each side's own below each other, as where one side is alone, in whatever order they are told."""
    coil, hitch = ("coil-3 (2)", "coil-3 (3)"), ("half-hitch (1 | 2)", "half-hitch (4 | 3)")
    alone = tight(weave_of(2, coil[0], hitch[0]), "s")
    for lines in ((coil[0], hitch[0], coil[1], hitch[1]), (*coil, *hitch)):
        weave = weave_of(4, *lines)
        assert [[i.knot for i in w.sections[0].items] for w in knot_by_knot(weave, "s")] == [
            ["coil-3"] * 2,
            ["half-hitch"] * 2,
        ]
        assert tight(weave, "s").pitch == pytest.approx(alone.pitch, rel=0.06)


def test_a_knot_that_is_tied_beside_an_earlier_one_hangs_as_that_leaves_its_ends():
    """The third snake begins at places that the two before it have left, though one of those is told after it."""
    weave = weave_of(5, "snake (1 | 2)", "reef (2 | 3)", "snake (4 | 5)", "reef (3 | 4)")
    runs = knot_by_knot(weave, "s")
    assert [[i.knot for i in w.sections[0].items] for w in runs] == [["snake", "snake"], ["reef"], ["reef"]]
    assert runs[1].hang.ends == ("k2.a", "k1.a", "k3.a", "k5.a", "k4.a")
