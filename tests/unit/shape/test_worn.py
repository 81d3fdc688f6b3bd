"""The whole piece closed round: its ends meet, its front is outside, and it is as long in its middle as it was."""

import numpy as np
import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.joined import Whole, whole
from dim_ladder.shape.rope import along_of
from dim_ladder.shape.worn import worn
from helpers.weaves import TERN


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


def test_its_two_ends_meet_and_its_middle_is_in_front(closed):
    piece, held = closed
    for flat, bent in zip(piece.strands, held.strands, strict=True):
        first, last = (int(k(flat.line[:, 1])) for k in (np.argmin, np.argmax))
        if np.ptp(flat.line[:, 1]) > long_of(piece) - 0.1:
            apart = abs(np.linalg.norm(bent.line[first, [0, 2]]) - np.linalg.norm(bent.line[last, [0, 2]]))
            assert apart < 1.0
            ways = [np.arctan2(bent.line[k, 0], bent.line[k, 2]) for k in (first, last)]
            assert np.cos(ways[0] - ways[1]) > 0.99
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
        radius = long_of(piece) / (2 * np.pi)
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


def test_a_knob_lies_in_its_loop():
    loose, closed = band("none", 14, "hang on cold-start"), band("loop-and-stopper", 14, "hang on cold-start")
    assert loose.laps == 0
    assert closed.laps * closed.unit_mm == pytest.approx(12)
    round_it = worn(closed)
    radius = (long_of(closed) - closed.laps) / (2 * np.pi)
    assert round_it.wide / 2 > radius
    # The middle of the knob is where the loop is.
    ball = round_it.beads[0].at
    loop = min(
        (s for s in round_it.strands if s.end < 0),
        key=lambda s: float(np.linalg.norm(s.line - ball, axis=1).min()),
    )
    assert np.linalg.norm(loop.line - ball, axis=1).min() < round_it.beads[0].radius + 1.5


def test_what_is_too_short_does_not_close():
    assert worn(band(count=1, hang="hang on cold-start")) is None
    assert worn(Whole((), 4.0, 0.0, ())) is None
