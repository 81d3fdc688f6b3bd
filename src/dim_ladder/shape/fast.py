"""The same as shape/contact.py and shape/pull.py, compiled. Without the interpreter's lock: the window goes on meanwhile."""

# mypy: disable-error-code="no-untyped-def, untyped-decorator, no-untyped-call"

from __future__ import annotations

import os
from math import cos, sin, sqrt

import numpy as np

from dim_ladder.shape.cache import compiled

# What is compiled is kept for the next time, where it can be written.
os.environ["NUMBA_CACHE_DIR"] = str(compiled())

from numba import njit

from dim_ladder.shape.contact import Pairs
from dim_ladder.shape.fastforces import ANY_ORDER, forces, nearest, what_pulls
from dim_ladder.shape.fastnear import near, softened
from dim_ladder.shape.pull import BELOW, CAP, DELAY, FASTER, MIX, MIX_LESS, MOST_STRETCH, MOST_TURN, SLOWER
from dim_ladder.shape.rope import Rope

__all__ = ["near", "run", "softened"]

LOOKS = 12.0  # times as much as things came nearer in the last step, for which what may touch is good
LOOKS_FOR = 0.02  # diameters, that it is good for at least: some more pairs to try, and few looks while it hardly moves


def run(
    r: Rope,
    p: Pairs,
    stiff: float,
    slowest: float,
    steps: int,
    free: tuple[bool, bool],
    room: float,
    cap: float = CAP,
    stretch: float = 0.0,
) -> tuple[int, float, float, float]:
    """As shape/pull.py: run."""
    cell = np.array([r.pitch, r.angle])
    cords, near_, hands = what_pulls(r, p)
    done, energy, deepest, least = _run(
        r.x, r.v, r.fixed, cell, len(r.held) > 0, free[0], free[1], r.drive, cords, near_, hands,
        stiff, slowest, steps, room, float(r.room().max()) + room, cap, stretch,
    )  # fmt: skip
    r.pitch, r.angle = float(cell[0]), float(cell[1])
    return int(done), float(energy), float(deepest), float(least)


@njit(cache=True, nogil=True, fastmath=ANY_ORDER)
def _run(
    x, v, fixed, cell, held, free_pitch, free_angle, drive, cords, near_, hands, stiff, slowest, steps, room, nearby, cap, stretch
):  # fmt: skip
    n = len(x)
    f = np.empty_like(x)
    m, xf, vf, ff_ = 3 * n, x.reshape(-1), v.reshape(-1), f.reshape(-1)
    held_nodes = np.flatnonzero(fixed)
    repeats = cords[-1]
    dt, mix, since, vp, va = drive[0], drive[1], drive[2], drive[3], drive[4]
    if dt <= 0:
        dt, mix, since, vp, va = 0.3 * slowest, MIX, 0.0, 0.0, 0.0
    moved, deepest, least = 0.0, 0.0, 1.0
    # Of what is near, what may touch is looked for anew only when things have come nearer by so much.
    active, count, slack, nearer, last = np.empty(len(near_[0]), np.uint32), 0, 0.0, 1.0, 0.0
    done = 0
    for _ in range(steps):
        pitch, angle = cell[0], cell[1]
        if nearer > slack:
            slack, nearer = max(LOOKS * last, LOOKS_FOR), 0.0
            count = nearest(x, cell, near_, slack, active)
        _, fp, fa, deep, apart = forces(x, f, cell, stiff, False, cords, near_, active[:count], hands)
        deepest, least = max(deepest, deep), min(least, apart)
        # FIRE
        mp, ma = 1.0, 1.0
        if repeats:
            middle = 0.0
            for k in range(n):
                middle += x[k, 1]
            middle /= n
            mp, ma = 0.0, 0.0
            for k in range(n):
                part = (x[k, 1] - middle) / pitch
                mp += part * part
                ma += part * part * (x[k, 0] ** 2 + x[k, 2] ** 2 + 0.1)
            if held:
                mp = min(mp, n * (BELOW / pitch) ** 2)
        fp = (fp + stretch) / sqrt(mp) if free_pitch else 0.0
        fa = fa / sqrt(ma) if free_angle else 0.0
        power = fp * vp + fa * va
        for node in held_nodes:
            f[node] = 0.0
        for q in range(m):
            power += ff_[q] * vf[q]
        if power > 0:
            since += 1
            if since > DELAY:
                dt, mix = min(dt * FASTER, slowest), mix * MIX_LESS
        else:
            since, mix, dt = 0.0, MIX, max(dt * SLOWER, 0.02 * slowest)
            v[:] = 0.0
            vp = va = 0.0
        vp, va = vp + dt * fp, va + dt * fa
        vv, ff = vp * vp + va * va, fp * fp + fa * fa
        for q in range(m):
            vf[q] += dt * ff_[q]
            vv += vf[q] * vf[q]
            ff += ff_[q] * ff_[q]
        blend = mix * sqrt(vv / ff) if ff > 0 else 0.0
        for q in range(m):
            vf[q] = (1 - mix) * vf[q] + blend * ff_[q]
        fastest = 0.0
        for k in range(n):
            fastest = max(fastest, v[k, 0] * v[k, 0] + v[k, 1] * v[k, 1] + v[k, 2] * v[k, 2])
        vp, va = (1 - mix) * vp + blend * fp, (1 - mix) * va + blend * fa
        fastest = sqrt(fastest)
        go = min(1.0, cap / max(fastest * dt, 1e-12))
        for q in range(m):
            xf[q] += go * dt * vf[q]
        moved += go * dt * fastest
        last = 2 * go * dt * fastest
        if free_pitch or free_angle:
            middle = 0.0
            for k in range(n):
                middle += x[k, 1]
            middle /= n
        if free_pitch:
            change = go * dt * vp / sqrt(mp)
            change = max(-MOST_STRETCH * pitch, min(MOST_STRETCH * pitch, change))
            for k in range(n):
                x[k, 1] = middle + (x[k, 1] - middle) * (1 + change / pitch)
            pitch += change
            moved += (nearby / pitch if held else 1.0) * abs(change)
            last += nearby / pitch * abs(change)
        if free_angle:
            change = max(-MOST_TURN, min(MOST_TURN, go * dt * va / sqrt(ma)))
            wide = 0.0
            for k in range(n):
                at = change * (x[k, 1] - middle) / pitch
                wide = max(wide, x[k, 0] ** 2 + x[k, 2] ** 2)
                c, s_ = cos(at), sin(at)
                x[k, 0], x[k, 2] = c * x[k, 0] + s_ * x[k, 2], c * x[k, 2] - s_ * x[k, 0]
            angle += change
            moved += abs(change) * sqrt(wide)
            last += nearby / pitch * abs(change) * sqrt(wide)
        nearer += last
        cell[0], cell[1] = pitch, angle
        done += 1
        if moved > room:
            break
    drive[0], drive[1], drive[2], drive[3], drive[4] = dt, mix, since, vp, va
    count = nearest(x, cell, near_, 0.0, active)
    energy, _, _, deep, apart = forces(x, f, cell, stiff, True, cords, near_, active[:count], hands)
    return done, energy, max(deepest, deep), min(least, apart)
