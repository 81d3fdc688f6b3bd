"""What hands draw apart: where two ends are worked round a core, each is drawn out to its side, and friction keeps a part of it.

A worker goes from side to side of its own middle. Every time, where it lies furthest out, a force pulls it out: a part of its own
tension, spread over what lies about as far out. Both hands pull equally hard.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dim_ladder.shape.rope import Array, Flags, Ints, Rope

OVER = 0.25  # diameters less far out, of which a third of the force is felt
LEAST = 0.4  # diameters from the middle, nearer than which nothing was drawn to a side
LAID, MANY = 10.0, 4  # times as hard as other cord, and from how many fillers on


def side_by_side(pull: Sequence[float], apart: Sequence[float]) -> float:
    """How many times as hard as what is tied round it core is held to the board. Round a few fillers, drawn out to both sides, cord lies
    flat by itself; under many, hands keep them side by side where they would slip into two layers. pull, apart : as of Curves."""
    many, drawn = sum(p > 1.0 for p in pull), sum(p > 0 for p in apart)
    return LAID if many >= max(MANY, 2 * drawn) and drawn > 1 else 1.0


@dataclass(frozen=True, slots=True)
class Drawn:
    """Where cord is drawn out. turn : (n,) which time, of all workers, a node is part of; -1 of none. out : (n, 3) the way out
    there. force : (turns,) against a tension of 1."""

    turn: Ints
    out: Array
    force: Array


NOTHING = Drawn(np.zeros(0, np.int64), np.zeros((0, 3)), np.zeros(0))


def drawn_apart(r: Rope) -> Drawn:
    """As the rope lies now; NOTHING where nothing is drawn apart. Which piece lies to which side is seen once for these nodes and kept:
    cord slides along itself, and what comes and goes with that would never rest."""
    if not any(r.curves.apart):
        return NOTHING
    at = r.angle * (r.x[:, 1] - r.x[:, 1].mean()) / (r.pitch if r.curves.repeats else 1.0)
    side = np.column_stack([np.cos(at), np.zeros(len(r.x)), -np.sin(at)])
    if len(r.turns) != len(r.x):
        r.turns, r.right, r.hands = _seen(r, (r.x * side).sum(axis=1))
    if not len(r.hands):
        return NOTHING
    return Drawn(r.turns, np.where(r.right, 1.0, -1.0)[:, None] * side, r.hands)


def _seen(r: Rope, far: Array) -> tuple[Ints, Flags, Array]:
    """Which turn every node is of, whether that is on the right, and the force of each turn. far : to the right, of every node."""
    far = far - (np.bincount(r.cord, far) / np.bincount(r.cord))[r.cord]
    strong = np.repeat(np.array(r.curves.apart), np.diff(r.first))
    turn = _turns(r, far > 0)
    force, most = np.zeros(turn.max() + 1), np.zeros(turn.max() + 1)
    force[turn] = strong
    np.maximum.at(most, turn, np.abs(far))
    force[most < LEAST] = 0.0
    right = np.zeros(len(force), bool)
    right[turn] = far > 0
    hands = [force[right].sum(), force[~right].sum()]
    if not min(hands):
        return np.full(len(r.x), -1, np.int64), far > 0, np.zeros(0)
    force *= np.where(right, min(hands) / hands[0], min(hands) / hands[1])
    kept = force > 0
    return np.where(kept[turn], (np.cumsum(kept) - 1)[turn], -1), far > 0, force[kept]


def _turns(r: Rope, right: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> Ints:
    """(n,) number of the run of nodes on one side, along its cord, that each node is of."""
    n = len(r.x)
    before = np.full(n, -1)
    on = r.nxt >= 0
    before[r.nxt[on]] = np.flatnonzero(on)
    begins = (before < 0) | (right[np.maximum(before, 0)] != right)
    out = np.full(n, -1, np.int64)
    count = 0
    for k in [*np.flatnonzero(begins), *range(n)]:  # what never changes sides begins anywhere
        if out[k] >= 0:
            continue
        j = int(k)
        while j >= 0 and out[j] < 0 and (j == k or not begins[j]):
            out[j] = count
            j = int(r.nxt[j])
        count += 1
    return out


def pull_out(x: Array, d: Drawn) -> tuple[float, Array]:
    """Energy and forces (n, 3) of what is drawn apart: of each turn, its force times how far out it lies, as the soft maximum
    of its nodes (log-sum-exp), which is a force spread over those furthest out."""
    f = np.zeros_like(x)
    energy = 0.0
    far = (x * d.out).sum(axis=1)
    for k in range(len(d.force)):
        of = d.turn == k
        most = far[of].max()
        part = np.exp((far[of] - most) / OVER)
        f[of] += d.force[k] * (part / part.sum())[:, None] * d.out[of]
        energy -= float(d.force[k] * (most + OVER * np.log(part.sum())))
    return energy, f
