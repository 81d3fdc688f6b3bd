"""The tight weave: the same knots, nothing in anything else, and the figures a maker would nod at."""

import numpy as np
import pytest

from dim_ladder.base import InputError
from dim_ladder.notation import parse_strict
from dim_ladder.shape.cell import Cell
from dim_ladder.shape.faces import SIDES, Cords, face
from dim_ladder.shape.lift import HEIGHT, lift
from dim_ladder.shape.tighten import STEP, TURN_OUT, tight, tighten
from dim_ladder.trace import close, trace
from dim_ladder.trace.display import Line
from helpers.invariants import determinant_signature, seifert_numbers
from helpers.space import closed_round, projected
from helpers.weaves import PLAIT, SPIRAL, TERN, weave_of

BAND = parse_strict(TERN)
SHAPES = {
    "band": (BAND, "bar"),
    "spiral": (parse_strict(SPIRAL), "bar"),
    "plait": (parse_strict(PLAIT), "reed"),
    "snake": (weave_of(2, "snake (1 | 2)"), "s"),
}


@pytest.fixture(scope="module")
def shapes():
    return {name: tight(*what) for name, what in SHAPES.items()}


def in_space(lines):
    """Points as the oracle takes them: to the right, away from the viewer, upwards; inside its closing arcs."""
    k = 9.0 / max(np.abs(line).max() for line in lines)
    return [[(k * float(x), -k * float(z), -k * float(y)) for x, y, z in line] for line in lines]


def one_unit(name):
    """A unit's trace, and where its ends leave."""
    weave, section = SHAPES[name]
    t = trace(weave, section=section, units=1)
    return t, [t.order.index(e) for e in range(len(t.ends))]


@pytest.mark.parametrize("name", SHAPES)
def test_lifted_it_is_the_same_link_by_a_library_that_is_not_ours(name):
    t, leave = one_unit(name)
    found = projected(closed_round(in_space(lift(t).strands), leave, list(t.start)))
    assert seifert_numbers(found) == determinant_signature(close(t))


@pytest.mark.parametrize("name", ["band", "spiral", "plait"])
def test_tightened_it_still_is(name, shapes):
    """Not the snake: it reaches so far into its neighbours that one unit cannot be led out of them. For it and all others
    see how deep cords ever lay in each other."""
    t, leave = one_unit(name)
    loose = lift(t)
    # Tight strands begin and end side by side: they are led out to their places, straight and level, before closing.
    shape = shapes[name]
    lines = []
    places = sorted(float(line[0][0]) for line in loose.strands)
    for e, line in enumerate(shape.lines):
        thin = line[:: max(1, len(line) // 40)]
        top, bottom = thin[0].copy(), line[-1].copy()
        up, down = top.copy(), bottom.copy()
        up[1], down[1] = -6.0, shape.pitch + 6.0
        up[0], up[2] = places[e], 0.0
        down[0], down[2] = places[leave[e]], 0.0
        lines.append(np.vstack([up, thin, bottom, down]))
    found = projected(closed_round(in_space(lines), leave, list(t.start)))
    assert seifert_numbers(found) == determinant_signature(close(t))


@pytest.mark.parametrize("name", SHAPES)
def test_it_comes_to_rest_and_no_cord_lies_in_another(name, shapes):
    s = shapes[name]
    assert s.converged
    assert s.overlap < TURN_OUT
    # Counted anew, by every pair: only what is near along the same cord may be closer than a diameter.
    cords = list(range(len(s.lines)))
    for orbit_end, f in enumerate(s.follow):  # strands of one cord, unit by unit, are one and the same
        cords = [cords[orbit_end] if c == cords[f] else c for c in cords]
    units = [
        s.lines[k][:-1] + np.array([0.0, u * s.pitch, 0.0]) for u in range(2) for k in range(len(s.lines))
    ]
    own = [cords[k] for _ in range(2) for k in range(len(s.lines))]
    for a in range(len(units)):
        for b in range(a):
            if own[a] != own[b]:
                assert np.linalg.norm(units[a][:, None] - units[b][None], axis=2).min() > 1 - TURN_OUT


def test_a_band_over_two_fillers_eats_what_makers_know(shapes):
    s = shapes["band"]
    workers = s.per_end["buoy.a"] + s.per_end["buoy.b"]
    assert 3.6 < s.pitch < 4.2
    assert workers / s.pitch == pytest.approx(8.8, rel=0.05)
    assert s.per_end["tide.a"] / s.pitch == pytest.approx(1.0, abs=0.05)
    assert 5 < s.width < 7
    assert 3 < s.thickness < 5


def test_the_strands_of_a_plait_eat_the_same_and_about_half_as_much_again(shapes):
    s = shapes["plait"]
    each = list(s.per_end.values())
    assert each == pytest.approx([each[0]] * 3)
    assert each[0] / s.pitch == pytest.approx(1.55, abs=0.1)


def test_the_mirrored_knot_has_the_same_size():
    right, left = (tight(weave_of(4, f"half-{side} (1 | 2 3 | 4)"), "s") for side in ("right", "left"))
    assert left.pitch == pytest.approx(right.pitch, rel=0.02)
    assert sum(left.per_end.values()) == pytest.approx(sum(right.per_end.values()), rel=0.02)


def test_the_leader_lies_in_front_and_the_other_behind(shapes):
    """Of the band's two workers one has its middle in front of the fillers, the other behind them."""
    s = shapes["band"]
    depth = {}
    for end, line in zip(s.ends, s.lines, strict=True):
        middle = np.abs(line[:, 0] - np.mean([p[:, 0].mean() for p in s.lines])) < 1.0
        depth[end] = line[middle, 2].mean()
    fillers = (depth["tide.a"] + depth["tide.b"]) / 2
    assert depth["buoy.b"] > fillers > depth["buoy.a"]  # D leads


def test_snapshots_get_tighter_and_say_when_it_is_not_tight_yet():
    pitches = [s.pitch for s in tighten(BAND, "bar", most=600)]
    assert pitches == sorted(pitches, reverse=True)
    (*_, last) = tighten(BAND, "bar", most=600)
    assert not last.converged
    assert last.steps == 600


@pytest.mark.parametrize("name", SHAPES)
def test_at_no_step_did_cords_lie_so_deep_in_each_other_that_they_could_pass(name, shapes):
    assert shapes[name].deepest < 0.6


def test_cords_that_are_made_to_pass_through_are_found_out(monkeypatch):
    monkeypatch.setattr(Cell, "push", lambda self, times: None)
    *_, last = tighten(BAND, "bar", most=2000)
    assert last.deepest > 0.9
    assert not last.converged


def test_it_is_deterministic(shapes):
    again = tight(*SHAPES["plait"])
    assert again.pitch == shapes["plait"].pitch
    assert all(np.array_equal(a, b) for a, b in zip(again.lines, shapes["plait"].lines, strict=True))


def test_what_cannot_repeat_says_so():
    for lines, message in (
        (("drop k1.a", "1: over 2"), "does not repeat"),
        (("1: bead eye",), "nothing crosses|no bead"),
        (("turn over", "1: over 2"), "does not repeat"),
    ):
        with pytest.raises(InputError, match=message):
            tight(weave_of(3, *lines), "s")


def test_near_pairs_are_those_that_every_pair_finds():
    cell = Cell(lift(trace(BAND, section="bar", units=1)), STEP)
    cell.look()
    i, j, s = cell.pairs
    found = {(int(a), int(b), int(c)) for a, b, c in zip(i, j, s, strict=True)}
    x = cell.x
    for down in range(3):
        d = np.linalg.norm(x[:, None] - (x + np.array([0, down * cell.pitch, 0]))[None], axis=2)
        for a, b in zip(*np.nonzero(d < 1.0), strict=True):
            apart = cell.strand[a] != cell.strand[b]
            joined = down and (
                cell.follow[cell.strand[a]] == cell.strand[b] or cell.follow[cell.strand[b]] == cell.strand[a]
            )
            if apart and not joined:
                assert (a, b, down) in found or (b, a, down) in found
    assert np.ptp(x[:, 2]) == pytest.approx(2 * HEIGHT)


def test_faces_draw_every_end_and_the_nearer_in_front(shapes):
    s = shapes["band"]
    cords = Cords(["#111111", "#222222", "#333333", "#444444"], [0, 1, 2, 3])
    pictures = {side: face(s, cords, side, units=3) for side in SIDES}
    assert pictures["front"].width == pytest.approx(pictures["back"].width)
    assert pictures["edge"].width < pictures["front"].width
    bodies = [p.colour for p in pictures["front"].shapes if isinstance(p, Line)]
    assert {"#111111", "#222222", "#333333", "#444444"} <= set(bodies)
    with pytest.raises(InputError, match="no side"):
        face(s, cords, "top")
