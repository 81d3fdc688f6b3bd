"""The same as shape/contact.py and shape/pull.py, compiled. Without the interpreter's lock: the window goes on meanwhile."""

# mypy: disable-error-code="no-untyped-def, untyped-decorator, no-untyped-call"

from __future__ import annotations

import os
from math import cos, exp, floor, log, sin, sqrt

import numpy as np

from dim_ladder.shape.cache import compiled

# What is compiled is kept for the next time, where it can be written.
os.environ["NUMBA_CACHE_DIR"] = str(compiled())

from numba import njit

from dim_ladder.shape.apart import OVER
from dim_ladder.shape.contact import HALF_TURN, SKIN, Pairs, reach_down, with_bends
from dim_ladder.shape.pull import (
    ALMOST,
    BELOW,
    CAP,
    DELAY,
    DRAWN_IN,
    EVEN,
    FASTER,
    MIX,
    MIX_LESS,
    MOST_MORE,
    MOST_STRETCH,
    MOST_TURN,
    SLOWER,
)
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
    i, j, down = i[:m], j[:m], down[:m]
    return with_bends(r, h, i, j, down)


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
) -> tuple[int, float, float]:
    """As shape/pull.py: run."""
    cell = np.array([r.pitch, r.angle])
    on = np.array([r.curves.press, r.curves.flat]) * r.spacing().mean()
    line, on_line = r.in_line()
    done, energy, deepest = _run(
        r.x, r.v, r.fixed, r.nxt, r.down, r.cord, r.pull, r.edges, r.group, r.taut, r.before, r.beside(), np.array(r.curves.walls), p.i, p.j, p.down, p.rest, p.floor, p.soft, p.drawn.turn, p.drawn.out, p.drawn.force, p.touching, p.bound, r.curves.core, on, r.laid(), r.curves.near, line, on_line * r.spacing().mean(), cell,
        r.curves.repeats, len(r.held) > 0, free[0], free[1], r.drive, stiff, slowest, steps, room, float(r.room().max()) + room, cap, stretch,
    )  # fmt: skip
    r.pitch, r.angle = float(cell[0]), float(cell[1])
    return int(done), float(energy), float(deepest)


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


@njit(cache=True, nogil=True)
def _mean(values, group, of):
    whole, many = 0.0, 0
    for q in range(len(values)):
        if group[q] == of:
            whole += values[q]
            many += 1
    return whole / many


@njit(cache=True, nogil=True)
def _run(
    x, v, fixed, nxt, down, cord, pull, edges, group, taut, before, beside, walls, pi_, pj, ps, rest, floor, soft, times, out, force, touching, bound, core, on, laid, near_, line, on_line, cell, repeats, held, free_pitch, free_angle, drive,
    stiff, slowest, steps, room, nearby, cap, stretch,
):  # fmt: skip
    n = len(x)
    f = np.empty_like(x)
    w, one = np.empty(len(pull)), np.empty(len(pull))
    square, long, more = np.empty(len(pull)), np.empty(len(pull)), np.empty(len(pull))
    borne, nodes = np.zeros((beside.max() + 1, 3)), np.zeros(beside.max() + 1)
    for k in range(n):
        nodes[beside[k]] += 1
    most = 1
    for k in range(n):
        most = max(most, down[k])
    for k in range(len(ps)):
        most = max(most, ps[k])
    cs, sn = np.empty(most + 1), np.empty(most + 1)
    dt, mix, since, vp, va = drive[0], drive[1], drive[2], drive[3], drive[4]
    if dt <= 0:
        dt, mix, since, vp, va = 0.3 * slowest, MIX, 0.0, 0.0, 0.0
    moved, deepest, energy = 0.0, 0.0, 0.0
    far, sums = np.empty(len(force)), np.empty(len(force))
    done = 0
    for _ in range(steps):
        pitch, angle = cell[0], cell[1]
        for k in range(most + 1):
            cs[k], sn[k] = cos(angle * k), sin(angle * k)
        # tension
        square[:] = 0.0
        f[:] = 0.0
        for k in range(n):
            j = nxt[k]
            if j < 0:
                continue
            s = down[k]
            ex = cs[s] * x[j, 0] + sn[s] * x[j, 2] - x[k, 0]
            ey = x[j, 1] + s * pitch - x[k, 1]
            ez = cs[s] * x[j, 2] - sn[s] * x[j, 0] - x[k, 2]
            square[cord[k]] += ex * ex + ey * ey + ez * ez
        energy = 0.0
        for q in range(len(pull)):
            long[q] = sqrt(edges[q] * square[q])
            energy += pull[q] * long[q]
        for q in range(len(pull)):
            more[q] = 0.0
            if group[q] >= 0:
                off = long[q] - _mean(long, group, group[q])
                more[q] = min(max(EVEN * off, -MOST_MORE * pull[q]), MOST_MORE * pull[q])
                energy += abs(more[q]) * (abs(off) - abs(more[q]) / EVEN / 2)
        for q in range(len(pull)):
            tension = pull[q] + more[q]
            if group[q] >= 0:
                tension -= _mean(more, group, group[q])
            one[q] = sqrt(edges[q] / square[q])
            w[q] = tension * one[q]
        fp, fa = 0.0, 0.0
        for k in range(n):
            j = nxt[k]
            if j < 0:
                continue
            s = down[k]
            bx = cs[s] * x[j, 0] + sn[s] * x[j, 2]
            bz = cs[s] * x[j, 2] - sn[s] * x[j, 0]
            u = w[cord[k]]
            ex, ey, ez = bx - x[k, 0], x[j, 1] + s * pitch - x[k, 1], bz - x[k, 2]
            fx, fy, fz = u * ex, u * ey, u * ez
            f[k, 0] += fx
            f[k, 1] += fy
            f[k, 2] += fz
            f[j, 0] -= cs[s] * fx - sn[s] * fz
            f[j, 1] -= fy
            f[j, 2] -= cs[s] * fz + sn[s] * fx
            if repeats:
                part = ey / pitch
                fp -= fy * part
                fa -= (fx * bz - fz * bx) * part
        # what is held straight; whoever holds a work holds all of it
        borne[:] = 0.0
        for k in range(len(taut)):
            if taut[k] == 0:
                continue
            j = before[k]
            s = down[j]
            ex = cs[s] * x[k, 0] + sn[s] * x[k, 2] - x[j, 0]
            ez = cs[s] * x[k, 2] - sn[s] * x[k, 0] - x[j, 2]
            gx, gy, gz = cs[s] * ex - sn[s] * ez, x[k, 1] + s * pitch - x[j, 1], cs[s] * ez + sn[s] * ex
            s, i = down[k], nxt[k]
            u, q = taut[k] * one[cord[k]], beside[k]
            fx = u * (cs[s] * x[i, 0] + sn[s] * x[i, 2] - x[k, 0] - gx)
            fy = u * (x[i, 1] + s * pitch - x[k, 1] - gy)
            fz = u * (cs[s] * x[i, 2] - sn[s] * x[i, 0] - x[k, 2] - gz)
            f[k, 0] += fx
            f[k, 1] += fy
            f[k, 2] += fz
            borne[q, 0] += fx / nodes[q]
            borne[q, 1] += fy / nodes[q]
            borne[q, 2] += fz / nodes[q]
        if len(taut) > 0:
            for k in range(n):
                for a in range(3):
                    f[k, a] -= borne[beside[k], a]
        # contact
        for m in range(len(pi_)):
            k, j, s = pi_[m], pj[m], ps[m]
            bx = cs[s] * x[j, 0] + sn[s] * x[j, 2]
            bz = cs[s] * x[j, 2] - sn[s] * x[j, 0]
            ex, ey, ez = bx - x[k, 0], x[j, 1] + s * pitch - x[k, 1], bz - x[k, 2]
            d2 = ex * ex + ey * ey + ez * ez
            if d2 >= rest[m] * rest[m] and m < bound:
                continue
            d = sqrt(d2)
            deep = rest[m] - d
            if m < touching:
                deepest = max(deepest, deep / rest[m])
            room_ = max(rest[m] - floor[m], 1e-12)
            given = min(max(deep, 0.0), ALMOST * room_)
            hard = deep - given
            press = 0.0
            if soft[m] > 0:
                left = 1 - (given / room_) ** 2
                press = soft[m] * given / left
                energy -= 0.5 * soft[m] * room_ * room_ * log(left)
            drawn_in = max(hard, -DRAWN_IN)
            energy += press * hard + stiff * drawn_in * (hard - 0.5 * drawn_in)
            u = -(press + stiff * drawn_in) / max(d, 1e-9)
            fx, fy, fz = u * ex, u * ey, u * ez
            f[k, 0] += fx
            f[k, 1] += fy
            f[k, 2] += fz
            f[j, 0] -= cs[s] * fx - sn[s] * fz
            f[j, 1] -= fy
            f[j, 2] -= cs[s] * fz + sn[s] * fx
            if repeats:
                part = ey / pitch
                fp -= fy * part
                fa -= (fx * bz - fz * bx) * part
        if core > 0:
            for k in range(n):
                off = sqrt(x[k, 0] ** 2 + x[k, 2] ** 2)
                if off < core:
                    energy += 0.5 * stiff * (core - off) ** 2
                    f[k, 0] += stiff * (core - off) * x[k, 0] / max(off, 1e-9)
                    f[k, 2] += stiff * (core - off) * x[k, 2] / max(off, 1e-9)
        for a in range(2):
            if on[a] > 0:
                for k in range(n):
                    away = abs(x[k, a + 1])
                    held_to = on[a] * laid[cord[k]] if a == 1 else on[a]
                    if a == 1 or away < near_:
                        f[k, a + 1] -= held_to * max(-1.0, min(1.0, x[k, a + 1]))
                    else:
                        away = near_
                    energy += held_to * (away * away / 2 if away < 1 else away - 0.5)
        for k in range(len(line)):
            off = x[k, 0] - line[k]
            away = abs(off)
            f[k, 0] -= on_line[k] * max(-1.0, min(1.0, off))
            energy += on_line[k] * (away * away / 2 if away < 1 else away - 0.5)
        if len(force) > 0:
            far[:] = -1e9
            sums[:] = 0.0
            for k in range(n):
                q = times[k]
                if q >= 0:
                    far[q] = max(far[q], x[k, 0] * out[k, 0] + x[k, 2] * out[k, 2])
            for k in range(n):
                q = times[k]
                if q >= 0:
                    sums[q] += exp((x[k, 0] * out[k, 0] + x[k, 2] * out[k, 2] - far[q]) / OVER)
            for k in range(n):
                q = times[k]
                if q >= 0:
                    u = force[q] * exp((x[k, 0] * out[k, 0] + x[k, 2] * out[k, 2] - far[q]) / OVER) / sums[q]
                    f[k, 0] += u * out[k, 0]
                    f[k, 2] += u * out[k, 2]
            for q in range(len(force)):
                energy -= force[q] * (far[q] + OVER * log(sums[q]))
        for k in range(n):
            above, below = max(walls[0] - x[k, 1], 0.0), max(x[k, 1] - walls[1], 0.0)
            f[k, 1] += stiff * (above - below)
            energy += 0.5 * stiff * (above * above + below * below)
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
        for k in range(n):
            if fixed[k]:
                f[k] = 0.0
            power += f[k, 0] * v[k, 0] + f[k, 1] * v[k, 1] + f[k, 2] * v[k, 2]
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
        for k in range(n):
            for a in range(3):
                v[k, a] += dt * f[k, a]
                vv += v[k, a] ** 2
                ff += f[k, a] ** 2
        blend = mix * sqrt(vv / ff) if ff > 0 else 0.0
        fastest = 0.0
        for k in range(n):
            for a in range(3):
                v[k, a] = (1 - mix) * v[k, a] + blend * f[k, a]
            fastest = max(fastest, v[k, 0] ** 2 + v[k, 1] ** 2 + v[k, 2] ** 2)
        vp, va = (1 - mix) * vp + blend * fp, (1 - mix) * va + blend * fa
        fastest = sqrt(fastest)
        go = min(1.0, cap / max(fastest * dt, 1e-12))
        for k in range(n):
            for a in range(3):
                x[k, a] += go * dt * v[k, a]
        moved += go * dt * fastest
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
        cell[0], cell[1] = pitch, angle
        done += 1
        if moved > room:
            break
    drive[0], drive[1], drive[2], drive[3], drive[4] = dt, mix, since, vp, va
    return done, energy, deepest
