"""Judgement calls: what does not fit, what to tie next, drift, time, rules, and cord that other weaves know."""

import pytest

from dim_ladder.calibrate import Reading, Tie, calibrate, prior_for
from dim_ladder.calibrate.advice import advice
from dim_ladder.calibrate.belief import fitted
from dim_ladder.calibrate.drift import drifts, effects
from dim_ladder.calibrate.misfit import misfit_of, misfits
from dim_ladder.calibrate.mistakes import mistakes
from dim_ladder.calibrate.prior import soft_spread
from dim_ladder.calibrate.rule import rule
from dim_ladder.calibrate.softness import learned, together
from dim_ladder.calibrate.timing import timing
from dim_ladder.calibrate.without import chances, predicted, with_sitting, without
from dim_ladder.notation import parse_strict
from helpers.ties import tie
from helpers.weaves import TERN, stiff

W = stiff(parse_strict(TERN))
GOOD = tuple(tie(f"T{i}", 5 + i, 1 + 0.01 * (-1) ** i) for i in range(4))


def reading(t, k, **changes):
    """A tie with one reading changed."""
    readings = tuple(r.model_copy(update=changes) if i == k else r for i, r in enumerate(t.readings))
    return t.model_copy(update={"readings": readings})


@pytest.mark.parametrize("day", ["", "2026-05-05"])
def test_leaving_one_out_is_what_a_fit_of_the_others_says(day):
    """In sittings of their own, and all in one."""
    ties = tuple(t.model_copy(update={"date": day or t.date}) for t in GOOD)
    f = calibrate(W, ties).whole
    short = without(f, ties[2])
    others = fitted(f.prior, [t for t in ties if t.id != "T2"], f.known)
    there = with_sitting(others, ties[2])
    assert short.weight @ short.mean == pytest.approx(there.weight @ there.mean, abs=0.05)
    a, b = predicted(f, short, ties[2]), predicted(others, there, ties[2])
    assert a.log_density() == pytest.approx(b.log_density(), abs=0.15)
    assert a.chance() == pytest.approx(chances(f)[2], abs=0.1)
    nobody = without(f, ties[2].model_copy(update={"id": "nobody"}))
    assert nobody.mean[:, :-2] is not f.belief.mean
    assert nobody.mean[:, :-2] == pytest.approx(f.belief.mean)


def test_ties_that_fit_are_left_alone():
    assert misfits(calibrate(W, GOOD)) == ()


WORKER, FILLER = 0, 2  # readings of the example's ties


@pytest.mark.parametrize(
    ("spoil", "cause"),
    [
        (lambda t: reading(reading(t, 0, left_mm=t.readings[1].left_mm - 300), 1, left_mm=t.readings[0].left_mm + 300), ""),
        (lambda t: reading(t, 0, left_mm=t.readings[0].left_mm / 2.54), "read in inches and written as centimetres"),
        (lambda t: reading(t, 1, left_mm=t.readings[1].left_mm / 10), "centimetres written as millimetres"),
        (lambda t: t.model_copy(update={"length_mm": t.length_mm / 2.54}), "the tied length was read in inches"),
        (lambda t: t.model_copy(update={"counts": {"bar": t.counts["bar"] * 2}}), "bar was miscounted: 7 units, not 14"),
    ],
)  # fmt: skip
def test_what_does_not_fit_is_said_with_its_likely_cause_and_a_fix(spoil, cause):
    spoiled = spoil(GOOD[2])
    ties = (*GOOD[:2], spoiled, GOOD[3])
    found = misfits(calibrate(W, ties))
    assert found[0].tie == "T2"
    assert found[0].chance < 0.01
    assert cause in found[0].cause
    assert found[0].words.startswith("T2 does not fit")
    if cause:
        fixed = tuple(found[0].fixed if t.id == "T2" else t for t in ties)
        assert misfits(calibrate(W, fixed)) == ()
        expected = GOOD[2].readings[0].left_mm
        assert found[0].fixed.readings[0].left_mm == pytest.approx(expected, rel=1e-6)


def test_exchanged_ends_are_known_where_the_ends_differ():
    a = Tie(
        id="T9",
        counts={"bar": 8},
        length_mm=16.5 * 8 + 8,
        readings=tuple(
            Reading(ends=(e,), cut_mm=900, left_mm=900 - used)
            for e, used in (("buoy.a", 40 + 17 * 8), ("tide.a", 40 + 66 * 8))
        ),
    )
    found = misfit_of(calibrate(W, GOOD), a)
    assert "buoy.a and of tide.a is exchanged" in found.cause
    assert found.fixed.readings[0].left_mm == a.readings[1].left_mm
    twice = reading(a, 0, left_mm=a.readings[1].left_mm)
    twice = reading(twice, 1, left_mm=a.readings[1].left_mm)
    right = twice.model_copy(update={"readings": (twice.readings[0], twice.readings[1])})
    said = misfit_of(calibrate(W, GOOD), right)
    assert "was written for tide.a too" in said.cause
    assert said.fixed.readings[1].left_mm is None


def test_every_slip_that_is_tried_is_another_tie():
    found = list(mistakes(GOOD[1]))
    assert len({m.fixed.model_dump_json() for m in found}) == len(found)
    assert all(m.fixed != GOOD[1] and m.fixed.id == "T1" for m in found)
    # What cannot be is not offered.
    assert all(r.left_mm < r.cut_mm for m in found for r in m.fixed.readings)


def test_what_to_tie_next_narrows_the_cut_for_the_cord_it_takes():
    c = calibrate(W, GOOD[:1])
    first = advice(c, {"bar": 10})[0]
    assert first.section == "bar"
    assert 0 < first.after_mm < first.before_mm
    assert "of every piece after it" in first.words
    # What it promises is about what happens.
    done = calibrate(W, (GOOD[0], tie("T9", first.units, together=not first.apart)))
    cords = (("buoy.a", "buoy.b"), ("tide.a", "tide.b"))
    before = sum(c.together(e, {"bar": 10}).sd for e in cords)
    after = sum(done.together(e, {"bar": 10}).sd for e in cords)
    assert before == pytest.approx(first.before_mm, rel=0.2)
    assert after < before
    assert advice(c, {}) == ()
    many = calibrate(W, tuple(tie(f"T{i}", 4 + i % 9) for i in range(60)))
    assert advice(many, {"bar": 10}) == ()  # there is nothing left to gain


def test_work_that_does_not_grow_is_tied_whole():
    text = TERN.replace("section bar: body, fit pairs", "section bar: body, repeat 6")
    c = calibrate(parse_strict(text), ())
    (first, *_) = advice(c, {"bar": 6})
    assert (first.section, first.units) == ("", 1)
    assert first.words.startswith("Tie one whole piece and")
    assert first.after_mm < first.before_mm


def test_drift_is_spoken_of_where_it_is_more_than_chance():
    steady = tuple(
        tie(
            f"T{i}", 8, 1 + 0.004 * (-1) ** i, date=f"2026-0{1 + i}-10", tension=("snug", "tight")[i // 2 % 2]
        )
        for i in range(6)
    )
    said = drifts(calibrate(W, steady), steady)
    assert {d.by for d in said} == {"date", "tension"}
    assert not any(d.sure for d in said)
    loose = tuple(
        tie(f"T{i}", 8, 1 + 0.03 * i, date=f"2026-0{1 + i}-10", who="Wren" if i < 3 else "Plover", lot="A" if i % 2 else "B")
        for i in range(6)
    )  # fmt: skip
    c = calibrate(W, loose)
    found = {d.by: d for d in drifts(c, loose)}
    assert found["date"].sure
    assert found["date"].part == pytest.approx(0.15, abs=0.04)
    assert "more cord" in found["date"].words
    assert found["maker"].sure
    assert found["maker"].words.startswith("Plover takes")
    assert not found["lot"].sure
    assert [e.day for e in effects(c, loose)][:2] == [0.0, 31.0]
    assert effects(calibrate(W, ()), ()) == ()


def test_time_is_learned_with_its_spread():
    prior = prior_for(W)
    guess = timing(prior, ())
    assert guess.unit("bar").median == pytest.approx(4 * 0.25)
    ties = tuple(tie(f"T{i}", 10, minutes=10 * 0.9 * (1 + 0.1 * (-1) ** i)) for i in range(6))
    t = timing(prior, ties)
    assert t.ties == 6
    assert t.unit("bar").median == pytest.approx(0.9, rel=0.06)
    lo, hi = t.piece({"bar": 10}).interval(0.9)
    assert lo < 9 < hi < 1.8 * lo
    assert t.piece({}).median == 0.0
    assert timing(prior, (tie("T1", 10),)).ties == 0


def test_the_rule_of_the_pattern_beside_the_one_handed_down():
    c = calibrate(W, GOOD)
    r = rule(c, "bar")
    assert r.all_cord == pytest.approx((66 + 70 + 17 + 17) / 16.5, rel=0.03)
    assert r.low < r.all_cord < r.high
    assert r.role == "leader"
    assert "A foot of cord for an inch of band is 1" in r.words
    assert "too much" in r.words


def test_cord_that_one_weave_knows_helps_another_and_is_counted_once():
    soft = tuple(tie(f"T{i}", 8, b=(72, 72, 17.4), pitch=17.1) for i in range(3))
    own = learned(calibrate(W, soft))
    mean, sd = own["stiff-4mm"]
    assert 0 < mean < 0.12
    assert sd < soft_spread("stiff-4mm")
    shared = together([own])
    assert shared.kind("stiff-4mm") == pytest.approx((mean, sd))
    assert shared.kind("cotton-3mm") == (0.0, soft_spread("cotton-3mm"))
    twice = together([own, own]).kind("stiff-4mm")
    assert twice[1] == pytest.approx((2 / sd**2 - soft_spread("stiff-4mm") ** -2) ** -0.5)
    # A weave that began from what others knew gives back what its own ties say, not theirs.
    again = learned(calibrate(W, soft, softness=shared))
    assert again["stiff-4mm"] == pytest.approx((mean, sd), abs=0.02)
    assert learned(calibrate(W, ())) == {}
    assert together([]).kind("stiff-4mm")[1] == soft_spread("stiff-4mm")
