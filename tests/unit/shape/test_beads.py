"""Beads take their room: what lies round them is pushed aside."""

import numpy as np
import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import fast, tight
from dim_ladder.shape.engine import plain
from dim_ladder.shape.faces import beads_of, cords_of, strands_of
from dim_ladder.shape.respaced import respaced
from dim_ladder.shape.rope import rope
from dim_ladder.shape.tighten import job_for
from helpers.weaves import TERN

AT_THE_EDGES = TERN.replace("\nhang", "\nbeads\n  jet  8 mm  #222222\n\nhang").replace(
    "  half-left (1 | 2 3 | 4)\n", "  half-left (1 | 2 3 | 4)\n  1: bead jet\n  4: bead jet\n"
)
PEARLS = """weave "Pearls"
cords
  line  polyester-1mm  #1b2e5a
beads
  pearl  {} mm  #f4f2ec
hang on loop
  line.a line.b
section beads: body, fit
  {}
  1+2: bead pearl
"""


@pytest.fixture(scope="module")
def beaded():
    return tight(parse_strict(AT_THE_EDGES), "bar")


def test_a_band_with_beads_is_longer_and_wider(beaded):
    bare = tight(parse_strict(TERN), "bar")
    assert beaded.converged
    assert beaded.width > 1.1 * bare.width
    assert beaded.pitch > 1.02 * bare.pitch
    assert beaded.per_end["buoy.a"] == pytest.approx(beaded.per_end["buoy.b"], rel=0.03)


def test_no_cord_runs_through_a_bead(beaded):
    """But for the one that it is threaded on, every cord stays outside: its middle by as much as it does not give."""
    weave = parse_strict(AT_THE_EDGES)
    found = beads_of(beaded, weave, 3)
    assert len(found) == 6
    lines = strands_of(beaded, cords_of(weave, "bar"), 3)
    for bead in found[2:4]:  # those of the middle unit
        near = sorted(float(np.linalg.norm(s.line - bead.at, axis=1).min()) for s in lines)
        assert near[0] < 0.15  # its own
        assert near[1] > bead.radius + 0.2


def test_two_beads_on_one_cord_lie_one_after_the_other():
    text = AT_THE_EDGES.replace("  1: bead jet\n  4: bead jet\n", "  2: bead jet\n  2: bead jet\n")
    weave = parse_strict(text)
    shape = tight(weave, "bar")
    one = tight(parse_strict(text.replace("  2: bead jet\n  2: bead jet\n", "  2: bead jet\n")), "bar")
    assert shape.converged
    assert shape.pitch > one.pitch + 1.0
    a, b = beads_of(shape, weave, 1)
    assert float(np.linalg.norm(a.at - b.at)) > 0.85 * (a.radius + b.radius)
    assert abs(a.at[1] - b.at[1]) > 0.8 * (a.radius + b.radius)


def test_a_bead_as_thin_as_its_cord_changes_nothing():
    thin = job_for(parse_strict(AT_THE_EDGES.replace("8 mm", "4 mm")), "bar")
    assert thin.curves.beads == ()
    assert [name for _, _, name, _ in thin.beads] == ["jet", "jet"]


def test_it_grows_where_it_is_and_both_engines_see_it():
    job = job_for(parse_strict(AT_THE_EDGES), "bar")
    r = rope(job.curves, 0.35)
    assert r.room().max() == pytest.approx(0.5)
    for _ in range(40):
        r.grow(0.03)
    assert r.room().max() == pytest.approx(1.0)  # 8 mm on cord of 4 mm
    one, other = plain().near(r, 0.3), fast.near(r, 0.3)

    def seen(p):
        return sorted(zip(p.rest[: p.touching].round(6).tolist(), p.down[: p.touching].tolist(), strict=True))

    assert len(one.rest) == len(other.rest)
    assert sorted(x for x, _ in seen(one)) == sorted(x for x, _ in seen(other))
    again = respaced(r, 0.25)
    assert again.room().max() == pytest.approx(1.0)
    assert np.abs(again.x[again.bead] - r.x[r.bead]).max() < 0.35


IN_THE_MIDDLE = TERN.replace("\nhang", "\nbeads\n  shell  12 mm  #eeeeee\n\nhang").replace(
    "  half-left (1 | 2 3 | 4)\n", "  half-left (1 | 2 3 | 4)\n  2+3: bead shell\n"
)


def test_a_bead_on_two_ends_is_one_bead_in_the_middle():
    weave = parse_strict(IN_THE_MIDDLE)
    s = tight(weave, "bar")
    assert s.converged
    (ball,) = beads_of(s, weave, 1)
    assert abs(ball.at[0]) < 0.6
    assert abs(ball.at[2]) < 0.4
    # Both run through it, side by side; what is worked round them goes round it, alike on both sides.
    near = sorted(
        float(np.linalg.norm(x.line - ball.at, axis=1).min())
        for x in strands_of(s, cords_of(weave, "bar"), 3)
    )
    assert near[1] < 0.7
    assert near[2] > ball.radius
    assert s.per_end["buoy.a"] == pytest.approx(s.per_end["buoy.b"], rel=0.03)
    assert s.per_end["tide.a"] == pytest.approx(s.pitch, rel=0.1)
    assert s.pitch > 1.5 * tight(parse_strict(TERN), "bar").pitch


def test_both_ends_in_a_bead_are_held_side_by_side_in_both_engines():
    r = rope(job_for(parse_strict(IN_THE_MIDDLE), "bar").curves, 0.35)
    for _ in range(60):
        r.grow(0.03)
    for by in (plain(), fast):
        p = by.near(r, 0.3)
        held = {(int(a), int(b)) for a, b in zip(p.i[p.bound :], p.j[p.bound :], strict=True)}
        assert {frozenset(h) for h in held} == {frozenset(int(k) for k in r.bead)}
        both = (
            np.isin(p.i[: p.touching], r.bead)
            & np.isin(p.j[: p.touching], r.bead)
            & (p.down[: p.touching] == 0)
        )
        assert p.rest[: p.touching][both] == pytest.approx(1.0)  # as cord, not as two beads


def test_a_bead_on_two_cords_that_hang_apart_draws_them_in():
    """A string of knots and pearls, each on both ends: longer by what a larger pearl is, and nothing passed anything on its way there."""
    shapes = {
        mm: tight(parse_strict(PEARLS.format(mm, "overhand-round (1 | 2)")), "beads") for mm in (2, 4, 6)
    }
    assert all(s.converged and not s.passed for s in shapes.values())
    longer = [(shapes[b].pitch - shapes[a].pitch) * shapes[a].unit_mm for a, b in ((2, 4), (4, 6))]
    assert longer == pytest.approx([2.0, 2.0], abs=0.9)


ROW = """weave "Row"
cords
  a  cotton-3mm  #1f6f8b
  b  cotton-3mm  #d8c39a
  c  cotton-3mm  #e07a1f
beads
  pea 8 mm #3f7a4a
hang on bar
  a.a a.b b.a b.b c.a c.b
section bars: body, fit
  {}
"""


@pytest.mark.parametrize("knot", ["overhand-chain (1 | 2)", "reef (1 | 2)\n  snake (1 | 2)"])
def test_a_bead_on_both_ends_stands_below_the_knot_that_both_tied(knot):
    """Not in a turn of it that lies beside where they hang: longer by what a larger pearl is, and on both ends after all that is tied."""
    shapes = {mm: tight(parse_strict(PEARLS.format(mm, knot)), "beads") for mm in (2, 4, 6)}
    assert all(s.converged and not s.passed for s in shapes.values())
    assert all(part > 0.8 for s in shapes.values() for _, part, *_ in s.beads)
    longer = [(shapes[b].pitch - shapes[a].pitch) * shapes[a].unit_mm for a, b in ((2, 4), (4, 6))]
    # And a little more: a larger one sinks less far between the two cords of the knot.
    assert all(2.0 < more < 2.4 for more in longer)


def test_a_bead_on_two_ends_in_a_row_draws_no_cord_long_on_its_way():
    """A bead that was drawn in at once pulled its cords out beside it into pieces so long that others could have passed through them."""
    steps = "bar-right (1 | 2..6)\n  3+4: bead pea\n  bar-left (1..5 | 6)"
    shape = tight(parse_strict(ROW.format(steps)), "bars")
    assert shape.converged
    assert not shape.passed
