"""Looser and tighter packing, the whole piece, and the charts."""

from dataclasses import replace

import numpy as np
import pytest

from dim_ladder.calibrate.prior import prior_for
from dim_ladder.commands.piece import pieces
from dim_ladder.library import FASTENINGS
from dim_ladder.notation import parse_strict
from dim_ladder.picture.display import Label, Line
from dim_ladder.scale import Plan
from dim_ladder.shape.charts import cord_bars, packing_chart
from dim_ladder.shape.faces import Cords, cords_of
from dim_ladder.shape.hung import BUCKLES, FOLD, WOOD, fitting
from dim_ladder.shape.joined import whole
from dim_ladder.shape.packing import STEPS, packing
from dim_ladder.shape.sheath import Look
from dim_ladder.shape.tighten import job_for, tight
from dim_ladder.shape.whole import whole_picture
from helpers.weaves import TERN, stiff, weave_of

BAND = stiff(parse_strict(TERN))


@pytest.fixture(scope="module")
def curve(shapes):
    *_, found = packing(job_for(BAND, "bar"), shapes["band"])
    return found


def test_a_tighter_packing_is_wider_and_takes_more_cord_for_its_length(curve, shapes):
    assert len(curve) == sum(len(way) for way in STEPS) - 1
    pitch = np.array([p.pitch for p in curve])
    assert list(pitch) == sorted(pitch)
    assert curve[0].width > curve[-1].width + 0.3
    per_length = np.array([p.cord for p in curve]) / pitch
    assert (np.diff(per_length) < 0).all()
    natural = min(curve, key=lambda p: abs(p.pitch - shapes["band"].pitch))
    # The natural pitch is where looser takes more cord a unit and tighter saves none to speak of.
    looser = [p for p in curve if p.pitch > 1.05 * natural.pitch]
    tighter = [p for p in curve if p.pitch < 0.97 * natural.pitch]
    assert all(p.cord > natural.cord * 1.01 for p in looser)
    assert all(p.cord > natural.cord * 0.985 for p in tighter)


def test_it_is_kept_and_only_cells_have_one(curve, shapes):
    (again,) = packing(job_for(BAND, "bar"), shapes["band"])
    assert again == curve
    knot = weave_of(2, "1: over 2, under 2, up own", "drop 2")
    assert list(packing(job_for(knot, "s"), tight(knot, "s"))) == []


def test_a_stop_keeps_nothing():
    other = weave_of(2, "snake (1 | 2)")
    assert list(packing(job_for(other, "s"), tight(other, "s"), lambda: True)) == []
    *_, found = packing(job_for(other, "s"), tight(other, "s"))
    assert len(found) == 9


def test_the_chart_marks_what_was_measured_and_where_cord_does_not_yield(curve, shapes):
    picture = packing_chart(curve, shapes["band"], 17.0)
    texts = [s.text for s in picture.shapes if isinstance(s, Label)]
    assert "yours 17.0" in texts
    assert "drawn up" in texts
    assert "yours 17.0" not in [
        s.text for s in packing_chart(curve, shapes["band"], None).shapes if isinstance(s, Label)
    ]


def test_bars_are_as_long_as_the_cord(shapes):
    looks = [Look("#aa0000"), Look("#00aa00"), Look("#0000aa"), Look("#aaaa00")]
    picture = cord_bars(shapes["band"], Cords(looks))
    bars = {
        s.colour: s.path[1][1][0] - s.path[0][1][0]
        for s in picture.shapes
        if isinstance(s, Line) and s.width > 10
    }
    per = list(shapes["band"].per_end.values())
    assert bars["#aa0000"] / bars["#00aa00"] == pytest.approx(per[0] / per[1], rel=0.01)
    assert "A 66 mm" in picture.title


# -- the whole piece -------------------------------------------------------------------------------


def test_the_whole_piece_is_as_long_as_its_units(shapes):
    piece = whole(BAND, {"bar": shapes["band"]}, {"bar": 10})
    assert piece.left_out == ()
    assert piece.length_mm == pytest.approx(10 * shapes["band"].pitch * 4, rel=0.03)
    # Both cords are folded over the bar: one end comes down in front of it, the other behind.
    over = {s.end: s.line[s.line[:, 1] < -FOLD + 0.3] for s in piece.strands if s.end >= 0}
    assert len(over) == 4
    for a, b in ((0, 3), (1, 2)):
        assert sorted(float(np.sign(over[e][-1, 2])) for e in (a, b)) == [-1, 1]
        assert all(float(np.abs(over[e][:, 2]).max()) > 1 for e in (a, b))
    # No cord has a break: ends, joins and folds alike.
    for s in piece.strands:
        assert np.linalg.norm(np.diff(s.line, axis=0), axis=1).max() < 0.6


def test_sections_are_joined_cord_by_cord(shapes):
    text = TERN.replace(
        "section bar: body, fit pairs",
        "section first: start\n  half-right (1 | 2 3 | 4)\nsection bar: body, fit pairs",
    )
    weave = parse_strict(text)
    made = {"first": tight(weave, "first"), "bar": tight(weave, "bar")}
    piece = whole(weave, made, {"first": 1, "bar": 4})
    longer = whole(weave, made, {"first": 1, "bar": 5})
    assert longer.length_mm - piece.length_mm == pytest.approx(made["bar"].pitch * 4, rel=0.02)
    by_end = {s.end: s.line for s in piece.strands if s.end >= 0 and np.ptp(s.line[:, 1]) > 10}
    assert set(by_end) == {0, 1, 2, 3}
    for line in by_end.values():
        assert np.linalg.norm(np.diff(line, axis=0), axis=1).max() < 0.6


def test_the_ruler_says_millimetres(shapes):
    piece = whole(BAND, {"bar": shapes["band"]}, {"bar": 10})
    for lying in (False, True):
        picture = whole_picture(piece, scale=10.0, lying=lying)
        marks = {int(s.text): (s.x if lying else s.y) for s in picture.shapes if isinstance(s, Label)}
        step = sorted(marks)[1]
        assert abs(marks[step] - marks[0]) == pytest.approx(step * 10.0 / 4.0, abs=0.01)
        assert (picture.width > picture.height) == lying
    assert len(whole_picture(piece, scale=10.0, ruler=False).shapes) < len(
        whole_picture(piece, scale=10.0).shapes
    )


def test_looks_follow_the_end():
    looks = cords_of(BAND, "bar").looks
    assert [x.colour for x in looks] == ["#e07a1f", "#1f6f8b", "#1f6f8b", "#e07a1f"]


@pytest.mark.parametrize("fastening", FASTENINGS)
def test_what_closes_the_piece_is_drawn_to_scale(shapes, fastening):
    weave = replace(BAND, hang=replace(BAND.hang, on="bar"))  # as where nothing is said
    plain = whole(weave, {"bar": shapes["band"]}, {"bar": 6})
    piece = whole(weave, {"bar": shapes["band"]}, {"bar": 6}, fastening)
    assert piece.length_mm == plain.length_mm
    bar = [s for s in plain.strands if s.look is WOOD]
    assert len(bar) == 1
    assert any(s.look is WOOD for s in piece.strands) == (fastening not in (*BUCKLES, "ring"))
    ours = [s for s in piece.strands if s.look is not WOOD]
    added = ours[len(plain.strands) - 1 :]
    if not FASTENINGS[fastening].part:
        assert (added, piece.beads) == ([], plain.beads)
        return
    mm = FASTENINGS[fastening].adds_mm
    if fastening in BUCKLES:  # half of it at each end, wider than the band
        assert [np.ptp(s.line[:, 1]) * 4 for s in added] == pytest.approx([mm / 2, mm / 2], abs=0.5)
        assert all(np.ptp(s.line[:, 0]) > shapes["band"].width - 1 for s in added)
    elif fastening.startswith("loop"):
        assert np.ptp(added[0].line[:, 1]) * 4 == pytest.approx(mm, abs=0.5)
        assert piece.beads[0].radius * 2 * 4 == pytest.approx(mm)
    elif fastening == "ring":
        assert (np.ptp(added[0].line[:, 0]) + added[0].diameter) * 4 == pytest.approx(mm, abs=0.2)
    else:
        assert np.ptp(added[0].line[:, 1]) * 4 == pytest.approx(mm, abs=0.5)
    assert len(whole_picture(piece, lying=True).shapes) > len(whole_picture(plain, lying=True).shapes)


FREE = TERN.replace("  half-left (1 | 2 3 | 4)\n", "  half-left (1 | 2 3 | 4)\n  span 15 mm\n")


def test_free_cord_between_knots_changes_nothing_of_the_knots(shapes):
    spaced = tight(stiff(parse_strict(FREE)), "bar")
    assert spaced.kind == "cell"
    assert spaced.pitch == pytest.approx(tight(BAND, "bar").pitch, rel=0.02)
    counted = prior_for(parse_strict(FREE), shapes={"bar": spaced})
    assert counted.span[0] == pytest.approx(15)


def test_free_cord_has_its_length_in_the_whole_piece(shapes):
    """In a section among knots, and in one of its own."""
    weave, bar = parse_strict(FREE), tight(BAND, "bar")
    piece = whole(weave, {"bar": bar}, {"bar": 4}, free={"bar": (0.0, 15.0)})
    assert piece.length_mm == pytest.approx(4 * (bar.pitch * 4 + 15), rel=0.01)
    for s in piece.strands:
        assert np.linalg.norm(np.diff(s.line, axis=0), axis=1).max() < 0.6
    more = "section more: body, repeat 2\n  half-right (1 | 2 3 | 4)\n  half-left (1 | 2 3 | 4)\nsection end: finish"
    joined = TERN.replace("section end: finish", more)
    apart = joined.replace("section more", "section gap: body\n  span 100 mm\nsection more")
    plan = Plan(target="length", size_mm=300.0)
    (*_, one), (*_, other) = (pieces(parse_strict(w), None, plan) for w in (joined, apart))
    assert "gap" not in other.left_out
    assert other.length_mm - one.length_mm == pytest.approx(100, abs=1)
    for s in other.strands:  # cord lies straight there
        inside = s.line[(s.line[:, 1] > 12 * 2.46 + 6) & (s.line[:, 1] < 12 * 2.46 + 18)]
        if len(inside) > 20:
            assert np.ptp(inside[:, 1]) / np.linalg.norm(np.diff(inside, axis=0), axis=1).sum() > 0.98


# -- what it hangs on, and what it ends with -----------------------------------------------------


def _tops(weave, shapes, fastening="side-buckle"):
    fit = fitting(weave, fastening, shapes)
    return fit.top, fit.foot


def on(what, *finish):
    weave = parse_strict("\n".join([TERN.rstrip(), *finish]))
    return replace(weave, hang=replace(weave.hang, on=what))


@pytest.mark.parametrize(
    ("what", "finish", "ends"),
    [
        ("buckle", (), ("buckle", "buckle")), ("bar", (), ("buckle", "buckle")), ("ring", (), ("ring", "")), ("cold-start", (), ("", "")),
        ("loop", (), ("loop", "")), ("loop", ("  button-two (2 | 3)",), ("loop", "")), ("bar", ("  diamond-4 (1 | 2 | 3 | 4)",), ("bar", "")),
        ("buckle", ("  diamond-4 (1 | 2 | 3 | 4)",), ("buckle", "")), ("closed-loop", (), ("buckle", "buckle")),
    ],
)  # fmt: skip
def test_the_fastening_is_the_one_there_is(shapes, what, finish, ends):
    assert _tops(on(what, *finish), {"bar": shapes["band"]}) == ends


def test_a_finish_much_thicker_than_the_body_is_a_knob(shapes):
    weave = on("bar", "section knob: finish", "  half-right (1 | 2 3 | 4)")
    knob = replace(shapes["band"], thickness=2 * shapes["band"].thickness, kind="held")
    assert _tops(weave, {"bar": shapes["band"], "knob": shapes["band"]}) == ("buckle", "buckle")
    assert _tops(weave, {"bar": shapes["band"], "knob": knob}) == ("bar", "")


def test_a_closure_that_is_tied_is_not_drawn_twice(shapes):
    text = TERN.replace("\nhang", "\nhang on cold-start")
    more = text.replace("\n\nhang", "\n  slide  nylon-4mm  #888888\n\nhang")
    laid = more.rstrip() + "\nsection slide: finish\n  add slide.a slide.b under 2 3\n"
    assert _tops(parse_strict(text), shapes, "sliding") == ("", "slide")
    assert _tops(replace(parse_strict(text), sections=parse_strict(laid).sections), shapes, "sliding") == (
        "",
        "",
    )


def test_a_piece_on_a_loop_stands_on_one_of_its_own_cords(shapes):
    piece = whole(on("loop"), {"bar": shapes["band"]}, {"bar": 6}, "loop-and-button")
    top = min(piece.strands, key=lambda s: s.line[:, 1].min())
    assert top.look.colour == "#1f6f8b"  # the inner one
    assert -top.line[:, 1].min() - FOLD == pytest.approx(FASTENINGS["loop-and-button"].adds_mm / 4, abs=0.2)
    assert not any(s.look is WOOD for s in piece.strands)


def test_free_cord_before_the_first_knot_hangs_from_what_it_hangs_on(shapes):
    lead = TERN.replace("section bar:", "section lead: start\n  span 60 mm\nsection bar:")
    piece = whole(
        parse_strict(lead), {"bar": shapes["band"]}, {"lead": 1, "bar": 4}, free={"lead": (60.0, 0.0)}
    )
    folds = [s for s in piece.strands if s.line[:, 1].min() < -FOLD - 0.5 and s.end >= 0]
    assert len(folds) == 4
    assert all(s.line[:, 1].max() > 14.0 for s in folds)  # down to the first knot
    assert piece.length_mm == pytest.approx(60 + 4 * shapes["band"].pitch * 4, rel=0.01)


LAYER = (
    TERN.replace("body, fit pairs", "body, repeat 8").rstrip()
    + """
section coat: body, layer over bar, repeat 3
  half-right (1 | 2 bar 4 | 5)
  half-left (1 | 2 bar 4 | 5)
"""
)


def test_a_layer_lies_round_what_it_is_tied_over_from_its_far_end():
    weave = parse_strict(LAYER)
    made = {name: tight(weave, name) for name in ("bar", "coat")}
    piece = whole(weave, made, {"bar": 8, "coat": 3})
    assert piece.left_out == ()
    assert piece.length_mm == pytest.approx(8 * made["bar"].pitch * made["bar"].unit_mm, rel=0.02)
    coat = made["coat"].pitch * 3
    bar = 8 * made["bar"].pitch
    lines = [s.line for s in piece.strands if s.end >= 0]
    every = np.vstack(lines)
    over = every[(every[:, 1] > bar - coat + 2) & (every[:, 1] < bar - 2)]
    bare = every[(every[:, 1] > 2) & (every[:, 1] < bar - coat - 3)]
    assert np.ptp(over[:, 0]) > np.ptp(bare[:, 0]) + 1.5
    assert np.ptp(over[:, 2]) > np.ptp(bare[:, 2]) + 0.7
    # The coat stays off the band below it.
    inside = (np.abs(over[:, 0]) < made["bar"].width / 2 - 0.8) & (
        np.abs(over[:, 2]) > made["bar"].thickness / 2
    )
    assert inside.any()


def test_a_closing_half_stands_where_the_coat_was_turned():
    weave = parse_strict(LAYER)
    made = {name: tight(weave, name) for name in ("bar", "coat")}
    piece = whole(weave, made, {"bar": 8, "coat": 3}, "side-buckle")
    frames = [s for s in piece.strands if s.look.colour == "#343c42"]
    assert len(frames) == 2
    assert max(s.line[:, 1].min() for s in frames) > 8 * made["bar"].pitch  # below all of the band


def test_free_cord_that_follows_the_girth_is_drawn_for_any_size():
    lead = TERN.replace(
        "section bar:", "section lead: start\n  span 1 of 2 of girth less 20 mm\nsection bar:"
    )
    plan = Plan(target="length", size_mm=200.0)
    (*_, piece) = pieces(parse_strict(lead), None, plan)
    assert piece.left_out == ()
    assert piece.length_mm == pytest.approx(65 + 12 * tight(parse_strict(TERN), "bar").pitch * 4, rel=0.02)
