"""Front, back and edge of a tight shape, as pictures."""

import re
from collections import Counter
from itertools import pairwise

import numpy as np
import pytest

from dim_ladder.base import InputError
from dim_ladder.commands.checks import check_section
from dim_ladder.notation import parse_strict
from dim_ladder.picture.display import PAPER, Label, Line
from dim_ladder.publish.svg import to_svg
from dim_ladder.shape import tight
from dim_ladder.shape.charts import contact_map, cord_bars
from dim_ladder.shape.faces import SIDES, Cords, Strand, _thinned, cords_of, draw, face, strands_of, worked
from dim_ladder.shape.sheath import SHEATHS, Look, cord_pieces, sheath_of
from dim_ladder.trace import trace
from helpers.weaves import PLAIT, TERN

FOUR = Cords([Look(c, k) for k, c in enumerate(("#aa1111", "#11aa11", "#1111aa", "#aaaa11"))])


def test_every_end_is_drawn_from_every_side(shapes):
    pictures = {side: face(shapes["band"], FOUR, side, units=3) for side in SIDES}
    assert pictures["front"].width == pytest.approx(pictures["back"].width)
    assert pictures["edge"].width < pictures["front"].width
    outlines = {p.colour for p in pictures["front"].shapes if isinstance(p, Line)}
    assert len(outlines) > 20
    with pytest.raises(InputError, match="no side"):
        face(shapes["band"], FOUR, "top")


def test_what_lies_in_front_is_drawn_last():
    line = np.column_stack([np.linspace(0, 4, 20), np.zeros(20), np.zeros(20)])
    across = line[:, [1, 0, 2]] + np.array([2.0, -2.0, 1.0])
    under, over = Strand(line, Look("#ff0000"), 1.0, 0), Strand(across, Look("#0000ff"), 1.0, 1)
    for strands in ((under, over), (over, under)):
        front = [s.colour for s in draw(strands, "front").shapes]
        back = [s.colour for s in draw(strands, "back").shapes]
        assert _hue(front[-1]) == "blue"
        assert _hue(back[-1]) == "red"


def _hue(colour):
    r, b = int(colour[1:3], 16), int(colour[5:7], 16)
    return "red" if r > b else "blue"


def test_a_cord_keeps_its_look_wherever_it_goes(shapes):
    """Over the units of a plait every cord comes to every place: each is one line without a break."""
    s = shapes["plait"]
    strands = strands_of(s, cords_of(parse_strict(PLAIT), "reed"), 6)
    assert [x.end for x in strands] == [0, 1, 2]
    for x in strands:
        assert np.linalg.norm(np.diff(x.line, axis=0), axis=1).max() < 0.4
        assert np.ptp(x.line[:, 1]) > 5 * s.pitch


def test_what_goes_round_is_seen_from_above_instead_of_on_edge():
    text = 'weave "Ring"\ncords\n  tide  nylon-4mm  #1f6f8b\nhang on former\n  tide.a\nsection ring: body, on former, leads 3 bights 5\n'
    weave = parse_strict(text)
    ring = tight(weave, "ring", 40.0)
    cords = cords_of(weave, "ring")
    front, above = face(ring, cords, "front"), face(ring, cords, "edge")
    assert "from above" in above.title
    assert front.width > 1.5 * front.height
    assert above.width == pytest.approx(above.height, rel=0.05)


def test_a_spiral_turns_on_its_way_down(shapes):
    s = shapes["spiral"]
    strands = strands_of(s, FOUR, 12)
    filler = strands[1].line
    turned = np.unwrap(np.arctan2(filler[:, 0], filler[:, 2]))
    assert abs(turned[-1] - turned[0]) == pytest.approx(12 * abs(s.angle), rel=0.05)


def test_ends_are_named_once_above_and_once_below(shapes):
    picture = face(shapes["band"], FOUR, "front", names=True)
    names = [s.text for s in picture.shapes if isinstance(s, Label)]
    assert sorted(names) == sorted(2 * ["A", "B", "C", "D"])
    labels = [s for s in picture.shapes if isinstance(s, Label)]
    for row in (labels[:4], labels[4:]):
        x = [s.x for s in row]
        assert min(b - a for a, b in pairwise(x)) > 14  # they can be read


@pytest.mark.parametrize("sheath", SHEATHS)
@pytest.mark.parametrize("width", [3.0, 8.0, 24.0])
def test_the_sheath_is_drawn_where_it_can_be_seen(sheath, width):
    line = np.column_stack([np.linspace(0, 20 * width, 60), np.zeros(60), np.zeros(60)])
    pieces = cord_pieces(line, Look("#1f6f8b", 0, sheath), width, 1.0, -1.0, PAPER)
    marks = [x for p in pieces for x in p.lines if x.width == pytest.approx(width * 0.055)]
    assert bool(marks) == (width > 11)
    # Marks lie on the cord.
    for x in marks:
        assert all(abs(at[1]) <= width * 0.5 for _, at in x.path)
    # A cord that keeps its depth needs few pieces, one that dives needs more: none reaches from one cord to the next.
    assert len(pieces) == (6 if width < 5 else 15)
    dives = line + np.column_stack([np.zeros(60), np.zeros(60), np.linspace(-3, 3, 60)])
    deep = cord_pieces(dives, Look("#1f6f8b", 0, sheath), width, 3.0, -3.0, PAPER)
    apart = [b.depth - a.depth for a, b in pairwise(deep)]
    assert len(deep) > len(pieces)
    assert max(apart) < 0.8


def test_kinds_of_cord_have_their_sheath():
    assert [sheath_of(k) for k in ("nylon-4mm", "cotton-3mm", "polyester-1mm", "")] == [
        "braid",
        "twist",
        "smooth",
        "braid",
    ]


def test_at_forty_millimetres_on_paper_it_is_light_to_draw(shapes):
    """Printed small, a piece is an outline, a body and, unless it lies deep, its light: no sheath."""
    s = shapes["band"]
    small = face(
        s, cords_of(parse_strict(TERN), "bar"), "front", units=10, scale=40 / 25.4 * 96 / 6 / s.width
    )
    widths = Counter(round(x.width / small.shapes[0].width, 2) for x in small.shapes)
    assert set(widths) == {1.0, 0.86, 0.42}
    assert widths[1.0] > 50 < widths[0.86]
    assert 0 < widths[0.42] < widths[0.86]
    # Every point of an outline is one of a body: nothing is lost where pieces are drawn together.
    outlines, bodies = (
        {a for x in small.shapes if round(x.width / small.shapes[0].width, 2) == w for a in x.path}
        for w in (1.0, 0.86)
    )
    assert outlines == bodies
    assert len(to_svg(small)) < 400_000


def test_all_tails_of_what_is_tied_once_are_shown():
    """A straight tail has a point at either end: it is cut between them, not left out."""
    line = np.array([[0.0, -9, 0], [0, 0, 0], [1, 0.5, 0], [0, 1, 0], [0, 9, 0]])
    other = line * [1, 1, 1] + [3, -0.5, 0]
    for shown in worked([line, other], 1.5, 1.5):
        assert shown[0, 1] == pytest.approx(-2.0)
        assert shown[-1, 1] == pytest.approx(2.0)
        assert (np.diff(shown[:, 1]) >= 0).all()


def test_a_turn_that_is_seen_edge_on_keeps_its_tip():
    """A cord that goes round another and back on itself, on paper: the few points of a small picture are where it turns."""
    u = np.linspace(-np.pi / 2, np.pi / 2, 41)
    hairpin = np.column_stack([0.04 * np.sin(u) * 8, 9 * np.cos(u), 0 * u, np.ones(41)])
    tip = hairpin[:, 1].max()
    thin = _thinned(hairpin)
    assert len(thin) < len(hairpin)
    assert thin[:, 1].max() > 0.97 * tip


MOVED = """weave "Moved"
cords
  a  nylon-4mm  #744a9e
  b  nylon-4mm  #e0a030
hang on ring
  a.a a.b b.a b.b
section head: start
  {}
section legs: body, fit, spiral
  half-right (1 | 2 3 | 4)
"""


@pytest.mark.parametrize("head", ["4: over 3 2 1", "crown-4 (1 | 2 | 3 | 4)", "1: over 2 3"])
def test_letters_are_those_that_the_ends_have_from_where_they_first_hung(head):
    """Where an earlier section moved them, the picture, the bars, what presses on what and the check name the same ends."""
    weave = parse_strict(MOVED.format(head))
    one = trace(weave, section="legs", units=1)
    letters = {e: "ABCD"[("a.a", "a.b", "b.a", "b.b").index(e)] for e in one.ends}
    assert list(letters) != ["a.a", "a.b", "b.a", "b.b"]
    shape, cords = tight(weave, "legs"), cords_of(weave, "legs")
    by_end = dict(zip(shape.ends, strands_of(shape, cords, 1), strict=True))
    for e, strand in by_end.items():
        assert strand.letter == letters[e]
        assert strand.look.colour == weave.cord_of(e).colour
    top = [
        s.text for s in face(shape, cords, units=1, names=True).shapes if isinstance(s, Label) and s.y < 20
    ]
    assert top == [letters[e] for e in sorted(by_end, key=lambda e: float(by_end[e].line[0, 0]))]
    bars = cord_bars(shape, cords)
    assert [s.text for s in bars.shapes if isinstance(s, Label)][::2] == [letters[e] for e in shape.per_end]
    for e, mm in shape.taken_mm().items():
        assert f"{letters[e]} {mm:.0f} mm" in bars.title
    said = re.findall(r"\b([A-Z]) on ([A-Z])\b", contact_map(shape, cords).title)
    names = [letters[e] for e in shape.ends]
    assert said == [(names[a], names[b]) for a, b, _ in sorted(shape.touching, key=lambda t: -t[2])[:8]]
    workers = sorted(letters[e] for e in (one.ends[0], one.ends[3]))
    said = dict(check_section(weave, "legs").notes)["meant"]
    assert f": {workers[0]} and {workers[1]} turn about each other" in said
