"""The whole piece closed round: its ends meet, its front is outside, and it is as long in its middle as it was."""

from dataclasses import replace

import numpy as np
import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.joined import whole
from dim_ladder.shape.rope import along_of
from dim_ladder.shape.whole import Whole
from dim_ladder.shape.worn import off_the_body, worn
from helpers.weaves import SPIRAL, TERN


def band(fastening="none", count=14, hang="hang"):
    weave = parse_strict(TERN.replace("hang\n", f"{hang}\n"))
    return whole(weave, {"bar": tight(weave, "bar")}, {"bar": count}, fastening)


def long_of(piece: Whole) -> float:
    every = np.concatenate([s.line[:, 1] for s in piece.strands])
    return float(np.ptp(every))


@pytest.fixture(scope="module")
def closed():
    piece = band()
    return piece, worn(piece)


def test_the_middle_of_its_length_is_in_front(closed):
    piece, held = closed
    middle = (
        min(s.line[:, 1].min() for s in piece.strands) + max(s.line[:, 1].max() for s in piece.strands)
    ) / 2
    line, bent = piece.strands[0].line, held.strands[0].line
    k = int(np.argmin(np.abs(line[:, 1] - middle)))
    assert bent[k, 2] == max(s.line[:, 2].max() for s in held.strands) or abs(bent[k, 0]) < 1.0


def test_what_lies_in_the_middle_of_its_thickness_is_as_long(closed):
    piece, held = closed
    for flat, bent in zip(piece.strands, held.strands, strict=True):
        # What is in front is drawn out, what is behind is pressed together, by as much as it is further out.
        radius = (long_of(piece) - piece.laps) / (2 * np.pi)
        most = np.abs(flat.line[:, 2]).max() / radius
        long = [float(along_of(s.line)[-1]) for s in (flat, bent)]
        assert abs(long[1] / long[0] - 1) < most + 0.01
    fillers = [k for k, s in enumerate(piece.strands) if along_of(s.line)[-1] < 1.4 * long_of(piece)]
    for k in fillers[:2]:
        flat, bent = (along_of(s.strands[k].line)[-1] for s in (piece, held))
        assert bent == pytest.approx(flat, rel=0.04)


def test_the_front_is_outside_and_nothing_is_seen_in_a_mirror(closed):
    """Crossings keep their hand: the triple product of three neighbouring points' ways is of the same sign."""
    piece, held = closed
    around = np.vstack([s.line for s in held.strands])
    middle = (around.min(axis=0) + around.max(axis=0)) / 2
    for flat, bent in zip(piece.strands, held.strands, strict=True):
        out = np.hypot(bent.line[:, 0] - middle[0], bent.line[:, 2] - middle[2])
        if np.ptp(flat.line[:, 2]) > 1.0:
            assert np.corrcoef(out, flat.line[:, 2])[0, 1] > 0.8
        a, b = (
            np.linalg.det(np.stack([np.diff(x, k, axis=0)[: len(x) - 3] for k in (1, 2, 3)], axis=1))
            for x in (flat.line, bent.line)
        )
        clear = np.abs(a) > 1e-4
        if clear.sum() > 20:
            assert (np.sign(a[clear]) == np.sign(b[clear])).mean() > 0.9


@pytest.mark.parametrize(
    ("fastening", "adds", "hang"), [("loop-and-stopper", 12, "hang on cold-start"), ("side-buckle", 32, "hang on buckle"), ("none", 0, "hang")]
)  # fmt: skip
def test_closed_it_is_as_long_as_its_work_and_what_closes_it(fastening, adds, hang):
    """So a loop and its knob lie one in the other, and the halves of a buckle."""
    piece = band(fastening, 14, hang)
    found = worn(piece)
    around = 2 * np.pi * middle_of(piece, found)
    assert around * piece.unit_mm == pytest.approx(piece.length_mm + adds, abs=0.5)


def middle_of(piece, found):
    """How far from the axis what lies in the middle of the thickness is."""
    flat, bent = piece.strands[0].line, found.strands[0].line
    a = np.hypot(*(bent[:, [0, 2]] - axis_of(found)).T) - flat[:, 2]
    assert np.ptp(a) < 0.2
    return float(np.median(a))


def axis_of(found):
    """Of a circle, least squares (Kasa 1976), through what lies level."""
    p = np.vstack([s.line[:, [0, 2]] for s in found.strands[1:3]])
    x = np.linalg.lstsq(np.column_stack([2 * p, np.ones(len(p))]), (p**2).sum(axis=1), rcond=None)[0]
    return x[:2]


def test_what_is_too_short_does_not_close():
    assert worn(band(count=1, hang="hang on cold-start")) is None
    assert worn(Whole((), 4.0, 0.0, ())) is None


def test_what_winds_keeps_off_a_body_as_its_edge_and_its_face_do_on_average():
    flat, spiral = (tight(parse_strict(text), "bar") for text in (TERN, SPIRAL))
    assert off_the_body(flat) == flat.thickness
    assert spiral.thickness < off_the_body(spiral) < spiral.width
    # An oval in support, all round: how far it reaches on either side of its middle, one direction after the other.
    way = np.linspace(0, np.pi, 2000, endpoint=False)
    reach = 2 * np.hypot(spiral.width / 2 * np.cos(way), spiral.thickness / 2 * np.sin(way))
    assert off_the_body(spiral) == pytest.approx(reach.mean(), rel=1e-3)
    # What turns so slowly that it can be laid on its face is as thick as that.
    assert off_the_body(replace(spiral, angle=np.radians(3.0))) == spiral.thickness
