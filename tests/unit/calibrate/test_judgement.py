"""Judgement calls: what does not fit, what to tie next, drift, time, rules, and cord that other weaves know."""

import pytest

from dim_ladder.calibrate import Reading, Tie, calibrate, prior_for
from dim_ladder.calibrate.advice import advice, enough
from dim_ladder.calibrate.belief import fitted
from dim_ladder.calibrate.charts import time_chart
from dim_ladder.calibrate.drift import drifts, effects
from dim_ladder.calibrate.guesses import guess_words, guessed
from dim_ladder.calibrate.misfit import misfit_of, misfits
from dim_ladder.calibrate.mistakes import mistakes
from dim_ladder.calibrate.prior import soft_spread
from dim_ladder.calibrate.rule import rule
from dim_ladder.calibrate.softness import learned, together
from dim_ladder.calibrate.timing import timing
from dim_ladder.calibrate.without import chances, predicted, with_sitting, without
from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
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


def test_the_worst_goes_first_and_the_others_are_judged_again_without_it():
    spoiled = reading(GOOD[2], 0, left_mm=GOOD[2].readings[0].left_mm / 2.54)
    ties = (*GOOD[:2], spoiled, GOOD[3])
    c = calibrate(W, ties)
    assert [m.tie for m in misfits(c)] == ["T2"]
    # What is in doubt is left out of the answer, and said where cords are cut.
    assert c.doubted == ("T2",)
    assert c.in_doubt.startswith("Test ties are in doubt: T2.")
    sound = calibrate(W, (*GOOD[:2], GOOD[3]))
    counts = {"bar": 10}
    assert c.need("buoy.a", counts).median == pytest.approx(sound.need("buoy.a", counts).median, rel=0.01)
    assert calibrate(W, GOOD).in_doubt == ""


def test_what_is_sized_by_a_rough_rule_is_said_until_it_was_tied():
    assert guess_words(calibrate(W, ())) == ""
    rough = prior_for(W, shapes={})
    assert guessed(calibrate(W, (), rough)) == ("bar",)
    said = guess_words(calibrate(W, (), rough))
    assert said.startswith("The size of bar is taken from a rough rule, which is often 35% off")
    assert guess_words(calibrate(W, GOOD, rough)) == ""


def test_a_whole_tie_in_inches_is_named():
    inches = GOOD[2].model_copy(
        update={
            "length_mm": GOOD[2].length_mm / 2.54,
            "readings": tuple(
                r.model_copy(update={"cut_mm": r.cut_mm / 2.54, "left_mm": r.left_mm / 2.54}) for r in GOOD[2].readings
            ),
        }
    )  # fmt: skip
    (found,) = misfits(calibrate(W, (*GOOD[:2], inches, GOOD[3])))
    assert found.cause == "the whole tie was read in inches and written as centimetres"
    assert found.fixed.length_mm == pytest.approx(GOOD[2].length_mm)


def test_what_was_entered_twice_counts_once_and_is_offered_to_be_taken_out():
    again = GOOD[1].model_copy(update={"id": "T7"})
    c = calibrate(W, (*GOOD, again))
    assert c.data.ids == tuple(t.id for t in GOOD)
    assert "T7: says to the millimetre what T1 says" in c.left_out[0]
    (found,) = misfits(c)
    assert (found.tie, found.drop, found.repairs) == ("T7", True, ())
    assert "entered twice" in found.words
    other_day = again.model_copy(update={"date": "2026-09-09"})
    assert misfits(calibrate(W, (*GOOD, other_day))) == ()


def test_a_section_that_there_is_not_is_asked_about():
    wrong = GOOD[1].model_copy(update={"counts": {"baar": 6}})
    c = calibrate(W, (GOOD[0], wrong))
    assert "there is no section “baar”" in c.left_out[0]
    (found,) = misfits(c)
    assert "“bar” is meant" in found.cause
    assert found.fixed.counts == {"bar": 6}
    strange = GOOD[1].model_copy(update={"counts": {"lighthouse": 6}})
    assert misfits(calibrate(W, (strange,))) == ()
    assert "Name one of bar" in calibrate(W, (strange,)).left_out[0]


def test_half_knots_that_were_counted_as_units_show_against_the_shape():
    shape = tight(W, "bar")
    unit = {e: shape.per_end[e] * shape.unit_mm for e in ("buoy.a", "buoy.b", "tide.a")}
    rates = (unit["buoy.a"], unit["buoy.b"], unit["tide.a"])
    right = tuple(tie(f"T{i}", 5 + i, b=rates, pitch=shape.pitch * shape.unit_mm) for i in range(4))
    assert misfits(calibrate(W, right)) == ()
    halves = tuple(t.model_copy(update={"counts": {"bar": 2 * t.counts["bar"]}}) for t in right)
    (found,) = misfits(calibrate(W, halves))
    assert found.tie == ""
    assert "about half of what its shape says" in found.words
    assert found.repairs == right


def test_a_buckle_in_every_tied_length_is_asked_about():
    ties = tuple(
        t.model_copy(update={"length_mm": t.length_mm + 32})
        for t in (tie(f"T{i}", 4 + 3 * i) for i in range(5))
    )
    found = [m for m in misfits(calibrate(W, ties)) if not m.tie]
    assert len(found) == 1
    assert "in every tied length that no knots take" in found[0].words
    assert misfits(calibrate(W, tuple(tie(f"T{i}", 4 + 3 * i) for i in range(5)))) == ()


def test_a_tie_that_ended_early_because_it_ran_short_says_so():
    planned = tie("T9", 9)
    took = (40 + 66 * 9, 40 + 70 * 9, 2 * (40 + 17 * 9))
    ended = planned.model_copy(
        update={
            "counts": {"bar": 13},
            "readings": tuple(
                r.model_copy(update={"cut_mm": used + left, "left_mm": left})
                for r, used, left in zip(planned.readings, took, (90.0, 4.0, 130.0), strict=True)
            ),
        }
    )
    found = misfit_of(calibrate(W, GOOD), ended)
    assert "buoy.b ran out, and the tie ended early: 9 units of bar, not 13" in found.cause
    assert found.fixed.counts == {"bar": 9}


def test_sound_ties_that_the_shape_did_not_foresee_move_the_answer():
    """Two thirds more of everything than the shape says, twice: that is how this cord is."""
    base = calibrate(W, ())
    far = tuple(tie(f"T{i}", 6 + 2 * i, b=(109, 116, 28), pitch=27.2) for i in range(2))
    c = calibrate(W, far)
    assert c.refusal == ""
    assert misfits(c) == ()
    assert c.per_unit("leader", "bar").median > 1.6 * base.per_unit("leader", "bar").median
    assert c.pitch("bar").median == pytest.approx(27.2, rel=0.05)


def test_two_ties_that_contradict_each_other_leave_both_possible():
    """One takes a quarter less than the shape says, one a third more: either may be wrong."""
    rates, shape = (66.0, 66.0, 17.0), calibrate(W, ())
    middle = shape.per_unit("leader", "bar").median / rates[0]
    made = {k: tuple(r * middle * f for r in rates) for k, f in (("T1", 0.75), ("T2", 1.33))}
    pitch = shape.pitch("bar").median
    ties = [tie(k, 8, b=b, pitch=pitch * b[0] / rates[0] / middle) for k, b in made.items()]
    c = calibrate(W, ties)
    s = c.need("buoy.b", {"bar": 10})
    low, high = (calibrate(W, [t]).need("buoy.b", {"bar": 10}).median for t in ties)
    assert len(c.parts) > 1
    assert s.chance_below(low * 1.12) > 0.1
    assert s.chance_above(high / 1.12) > 0.1


def test_no_more_ties_are_advised_than_they_are_worth():
    few, many = calibrate(W, GOOD[:1]), calibrate(W, tuple(tie(f"T{i}", 4 + i % 9) for i in range(30)))
    assert enough(few, {"bar": 10}) == ""
    first = advice(few, {"bar": 10})[0]
    assert first.pays_after * first.saves_mm >= first.cord_mm
    said = enough(many, {"bar": 10})
    assert said.startswith("Enough tested: another ")
    assert advice(many, {"bar": 10}) == ()


def test_sittings_stand_together_in_the_chart_over_time():
    ties = tuple(tie(f"T{i}", 6 + i, 1 + 0.02 * (i // 3), date=f"2026-03-0{1 + i // 3}") for i in range(6))
    chart = time_chart(calibrate(W, ties), ties)
    assert "6 ties against each other, in 2 sittings" in chart.picture.title
    xs = [s.x for s in chart.spots]
    within = xs[1] - xs[0]
    assert xs[3] - xs[2] > 1.4 * within
    assert [r[-1] for r in chart.rows[:3]] == [chart.rows[0][-1]] * 3
    assert chart.rows[0][-1] != chart.rows[3][-1]


PULL = """weave "Gate Pull"
cords
  tide  nylon-4mm  #1f6f8b
  buoy  nylon-4mm  #e07a1f
  sand  nylon-4mm  #d8c39a
hang on ring
  tide.a buoy.a sand.a
section p: body, fit
  plait-3 (1 | 2 | 3)
"""


@pytest.mark.parametrize("bad", range(4))
@pytest.mark.parametrize("end", range(3))
def test_one_slip_is_not_laid_on_all_ties(bad, end):
    """Inches in one reading of one tie say nothing of how the units of all of them were counted; half units in all of them do."""
    prior = prior_for(parse_strict(PULL))
    mm, ends, (p,) = float(prior.unit[0, 0]), list(prior.role_of), prior.sections

    def made(times):
        return [
            Tie(
                id=f"T{k}", date="2026-11-30", counts={p: times * n}, length_mm=n * float(prior.pitch[0]) + 5,
                readings=tuple(Reading(ends=(e,), cut_mm=500.0, left_mm=420.0 + 3 * i - mm * n) for i, e in enumerate(ends)),
            )
            for k, n in enumerate((12, 14, 10, 16))
        ]  # fmt: skip

    ties = made(1)
    left = ties[bad].readings[end].left_mm
    ties[bad] = reading(ties[bad], end, left_mm=round(left / 2.54, 1))
    c = calibrate(None, ties, prior)
    assert not c.common
    assert c.doubted == (f"T{bad}",)
    halves = calibrate(None, made(2), prior)
    assert "half of what its shape says" in halves.common[0].cause
    assert [t.counts[p] for t in halves.common[0].repairs] == [12, 14, 10, 16]
