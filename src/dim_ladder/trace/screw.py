"""Ends that are wound round something as one, as hands lay them: side by side all the way round.

On paper two lines that turn back lie one inside the other, and so they are drawn. Round a core the one that lies above in front lies above
behind, too: seen from in front the two cross once where they go behind and once where they come forth, always the same way, as any
pair of lines on a screw do. What is tightened is that; what is shown, told and proved stays the drawing.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from dim_ladder.notation import Cross, Follow, Round
from dim_ladder.trace.value import Crossing, StepRecord, Trace

Slice = tuple[int, int, int]  # an end, and which pieces of its path


def wound_as_one(t: Trace) -> Trace:
    """The same diagram, in which ends that move as one change places at every turn round a core. Where they turn an odd number of times, they
    change once more where their tails come to rest. Crossings keep their numbers; new ones are the last."""
    work = _Screw(t)
    for k in range(len(t.steps)):
        work.step(k)
    return work.done() if work.extra else t


class _Screw:
    """riding : by end, on whose pieces it is now. met : by row, the tails that it crosses, by where they hang and on which lane, and
    whether in front of them; what is led strand by strand in a mat lies flat, one inside the other."""

    def __init__(self, t: Trace) -> None:
        self.t = t
        self.paths = [list(p) for p in t.paths]
        self.extra: list[tuple[int, int, bool]] = []
        self.riding: dict[int, int] = {}
        self.met: dict[int, list[tuple[int, int, bool]]] = {}
        tails = (h for s in t.steps for h in s.hops if isinstance(h.hop, Cross | Round))
        for c in (t.crossings[n] for h in tails for n in range(h.start, h.stop)):
            self.met.setdefault(c.row, []).append((t.lane_rank[c.lane], c.lane, not c.lane_over))

    def done(self) -> Trace:
        on_lane = {p: e for e, path in enumerate(self.paths) for p in path[::2]}
        on_row = {p: e for e, path in enumerate(self.paths) for p in path[1::2]}
        old = (
            c._replace(lane_end=on_lane.get(c.lane, c.lane_end), row_end=on_row.get(c.row, c.row_end))
            for c in self.t.crossings
        )
        new = (Crossing(lane, row, over, on_lane[lane], on_row[row]) for lane, row, over in self.extra)
        return replace(self.t, paths=tuple(map(tuple, self.paths)), crossings=(*old, *new))

    def step(self, k: int) -> None:
        s, parts = self.t.steps[k], _parts(self.t.steps, k)
        if len(parts) < 2 or (s.step is not None and s.step.stacked):
            return
        turns = self.turns(parts)
        if not turns:
            return
        first, pieces = parts[0], parts[0][2] - parts[0][1]
        way = self._way(first, turns[0])
        if len(turns) % 2:
            turns = [*turns, pieces - 1]
        if not all(self._nested(parts, j) for j in turns):
            return
        self.riding = {e: e for e, *_ in parts}
        for j in range(pieces):
            if j in turns:
                self._change(parts, j, way)
            for e, begin, _ in parts:
                on, at, _ = next(p for p in parts if p[0] == self.riding[e])
                self.paths[e][begin + j] = self.t.paths[on][at + j]

    def turns(self, parts: Sequence[Slice]) -> list[int]:
        """The lanes of their pieces on which several ends turn round what they just crossed, from in front of it to behind or the other way."""
        if len({stop - begin for _, begin, stop in parts}) > 1:
            return []
        end, begin, stop = parts[0]
        path = self.t.paths[end]
        out = []
        for j in range(1, stop - begin - 1, 2):
            before, after = path[begin + j - 1], path[begin + j + 1]
            there, back = self._heads(path, begin + j - 1), self._heads(path, begin + j + 1)
            last, then = self._crossed(before, there)[-1:], self._crossed(after, back)[:1]
            if there == -back and last and then and last[0][0] == then[0][0] and last[0][1] != then[0][1]:
                out.append(j)
        return out

    def _crossed(self, row: int, way: int) -> list[tuple[int, bool]]:
        """Of a row the lanes of tails that it crosses, in its order, and whether in front of them."""
        return [(lane, over) for _, lane, over in sorted(self.met.get(row, ()), reverse=way < 0)]

    def _heads(self, path: Sequence[int], i: int) -> int:
        rank = self.t.lane_rank
        return 1 if rank[path[i + 1]] > rank[path[i - 1]] else -1

    def _way(self, part: Slice, j: int) -> int:
        """Which way round the first turn goes: the sign of its crossings."""
        end, begin, _ = part
        path = self.t.paths[end]
        heading = self._heads(path, begin + j - 1)
        in_front = self._crossed(path[begin + j - 1], heading)[-1][1]
        return -heading if in_front else heading

    def _nested(self, parts: Sequence[Slice], j: int) -> bool:
        """Whether the ends turn down there one inside the other."""
        path, begin = self.t.paths[parts[0][0]], parts[0][1]
        heading = self._heads(path, begin + j - 1)
        lanes = [heading * self.t.lane_rank[self.t.paths[e][b + j]] for e, b, _ in parts]
        rows = [self.t.row_rank[self.t.paths[e][b + j - 1]] for e, b, _ in parts]
        return sorted(range(len(parts)), key=lanes.__getitem__) == sorted(
            range(len(parts)), key=rows.__getitem__, reverse=True
        )

    def _change(self, parts: Sequence[Slice], j: int, way: int) -> None:
        """Let what comes in highest go down nearest instead of outermost: each crosses the rows of all below it once."""
        path, begin = self.t.paths[parts[0][0]], parts[0][1]
        heading = self._heads(path, begin + j - 1)
        lane = {e: self.t.paths[e][b + j] for e, b, _ in parts}
        row = {e: self.t.paths[e][b + j - 1] for e, b, _ in parts}
        inwards = sorted(lane, key=lambda e: heading * self.t.lane_rank[lane[e]])
        other = dict(zip(inwards, reversed(inwards), strict=True))
        for n, near in enumerate(inwards):
            self.extra += [(lane[near], row[other[far]], way == heading) for far in inwards[n + 1 :]]
        self.riding = {e: other[on] for e, on in self.riding.items()}


def _parts(steps: Sequence[StepRecord], k: int) -> list[Slice]:
    """What goes side by side in a step: ends that move as one, or an end that follows and the one that tied the knot before it."""
    s = steps[k]
    follows = s.hops[0] if s.hops and isinstance(s.hops[0].hop, Follow) else None
    if follows is None:
        return [(s.end, s.path_start, s.path_stop), *s.others]
    tied = [o for o in steps[:k] if o.op is s.op and o.end in follows.ends and o.hops]
    others = sum(
        o.op is s.op and isinstance(h.hop, Follow)
        for o in steps
        for h in o.hops[:1]
        if set(h.ends) & set(follows.ends)
    )
    if not tied or others > 1 or any(len(o.ends) > 1 for o in tied):
        return []  # where more than one follows, each as it is drawn
    led = tied[0].end, tied[0].path_start, tied[-1].path_stop
    return [led, (s.end, s.path_start + 2, s.path_stop)]  # the first two lead to where the knot begins
