"""From the drawing to the planar diagram: walks along ends, closures, PD code, permutation, colour cycle."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from dim_ladder.base import InputError
from dim_ladder.trace.value import Trace

CLOSURES = ("braid", "caps")


@dataclass(frozen=True, slots=True)
class Visit:
    """One passage of an end through a crossing, with the direction of travel (dx, dy), y upwards."""

    crossing: int
    over: bool
    dx: int
    dy: int


def visits(trace: Trace) -> tuple[tuple[Visit, ...], ...]:
    """For every end, its passages from the bar down to its tip."""
    on_lane: dict[int, list[int]] = {}
    on_row: dict[int, list[int]] = {}
    for n, c in enumerate(trace.crossings):
        on_lane.setdefault(c.lane, []).append(n)
        on_row.setdefault(c.row, []).append(n)
    lane_rank, row_rank, cs = trace.lane_rank, trace.row_rank, trace.crossings
    out = []
    for path in trace.paths:
        walk: list[Visit] = []
        for i, piece in enumerate(path):
            if i % 2 == 0:  # a lane: rows downwards unless the row after it lies above the row before it
                here = on_lane.get(piece)
                if not here:
                    continue
                up = 0 < i < len(path) - 1 and row_rank[path[i + 1]] < row_rank[path[i - 1]]
                here = sorted(here, key=lambda n: row_rank[cs[n].row], reverse=up)
                walk.extend(Visit(n, cs[n].lane_over, 0, 1 if up else -1) for n in here)
            else:
                here = on_row.get(piece)
                if not here:
                    continue
                left = lane_rank[path[i + 1]] < lane_rank[path[i - 1]]
                here = sorted(here, key=lambda n: lane_rank[cs[n].lane], reverse=left)
                walk.extend(Visit(n, not cs[n].lane_over, -1 if left else 1, 0) for n in here)
        out.append(tuple(walk))
    return tuple(out)


@dataclass(slots=True)
class Tangle:
    """A diagram between bar and tails, apart from its drawing.

    walks : per strand its passages (crossing, over) from the bar to its tail. from_right : per crossing whether the
    over strand comes from the right of the under one. top, bottom : strands in their order at the bar and at the
    tails. fresh : a number no crossing has.
    """

    walks: list[list[tuple[int, bool]]]
    from_right: dict[int, bool]
    top: list[int]
    bottom: list[int]
    fresh: int = 0

    @property
    def crossings(self) -> int:
        return len(self.from_right)


def tangle(trace: Trace) -> Tangle:
    """The diagram of a trace. Where ends come in later or are laid aside, `bottom` has others than `top`."""
    direction: dict[tuple[int, bool], tuple[int, int]] = {}
    walks = []
    for walk in visits(trace):
        walks.append([(v.crossing, v.over) for v in walk])
        for v in walk:
            direction[v.crossing, v.over] = (v.dx, v.dy)
    from_right = {}
    for n in range(len(trace.crossings)):
        (ux, uy), (ox, oy) = direction[n, False], direction[n, True]
        from_right[n] = ux * oy - uy * ox > 0
    return Tangle(walks, from_right, list(trace.start), list(trace.order), len(trace.crossings))


@dataclass(frozen=True, slots=True)
class Closed:
    """A closed link diagram. pd : [incoming under, then counter-clockwise], labels from 1.

    components counts every closed curve, `bare` those without a crossing, which a PD code cannot show.
    """

    pd: tuple[tuple[int, int, int, int], ...]
    components: int
    bare: int


def close(trace: Trace, keep: Sequence[int] | None = None, closure: str = "braid") -> Closed:
    """Close the diagram.

    keep : places at the top (from 1) whose ends are kept; the others are taken out with their crossings.
    closure : "braid" joins the bottom of each kept place round to its top; "caps" joins kept neighbours
    (1st with 2nd, 3rd with 4th, ...) at the top and at the bottom.
    """
    return close_tangle(tangle(trace), _kept(trace, keep), closure)


def close_tangle(t: Tangle, ends: Sequence[int], closure: str = "braid") -> Closed:
    """Close a tangle with these strands kept. See close."""
    if closure not in CLOSURES:
        raise InputError(f"there is no closure “{closure}”", "braid or caps")
    if closure == "caps" and len(ends) % 2:
        raise InputError(f"caps join ends in pairs, {len(ends)} are kept", "Keep an even number")
    kept = set(ends)
    count = Counter(n for e in ends for n, _ in t.walks[e])
    curves = _curves([e for e in t.top if e in kept], [e for e in t.bottom if e in kept], closure)
    # Per crossing and strand: edge in, edge out, and whether it is walked upwards.
    passed: dict[tuple[int, bool], tuple[int, int, bool]] = {}
    label = 0
    bare = 0
    for curve in curves:
        passes: list[tuple[int, bool, bool]] = []
        for end, down in curve:
            walk = t.walks[end] if down else t.walks[end][::-1]
            passes += [(n, over, not down) for n, over in walk if count[n] == 2]
        if not passes:
            bare += 1
            continue
        first = label + 1
        for i, (n, over, up) in enumerate(passes):
            edge_in = label + 1 + i
            passed[n, over] = (edge_in, edge_in + 1 if i + 1 < len(passes) else first, up)
        label += len(passes)
    pd = []
    for n, from_right in t.from_right.items():
        if count[n] == 2:
            u_in, u_out, u_up = passed[n, False]
            o_in, o_out, o_up = passed[n, True]
            # Counter-clockwise from where the under strand comes in lies what comes from its right.
            right = from_right != (u_up != o_up)
            pd.append((u_in, o_in, u_out, o_out) if right else (u_in, o_out, u_out, o_in))
    return Closed(tuple(pd), len(curves), bare)


def _kept(trace: Trace, keep: Sequence[int] | None) -> list[int]:
    if keep is None:
        if not trace.settled:
            raise InputError(
                "ends come in or are laid aside here, so the diagram does not close as it is",
                "Keep places that hang at the top and at the bottom",
            )
        return list(range(len(trace.ends)))
    out = []
    for place in keep:
        if not 1 <= place <= trace.hung:
            raise InputError(f"there is no place {place} to keep", f"Places are 1 to {trace.hung}")
        if place - 1 not in trace.order:
            raise InputError(f"the end at place {place} is laid aside and cannot be closed", "Keep another")
        if place - 1 not in out:
            out.append(place - 1)
    return sorted(out)


def _curves(top: list[int], bottom: list[int], closure: str) -> list[list[tuple[int, bool]]]:
    """Closed curves as runs of (end, walked downwards)."""
    after: dict[tuple[int, bool], tuple[int, bool]] = {}
    n = len(top)
    for i, end in enumerate(bottom):  # leaving `end` at the bottom
        after[end, True] = (top[i], True) if closure == "braid" else (bottom[i ^ 1], False)
    if closure == "caps":
        for i in range(n):
            after[top[i], False] = (top[i ^ 1], True)
    out = []
    seen: set[int] = set()
    for start in top:
        if start in seen:
            continue
        curve = []
        here = (start, True)
        while here[0] not in seen:
            seen.add(here[0])
            curve.append(here)
            here = after[here]
        out.append(curve)
    return out


def permutation(trace: Trace) -> tuple[int, ...]:
    """For every place at the top (from 1, in order): the place at the bottom where that end hangs.

    Places count along the side that lies up, as the next unit counts them.
    """
    if not trace.settled:
        raise InputError(
            "ends come in or are laid aside here: places at the top and the bottom do not pair up"
        )
    at = {e: i + 1 for i, e in enumerate(trace.order_shown())}
    return tuple(at[e] for e in range(len(trace.ends)))


def cycles(perm: Sequence[int]) -> list[tuple[int, ...]]:
    """Cycles of a permutation of places from 1, fixed places included."""
    out = []
    seen: set[int] = set()
    for start in range(1, len(perm) + 1):
        if start in seen:
            continue
        cycle = []
        at = start
        while at not in seen:
            seen.add(at)
            cycle.append(at)
            at = perm[at - 1]
        out.append(tuple(cycle))
    return out


def end_cycle(trace: Trace) -> int:
    """After how many of these units every end hangs where it began."""
    return math.lcm(*(len(c) for c in cycles(permutation(trace)))) if trace.ends else 1


def colour_cycle(trace: Trace) -> int:
    """After how many of these units the colours from left to right are the same again."""
    colours = [c.colour if (c := trace.weave.cord_of(e)) else "" for e in trace.ends]
    # Each orbit of places repeats its own colours by itself; all do after the least number that all of these divide.
    return (
        math.lcm(*(_repeats([colours[p - 1] for p in orbit]) for orbit in cycles(permutation(trace))))
        if colours
        else 1
    )


def _repeats(seen: list[str]) -> int:
    """The least turn of a ring of colours that leaves it as it is."""
    n = len(seen)
    return next(k for k in range(1, n + 1) if n % k == 0 and seen == seen[k:] + seen[:k])


def linking(trace: Trace) -> dict[tuple[int, int], int]:
    """Signed crossings of every pair of ends, all walked downwards: how they turn about each other.

    A full turn counts 2, positive where the turn is right-handed. Pairs that cancel are left out.
    """
    out: dict[tuple[int, int], int] = {}
    direction: dict[tuple[int, bool], tuple[int, int]] = {}
    for walk in visits(trace):
        for v in walk:
            direction[v.crossing, v.over] = (v.dx, v.dy)
    for n, c in enumerate(trace.crossings):
        if c.lane_end == c.row_end:
            continue
        ox, oy = direction[n, True]
        ux, uy = direction[n, False]
        pair = (min(c.lane_end, c.row_end), max(c.lane_end, c.row_end))
        out[pair] = out.get(pair, 0) + ox * uy - oy * ux
    return {k: v for k, v in out.items() if v}
