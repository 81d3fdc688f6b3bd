"""Work tied with ends that go side by side turns, or lies, as it does tied with single ends; and takes of each of a pair as much."""

import pytest

from dim_ladder.notation import Call
from dim_ladder.shape import tight
from dim_ladder.shape.centre import as_it_turns
from dim_ladder.shape.rope import rope
from dim_ladder.shape.singly import singly
from dim_ladder.shape.tighten import job_for, pulled
from dim_ladder.trace.turning import turning
from helpers.restarts import begun_elsewhere
from helpers.weaves import weave_of


@pytest.mark.parametrize(
    ("knot", "is_so"), [("snake", "straight"), ("snake-left", "straight"), ("carrick-mat", "laid")]
)
def test_a_chain_that_lies_lies_doubled_and_is_told_so(knot, is_so):
    once, doubled = weave_of(2, f"{knot} (1 | 2)"), weave_of(4, f"{knot} (1+2 | 3+4)")
    one, two = tight(once, "s"), tight(doubled, "s")
    assert one.converged
    assert two.converged, two.amiss
    assert one.angle == two.angle == 0
    told = as_it_turns(doubled, "s", turning(doubled, "s"), wait=True)
    assert told is not None
    assert told.kind == is_so
    # Twice the cord, round twice the cord: each end takes more, and none more than the others.
    most, least = max(two.per_end.values()), min(two.per_end.values())
    assert least / max(one.per_end.values()) > 1.2
    assert most / min(one.per_end.values()) < 1.8
    assert most < 1.05 * least


@pytest.mark.parametrize(
    ("single", "doubled", "ends"),
    [
        ("half-right (1 | 2 | 3)", "half-right (1+2 | 3 | 4+5)", 5),
        ("half-right (1 | 2 3 | 4)", "half-right (1+2 | 3 4 | 5+6)", 6),
        ("half-left (1 | 2 3 | 4)", "half-left (1+2 | 3..6 | 7+8)", 8),
        ("half-knot-right (1 | 2)", "half-knot-right (1+2 | 3+4)", 4),
    ],
)
def test_a_spiral_of_doubled_half_knots_turns_the_same_way_and_draws_on_both_of_a_pair(single, doubled, ends):
    one = tight(weave_of(len([c for c in single if c.isdigit()]), single), "s")
    weave = weave_of(ends, doubled)
    two = tight(weave, "s")
    assert two.converged, two.amiss
    assert one.angle * two.angle > 0
    took = [two.per_end[f"k{k}.a"] for k in (1, 2, ends - 1, ends)]
    assert max(took) < 1.03 * min(took)
    assert 1.15 < took[0] / one.per_end["k1.a"] < 1.7
    assert one.pitch < two.pitch < 2 * one.pitch


def test_pairs_that_change_places_are_one_group_and_no_group_is_empty():
    """On the left hang the same two cords, a unit later, as on the right."""
    curves = job_for(weave_of(6, "half-right (1+2 | 3 4 | 5+6)"), "s").curves
    assert curves.alike == ((0, 1), (4, 5))
    drawn = rope(curves, 0.3)
    groups = drawn.group[drawn.group >= 0]
    assert sorted(set(groups)) == list(range(max(groups) + 1))
    assert len(groups) == 2


def test_what_is_drawn_up_from_elsewhere_lies_too():
    job = job_for(weave_of(4, "snake (1+2 | 3+4)"), "s")
    *_, one = pulled(job)
    *_, again = pulled(begun_elsewhere(job))
    assert again.converged, again.amiss
    assert one.angle == again.angle == 0
    assert again.pitch == pytest.approx(one.pitch, rel=0.03)
    assert sum(again.per_end.values()) == pytest.approx(sum(one.per_end.values()), rel=0.02)


@pytest.mark.parametrize(
    ("lines", "ends", "groups"),
    [
        (("half-right (1+2 | 3..6 | 7+8)",), 8, [((1,), (2, 3), (4,))]),
        (
            ("wall-3 (1+2+3 | 4+5+6 | 7+8+9)", "crown-3 (1+2+3 | 4+5+6 | 7+8+9)"),
            9,
            [((1,), (2,), (3,))] * 2,
        ),
        (("half-right (1+2 | 3 | 4+5)",), 5, None),
        (("half-right (1+2 | 3 4 5 | 6+7+8)",), 8, None),
        (("snake (2+3 | 4+5)",), 6, None),
        (("snake (1 | 2)",), 2, None),
        (("snake (1+2 | 3+4)", "1: over 2"), 4, None),
    ],
)
def test_the_same_work_with_single_ends_is_told_by_its_places(lines, ends, groups):
    alone = singly(weave_of(ends, *lines), "s")
    if groups is None:
        assert alone is None
        return
    assert alone is not None
    calls = [i for i in alone.sections[0].items if isinstance(i, Call)]
    assert [c.groups for c in calls] == groups
    assert not any(c.as_one for c in calls)
    assert len(alone.hang.ends) == len({p for of in groups for g in of for p in g})
