"""Works that hang beside each other: each is as long as it is, and turns as it likes."""

import numpy as np
import pytest

from dim_ladder.shape import tight
from dim_ladder.shape.cache import keep, known
from dim_ladder.shape.faces import cords_of, strands_of
from dim_ladder.shape.packing import packing
from dim_ladder.shape.several import alone
from dim_ladder.shape.tighten import job_for
from helpers.weaves import weave_of

SPIRALS = ("half-right (1 | 2 3 | 4)", "half-left (5 | 6 7 | 8)")
MIXED = ("square (1 | 2 3 | 4)", "half-left (5 | 6 7 | 8)")
ONE = ("half-right (1 | 2 3 | 4)",)


@pytest.fixture(scope="module")
def by_itself():
    return tight(weave_of(4, *ONE), "s")


def test_a_spiral_turns_beside_ends_that_hang_idle(by_itself):
    s = tight(weave_of(8, *ONE), "s")
    assert s.converged
    assert s.twist_deg == pytest.approx(by_itself.twist_deg, abs=0.5)
    assert s.pitch == pytest.approx(by_itself.pitch, rel=0.01)
    assert s.per_end["k1.a"] == pytest.approx(by_itself.per_end["k1.a"], rel=0.01)
    assert s.per_end["k7.a"] == s.pitch
    assert s.width == pytest.approx(by_itself.width + 4, rel=0.02)


def test_two_spirals_turn_each_about_itself(by_itself):
    weave = weave_of(8, *SPIRALS)
    s = tight(weave, "s")
    assert s.converged
    turns = {round(p.angle, 3) for p in s.places}
    assert len(turns) == 2
    assert sum(turns) == pytest.approx(0.0, abs=1e-3)
    lines = strands_of(s, cords_of(weave, "s"), 12)
    left, right = (np.vstack([x.line for x in lines[a : a + 4]]) for a in (0, 4))
    # Side by side, whatever they turn by: no cord of one comes to the other.
    assert left[:, 0].max() < right[:, 0].min() + 0.3
    assert max(np.linalg.norm(np.diff(x.line, axis=0), axis=1).max() for x in lines) < 0.6


def test_each_is_as_long_as_it_is(by_itself):
    s = tight(weave_of(8, *MIXED), "s")
    square = tight(weave_of(4, "square (1 | 2 3 | 4)"), "s")
    assert s.pitch == pytest.approx(square.pitch, rel=0.01)
    assert s.places[0].pitch == pytest.approx(square.pitch, rel=0.01)
    assert s.places[4].pitch == pytest.approx(by_itself.pitch, rel=0.01)
    assert s.per_end["k5.a"] == pytest.approx(by_itself.per_end["k1.a"], rel=0.01)
    # What goes on from a unit is the next one, of its own pitch.
    lines = strands_of(s, cords_of(weave_of(8, *MIXED), "s"), 6)
    assert np.ptp(lines[5].line[:, 1]) == pytest.approx(6 * by_itself.pitch, rel=0.1)
    tops = [x.line[:, 1].min() for x in lines]
    assert np.ptp(tops) < 1.5


def test_it_is_kept_and_taken_apart_again(tmp_path, monkeypatch):
    monkeypatch.setenv("DIM_LADDER_CACHE", str(tmp_path))
    weave = weave_of(8, *MIXED)
    s = tight(weave, "s")
    keep("mixed", s)
    again = known("mixed")
    assert again is not None
    assert again.places == s.places
    parts = alone(job_for(weave, "s"), s)
    assert [len(shape.lines) for _, shape in parts] == [4, 4]
    for job, shape in parts:
        assert abs(np.vstack(shape.lines)[:, 0].mean()) < 0.4  # about its own axis again
        assert shape.ends == job.ends


def test_looser_work_is_looser_in_each():
    weave = weave_of(8, *MIXED)
    s = tight(weave, "s")
    *_, curve = packing(job_for(weave, "s"), s)
    assert len(curve) > 3
    loosest = curve[-1]
    assert loosest.pitch > 1.1 * s.pitch
    assert set(loosest.per_end) == set(s.per_end)
    assert loosest.per_end["k5.a"] > s.per_end["k5.a"]


def test_work_that_is_one_has_no_parts():
    assert job_for(weave_of(4, *ONE), "s").parts == ()
    assert len(job_for(weave_of(8, *SPIRALS), "s").parts) == 2
    lattice = weave_of(8, *SPIRALS, "half-right (3 | 4 5 | 6)")
    assert job_for(lattice, "s").parts == ()


def test_what_is_tied_beside_other_work_begins_level_with_it():
    """A doubled diamond slides along itself on its way to rest, as the snake beside it does: both begin at one height."""
    weave = weave_of(6, "diamond-2 (1+2 | 3+4)", "snake (5 | 6)")
    s = tight(weave, "s")
    assert s.converged
    lines = strands_of(s, cords_of(weave, "s"), 3)
    diamond, snake = (min(float(x.line[:, 1].min()) for x in lines[a:b]) for a, b in ((0, 4), (4, 6)))
    assert snake == pytest.approx(diamond, abs=2.5)
    assert s.places[0].angle == 0  # its cords turn about their fellows only, which lie beside them


@pytest.mark.parametrize(
    ("count", "lines", "tied"),
    [
        (7, ("bar-right (1 | 2..5)", "bar-left (1..4 | 5)"), [(1, 2, 3, 4)]),
        (
            10,
            ("bar-right (1 | 2..5)", "bar-left (1..4 | 5)", "bar-right (6 | 7..10)", "bar-left (6..9 | 10)"),
            [(1, 2, 3, 4), (1, 2, 3, 4)],
        ),
    ],
)
def test_a_hitch_that_comes_off_is_found_out_beside_other_work_too(count, lines, tied):
    """Each work knows what is tied on to its runner, and how else it is drawn up: by itself, not with what hangs beside it."""
    job = job_for(weave_of(count, *lines), "s")
    assert job.hitched == ()
    assert job.otherwise is None
    assert [p.job.hitched for p in job.parts] == tied
    for part in job.parts:
        assert part.job.otherwise.ends == part.job.ends
        assert part.job.otherwise.hitched == part.job.hitched
        assert np.ptp(part.job.otherwise.curves.strands[1][:, 0]) > np.ptp(part.job.curves.strands[1][:, 0])


def test_a_net_beside_idle_ends_is_drawn_up_as_it_is_alone():
    net = ("snake (1 | 2)", "snake (3 | 4)", "snake (2 | 3)")
    alone_, beside = tight(weave_of(4, *net), "s"), tight(weave_of(6, *net), "s")
    assert beside.places[0].pitch == pytest.approx(alone_.pitch, rel=0.02)
    assert beside.per_end["k1.a"] == pytest.approx(alone_.per_end["k1.a"], rel=0.02)
