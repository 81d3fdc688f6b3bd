"""Free cord of the whole piece: every knot is there, and as far from the others as is said."""

import numpy as np
import pytest

from dim_ladder.notation import Call, parse_strict
from dim_ladder.shape import frames, joined, tight
from dim_ladder.shape.frames import turned_about, turned_to
from dim_ladder.shape.joined import whole
from dim_ladder.shape.parted import free_between

HEAD = """weave "Spans"
cords
  tide  nylon-4mm  #d8c39a
  reed  nylon-4mm  #3f7a4a
hang on ring
  tide.a reed.a reed.b tide.b
section before: start
  {before}
section bar: body, repeat 4
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)
section after: finish
  {after}
"""
KNOT, OTHER = "square (1 | 2 3 | 4)", "half-right (1 | 2 3 | 4)"
COUNTS = {"before": 1, "bar": 4, "after": 1}


def piece(before, after):
    weave = parse_strict(HEAD.format(before="\n  ".join(before), after="\n  ".join(after)))
    knots = [s for s in weave.sections if any(isinstance(i, Call) for i in s.items)]
    shapes = {s.name: tight(weave, s.name) for s in knots}
    free = {s.name: free_between(weave, s.name) for s in weave.sections}
    return shapes, whole(weave, shapes, COUNTS, free=free)


def cord_of(piece, number):
    return (
        sum(
            float(np.linalg.norm(np.diff(s.line, axis=0), axis=1).sum())
            for s in piece.strands
            if s.end == number
        )
        * piece.unit_mm
    )


@pytest.mark.parametrize(
    ("before", "after"),
    [
        (["span 30 mm", KNOT], [KNOT]),
        ([KNOT, "span 30 mm"], ["span 40 mm", KNOT]),
        (["span 30 mm", KNOT, "span 20 mm"], ["span 40 mm", KNOT]),
        ([KNOT, "span 25 mm", OTHER], ["span 40 mm", KNOT, "span 25 mm", OTHER]),
        ([KNOT], [KNOT, "span 60 mm"]),
        ([KNOT], ["span 60 mm"]),
        (["span 10 mm", KNOT, "span 25 mm", OTHER, "span 10 mm"], ["span 35 mm", KNOT, "span 15 mm", OTHER]),
    ],
)
def test_knots_that_are_tied_once_lie_as_far_apart_as_is_said(before, after):
    """As long as its knots and all that is free, and of every end as much cord: no knot is cut off, and no free cord left out."""
    shapes, found = piece(before, after)
    mm = sum(float(x.split()[1]) for x in (*before, *after) if x.startswith("span"))
    assert not found.left_out
    knots = sum(s.pitch * s.unit_mm * COUNTS[name] for name, s in shapes.items())
    assert found.length_mm == pytest.approx(knots + mm, abs=13)
    for cord, numbers in (("tide", (0, 3)), ("reed", (1, 2))):
        took = sum(
            s.per_end[f"{cord}.{e}"] * s.unit_mm * COUNTS[name] for name, s in shapes.items() for e in "ab"
        )
        drawn = sum(cord_of(found, n) for n in numbers)
        assert took + 2 * (0.97 * mm - 5) < drawn < took + 2 * mm + 90  # and what goes round the ring


@pytest.mark.parametrize("units", [5, 6, 7])
def test_a_knot_below_a_plait_is_of_the_cords_that_hang_there_after_so_many_units(units):
    """As where so many are written down: each cord runs to where it runs there."""
    text = """weave "Knob Pull"
cords
  a  nylon-3mm  #1f6f8b
  b  nylon-3mm  #e07a1f
  c  nylon-3mm  #3f7a4a
  d  nylon-3mm  #c9a13b
hang on ring
  a.a b.a c.a d.a
section plait: body, {count}
  round-4 (1 | 2 | 3 | 4)
section knot: finish
  stopper (1)
"""
    drawn = []
    for count in ("fit", f"repeat {units}"):
        weave = parse_strict(text.format(count=count))
        shapes = {s.name: tight(weave, s.name) for s in weave.sections}
        drawn.append(whole(weave, shapes, {"plait": units, "knot": 1}))
    assert [s.end for s in drawn[0].strands] == [s.end for s in drawn[1].strands]
    for one, other in zip(drawn[0].strands, drawn[1].strands, strict=True):
        assert one.line[-1] == pytest.approx(other.line[-1], abs=0.05)
        assert cord_of(drawn[0], one.end) == pytest.approx(cord_of(drawn[1], one.end), rel=0.02)


def test_a_knob_is_turned_to_where_its_cords_come_from():
    tops = np.array([[1.0, 0, 0], [0, 0, 1.0], [-1.0, 0, 0], [0, 0, -1.0]])
    for by in (-2.5, -0.4, 0.0, 1.2):
        left = turned_about(tops, np.zeros(3), by)
        assert turned_to(tops, left) == pytest.approx(by)
    row = np.array([[-1.5, 0, 0.1], [-0.5, 0, 0], [0.5, 0, -0.1], [1.5, 0, 0]])
    assert turned_to(row, turned_about(row, np.zeros(3), 1.0)) == 0.0  # a row has a front


def test_cords_lean_together_from_a_wide_section_to_a_narrow_one(monkeypatch):
    weave = parse_strict(
        """weave "Narrows"
cords
  a  nylon-4mm  #d8c39a
  b  nylon-4mm  #3f7a4a
  c  nylon-4mm  #1f6f8b
  d  nylon-4mm  #e07a1f
  e  nylon-4mm  #744a9e
  f  nylon-4mm  #888a8c
hang on dowel
  a.a a.b b.a b.b c.a c.b d.a d.b e.a e.b f.a f.b
section wide: body
  half-right (1 | 2 3 4 5 6 7 8 9 10 11 | 12)
  half-left (1 | 2 3 4 5 6 7 8 9 10 11 | 12)
section narrow: finish
  overhand-round (1 | 2 3 4 5 6 7 8 9 10 11 12)
"""
    )
    shapes = {s.name: tight(weave, s.name) for s in weave.sections}
    long = {}
    for leans in (0.0, frames.LEANS, 1.0):
        monkeypatch.setattr(frames, "LEANS", leans)
        long[leans] = whole(weave, shapes, {"wide": 3, "narrow": 1}).length_mm
    aside = (long[1.0] - long[0.0]) / 4.0 + joined.JOIN  # diameters, of the end that comes from furthest
    assert 2.0 < aside < 8.0
    assert long[0.35] - long[0.0] == pytest.approx(4.0 * max(0.0, 0.35 * aside - joined.JOIN), abs=0.5)
    assert long[0.35] > long[0.0]


@pytest.mark.parametrize("on", ["ring", "bar", "buckle", "loop"])
def test_a_cord_runs_in_one_from_its_fold_over_what_it_hangs_on_to_its_foot(on):
    weave = parse_strict(HEAD.format(before=KNOT, after=KNOT).replace("hang on ring", f"hang on {on}"))
    shapes = {s.name: tight(weave, s.name) for s in weave.sections}
    found = whole(weave, shapes, COUNTS)
    cords = {s.end: s.line for s in found.strands if s.end >= 0}
    assert len(cords) == len([s for s in found.strands if s.end >= 0]) == 4
    for line in cords.values():
        assert np.linalg.norm(np.diff(line, axis=0), axis=1).max() < 0.6
        way = np.diff(line[::3], axis=0)
        way /= np.linalg.norm(way, axis=1)[:, None]
        assert (way[1:] * way[:-1]).sum(axis=1).min() > 0.2  # it turns off nowhere at once
    # Both ends of a cord begin at its fold; the outer one goes over the inner one.
    folds = {}
    for a, b in ((0, 3), (1, 2)):
        assert np.linalg.norm(cords[a][0] - cords[b][0]) < 1.0
        folds[a] = min(float(cords[k][:, 1].min()) for k in (a, b))
    assert (folds[0] < folds[1] - 0.7) == (on != "loop")
