"""From loose to tight: coarse pieces first, then finer ones, each settled before the next.

A cell settles flat first and is let turn only then: pulled tight all at once, even work that cannot turn would coil.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from itertools import pairwise
from types import ModuleType

import numpy as np

from dim_ladder.base.budget import spend
from dim_ladder.shape import contact, pull
from dim_ladder.shape.engine import engine
from dim_ladder.shape.respaced import respaced
from dim_ladder.shape.rope import Array, Curves, Rope, along_of, let_out, rope
from dim_ladder.shape.straight import follow_crossings
from dim_ladder.shape.threaded import keep_between, with_crossings

WINDOW = 400  # steps over which the energy must stand still
# What is held straight is held by friction, which has no energy of its own: such work can sway about where it hangs and never stand.
# It is at rest when over so many steps neither its least energy nor its greatest one has gone on, and it sways by no more than that share.
SWAY, SWAYS = 4000, 3e-2
STEADY = 0.1  # of how far it sways, by which its least and its greatest energy may still go on
UNEVEN = (0.72, 1.35)  # spacing against what is wanted, beyond which nodes are set anew
# Diameters of one piece, from which on they are, too, where what is known to lie between cords comes below so much: where cord is held fast,
# what is drawn past it would go on in one long piece, and others could pass through that.
LONG, NEARLY = 0.77, 0.2
SAFE = 1.2  # of the largest time step a chain of springs bears
FELT = 6.0  # springs of contact that push one node at once, for that step
BONDED = 2.0  # times that where halves of a flat cord hold each other
FEW = 40  # steps between two looks at what is near, below which nodes are said to fly
AT_A_TIME = 400  # steps between two looks at whether it stands still

HITCHES = 1.5  # times as far apart as tails side by side are those of hitches in a row, of two wraps each
BROUGHT = 0.05  # diameters, by which an end is brought to where it hangs between two looks
GROW = 0.03  # diameters, by which a bead grows between two looks
HANGS = 0.9  # of a piece's length, the least it goes down where it hangs straight
NEAR = 0.3  # diameters apart, within which cord counts as work, and not as a tail
LOOK = 1500  # units of work to see what is near; a step of a node is a twelfth of one


@dataclass(frozen=True, slots=True)
class Stage:
    """step : spacing of nodes, in diameters. stiff : of contact. still : change of energy, of the cord's tension times
    length, over WINDOW steps, that counts as rest. turn : whether the cell may turn. most : steps. soft : how
    many times as hard as it is cord gives way; 0 for rigid cord. creeps : part of the pitch, that it may change meanwhile. press : how much
    of what draws held work together does. even : whether ends that are alike are drawn up alike."""

    step: float
    stiff: float
    still: float
    turn: bool = False
    most: int = 8000
    cap: float = pull.CAP
    skin: float = contact.SKIN
    soft: float = 0.0
    creeps: float = np.inf
    press: float = 1.0
    even: bool = True


ROUGH = Stage(0.35, 40.0, 3e-4, most=40000, cap=0.1, skin=0.8)
FLAT = Stage(0.3, 40.0, 5e-5)
TURNING = Stage(0.3, 40.0, 5e-5, turn=True)
FINE = Stage(0.2, 50.0, 1e-5, turn=True, most=20000)
SOFT = Stage(0.2, 50.0, 1e-5, turn=True, most=12000, soft=1.0)  # begins where rigid cord is at rest
STAGES = (ROUGH, FLAT, TURNING, FINE)
# For closed curves whose length is compared with published values: half a per mille of overlap, pieces of 0.05.
PRECISE = (
    Stage(0.4, 20.0, 1e-4, cap=0.1, skin=0.6),
    Stage(0.2, 50.0, 2e-5),
    Stage(0.1, 100.0, 5e-6, most=20000),
    Stage(0.05, 200.0, 1e-6, most=60000),
    Stage(0.03, 400.0, 1e-6, most=40000),
)
STRAIGHT = np.radians(3.0)  # a cell that has turned less than this does not turn: so much is noise
# Of the tension times length of the cord that is worked, what turning has to save: friction holds what saves less. Spirals save 1.4 to
# 9 % (least of all a hitch round a thick bundle), what makers lay flat (plaits of an even number of strands, chains of two) less than 1 %.
# The core counts for nothing: it is as long either way, and the more of it there is the less the work would seem to turn.
WORTH = 0.012


@dataclass(frozen=True, slots=True)
class State:
    """A rope at some moment. steps : so far. deepest : overlap ever seen, of a contact's distance. clear : the least that
    two pieces were apart beyond what could have been moved in the step after, ever; above 0 no cord passed another.
    rest : whether the last stage came to rest."""

    rope: Rope
    steps: int
    deepest: float
    clear: float
    rest: bool
    stage: int


def settle(
    curves: Curves,
    stages: tuple[Stage, ...] = STAGES,
    *,
    hold: float | None = None,
    stretch: float = 0.0,
    by: ModuleType | None = None,
    begin: Rope | None = None,
    stop: Callable[[], bool] = lambda: False,
    tails: float = np.inf,
    knots_first: bool = False,
) -> Iterator[State]:
    """States, tighter and tighter; the last one is the answer. hold : a pitch to be kept. stretch : pull on the pitch. tails : diameters beyond
    what anything presses on, that go on being pulled of work whose ends are held, from one stage to the next. knots_first : go through
    the first of them with the pitch kept before."""
    stages = (stages[0], *stages) if knots_first else stages
    r = begin if begin is not None else rope(with_crossings(curves), stages[0].step)
    if hold is not None and r.curves.repeats:
        let_out(r, hold / r.pitch)
    steps, deepest, clear, turning = 0, 0.0, 1.0, True
    lying: tuple[float, Rope] | None = None  # flat at rest, before it may turn
    for n, stage in enumerate(stages):
        kept = _kept(r, tails) if n or begin is not None else []
        if kept and not len(r.under):
            r.under = _hung(r)
        r.curves = replace(
            r.curves, press=curves.press * stage.press, alike=curves.alike if stage.even else ()
        )
        r = respaced(r, stage.step, kept)
        strong = float(r.pull.max() + (r.curves.tauter if len(r.held) else 0.0))
        stiff = float(stage.stiff * max(1.0, strong / 2))
        row = len(r.held) > 0 and not r.curves.repeats
        comes_up = hold is None and not (knots_first and n == 0)
        free = (comes_up and r.curves.repeats, stage.turn and turning and r.curves.repeats)
        history: list[tuple[int, float]] = []
        pitches: list[float] = []
        felt_so_far: list[tuple[int, float]] = []
        done, shown, rest, k, apart = 0, 0, False, 0, 1.0
        while done < stage.most and not rest:
            h = r.spacing()
            per = h / pull.across(r)
            uneven = per.min() < UNEVEN[0] * stage.step or per.max() > UNEVEN[1] * stage.step
            long = (
                apart < NEARLY and not r.curves.beads and (r.pieces() / pull.across(r)[r.cord]).max() > LONG
            )
            if uneven or long:
                r = respaced(r, stage.step)
                h = r.spacing()
            # Wide while things still fly together, narrow once they hardly move: fewer looks, or fewer pairs.
            skin = stage.skin if k < FEW else contact.SKIN
            use = by or engine()
            follow_crossings(r)
            keep_between(r)
            r.grow(GROW)
            r.bring(BROUGHT)
            pairs = contact.between(r, use, skin, stage.soft)
            felt = FELT * (BONDED if r.curves.bonds else 1.0)
            slowest = SAFE / float(np.sqrt(4 * ((r.pull + strong - r.pull.max()) / h).max() + felt * stiff))
            k, energy, deep, least = use.run(
                r, pairs, stiff, slowest, 200, free, skin / 2.2, stage.cap, float(stretch)
            )
            done += k
            spend(LOOK + k * len(r.x) // 12)
            deepest = max(deepest, deep)
            apart = 2 * float(r.radius.min()) * max(0.0, least) ** 0.5 - 2 * stage.cap
            clear = min(clear, apart)
            history.append((done, energy - stretch * r.pitch))
            pitches.append(r.pitch)
            while len(history) > 2 and history[1][0] < done - WINDOW:
                history.pop(0)
                pitches.pop(0)
            size = float((r.pull * r.cord_lengths()).sum())
            since = [e for _, e in history] if row else [history[0][1], history[-1][1]]
            if row:  # its tails are long, and tell nothing
                size -= float((r.pull * np.abs(r.x[r.first[1:] - 1, 1] - r.x[r.first[:-1], 1])).sum())
            rest = done - history[0][0] >= WINDOW and max(since) - min(since) < stage.still * size
            if free[0]:
                rest = rest and max(pitches) - min(pitches) < stage.creeps * r.pitch
            if len(r.held) and not rest:
                felt_so_far.append(history[-1])
                rest = _sways(felt_so_far, stage.still * size, SWAYS * size)
            if done - shown >= AT_A_TIME and not rest:
                shown = done
                yield State(r, steps + done, deepest, clear, False, n)
                if stop():
                    return
        steps += done
        energy = history[-1][1] if history else 0.0
        if not stage.turn:
            lying = energy, replace(r, x=r.x.copy())
        elif turning and lying is not None and free[1] and lying[0] - energy < WORTH * _worked(r):
            r, turning = lying[1], False
        elif abs(r.angle) < STRAIGHT:
            r, turning = _untwisted(r), False
        yield State(r, steps, deepest, clear, rest, n)
        if stop():
            return


def _worked(r: Rope) -> float:
    """Tension times length of the cord that is not core."""
    return float((r.pull * r.cord_lengths())[r.pull <= 1.0].sum())


def _work(r: Rope, p: contact.Pairs) -> list[tuple[int, int]]:
    """By strand, the first and the last of its nodes that another strand presses on, counted along it; -1 where none does. What hangs straight
    beside what hangs straight is no work, however near."""
    strand = np.repeat(np.arange(len(r.first) - 1), np.diff(r.first))
    i, j = p.i[: p.touching], p.j[: p.touching]
    hit = (np.linalg.norm(r.x[j] - r.x[i], axis=1) < p.rest[: p.touching] + NEAR) & (strand[i] != strand[j])
    way = np.zeros_like(r.x)
    way[:-1] = np.diff(r.x, axis=0)
    way[r.first[1:] - 1] = way[r.first[1:] - 2]
    hangs = np.abs(way[:, 1]) > HANGS * np.linalg.norm(way, axis=1)
    hit &= ~(hangs[i] & hangs[j])
    pressed = np.zeros(len(r.x), bool)
    pressed[i[hit]] = pressed[j[hit]] = True
    every = [np.flatnonzero(pressed[a:b]) for a, b in pairwise(r.first)]
    return [(int(at[0]), int(at[-1])) if len(at) else (-1, -1) for at in every]


def _kept(r: Rope, tails: float) -> list[tuple[float, float]]:
    """By strand, from where to where along it there is work, and so much of its tails: to one height above all work and one below it, or hands that
    draw ends alike would draw them to what was left of each. What is held aside keeps as much along itself. All of it where nothing presses on any."""
    if r.curves.repeats or not np.isfinite(tails):
        return []
    work = _work(r, contact.between(r, engine()))
    at = [r.x[a + np.array(ends), 1] for a, ends in zip(r.first, work, strict=False) if ends[1] >= 0]
    top, foot = (min(map(min, at)) - tails, max(map(max, at)) + tails) if at else (-np.inf, np.inf)
    aside = {(a.strand, k) for a in r.curves.aside for k, is_so in enumerate((a.begins, a.ends)) if is_so}
    out = []
    for k, ((a, b), (begin, end)) in enumerate(zip(pairwise(r.first), work, strict=True)):
        y, along = r.x[a:b, 1], along_of(r.x[a:b])
        low, high = (begin, end) if end >= 0 else (len(y) // 2, len(y) // 2)
        above, below = np.flatnonzero(y[:low] < top), high + np.flatnonzero(y[high:] > foot)
        first, last = 0.0, float(along[-1])
        if (k, 0) in aside and end >= 0:
            first = max(0.0, float(along[low]) - tails)
        elif len(above):
            first = _where(y, along, int(above[-1]), top)
        if (k, 1) in aside and end >= 0:
            last = min(last, float(along[high]) + tails)
        elif len(below):
            last = _where(y, along, int(below[0]) - 1, foot)
        out.append((first / float(along[-1]), last / float(along[-1])))
    return out


def _where(y: Array, along: Array, node: int, at: float) -> float:
    """How far along a strand is at a height, between a node and the next one."""
    return float(along[node] + (at - y[node]) / (y[node + 1] - y[node]) * (along[node + 1] - along[node]))


def _hung(r: Rope) -> Array:
    """(strands, 2) where along x each strand is held above and below; what is held aside stays there."""
    out = np.stack([r.x[r.first[:-1], 0], r.x[r.first[1:] - 1, 0]], axis=1)
    if len(r.held):
        out = _in_row(out, 2 * r.radius[r.first[:-1]])
        out = out.mean(axis=0) + HITCHES * (out - out.mean(axis=0))
    for k, begins, ends, *_ in r.curves.aside:
        out[k, [begins, ends]] = np.nan
    return out


def _in_row(at: Array, thick: Array) -> Array:
    """(strands, 2) the same about their middle, each as far from the next one as both are thick: the diagram has all of them equally far."""
    out = at.copy()
    for k in range(2):
        order = np.argsort(at[:, k], kind="stable")
        far = np.diff(at[order, k]) * (thick[order][1:] + thick[order][:-1]) / 2
        out[order, k] = np.concatenate([[0.0], np.cumsum(far)])
        out[:, k] += at[:, k].mean() - out[:, k].mean()
    return out


def _sways(energies: list[tuple[int, float]], still: float, most: float) -> bool:
    """Whether it only sways about one place. energies : by steps done. still : change of the least and of the greatest energy from
    one SWAY of steps to the next that counts as none. most : between the two."""
    end = energies[-1][0]
    late = [e for done, e in energies if done > end - SWAY]
    early = [e for done, e in energies if end - 2 * SWAY < done <= end - SWAY]
    if not early or energies[0][0] > end - 2 * SWAY:
        return False
    far = max(late) - min(late)
    still = max(still, STEADY * far)
    return far < most and min(late) > min(early) - still and max(late) < max(early) + still


def _untwisted(r: Rope) -> Rope:
    """With the turning of the cell taken out."""
    at = -r.angle * (r.x[:, 1] - r.x[:, 1].mean()) / max(r.pitch, 1e-9)
    x, z = r.x[:, 0].copy(), r.x[:, 2].copy()
    r.x[:, 0], r.x[:, 2] = np.cos(at) * x + np.sin(at) * z, np.cos(at) * z - np.sin(at) * x
    r.angle = 0.0
    return r
