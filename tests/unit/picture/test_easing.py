"""Flat weaves drawn as they lie: the same weave, evenly spaced, the same from step to step; standing loops to size."""

import itertools
import math

import numpy as np
import pytest

from dim_ladder.library import library_knots
from dim_ladder.notation import parse_strict
from dim_ladder.picture.diagrams import diagram, step_picture
from dim_ladder.picture.display import PAPER, Area, Disc, Label, Line
from dim_ladder.picture.easing import GAP, RADIUS, eased
from dim_ladder.picture.look import Style
from dim_ladder.picture.loops import LONGEST, loop_lengths, loop_side
from dim_ladder.picture.painter import Painter
from dim_ladder.picture.woven import _Laid, is_woven, woven_parts
from dim_ladder.trace import close, trace
from helpers.invariants import determinant_signature, seifert_numbers
from helpers.space import closed_round, projected
from helpers.weaves import TERN, weave_of

PLACES = {"button": "1", "button-two": "1 | 2", "carrick-mat": "1 | 2", "butterfly": "1", "diamond-2": "1 | 2", "diamond-4": "1 | 2 | 3 | 4"}  # fmt: skip


def tied(name):
    places = PLACES[name]
    return trace(weave_of(places.count("|") + 1, f"{name} ({places})"))


def laid(t):
    last = len(t.steps) - 1
    return _Laid(Painter(t, 0, last, PAPER, Style(), last, False))


def test_every_knot_that_is_led_through_finished_work_lies():
    flat = {k.name for k in library_knots() if any(" at " in str(s) or "Past" in str(s) for s in k.steps)}
    assert flat == set(PLACES)
    t = trace(parse_strict(TERN))
    assert not is_woven(t, 0, len(t.steps) - 1)


@pytest.mark.parametrize("name", ["carrick-mat", "button-two"])
def test_a_doubled_knot_lies_as_a_single_one_does(name):
    t = trace(weave_of(4, f"{name} (1+2 | 3+4)"))
    assert is_woven(t, 0, len(t.steps) - 1)
    work = laid(t)
    assert len(work.strands) == 4
    assert eased(work.strands, work.slack) is not None


def test_a_doubled_diamond_lies_on_paper_where_it_is_waited_for():
    t = trace(weave_of(4, "diamond-2 (1+2 | 3+4)"))
    last = len(t.steps) - 1
    assert not is_woven(t, 0, last)
    assert is_woven(t, 0, last, alone=True)
    style = Style()
    lying = woven_parts(t, 0, last, PAPER, style, last, focus=True, alone=True)
    assert lying is not None
    # Not as far apart as it hangs, with a lane for every way down.
    assert max(lying.width, lying.height) < 36 * style.unit


@pytest.mark.parametrize("name", PLACES)
def test_what_lies_is_the_same_knot_evenly_spaced_and_smooth(name):
    t = tied(name)
    work = laid(t)
    courses = eased(work.strands, work.slack)
    assert courses is not None
    # The same knot by a library that is not ours: the drawn lines in space, overs lifted and unders sunk.
    strands = []
    for end, c in enumerate(courses):
        high = np.zeros(len(c.points))
        for n, visits in c.stops.items():
            for node, upright in zip(visits, work.kinds[end, n], strict=True):
                high[node] = 0.3 if upright == t.crossings[n].lane_over else -0.3
        keep = [k for k in range(len(high)) if k % 3 == 0 or high[k] or k == len(high) - 1]
        strands.append([(float(c.points[k, 0]), -float(high[k]), -float(c.points[k, 1])) for k in keep])
    places = [t.order.index(e) for e in range(len(courses))]
    down = max(-p[2] for s in strands for p in s)
    wide = max(p[0] for s in strands for p in s)
    scale = 9.0 / max(down, wide)
    strands = [[(x * scale, y * scale, z * scale) for x, y, z in s] for s in strands]
    theirs = seifert_numbers(projected(closed_round(strands, places, list(t.start))))
    found = close(t)
    assert (determinant_signature(found) if found.pd else (1, 0)) == theirs
    # Away from crossings, cords keep their distance; none bends in a corner.
    for c in courses:
        for k in range(6, len(c.points) - 6):
            a, b, d = c.points[k - 4], c.points[k], c.points[k + 4]
            bow = float(np.linalg.norm((a + d) / 2 - b))
            assert bow < 2.2 * 1.0 / (2 * RADIUS)
    nodes = [(e, k, p) for e, c in enumerate(courses) for k, p in enumerate(c.points)]
    stops = {(e, k) for e, c in enumerate(courses) for ks in c.stops.values() for k in ks}
    far = [n for n in nodes if not any((n[0], n[1] + d) in stops for d in range(-9, 10))]
    for (e, k, p), (f, m, q) in itertools.combinations(far, 2):
        if e != f or abs(k - m) > 12:
            assert math.dist(p, q) > 0.75 * GAP


def test_the_same_strands_give_the_same_lie():
    work = laid(tied("button"))
    once = eased(work.strands, work.slack)
    from dim_ladder.picture.easing import _eased

    _eased.cache_clear()
    again = eased(work.strands, work.slack)
    assert all(np.array_equal(a.points, b.points) for a, b in zip(once, again, strict=True))


def quiet_points(picture, end):
    return {xy for s in picture.shapes if isinstance(s, Line) and s.tag == f"end{end}" for _, xy in s.path}


def test_the_steps_of_a_knot_share_its_lie_and_show_the_tip_that_moves():
    t = tied("diamond-2")
    pictures = [step_picture(t, i) for i in range(3)]
    assert len({(p.width, p.height) for p in pictures}) == 1
    for before, after in itertools.pairwise(pictures):
        assert len(quiet_points(before, 0) & quiet_points(after, 0)) > 5
    for i, p in enumerate(pictures):
        assert sum(isinstance(s, Area) and s.tag == "arrow" for s in p.shapes) == 2
        assert {a.which for a in p.anchors if a.kind == "tail"} == {0, 1}
        crossings = {a.which for a in p.anchors if a.kind == "crossing"}
        assert crossings == set(range(t.steps[i].stop))
        discs = [s for s in p.shapes if isinstance(s, Disc) and s.tag == "label"]
        assert len(discs) == 2
        assert all(d.x - d.r >= 0 and d.x + d.r <= p.width for d in discs)
    # While an end is being led everything hangs, at once.
    hanging = diagram(t, 0, 2, ease=False)
    assert (hanging.width, hanging.height) != (pictures[2].width, pictures[2].height)


def length(points):
    return sum(math.dist(a, b) for a, b in itertools.pairwise(points))


def test_standing_loops_are_drawn_as_long_as_they_are_and_in_one_scale():
    t = trace(weave_of(2, "1: over 2, leave 20 mm", "2: over 1, leave 40 mm", "1: over 2, leave 300 mm"))
    by_size = {p.mm: loop_lengths(t)[p.row, p.lane] for s in t.steps for p in s.placed}
    assert max(by_size.values()) == LONGEST
    assert by_size[40] < by_size[300] * 0.3
    small = trace(weave_of(2, "1: over 2, leave 20 mm", "2: over 1, leave 30 mm"))
    sizes = {p.mm: loop_lengths(small)[p.row, p.lane] for s in small.steps for p in s.placed}
    assert sizes[30] == pytest.approx(1.5 * sizes[20])
    picture = diagram(small, 0, 1)
    said = [s for s in picture.shapes if isinstance(s, Label) and s.tag == "size"]
    assert [s.text for s in said] == ["20 mm", "30 mm"]
    assert all(0 < s.x < picture.width for s in said)
    p = Painter(small, 0, 1, PAPER, Style(), 1, False)
    u = p.s.unit
    reach = []
    for record, mm in zip(small.steps, (20, 30), strict=True):
        (turn,) = record.placed
        x, y = p.px(turn.lane, p.py(turn.row)), p.py(turn.row)
        course = p.whole(turn.ends[0])
        turn_at = next(k for k, at in enumerate(course) if math.dist(at, (x, y)) < 0.01 * u)
        near = course[turn_at - 23 : turn_at + 24]
        side = loop_side(small, turn.row, turn.lane)
        loop = [at for at in near if side * (at[0] - x) > 0.01 * u or at == course[turn_at]]
        assert length(loop) / u == pytest.approx(sizes[mm], abs=0.6)
        reach.append(max(abs(a - x) for a, _ in loop))
    assert reach[1] == pytest.approx(1.5 * reach[0])


def test_the_loop_of_a_butterfly_stands_out_by_its_size():
    def long(mm):
        w = weave_of(1, f"1: over own left, under own at 1, over own at 2, leave {mm} mm, over own at 4")
        work = laid(trace(w))
        (course,) = eased(work.strands, work.slack)
        ((mark, wanted),) = work.slack.items()
        at = course.marks[mark]
        stops = sorted(k for ks in course.stops.values() for k in ks)
        a, b = max(k for k in stops if k < at), min(k for k in stops if k > at)
        return length(course.points[a : b + 1]), wanted

    for mm in (30, 60):
        drawn, wanted = long(mm)
        assert drawn > 0.95 * wanted
    assert long(60)[1] == pytest.approx(min(2 * long(30)[1], LONGEST))
