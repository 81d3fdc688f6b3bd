"""Flat cord: wide and thin where it lies, rolled up in a knot."""

import numpy as np
import pytest

from dim_ladder.library import cord_kind
from dim_ladder.library.kinds import BULGE
from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.faces import cords_of, strands_of
from dim_ladder.shape.ribbons import widths
from helpers.weaves import TERN

FLAT = TERN.replace("nylon-4mm", "flat-4mm")
STACKED = """weave "Stack"
cords
  web   flat-8mm   #1f6f8b
  work  nylon-4mm  #e07a1f
hang
  web.a web.b work.a
section bar: body
  web.a{how}web.b: over work.a, under work.a, up own
"""


FRONT, EDGE = np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0])


def test_it_makes_a_thinner_and_shorter_band_than_round_cord_as_wide():
    flat, round_ = tight(parse_strict(FLAT), "bar"), tight(parse_strict(TERN), "bar")
    assert flat.converged
    assert flat.thickness * flat.unit_mm < 0.75 * round_.thickness * round_.unit_mm
    assert flat.pitch * flat.unit_mm < 0.75 * round_.pitch * round_.unit_mm


def test_it_is_drawn_as_wide_as_it_lies_and_thin_on_edge():
    weave, kind = parse_strict(FLAT), cord_kind("flat-4mm")
    lines = strands_of(tight(weave, "bar"), cords_of(weave, "bar"), 3)
    tied = widths([s.line for s in lines], [s.diameter for s in lines], FRONT, [s.spread for s in lines])
    assert max(w.max() for w in tied) * kind.across == pytest.approx(4.0, rel=0.1)
    straight = np.column_stack([np.zeros(40), np.linspace(0, 8, 40), np.zeros(40)])
    (front,), (edge,) = (widths([straight], [1.0], eye, [kind.spreads]) for eye in (FRONT, EDGE))
    assert front * kind.across == pytest.approx(4.0)
    assert edge.max() * kind.across < 2.0
    (plain,) = widths([straight], [1.0], EDGE)
    assert plain == pytest.approx(1.0)


def test_fillers_of_flat_cord_stay_within_what_is_tied_round_them():
    """Pressed together from both sides they spread to front and back, as far as the workers there let them."""
    weave = parse_strict(
        TERN.replace("tide  nylon-4mm", "tide  flat-8mm").replace("buoy  nylon-4mm", "buoy  nylon-3mm")
    )
    lines = strands_of(tight(weave, "bar"), cords_of(weave, "bar"), 4)
    wide = widths([s.line for s in lines], [s.diameter for s in lines], EDGE, [s.spread for s in lines])
    reach = [np.abs(s.line[:, 2]) + w * s.diameter / 2 for s, w in zip(lines, wide, strict=True)]
    fillers = [r for s, r in zip(lines, reach, strict=True) if s.spread > BULGE]
    workers = max(r.max() for s, r in zip(lines, reach, strict=True) if s.spread <= BULGE)
    assert len(fillers) == 2
    assert all(r.max() < workers for r in fillers)


def test_stacked_cords_lie_on_each_other_and_others_side_by_side():
    apart = []
    for how in "/+":
        s = tight(parse_strict(STACKED.replace("{how}", how)), "bar")
        assert s.converged
        a, b = (s.lines[s.ends.index(e)] for e in ("web.a", "web.b"))
        middle = a[len(a) // 4 : -len(a) // 4]
        apart.append(np.median([np.linalg.norm(b - p, axis=1).min() for p in middle]))
    stacked, beside = apart
    assert 0.4 < stacked < 0.8  # of what it is across, rolled up
    assert beside > stacked + 0.1
