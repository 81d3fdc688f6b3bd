"""Cord that is led from one section to the next goes past what lies there, in front or behind, and not through it.

Each section was drawn up by itself: its ends come out wherever they lie, and on the straight way to where the next section takes them up two may meet.
What was drawn up stays; what is led gives way, square to both cords.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np

from dim_ladder.shape.closing import even
from dim_ladder.shape.hung import STUB
from dim_ladder.shape.rope import Array, Flags, Ints, along_of

MET = 0.45  # of half of both thicknesses: no nearer does soft cord lie
APART = 0.85  # of it, how far one cord is led past another
REACH = 1.5  # diameters to either side, over which it gives way
OWN = 3.0  # diameters along itself, from which on a cord is in its own way
BESIDE = 0.2  # sine of the angle between two cords, below which they lie side by side
TOUCH = 0.05  # diameters, below which nothing says on which side of one another lies
LEAST = 0.5  # of all that it could, that cord must give way where it is to be led past
TIMES = 4  # over and over: what gives way to one cord may meet the next
END = 1.2  # diameters at the ends of what was drawn up, which give way too
HANGS = 0.995  # of its length that cord goes down, where it hangs free
LONG = 1.5  # diameters, for which it does so at least


@dataclass(frozen=True, slots=True)
class Cord:
    """A cord of the piece. line : (n, 3). loose : (n,) which points of it may give way. thick : diameters. idle : (n,) which hang beside work and
    are led to where they are taken up again."""

    line: Array
    loose: Flags
    thick: float
    idle: Flags

    def below(self, fold: Array, way: Array) -> Cord:
        """The same, hung by a fold from which it is led down."""
        loose = np.arange(len(fold) + len(way)) >= len(fold)
        idle = np.concatenate([loose & self.idle[0], self.idle])
        return Cord(np.vstack([fold, way, self.line]), np.concatenate([loose, self.loose]), self.thick, idle)


def drawn_up(line: Array, thick: float) -> Flags:
    """(n,) which points of a section's line may give way: those near its ends, and where it hangs free."""
    along = along_of(line)
    step = np.diff(line, axis=0)
    hangs = np.abs(step[:, 1]) > HANGS * np.linalg.norm(step, axis=1)
    out = (along < END * thick) | (along > along[-1] - END * thick)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], hangs.astype(np.int8), [0]])))
    for a, b in edges.reshape(-1, 2):
        if along[b] - along[a] > LONG * thick:
            out[a : b + 1] = True
    return np.asarray(out)


def cords(
    parts: Sequence[Array],
    ways: Collection[int],
    cuts: Sequence[tuple[int, Array, float]],
    thick: float,
    idle: Mapping[int, tuple[int, int]] = MappingProxyType({}),
) -> list[Cord]:
    """An end as one cord, or several: its parts up to each cut, where it stops. ways : the parts that only lead from one section to the next. cuts :
    before which part, which way its end hangs there, and how much of it. idle : by part, how many points of it only hang, at its head
    and at its foot."""
    free = [np.zeros(len(x), bool) for x in parts]
    for n, (head, foot) in idle.items():
        free[n][:head] = True
        free[n][len(free[n]) - foot :] = True
    for n in ways:
        free[n][:] = (n > 0 and free[n - 1][-1]) or (n + 1 < len(free) and free[n + 1][0])
    loose = [np.ones(len(x), bool) if n in ways else drawn_up(x, thick) for n, x in enumerate(parts)]
    out, a = [], 0
    for b, way, far in cuts:
        for n in range(b - 1, a - 1, -1):  # what is not taken up again hangs where it is
            last = np.flatnonzero(~free[n])
            free[n][last[-1] + 1 if len(last) else 0 :] = False
            if len(last):
                break
        foot = parts[b - 1][-1]
        stub = even(np.array([foot, foot + max(STUB, far) * way]))[1:]
        gives = np.concatenate([*loose[a:b], np.ones(len(stub), bool)])
        hung = np.concatenate([*free[a:b], np.zeros(len(stub), bool)])
        out.append(Cord(np.vstack([*parts[a:b], stub]), gives, thick, hung))
        a = b
    return out


def eased(of_all: Sequence[Cord]) -> list[Array]:
    """Lines of cords that go past each other."""
    of = np.repeat(np.arange(len(of_all)), [len(c.line) for c in of_all])
    x = np.vstack([c.line for c in of_all]) if of_all else np.zeros((0, 3))
    loose = np.concatenate([c.loose for c in of_all]) if of_all else np.zeros(0, bool)
    wide = np.array([c.thick for c in of_all])[of] if of_all else np.zeros(0)
    for _ in range(TIMES if loose.any() else 0):
        lines = [x[of == k] for k in range(len(of_all))]
        far = np.concatenate([along_of(line) for line in lines])
        way = np.vstack([_ways(line) for line in lines])
        gives = np.concatenate([_gives(line, c) for line, c in zip(lines, of_all, strict=True)])
        move = np.zeros_like(x)
        for a, b in _meetings(x, of, far, gives > LEAST, wide):
            room = (wide[a] + wide[b]) / 2
            off = x[b] - x[a]
            square = _square_to(way[a], way[b], off)
            side = float(off @ square)
            by = (APART * room - abs(side)) * (1.0 if side >= 0 else -1.0)
            share = 0.5 if loose[b] else 1.0
            for at, part in ((a, -share), (b, 1.0 - share)):
                reach = REACH * wide[at]
                own = loose & (of == of[at]) & (np.abs(far - far[at]) < reach)
                fade = 0.5 + 0.5 * np.cos(np.pi * (far[own] - far[at]) / reach)
                move[own] += np.outer(fade * gives[own], square) * part * by
        if not move.any():
            break
        x = x + move
    return [x[of == k] for k in range(len(of_all))]


def _meetings(x: Array, of: Ints, far: Array, loose: Flags, wide: Array) -> list[tuple[int, int]]:
    """Pairs of points at which cords are in each other, one of each meeting, the deepest first. of : whose a point is, far : how far along it."""
    from scipy.spatial import cKDTree  # slow to load, and nothing is drawn before a window stands

    mine = np.flatnonzero(loose)
    if not len(mine):
        return []
    near = cKDTree(x).query_ball_point(x[mine], MET * wide.max())
    i = np.repeat(mine, [len(n) for n in near])
    j = np.concatenate([np.asarray(n, np.int64) for n in near])
    gap = np.linalg.norm(x[j] - x[i], axis=1) / ((wide[i] + wide[j]) / 2)
    begin = x[
        np.flatnonzero(np.diff(of, prepend=-1))
    ]  # two ends of a cord may begin in one place, as at its fold
    one = np.linalg.norm(begin[of[i]] - begin[of[j]], axis=1) < TOUCH
    along = np.where(of[i] == of[j], np.abs(far[i] - far[j]), far[i] + far[j])
    met = (gap < MET) & (~one | (along > OWN * wide[i]))
    i, j, gap = i[met], j[met], gap[met]
    out: list[tuple[int, int]] = []
    for n in np.argsort(gap, kind="stable"):
        a, b = int(i[n]), int(j[n])
        told = ((p, q) for p, q in out if {of[p], of[q]} == {of[a], of[b]})
        if all(min(abs(far[a] - far[k]) for k in pair if of[k] == of[a]) > REACH * wide[a] for pair in told):
            out.append((a, b))
    return out


def _square_to(one: Array, other: Array, off: Array) -> Array:
    """(3,) the way in which two cords go past each other: square to both; where they lie side by side, apart as they lie, or aside."""
    square = np.cross(one, other)
    if np.linalg.norm(square) < BESIDE:
        square = off if np.linalg.norm(off) > TOUCH else np.cross(one, [0.0, 0.0, 1.0])
    return np.asarray(square / max(float(np.linalg.norm(square)), 1e-9))


def _gives(line: Array, cord: Cord) -> Array:
    """(n,) how much each point gives way: less towards what stays, and towards its ends, where it is another cord's."""
    along = along_of(line)
    stays = np.concatenate([[along[0], along[-1]], along[~cord.loose]])
    stays.sort()
    at = np.searchsorted(stays, along).clip(1, len(stays) - 1)
    far = np.minimum(np.abs(along - stays[at - 1]), np.abs(stays[at] - along))
    near = np.clip(far / (REACH * cord.thick), 0.0, 1.0)
    return np.asarray(3 * near**2 - 2 * near**3)


def _ways(line: Array) -> Array:
    """(n, 3) which way a cord runs at every point."""
    way = np.gradient(line, axis=0)
    return np.asarray(way / np.maximum(np.linalg.norm(way, axis=1), 1e-9)[:, None])
