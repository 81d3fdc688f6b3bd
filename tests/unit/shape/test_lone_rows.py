"""A row of hitches that is tied once: its runner is held level, and what is hitched to it hangs down from it."""

from itertools import pairwise

import numpy as np
import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import relax, tight
from dim_ladder.shape.compact import compact
from dim_ladder.shape.contact import between
from dim_ladder.shape.engine import plain
from dim_ladder.shape.levelled import levelled
from dim_ladder.shape.lift import lift
from dim_ladder.shape.rope import along_of, rope
from dim_ladder.shape.tighten import job_for, pulled
from dim_ladder.trace import trace
from helpers.restarts import begun_elsewhere

HEAD = """weave "Hurdle Head"
cords
  r  nylon-4mm  #3f7a4a
  a  nylon-4mm  #e07a1f
  b  nylon-4mm  #1f6f8b
  c  satin-2mm  #744a9e
hang on bar
  r.a a.a a.b b.a b.b c.a
section row: start
  {}
"""


def row(line):
    return parse_strict(HEAD.format(line))


@pytest.mark.parametrize(
    ("line", "runner", "tied"),
    [
        ("bar-right (1 | 2 3 4 5)", "r.a", ("a.a", "a.b", "b.a", "b.b")),
        ("bar-left (1 2 3 4 | 5)", "b.b", ("r.a", "a.a", "a.b", "b.a")),
        ("bar-right (1 | 2 3)", "r.a", ("a.a", "a.b")),
        ("bar-right (2 | 3 4 5)", "a.a", ("a.b", "b.a", "b.b")),
    ],
)
def test_the_runner_lies_level_and_every_hitch_is_like_the_others(line, runner, tied):
    shape = tight(row(line), "row")
    assert shape.converged
    assert shape.pitch < 4.0
    cord = [shape.per_end[e] for e in tied]
    assert max(cord) < 1.15 * min(cord)
    assert 9 < min(cord) < max(cord) < 18
    led = shape.lines[shape.ends.index(runner)]
    across = led[np.abs(np.gradient(led[:, 0])) > 2 * np.abs(np.gradient(led[:, 1]))]
    assert np.ptp(across[:, 0]) > 1.5 * len(tied)
    assert np.ptp(across[:, 1]) < 0.35 * np.ptp(across[:, 0])
    # It comes from above, and hangs down where it was led to.
    assert led[0, 1] < across[:, 1].min() < across[:, 1].max() < led[-1, 1]
    assert (led[-1, 0] > led[0, 0]) == ("right" in line)


def test_only_a_row_is_laid_so():
    for line in ("snake (1 | 2)", "half-right (1 | 2 3 | 4)", "larks-head (1 | 2 3)"):
        assert not job_for(row(line), "row").curves.aside
    body = HEAD.replace("row: start", "row: body").format("bar-right (1 | 2 3 4 5)\n  bar-left (1 2 3 4 | 5)")
    assert not job_for(parse_strict(body), "row").curves.aside


MIXED = """weave "Mixed Head"
cords
  r  {}  #888a8c
  a  {}  #1f6f8b
  b  {}  #e07a1f
hang on bar
  r.a a.a a.b b.a b.b
section row: {}
  bar-right (1 | 2..5)
"""


@pytest.mark.parametrize(
    "kinds",
    [
        ("kernmantle-4mm", "cotton-3mm", "cotton-3mm"),
        ("cotton-3mm", "cotton-3mm", "cotton-5mm"),
        ("cotton-3mm", "cotton-5mm", "cotton-5mm"),
        ("cotton-5mm", "cotton-3mm", "cotton-4mm"),
    ],
)
def test_hitches_of_thick_and_thin_cord_lie_level_each_beside_the_next(kinds):
    shape = tight(parse_strict(MIXED.format(*kinds, "start")), "row")
    assert shape.converged
    assert shape.pitch < 3.0
    led = shape.lines[0]
    across = led[np.abs(np.gradient(led[:, 0])) > 2 * np.abs(np.gradient(led[:, 1]))]
    assert np.ptp(across[:, 1]) < 1.0
    # Two wraps of each take their room on the runner, and no more: neither a gap nor one hitch on another.
    thick = np.array(shape.diameter)
    at = np.array([x[:, 0].mean() for x in shape.lines])
    for k in range(1, 4):
        both = thick[k] + thick[k + 1]
        assert 0.6 * both < at[k + 1] - at[k] < 1.35 * both
    for pair in (("a.a", "a.b"), ("b.a", "b.b")):
        assert shape.per_end[pair[0]] == pytest.approx(shape.per_end[pair[1]], rel=0.03)


ADDED = """weave "Late Rail"
cords
  r  nylon-4mm  #888a8c
  a  nylon-4mm  #1f6f8b
  b  nylon-4mm  #e07a1f
hang on bar
  a.a b.a b.b a.b
section head: start
  {}
section band: body, repeat 3
  square (1 | 2 3 4 | 5)
"""


@pytest.mark.parametrize(
    ("lines", "runner"),
    [("add r.a at 1\n  bar-right (1 | 2..5)", 0), ("add r.a at 5\n  bar-left (1..4 | 5)", -1)],
)
def test_a_cord_that_comes_in_for_a_row_is_its_runner(lines, runner):
    """As most hangings begin."""
    shape = tight(parse_strict(ADDED.format(lines)), "head")
    assert shape.converged
    assert shape.pitch < 3.0
    assert shape.ends[runner] == "r.a"
    cord = [v for e, v in shape.per_end.items() if e != "r.a"]
    assert max(cord) < 1.05 * min(cord)


def test_a_filler_that_comes_in_is_one_like_the_others():
    weave = parse_strict(ADDED.format("add r.a at 3\n  square (1 | 2 3 4 | 5)"))
    once, body = tight(weave, "head"), tight(weave, "band")
    assert once.converged
    for e in body.ends:
        assert once.per_end[e] == pytest.approx(body.per_end[e], rel=0.02)


def test_a_thin_runner_there_and_back_holds_thick_hitches():
    text = (
        MIXED.format("cotton-3mm", "cotton-5mm", "cotton-5mm", "body, repeat 4") + "  bar-left (1..4 | 5)\n"
    )
    weave = parse_strict(text)
    first = tight(weave, "row")
    *_, other = pulled(begun_elsewhere(job_for(weave, "row"), 5))
    for shape in (first, other):
        assert shape.converged
        cord = [shape.per_end[e] for e in ("a.a", "a.b", "b.a", "b.b")]
        assert max(cord) < 1.1 * min(cord)
    assert other.pitch == pytest.approx(first.pitch, rel=0.03)
    assert sum(other.per_end.values()) == pytest.approx(sum(first.per_end.values()), rel=0.02)


def test_a_long_row_is_drawn_up_as_far_as_a_short_one():
    """Its tails are long while it is loose: nothing pushes them into it."""
    names = "abcdefgh"
    cords = "".join(f"  {n}  cotton-3mm  #3f7a4a\n" for n in names)
    ends = " ".join(f"{n}.a" for n in names)
    text = 'weave "Long Head"\ncords\n{}hang on bar\n  {}\nsection row: finish\n  bar-right (1 | 2..{})\n'
    took = {}
    for many in (4, 8):
        shape = tight(parse_strict(text.format(cords, ends, many)), "row")
        assert shape.converged
        assert shape.pitch < 3.0
        took[many] = [shape.per_end[f"{n}.a"] for n in names[1:many]]
        assert max(took[many]) < 1.05 * min(took[many])
    assert np.mean(took[8]) == pytest.approx(np.mean(took[4]), rel=0.05)


def eight(kind, line):
    cords = "".join(f"  k{i} {kind} #44556{i}\n" for i in range(8))
    ends = " ".join(f"k{i}.a" for i in range(8))
    return parse_strict(f'weave "Eight"\ncords\n{cords}hang\n  {ends}\nsection row: start\n  {line}\n')


def test_it_begins_level_with_every_tail_below_its_own_hitch():
    """Traced it is a stair as long as all its hitches one below the other."""
    t = trace(eight("nylon-4mm", "bar-right (1 | 2..8)"), section="row")
    stair = lift(t, held=True, across=0)
    flat = levelled(stair, 0)
    places = [np.array([along(x.strands[h.strand], h.part) for h in x.held_straight]) for x in (stair, flat)]
    assert np.ptp(places[0][:, 1]) > 40
    assert np.ptp(places[1][:, 1]) < 8
    for before, after in zip(stair.strands, flat.strands, strict=True):
        assert np.array_equal(before[:, 2], after[:, 2])  # what is in front stays there
        # And what is on the left stays there: no cord goes round another.
        assert (np.diff(before[2:-2, 0]) * np.diff(after[2:-2, 0]) >= 0).all()
    for row in (slice(2, 3), slice(-3, -2)):
        tops = [[x[row, 0].item() for x in lifted.strands[1:]] for lifted in (stair, flat)]
        assert np.argsort(tops[0]).tolist() == np.argsort(tops[1]).tolist()
        assert np.diff(tops[1]).min() > 1.5
    for k in range(1, 8):
        hitch = np.mean(
            [along(flat.strands[h.other], h.other_part)[0] for h in flat.held_straight if h.other == k]
        )
        assert abs(flat.strands[k][-3, 0] - hitch) < 10
    # Rows are no longer than they must be, and what must stand apart does.
    wide, short = (compact(t, [1.0] * 8, short=s)[0] for s in (False, True))
    rows = [(p[i - 1], p[i + 1]) for p in t.paths for i in range(1, len(p), 2)]
    assert sum(abs(short[a] - short[b]) for a, b in rows) < 0.8 * sum(abs(wide[a] - wide[b]) for a, b in rows)
    assert min(short.values()) >= 0


def along(line, part):
    d = along_of(line)
    return np.array([np.interp(part * d[-1], d, line[:, a]) for a in range(3)])


@pytest.mark.parametrize(
    ("kind", "line", "runner"),
    [("nylon-4mm", "bar-left (1..7 | 8)", 7), ("polyester-1mm", "bar-left (1..7 | 8)", 7), ("cotton-5mm", "bar-right (1 | 2..8)", 0)],
)  # fmt: skip
def test_no_hitch_comes_off_at_the_edge_of_a_long_row(kind, line, runner):
    shape = tight(eight(kind, line), "row")
    assert shape.converged
    cord = [shape.per_end[f"k{i}.a"] for i in range(8) if i != runner]
    assert max(cord) < 1.03 * min(cord)


def test_of_long_tails_only_what_hangs_near_the_work_goes_on_being_pulled():
    curves = job_for(eight("nylon-4mm", "bar-right (3 | 4..6)"), "row").curves
    for k, line in enumerate(curves.strands):
        line[[0, -1], 1] += (-40.0, 40.0) if k != 2 else 0.0
    r = rope(curves, 0.35)
    assert relax._kept(r, np.inf) == []
    kept, whole = relax._kept(r, 5.0), relax._kept(r, 500.0)
    assert all(part == pytest.approx((0.0, 1.0), abs=0.01) for part in whole)
    work = relax._work(r, between(r, plain()))
    worked = [r.x[a + np.array(w), 1] for a, w in zip(r.first, work, strict=False) if w[1] >= 0]
    heights = [np.min(worked) - 5.0, np.max(worked) + 5.0]  # one above and one below all work
    for k, (a, b) in enumerate(pairwise(r.first)):
        begin, end = (round(f * (b - a - 1)) for f in kept[k])
        first, last = work[k]
        assert 0 <= begin < end < b - a
        if last < 0 or k == 2:  # it hangs beside the work; or is the runner, which is held aside
            continue
        assert begin <= first < last <= end
        ends = r.x[[a + begin, a + end], 1]
        assert ends == pytest.approx(heights, abs=2 * r.spacing()[r.cord[a]])
    begin, end = (round(f * (r.first[3] - r.first[2] - 1)) for f in kept[2])
    most = 5.0 / r.spacing()[r.cord[r.first[2]]] + 1
    assert 0 <= work[2][0] - begin <= most
    assert 0 <= end - work[2][1] <= most


BELOW_A_BEAD = """weave "Row"
cords
  a  cotton-3mm  #1f6f8b
  b  cotton-3mm  #e07a1f
  c  cotton-3mm  #3f7a4a
beads
  pip 8 mm #f4f2ec
hang on bar
  a.a a.b b.a b.b c.a c.b
section row: finish
  {}: bead pip
  double-hitch-right (1 | each 2..6)
"""


@pytest.mark.parametrize("ends", ["3", "3+4"])
def test_a_row_below_a_bead_is_laid_level_too(ends):
    shape = tight(parse_strict(BELOW_A_BEAD.format(ends)), "row")
    assert shape.converged
    # The bead, and one row of two wraps: not as many below each other as it has hitches.
    assert shape.pitch < 8.0 / shape.unit_mm + 3.5
