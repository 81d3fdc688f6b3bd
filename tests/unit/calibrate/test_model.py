import math
from dataclasses import replace

import numpy as np
import pytest
from scipy.special import ndtr

from dim_ladder.base import InputError
from dim_ladder.calibrate import Reading, Spread, Tie, calibrate, prior_for
from dim_ladder.calibrate.charts import points, use_chart
from dim_ladder.calibrate.expected import COUNT_LOG, layout_of, own_of, predict, prior_gaussian
from dim_ladder.calibrate.grid import grid
from dim_ladder.calibrate.held import in_full
from dim_ladder.calibrate.joint import chance_any_above
from dim_ladder.calibrate.normal import before, density, newton, normal
from dim_ladder.calibrate.observe import collect
from dim_ladder.calibrate.prior import Softness, fingerprint, shapes_of, soft_spread
from dim_ladder.notation import parse_strict
from dim_ladder.shape import rough_shape, tight
from helpers.ties import tie
from helpers.weaves import PLAIT, SPIRAL, TERN, stiff, weave_of

W = stiff(parse_strict(TERN))  # whose ties measure what helpers/ties.py says


def test_the_rough_shape_meets_what_makers_measure_within_its_spread():
    """Half knots over two fillers in kernmantle of 4 mm: 1.25 diameters long, 8.5 times as much worker, half of it each end. A plait: as long as its strands slant."""
    shape = rough_shape(parse_strict(SPIRAL))
    section = shape.section("bar")
    assert abs(math.log(section.pitch / 1.25)) < shape.spread
    assert abs(math.log(section.per_role["worker"] / (8.5 * 1.25 / 2))) < shape.spread
    plait = rough_shape(parse_strict(PLAIT)).sections[0]
    assert plait.per_role["strand"] / plait.pitch == pytest.approx(1.35, rel=0.3)


def test_with_no_tie_the_answer_is_the_prior_wide_and_usable():
    c = calibrate(W, ())
    lo, hi = c.per_unit("leader", "bar").interval(0.9)
    shape = tight(W, "bar")
    assert c.per_unit("leader", "bar").median == pytest.approx(4 * shape.per_end["buoy.b"], rel=0.01)
    assert c.pitch("bar").median == pytest.approx(4 * shape.pitch, rel=0.01)
    # Of a kind of cord never tied: 5.2 % of the shape, the rest of its softness, and what two ends alike differ by for good; now and
    # then it is several times as wrong.
    own = math.hypot(0.052, soft_spread("stiff-4mm"), 0.03)
    assert own < math.log(hi / lo) / 2 / 1.645 < 1.05 * own
    assert c.ties == c.readings == 0


def test_what_can_come_to_rest_otherwise_is_known_less_well():
    shape = tight(W, "bar")
    own, otherwise = (
        prior_for(W, shapes={"bar": replace(shape, rests=r)}) for r in ((0.0, 0.0), (-0.2, 0.03))
    )
    k = own.sections.index("bar")
    assert own.spread[k] < 0.06
    assert otherwise.spread[k] == pytest.approx(0.2)


def test_one_tie_narrows_it_and_five_are_the_makers_own():
    widths = []
    for n in (0, 1, 5):
        c = calibrate(W, tuple(tie(f"T{i}", 5 + i) for i in range(n)))
        lo, hi = c.need("buoy.b", {"bar": 10}).interval(0.9)
        widths.append(hi / lo - 1)
    assert widths[0] > 1.8 * widths[1] > 1.8 * 1.8 * widths[2]
    assert c.per_unit("leader", "bar").median == pytest.approx(70, rel=0.03)
    assert c.per_unit("filler", "bar").median == pytest.approx(17, rel=0.05)
    assert c.pitch("bar").median == pytest.approx(16.5, rel=0.02)
    assert c.need("buoy.b", {"bar": 10}).median == pytest.approx(740, rel=0.02)


def test_the_tension_of_ties_is_learned_as_spread():
    even = calibrate(W, tuple(tie(f"T{i}") for i in range(6)))
    uneven = calibrate(W, tuple(tie(f"T{i}", factor=1 + 0.08 * (-1) ** i) for i in range(6)))
    assert even.tie_spread < 0.02 < 0.05 < uneven.tie_spread


def test_ends_measured_together_say_less_or_the_same_about_the_mean():
    together = calibrate(W, (tie("T1"),)).per_unit("filler", "bar")
    apart = calibrate(W, (tie("T1", together=False),)).per_unit("filler", "bar")
    assert apart.median == pytest.approx(together.median, rel=0.02)
    assert apart.sd <= together.sd * 1.001


def test_one_role_measured_informs_the_others_through_the_softness():
    only_leader = Tie(
        id="T1", counts={"bar": 10}, readings=(Reading(ends=("buoy.b",), cut_mm=3000, left_mm=2180),)
    )
    before, after = calibrate(W, ()), calibrate(W, (only_leader,))
    assert after.per_unit("leader", "bar").median > 1.08 * before.per_unit("leader", "bar").median
    assert after.per_unit("filler", "bar").median > 1.04 * before.per_unit("filler", "bar").median
    assert after.per_unit("filler", "bar").sd < before.per_unit("filler", "bar").sd


def test_what_other_weaves_say_of_the_cord_narrows_it():
    known = calibrate(W, (), softness=Softness({"stiff-4mm": (0.05, 0.02)}))
    lo, hi = known.per_unit("leader", "bar").interval(0.9)
    assert math.log(hi / lo) / 2 / 1.645 == pytest.approx(math.hypot(0.052, 0.02, 0.03), rel=0.03)
    unknown = calibrate(W, ())
    shift = known.per_unit("leader", "bar").median / unknown.per_unit("leader", "bar").median
    assert shift == pytest.approx(math.exp(0.05), rel=1e-3)
    # Ties that eat more than their shape says make the cord soft, for every weave of that kind.
    c = calibrate(W, tuple(tie(f"T{i}", 8, b=(72, 72, 17.4), pitch=17.1) for i in range(3)))
    mean, sd = c.softness("stiff-4mm")
    assert 0.03 < mean < 0.1
    assert sd < 0.06


def test_partial_records_are_used_for_what_they_say():
    length_only = calibrate(W, (Tie(id="T1", counts={"bar": 8}, length_mm=140),))
    assert length_only.pitch("bar").median == pytest.approx(16.5, rel=0.04)
    assert length_only.readings == 0
    half = Tie(id="T2", counts={"bar": 8}, readings=(Reading(ends=("buoy.a",), cut_mm=900),))
    assert calibrate(W, (half,)).readings == 0
    assert (
        "no cut length"
        in calibrate(
            W, (half.model_copy(update={"readings": (Reading(ends=("buoy.a",), left_mm=9),)}),)
        ).left_out[0]
    )
    uncounted = Tie(id="T3", readings=(Reading(ends=("buoy.a",), cut_mm=900, left_mm=100),))
    assert "no unit count" in calibrate(W, (uncounted,)).left_out[0]
    foreign = Tie(id="T4", counts={"bar": 2}, readings=(Reading(ends=("other.a",), cut_mm=900, left_mm=100),))
    assert "other.a is not in this weave" in calibrate(W, (foreign,)).left_out[0]


def test_the_same_ties_give_the_same_answer():
    ties = (tie("T1"), tie("T2", 9, 1.03))
    a, b = calibrate(W, ties), calibrate(W, ties)
    assert a.need("buoy.a", {"bar": 7}) == b.need("buoy.a", {"bar": 7})


EVERY_KIND = (
    tie("T1", 4),
    tie("T2", 9, 1.05, kinds={"buoy": "cotton-3mm", "tide": "nylon-2mm"}),
    Tie(id="T3", who="Wren", length_mm=120, readings=(Reading(ends=("buoy.a", "buoy.b"), cut_mm=3000, left_g=9.0),)),
    Tie(id="T4", counts={"bar": 5}, readings=(Reading(ends=("buoy.a", "buoy.b", "tide.a", "tide.b"), cut_mm=4000, left_mm=2900),)),
    tie("T5", 7, date="2026-01-02"),
)  # fmt: skip
OWN = [
    [[0.02, -0.03, COUNT_LOG], [0.01, 0.04, 2.0], [-0.02, 0.01, 1.9], [0.0, 0.03, 2.5], [0.01, -0.01, 2.2]]
]


def everything():
    """A place away from the mode of every kind of tie: layout, data, what is assumed, shared parameters, the ties' own, spread."""
    prior = prior_for(W)
    data = collect(prior, EVERY_KIND)
    at = layout_of(prior, data)
    mean, _ = prior_gaussian(prior, data.kinds, data.people)
    point = grid(1.0).of(np.array([20]))
    return (
        at,
        data,
        before(prior, data, point, 3),
        (mean + 0.01 * np.arange(at.size))[None],
        np.array(OWN),
        point.unit,
    )


def test_derivatives_are_those_of_the_prediction():
    at, data, _, theta, z, unit = everything()
    assert own_of(data) == 3  # one of them did not count its units
    assert data.sitting.shape == (4, 5)  # two were tied on one day
    assert data.person.sum() == 1
    value, jacobian, own, _ = predict(at, data, theta, z, unit)
    assert value.shape == (1, 12 + 2 + 1)
    for k in range(at.size):
        step = np.zeros_like(theta)
        step[0, k] = 1e-6
        slope = predict(at, data, theta + step, z, unit)[0] - predict(at, data, theta - step, z, unit)[0]
        assert jacobian[0, :, k] == pytest.approx(slope[0] / 2e-6, rel=1e-5, abs=1e-4)
    for k in range(3):
        shifted = z.copy()
        shifted[..., k] += 1e-6
        slope = predict(at, data, theta, shifted, unit)[0] - value
        assert own[0, :, k] == pytest.approx(slope[0] / 1e-6, rel=1e-4, abs=1e-2)


def test_second_derivatives_are_those_of_the_density():
    """All unknowns together, sittings among them: the determinant after elimination is that of the whole, and so are the steps."""
    at, data, b, theta, z, unit = everything()
    m = normal(at, data, theta, z, unit, b)
    n, ties, sittings = at.size, data.ties, len(data.sitting)
    size = n + 2 * sittings + 3 * ties
    start = np.concatenate([theta[0], m.sat[0].ravel(), z[0].ravel()])

    def value(x):
        th, sat, own = (
            x[None, :n],
            x[n : n + 2 * sittings].reshape(sittings, 2),
            x[n + 2 * sittings :].reshape(ties, 3),
        )
        found = predict(at, data, th, own[None], unit)[0]
        off, away = th - b.mean, own.copy()
        away[:, :2] -= data.sitting.T @ sat
        away[:, 2] -= COUNT_LOG
        return -0.5 * float(
            ((data.value - found) ** 2 / m.variance).sum()
            + (off @ b.precision[0] * off).sum()
            + ((away @ b.tension[0]) * away).sum()
            + ((sat @ b.sitting[0]) * sat).sum()
        )

    step = np.full(size, 1e-4)
    hessian = np.zeros((size, size))
    for i in range(size):
        for j in range(i, size):
            total = 0.0
            for p, q in ((1, 1), (1, -1), (-1, 1), (-1, -1)):
                x = start.copy()
                x[i] += p * step[i]
                x[j] += q * step[j]
                total += p * q * value(x)
            hessian[i, j] = hessian[j, i] = -total / (4 * step[i] * step[j])
    whole, cross, blocks = in_full(at, data, theta, z, m)
    close = {"rel": 2e-3, "abs": 1.0}
    grams = slice(at.grams, at.each)  # whose bend is left out
    keep = np.setdiff1d(np.arange(n), np.arange(n)[grams])
    assert whole[0][np.ix_(keep, keep)] == pytest.approx(hessian[np.ix_(keep, keep)], **close)
    own = n + 2 * sittings
    for t in range(ties):
        there = slice(own + 3 * t, own + 3 * t + 3)
        assert cross[0, t][keep] == pytest.approx(hessian[keep, there], **close)
        assert blocks[0, t] == pytest.approx(hessian[there, there], **close)
    # Elimination loses nothing.
    full = np.zeros((size, size))
    full[:n, :n] = m.whole[0]
    for t in range(ties):
        there = slice(own + 3 * t, own + 3 * t + 3)
        full[:n, there], full[there, :n], full[there, there] = m.cross[0, t], m.cross[0, t].T, m.blocks[0, t]
        s = int(np.argmax(data.sitting[:, t]))
        mine = slice(n + 2 * s, n + 2 * s + 2)
        full[mine, there] = -b.tension[0][:2]
        full[there, mine] = -b.tension[0][:2].T
        full[mine, mine] += b.tension[0][:2, :2]
    for s in range(sittings):
        full[n + 2 * s : n + 2 * s + 2, n + 2 * s : n + 2 * s + 2] += b.sitting[0]
    assert m.system.log_det()[0] == pytest.approx(np.linalg.slogdet(full)[1], rel=1e-9)
    pushed = np.concatenate([m.gradient[0], np.zeros(2 * sittings), m.pull[0].ravel()])
    expected = np.linalg.solve(full, pushed)
    theta_step, own_step = newton(m.system, m.gradient, m.pull)
    assert theta_step[0] == pytest.approx(expected[:n], rel=1e-6, abs=1e-9)
    assert own_step[0].ravel() == pytest.approx(expected[own:], rel=1e-6, abs=1e-9)
    assert np.isfinite(density(data, b, theta, m)).all()


@pytest.mark.parametrize("mm", [0.0, 130.0])
def test_cord_asked_for_goes_up_as_its_derivatives_say(mm):
    c = calibrate(W, EVERY_KIND)
    at = c.layout
    asked = c._asked(("buoy.a", "tide.a"), {"bar": 7.0}, mm)
    theta = c.belief.mean[:1]
    value, slope = asked.log(at, theta)
    bend = asked.bend(at, theta)[0]
    for i in range(at.size):
        step = np.zeros_like(theta)
        step[0, i] = 1e-5
        up, down = asked.log(at, theta + step), asked.log(at, theta - step)
        assert slope[0, i] == pytest.approx((up[0] - down[0])[0] / 2e-5, rel=1e-5, abs=1e-8)
        assert bend[i] == pytest.approx((up[1] - down[1])[0] / 2e-5, abs=1e-5)
    if mm:
        # Tied twice as long it takes twice what its units take; drawn up tighter it takes no less, but of more units.
        taken = asked.of(at, theta)
        assert -1 < taken.stretch.min() < -0.8
        assert (
            abs(slope[0, at.soft : at.grams]).max()
            < 0.1
            < c._asked(("buoy.a",), {"bar": 7.0}).log(at, theta)[1][0, at.soft : at.grams].max()
        )
    assert np.isfinite(value).all()


def test_what_is_known_by_ends_alone_needs_no_bend():
    """Where every overhead is known well, a Gaussian over logarithms says the same."""
    many = tuple(tie(f"T{i}", 2 + i % 15, 1 + 0.01 * (-1) ** i) for i in range(40))
    c = calibrate(W, many)
    counts = {"bar": 10}
    for q in (0.05, 0.5, 0.98):
        assert c.need("buoy.a", counts).quantile(q) == pytest.approx(
            c.roughly(("buoy.a",), counts).quantile(q), rel=1e-3
        )
    c.foresee([("buoy.a",), ("tide.a", "tide.b")], counts)
    alone = calibrate(W, many)
    assert c.together(("tide.b", "tide.a"), counts) == alone.together(("tide.a", "tide.b"), counts)


def test_a_tie_without_a_count_is_shared_out_by_its_length():
    ties = tuple(tie(f"T{i}", 6 + i) for i in range(3))
    counted = tie("T9", 12)
    uncounted = counted.model_copy(update={"counts": {}})
    c = calibrate(W, (*ties, uncounted))
    assert not c.left_out
    k = c.data.ids.index("T9")
    f = c.whole
    guessed = float(f.belief.weight @ np.exp(f.fit.tie[f.kept][:, k, 2]))
    assert guessed == pytest.approx(12, rel=0.03)
    two = W.sections[0]
    both = replace(W, sections=(two, replace(two, name="edge"), *W.sections[1:]))
    assert "more than one section" in calibrate(both, (uncounted,)).left_out[0]


def test_leftovers_that_were_only_weighed_count_by_their_mass():
    used = 40 + 66 * 8
    left = 2000 - used
    weighed = Tie(
        id="T1",
        counts={"bar": 8},
        readings=(Reading(ends=("buoy.a",), cut_mm=2000, left_g=left * 15.0 / 1000),),
    )
    c = calibrate(W, tuple(weighed.model_copy(update={"id": f"T{i}"}) for i in range(4)))
    read = Tie(id="T1", counts={"bar": 8}, readings=(Reading(ends=("buoy.a",), cut_mm=2000, left_mm=left),))
    d = calibrate(W, tuple(read.model_copy(update={"id": f"T{i}"}) for i in range(4)))
    assert c.need("buoy.a", {"bar": 8}).median == pytest.approx(used, rel=0.06)
    assert c.need("buoy.a", {"bar": 8}).sd > 1.3 * d.need("buoy.a", {"bar": 8}).sd > 0
    assert c.readings == 4


def test_readings_that_cannot_be_are_left_out_and_said():
    heavy = Tie(id="T1", counts={"bar": 6}, readings=(Reading(ends=("buoy.a",), cut_mm=1000, left_g=50),))
    assert "weighs more than what was cut" in calibrate(W, (heavy,)).left_out[0]
    swapped = Tie(id="T2", counts={"bar": 6}, readings=(Reading(ends=("buoy.a",), cut_mm=100, left_mm=200),))
    assert "more of buoy.a is left over than was cut" in calibrate(W, (swapped,)).left_out[0]
    one = Tie(id="T3", counts={"bar": 6}, readings=(Reading(ends=("buoy.a",), cut_mm=1000, left_mm=560),))
    twice = one.model_copy(
        update={"readings": (Reading(ends=("buoy.a", "buoy.a"), cut_mm=1000, left_mm=560),)}
    )
    counts = {"bar": 10}
    assert calibrate(W, (twice,)).need("buoy.a", counts) == calibrate(W, (one,)).need("buoy.a", counts)


def test_ties_in_other_cord_carry_over_in_diameters_and_wider():
    """Tied in 2 mm cord what takes half of everything: the answer for 4 mm is about the same, less sure."""
    own = tuple(tie(f"T{i}", 8) for i in range(3))
    small = tuple(
        tie(f"T{i}", 8, b=(33, 35, 8.5), a=40, pitch=8.25, kinds={"buoy": "nylon-2mm", "tide": "nylon-2mm"})
        for i in range(3)
    )
    mine, carried, nothing = calibrate(W, own), calibrate(W, small), calibrate(W, ())
    a, b, c = (x.per_unit("leader", "bar") for x in (mine, carried, nothing))
    assert b.median == pytest.approx(a.median, rel=0.06)
    assert a.sd / a.median < b.sd / b.median < math.hypot(soft_spread("nylon-2mm") * math.sqrt(2), 0.06)
    assert carried.ties == 3
    assert c.median != b.median


def test_ties_belong_to_a_version_of_the_weave():
    now = {"bar": fingerprint(W, "bar")}
    assert calibrate(W, (tie("T1", versions=now),)).readings == 3
    words = parse_strict(TERN.replace("#e07a1f", "#114477").replace("half-left", "other-way"))
    assert fingerprint(words, "bar") == now["bar"]  # colours and names do not make another weave
    spiral = parse_strict(SPIRAL)
    other = calibrate(spiral, (tie("T1", versions=now),))
    assert other.readings == 0
    assert "another version of bar" in other.left_out[0]


def test_ties_that_contradict_each_other_are_refused():
    torn = tuple(tie(f"T{i}", 8, 1.0 + 0.8 * (i % 2)) for i in range(6))
    assert "contradict" in calibrate(W, torn).refusal
    assert calibrate(W, tuple(tie(f"T{i}", 8, 1 + 0.03 * (-1) ** i) for i in range(6))).refusal == ""


def test_a_cord_needs_what_its_ends_need_together():
    c = calibrate(W, tuple(tie(f"T{i}", 5 + i) for i in range(3)))
    counts = {"bar": 10}
    both, a, b = (c.together(e, counts) for e in (("buoy.a", "buoy.b"), ("buoy.a",), ("buoy.b",)))
    assert both.median == pytest.approx(a.median + b.median, rel=3e-3)
    assert both.sd < a.sd + b.sd  # what wobbles in one end does not wobble in the other
    limits = {e: c.need(e, counts).quantile(0.98) for e in ("buoy.a", "buoy.b")}
    chance = c.chance_short(limits, counts)
    assert 0.02 <= chance <= 0.04
    assert c.chance_short({"buoy.a": limits["buoy.a"]}, counts) == pytest.approx(0.02, abs=1e-4)
    assert c.chance_short({}, counts) == 0.0
    assert c.chance_short({"buoy.a": 0.0}, counts) == 1.0


@pytest.mark.parametrize("corr", [0.0, 0.6, 0.97])
@pytest.mark.parametrize("n", [2, 4, 8])
def test_the_joint_chance_is_that_of_sampling(n, corr):
    rng = np.random.default_rng(7)
    cov = np.full((n, n), corr) + (1 - corr) * np.eye(n)
    limit = np.linspace(1.6, 2.4, n)
    draws = rng.multivariate_normal(np.zeros(n), cov, 400_000, method="eigh")
    expected = float((draws > limit).any(axis=1).mean())
    assert chance_any_above(ndtr(-limit), cov) == pytest.approx(expected, rel=0.03, abs=3e-4)


def test_two_at_once_against_the_closed_form():
    """P(X < 0, Y < 0) of two normals with correlation r is 1/4 + asin(r) / (2 pi) (Sheppard 1899)."""
    for r in (-0.5, 0.3, 0.9):
        cov = np.array([[1.0, r], [r, 1.0]])
        exact = 1 - (0.25 + math.asin(r) / (2 * math.pi))
        assert chance_any_above(np.array([0.5, 0.5]), cov) == pytest.approx(exact, abs=2e-3)


def test_a_weave_without_steps_cannot_be_counted():
    with pytest.raises(InputError, match="no section with a traced step"):
        calibrate(
            parse_strict('weave "x"\ncords\n t nylon-4mm #112233\nhang\n t.a t.b\nsection s: body, fit\n'), ()
        )


def test_the_chart_shows_every_reading_and_the_table_behind_it():
    ties = (tie("T1", 5), tie("T2", 9))
    c = calibrate(W, ties)
    found = points(c, ties, "bar")
    assert [(p.role, p.units) for p in found] == [
        ("wrapper", 5),
        ("leader", 5),
        ("filler", 5),
        ("wrapper", 9),
        ("leader", 9),
        ("filler", 9),
    ]
    assert found[2].used_mm == pytest.approx(40 + 17 * 5)  # per end, from two ends measured together
    assert "6 readings" in use_chart(c, ties, "bar").picture.title
    assert use_chart(calibrate(W, ()), (), "bar").picture.shapes


class TestSpread:
    def test_against_a_closed_form(self):
        s = Spread(((1.0, 100.0, 0.2),))
        assert s.quantile(0.5) == pytest.approx(100)
        assert s.quantile(0.975) == pytest.approx(100 * np.exp(0.2 * 1.959964), rel=1e-6)
        assert s.mean == pytest.approx(100 * np.exp(0.02))
        assert s.sd == pytest.approx(s.mean * np.sqrt(np.exp(0.04) - 1))
        assert s.chance_above(100) == pytest.approx(0.5)

    def test_against_sampling_for_a_mixture(self):
        s = Spread(((0.3, 50.0, 0.1), (0.7, 80.0, 0.4)))
        rng = np.random.default_rng(3)
        part = rng.random(400_000) < 0.3
        draws = np.where(
            part,
            50 * np.exp(0.1 * rng.standard_normal(part.size)),
            80 * np.exp(0.4 * rng.standard_normal(part.size)),
        )
        assert s.mean == pytest.approx(draws.mean(), rel=0.005)
        assert s.sd == pytest.approx(draws.std(), rel=0.01)
        for p in (0.05, 0.5, 0.98):
            assert s.quantile(p) == pytest.approx(np.quantile(draws, p), rel=0.01)
            assert 1 - s.chance_above(s.quantile(p)) == pytest.approx(p, abs=1e-7)

    def test_bounds(self):
        s = Spread(((1.0, 10.0, 0.3),))
        assert s.median == pytest.approx(10)
        assert s.chance_above(0) == 1
        with pytest.raises(ValueError, match="between 0 and 1"):
            s.quantile(1)


def test_nothing_for_sure_is_nothing():
    none = Spread(((1.0, 0.0, 0.2),))
    assert (none.median, none.mean, none.sd, none.interval(0.9)) == (0.0, 0.0, 0.0, (0.0, 0.0))
    assert none.chance_above(1) == 0.0
    half = Spread(((0.5, 0.0, 0.2), (0.5, 100.0, 0.1)))
    assert half.quantile(0.4) == 0.0
    assert half.quantile(0.75) == pytest.approx(100.0, rel=1e-6)
    assert half.chance_above(100.0) == pytest.approx(0.25)


def test_a_section_that_ties_nothing_takes_next_to_nothing():
    weave = weave_of(2, "1: over 2")
    shape = rough_shape(weave)
    (one,) = shape.sections
    nothing = replace(one, pitch=0.0, per_role=dict.fromkeys(one.per_role, 0.0), per_end={})
    c = calibrate(weave, (), prior_for(weave, replace(shape, sections=(nothing,))))
    for role in c.prior.roles:
        assert 0 < c.per_unit(role, "s").median < 1
        assert math.isfinite(c.per_length(role, "s").median)


def test_ties_of_one_sitting_say_less_than_as_many_on_as_many_days():
    counts = {"bar": 10}
    days = tuple(tie(f"T{i}", 4 + i, 1 + 0.01 * (-1) ** i) for i in range(8))
    one = tuple(t.model_copy(update={"date": "2026-04-04"}) for t in days)
    undated = tuple(t.model_copy(update={"date": ""}) for t in days)
    apart, together, unknown = (calibrate(W, x) for x in (days, one, undated))
    spread = [c.need("buoy.b", counts).sd for c in (apart, together, unknown)]
    assert spread[1] > 1.3 * spread[0]
    assert spread[2] == pytest.approx(spread[1])  # nothing says that it was more than one
    assert (len(apart.data.sittings), len(together.data.sittings)) == (8, 1)
    assert together.need("buoy.b", counts).median == pytest.approx(
        apart.need("buoy.b", counts).median, rel=0.02
    )
    # Another person or another lot of cord is another sitting.
    others = (one[0], one[1].model_copy(update={"lot": "B"}), one[2].model_copy(update={"who": "Wren"}))
    assert len(calibrate(W, others).data.sittings) == 3


def test_pieces_are_planned_for_the_hands_that_tied_last():
    counts = {"bar": 10}
    wren = tuple(tie(f"T{i}", 5 + i, 1.12, who="Wren") for i in range(4))
    plover = tuple(tie(f"T{i}", 5 + i, who="Plover") for i in range(10, 14))
    alone, both = calibrate(W, plover), calibrate(W, (*wren, *plover))
    assert both.data.names == ("wren",)
    a, b = (c.need("buoy.b", counts) for c in (alone, both))
    assert b.median == pytest.approx(a.median, rel=0.03)
    later = tuple(t.model_copy(update={"date": "2026-12-01"}) for t in wren)
    assert calibrate(W, (*later, *plover)).need("buoy.b", counts).median > 1.06 * b.median


def test_an_end_that_takes_more_for_good_is_known_by_itself():
    ties = tuple(tie(f"T{i}", 6 + i % 5, b=(66.0, 70.0, 17.0), together=False) for i in range(8))
    more = tuple(
        t.model_copy(
            update={
                "readings": tuple(
                    r.model_copy(update={"left_mm": r.left_mm - 0.06 * 17 * t.counts["bar"]}) if r.ends == ("tide.b",) else r
                    for r in t.readings
                )
            }
        )
        for t in ties
    )  # fmt: skip
    counts = {"bar": 20}
    c = calibrate(W, more)
    assert c.prior.role_of["tide.a"] == c.prior.role_of["tide.b"]
    ratio = c.need("tide.b", counts).median / c.need("tide.a", counts).median
    assert 1.02 < ratio < 1.07
    same = calibrate(W, ties)
    assert same.need("tide.b", counts).median == pytest.approx(same.need("tide.a", counts).median, rel=0.005)


def test_a_tie_that_counts_only_some_sections_says_nothing_of_the_others():
    text = TERN.replace(
        "section bar:", "section cap: start, repeat 2\n  half-right (1 | 2 3 | 4)\n\nsection bar:"
    )
    weave = stiff(parse_strict(text))
    prior = prior_for(weave)
    one = tie("T1", 8, a=110.0)
    some, none, said = (
        calibrate(None, [one.model_copy(update={"counts": counts})], prior)
        for counts in ({"bar": 8}, {"bar": 8, "cap": 0}, {"bar": 8, "cap": 2})
    )
    k = prior.sections.index("cap")
    assert (some.data.vague[0, k], none.data.vague[0, k], said.data.vague[0, k]) == (1.0, 0.0, 0.0)
    assert some.per_unit("leader", "cap").sd > said.per_unit("leader", "cap").sd
    assert said.per_unit("leader", "bar").median < none.per_unit("leader", "bar").median


def test_a_cut_is_for_a_length_where_units_are_tied_until_it_is_reached():
    """Drawn up tighter than was thought, a piece takes more units: its cord for the length is as it was."""
    c = calibrate(W, ())
    counts = {"bar": 20.0}
    mm = c.length(counts).median
    by_count, by_length = c.need("buoy.b", counts), c.need("buoy.b", counts, mm)
    assert by_length.median == pytest.approx(by_count.median, rel=0.01)
    assert by_length.sd < 0.75 * by_count.sd
    assert c.need("buoy.b", counts, 2 * mm).median == pytest.approx(2 * by_length.median, rel=0.03)
    limits = {e: c.need(e, counts, mm).quantile(0.98) for e in ("buoy.a", "buoy.b")}
    assert 0.02 <= c.chance_short(limits, counts, mm) <= 0.04


def test_the_thickness_is_that_of_the_shape_and_of_what_was_measured():
    none = calibrate(W, ())
    assert none.thickness.median == pytest.approx(none.prior.thickness_mm)
    once = calibrate(W, (tie("T1", 6, thickness_mm=14.0),))
    often = calibrate(W, tuple(tie(f"T{i}", 6 + i, thickness_mm=14.0) for i in range(6)))
    assert none.thickness_mm < once.thickness_mm < often.thickness_mm < 14.0
    assert none.thickness.sd > once.thickness.sd > often.thickness.sd


def test_what_is_left_of_a_length_after_knots_of_hardly_known_size():
    """A butterfly before a body, of which only rough figures are known: how much body is left for the length is very uncertain, and what
    the ends take of it is that of brute force."""
    weave = parse_strict(TERN.replace("section bar:", "section fly: start\n  butterfly (2)\n\nsection bar:"))
    prior = prior_for(weave, shapes={name: s for name, s in shapes_of(weave).items() if name != "fly"})
    k = prior.sections.index("fly")
    assert prior.spread[k] > 0.3
    c = calibrate(None, [], prior)
    counts = {"fly": 1.0, "bar": 6.0}
    mm = c.length(counts).median
    rng = np.random.default_rng(5)
    b, n = c.belief, 20_000
    which = rng.choice(len(b.weight), n, p=b.weight / b.weight.sum())
    first = {far: np.flatnonzero(b.grid.far == far)[0] for far in set(b.grid.far.tolist())}
    normal_at = rng.standard_normal((n, c.layout.size))
    root = {far: np.linalg.cholesky(b.cov[i]) for far, i in first.items()}
    theta = np.array(
        [b.mean[0] + root[far] @ z for far, z in zip(b.grid.far[which].tolist(), normal_at, strict=True)]
    )
    tension = np.hypot(b.grid.tau, b.grid.sitting)[which]
    z = rng.standard_normal((2, n))
    for end in ("buoy.b", "tide.a"):
        taken = c._asked((end,), counts, mm).of(c.layout, theta)
        pull = tension * (z[0] + taken.stretch[:, 0] * (0.5 * z[0] + math.sqrt(0.75) * z[1]))
        drawn = taken.total[:, 0] * np.exp(pull) + prior.slack[end][k]
        need = c.need(end, counts, mm)
        for q in (0.1, 0.5, 0.9, 0.98):
            assert need.quantile(q) == pytest.approx(np.quantile(drawn, q), rel=0.05), (end, q)
    longer = [
        c.need("tide.a", {"fly": 1.0, "bar": n}, c.length({"fly": 1.0, "bar": n}).median).quantile(0.98)
        for n in (4.0, 12.0, 40.0)
    ]
    assert longer == sorted(longer)


def test_what_the_start_takes_more_of_one_end_is_not_taken_for_cord_of_its_units():
    """Ties of 6 to 16 units in which one end of a plait takes 2 cm more, however many there are: in 200 units it does too."""
    prior = prior_for(parse_strict(PLAIT))
    mm, ends, (section,) = float(prior.unit[0, 0]), list(prior.role_of), prior.sections
    ties = []
    for k, n in enumerate((6, 8, 10, 12, 14, 16)):
        readings = tuple(
            Reading(ends=(e,), cut_mm=500.0, left_mm=460.0 - mm * n - 20.0 * (i == 0))
            for i, e in enumerate(ends)
        )
        ties.append(
            Tie(id=f"T{k}", date=f"2026-03-0{k + 1}", counts={section: n}, length_mm=n * float(prior.pitch[0]) + 5, readings=readings)
        )  # fmt: skip
    c = calibrate(None, ties, prior)
    one, other = (c.need(e, {section: 200}).median for e in ends[:2])
    assert 0 < one - other < 120  # as part of every unit it would be 290 and more
    assert c.need(ends[0], {section: 200}).chance_above(other + 20) > 0.1
