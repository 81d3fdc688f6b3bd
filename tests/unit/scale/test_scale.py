import itertools
import math
from dataclasses import replace

import pytest

from dim_ladder.base import InputError
from dim_ladder.calibrate import calibrate, prior_for
from dim_ladder.library import FINISHES
from dim_ladder.notation import parse_strict
from dim_ladder.scale import Plan, closing_of, solve, whole_units, worked_length, worked_length_words
from dim_ladder.scale.cuts import (
    HOLD_MM,
    NEEDS_MM,
    cut_list,
    given_cut,
    given_words,
    odds,
    short_words,
    tails,
    why_words,
)
from helpers.ties import tie
from helpers.weaves import PLAIT, SPIRAL, TERN


def length_of(plan: Plan, thickness: float = 10) -> float:
    return worked_length(plan, thickness, closing_of(parse_strict(TERN), plan))


def test_worked_length_is_girth_ease_and_half_a_thickness_all_round():
    plan = Plan(size_mm=170, ease_mm=8, fastening="side-buckle")
    assert length_of(plan) == pytest.approx(170 + 8 + math.pi * 10 - 32)
    assert "170 girth + 8 ease" in worked_length_words(plan, 10, closing_of(parse_strict(TERN), plan))
    assert length_of(Plan(target="length", size_mm=400, fastening="ring")) == 380


def test_sizes_that_leave_nothing_are_refused():
    with pytest.raises(InputError, match="nothing is left"):
        length_of(Plan(target="length", size_mm=20, fastening="side-buckle"))
    with pytest.raises(InputError, match="no fastening “bukle”") as e:
        length_of(Plan(fastening="bukle"))
    assert "side-buckle" in e.value.hint or "Known" in e.value.hint


def test_whole_units_are_the_nearest_in_their_multiples():
    weave = parse_strict(TERN)  # fit pairs
    options = whole_units(weave, {"bar": 16.0}, 8.0, 180.0)
    assert [o.counts["bar"] for o in options] == [10, 12, 8]
    assert options[0].error_mm == pytest.approx(8 + 160 - 180)
    three = whole_units(parse_strict(PLAIT), {"reed": 10.0}, 0.0, 104.0)
    assert [o.counts["reed"] for o in three] == [9, 12, 6]


def test_several_sections_against_trying_everything():
    text = (
        TERN.replace("fit pairs", "fit") + "section edge: body, fit multiple of 2\n  1: over 2\n  2: over 1\n"
    )
    text += "section knob: body, repeat 3\n  1: over 2\n  2: over 1\nsection far: body, same as edge\n  1: over 2\n  2: over 1\n"
    weave = parse_strict(text)
    pitch = {"bar": 16.3, "edge": 5.1, "knob": 4.0, "far": 5.1}
    best = whole_units(weave, pitch, 7.0, 230.0)[0]
    errors = [
        abs(7 + 16.3 * i + 2 * 5.1 * 2 * k + 12 - 230)
        for i, k in itertools.product(range(1, 20), range(1, 20))
    ]
    assert abs(best.error_mm) == pytest.approx(min(errors))
    assert best.counts["knob"] == 3
    assert best.counts["far"] == best.counts["edge"]
    assert best.counts["edge"] % 2 == 0


def test_a_piece_too_short_for_one_unit_is_refused_with_the_least_length():
    with pytest.raises(InputError, match="too short: start, finish and the fewest units take 40 mm"):
        whole_units(parse_strict(TERN), {"bar": 16.0}, 8.0, 15.0)


def test_fixed_counts_need_no_fitting():
    weave = parse_strict(TERN.replace("fit pairs", "repeat 7"))
    (option,) = whole_units(weave, {"bar": 16.0}, 8.0, 100.0)
    assert option.counts == {"bar": 7}
    assert option.error_mm == pytest.approx(20)


WEAVE = parse_strict(TERN)
CAL = calibrate(WEAVE, tuple(tie(f"T{i}", 5 + i) for i in range(4)))


def test_a_cut_holds_both_ends_their_tails_and_says_where_to_fold():
    cuts = {c.cord: c for c in cut_list(WEAVE, CAL, {"bar": 10}, Plan(risk=0.02, step_mm=10))}
    buoy = cuts["buoy"]
    held = FINISHES["tuck-and-melt"].needs_mm
    for e in buoy.ends:
        one = CAL.need(e.end, {"bar": 10})
        assert one.quantile(0.98) <= e.need_mm - held <= one.quantile(0.99)  # either of two may run short
        assert e.tail_mm == held
        assert 0 < e.chance_short <= 0.02
    tight = cut_list(WEAVE, CAL, {"bar": 10}, Plan(risk=0.02, step_mm=0.01))[1]
    assert tight.chance_short == pytest.approx(0.02, rel=0.02)
    assert buoy.chance_short <= tight.chance_short
    total = sum(e.need_mm for e in buoy.ends)
    assert total <= buoy.cut_mm < total + 10
    assert buoy.cut_mm % 10 == 0
    assert buoy.long_end == "buoy.b"  # the leader eats more
    assert buoy.fold_offset_mm == pytest.approx((buoy.ends[1].need_mm - buoy.ends[0].need_mm) / 2)
    # Folded there, the two ends get what they need and share what the rounding adds.
    short_side = buoy.cut_mm / 2 - buoy.fold_offset_mm
    assert short_side == pytest.approx(buoy.ends[0].need_mm + (buoy.cut_mm - total) / 2)
    assert cuts["tide"].long_end == ""
    assert cuts["tide"].fold_offset_mm == 0


def test_the_chance_of_a_cut_that_somebody_names_agrees_with_the_cut_for_a_chance():
    buoy = cut_list(WEAVE, CAL, {"bar": 10}, Plan(risk=0.02, step_mm=0.01))[1]
    asked = given_cut(WEAVE, CAL, {"bar": 10}, "buoy", buoy.cut_mm)
    assert asked.chance_short == pytest.approx(0.02, rel=0.03)
    assert asked.fold_offset_mm == pytest.approx(buoy.fold_offset_mm, abs=0.2)
    assert asked.long_end == buoy.long_end
    chances = [
        given_cut(WEAVE, CAL, {"bar": 10}, "buoy", buoy.cut_mm + d).chance_short for d in (-100, -40, 0, 40)
    ]
    assert chances == sorted(chances, reverse=True)
    assert chances[0] > 0.5 > chances[-1]
    assert "1 in 50 of running short" in given_words(
        asked, ("buoy.a", "tide.a", "tide.b", "buoy.b"), "metric"
    )
    with pytest.raises(InputError, match="no cord"):
        given_cut(WEAVE, CAL, {"bar": 10}, "eel", 1000)


def test_a_calibration_that_contradicts_itself_gives_no_cut():
    torn = calibrate(WEAVE, tuple(tie(f"T{i}", 8, 1.0 + 0.8 * (i % 2)) for i in range(6)))
    with pytest.raises(InputError, match="contradict each other"):
        cut_list(WEAVE, torn, {"bar": 10}, Plan(risk=0.02, step_mm=10))


def test_less_risk_costs_more_cord():
    lengths = [
        cut_list(WEAVE, CAL, {"bar": 10}, Plan(risk=r, step_mm=1))[1].cut_mm for r in (0.2, 0.02, 0.002)
    ]
    assert lengths == sorted(lengths)
    assert lengths[0] < lengths[2]


def test_ends_without_a_finish_still_leave_something_to_hold():
    held = tails(parse_strict(PLAIT))
    assert set(held.need.values()) == {NEEDS_MM}
    assert set(held.hold.values()) == {HOLD_MM}


def test_long_ends_go_on_bobbins_and_single_ends_are_not_folded():
    plait = parse_strict(PLAIT)
    cuts = cut_list(plait, calibrate(plait, ()), {"reed": 300}, Plan(risk=0.02, step_mm=10))
    assert all(c.bobbin and c.fold_offset_mm == 0 and len(c.ends) == 1 for c in cuts)


def test_a_whole_piece_and_a_count_that_is_kept():
    plan = Plan(size_mm=170, ease_mm=8, fastening="side-buckle")
    piece = solve(WEAVE, CAL, plan)
    assert piece.counts == {"bar": 10}
    assert len(piece.alternatives) == 2
    kept = solve(WEAVE, CAL, plan.model_copy(update={"chosen": {"bar": 12}}))
    assert kept.counts == {"bar": 12}
    assert kept.cuts[1].cut_mm > piece.cuts[1].cut_mm
    assert {"bar": 10} in [o.counts for o in kept.alternatives]
    spiral = parse_strict(SPIRAL)
    assert (
        solve(spiral, calibrate(spiral, ()), Plan(target="length", size_mm=300, fastening="none")).counts[
            "bar"
        ]
        > 10
    )


@pytest.mark.parametrize(
    ("chance", "words"),
    [
        (0.02, "1 in 50"),
        (0.0001 / 2, "less than 1 in 10,000"),
        (0.1, "1 in 10"),
        (0.0142, "1 in 70"),
        (0.00123, "1 in 810"),
        (0.5, "50%"),
    ],
)
def test_odds(chance, words):
    assert odds(chance) == words


# -- what lies on other work, beside it, and as often as a fixed one -----------------------------------

STITCHED = TERN.replace("section end: finish\n  tuck-and-melt (1 | 4)\n", "") + (
    "section coat: body, layer over bar, fit\n  half-right (1 | 2 bar 4 | 5)\n"
)


def test_a_layer_becomes_as_long_as_what_it_lies_on_and_adds_nothing():
    weave = parse_strict(STITCHED)
    pitch = {"bar": 16.0, "coat": 5.0}
    plain = whole_units(weave, {"bar": 16.0}, 8.0, 180.0)[0]
    best = whole_units(weave, pitch, 8.0, 180.0, lying=["coat"])[0]
    assert best.counts["bar"] == plain.counts["bar"]
    assert best.length_mm == plain.length_mm
    assert best.counts["coat"] == round(best.counts["bar"] * 16 / 5)


def test_what_is_the_same_as_a_fixed_section_is_counted_with_it():
    text = TERN.replace(
        "section bar", "section edge: body, repeat 3\n  1: over 2\n  2: over 1\n\nsection bar"
    )
    text = text.replace(
        "section end", "section far: body, same as edge\n  1: over 2\n  2: over 1\n\nsection end"
    )
    weave = parse_strict(text.replace("fit pairs", "fit"))
    best = whole_units(weave, {"edge": 10.0, "bar": 16.0, "far": 10.0}, 0.0, 220.0)[0]
    assert best.counts == {"edge": 3, "far": 3, "bar": 10}
    assert best.length_mm == 220


def test_a_section_that_fits_but_has_no_length_is_refused_by_its_name():
    with pytest.raises(InputError, match="section bar fits to size"):
        whole_units(parse_strict(TERN), {"bar": 0.01}, 8.0, 180.0)


def test_free_cord_is_exact_whatever_the_cord_gives():
    gap = parse_strict(TERN.replace("section end", "section gap: body\n  span 250 mm\n\nsection end"))
    c = calibrate(gap, [tie("T1", 5)])
    assert c.pitch("gap").median == pytest.approx(250, abs=0.05)
    assert c.pitch("gap").sd < 0.05
    counts = {"bar": 6, "gap": 1}
    plain = c.need("buoy.a", {"bar": 6, "gap": 0})
    assert c.need("buoy.a", counts).quantile(0.98) - plain.quantile(0.98) == pytest.approx(250, abs=0.5)


def test_what_is_guessed_is_said_where_it_is_cut():
    plan = Plan(size_mm=170, ease_mm=8, fastening="side-buckle")
    rough = calibrate(WEAVE, (), prior_for(WEAVE, shapes={}))
    assert "The size of bar is taken from a rough rule" in solve(WEAVE, rough, plan).doubt
    assert solve(WEAVE, CAL, plan).doubt == ""


def test_work_that_cannot_be_repeated_so_often_is_refused_with_the_reason():
    weave = parse_strict(
        TERN.replace("section end: finish\n  tuck-and-melt (1 | 4)\n", "").replace(
            "  half-left (1 | 2 3 | 4)\n", "  drop 4\n"
        )
    )
    with pytest.raises(InputError, match=r"cannot be tied: .*tails hang"):
        solve(weave, calibrate(weave, ()), Plan(target="length", size_mm=300, fastening="none"))


def test_an_end_too_short_to_be_led_is_said_and_what_others_are_tied_over_is_not():
    weave = parse_strict(TERN)
    c = calibrate(weave, ())
    held = {"tail_mm": 5, "hold_mm": 5, "fastening": "none", "target": "length"}
    tiny = solve(weave, c, Plan(size_mm=24, **held))
    ends = {e.end: e.need_mm for cut in tiny.cuts for e in cut.ends}
    assert ("too short to be led" in tiny.fit) == (min(ends["buoy.a"], ends["buoy.b"]) < 110)
    assert "too short" not in solve(weave, c, Plan(size_mm=200, **held)).fit
    cuts = tiny.cuts
    short = tuple(replace(cut, ends=tuple(replace(e, need_mm=80.0) for e in cut.ends)) for cut in cuts)
    said = short_words(short, tiny.order)
    assert said.startswith("A, D would be 80 mm")


def test_every_cut_says_how_it_comes_about():
    weave = parse_strict(TERN)
    c = calibrate(weave, (tie("T1"),))
    for plan in (
        Plan(fastening="side-buckle"),
        Plan(fastening="sliding", risk=0.001),
        Plan(fastening="none", hold_mm=400),
    ):
        piece = solve(weave, c, plan)
        for cut in piece.cuts:
            said = why_words(cut, piece.order, plan, "metric")
            assert f"cut in steps of 10 mm: {cut.cut_mm:.0f} mm" in said
            assert said.count("likeliest") == len(cut.ends)
            for e in cut.ends:
                assert e.likely_mm == pytest.approx(c.need(e.end, piece.counts, piece.tied_to_mm).median)
                assert e.need_mm >= e.likely_mm + e.tail_mm - 0.01
            total = float(said.rpartition("Together ")[2].partition(" mm")[0])
            assert 0 <= cut.cut_mm - total < 10.5
    assert "400 mm" not in why_words(piece.cuts[0], piece.order, plan, "metric")
    assert "to hold" in why_words(piece.cuts[0], piece.order, plan, "metric")
