"""The whole piece where it is turned: work that goes on at its other end, aside, or over; and sections in which nothing crosses."""

import numpy as np
import pytest

from dim_ladder.base import InputError
from dim_ladder.calibrate import calibrate, prior_for
from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.frames import HANGING
from dim_ladder.shape.joined import whole
from dim_ladder.shape.rope import along_of
from dim_ladder.shape.stitched import passages
from dim_ladder.shape.uncrossed import uncrossed
from dim_ladder.trace.roles import on_or_beside, roles

CORDS = """weave "Two Arms"
cords
  a  nylon-4mm  #744a9e
  b  nylon-4mm  #e0a030
beads
  bone  10 mm  #f4f2ec
"""
COLD = f"{CORDS}hang on cold-start\n  a.a b.a\n"
RIGHT = "section right: body, repeat 4\n  snake (1 | 2)\n"
LEFT = "section left: body, repeat 4\n  snake (1 | 2)\n"


def piece(text, free=""):
    """free : a line of free cord that every unit of the bar has."""
    weave = parse_strict(text)
    shapes = {}
    for s in weave.sections:
        try:
            shapes[s.name] = tight(weave, s.name)
        except InputError:
            continue
    spans = {"bar": (0.0, 12.0)} if free else {}
    return whole(weave, shapes, {s.name: s.count.number for s in weave.sections}, free=spans), shapes


def by_look(found, colour):
    return [s for s in found.strands if s.look.colour == colour]


def test_what_is_worked_at_the_other_end_goes_up_in_one_cord():
    found, shapes = piece(f"{COLD}{RIGHT}section turnabout: start\n  rotate\n{LEFT}")
    assert found.left_out == ()
    one = 4 * shapes["right"].pitch
    assert found.begin == pytest.approx(-one, abs=1.5)
    assert found.length_mm == pytest.approx(8 * shapes["right"].pitch * found.unit_mm, rel=0.15)
    lows = sorted(float(s.line[:, 1].min()) for s in found.strands)
    assert lows[0] < -0.8 * one
    # Both ends of a cord lie in one run, from the one arm to the other.
    for colour in ("#744a9e", "#e0a030"):
        down, up = sorted(by_look(found, colour), key=lambda s: -s.line[:, 1].max())
        assert np.allclose(up.line[0], down.line[0])


def test_cord_runs_on_without_a_jump():
    found, _ = piece(f"{COLD}{RIGHT}section turnabout: start\n  rotate\n{LEFT}")
    for s in found.strands:
        assert float(np.linalg.norm(np.diff(s.line, axis=0), axis=1).max()) < 1.0


def test_cord_laid_in_after_a_turn_begins_at_its_fold():
    text = COLD.replace("beads", "  c  nylon-4mm  #1f6f8b\nbeads")
    found, _ = piece(
        f"{text}{RIGHT}section close: start\n  rotate\n  add c.a c.b under 1 2\n  half-right (1 | 2 3 | 4)\n"
    )
    one, two = by_look(found, "#1f6f8b")
    assert np.allclose(one.line[0], two.line[0])
    for s in (one, two):
        steps = np.linalg.norm(np.diff(s.line, axis=0), axis=1)
        assert 0 < steps.min() < steps.max() < 1.0


def test_turned_by_a_quarter_an_arm_goes_aside():
    text = f"""{CORDS}hang
  a.a a.b
section cross: start
  add b.a b.b under 1 2
section arm: body, repeat 3
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)
section side: start
  rotate {{}}
  snake (1 | 2)
section tail: body, repeat 4
  snake (1 | 2)
"""
    for way, ends, sign in (("left", "b.a a.a", -1), ("right", "a.b b.b", 1)):
        found, shapes = piece(text.format(f"{way} ({ends})"))
        assert found.left_out == ()
        reach = max(
            sign * float(s.line[:, 0].max() if sign > 0 else s.line[:, 0].min()) for s in found.strands
        )
        assert reach > 3 * shapes["tail"].pitch


def test_what_a_section_turns_first_it_is_pulled_tight_as_it_lies_then():
    once = parse_strict(f"{COLD}{RIGHT}section left: start\n  rotate\n  diamond-2 (1 | 2)\n")
    plain = parse_strict(f"{COLD}section left: start\n  diamond-2 (1 | 2)\n")
    turned, hung = tight(once, "left"), tight(plain, "left")
    assert turned.pitch == pytest.approx(hung.pitch, rel=0.02)
    assert set(turned.per_end) == {"a.b", "b.b"}


def test_an_end_that_is_brought_round_is_not_led_along_the_piece():
    found, _ = piece(
        f"{COLD}{RIGHT}section turnabout: start\n  rotate\n{LEFT}"
        "section close: finish\n  add a.a at 3\n  1: over 2 3, under 3 2, up own\n"
    )
    assert len(by_look(found, "#744a9e")) == 3


def test_what_is_brought_round_reaches_as_far_as_the_closure_is_long():
    text = (
        f"{COLD}{RIGHT}section turnabout: start\n  rotate\n{LEFT}"
        "section close: finish\n  add a.a at 3\n  1: over 2 3, under 3 2, up own\n"
    )
    weave = parse_strict(text)
    shapes = {x.name: tight(weave, x.name) for x in weave.sections if x.name in ("right", "left", "close")}
    counts = {"right": 4, "left": 4, "close": 1}
    none, sliding = (whole(weave, shapes, counts, fastening) for fastening in ("none", "sliding"))
    long = [sum(float(along_of(s.line)[-1]) for s in p.strands if s.end >= 0) for p in (none, sliding)]
    assert (long[1] - long[0]) * sliding.unit_mm == pytest.approx(25 - 1.6 * sliding.unit_mm, abs=0.5)


def test_a_bead_by_itself_is_drawn_and_what_is_made_fast_is_not_missed():
    found, shapes = piece(
        f"{COLD}{RIGHT}section pearl: start\n  1: bead bone\n{LEFT}section end: finish\n  cut-and-melt (1)\n"
    )
    assert found.left_out == ()
    assert len(found.beads) == 1
    bead = found.beads[0]
    assert 4 * shapes["right"].pitch < bead.at[1] < 4 * shapes["right"].pitch + 4
    assert min(float(np.abs(np.linalg.norm(s.line - bead.at, axis=1)).min()) for s in found.strands) < 0.2


def test_beads_on_one_end_lie_one_below_the_other():
    weave = parse_strict(f"{COLD}section pearl: start\n  1: bead bone\n  1: bead bone\n  2: bead bone\n")
    found = uncrossed(weave, "pearl")
    assert [(b.ends, b.down) for b in found.beads] == [(("a.a",), 5), (("a.a",), 15), (("b.a",), 5)]
    assert found.long == 20
    assert uncrossed(parse_strict(f"{COLD}{RIGHT}"), "right") is None


def test_a_layer_does_not_make_the_piece_longer():
    band = """weave "Coat"
cords
  a  nylon-4mm  #744a9e
  b  nylon-4mm  #e0a030
hang on buckle
  b.a a.a a.b b.b
section bar: body, repeat 4
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)
"""
    coat = "section coat: body, layer over bar, repeat 5\n  half-right (1 | 2 bar 4 | 5)\n  half-left (1 | 2 bar 4 | 5)\n"
    assert piece(band + coat)[0].length_mm == piece(band)[0].length_mm


def test_frames_turn_as_the_work_does():
    half = HANGING.halved()
    assert np.allclose(half.lay(np.array([[1.0, 2.0, 3.0]]), 1.0), [[-1.0, -3.0, 3.0]])
    assert np.allclose(HANGING.quartered(True).quartered(True).down, half.down)
    assert np.allclose(HANGING.quartered(True).quartered(False).right, HANGING.right)
    assert np.allclose(HANGING.over().over().front, HANGING.front)
    # Turned so that the left side hangs down, work goes on to the left.
    assert np.allclose(HANGING.quartered(True).place(2.0), [-2.0, 0.0, 0.0])
    for f in (half, HANGING.quartered(True), HANGING.quartered(False), HANGING.over()):
        assert np.allclose(np.cross(f.right, f.down), f.front)


STITCHED = """weave "Stitched Bar"
cords
  tide  nylon-4mm      #1f6f8b
  buoy  nylon-4mm      #e07a1f
  sand  polyester-1mm  #d8c39a
hang on buckle
  buoy.a tide.a tide.b buoy.b
section bar: body, repeat 6
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)
section line: body, stitched on bar, repeat 6
  add sand.a at 1
  sand.a: over 2, under 3, up buoy.b, to left
"""


def test_stitching_runs_on_the_band_from_its_first_unit_to_its_last():
    found, shapes = piece(STITCHED)
    assert found.left_out == ()
    (thread,) = by_look(found, "#d8c39a")
    band = shapes["bar"]
    assert thread.diameter == pytest.approx(0.25)
    worked = thread.line[:-8]
    assert worked[:, 1].max() > 5 * band.pitch
    assert worked[:, 1].min() < 1.5 * band.pitch
    assert np.abs(worked[:, 0]).max() < band.width / 2 + 0.3
    assert np.ptp(worked[:, 2]) > 1.0  # in front of some of the band's cord and behind other
    assert found.length_mm == piece(STITCHED[: STITCHED.index("section line")])[0].length_mm


def test_a_thread_passes_each_cord_on_the_side_that_the_step_says():
    weave = parse_strict(STITCHED)
    past = passages(weave, "line", tight(weave, "bar"), 6, 6)["sand.a"]
    first = past[:3]
    assert [p.unit for p in first] == [0, 0, 0]
    assert {p.unit for p in past} == set(range(6))
    # Over buoy.a, which lies first, and under tide.a: as the trace has it.
    assert (first[0].in_front, first[1].in_front) == (True, False)
    assert passages(weave, "line", tight(weave, "bar"), 6, 2)["sand.a"][-1].unit == 1


@pytest.mark.parametrize("free", ["", "  span 12 mm\n"])
@pytest.mark.parametrize("step", ["over 2, under 3, up buoy.b, to left", "up left loop 1, to left"])
def test_a_thread_takes_as_much_as_it_is_laid(free, step):
    """By the rough rule it took half of it, and ran short."""
    text = STITCHED.replace("section line", f"{free}section line").replace(
        "over 2, under 3, up buoy.b, to left", step
    )
    weave = parse_strict(text)
    known = {"bar": tight(weave, "bar")}
    c = calibrate(weave, (), prior_for(weave, shapes=known))
    assert "line" in c.prior.shaped
    drawn = []
    for many in (6, 12):
        found, _ = piece(text.replace("repeat 6", f"repeat {many}"), free)
        (thread,) = by_look(found, "#d8c39a")
        drawn.append(float(along_of(thread.line)[-1]) * found.unit_mm)
    role = c.prior.role_of["sand.a"]
    assert 6 * c.per_unit(role, "line").median == pytest.approx(drawn[1] - drawn[0], rel=0.03)


LACED = """
section line: body, stitched on bar every 4, repeat 3
  add sand.a at 1
  sand.a: up right loop 1, to left
  sand.a: up left loop 1, to left
"""


def test_stitching_runs_on_over_units_that_stand_apart():
    band = STITCHED[: STITCHED.index("section line")].replace("repeat 6\n", "repeat 12\n")
    close, apart = (piece(f"{band}{free}{LACED}", free)[0] for free in ("", "  span 12 mm\n"))
    assert apart.left_out == close.left_out == ()
    threads = [by_look(f, "#d8c39a") for f in (close, apart)]
    reach = [max(float(s.line[:-8, 1].max()) for s in t) for t in threads]
    # It falls to the foot of the last four units: eleven have their free cord above that.
    assert reach[1] - reach[0] == pytest.approx(11 * 12 / apart.unit_mm, rel=0.05)


def test_stitching_is_laid_on_a_band_of_which_every_other_knot_is_mirrored():
    band = STITCHED[: STITCHED.index("section bar")]
    plain = f"{band}section bar: body, repeat 12, mirror every other\n  half-right (1 | 2 3 | 4)\n{LACED}"
    found, shapes = piece(plain)
    assert shapes["bar"].period == 2
    assert found.left_out == ()
    worked = np.vstack([s.line[:-8] for s in by_look(found, "#d8c39a")])
    assert 3.5 * shapes["bar"].pitch < float(np.ptp(worked[:, 1])) < 6 * shapes["bar"].pitch


FOUR = """weave "Two Legs"
cords
  a  nylon-4mm  #744a9e
  b  nylon-4mm  #e0a030
  c  nylon-4mm  #1f6f8b
  d  nylon-4mm  #3f7a4a
hang on bar
  a.a b.a c.a d.a
section one: body, repeat 6
  snake (1 | 2)
"""


def test_bodies_on_other_ends_begin_at_the_same_height():
    found, shapes = piece(f"{FOUR}section two: body, repeat 9\n  snake (3 | 4)\n")
    one, two = (
        [x for c in of for x in by_look(found, c) if x.line[:, 1].max() > 5.0]
        for of in (("#744a9e", "#e0a030"), ("#1f6f8b", "#3f7a4a"))
    )
    longest = 9 * shapes["two"].pitch
    assert found.length_mm == pytest.approx(longest * found.unit_mm, rel=0.1)
    # Each is knotted from the top: it crosses its own middle there.
    assert (len(one), len(two)) == (2, 2)
    for legs in (one, two):
        for s in legs:
            upper = s.line[(s.line[:, 1] > 0.5) & (s.line[:, 1] < 5.0)]
            assert float(np.ptp(upper[:, 0])) > 0.5
    assert max(float(s.line[:, 1].max()) for s in one) < 0.85 * max(float(s.line[:, 1].max()) for s in two)


def test_bodies_parted_by_a_knot_of_both_hang_below_each_other():
    """What joins all ends lies between: the second leg begins below it, and adds to the length."""
    text = (
        f"{FOUR}section join: start\n  square (1 | 2 3 | 4)\nsection two: body, repeat 6\n  snake (3 | 4)\n"
    )
    weave = parse_strict(text)
    assert on_or_beside(weave, roles(weave).sections) == frozenset()
    found, shapes = piece(text)
    assert found.length_mm > (6 * shapes["one"].pitch + 6 * shapes["two"].pitch) * found.unit_mm
    beside = parse_strict(text.replace("square (1 | 2 3 | 4)", "half-hitch (1 | 2)"))
    assert on_or_beside(beside, roles(beside).sections) == {"two"}
