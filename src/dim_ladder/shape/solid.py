"""The tight weave as solid bodies: a skin round every cord, as thick as it lies where it is pressed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dim_ladder.shape.faces import Bead, Strand
from dim_ladder.shape.ribbons import widths
from dim_ladder.shape.rope import Array, Ints
from dim_ladder.shape.sheath import Look

AROUND = 12  # points of a skin round its cord


@dataclass(frozen=True, slots=True)
class Body:
    """points : (n, 3) in diameters. corners : (m, 3) of its triangles, seen from outside against the clock. end : whose, -1 a bead."""

    points: Array
    corners: Ints
    colour: str
    end: int


def bodies(strands: Sequence[Strand], beads: Sequence[Bead] = ()) -> list[Body]:
    """Of every cord and bead one closed body."""
    lines = [s.line for s in strands]
    frames = [_frame(line) for line in lines]
    count = np.cumsum([len(line) for line in lines])[:-1]
    tangent, first, second = (np.vstack([f[k] for f in frames]) for k in range(3))
    rings: list[list[Array]] = [[] for _ in lines]
    for k in range(AROUND // 2):
        a = 2 * np.pi * k / AROUND
        out = np.cos(a) * first + np.sin(a) * second
        part = widths(
            lines, [s.diameter for s in strands], np.cross(out, tangent), [s.spread for s in strands]
        )
        for ring, way, wide, s in zip(rings, np.split(out, count), part, strands, strict=True):
            ring.append(way * (wide * s.diameter / 2)[:, None])
    found = []
    for s, ring in zip(strands, rings, strict=True):
        skin = s.line + np.stack([*ring, *(-r for r in ring)])  # (around, n, 3)
        found.append(_closed(np.asarray(skin.transpose(1, 0, 2)), s))
    return found + [_ball(b) for b in beads]


def _frame(line: Array) -> tuple[Array, Array, Array]:
    """At every point the way of the cord and two ways across it, that turn as little as they can along it."""
    t = np.gradient(line, axis=0)
    t /= np.maximum(np.linalg.norm(t, axis=1), 1e-9)[:, None]
    u = np.zeros_like(t)
    now = np.eye(3)[int(np.argmin(np.abs(t[0])))]
    for k, way in enumerate(t):
        now = now - (now @ way) * way
        now /= max(float(np.linalg.norm(now)), 1e-9)
        u[k] = now
    return t, u, np.cross(t, u)


def _closed(skin: Array, s: Strand) -> Body:
    """skin : (n, around, 3). Its ends are closed by a point in their middle."""
    n, m = skin.shape[:2]
    points = np.vstack([skin.reshape(-1, 3), s.line[:1], s.line[-1:]])
    at = np.arange(n - 1)[:, None] * m + np.arange(m)[None]
    beside = np.arange(n - 1)[:, None] * m + (np.arange(m)[None] + 1) % m
    sides = np.concatenate(
        [np.stack([at, beside, at + m], axis=-1), np.stack([beside, beside + m, at + m], axis=-1)]
    ).reshape(-1, 3)
    k = np.arange(m)
    head = np.stack([np.full(m, n * m), (k + 1) % m, k], axis=-1)
    foot = np.stack([np.full(m, n * m + 1), (n - 1) * m + k, (n - 1) * m + (k + 1) % m], axis=-1)
    return Body(points, np.concatenate([sides, head, foot]).astype(np.int64), s.look.colour, s.end)


def _ball(b: Bead) -> Body:
    turn = np.linspace(0, np.pi, 9)
    line = b.at + np.column_stack([0 * turn, -np.cos(turn), 0 * turn]) * b.radius
    k = np.linspace(0, 2 * np.pi, AROUND, endpoint=False)
    ring = np.column_stack([np.cos(k), 0 * k, -np.sin(k)])
    skin = line[:, None] + ring[None] * (np.sin(turn) * b.radius)[:, None, None]
    return _closed(skin, Strand(line, Look(b.colour), 2 * b.radius, -1))
