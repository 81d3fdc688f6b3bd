"""Drawn up as tied: what is tied round stays straight, in every step by itself."""

from dataclasses import replace

import numpy as np
import pytest

from dim_ladder.calibrate.prior import prior_for
from dim_ladder.shape import fast, pull, tight
from dim_ladder.shape.cache import keep, known
from dim_ladder.shape.engine import plain
from dim_ladder.shape.relax import _sways
from dim_ladder.shape.respaced import respaced
from dim_ladder.shape.rope import rope, turned
from dim_ladder.shape.sound import amiss
from dim_ladder.shape.straight import _crowded, follow_crossings
from dim_ladder.shape.tighten import job_for, pulled, rope_of
from helpers.restarts import begun_elsewhere, row_works
from helpers.weaves import weave_of

CROSSING = ("larks-head (1 | 2)", "larks-head (4 | 3)", "2: over 3")
DIAMOND = (
    "double-hitch-right (2 | 3)",
    "double-hitch-left (1 | 2)",
    "double-hitch-right (3 | 4)",
    "double-hitch-right (1 | 2)",
    "double-hitch-left (3 | 4)",
)
WIDE = tuple(
    f"double-hitch-{way} ({a} | {b})"
    for way, pairs in (
        ("right", ((3, 4),)),
        ("left", ((2, 3), (1, 2))),
        ("right", ((4, 5), (5, 6), (1, 2), (2, 3))),
        ("left", ((5, 6), (4, 5))),
    )
    for a, b in pairs
)


def test_a_core_that_crosses_stays_the_core():
    """Lark's heads on two cords that change places: nearly as straight as cord that never moves, and the heads stay on it."""
    s = tight(weave_of(4, *CROSSING), "s")
    assert s.converged
    core = (s.per_end["k2.a"] + s.per_end["k3.a"]) / 2 / s.pitch
    assert core < 1.5
    assert s.per_end["k1.a"] / s.pitch > 2.5 * core
    assert s.per_end["k1.a"] == pytest.approx(s.per_end["k4.a"], rel=0.05)


def test_without_it_the_heads_capsize():
    job = job_for(weave_of(4, *CROSSING), "s")
    *_, loose = pulled(replace(job, curves=replace(job.curves, held=())))
    core = (loose.per_end["k2.a"] + loose.per_end["k3.a"]) / 2 / loose.pitch
    assert core > 2.5


def test_what_is_runner_here_and_wraps_there_is_drawn_up_as_both():
    """A diamond of double hitches on four ends: left and right alike, and none takes another one's cord."""
    s = tight(weave_of(4, *DIAMOND), "s")
    assert s.converged
    assert s.per_end["k1.a"] == pytest.approx(s.per_end["k4.a"], rel=0.05)
    assert s.per_end["k2.a"] == pytest.approx(s.per_end["k3.a"], rel=0.05)


def test_works_beside_each_other_stay_beside_each_other():
    s = tight(weave_of(4, *(f"half-hitch ({a} | {b})" for a, b in ((1, 2), (2, 1), (4, 3), (3, 4)))), "s")
    assert s.converged
    assert s.width < 15


def test_both_engines_draw_it_up_alike_and_crossings_are_kept():
    job = job_for(weave_of(4, *DIAMOND), "s")
    a, b = rope(job.curves, 0.35), rope(job.curves, 0.35)
    a.angle = b.angle = 0.2
    for _ in range(6):
        for r in (a, b):
            follow_crossings(r)
        assert a.taut.any()
        pa, pb = plain().near(a, 0.8), fast.near(b, 0.8)
        ra = pull.run(a, pa, 40.0, 0.05, 25, (True, True), 9.0, 0.1, job.stretch)
        rb = fast.run(b, pb, 40.0, 0.05, 25, (True, True), 9.0, 0.1, job.stretch)
        assert ra == pytest.approx(rb, rel=1e-6)
        assert np.allclose(a.x, b.x, atol=1e-6)
    again = respaced(a, 0.3)
    assert len(again.held) == len(a.held) == len(job.curves.held)
    for r in (a, again):
        i, j, s = r.held.T[:3]
        gap = np.linalg.norm(r.x[i] - turned(r.x[j], s, r.angle, r.pitch), axis=1)
        assert gap.max() < 3  # near each other while all else flies together: loose work is 60 long


def test_it_pulls_only_where_it_bends_and_moves_nothing_as_a_whole():
    job = job_for(weave_of(4, *DIAMOND), "s")
    r = rope(job.curves, 0.35)
    follow_crossings(r)
    one = 1 / r.spacing()
    assert np.abs(pull.straightened(r, one).sum(axis=0)).max() < 1e-9
    k = np.flatnonzero(r.taut)
    straight = k[
        np.linalg.norm(r.x[r.nxt[k]] - 2 * r.x[k] + r.x[r.before[k]], axis=1) < 1e-9
    ]  # cords begin as straight lines between corners
    assert len(straight)
    lone = replace(r, taut=np.where(np.isin(np.arange(len(r.x)), straight), r.taut, 0.0))
    assert np.abs(pull.straightened(lone, one)).max() < 1e-9


def test_an_answer_that_capsized_is_found_out_and_counts_for_nothing():
    """Runners that are followed but not held: their hitches capsize, and the answer says so."""
    weave = weave_of(6, *WIDE)
    job = job_for(weave, "s")
    *_, loose = pulled(replace(job, curves=replace(job.curves, tauter=1e-9)))
    assert "capsized" in loose.amiss
    assert not loose.converged
    *_, sound = pulled(job)
    assert sound.amiss == ""
    fair, unfair, rough = (prior_for(weave, shapes=x) for x in ({"s": sound}, {"s": loose}, {}))
    assert unfair.pitch == pytest.approx(rough.pitch)
    assert fair.pitch != pytest.approx(rough.pitch, rel=0.01)


def test_thin_hitches_on_the_bights_of_a_thick_band_have_not_capsized():
    """Over as much as it is thick itself thin cord hardly bends round thick cord."""
    weave = weave_of(6, "square (2 | 3 4 | 5)", "half-hitch (1 | 2)", "half-hitch (1 | 2)")
    thin = [replace(c, kind="polyester-1mm") if c.name == "k1" else c for c in weave.cords]
    shape = tight(replace(weave, cords=tuple(thin)), "s")
    assert (shape.converged, shape.amiss) == (True, "")


def test_an_answer_that_came_out_lopsided_is_found_out():
    job = job_for(weave_of(2, "diamond-2 (1 | 2)"), "s")
    assert job.curves.alike
    r = rope(job.curves, 0.35)
    assert amiss(job, r, {"k1.a": 20.0, "k2.a": 21.0}, 3.0) == ""
    assert "k2.a takes more cord than k1.a" in amiss(job, r, {"k1.a": 20.0, "k2.a": 40.0}, 3.0)


@pytest.mark.parametrize(
    ("count", "line", "turns"),
    [
        (4, "plait-4 (1|2|3|4)", False),
        (2, "snake (1 | 2)", False),
        (4, "round-4 (1|2|3|4)", False),
        (6, "half-right (1 | 2 3 4 5 | 6)", True),
        (2, "half-hitch (1 | 2)", True),
        (4, "crown-4 (1|2|3|4)", True),
    ],
)
def test_it_turns_where_that_saves_cord_and_friction_does_not_keep_it_flat(count, line, turns):
    s = tight(weave_of(count, line), "s")
    assert s.converged
    assert (abs(s.twist_deg) > 10) == turns


def test_a_shape_that_is_known_goes_on_from_where_it_is_held(tmp_path, monkeypatch):
    """Looser and tighter packing begin from the tight shape: its crossings are where they came to, kept on disk or not."""
    monkeypatch.setenv("DIM_LADDER_CACHE", str(tmp_path))
    job = job_for(weave_of(4, *CROSSING), "s")
    *_, s = pulled(job)
    keep("one", s)
    again = known("one")
    assert again is not None
    assert again.held == s.held
    assert len(s.held) == len(job.curves.held)
    r = rope_of(job, again)
    i, j, d = r.held.T[:3]
    gap = np.linalg.norm(r.x[i] - turned(r.x[j], d, r.angle, r.pitch), axis=1)
    assert gap.max() < 1.1


LEVEL = ("bar-right (1 | 2..6)",)


def test_a_row_that_is_tied_once_is_a_row():
    """At the end of a piece, as in its body: two wraps of each on a runner that lies straight, and not a heap of hooks."""
    weave = weave_of(6, *LEVEL)
    once = replace(weave, sections=tuple(replace(s, kind="finish") for s in weave.sections))
    s = tight(once, "s")
    assert s.converged
    assert not s.amiss
    assert s.kind == "held"
    assert s.pitch < 5
    assert s.width > 6.5


def test_thin_core_is_not_carried_to_the_edge_by_the_thick_heads_on_it():
    two = (*CROSSING, *CROSSING[:-1], "3: over 2")
    weave = weave_of(4, *two)
    thin = replace(
        weave,
        cords=tuple(replace(c, kind="nylon-3mm" if c.name in ("k2", "k3") else c.kind) for c in weave.cords),
    )
    s = tight(thin, "s")
    assert s.converged
    assert max(s.per_end["k2.a"], s.per_end["k3.a"]) < 1.25 * s.pitch


def test_thick_and_thin_cord_that_change_places_are_one_cell_until_each_is_where_it_was():
    """A row of hitches on four ends of two kinds: after a unit thin cord hangs where thick cord did."""
    weave = weave_of(4, "bar-right (1 | 2..4)")
    mixed = replace(
        weave, cords=tuple(replace(c, kind="nylon-2mm") if c.name in ("k2", "k3") else c for c in weave.cords)
    )
    same, job = job_for(weave, "s"), job_for(mixed, "s")
    assert (same.period, job.period) == (1, 4)
    for k, f in enumerate(job.curves.follow):
        assert job.curves.diameter[k] == job.curves.diameter[f]
    once = replace(mixed, sections=tuple(replace(s, kind="finish") for s in mixed.sections))
    s = tight(once, "s")
    assert (s.kind, s.converged, s.amiss) == ("held", True, "")
    assert s.pitch < 8


def test_ends_of_unlike_cord_are_not_alike():
    weave = weave_of(4, "crown-4 (1 | 2 | 3 | 4)")
    mixed = replace(
        weave, cords=tuple(replace(c, kind="nylon-2mm") if c.name == "k2" else c for c in weave.cords)
    )
    assert job_for(weave, "s").curves.alike
    for group in job_for(mixed, "s").curves.alike:
        assert len({job_for(mixed, "s").curves.diameter[k] for k in group}) == 1


def test_what_a_finish_takes_of_one_filler_reaches_on_that_one():
    """Two fillers are one to the counts; a knot that is tied with one of them at the end takes its cord from that one."""
    body = weave_of(4, "half-right (1 | 2 3 | 4)", "half-left (1 | 2 3 | 4)")
    knob = weave_of(4, "overhand (2)").sections[0]
    weave = replace(body, sections=(*body.sections, replace(knob, name="knob", kind="finish")))
    shapes = {name: tight(weave, name) for name in ("s", "knob")}
    took = shapes["knob"].per_end
    assert took["k2.a"] > 2 * took["k3.a"]
    counted = prior_for(weave, shapes=shapes)
    role = counted.roles.index(counted.role_of["k2.a"])
    assert counted.role_of["k2.a"] == counted.role_of["k3.a"]
    k = counted.sections.index("knob")
    for end in ("k2.a", "k3.a"):
        own = counted.own[list(counted.role_of).index(end), k]
        assert counted.unit[role, k] * own == pytest.approx(took[end] * shapes["knob"].unit_mm, rel=0.1)


@pytest.mark.parametrize(("kind", "low", "high"), [("cotton-3mm", 12.5, 14.5), ("polyester-1mm", 16.0, 18.5)])
def test_bars_that_take_another_runner_every_time_come_to_rest(kind, low, high):
    """Diagonal bars all the way: each hitch takes what one in a row that is tied once does, whatever the number of ends."""
    took = []
    for many in (4, 6):
        weave = weave_of(many, f"bar-right (1 | 2..{many})")
        weave = replace(weave, cords=tuple(replace(c, kind=kind) for c in weave.cords))
        shape = tight(weave, "s")
        assert shape.converged, shape.amiss
        assert max(shape.per_end.values()) == pytest.approx(min(shape.per_end.values()), rel=0.01)
        runner = many - 1
        took.append((sum(shape.per_end.values()) - 1.6 * runner) / (many - 1))
    assert all(low < t < high for t in took), took


def test_what_only_sways_is_at_rest_and_what_still_goes_on_is_not():
    steps = np.arange(200, 9001, 200)
    swaying = [(int(n), 100 + 0.05 * np.sin(n / 380)) for n in steps]
    sinking = [(n, e - 0.0002 * n) for n, e in swaying]
    wild = [(int(n), 100 + 3 * np.sin(n / 380)) for n in steps]
    assert _sways(swaying, 0.005, 0.2)
    assert not _sways(swaying[:35], 0.005, 0.2)  # not for long enough
    assert not _sways(sinking, 0.005, 0.2)
    assert not _sways(wild, 0.005, 0.2)


@pytest.mark.parametrize("kind", ["cotton-3mm", "nylon-4mm"])
def test_a_diamond_of_bars_is_as_wide_on_both_sides_and_the_same_from_another_beginning(kind):
    """No hitch comes off the end of its bar, where the runner turns."""
    job = job_for(row_works(kind)["diamond"], "s")
    *_, one = pulled(job)
    *_, other = pulled(begun_elsewhere(job))
    assert one.converged
    assert other.converged
    assert other.pitch == pytest.approx(one.pitch, rel=0.03)
    assert sum(other.per_end.values()) == pytest.approx(sum(one.per_end.values()), rel=0.02)
    for left, right in (("k1.a", "k8.a"), ("k2.a", "k7.a"), ("k3.a", "k6.a")):
        assert one.per_end[left] == pytest.approx(one.per_end[right], rel=0.04)


def test_a_wrap_may_go_where_there_is_room_on_the_core_and_not_into_another():
    r = rope(job_for(row_works("cotton-3mm")["row"], "s").curves, 0.35)
    follow_crossings(r)
    first, second = r.held[:, 0], r.held[:, 1]
    k = np.argsort(r.far[first])[4:10]
    assert (np.diff(r.far[first[k]]) >= 0).all()
    assert not _crowded(r, r.held, first, second).any()  # all stay
    into = first.copy()
    into[k] = first[k[0]]  # six crossings, of three wraps, at the place of the first
    assert _crowded(r, r.held, into, second)[k[2:]].all()
    beside = first.copy()
    beside[k[1]] = first[k[0]]  # the two of one wrap
    assert not _crowded(r, r.held, beside, second).any()


def test_wraps_of_a_hitch_stay_a_turn_apart_on_what_is_wrapped():
    """Two crossings that are followed to one wrap leave the other to come off: a lattice of waxed cord came to rest so."""
    weave = weave_of(3, "double-hitch-right (1 | 2)", "double-hitch-left (2 | 3)")
    r = rope_of(job_for(weave, "s"), tight(weave, "s"))
    follow_crossings(r)
    first, second = r.held[:, 0], r.held[:, 1]
    order = np.lexsort((r.far[second], r.held[:, 3], r.cord[first], r.cord[second]))
    of = r.held[order]
    hitch = [
        k
        for k in range(len(order) - 3)
        if len({(*r.cord[of[k + n, :2]], of[k + n, 3]) for n in range(4)}) == 1
    ]
    assert hitch
    for k in hitch:
        four = order[k : k + 4]
        onto = second.copy()
        onto[four] = second[four[0]]  # both wraps at the place of the first
        assert _crowded(r, r.held, first, onto)[four].any()
