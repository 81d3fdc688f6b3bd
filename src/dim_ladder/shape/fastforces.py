"""Forces on every node of a rope, and the energy they come from: the same as shape/pull.py says, compiled."""

# mypy: disable-error-code="no-untyped-def, untyped-decorator, no-untyped-call"

from __future__ import annotations

import os
from math import cos, exp, log, sin, sqrt

import numpy as np

from dim_ladder.shape.cache import compiled

# What is compiled is kept for the next time, where it can be written.
os.environ["NUMBA_CACHE_DIR"] = str(compiled())

from numba import njit

from dim_ladder.shape.apart import OVER
from dim_ladder.shape.contact import Pairs
from dim_ladder.shape.pull import ALMOST, DRAWN_IN, EVEN, most_more, off_nodes
from dim_ladder.shape.rope import Rope

# Sums may be taken in any order, and a product with the sum after it as one: a tenth less time. What is not a number stays none.
ANY_ORDER = {"contract", "reassoc", "nsz", "arcp"}


def what_pulls(r: Rope, p: Pairs):
    """Of a rope and what is near in it all that stays as it is while it is pulled: its cords, what is near, and what hands draw apart."""
    piece, line = r.spacing().mean(), r.in_line()
    beside = r.beside()
    cords = (
        r.nxt, r.down, r.cord, r.pull, r.edges, r.group, r.taut, r.before, beside, np.bincount(beside), np.array(r.curves.walls), r.curves.core,
        np.array([r.curves.press, r.curves.flat]) * piece, r.laid(), float(r.curves.near), line[0], line[1] * piece, off_nodes(r), most_more(r), r.curves.repeats,
    )  # fmt: skip
    near = (*_weighed(p.i, p.j, p.down, p.rest, p.floor), p.soft, p.touching, p.bound)
    return cords, near, (p.drawn.turn, p.drawn.out, p.drawn.force)


@njit(cache=True, nogil=True, error_model="numpy", fastmath=ANY_ORDER)
def _weighed(i, j, down, rest, floor):
    """What is near, without a sign, so that nobody looks whether it counts from the end; the most units down that anything is; and of the
    distances what the loops over them ask for."""
    n = len(i)
    one, other, units = np.empty(n, np.uint32), np.empty(n, np.uint32), np.empty(n, np.uint8)
    square, inverse, almost, per_room = np.empty(n), np.empty(n), np.empty(n), np.empty(n)
    most = 1
    for m in range(n):
        one[m], other[m], units[m] = i[m], j[m], down[m]
        most = max(most, down[m])
        room = max(rest[m] - floor[m], 1e-12)
        square[m], inverse[m] = rest[m] ** 2, 1 / max(rest[m], 1e-12)
        almost[m], per_room[m] = ALMOST * room, 1 / room
    return one, other, units, most, rest, square, inverse, almost, per_room


@njit(cache=True, nogil=True, error_model="numpy", fastmath=ANY_ORDER)
def _mean(values, group, of):
    whole, many = 0.0, 0
    for q in range(len(values)):
        if group[q] == of:
            whole += values[q]
            many += 1
    return whole / many


@njit(cache=True, nogil=True, error_model="numpy", fastmath=ANY_ORDER)
def nearest(x, cell, near, slack, active):
    """Writes to `active` which pairs may touch before anything has come nearer by `slack`, and returns how many they are: of all that are
    near most never do. What is held so far apart always counts."""
    pi_, pj, ps, most, rest, bound = near[0], near[1], near[2], near[3], near[4], near[10]
    pitch, angle = cell[0], cell[1]
    cs, sn = np.empty(most + 1), np.empty(most + 1)
    for k in range(most + 1):
        cs[k], sn[k] = cos(angle * k), sin(angle * k)
    count = 0
    for m in range(len(pi_)):
        k, j, s = pi_[m], pj[m], ps[m]
        ex = cs[s] * x[j, 0] + sn[s] * x[j, 2] - x[k, 0]
        ey = x[j, 1] + s * pitch - x[k, 1]
        ez = cs[s] * x[j, 2] - sn[s] * x[j, 0] - x[k, 2]
        far = rest[m] + slack
        active[count] = m  # whether it counts no processor guesses rightly: so there is no branch
        count += m >= bound or ex * ex + ey * ey + ez * ez < far * far
    return count


@njit(cache=True, nogil=True, error_model="numpy", fastmath=ANY_ORDER)
def forces(x, f, cell, stiff, whole, cords, near, active, hands):
    """Writes the forces on every node to f. cell : pitch and angle. whole : whether the energy is asked, too. cords, near, hands : of `what_pulls`.
    active : which of what is near may touch.
    Returns energy, forces on pitch and angle, how deep the deepest pair lies in each other, of its rest, and how far apart, squared,
    two pieces are at least."""
    (
        nxt,
        down,
        cord,
        pull,
        edges,
        group,
        taut,
        before,
        beside,
        nodes,
        walls,
        core,
        on,
        laid,
        near_,
        line,
        on_line,
        shorter,
        limit,
        repeats,
    ) = cords
    pi_, pj, ps, most, rest, square_rest, of_rest, gives, of_room, soft, touching, bound = near
    times, out, force = hands
    n = len(x)
    pitch, angle, deepest, longest, second = cell[0], cell[1], 0.0, 0.0, 0.0
    halves = np.zeros(n)
    cs, sn = np.empty(most + 1), np.empty(most + 1)
    for k in range(most + 1):
        cs[k], sn[k] = cos(angle * k), sin(angle * k)
    w, one = np.empty(len(pull)), np.empty(len(pull))
    square, long, more = np.empty(len(pull)), np.empty(len(pull)), np.empty(len(pull))
    borne = np.empty((len(nodes), 3))
    far, sums = np.empty(len(force)), np.empty(len(force))
    hit, apart, pressed = np.empty(len(active), np.uint32), np.empty(len(active)), np.empty(len(active))
    way = np.empty((len(active), 3))
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
        each = ex * ex + ey * ey + ez * ez
        square[cord[k]] += each
        each *= shorter[cord[k]]
        halves[k], halves[j] = max(halves[k], each), max(halves[j], each)
        if each > longest:
            longest, second = each, longest
        elif each > second:
            second = each
    energy = 0.0
    for q in range(len(pull)):
        long[q] = sqrt(edges[q] * square[q])
        energy += pull[q] * long[q]
    for q in range(len(pull)):
        more[q] = 0.0
        if group[q] >= 0:
            off = long[q] - _mean(long, group, group[q])
            more[q] = min(max(EVEN * off, -limit * pull[q]), limit * pull[q])
            energy += abs(more[q]) * (abs(off) - abs(more[q]) / EVEN / 2)
    for q in range(len(pull)):
        tension = pull[q] + more[q]
        if group[q] >= 0:
            tension -= _mean(more, group, group[q])
        one[q] = sqrt(edges[q] / square[q])
        w[q] = tension * one[q]
    fp, fa, least = 0.0, 0.0, 1 - longest - second
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
    # contact: what touches is found first, then how hard it presses, in loops that the compiler does several of at once
    many = 0
    for m in active:
        k, j, s = pi_[m], pj[m], ps[m]
        ex = cs[s] * x[j, 0] + sn[s] * x[j, 2] - x[k, 0]
        ey = x[j, 1] + s * pitch - x[k, 1]
        ez = cs[s] * x[j, 2] - sn[s] * x[j, 0] - x[k, 2]
        d2 = ex * ex + ey * ey + ez * ez
        hit[many], way[many, 0], way[many, 1], way[many, 2], apart[many] = m, ex, ey, ez, d2
        many += d2 < square_rest[m] or m >= bound
    for c in range(many):
        m = hit[c]
        d = sqrt(apart[c])
        deep = rest[m] - d
        given = min(max(deep, 0.0), gives[m])
        part = given * of_room[m]
        drawn_in = max(deep - given, -DRAWN_IN)
        apart[c] = d
        pressed[c] = -(soft[m] * given / (1 - part * part) + stiff * drawn_in) / max(d, 1e-9)
    for c in range(many):
        m, u, d = hit[c], pressed[c], apart[c]
        k, j, s = pi_[m], pj[m], ps[m]
        if m < touching:
            deep = rest[m] - d
            deepest = max(deepest, deep * of_rest[m])
            if deep > 0:
                least = min(least, (d * of_rest[m]) ** 2 - halves[k] - halves[j])
        fx, fy, fz = u * way[c, 0], u * way[c, 1], u * way[c, 2]
        f[k, 0] += fx
        f[k, 1] += fy
        f[k, 2] += fz
        f[j, 0] -= cs[s] * fx - sn[s] * fz
        f[j, 1] -= fy
        f[j, 2] -= cs[s] * fz + sn[s] * fx
        if repeats:
            part = way[c, 1] / pitch
            bx = cs[s] * x[j, 0] + sn[s] * x[j, 2]
            bz = cs[s] * x[j, 2] - sn[s] * x[j, 0]
            fp -= fy * part
            fa -= (fx * bz - fz * bx) * part
    if whole:
        for c in range(many):
            m = hit[c]
            deep = rest[m] - apart[c]
            given = min(max(deep, 0.0), gives[m])
            hard = deep - given
            if soft[m] > 0:
                left = 1 - (given * of_room[m]) ** 2
                energy += soft[m] * given / left * hard - 0.5 * soft[m] / of_room[m] ** 2 * log(left)
            drawn_in = max(hard, -DRAWN_IN)
            energy += stiff * drawn_in * (hard - 0.5 * drawn_in)
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
    return energy, fp, fa, deepest, least
