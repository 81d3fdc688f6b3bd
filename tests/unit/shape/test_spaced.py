"""Knots that stand apart in a unit: each is drawn up by itself, and they hang as far apart as they are."""

import numpy as np
import pytest

from dim_ladder.commands.checks import check_section
from dim_ladder.commands.piece import piece_of, pieces
from dim_ladder.notation import parse_strict
from dim_ladder.scale import Plan
from dim_ladder.shape import rough_shape, tight
from dim_ladder.shape.cache import key
from dim_ladder.shape.centre import known_shape
from dim_ladder.shape.faces import beads_of, cords_of, strands_of
from dim_ladder.shape.packing import packing
from dim_ladder.shape.parted import free_between, knots_apart
from dim_ladder.shape.rope import along_of
from dim_ladder.shape.spaced import opened
from dim_ladder.shape.tighten import job_for
from helpers.weaves import weave_of

NET = ("square (1 | 2 3 | 4)", "span 20 mm", "square (3 | 4 5 | 6)", "span 30 mm")
CURLS = ("span 5 mm", "half-right (1 | 2 3 | 4) repeat 4", "span 12 mm", "half-right (1 | 2 3 | 4) repeat 2")
HEAD = "weave 'W'\ncords\n  a satin-2mm #1f6f8b\n  b satin-2mm #e07a1f\nhang on ring\n  a.a b.a b.b a.b\n".replace(
    "'", '"'
)


def body(lines, more=""):
    return parse_strict(f"{HEAD}section s: body, fit{more}\n" + "".join(f"  {x}\n" for x in lines))


def point(line, part):
    """The point of a line so far along it."""
    along = along_of(line)
    return np.array([np.interp(part * along[-1], along, line[:, k]) for k in range(3)])


@pytest.fixture(scope="module")
def net():
    return tight(weave_of(6, *NET), "s")


def test_each_knot_of_a_unit_is_as_it_is_by_itself(net):
    square = tight(weave_of(4, NET[0]), "s")
    assert net.kind == "cell"
    assert net.converged
    assert net.pitch == pytest.approx(2 * square.pitch, rel=0.03)
    # An end that works in one row and is core in the other; one that hangs idle in one row.
    assert net.per_end["k3.a"] == pytest.approx(square.per_end["k1.a"] + square.per_end["k2.a"], rel=0.03)
    assert net.per_end["k2.a"] == pytest.approx(2 * square.pitch, rel=0.05)


def test_they_hang_as_far_apart_as_is_said(net):
    weave = weave_of(6, *NET)
    assert free_between(weave, "s") == (0.0, 20.0, 30.0)
    apart = opened(net)
    assert apart.pitch * 4 == pytest.approx(net.pitch * 4 + 50)
    # The first row is tied round the left, the second round the right; between them every cord lies straight.
    gap = [x[(x[:, 1] > 4.0) & (x[:, 1] < 6.5)] for x in (line - apart.lines[0][0] for line in apart.lines)]
    for x in gap:
        assert np.ptp(x[:, 1]) > 0.9 * np.linalg.norm(np.diff(x, axis=0), axis=1).sum()
    strands = strands_of(net, cords_of(weave, "s"), 3)
    assert max(np.ptp(s.line[:, 1]) for s in strands) == pytest.approx(3 * apart.pitch, rel=0.02)
    for s in strands:
        assert np.linalg.norm(np.diff(s.line, axis=0), axis=1).max() < 0.8


def test_a_piece_is_as_long_as_its_knots_and_what_is_free():
    weave = weave_of(6, *NET)
    *_, piece = pieces(weave, None, Plan())
    net = tight(weave, "s")
    assert not piece.left_out
    assert piece.length_mm == pytest.approx(12 * (net.pitch * 4 + 50), rel=0.02)


def test_knots_of_the_same_hand_curl_each_by_itself():
    weave = body(CURLS, ", spiral")
    s = tight(weave, "s")
    spiral = tight(body(CURLS[1:2]), "s")
    assert s.converged
    assert len(s.seams[0]) == 1
    assert s.per_end["a.a"] > spiral.per_end["a.a"] * 1.3
    # The work said to turn is not told that it does not.
    assert "does not" not in " ".join(text for _, text in check_section(weave, "s").notes)


@pytest.mark.parametrize(
    ("lines", "more"),
    [
        (("half-right (1 | 2 3 | 4)", "span 8 mm"), ", mirror every other"),
        (("half-right (1 | 2 3 | 4)", "span 8 mm"), ", flip every other"),
        (("half-right (1 | 2 3 | 4)", "span 8 mm", "turn over"), ""),
    ],
)
def test_what_is_turned_about_every_other_time_stands_apart_too(lines, more):
    weave = body(lines, more)
    knots = knots_apart(weave, "s")
    assert len(knots) == 2
    assert free_between(weave, "s") == (0.0, 8.0, 8.0)
    s = tight(weave, "s")
    once = tight(parse_strict(f"{HEAD}section s: finish\n  {lines[0]}\n"), "s")
    assert s.period == 2
    assert s.converged
    assert s.pitch == pytest.approx(2 * once.pitch, rel=0.03)


def test_told_out_units_are_what_the_trace_has():
    """The second knot is tied as the trace of two units ties it: the same crossings, in the same order from left to right."""
    from dim_ladder.trace import trace

    for lines, more in (
        (("1: over 2 3, under 4", "span 8 mm"), ", mirror every other"),
        (("half-right (1 | 2 3 | 4)", "span 8 mm"), ", flip every other"),
        (("half-right (1 | 2 3 | 4)", "span 8 mm", "turn over"), ""),
    ):
        weave = body(lines, more)
        two = trace(weave, section="s", units=2)
        (first, second) = (trace(w, section="s", units=1) for w in knots_apart(weave, "s"))
        assert [two.ends[e] for e in two.order] == [second.ends[e] for e in second.order]
        own = [(two.ends[c.lane_end], two.ends[c.row_end], c.lane_over) for c in two.crossings]
        told = [
            (t.ends[c.lane_end], t.ends[c.row_end], c.lane_over) for t in (first, second) for c in t.crossings
        ]
        assert sorted(told) == sorted(own)


@pytest.mark.parametrize(
    "lines",
    [
        ("square (1 | 2 3 | 4)", "span 20 mm"),  # one knot
        ("span 5 mm", "square (1 | 2 3 | 4)", "span 20 mm"),
        ("1: over 2", "span 20 mm (1 2)", "2: over 3"),  # the others are not free there
        ("square (1 | 2 3 | 4)", "square (1 | 2 3 | 4)"),
    ],
)
def test_what_is_one_piece_of_work_stays_one(lines):
    assert knots_apart(weave_of(4, *lines), "s") == ()
    assert job_for(weave_of(4, *lines), "s").rows == ()


@pytest.mark.parametrize(
    "lines",
    [
        ("1: over 2, over 2", "span 20 mm", "square (1 | 2 3 | 4)"),  # there and back comes undone
        (
            "3: over 2 1 @eye",
            "span 20 mm",
            "2: up @eye",
            "3: over 4, under 4, up own",
        ),  # through the loop above
    ],
)
def test_what_does_not_hold_by_itself_is_drawn_up_with_the_rest(lines):
    s = tight(weave_of(4, *lines), "s")
    assert not s.seams
    assert sum(s.free) == 20
    assert opened(s).pitch == pytest.approx(s.pitch + 20 / 4)


def test_naming_all_tails_is_the_same_as_naming_none():
    named = weave_of(6, *(x.replace("mm", "mm (1 2 3 4 5 6)") for x in NET))
    assert free_between(named, "s") == free_between(weave_of(6, *NET), "s")
    assert len(knots_apart(named, "s")) == 2


def test_what_is_free_beside_other_tails_is_not_added_up():
    """Two knots side by side with as much free cord below each; and all ends that are worked are as long."""
    beside = rough_shape(
        weave_of(8, NET[0], "span 20 mm (1 2 3 4)", "square (5 | 6 7 | 8)", "span 20 mm (5 6 7 8)")
    )
    assert beside.sections[0].span_mm == 20
    some = rough_shape(weave_of(6, NET[0], "span 10 mm (1 2)", NET[2])).sections[0]
    assert some.span_mm == 10
    assert set(some.slack_mm.values()) == {10.0}


def test_beads_and_loops_stand_where_they_were_put():
    text = HEAD.replace("hang", "beads\n  pip 4 mm #f4f2ec\nhang") + (
        "section s: body, fit\n  square (1 | 2 3 | 4)\n  span 15 mm\n  2+3: bead pip\n  square (1 | 2 3 | 4)\n"
        "  1: over 2, leave 20 mm\n  1: under 2\n  span 10 mm\n"
    )
    weave = parse_strict(text)
    s = tight(weave, "s")
    assert len(s.seams[0]) == 1
    (bead,) = beads_of(s, weave, 1)
    lines = opened(s).lines
    top = np.mean([x[0, 1] for x in lines])
    # Below the first knot and what is free, above the second.
    assert 15 / 2 < bead.at[1] - top < 15 / 2 + 5
    (stand,) = s.standing
    at = [point(shape.lines[stand.strand], shape.standing[0].part) for shape in (s, opened(s))]
    assert at[1] - at[0] == pytest.approx((0, 15 / 2, 0), abs=0.3)


def test_there_is_nothing_to_pack():
    weave = weave_of(6, *NET)
    assert list(packing(job_for(weave, "s"), tight(weave, "s"))) == []


def test_how_much_is_free_is_no_matter_of_the_shape(net):
    """A span that is changed draws nothing up anew."""
    more = weave_of(6, NET[0], "span 25 mm", NET[2], "span 30 mm")
    assert key(job_for(more, "s")) == key(job_for(weave_of(6, *NET), "s"))
    for found in (tight(more, "s"), known_shape(more, "s")):
        assert found.free == (0.0, 25.0, 30.0)
        assert found.pitch == net.pitch


def test_knots_of_one_hand_that_stand_apart_are_not_told_to_spiral():
    net = ("overhand (1+2)", "overhand (3+4)", "span 8 mm", "overhand (2+3)", "span 8 mm")
    turn = check_section(weave_of(4, *net), "s", wait=True).turn
    assert turn is not None
    assert turn.kind == "net"
    chain = ("overhand-chain (1 | 2)", "span 8 mm", "overhand-chain (1 | 2)", "span 8 mm")
    assert check_section(weave_of(2, *chain), "s", wait=True).turn.kind != "spiral"
    curls = (
        "half-right (1 | 2 3 | 4) repeat 4",
        "span 8 mm",
        "half-right (1 | 2 3 | 4) repeat 4",
        "span 8 mm",
    )
    assert check_section(weave_of(4, *curls), "s", wait=True).turn.kind == "spiral"


@pytest.mark.parametrize("above", [True, False])
def test_cord_slants_over_what_is_free_and_never_jumps_aside(above):
    """From row to row of a net, and from a unit to the next: wherever the free cord is said, it is that which goes aside."""
    rows = ("square (1 | 2 3 | 4)", "span 20 mm", "square (3 | 4 5 | 6)")
    weave = weave_of(6, *(("span 20 mm", *rows) if above else (*rows, "span 20 mm")))
    shape = opened(tight(weave, "s"))
    for k, f in enumerate(shape.follow):
        unit = shape.lines[k][-1] - [0.0, shape.pitch, 0.0]
        assert np.linalg.norm(unit[[0, 2]] - shape.lines[f][0][[0, 2]]) < 0.3
    *_, found = pieces(weave, None, Plan())
    worked = [s for s in found.strands if along_of(s.line)[-1] > 30]
    assert len(worked) == 6
    for strand in worked:
        along = along_of(strand.line)
        at = np.arange(0.0, along[-1], 1.5)
        x, y = (np.interp(at, along, strand.line[:, j]) for j in (0, 1))
        free = np.abs(np.diff(y)) > 0.97 * 1.5  # taut, between two knots
        assert free.sum() > len(at) / 3
        assert np.abs(np.diff(x)).max() < 1.5


def test_a_body_that_is_not_known_is_left_out_though_its_free_cord_is_there():
    weave = weave_of(6, *NET)
    found = piece_of(weave, None, Plan(), {})
    assert found.left_out == ("s",)
