"""Which pieces of cord are near each other, and how they give way: the same as shape/contact.py says, compiled."""

# mypy: disable-error-code="no-untyped-def, untyped-decorator, no-untyped-call"

from __future__ import annotations

import os
from dataclasses import replace
from math import cos, floor, inf, pi, sin

import numpy as np

from dim_ladder.shape.cache import compiled

# What is compiled is kept for the next time, where it can be written.
os.environ["NUMBA_CACHE_DIR"] = str(compiled())

from numba import njit

from dim_ladder.shape.apart import drawn_apart
from dim_ladder.shape.contact import (
    BENDING,
    BENDS,
    FADING,
    HALF_TURN,
    PIECE,
    SKIN,
    SOFT_TURN,
    Pairs,
    led_as_one,
    reach_down,
    with_bends,
)  # fmt: skip
from dim_ladder.shape.rope import Rope


def near(r: Rope, skin: float = SKIN, turn: float = HALF_TURN) -> Pairs:
    """As shape/contact.py: near."""
    h = r.spacing()
    room = 64 * len(r.x) + 1024
    while True:
        i, j, down = (np.empty(room, np.int64) for _ in range(3))
        m = _near(
            r.x, r.room(), r.cord, r.far, r.unit, r.total, r.units, r.closed, h, float(r.pitch), float(r.angle), reach_down(r, skin),
            skin, float(turn), i, j, down,
        )  # fmt: skip
        if m >= 0:
            break
        room *= 4
    bent = _bends(r.nxt, r.down, r.cord, r.radius, h, np.array(BENDS))
    return with_bends(r, i[:m], j[:m], down[:m], bent, h)


def softened(r: Rope, p: Pairs, times: float = 1.0) -> Pairs:
    """As shape/contact.py: softened."""
    t = p.touching
    flat = led_as_one(r, p.i[:t], p.j[:t]) if r.curves.stacked else np.zeros(0, bool)
    rest, floor_, soft = _softened(
        p.i, p.j, p.down, p.rest, t, p.bound, r.gives(), r.radius, r.room(), r.spacing(), r.cord, r.far, r.unit, r.total, r.units,
        r.closed, flat, times * r.curves.soft / PIECE,
    )  # fmt: skip
    return replace(p, rest=rest, floor=floor_, soft=soft, drawn=drawn_apart(r))


@njit(cache=True, nogil=True)
def _bends(nxt, down, cord, radius, h, along):
    n = len(nxt)
    i, j, s = (
        np.empty(len(along) * n, np.int64),
        np.empty(len(along) * n, np.int64),
        np.empty(len(along) * n, np.int64),
    )
    rest = np.empty(len(along) * n)
    m = 0
    for b in along:
        for k in range(n):
            piece, d = h[cord[k]], 2.0 * radius[k]
            many = max(2, int(np.rint(b * d / piece)))
            at, units = k, 0
            for _ in range(many):
                units += down[at]
                at = nxt[at]
                if at < 0:
                    break
            if at >= 0:
                i[m], j[m], s[m], rest[m] = k, at, units, d * sin(min(many * piece / d, pi / 2))
                m += 1
    return i[:m], j[:m], s[:m], rest[:m]


@njit(cache=True, nogil=True)
def _softened(
    pi_, pj, ps, far_apart, touching, bound, gives, radius, room, h, cord, far, unit, total, units, closed, flat, hard
):  # fmt: skip
    many = len(far_apart)
    rest, floor_, soft = far_apart.copy(), far_apart.copy(), np.zeros(many)
    for m in range(min(many, bound)):
        i, j = pi_[m], pj[m]
        c, o = cord[i], cord[j]
        give = (gives[i] * radius[i] + gives[j] * radius[j]) / (room[i] + room[j])
        soft[m] = hard * h[c] * h[o] / (radius[i] + radius[j]) ** 3
        if m >= touching:
            give *= BENDING
        else:
            if len(flat) and flat[m]:
                give = 0.0
            arc = inf
            if c == o:
                ahead = ps[m] + unit[i] - unit[j]
                if ahead % units[c] == 0:
                    along = abs(far[j] + ahead // units[c] * total[c] - far[i])
                    if closed[c]:
                        along = min(along, total[c] - along)
                    arc = along * h[c] / (2.0 * radius[i])
            if arc < HALF_TURN:
                into = min(max((arc - SOFT_TURN) / FADING, 0.0), 1.0)
                rest[m] *= sin(arc) * into * (2.0 - into)
        floor_[m] = rest[m] * (1.0 - give)
    return rest, floor_, soft


@njit(cache=True, nogil=True)
def _near(x, radius, cord, far, unit, total, units, closed, h, pitch, angle, reach, skin, turn, oi, oj, od):
    n = len(x)
    size = 2.0 * radius.max() + skin
    low = np.array([x[:, a].min() for a in range(3)])
    dims = np.array([int((x[:, a].max() - low[a]) / size) + 1 for a in range(3)])
    first = np.full(dims[0] * dims[1] * dims[2], -1)
    other = np.empty(n, np.int64)
    for k in range(n - 1, -1, -1):
        box = (int((x[k, 0] - low[0]) / size) * dims[1] + int((x[k, 1] - low[1]) / size)) * dims[2]
        box += int((x[k, 2] - low[2]) / size)
        other[k], first[box] = first[box], k
    m = 0
    for s in range(reach + 1):
        c, sn = cos(angle * s), sin(angle * s)
        for j in range(n):
            px = c * x[j, 0] + sn * x[j, 2]
            py = x[j, 1] + s * pitch
            pz = c * x[j, 2] - sn * x[j, 0]
            bx, by, bz = floor((px - low[0]) / size), floor((py - low[1]) / size), floor((pz - low[2]) / size)
            if by > dims[1]:
                continue
            for ix in range(max(bx - 1, 0), min(bx + 2, dims[0])):
                for iy in range(max(by - 1, 0), min(by + 2, dims[1])):
                    for iz in range(max(bz - 1, 0), min(bz + 2, dims[2])):
                        i = first[(ix * dims[1] + iy) * dims[2] + iz]
                        while i >= 0:
                            k, i = i, other[i]
                            if s == 0 and j <= k:
                                continue
                            rest = radius[k] + radius[j]
                            dx, dy, dz = px - x[k, 0], py - x[k, 1], pz - x[k, 2]
                            if dx * dx + dy * dy + dz * dz >= (rest + skin) ** 2:
                                continue
                            q = cord[k]
                            if q == cord[j]:
                                ahead = s + unit[k] - unit[j]
                                if ahead % units[q] == 0:
                                    along = abs(far[j] + ahead // units[q] * total[q] - far[k])
                                    if closed[q]:
                                        along = min(along, total[q] - along)
                                    if along * h[q] < turn * rest:
                                        continue
                            if m >= len(oi):
                                return -1
                            oi[m], oj[m], od[m] = k, j, s
                            m += 1
    return m
