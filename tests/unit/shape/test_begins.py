"""Where a unit of a body begins, once it lies: between two units, with every end in its place."""

from dataclasses import replace

import numpy as np
import pytest

from dim_ladder.shape import tight
from dim_ladder.shape.joined import whole
from dim_ladder.shape.recut import _cord, _cut, brought_beside, faced, orbits, recut
from dim_ladder.shape.rope import turned
from dim_ladder.shape.tighten import job_for, rope_of
from dim_ladder.trace import trace
from helpers.weaves import weave_of

CHEVRONS = {
    6: (
        "double-hitch-right (1 | each 2..3)",
        "double-hitch-left (each 5..4 | 6)",
        "double-hitch-right (3 | 4)",
    ),
    8: (
        "double-hitch-right (1 | each 2..4)",
        "double-hitch-left (each 7..5 | 8)",
        "double-hitch-right (4 | 5)",
    ),
}


@pytest.mark.parametrize("many", CHEVRONS)
def test_a_chevron_begins_with_its_ends_in_their_places(many):
    """Its runners take most of the cord: what is called the begin of a strand slid by a unit along it."""
    shape = tight(weave_of(many, *CHEVRONS[many]), "s")
    assert shape.converged
    starts = np.array([line[0] for line in shape.lines])
    assert np.ptp(starts[:, 1]) < 0.5 * shape.pitch
    assert _misplaced(starts[:, 0]) < 0.5
    for line, follow in zip(shape.lines, shape.follow, strict=True):
        assert line[-1] == pytest.approx(shape.lines[follow][0] + [0, shape.pitch, 0], abs=0.02)


@pytest.mark.parametrize("units", [1, 2, 3, 5])
def test_a_piece_of_bars_ends_with_each_end_where_the_trace_has_it(units):
    weave = weave_of(6, *CHEVRONS[6])
    shape = tight(weave, "s")
    made = whole(weave, {"s": shape}, {"s": units})
    done = trace(weave, units=units)
    for at, order in ((0, range(6)), (-1, done.order)):
        x = {s.end: s.line[at, 0] for s in made.strands[:6]}
        assert _misplaced([x[e] for e in order]) < 0.5


def test_what_begins_in_its_place_is_left_as_it_is():
    weave = weave_of(3, "plait-3 (1 | 2 | 3)")
    assert recut(rope_of(job_for(weave, "s"), tight(weave, "s"))) is None


@pytest.mark.parametrize("knot", ["plait-6", "plait-8", "round-6", "round-8"])
def test_a_plait_begins_level_and_goes_on_in_itself(knot):
    """Its strands began up to four fifths of a unit from each other's height: what hung below it came from anywhere."""
    many = int(knot[-1])
    shape = tight(weave_of(many, f"{knot} ({' | '.join(str(k) for k in range(1, many + 1))})"), "s")
    starts = np.array([line[0] for line in shape.lines])
    assert np.ptp(starts[:, 1]) < 0.05 * shape.pitch
    for line, follow in zip(shape.lines, shape.follow, strict=True):
        assert line[-1] == pytest.approx(shape.lines[follow][0] + [0, shape.pitch, 0], abs=0.02)
    took = np.array(list(shape.per_end.values()))
    assert np.ptp(took) < 0.03 * took.mean()


def test_strands_cut_anew_are_the_same_cord_held_straight_at_the_same_crossings():
    weave = weave_of(8, *CHEVRONS[8])
    r = rope_of(job_for(weave, "s"), tight(weave, "s"))
    cut = recut(_begun_later(r, 0.6))
    assert cut is not None
    # Laid in pieces anew twice: chords are shorter than their arcs.
    assert cut.cord_lengths().sum() == pytest.approx(r.cord_lengths().sum(), rel=0.015)
    assert len(r.held) == len(cut.held) > 20
    # To a node: a wrap that keeps its turn is not followed to where its two cords are nearest.
    assert np.sort(_apart(cut)) == pytest.approx(np.sort(_apart(r)), abs=0.2)
    assert _misplaced(cut.x[cut.first[:-1], 0]) < 0.5 < _misplaced(_begun_later(r, 0.6).x[r.first[:-1], 0])


def _misplaced(x):
    """By how much anything lies on the left of what it should be on the right of."""
    return (np.maximum.accumulate(x) - np.asarray(x)).max()


def _begun_later(r, by):
    """The same, each strand beginning a part of its length further along its cord."""
    cords = [_cord(r, orbit) for orbit in orbits(r.curves.follow)]
    cuts = [c.starts + by * np.diff(c.starts, append=c.starts[-1] + np.diff(c.starts)[0]) for c in cords]
    return _cut(r, cords, cuts, [c.strands for c in cords])


def _apart(r):
    """How far apart the cords are at each crossing at which one is held straight."""
    i, j, units, _ = r.held.T
    return np.linalg.norm(turned(r.x[j], units, r.angle, r.pitch) - r.x[i], axis=1)


HITCHED_EDGES = (
    "half-right (2 | 3 4 | 5)",
    "half-hitch (1 | 2)",
    "upright-hitch-left (5 | 6)",
    "half-left (2 | 3 4 | 5)",
)


def test_what_slid_past_the_others_by_whole_units_begins_where_they_do():
    """Fillers that all go straight through: nothing says at which unit of them the work begins."""
    weave = weave_of(6, *HITCHED_EDGES)
    shape = tight(weave, "s")
    assert shape.converged
    assert np.ptp([line[0, 1] for line in shape.lines]) < 0.5 * shape.pitch
    # Pushed up by nine units and two cut ends apart, it is brought back, and everything that touches touches again.
    r = rope_of(job_for(weave, "s"), shape)
    strand = np.repeat(np.arange(len(r.first) - 1), np.diff(r.first))
    x = r.x.copy()
    x[strand == 2, 1] -= 9 * r.pitch
    x[strand == 3, 1] += 7 * r.pitch
    back = brought_beside(replace(r, x=x))
    assert back.x == pytest.approx(r.x, abs=1e-9)
    assert brought_beside(r) is r
    # Where it is held straight goes with it.
    moved = replace(
        r, x=r.x - np.where(strand == 5, 4 * r.pitch, 0.0)[:, None] * [0, 1, 0], held=r.held.copy()
    )
    whole_cord = np.isin(strand, [s for orbit in orbits(r.curves.follow) if 5 in orbit for s in orbit])
    moved.x[whole_cord & (strand != 5), 1] -= 4 * r.pitch
    moved.held[:, 2] += 4 * (whole_cord[r.held[:, 1]].astype(int) - whole_cord[r.held[:, 0]])
    held = brought_beside(moved)
    assert held.x == pytest.approx(r.x, abs=1e-9)
    assert held.held.tolist() == r.held.tolist()


def test_what_rolled_over_as_a_whole_shows_its_front():
    hitches = ("half-hitch (1 | 2)", "half-hitch (3 | 4)", "half-hitch (5 | 6)", "half-hitch (7 | 8)")
    upright = ("upright-hitch-left (2 | 3)", "upright-hitch-left (4 | 5)", "upright-hitch-left (6 | 7)")
    shape = tight(weave_of(8, *hitches, *upright), "s")
    assert shape.converged
    assert _misplaced([line[0, 0] for line in shape.lines]) < 0.5
    r = rope_of(job_for(weave_of(8, *hitches, *upright), "s"), shape)
    assert faced(r) is r
    assert faced(replace(r, x=r.x * [-1, 1, -1])).x == pytest.approx(r.x)
    # Where all lie about one line their order says nothing.
    band = weave_of(3, "square (1 | 2 | 3)")
    r = rope_of(job_for(band, "s"), tight(band, "s"))
    turned_about = replace(r, x=r.x * [-1, 1, -1])
    assert faced(turned_about) is turned_about
