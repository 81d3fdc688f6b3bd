"""Beads between knots, on cords of a chain, and on cord that slides as it is drawn up: they are where they were threaded."""

import numpy as np
import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.chained import bare
from dim_ladder.shape.faces import beads_of, cords_of, strands_of
from dim_ladder.shape.joined import whole
from dim_ladder.shape.parted import knots_apart
from dim_ladder.shape.recurring import placed, rolled
from dim_ladder.shape.rope import along_of, rope
from dim_ladder.shape.threaded import keep_between, with_crossings
from dim_ladder.shape.tighten import job_for
from dim_ladder.shape.uncrossed import uncrossed
from dim_ladder.trace.roles import section_work

HEAD = """weave "Sanderling"
cords
  a  nylon-4mm  #1f6f8b
  b  nylon-4mm  #e07a1f
beads
  pearl  10 mm  #d8b04a
  jet     6 mm  #222222
hang on cold-start
  a.a b.a
"""


def worked(text, ends="a.a b.a"):
    return parse_strict(HEAD.replace("a.a b.a", ends) + text)


BETWEEN = "section s: finish\n  button-two (1 | 2)\n{}  overhand (1)\n  overhand (2)\n"


@pytest.fixture(scope="module")
def without():
    return tight(worked(BETWEEN.format("")), "s")


def test_a_bead_on_all_ends_parts_the_knots_above_and_below_it(without):
    weave = worked(BETWEEN.format("  1+2: bead pearl\n"))
    assert len(knots_apart(weave, "s")) == 3
    s = tight(weave, "s")
    assert s.converged
    alone = [
        tight(worked(f"section s: finish\n{x}"), "s") for x in ("  button-two (1 | 2)\n", "  overhand (1)\n")
    ]
    least = sum(x.pitch for x in alone) + 10 / 4
    assert least - 0.1 < s.pitch < least + 1.5
    assert s.per_end["a.a"] == pytest.approx(
        alone[0].per_end["a.a"] + alone[1].per_end["a.a"] + 10 / 4, abs=1.5
    )


def test_no_cord_runs_through_a_bead_between_knots():
    weave = worked("section s: body\n  1+2: bead pearl\n  diamond-2 (1 | 2)\n")
    s = tight(weave, "s")
    assert s.converged
    _, ball, _ = beads_of(s, weave, 3)
    for strand in strands_of(s, cords_of(weave, "s"), 3):
        off = strand.line - ball.at
        away = np.linalg.norm(off, axis=1)
        # What runs through it does so once, near its middle; nothing else lies in it.
        inside = np.flatnonzero(away < ball.radius - 0.1)
        assert (np.diff(inside) == 1).all()
        middle = inside[np.abs(off[inside, 1]) < 0.6 * ball.radius]
        assert len(middle)
        assert (np.hypot(off[middle, 0], off[middle, 2]) < 0.75).all()


def test_beads_side_by_side_on_all_ends_part_them_too():
    found = tight(worked("section s: body\n  1: bead jet\n  2: bead jet\n  double-connection (1 | 2)\n"), "s")
    once = tight(worked("section s: body\n  double-connection (1 | 2)\n"), "s")
    assert found.converged
    assert found.pitch > once.pitch + 0.8 * 6 / 4
    a, b = (found.lines[k] for k in (0, 1))
    gap = np.abs(a[:8, 0] - b[:8, 0])
    assert gap.max() > 1.3  # as wide as both are, and not as cord


def test_a_bead_on_the_core_alone_stays_in_its_knot():
    weave = worked("section s: body\n  half-right (1 | 2 3 | 4)\n  2+3: bead pearl\n", "a.a b.a b.b a.b")
    assert knots_apart(weave, "s") == ()


def test_a_bead_alone_on_two_ends_is_on_both_in_the_whole_piece():
    weave = worked("section s: body\n  double-connection (1 | 2)\nsection p: finish\n  1+2: bead pearl\n")
    (bead,) = uncrossed(weave, "p").beads
    assert bead.ends == ("a.a", "b.a")
    made = whole(weave, {"s": tight(weave, "s")}, {"s": 2, "p": 1})
    (ball,) = made.beads
    for strand in made.strands[:2]:
        off = strand.line - ball.at
        here = np.abs(off[:, 1]) < 0.3
        assert here.any()
        assert np.hypot(off[here, 0], off[here, 2]).max() < 0.75


CHAIN = """weave "Beaded"
cords
  line  nylon-3mm  #c22f2b
beads
  seed  5 mm  #e0e0c0
hang
  line.a
section begin: start
  line.a: over own left @k, bight up @k @k
section links: body, fit
  line.a: {before}bight up @k @k{after}
section lock: finish
  line.a: up @k
"""


@pytest.fixture(scope="module")
def plain_chain():
    weave = parse_strict(CHAIN.format(before="", after=""))
    return {s.name: tight(weave, s.name) for s in weave.sections}


def test_every_unit_of_a_chain_has_its_bead(plain_chain):
    weave = parse_strict(CHAIN.format(before="bead seed, ", after=""))
    (stands,) = rolled(placed(weave, "links"), "links").stands
    assert (stands.end, stands.what.text) == (0, "seed")
    shapes = {s.name: tight(weave, s.name) for s in weave.sections}
    assert all(s.converged for s in shapes.values())
    # Begin and lock are what they are without.
    assert shapes["lock"].pitch == pytest.approx(plain_chain["lock"].pitch, rel=1e-6)
    made = whole(weave, shapes, {"begin": 1, "links": 7, "lock": 1})
    assert made.left_out == ()
    down = np.sort([b.at[1] for b in made.beads])
    assert len(down) == 7
    assert np.diff(down) == pytest.approx(shapes["links"].pitch, rel=0.35)


def test_slack_stands_in_every_unit_of_a_chain(plain_chain):
    weave = parse_strict(CHAIN.format(before="", after=", leave 20 mm"))
    shapes = {s.name: tight(weave, s.name) for s in weave.sections}
    made, plain = (whole(weave, x, {"begin": 1, "links": 6, "lock": 1}) for x in (shapes, plain_chain))
    assert made.left_out == ()
    long = [float(along_of(m.strands[0].line)[-1]) for m in (made, plain)]
    assert long[0] - long[1] == pytest.approx(6 * 20 / 3, rel=0.06)


def test_what_stands_in_the_begin_or_the_lock_leaves_that_out_and_says_so():
    text = CHAIN.format(before="", after="").replace("  line.a: up @k\n", "  line.a: bead seed, up @k\n")
    weave = parse_strict(text)
    made = whole(weave, {s.name: tight(weave, s.name) for s in weave.sections}, {"links": 6})
    assert made.left_out == ("lock",)
    assert bare(weave).section("lock").items != weave.section("lock").items


def test_a_bead_is_brought_back_between_its_crossings():
    """Nodes keep their place as a part of their cord; a bead does not, where the cord is drawn out on one side of it."""
    weave = worked("section s: body\n  half-right (1 | 2 3 | 4)\n  2: bead jet\n", "a.a b.a b.b a.b")
    r = rope(with_crossings(job_for(weave, "s").curves), 0.35)
    (above, below) = (int(i) for i, *_ in sorted(r.between, key=lambda x: x[3] % 2))
    cord, total = r.cord[r.bead[0]], int(r.total[r.cord[r.bead[0]]])

    def further(a, b):
        return int(r.far[b] - r.far[a]) % total

    span = further(above, below)
    assert 0 < further(above, r.bead[0]) < span
    for past in (4, span // 2):  # beyond the crossing below it, and beyond the one above
        node = below if past == 4 else above
        for _ in range(past):
            node = int(r.nxt[node]) if past == 4 else int(np.flatnonzero(r.nxt == node)[0])
        r.bead[0] = node
        for _ in range(40):
            keep_between(r)
        assert r.cord[r.bead[0]] == cord
        assert 0 < further(above, r.bead[0]) < span


def test_beads_by_themselves_are_as_long_as_they_are():
    """The cords beside them too: all hang from one knot to the next."""
    text = "section p: finish\n  1: bead jet\n  1+2: bead pearl\n  3: bead jet\n"
    work = section_work(worked(text, "a.a b.a b.b a.b"), "p")
    assert work.span == pytest.approx(16)
    assert work.layers == 0
    assert set(work.slack.values()) == {16.0}


def test_many_ends_lie_within_their_bead():
    """Side by side four would be wider than it is."""
    weave = worked(
        "section s: finish\n  1+2+3+4: bead pearl\n  overhand (1+2)\n  overhand (3+4)\n", "a.a b.a b.b a.b"
    )
    s = tight(weave, "s")
    assert s.converged
    (ball,) = beads_of(s, weave, 1)
    for strand in strands_of(s, cords_of(weave, "s"), 1):
        off = strand.line - ball.at
        here = np.abs(off[:, 1]) < 0.5
        assert np.hypot(off[here, 0], off[here, 2]).max() < ball.radius
    alone = worked(
        "section s: body\n  square (1 | 2 3 | 4)\nsection p: finish\n  1+2+3+4: bead pearl\n",
        "a.a b.a b.b a.b",
    )
    made = whole(alone, {"s": tight(alone, "s")}, {"s": 2, "p": 1})
    (ball,) = made.beads
    for strand in made.strands[:4]:
        off = strand.line - ball.at
        here = np.abs(off[:, 1]) < 0.5
        assert np.hypot(off[here, 0], off[here, 2]).max() < ball.radius
