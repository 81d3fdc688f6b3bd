"""What is drawn of a trace: step pictures, layout, rungs."""

import itertools
import random
import xml.etree.ElementTree as ET

import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.picture.diagrams import diagram, step_picture
from dim_ladder.picture.display import Disc, Label, Line
from dim_ladder.picture.ladder import ladder_picture, rungs
from dim_ladder.picture.layout import layout, window_rows
from dim_ladder.picture.parts import flattened
from dim_ladder.picture.passages import line_picture
from dim_ladder.publish.svg import to_svg
from dim_ladder.trace import trace
from helpers.looking import inside, length
from helpers.weaves import PLAIT, SPIRAL, TERN, weave_of
from helpers.wild import wild_weave


def test_a_step_picture_shows_the_moving_end_strong_its_pass_ringed_and_every_end_lettered():
    t = trace(parse_strict(TERN))
    p = step_picture(t, 1)
    rings = [s for s in p.shapes if isinstance(s, Disc) and s.tag == "pass"]
    assert len(rings) == 1
    letters = [s.text for s in p.shapes if isinstance(s, Label)]
    assert letters == ["D", "B", "C", "A"]  # left to right, as they hang after the step
    strong = [s for s in p.shapes if isinstance(s, Line) and s.colour == "#e07a1f"]
    assert strong
    assert all(s.tag == "end0" for s in strong)
    assert any(s.tag == "arrow" for s in p.shapes)


def test_labels_do_not_overlap_and_stay_inside():
    for text in (TERN, SPIRAL, PLAIT):
        t = trace(parse_strict(text))
        for i, record in enumerate(t.steps):
            if not record.hops:
                continue
            p = step_picture(t, i)
            discs = [s for s in p.shapes if isinstance(s, Disc) and s.tag == "label"]
            for d in discs:
                assert d.x - d.r >= 0
                assert d.x + d.r <= p.width
                assert d.y + d.r <= p.height
            xs = sorted(d.x for d in discs)
            assert all(b - a >= 2 * discs[0].r for a, b in itertools.pairwise(xs))


def test_pictures_of_one_knot_share_their_layout():
    t = trace(parse_strict(TERN))
    a, b = step_picture(t, 0), step_picture(t, 1)
    assert (a.width, a.height) == (b.width, b.height)


def test_gaps_stand_at_every_crossing_of_the_window():
    t = trace(parse_strict(TERN))
    p = diagram(t, 0, 3)
    assert sum(1 for s in p.shapes if isinstance(s, Line) and s.tag == "gap") == 14


def test_layout_keeps_order_and_distance_at_every_level():
    for text, units in ((TERN, 3), (PLAIT, 6), (SPIRAL, 4)):
        t = trace(parse_strict(text), units=units)
        top, bottom = window_rows(t, 0, len(t.steps) - 1)
        found = layout(t, top, bottom)
        for level in found.levels:
            lanes = sorted(level, key=lambda lane: t.lane_rank[lane])
            xs = [level[lane] for lane in lanes]
            assert all(b - a >= 1 - 1e-9 for a, b in itertools.pairwise(xs))
        assert found.right - found.left <= 9


def test_mirrored_work_is_drawn_mirrored():
    right = trace(weave_of(4, "half-right (1 | 2 3 | 4)"))
    left = trace(weave_of(4, "half-left (1 | 2 3 | 4)"))
    a, b = diagram(right, 0, 1), diagram(left, 0, 1)
    tails = {x.which: x.x for x in a.anchors if x.kind == "tail"}
    mirrored = {3 - x.which: b.width - x.x for x in b.anchors if x.kind == "tail"}
    assert tails == pytest.approx(mirrored)


def test_rungs_and_ladder():
    t = trace(parse_strict(TERN))
    rows = rungs(t)
    assert [m.kind for m in rows[1].marks] == ["over", "under", "under", "up"]
    assert [r.side for r in rows[:4]] == [-1, 1, 1, -1]
    assert rows[0].heading == "half-right"
    assert rows[4].finish
    assert rows[4].ends == (0, 3)
    svg = ET.fromstring(to_svg(ladder_picture(t)))
    assert svg.tag.endswith("svg")


def test_svg_escapes_and_parses():
    t = trace(parse_strict(TERN.replace("Tern Ladder", "<b>&amp; 'x'")))
    root = ET.fromstring(to_svg(ladder_picture(t)))
    assert "<b>&amp;" in root.find("{http://www.w3.org/2000/svg}title").text


def test_rungs_of_steps_that_are_the_same_are_taken_over():
    from dim_ladder.picture.ladder import rungs
    from dim_ladder.trace import Tracer

    tracer = Tracer()
    one = tracer.trace(weave_of(3, "1: over 2", "2: over 3", "1: over 2"))
    known = (one.steps, rungs(one))
    two = tracer.trace(weave_of(3, "1: over 2", "2: under 3", "1: over 2", "turn over"))
    found = rungs(two, known)
    assert found == rungs(two)
    assert found[0] is known[1][0]
    assert found[1] != known[1][1]


def test_ends_that_hang_from_far_above_the_picture_are_drawn():
    cords = "".join(f"  c{i} k #112233\n" for i in range(60))
    adds = "".join(f"  add c{i}.a c{i}.b at 1\n" for i in range(60))
    weave = parse_strict(
        f'weave "x"\ncords\n  a k #112233\n{cords}hang\n  a.a a.b\nsection s: body, repeat 1\n{adds}'
    )
    t = trace(weave)
    last = len(t.steps) - 1
    assert diagram(t, last - 8, last).shapes


def test_no_piece_of_cord_is_drawn_that_comes_from_nowhere() -> None:
    """What an end was led through above comes into the picture and goes out of it again; crossings alone would be stray dashes."""
    looked_at = 0
    for seed in (*range(30), 390, 1422, 2613):
        weave = wild_weave(random.Random(seed).randint)
        t = trace(weave)
        for step in range(len(t.steps) if not t.problems else 0):
            picture = line_picture(t, step)
            cords = [s for s in picture.shapes if isinstance(s, Line) and s.tag.startswith(("end", "gap"))]
            lines = [(s.tag, flattened(s.path)) for s in cords]
            for (gap, _), (tag, pts) in itertools.pairwise(lines):
                if gap == "gap" and tag != "gap":  # over a crossing a cord is drawn once more
                    longer = [p for other, p in lines if other == tag and length(p) > length(pts) + 1.0]
                    assert any(inside(pts, p) for p in longer), (seed, step)
                    looked_at += 1
    assert looked_at > 300
