"""What closes a piece follows from the work, adds what it adds, and lies where it lies."""

from __future__ import annotations

import math
import random
from dataclasses import replace

import pytest

from dim_ladder.base import InputError
from dim_ladder.calibrate import calibrate
from dim_ladder.library import FASTENINGS, OPENS_MM, SLIDE_MM
from dim_ladder.notation import parse_strict
from dim_ladder.picture.display import Label
from dim_ladder.scale import Plan, closing_of, solve
from dim_ladder.scale.closing import follows
from dim_ladder.scale.laid import laid
from dim_ladder.scale.reach import largest_size
from dim_ladder.scale.size import slip_on_words, worked_length
from dim_ladder.scale.tape import tape_picture
from dim_ladder.shelf import read_document
from dim_ladder.shelf.workshop import make_demo
from helpers.weaves import TERN

WEAVE = parse_strict(TERN)
SLIDING = """weave "Sliding"
cords
  main  polyester-1mm  #f2c230
  two   polyester-1mm  #3f7a4a
  slide polyester-1mm  #b5482a
hang on cold-start
  main.a two.a
section left: body, fit
  snake (1 | 2)
section turnabout: start
  rotate
section right: body, same as left
  snake (1 | 2)
section closure: finish
  add slide.a slide.b under main.a main.b
  half-right (1 | main.a main.b | 4)
"""


def on(what: str, finish: str = "tuck-and-melt (1 | 4)"):
    return parse_strict(
        f"""weave "W"
cords
  tide nylon-4mm #1f6f8b
  buoy nylon-4mm #e07a1f
hang on {what}
  buoy.a tide.a tide.b buoy.b
section bar: body, fit
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)
section end: finish
  {finish}
"""
    )


@pytest.mark.parametrize(
    ("weave", "key"),
    [
        (on("buckle"), "side-buckle"),
        (on("ring"), "ring"),
        (on("loop", "button-two (2 3)"), "loop-and-button"),
        (on("loop", "stopper (1)"), "loop-and-stopper"),
        (on("loop"), ""),
        (on("bar"), ""),
        (parse_strict(SLIDING), "sliding"),
    ],
)
def test_the_fastening_follows_from_what_it_hangs_on_and_ends_with(weave, key):
    assert follows(weave)[0] == key
    closing = closing_of(weave, Plan())
    assert closing.key == (key or "none")
    assert closing.asked == (not key)
    assert closing_of(weave, Plan(target="length")).asked is False
    assert closing_of(weave, Plan(fastening="loop-and-button")).why == ""


def test_a_ring_is_slipped_on_whatever_is_said(tmp_path):
    make_demo(tmp_path)
    ring = read_document(tmp_path / "marsh-ring.dimladder")
    for said in ("", "side-buckle", "none"):
        assert closing_of(ring.weave, Plan(fastening=said)).key == "slip-on"
    with pytest.raises(InputError, match="no fastening"):
        closing_of(ring.weave, Plan(fastening="zip"))


def test_what_nobody_says_is_said_with_the_piece():
    piece = solve(on("bar"), calibrate(on("bar"), ()), Plan())
    assert piece.closing.asked
    assert "Choose a fastening" in piece.fit
    assert "Choose" not in solve(on("bar"), calibrate(on("bar"), ()), Plan(fastening="none")).fit


def test_lengths_are_the_closed_form_for_every_fastening():
    rng = random.Random(5)
    for _ in range(300):
        key = rng.choice(list(FASTENINGS))
        own = rng.choice([None, round(rng.uniform(5, 60), 1)])
        plan = Plan(
            target=rng.choice(["girth", "length"]), size_mm=rng.uniform(150, 500), ease_mm=rng.uniform(-10, 30),
            fastening=key, fastening_mm=own,
        )  # fmt: skip
        thick = rng.uniform(2, 14)
        # A fastening that has no length of its own cannot be given one.
        adds = 0.0 if key in ("none", "slip-on") else FASTENINGS[key].adds_mm if own is None else own
        round_it = plan.size_mm + plan.ease_mm + 2 * math.pi * (thick / 2)
        wanted = (plan.size_mm if plan.target == "length" else round_it) - adds
        assert worked_length(plan, thick, closing_of(WEAVE, plan)) == pytest.approx(wanted)


def test_a_sliding_closure_takes_its_ends_through_itself_and_by_half_of_what_it_opens():
    weave = on("bar")
    c = calibrate(weave, ())
    # Bare of rounding, the same length of band with and without: only the ends that slide may differ.
    without = solve(weave, c, Plan(fastening="none", size_mm=170.0 - SLIDE_MM, step_mm=0.01))
    for opens in (0.0, 40.0, None):
        piece = solve(weave, c, Plan(fastening="sliding", open_mm=opens, step_mm=0.01))
        assert piece.counts == without.counts
        more = SLIDE_MM + (OPENS_MM if opens is None else opens) / 2
        for cut, plain in zip(piece.cuts, without.cuts, strict=True):
            expected = (
                2 * more if cut.cord == "tide" else 0.0
            )  # the fillers run through it, the workers do not
            assert cut.cut_mm - plain.cut_mm == pytest.approx(expected, abs=0.05)
        assert piece.chance_short == pytest.approx(without.chance_short, rel=0.05)


def test_where_the_work_ties_its_own_closure_only_what_it_opens_is_added():
    weave = parse_strict(SLIDING)
    c = calibrate(weave, ())
    shut, wide = (solve(weave, c, Plan(open_mm=mm, step_mm=0.01)) for mm in (0.0, 50.0))
    more = {a.cord: b.cut_mm - a.cut_mm for a, b in zip(shut.cuts, wide.cuts, strict=True)}
    assert more["main"] == pytest.approx(50.0, abs=0.05)  # half of it on either side
    assert more["slide"] == pytest.approx(0.0, abs=0.05)


def test_it_opens_wide_enough_for_the_hand_or_says_by_how_much_it_should():
    plan = Plan(fastening="sliding", size_mm=170, ease_mm=8, open_mm=30.0, pass_mm=230.0)
    said = slip_on_words(plan, WEAVE, closing_of(WEAVE, plan))
    assert "open by 52 mm" in said
    enough = plan.model_copy(update={"open_mm": 52.0})
    assert slip_on_words(enough, WEAVE, closing_of(WEAVE, enough)) == ""


def test_a_count_that_is_kept_is_made_up_for_by_the_others():
    script = TERN + "\n"
    two = parse_strict(
        script.replace(
            "section end: finish",
            "section spiral: body, fit\n  half-right (1 | 2 3 | 4)\n\nsection end: finish",
        )
    )
    c = calibrate(two, ())
    pitch = {s: c.pitch(s).median for s in ("bar", "spiral")}
    for n in (2, 4, 8):
        piece = solve(two, c, Plan(fastening="side-buckle", chosen={"spiral": n}))
        assert piece.counts["spiral"] == n
        room = piece.wanted_mm - c.fixed_mm - pitch["spiral"] * n
        best = min(range(2, 60, 2), key=lambda k: abs(room - k * pitch["bar"]))  # bar fits in pairs
        assert piece.counts["bar"] == best
        assert piece.tied_to_mm > 0  # something still makes up for the rest
    assert solve(two, c, Plan(fastening="side-buckle", chosen={"spiral": 4, "bar": 8})).tied_to_mm == 0
    held = Plan(fastening="side-buckle", chosen={"spiral": 4, "bar": 8}, kept=("spiral",))
    assert held.locked == {"spiral": 4}
    reach = largest_size(two, c, held, {"buoy": 2500.0})
    assert reach.piece.counts["spiral"] == 4


@pytest.mark.parametrize(
    "name", ["tern-ladder", "double-bar", "marsh-ring", "marsh-curl", "reed-plait", "sluice-hanging"]
)
def test_the_parts_add_up_to_the_piece_and_the_sums_to_what_was_asked(tmp_path, name):
    make_demo(tmp_path)
    doc = read_document(tmp_path / f"{name}.dimladder")
    c = calibrate(doc.weave, doc.ties)
    for key in (doc.plan.fastening, "loop-and-button", "sliding"):
        piece = solve(doc.weave, c, doc.plan.model_copy(update={"fastening": key}))
        of = laid(doc.weave, piece)
        assert sum(mm for _, mm in of.sums) == pytest.approx(of.wanted_mm, abs=0.6)
        whole = piece.option.length_mm + piece.closing.adds_mm
        assert of.mm == pytest.approx(whole, abs=2.0)
        assert of.mm - of.wanted_mm == pytest.approx(piece.option.error_mm, abs=2.0)
        drawn = [s.text for s in tape_picture(of, ["#123456"]).shapes if isinstance(s, Label)]
        for part in of.parts:
            assert part.words("metric") in drawn
        for sum_name, _ in of.sums:
            assert any(text.startswith(sum_name) for text in drawn)


def test_words_of_the_tape_do_not_lie_on_each_other():
    weave = on("buckle")
    piece = solve(weave, calibrate(weave, ()), Plan())
    piece = replace(piece, fixed_mm=6.0)
    labels = [
        s for s in tape_picture(laid(weave, piece), ["#123456"], width=420).shapes if isinstance(s, Label)
    ]
    for a in labels:
        for b in labels:
            if (
                a is not b
                and abs(a.y - b.y) < 4
                and not a.text.isdigit()
                and not b.text.isdigit()
                and a.text != "cm"
            ):
                assert abs(a.x - b.x) > (len(a.text) + len(b.text)) * 5.0 / 2
