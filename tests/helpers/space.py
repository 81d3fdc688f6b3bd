"""Cords as polygons in space, and the links they are: an oracle that knows nothing of scripts and drawings."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import spherogram

Point = tuple[float, float, float]


def closed_round(
    strands: Sequence[Sequence[Point]], leave: Sequence[int], keep: Sequence[int]
) -> list[list[Point]]:
    """Closed curves of the strands in `keep`: from the bottom of each place round on the right to its top.

    strands : points from top to bottom, tops in the order of their places. leave : place of each one's bottom.
    """
    order = sorted(keep, key=lambda e: leave[e])
    follows = dict(zip(order, keep, strict=True))
    out: list[list[Point]] = []
    left = set(keep)
    while left:
        at, curve = min(left), []
        while at in left:
            left.remove(at)
            to, nest = follows[at], 10.0 + len(keep) - order.index(at)
            (x0, y, _), (x1, _, _) = strands[at][-1], strands[to][0]
            curve += [*strands[at], (x0, y, -nest), (nest, y, -nest), (nest, y, nest), (x1, y, nest)]
            at = to
        out.append(curve)
    return out


def in_a_ring(
    lines: Sequence[np.ndarray],
    pitch: float,
    units: int = 1,
    *,
    follow: Sequence[int] = (),
    angle: float = 0.0,
) -> list[np.ndarray]:
    """So many units bent round to a ring that closes, as the oracle takes it: to the right, away from the viewer, upwards.

    lines : (n, 3) of one unit, each going on in the next one in the line `follow`, itself by default. angle : by which a unit turns, which
    is taken out.
    """
    flat = []
    for line in lines:
        along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
        # Near each other: straight pieces stay inside the bent ones.
        at = np.unique(np.concatenate([along, np.linspace(0, along[-1], max(8, round(along[-1] / 0.3)))]))
        x, y, z = (np.interp(at, along, line[:, k]) for k in range(3))
        turn = -angle * y / pitch
        c, s = np.cos(turn), np.sin(turn)
        flat.append(np.column_stack([c * x + s * z, y, c * z - s * x]))
    wide = 3 * max(1.0, *(float(np.abs(f[:, ::2]).max()) for f in flat))
    out = []
    left = {(k, u) for k in range(len(lines)) for u in range(units)}
    while left:
        k, u = min(left)
        parts = []
        while (k, u) in left:
            left.remove((k, u))
            p = flat[k][:-1] + np.array([0.0, u * pitch, 0.0])
            turn = 2 * np.pi * p[:, 1] / (units * pitch)
            far = wide - p[:, 0]  # on the way down, the right of the picture lies inwards
            parts.append(np.column_stack([far * np.cos(turn), -p[:, 2], far * np.sin(turn)]))
            k, u = follow[k] if follow else k, (u + 1) % units
        out.append(np.vstack(parts))
    return out


def projected(curves: Sequence[Sequence[Point]], seed: int = 1) -> spherogram.Link:
    """The link of closed polygons, seen from a direction drawn by `seed`."""
    turn, _ = np.linalg.qr(np.random.default_rng(seed).normal(size=(3, 3)))
    turn[:, 0] *= np.sign(np.linalg.det(turn))
    parts = [np.asarray(c) @ turn for c in curves]
    a = np.concatenate(parts)
    d = np.concatenate([np.roll(p, -1, axis=0) - p for p in parts])
    owner = np.concatenate([np.full(len(p), c) for c, p in enumerate(parts)])
    visits: list[list[tuple[float, int, bool]]] = [[] for _ in parts]
    right: list[bool] = []  # whether the over piece runs to the left of the under piece
    first = np.cumsum([0, *(len(p) for p in parts)])
    for i in range(len(a)):
        for j in range(i + 1, len(a)):
            size = len(parts[owner[i]])
            if owner[i] == owner[j] and (j - i) % size in (1, size - 1):
                continue
            across = d[i, 0] * d[j, 1] - d[i, 1] * d[j, 0]
            if not across:  # side by side
                continue
            w = a[j] - a[i]
            s, t = (w[0] * d[j, 1] - w[1] * d[j, 0]) / across, (w[0] * d[i, 1] - w[1] * d[i, 0]) / across
            if not (0 < s < 1 and 0 < t < 1):
                continue
            i_over = a[i, 2] + s * d[i, 2] > a[j, 2] + t * d[j, 2]
            for k, f, over in ((i, s, i_over), (j, t, not i_over)):
                visits[owner[k]].append((k - first[owner[k]] + f, len(right), bool(over)))
            right.append(bool((across > 0) == i_over))
    under: dict[int, tuple[int, int]] = {}
    over: dict[int, tuple[int, int]] = {}
    label = 0
    for seen in visits:
        for at, (_, n, is_over) in enumerate(sorted(seen)):
            (over if is_over else under)[n] = (label + at + 1, label + (at + 1) % len(seen) + 1)
        label += len(seen)
    return spherogram.Link(
        [
            [under[n][0], over[n][1], under[n][1], over[n][0]]
            if right[n]
            else [under[n][0], over[n][0], under[n][1], over[n][1]]
            for n in range(len(right))
        ]
    )
