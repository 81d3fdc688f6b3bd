"""Slack that is left standing stands, to its length, and takes nothing of the knots."""

import numpy as np
import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.cache import keep, known
from dim_ladder.shape.faces import cords_of, strands_of
from dim_ladder.shape.joined import whole
from dim_ladder.shape.standing import with_loops

PICOTS = """weave "Thrift Edge"
cords
  pink  satin-2mm  #c04a7a
  moss  satin-2mm  #4a7a3a
hang on ring
  pink.a moss.a moss.b pink.b
knot petal (w | c.. | v)
  v: over c, leave {mm} mm
  w: over v, under c, up v
knot petal-left = mirror petal
section edge: {kind}
  petal (1 | 2 3 | 4)
  petal-left (1 | 2 3 | 4)
"""


def picots(mm, kind="body"):
    return parse_strict(PICOTS.format(mm=mm, kind=kind))


def cord(lines):
    return sum(float(np.linalg.norm(np.diff(x, axis=0), axis=1).sum()) for x in lines)


def test_a_loop_has_as_much_cord_as_was_left_and_stands_to_its_side():
    s = tight(picots(20), "edge")
    assert s.converged
    assert len(s.standing) == 2
    assert {x.side for x in s.standing} == {-1, 1}
    assert cord(with_loops(s)) - cord(s.lines) == pytest.approx(2 * 20 / s.unit_mm, rel=0.06)
    out = np.vstack(with_loops(s))[:, 0]
    for side in (out.min(), out.max()):
        assert abs(side) == pytest.approx(s.width / 2 + 0.42 * 20 / 2, rel=0.15)


def test_what_stands_changes_nothing_of_the_knots():
    small, large = tight(picots(8), "edge"), tight(picots(40), "edge")
    assert small.pitch == pytest.approx(large.pitch, rel=1e-6)
    assert small.per_end == pytest.approx(large.per_end)
    assert small.width == pytest.approx(large.width)


def test_cord_that_stands_is_counted_with_its_end():
    s = tight(picots(20), "edge")
    more = {e: v - s.per_end[e] * s.unit_mm for e, v in s.taken_mm().items()}
    assert sorted(round(v) for v in more.values()) in ([0, 0, 0, 40], [0, 0, 20, 20])


def test_every_unit_has_its_loops_and_no_cord_has_a_break():
    weave = picots(20)
    s = tight(weave, "edge")
    lines = [x.line for x in strands_of(s, cords_of(weave, "edge"), 4)]
    out = s.width / 2 + 2
    far = np.vstack(lines)
    for side in (-1, 1):
        y = np.sort(far[side * far[:, 0] > out, 1])
        assert np.ptp(y) > 3 * s.pitch
    assert max(np.linalg.norm(np.diff(x, axis=0), axis=1).max() for x in lines) < 0.8
    piece = whole(weave, {"edge": s}, {"edge": 4})
    assert max(float(x.line[:, 0].max()) for x in piece.strands) > out


def test_a_loop_stands_to_its_side_of_its_own_work():
    """Another work beside it does not make its right side a left one."""
    more = PICOTS.replace("\nhang", "\n  gold  satin-2mm  #c9a13b\n  sky  satin-2mm  #1f6f8b\nhang").replace(
        "moss.b pink.b", "moss.b pink.b gold.a sky.a sky.b gold.b"
    )
    both = more + "  petal (5 | 6 7 | 8)\n  petal-left (5 | 6 7 | 8)\n"
    s = tight(parse_strict(both.format(mm=20, kind="body")), "edge")
    assert len(s.places) == 8
    for strands in (range(4), range(4, 8)):
        assert sorted(x.side for x in s.standing if x.strand in strands) == [-1, 1]


def test_a_knot_that_is_tied_once_keeps_its_tails_beside_its_loop():
    weave = picots(20, "finish")
    s = tight(weave, "edge")
    assert s.kind == "held"
    lines = strands_of(s, cords_of(weave, "edge"), 1)
    tops = [x.line[0, 1] for x in lines]
    assert np.ptp(tops) < 1.0  # every one hangs from above
    assert cord(x.line for x in lines) > cord(s.lines) * 0.6


def test_what_stands_is_kept(tmp_path, monkeypatch):
    monkeypatch.setenv("DIM_LADDER_CACHE", str(tmp_path))
    s = tight(picots(20), "edge")
    keep("picots", s)
    again = known("picots")
    assert again is not None
    assert again.standing == s.standing
