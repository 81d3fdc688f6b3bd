"""Roles: ends that do the same work over a full cycle eat the same cord and are counted together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dim_ladder.notation import Weave, working_ends
from dim_ladder.trace.diagram import cycles, end_cycle, permutation
from dim_ladder.trace.tracer import trace
from dim_ladder.trace.value import Trace


@dataclass(frozen=True, slots=True)
class SectionWork:
    """What one section asks of every end, per unit, averaged over a full cycle.

    visits : crossings passed through, by end. moves : steps made. passes : loops passed. layers : rows of work.
    slack : mm of cord left standing or free, by end. span : mm of free length.
    """

    name: str
    cycle: int
    visits: dict[str, float]
    moves: dict[str, float]
    passes: dict[str, float]
    layers: float
    slack: dict[str, float]
    span: float


@dataclass(frozen=True, slots=True)
class Roles:
    """role_of : end -> role. sections : the work per section that can be traced."""

    role_of: dict[str, str]
    sections: tuple[SectionWork, ...]

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(self.role_of.values()))

    def ends(self, role: str) -> tuple[str, ...]:
        return tuple(e for e, r in self.role_of.items() if r == role)


def section_work(weave: Weave, section: str) -> SectionWork | None:
    """Count a section's work over one cycle; None when it cannot be traced or holds no crossing step."""
    one = trace(weave, section=section, units=1)
    if one.problems or not any(s.hops for s in one.steps):
        return None
    # An end that hangs anew is the same end; one that is laid in or aside stays where it is over the cycle.
    who = [one.first_of(e) for e in range(len(one.ends))]
    n = len(one.ends)
    visits, moves, passes, slack = [0] * n, [0] * n, [0] * n, [0.0] * n
    span = 0.0
    quiet = {n for s in one.steps if s.quiet for n in range(s.start, s.stop)}
    for i, c in enumerate(one.crossings):
        if i not in quiet:
            visits[who[c.lane_end]] += 1
            visits[who[c.row_end]] += 1
    for s in one.steps:
        if s.hops and not s.quiet:
            for e in s.ends:
                moves[who[e]] += 1
                passes[who[e]] += sum(h.edge >= 0 for h in s.hops)
        for p in s.placed:
            span += p.mm if p.kind == "span" else 0.0
            for e in p.ends:
                slack[who[e]] += p.mm
    perm = permutation(one) if one.settled else tuple(range(1, n + 1))

    def average(counts: Sequence[float]) -> dict[str, float]:
        """Over a full cycle an end comes by every place of its orbit equally often."""
        out = [0.0] * n
        for orbit in cycles(perm):
            mean = sum(counts[p - 1] for p in orbit) / len(orbit)
            for p in orbit:
                out[p - 1] = mean
        return {one.ends[e]: out[e] for e in range(n) if who[e] == e}

    return SectionWork(
        section,
        end_cycle(one) if one.settled else 1,
        average(visits),
        average(moves),
        average(passes),
        _layers(one, perm),
        average(slack),
        span,
    )


def _layers(one: Trace, perm: tuple[int, ...], units: int = 12) -> float:
    """Rows of work that a unit stacks up, on average over some units: a step lies below all it touches."""
    touched = []
    for s in one.steps:
        if s.hops and not s.quiet:
            met = {*s.ends} | {e for c in one.crossings[s.start : s.stop] for e in (c.lane_end, c.row_end)}
            # A pass takes no row of its own: the end lies beside the loop it goes through.
            rows = len({c.row for h in s.hops if h.edge < 0 for c in one.crossings[h.start : h.stop]})
            touched.append((met, max(rows, 1)))
    level = [0] * len(perm)
    for _ in range(units):
        for met, rows in touched:
            top = max(level[e] for e in met) + rows
            for e in met:
                level[e] = top
        after = [0] * len(perm)
        for place, to in enumerate(perm):
            after[to - 1] = level[place]
        level = after
    return max(level) / units


def roles(weave: Weave) -> Roles:
    """The role of every end, from all sections together."""
    works = [w for s in weave.sections if (w := section_work(weave, s.name)) is not None]
    ends = working_ends(weave)
    signature = {}
    for e in ends:
        parts: list[tuple[float, ...]] = []
        for w in works:
            m = round(w.moves.get(e, 0.0), 6)
            # What an end that never moves is crossed by does not tell fillers apart.
            parts.append((round(w.visits[e], 6), m, round(w.passes[e], 6)) if m else (0.0, 0.0, 0.0))
        signature[e] = tuple(parts)
    groups: dict[tuple[tuple[float, ...], ...], list[str]] = {}
    for e in ends:
        groups.setdefault(signature[e], []).append(e)
    moving = [s for s in groups if any(p[1] for p in s)]
    role_of: dict[str, str] = {}
    used: dict[str, int] = {}
    for sig in groups:
        if sig not in moving:
            base = "filler"
        elif len(groups) == 1:
            base = "strand"
        elif len(moving) == 1:
            base = "worker"
        else:
            base = "wrapper" if any(p[2] for p in sig) else "leader"
        used[base] = used.get(base, 0) + 1
        name = base if used[base] == 1 else f"{base} {used[base]}"
        for e in groups[sig]:
            role_of[e] = name
    return Roles({e: role_of[e] for e in ends}, tuple(works))
