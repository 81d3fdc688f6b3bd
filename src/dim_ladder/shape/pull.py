"""One run of pulling, in plain numpy: the reference for shape/fast.py, and what is used where that cannot be compiled.

Energy: every cord's tension times its length (as the root of its pieces' mean square, which also keeps the pieces
equal), and a spring for whatever is nearer than it may be. It is brought down by FIRE: Bitzek, Koskinen, Gähler, Moseler
and Gumbsch, Structural Relaxation Made Simple, Phys. Rev. Lett. 97, 170201 (2006). Pitch and turning of the unit move
with it, all nodes along in proportion, as a cell does under pressure: Parrinello and Rahman, J. Appl. Phys. 52, 7182 (1981).
"""

from __future__ import annotations

import numpy as np

from dim_ladder.shape.apart import pull_out
from dim_ladder.shape.contact import Pairs
from dim_ladder.shape.rope import Array, Ints, Rope, turned

DELAY, FASTER, SLOWER, MIX, MIX_LESS = 5, 1.1, 0.5, 0.1, 0.99
CAP = 0.06  # most that any node moves in one step, in diameters: far less than what would let cords pass
MOST_STRETCH = 0.01  # of the pitch in one step
MOST_TURN = 0.03  # radians in one step
# Diameters that cords which push on each other lie below each other at most. In rows, longer than that, the pitch weighs no more than it must
# to bear their springs: as heavy as all nodes together, it takes loose rows thousands of steps to come up. Other work would come up before
# its slack is drawn out, and may lie otherwise then.
BELOW = 1.0
EVEN = 3.0  # tension more for every diameter that a cord took more than those drawn up alike with it
DRAWN_IN = 0.2  # diameters, beyond which what goes side by side is drawn together no harder
ALMOST = 0.95  # of what cord gives, from where on it is stiff
MOST_MORE = 0.88  # of its own tension, the most that is added or taken off for that


def across(r: Rope) -> Array:
    """(cords,) diameter of each cord."""
    out = np.zeros(len(r.pull))
    out[r.cord] = 2 * r.radius
    return out


def off_nodes(r: Rope) -> Array:
    """(cords,) by which the square of a piece goes off the square of how far two nodes are apart, as a part of their distance in contact."""
    thin, thick = 2 * float(r.radius.min()), 2 * float(r.radius.max())
    return (thin**2 + thick**2) / (thin + thick) ** 2 / 2 / across(r) ** 2


def forces(r: Rope, p: Pairs, stiff: float, piece: float) -> tuple[float, Array, float, float, float, float]:
    """Energy, forces (n, 3), those on pitch and angle, how deep the deepest pair lies in each other, of its rest, and how far apart, squared
    and of their rest, two pieces are at least: two that cross in their middles are nearer than their nodes by half a piece each.

    piece : mean length of a piece of cord, by which what acts on all cord is weighed.
    """
    x = r.x
    has = np.flatnonzero(r.nxt >= 0)
    to, down = r.nxt[has], r.down[has]
    b = turned(x[to], down, r.angle, r.pitch)
    e = b - x[has]
    each = (e * e).sum(axis=1)
    half = each * off_nodes(r)[r.cord[has]]
    off = np.zeros(len(x))
    for at in (has, to):
        np.maximum.at(off, at, half)
    least = 1 - float(np.sort(half)[-2:].sum())  # of the two longest, where their nodes do not touch
    square = np.bincount(r.cord[has], each, len(r.pull))
    long = np.sqrt(r.edges * square)
    even, drawn_more = drawn(r.pull, r.group, long, most_more(r))
    energy = float((r.pull * long).sum()) + even
    one = np.sqrt(r.edges / square)  # over the length of a piece
    w = ((r.pull + drawn_more) * one)[r.cord[has]]
    f = np.zeros_like(x)
    on_pitch, on_angle = _add(f, r, has, to, down, b, e, e * w[:, None])
    if len(r.taut):
        f += straightened(r, one)
    bi = turned(x[p.j], p.down, r.angle, r.pitch)
    d = bi - x[p.i]
    dist = np.sqrt((d * d).sum(axis=1))
    deep = p.rest - dist
    t = p.touching
    deepest = float((deep[:t] / p.rest[:t]).max()) if t else 0.0
    met = np.flatnonzero(deep[:t] > 0)
    if len(met):
        near_by = (1 - deep[met] / p.rest[met]) ** 2 - off[p.i[met]] - off[p.j[met]]
        least = min(least, float(near_by.min()))
    hit = np.flatnonzero((deep > 0) | (np.arange(len(deep)) >= p.bound))
    # A spring at first, the harder the nearer it comes to its floor, and stiff from just above that on.
    room = np.maximum(p.rest[hit] - p.floor[hit], 1e-12)
    given = np.clip(deep[hit], 0.0, ALMOST * room)
    hard = deep[hit] - given
    left = 1 - (given / room) ** 2
    press = p.soft[hit] * given / left
    # What goes side by side is drawn together by no more than so much, from however far.
    drawn_in = np.maximum(hard, -DRAWN_IN)
    force = press + stiff * drawn_in
    stored = -0.5 * p.soft[hit] * room**2 * np.log(left)
    energy += float((stored + press * hard + stiff * drawn_in * (hard - 0.5 * drawn_in)).sum())
    push = d[hit] * (-force / np.maximum(dist[hit], 1e-9))[:, None]
    more = _add(f, r, p.i[hit], p.j[hit], p.down[hit], bi[hit], d[hit], push)
    if r.curves.core > 0:
        out = np.sqrt(x[:, 0] ** 2 + x[:, 2] ** 2)
        inside = np.maximum(r.curves.core - out, 0.0)
        energy += 0.5 * stiff * float((inside**2).sum())
        for k in (0, 2):
            f[:, k] += stiff * inside * x[:, k] / np.maximum(out, 1e-9)
    for axis, weight in ((1, r.curves.press), (2, r.curves.flat)):
        if weight > 0:
            on = weight * piece * (r.laid()[r.cord] if axis == 2 else 1.0)
            far = np.abs(x[:, axis])
            near = r.curves.near if axis == 1 else np.inf
            f[:, axis] -= on * np.clip(x[:, axis], -1.0, 1.0) * (far < near)
            energy += float((on * np.where(far < 1, far * far / 2, np.minimum(far, near) - 0.5)).sum())
    line, on_line = r.in_line()
    if len(line):
        far = x[:, 0] - line
        f[:, 0] -= on_line * piece * np.clip(far, -1.0, 1.0)
        far = np.abs(far)
        energy += float((on_line * piece * np.where(far < 1, far * far / 2, far - 0.5)).sum())
    if len(p.drawn.force):
        stored_apart, out = pull_out(x, p.drawn)
        f += out
        energy += stored_apart
    top, foot = r.curves.walls
    above, below = np.maximum(top - x[:, 1], 0.0), np.maximum(x[:, 1] - foot, 0.0)
    f[:, 1] += stiff * (above - below)
    energy += 0.5 * stiff * float((above**2).sum() + (below**2).sum())
    f[r.fixed] = 0.0
    return energy, f, on_pitch + more[0], on_angle + more[1], max(deepest, 0.0), least


def straightened(r: Rope, one: Array) -> Array:
    """(n, 3) forces of what is held straight: tension more wherever it bends. At the ends of each stretch friction bears all of it, so it
    draws no cord along itself and nothing together. one : (cords,) over the length of a piece."""
    out = np.zeros_like(r.x)
    k = np.flatnonzero(r.taut)
    j, to = r.before[k], r.nxt[k]
    into = turned(turned(r.x[k], r.down[j], r.angle, r.pitch) - r.x[j], -r.down[j], r.angle, 0.0)
    after = turned(r.x[to], r.down[k], r.angle, r.pitch) - r.x[k]
    out[k] = (r.taut[k] * one[r.cord[k]])[:, None] * (after - into)
    of = r.beside()  # whoever holds a work holds all of it: it does not wander off
    many = np.bincount(of)
    for a in range(3):
        out[:, a] -= (np.bincount(of, out[:, a]) / many)[of]
    return out


def most_more(r: Rope) -> float:
    """Of its own tension, the most that a cord feels of the spring between those that are alike. In a heap of cord no more than leaves all of
    them taut: where one is too short and all others of so many are too long, the mean of what they feel is taken off it, too."""
    many = int(np.bincount(r.group[r.group >= 0], minlength=1).max()) if r.curves.heap else 2
    return MOST_MORE * many / (2 * many - 2) if many > 1 else MOST_MORE


def drawn(pull: Array, group: Ints, long: Array, limit: float = MOST_MORE) -> tuple[float, Array]:
    """Energy and (cords,) tension more of every cord: a hand draws those that are alike until they took equally much.

    long : (cords,) their lengths. A spring between each and the mean of its group, of which no more is felt than so much of its tension.
    """
    out, energy = np.zeros(len(pull)), 0.0
    for g in range(int(group.max(initial=-1)) + 1):
        of = group == g
        off = long[of] - long[of].mean()
        most = limit * pull[of]
        more = np.clip(EVEN * off, -most, most)
        energy += float((np.abs(more) * (np.abs(off) - np.abs(more) / EVEN / 2)).sum())
        out[of] = more - more.mean()
    return energy, out


def _add(
    f: Array,
    r: Rope,
    i: Ints,
    j: Ints,
    down: Ints,
    b: Array,
    e: Array,
    pulled: Array,
) -> tuple[float, float]:
    """Forces on nodes i, and against them on nodes j, whose images b lie e from them."""
    back = turned(pulled, -down, r.angle, 0.0)
    n = len(f)
    for k in range(3):
        f[:, k] += np.bincount(i, pulled[:, k], n) - np.bincount(j, back[:, k], n)
    if not r.curves.repeats:
        return 0.0, 0.0
    part = e[:, 1] / r.pitch
    turn = pulled[:, 0] * b[:, 2] - pulled[:, 2] * b[:, 0]
    return -float((pulled[:, 1] * part).sum()), -float((turn * part).sum())


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
    """Up to so many steps, until a node has moved `room`. slowest : largest time step. free : pitch, angle.

    Changes x, v, pitch, angle and drive of the rope. Returns steps done, the energy after them, the deepest overlap, and how near two
    pieces came, squared, as `forces` says it.
    """
    moved, deepest, least = 0.0, 0.0, 1.0
    piece = float(r.spacing().mean())
    # Half of what two nodes that are not yet near come nearer, in a pitch so much shorter.
    nearby = float(r.room().max()) + room
    dt, mix, since, vp, va = r.drive
    if dt <= 0:
        dt, mix, since, vp, va = 0.3 * slowest, MIX, 0.0, 0.0, 0.0
    done = 0
    for _ in range(steps):
        _, f, fp, fa, deep, apart = forces(r, p, stiff, piece)
        deepest, least = max(deepest, deep), min(least, apart)
        y = r.x[:, 1] - r.x[:, 1].mean()
        mp, ma = 1.0, 1.0
        if r.curves.repeats:
            part = y / r.pitch
            mp = float((part**2).sum())
            if len(r.held):
                mp = min(mp, len(y) * (BELOW / r.pitch) ** 2)
            ma = float((part**2 * (r.x[:, 0] ** 2 + r.x[:, 2] ** 2 + 0.1)).sum())
        fp = (fp + stretch) / np.sqrt(mp) if free[0] else 0.0
        fa = fa / np.sqrt(ma) if free[1] else 0.0
        power = float((f * r.v).sum()) + fp * vp + fa * va
        if power > 0:
            since += 1
            if since > DELAY:
                dt, mix = min(dt * FASTER, slowest), mix * MIX_LESS
        else:
            since, mix, dt = 0.0, MIX, max(dt * SLOWER, 0.02 * slowest)
            r.v[:] = 0.0
            vp = va = 0.0
        r.v += dt * f
        vp, va = vp + dt * fp, va + dt * fa
        vv = float((r.v**2).sum()) + vp * vp + va * va
        ff = float((f**2).sum()) + fp * fp + fa * fa
        k = mix * np.sqrt(vv / ff) if ff > 0 else 0.0
        r.v *= 1 - mix
        r.v += k * f
        vp, va = (1 - mix) * vp + k * fp, (1 - mix) * va + k * fa
        fastest = float(np.sqrt((r.v**2).sum(axis=1).max()))
        go = min(1.0, cap / max(fastest * dt, 1e-12))
        r.x += go * dt * r.v
        moved += go * dt * fastest
        if free[0]:
            change = float(
                np.clip(go * dt * vp / np.sqrt(mp), -MOST_STRETCH * r.pitch, MOST_STRETCH * r.pitch)
            )
            middle = r.x[:, 1].mean()
            r.x[:, 1] = middle + (r.x[:, 1] - middle) * (1 + change / r.pitch)
            r.pitch += change
            moved += (nearby / r.pitch if len(r.held) else 1.0) * abs(change)
        if free[1]:
            change = float(np.clip(go * dt * va / np.sqrt(ma), -MOST_TURN, MOST_TURN))
            at = change * (r.x[:, 1] - r.x[:, 1].mean()) / r.pitch
            c, s = np.cos(at), np.sin(at)
            wide = float(np.sqrt(r.x[:, 0] ** 2 + r.x[:, 2] ** 2).max())
            r.x[:, 0], r.x[:, 2] = c * r.x[:, 0] + s * r.x[:, 2], c * r.x[:, 2] - s * r.x[:, 0]
            r.angle += change
            moved += abs(change) * wide
        done += 1
        if moved > room:
            break
    r.drive[:] = (dt, mix, since, vp, va)
    energy, _, _, _, deep, apart = forces(r, p, stiff, piece)
    return done, energy, max(deepest, deep), min(least, apart)
