"""How wide cord looks where it is pressed: narrower along what presses it, and wider across."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

import numpy as np

from dim_ladder.library.kinds import BULGE
from dim_ladder.shape.rope import Array, Flags, Ints

NEXT = 0.9  # diameters along one cord, nearer than which nothing of it presses on itself
BENT = 1.1  # times as far along it as straight across, less than which cord that does not bend meets itself
SMOOTH = 1.2  # diameters along the cord, over which its width changes
SAME = 1e-6  # diameters
FACING = 0.6  # of its side, towards the viewer, from where on flat cord is seen on edge
LEAST = 0.62  # of its width, the narrowest it is drawn
BESIDE = 0.8  # of the radius of what lies beside flat cord, as near as that is pressed to it


def widths(
    lines: Sequence[Array], diameters: Sequence[float], eye: Array, spread: Sequence[float] = ()
) -> list[Array]:
    """By line, at every point: how wide it looks, as a part of the diameter of that cord. lines : (n, 3) each, in diameters of the
    thickest; eye : (3,) the way to the viewer. spread : by line, how wide it lies where it is pressed flat, of its diameter."""
    count = [len(line) for line in lines]
    x = np.vstack(lines)
    strand = np.repeat(np.arange(len(lines)), count)
    r = np.repeat(np.array(diameters) / 2, count)
    t = np.vstack([np.gradient(line, axis=0) for line in lines])
    aside = np.cross(t, eye)  # across the cord, on paper
    aside /= np.maximum(np.linalg.norm(aside, axis=1), 1e-9)[:, None]
    from scipy.spatial import cKDTree  # slow to load, and nothing is drawn before a window stands

    most = np.repeat(np.array(spread or [BULGE] * len(lines)), count)
    pairs = cKDTree(x).query_pairs(float(r.max() + (r * np.maximum(most, 1.0)).max()), output_type="ndarray")
    i, j = pairs.T
    gap = np.linalg.norm(x[j] - x[i], axis=1)
    steps = [np.linalg.norm(np.diff(line, axis=0), axis=1) for line in lines]
    of, along_it = _one_from_its_middle(lines, steps)
    far = np.abs(along_it[i] - along_it[j])
    apart = (of[strand[i]] != of[strand[j]]) | (far > np.maximum(NEXT * 2 * r[i], BENT * gap))
    room = _room(x, t, aside, r, i[apart], j[apart], most <= BULGE) / r
    kept = apart & (gap < r[i] + r[j])
    i, j, gap = i[kept], j[kept], gap[kept]
    way = (x[j] - x[i]) / np.maximum(gap, 1e-9)[:, None]
    depth = 1 - gap / (r[i] + r[j])
    side, deep = np.zeros(len(x)), np.zeros(len(x))
    for node in (i, j):
        along = (way * aside[node]).sum(axis=1) ** 2
        np.maximum.at(side, node, depth * along)
        np.maximum.at(deep, node, depth * (1 - along))
    more = deep - side
    # As much as it loses one way it gains the other, as far as its threads go.
    out = np.where(more > 0, np.minimum(1 / np.maximum(1 - more, 1e-3), most), np.maximum(1 + more, LEAST))
    # Flat cord lies flat as on a board where nothing presses it.
    lies = np.where(np.abs(aside[:, 2]) < FACING, most, 1 / most)
    flat = (most > BULGE) & (more >= 0)
    out = np.where(flat & ((lies > 1) | (more == 0)), lies, out)
    parts, rooms = (np.split(v, np.cumsum(count)[:-1]) for v in (out, np.where(most > BULGE, room, np.inf)))
    found = []
    for p, at_most, d, s in zip(parts, rooms, diameters, steps, strict=True):
        n = SMOOTH * d / float(s.mean())
        # It does not come out between turns that lie so close along it.
        p = np.minimum(p, np.maximum(_least(at_most, n / 2), LEAST))
        found.append(_smoothed(_smoothed(p, n), n))
    return found


def _room(x: Array, t: Array, aside: Array, r: Array, i: Ints, j: Ints, round_: Flags) -> Array:
    """(n,) how far to its sides a cord can lie, in diameters of the thickest, before it is in round cord that lies there: flat cords overlap. i, j : pairs of points
    that are near each other; t, aside : (n, 3) along the cord there, and across it on paper; r : (n,) half its thickness;
    round_ : (n,) whether it is."""
    out = np.full(len(x), np.inf)
    for here, there in ((i, j), (j, i)):
        off = x[there] - x[here]
        along = t[here] / np.maximum(np.linalg.norm(t[here], axis=1), 1e-9)[:, None]
        far = np.abs((off * aside[here]).sum(axis=1))
        level = np.abs((off * along).sum(axis=1))
        deep = np.sqrt(np.maximum((off**2).sum(axis=1) - far**2 - level**2, 0.0))
        beside = round_[there] & (level < r[there]) & (deep < far)
        np.minimum.at(out, here[beside], (far - BESIDE * r[there])[beside])
    return out


def _least(values: Array, nodes: float) -> Array:
    """The least over so many points."""
    half = int(nodes / 2)
    padded = np.pad(values, half, mode="edge")
    return np.asarray(np.lib.stride_tricks.sliding_window_view(padded, 2 * half + 1).min(axis=1))


def _one_from_its_middle(lines: Sequence[Array], steps: Sequence[Array]) -> tuple[Ints, Array]:
    """By line, which cord it is of, and by point, how far along that: two lines that begin in one place are one cord, led both ways from there."""
    along = [np.concatenate([[0.0], np.cumsum(s)]) for s in steps]
    of = np.arange(len(lines))
    for a, b in combinations(range(len(lines)), 2):
        if of[a] == a and of[b] == b and np.linalg.norm(lines[a][0] - lines[b][0]) < SAME:
            of[b], along[b] = a, -along[b]
    return of, np.concatenate(along)


def _smoothed(values: Array, nodes: float) -> Array:
    """Running mean over so many points."""
    k = 2 * int(nodes / 2) + 1
    if k < 3 or len(values) < k:
        return values
    padded = np.pad(values, k // 2, mode="edge")
    sums = np.concatenate([[0.0], np.cumsum(padded)])
    return np.asarray((sums[k:] - sums[:-k]) / k, np.float64)


def filled(line: Array, most: float = 0.5) -> Array:
    """The same line with more points where they are further apart than that. line : (n, 3 and more), a place and what else goes along: what is
    drawn in short pieces, each reaching a point under its neighbours, is seen in none of them where points are few."""
    gap = np.linalg.norm(np.diff(line[:, :3], axis=0), axis=1)
    if gap.max(initial=0.0) <= most:
        return line
    more = np.ceil(np.maximum(gap / most, 1.0)).astype(int)
    u = np.concatenate([k + np.arange(m) / m for k, m in enumerate(more)] + [[len(gap)]])
    at = np.arange(len(line))
    return np.column_stack([np.interp(u, at, of) for of in line.T])
