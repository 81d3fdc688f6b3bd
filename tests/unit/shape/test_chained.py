"""A chain of bights with its begin and its lock: in one, as long as there are units, and the knot that was traced."""

import numpy as np
import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.chained import run_of
from dim_ladder.shape.joined import whole
from dim_ladder.trace import Tracer
from dim_ladder.trace.diagram import close
from helpers.invariants import determinant_signature, seifert_numbers
from helpers.space import closed_round, projected

HEAD = """weave "Mooring"
cords
  line  nylon-3mm  #c22f2b
  mate  nylon-3mm  #3f7a4a
hang
  {ends}
"""
ONE = """section begin: start
  line.a: over own left @k, bight up @k @k
section links: body, fit
  line.a: bight up @k @k
section lock: finish
  line.a: up @k
"""
TWO = """section begin: start
  line.a: over own left @k
  mate.a: bight up @k @m
section links: body, fit
  line.a: bight up @m @k
  mate.a: bight up @k @m
section lock: finish
  line.a: up @m
"""


def chain(text, ends="line.a"):
    return parse_strict(HEAD.format(ends=ends) + text)


def images(text):
    """As it is, seen in a mirror, from behind, and both."""
    behind = text.replace("over own", "under own").replace(" up @", " down @")
    return [text, text.replace("left", "right"), behind, behind.replace("left", "right")]


WORKS = {
    "one": (ONE, "line.a"),
    "from behind": (images(ONE)[3], "line.a"),
    "two": (TWO, "line.a mate.a"),
    "beside another": (ONE, "mate.a line.a"),
}


def shapes_of(weave):
    return {s.name: tight(weave, s.name) for s in weave.sections}


@pytest.fixture(scope="module")
def tied():
    """Each weave with its shapes."""
    return {name: (w := chain(*of), shapes_of(w)) for name, of in WORKS.items()}


def test_a_slip_knot_is_as_large_from_whichever_side_it_is_tied():
    """Its bight passes its own turn: there it is met twice, and the tip is on the bight."""
    knots = [tight(chain(text), "begin") for text in images(ONE)]
    assert all(k.converged for k in knots)
    for k in knots[1:]:
        assert k.per_end["line.a"] == pytest.approx(knots[0].per_end["line.a"], rel=0.03)
        assert k.pitch == pytest.approx(knots[0].pitch, rel=0.06)


@pytest.mark.parametrize("name", WORKS)
def test_the_lock_is_a_shape_of_its_own(tied, name):
    """At least once round the cord of the last bight, at most as much as a slip knot takes, and no longer than two units."""
    shapes = tied[name][1]
    lock, unit = shapes["lock"], shapes["links"]
    assert lock.converged
    assert not lock.passed
    assert 1.0 < lock.pitch < 2 * unit.pitch + 1
    assert 1 < lock.per_end["line.a"] - lock.pitch < 20


@pytest.mark.parametrize("name", WORKS)
@pytest.mark.parametrize("units", [2, 4, 9, 25])
def test_the_whole_piece_is_begin_units_and_lock(tied, name, units):
    weave, shapes = tied[name]
    piece = whole(weave, shapes, {"links": units}, adds_mm=0.0)
    assert piece.left_out == ()
    pitch = {n: s.pitch for n, s in shapes.items()}
    long = pitch["begin"] + units * pitch["links"] + pitch["lock"]
    assert piece.length_mm / piece.unit_mm == pytest.approx(long, rel=0.03, abs=1.5)
    for number, end in enumerate(shapes["links"].ends):
        drawn = sum(
            float(np.linalg.norm(np.diff(s.line, axis=0), axis=1).sum())
            for s in piece.strands
            if s.end == number
        )
        counted = (
            units * shapes["links"].per_end[end] + shapes["begin"].per_end[end] + shapes["lock"].per_end[end]
        )
        assert drawn == pytest.approx(counted, rel=0.1, abs=9)  # with the stubs above and below


@pytest.mark.parametrize("name", ["one", "from behind"])
@pytest.mark.parametrize("units", [2, 4, 7])
def test_what_is_drawn_is_the_knot_that_was_traced(tied, name, units):
    """By a library that is not ours, which knows only points in space."""
    weave, shapes = tied[name]
    counts = {"begin": 1, "links": units, "lock": 1}
    traced = determinant_signature(close(Tracer().trace(weave, counts=counts)))
    piece = whole(weave, shapes, counts, adds_mm=0.0)
    line = next(s.line for s in piece.strands if s.end == 0)
    tails = np.array([[0.0, 20.0, 0.0]])  # on the same straight ways
    line = np.vstack([line[:1] - tails, line[::2], line[-1:] + tails])
    points = [(float(x), float(-y), float(z)) for x, y, z in line]
    assert seifert_numbers(projected(closed_round([points], [0], [0]))) == traced
    assert traced[0] > 1


@pytest.mark.parametrize(
    "text",
    [
        ONE.replace("lock: finish", "lock: finish, repeat 2"),
        ONE.replace("section begin: start", "section begin: body"),
        ONE,
    ],
)
def test_only_what_is_tied_once_below_a_chain_is_its_lock(text):
    """Anything else says, as before, that it has no shape of its own."""
    weave = chain(text)
    found = run_of(weave, weave.section("lock"))
    assert (found is not None) == (text == ONE)
