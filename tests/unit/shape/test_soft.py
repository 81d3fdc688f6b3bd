"""Cord as it comes off the table: it gives way where it is pressed, and not without end; what hands drew apart stays apart."""

from dataclasses import replace

import numpy as np
import pytest
from tests.unit.shape.conftest import SOFT

from dim_ladder.notation import parse_strict
from dim_ladder.shape import fast, pull, tight
from dim_ladder.shape.apart import NOTHING, drawn_apart
from dim_ladder.shape.contact import HALF_TURN, SOFT_TURN, between, near, softened
from dim_ladder.shape.engine import plain
from dim_ladder.shape.relax import Stage, settle
from dim_ladder.shape.rope import Curves, rope
from dim_ladder.shape.tighten import TURN_OUT, job_for, pulled
from helpers.restarts import begun_elsewhere, library_works
from helpers.space import closed_round, projected
from helpers.weaves import TERN, stiff, weave_of


def test_a_half_knot_over_two_fillers_measures_what_makers_measure(soft):
    """Of kernmantle of 4 mm: length of a half knot, width and thickness of the band, workers for its length."""
    s = soft["band"]
    assert 4.5 < 4 * s.pitch / 2 < 5.5
    assert 18.5 < 4 * s.width < 22.5
    assert 7.5 < 4 * s.thickness < 9.5
    assert 8 < (s.per_end["buoy.a"] + s.per_end["buoy.b"]) / s.pitch < 9.5
    assert s.per_end["tide.a"] / s.pitch == pytest.approx(1, abs=0.03)


@pytest.mark.parametrize("name", SOFT)
def test_it_comes_to_rest_and_nothing_passed(name, soft, shapes):
    s, ideal = soft[name], shapes[name]
    assert s.converged
    assert not s.passed
    assert s.overlap < TURN_OUT
    assert s.deepest < 0.55  # of what contact keeps apart: its floor is half of that
    assert 0.5 < s.pitch / ideal.pitch < 0.85
    assert 0.5 < sum(s.per_end.values()) / sum(ideal.per_end.values()) < 0.85
    assert s.width < ideal.width


def test_one_side_again_and_again_turns_about_thirty_degrees(soft):
    assert 18 < abs(soft["spiral"].twist_deg) < 40
    assert soft["band"].twist_deg == 0


@pytest.mark.parametrize("fillers", [2, 4, 6])
def test_fillers_lie_side_by_side_wherever_they_are_drawn_up_from(fillers):
    """Four lay flat from one beginning and slipped into two layers from the next."""
    core = " ".join(str(k) for k in range(2, fillers + 2))
    n = fillers + 2
    weave = weave_of(n, f"half-right (1 | {core} | {n})", f"half-left (1 | {core} | {n})")
    every = [list(pulled(begun_elsewhere(job_for(weave, "s"), seed)))[-1] for seed in (5, 6)]
    for s in (*every, tight(weave, "s")):
        assert s.converged
        assert all(abs(line[:, 2].mean()) < 0.1 for line in s.lines[1:-1])
        assert s.thickness == pytest.approx(every[0].thickness, rel=0.02)


@pytest.mark.parametrize("fillers", [1, 2, 3, 4])
def test_more_fillers_make_a_wider_band_of_half_knots_as_long(fillers):
    n = fillers + 2
    core = " ".join(str(k) for k in range(2, n))
    s = tight(weave_of(n, f"half-right (1 | {core} | {n})", f"half-left (1 | {core} | {n})"), "s")
    assert s.converged
    assert 4.3 < 4 * s.pitch / 2 < 5.8
    assert 15 + 2 * (fillers - 1) < 4 * s.width < 17.5 + 4 * (fillers - 1)
    assert 7 < 4 * s.thickness < 9.9
    a, b = s.per_end["k1.a"], s.per_end[f"k{n}.a"]
    assert a == pytest.approx(b, rel=0.03)


@pytest.mark.parametrize("fillers", [5, 6, 8])
def test_many_fillers_lie_side_by_side_as_in_a_belt(fillers):
    """Drawn up by nothing but the workers they slip into two layers, and the band is half again as thick."""
    n = fillers + 2
    s = tight(weave_of(n, f"half-right (1 | 2..{n - 1} | {n})", f"half-left (1 | 2..{n - 1} | {n})"), "s")
    assert s.converged
    core = [line for e, line in zip(s.ends, s.lines, strict=True) if e not in ("k1.a", f"k{n}.a")]
    assert max(abs(float(line[:, 2].mean())) for line in core) < 0.1
    across = np.sort([float(line[:, 0].mean()) for line in core])
    assert np.diff(across).min() > 0.5
    assert 4.3 < 4 * s.pitch / 2 < 6.2
    assert 7 < 4 * s.thickness < 10.5
    # Round a bundle with one worker, and where they turn, nothing lays them so.
    for steps in ((f"larks-head (1 | 2..{n})",), (f"half-right (1 | 2..{n - 1} | {n})",)):
        assert (
            job_for(weave_of(n, *steps), "s").curves.flat * job_for(weave_of(n, *steps), "s").curves.laid
            < 0.3
        )


def test_the_mirrored_knot_has_the_same_size_and_turns_the_other_way():
    right, left = (tight(weave_of(4, f"half-{side} (1 | 2 3 | 4)"), "s") for side in ("right", "left"))
    assert left.twist_deg == pytest.approx(-right.twist_deg, abs=2)
    assert left.pitch == pytest.approx(right.pitch, rel=0.02)
    assert left.width == pytest.approx(right.width, rel=0.03)


def test_harder_kinds_come_out_larger():
    sizes = {}
    for kind in ("nylon-4mm", "cotton-4mm", "polyester-4mm", "stiff-4mm"):
        sizes[kind] = tight(parse_strict(TERN.replace("nylon-4mm", kind)), "bar")
        assert sizes[kind].converged
    assert [round(s.pitch, 3) for s in sizes.values()] == sorted(round(s.pitch, 3) for s in sizes.values())


@pytest.mark.parametrize(
    "name",
    [
        "square",
        "half-hitch",
        "larks-head",
        "snake",
        "stopper",
        "plait-4",
        "round-6",
        "wall-4",
        "round-button",
        "button-two",
        "diamond-2",
        "slip",
    ],
)
def test_begun_elsewhere_it_comes_to_the_same(name):
    """From another loose shape at another pitch, shaken: the same pitch within 3 %, the same cord within 2 %."""
    job = job_for(library_works()[name], "s")
    *_, one = pulled(job)
    *_, again = pulled(begun_elsewhere(job))
    assert one.converged
    assert again.converged
    assert again.pitch == pytest.approx(one.pitch, rel=0.03)
    assert sum(again.per_end.values()) == pytest.approx(sum(one.per_end.values()), rel=0.02)


def test_rigid_cord_is_one_kind_and_knows_nothing_of_this():
    job = job_for(stiff(SOFT["band"][0]), "bar")
    assert not any(job.curves.give)
    r = rope(job.curves, 0.35)
    assert between(r, plain(), times=1.0).drawn is NOTHING
    assert (between(r, plain(), times=1.0).soft == 0).all()


def test_a_contact_is_soft_at_first_and_bears_any_tension_at_its_floor():
    """Two straight cords across each other, pressed by more and more: what they give grows ever more slowly, and ends."""
    line = np.linspace(-3, 3, 61)[:, None]
    over = np.hstack([line, 0 * line, 0 * line + 0.5])
    under = np.hstack([0 * line, line, 0 * line - 0.5])
    curves = Curves((over, under), (-1, -1), 0.0, (1.0, 1.0), (1.0, 1.0), give=(0.5, 0.5), soft=0.38)
    r = rope(curves, 0.1)
    upper = r.x[:, 2] > 0

    def pushed(apart):
        r.x[:, 2] = np.where(upper, apart / 2, -apart / 2)
        _, f, *_ = pull.forces(r, softened(r, near(r, turn=SOFT_TURN)), 50.0, 0.1)
        return f[upper, 2].sum()

    depths = np.linspace(0.02, 0.6, 30)
    force = np.array([pushed(1 - d) for d in depths])
    assert (np.diff(force) > 0).all()
    assert (
        pushed(0.8) < 1.0 < pushed(0.5)
    )  # a hand's tension presses it more than a fifth, and less than a half
    assert pushed(0.4) > 20 * pushed(0.7)
    assert pushed(1.01) == 0


def test_how_finely_it_is_cut_up_does_not_matter():
    job = job_for(*SOFT["band"])
    found = []
    for step in (0.3, 0.2, 0.15):
        stages = (Stage(0.35, 40.0, 3e-4, cap=0.1, skin=0.8), Stage(step, 50.0, 1e-5, soft=1.0, most=12000))
        *_, last = settle(job.curves, stages, stretch=job.stretch)
        assert last.clear > 0
        found.append((last.rope.pitch, float(last.rope.cord_lengths().sum())))
    assert np.array(found) == pytest.approx(np.array([found[1]] * 3), rel=0.03)


def test_each_time_a_worker_lies_to_a_side_it_is_drawn_out():
    job = job_for(*SOFT["band"])
    r = rope(job.curves, 0.35)
    drawn = drawn_apart(r)
    # Two half knots, two workers: each of them once to either side.
    assert len(drawn.force) == 4
    assert (drawn.force > 0).all()
    workers = np.repeat(np.array(job.curves.apart) > 0, np.diff(r.first))
    assert (drawn.turn[~workers] == -1).all()
    for k in range(4):
        x, out = r.x[drawn.turn == k, 0], drawn.out[drawn.turn == k, 0]
        assert (out == out[0]).all()
        assert np.sign(x.mean() - r.x[workers, 0].mean()) == out[0]
    # Both hands pull equally hard, wherever the work lies beside other ends.
    assert sum(drawn.force[k] * drawn.out[drawn.turn == k, 0][0] for k in range(4)) == pytest.approx(0)
    plaited = job_for(*SOFT["plait"])
    assert not plaited.curves.apart  # nothing in it is core


def test_forces_are_the_slopes_of_the_energy_and_the_engines_agree():
    curves = replace(job_for(*SOFT["spiral"]).curves, soft=0.5, flat=0.3, laid=4.0)
    r = rope(curves, 0.35)
    r.x *= 0.75
    r.pitch, r.angle = r.pitch * 0.75, 0.2
    p = softened(r, near(r, 0.5, SOFT_TURN))
    assert len(p.drawn.force)
    _, f, *_ = pull.forces(r, p, 30.0, 0.35)
    way = np.random.default_rng(3).normal(size=r.x.shape)

    def energy(dx):
        return pull.forces(replace(r, x=r.x + dx * way), p, 30.0, 0.35)[0]

    e = 1e-6
    assert -(energy(e) - energy(-e)) / (2 * e) == pytest.approx(float((f * way).sum()), rel=1e-4)
    a, b = (replace(r, x=r.x.copy(), v=r.v.copy(), drive=r.drive.copy()) for _ in range(2))
    for _ in range(5):
        pa, pb = between(a, plain(), 0.8, 1.0), between(b, fast, 0.8, 1.0)
        assert len(pa.rest) == len(pb.rest)
        ra = pull.run(a, pa, 40.0, 0.05, 20, (True, True), 9.0, 0.05, 4.0)
        rb = fast.run(b, pb, 40.0, 0.05, 20, (True, True), 9.0, 0.05, 4.0)
        assert ra == pytest.approx(rb, rel=1e-6)
        assert np.allclose(a.x, b.x, atol=1e-6)


def test_cords_that_are_made_to_pass_through_are_found_out():
    """Contact that bears nothing: seen on the way, and the answer is not called tight."""
    stages = (Stage(0.35, 0.01, 1e-4, cap=0.1, skin=0.8, most=1500, soft=0.01),)
    job = job_for(*SOFT["band"])
    *_, last = settle(job.curves, stages, stretch=job.stretch)
    assert last.clear < 0
    found = list(pulled(job, stages=stages))
    assert found[-1].passed
    assert not found[-1].converged


def test_pieces_of_one_bend_begin_to_count_little_by_little():
    """What lies along one cord less than a quarter turn away does not press; from there on, more and more."""
    assert SOFT_TURN < 0.6 * HALF_TURN
    turn = np.linspace(0, 2 * np.pi, 241)[:, None]
    ring = np.hstack([0.6 * np.cos(turn), 0.6 * np.sin(turn), 0.01 * turn])
    curves = Curves((ring[:-1],), (-1,), 0.0, (1.0,), (1.0,), give=(0.5,), soft=0.4)
    r = rope(curves, 0.05)
    p = softened(r, near(r, turn=SOFT_TURN))
    arc = np.abs(p.i - p.j)[: p.touching] * float(r.spacing()[0])
    rest = p.rest[: p.touching]
    by = np.argsort(arc)
    assert arc.min() >= SOFT_TURN - 0.06
    assert rest[by][0] < 0.3
    assert np.abs(np.diff(rest[by])).max() < 0.3
    assert rest[arc > HALF_TURN] == pytest.approx(1.0)


def test_it_is_still_the_same_link_by_a_library_that_is_not_ours(soft):
    from tests.unit.shape.test_tight import in_space, one_unit

    from dim_ladder.shape.lift import lift
    from dim_ladder.trace import close
    from helpers.invariants import determinant_signature, seifert_numbers

    for name in ("band", "plait"):
        t, leave = one_unit(name)
        shape = soft[name]
        places = sorted(float(line[0][0]) for line in lift(t).strands)
        lines = []
        for e, line in enumerate(shape.lines):
            thin = line[:: max(1, len(line) // 60)]
            up, down = thin[0].copy(), line[-1].copy()
            up[1], down[1] = line[:, 1].min() - 8.0, line[:, 1].max() + 8.0
            up[0], up[2] = places[e] - np.mean(places), 0.0
            down[0], down[2] = places[leave[e]] - np.mean(places), 0.0
            lines.append(np.vstack([up, thin, line[-1], down]))
        found = projected(closed_round(in_space(lines), leave, list(t.start)))
        assert seifert_numbers(found) == determinant_signature(close(t))


def test_square_knots_round_nothing_lie_flat_and_wider_than_they_are_thick():
    """Ends that go round each other are drawn apart too, hitches and plaits are not."""
    s = tight(weave_of(2, "reef (1 | 2)"), "s")
    assert s.converged
    assert s.width > 1.4 * s.thickness
    assert s.per_end["k1.a"] == pytest.approx(s.per_end["k2.a"], rel=0.03)
    assert s.twist_deg == 0
    drawn = job_for(weave_of(4, "reef (1 | 2)", "reef (3 | 4)"), "s").curves.apart
    assert len(drawn) == 4
    assert min(drawn) > 0
    for lines in ("hitch-chain (1 | 2)", "snake (1 | 2)", "diamond-2 (1 | 2)"):
        assert job_for(weave_of(2, lines), "s").curves.apart == ()
    assert job_for(weave_of(3, "plait-3 (1 | 2 | 3)"), "s").curves.apart == ()


def test_half_knots_round_nothing_that_turn_come_to_rest():
    s = tight(weave_of(2, "half-knot-right (1 | 2)"), "s")
    assert s.converged
    assert abs(s.twist_deg) > 20


def test_thinner_cord_of_one_kind_is_the_same_band_smaller():
    """Cord is drawn with the tension that its figures are of: beside thick fillers thin workers are pressed as much of their thickness."""
    thin = TERN.replace("buoy  nylon-4mm", "buoy  nylon-2mm")
    s = tight(parse_strict(thin), "bar")
    assert s.converged
    # Two workers of half the thickness: about half as long, and cord for the length as of a core twice as thick.
    assert 4.8 < s.pitch * s.unit_mm < 6.5
    all_thin = tight(parse_strict(TERN.replace("nylon-4mm", "nylon-2mm")), "bar")
    assert s.pitch * s.unit_mm == pytest.approx(all_thin.pitch * all_thin.unit_mm, rel=0.15)
