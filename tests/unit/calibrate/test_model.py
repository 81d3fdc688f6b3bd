import math
from dataclasses import replace

import numpy as np
import pytest

from dim_ladder.base import InputError
from dim_ladder.calibrate import Reading, Spread, Tie, calibrate, prior_for
from dim_ladder.calibrate.charts import points, use_chart
from dim_ladder.calibrate.model import _collect, _predict, _prior_gaussian
from dim_ladder.notation import parse_strict
from dim_ladder.shape import rough_shape
from helpers.ties import tie
from helpers.weaves import PLAIT, SPIRAL, TERN, weave_of

W = parse_strict(TERN)


def test_the_rough_shape_meets_the_figures_it_was_set_by():
    shape = rough_shape(parse_strict(SPIRAL))
    section = shape.section("bar")
    assert section.pitch == 2
    assert section.per_role["worker"] == pytest.approx(8.4)
    assert rough_shape(parse_strict(PLAIT)).sections[0].per_role["strand"] / 2 == pytest.approx(1.45)


def test_with_no_tie_the_answer_is_the_prior_wide_and_usable():
    c = calibrate(W, ())
    lo, hi = c.per_unit("leader", "bar").interval(0.9)
    assert lo < 4 * 16.8 < hi
    assert 2.5 < hi / lo < 4  # about 35 % either way
    assert c.per_unit("leader", "bar").median == pytest.approx(4 * 16.8, rel=0.01)
    assert c.ties == c.readings == 0


def test_one_tie_narrows_it_and_five_are_the_makers_own():
    widths = []
    for n in (0, 1, 5):
        c = calibrate(W, tuple(tie(f"T{i}", 5 + i) for i in range(n)))
        lo, hi = c.need("buoy.b", {"bar": 10}).interval(0.9)
        widths.append(hi / lo - 1)
    assert widths[0] > 3 * widths[1] > 3 * widths[2]
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
        id="T1", counts={"bar": 10}, readings=(Reading(ends=("buoy.b",), cut_mm=3000, left_mm=1900),)
    )
    before, after = calibrate(W, ()), calibrate(W, (only_leader,))
    assert after.per_unit("leader", "bar").median > 1.4 * before.per_unit("leader", "bar").median
    assert after.per_unit("filler", "bar").median > 1.1 * before.per_unit("filler", "bar").median
    assert after.per_unit("filler", "bar").sd / after.per_unit("filler", "bar").median < 0.37


def test_partial_records_are_used_for_what_they_say():
    length_only = calibrate(W, (Tie(id="T1", counts={"bar": 8}, length_mm=140),))
    assert length_only.pitch("bar").median == pytest.approx(16.5, rel=0.04)
    assert length_only.readings == 0
    half = Tie(id="T2", counts={"bar": 8}, readings=(Reading(ends=("buoy.a",), cut_mm=900),))
    assert calibrate(W, (half,)).readings == 0
    uncounted = Tie(id="T3", readings=(Reading(ends=("buoy.a",), cut_mm=900, left_mm=100),))
    assert "no unit count" in calibrate(W, (uncounted,)).left_out[0]
    foreign = Tie(id="T4", counts={"bar": 2}, readings=(Reading(ends=("other.a",), cut_mm=900, left_mm=100),))
    assert "other.a is not in this weave" in calibrate(W, (foreign,)).left_out[0]


def test_the_same_ties_give_the_same_answer():
    ties = (tie("T1"), tie("T2", 9, 1.03))
    a, b = calibrate(W, ties), calibrate(W, ties)
    assert a.need("buoy.a", {"bar": 7}) == b.need("buoy.a", {"bar": 7})


def test_derivatives_are_those_of_the_prediction():
    prior = prior_for(W)
    data, _ = _collect(prior, (tie("T1", 4), tie("T2", 9, 1.05)))
    mean, _ = _prior_gaussian(prior)
    theta = np.concatenate([mean, [0.02, -0.03, 0.01, 0.04]])
    value, jacobian, _ = _predict(prior, data, theta, 2, 0.03)
    for j in range(len(theta)):
        step = np.zeros_like(theta)
        step[j] = 1e-6
        slope = (
            _predict(prior, data, theta + step, 2, 0.03)[0] - _predict(prior, data, theta - step, 2, 0.03)[0]
        ) / 2e-6
        assert jacobian[:, j] == pytest.approx(slope, rel=1e-5, abs=1e-5)
    assert len(value) == 8


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
    assert "6 readings" in use_chart(c, ties, "bar").title
    assert use_chart(calibrate(W, ()), (), "bar").shapes


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
    nothing = replace(one, pitch=0.0, per_role=dict.fromkeys(one.per_role, 0.0))
    c = calibrate(weave, (), prior_for(weave, replace(shape, sections=(nothing,))))
    for role in c.prior.roles:
        assert 0 < c.per_unit(role, "s").median < 1
        assert math.isfinite(c.per_length(role, "s").median)
