"""Roles: ends that do the same work over a full cycle eat the same cord and are counted together."""

from __future__ import annotations

from collections import deque
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from dim_ladder.notation import Rotate, Turn, Weave, working_ends
from dim_ladder.trace.diagram import cycles, end_cycle, permutation
from dim_ladder.trace.rows import cord_in, stacked
from dim_ladder.trace.tracer import trace
from dim_ladder.trace.value import StepRecord, Trace


@dataclass(frozen=True, slots=True)
class SectionWork:
    """What one section asks of every end, per unit, averaged over a full cycle.

    visits : crossings passed through, by end. moves : steps made. passes : loops passed. layers : how far down it reaches, in diameters of its cord, and
    cord : crossings by end that tell how much it takes, both by the rough rule of trace/rows.py.
    slack : mm of cord left standing or free, by end. span : mm of free length. period : units after which
    the work is the same again, 2 where every other one is mirrored or flipped.
    """

    name: str
    cycle: int
    visits: dict[str, float]
    moves: dict[str, float]
    passes: dict[str, float]
    layers: float
    slack: dict[str, float]
    span: float
    period: int = 1
    cord: dict[str, float] = field(default_factory=dict)


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
    """Count a section's work over one cycle; None when it cannot be traced, or takes no cord and no length.

    A section that passes loops made before it cannot be traced by itself: there its third unit is counted (the last one, where it is
    worked less often), below all that stands above it.
    """
    period = period_of(weave, section)
    one = trace(weave, section=section, units=period)
    index = next(i for i, s in enumerate(weave.sections) if s.name == section)
    steps = [s for s in one.steps if not s.quiet]
    if one.problems:
        found = _in_place(weave, section, period)
        if found is None:
            return None
        one, steps = found
    if not any(s.hops or s.placed for s in steps):
        return None
    # An end that hangs anew is the same end; one that is laid in or aside stays where it is over the cycle.
    who = [one.first_of(e) for e in range(len(one.ends))]
    n = len(one.ends)
    visits, moves, passes, slack, free = [0] * n, [0] * n, [0] * n, [0.0] * n, [0.0] * n
    # Where nothing crosses, ends are as long as the beads that are threaded on them.
    beads = {b.name: b.diameter for b in weave.beads} if not one.crossings else {}
    threaded = False
    for s in steps:
        for c in one.crossings[s.start : s.stop]:
            visits[who[c.lane_end]] += 1
            visits[who[c.row_end]] += 1
        if s.leads:
            for e in s.ends:
                moves[who[e]] += 1
                passes[who[e]] += sum(h.edge >= 0 for h in s.hops)
        for p in s.placed:
            on = [who[e] for e in p.ends]
            if p.kind == "bead" and p.text in beads:
                threaded = True
                to = beads[p.text] + max(free[e] for e in on)
                for e in on:
                    slack[e], free[e] = slack[e] + to - free[e], to
                continue
            for e in on:
                slack[e] += p.mm
                free[e] += p.mm if p.kind == "span" else 0.0
    # What is left free on some tails lies beside the others that are worked: they are as long.
    span = max(free, default=0.0)
    for e, n_visits in enumerate(visits):
        if n_visits or threaded:
            slack[e] += span - free[e]
    whole = one.settled and len(steps) == len(one.steps)
    perm = permutation(one) if whole else tuple(range(1, n + 1))

    def average(counts: Sequence[float]) -> dict[str, float]:
        """Over a full cycle an end comes by every place of its orbit equally often."""
        out = [0.0] * n
        for orbit in cycles(perm):
            mean = sum(counts[p - 1] for p in orbit) / len(orbit) / period
            for p in orbit:
                out[p - 1] = mean
        return {one.ends[e]: out[e] for e in range(n) if who[e] == e}

    def as_often(counts: Sequence[float]) -> dict[str, float]:
        """What is given by length, per unit: over as many units as are worked where that is said, else over a full cycle."""
        count = weave.sections[index].count
        if count.kind != "repeat" or count.number >= MANY:
            return average(counts)
        out, at, many = [0.0] * n, list(range(n)), max(1, count.number // period)
        for _ in range(many):
            for e in range(n):
                out[e] += counts[at[e]] / many / period
            at = [perm[a] - 1 for a in at]
        return {one.ends[e]: out[e] for e in range(n) if who[e] == e}

    return SectionWork(
        section,
        end_cycle(one) if whole else 1,
        average(visits),
        average(moves),
        average(passes),
        0.0 if threaded else stacked(one, steps, perm) / period,
        as_often(slack),
        span / period,
        period,
        average(cord_in(one, steps, who)),
    )


MANY = 100  # units, over which ends come by every place as good as equally often
BEFORE = 2  # units in place above the one that is counted


def _in_place(weave: Weave, section: str, period: int) -> tuple[Trace, list[StepRecord]] | None:
    """The weave up to a section, and the steps of one period of it, below two others; None where that cannot be traced."""
    index = next((i for i, s in enumerate(weave.sections) if s.name == section), None)
    if index is None:
        return None
    upto = replace(weave, sections=weave.sections[: index + 1])
    units, count = (BEFORE + 1) * period, weave.sections[index].count
    # Work that is done so often and no more may not bear to be repeated.
    whole = trace(upto, counts={section: min(units, count.number) if count.kind == "repeat" else units})
    if whole.problems:
        return None
    of = [s for s in whole.steps if s.op.section == index and not s.quiet]
    last = max((s.op.unit for s in of), default=0)
    return whole, [s for s in of if s.op.unit > last - period]


def period_of(weave: Weave, section: str) -> int:
    """Units of a section after which its work is the same again: two where every other one is mirrored or flipped, or where a unit leaves
    the work turned over."""
    found = weave.section(section)
    if found is None:
        return 1
    if found.alternate:
        return 2
    turned = sum(isinstance(i, Turn) for i in found.items) % 2 == 1
    # What can be tied but once, as it reaches up into the work above it, is one unit.
    return 2 if turned and not trace(weave, section=section, units=2).problems else 1


def beside(weave: Weave, works: Sequence[SectionWork]) -> tuple[tuple[str, ...], ...]:
    """Bodies that hang beside each other, as they are worked on other ends than the bodies before them: groups of two and more,
    in the order in which they are made. What is worked after the work was turned end for end hangs at its other end, not beside it."""
    groups: list[list[str]] = []
    row: set[str] = set()
    since: set[str] = set()  # ends that were worked further down since the row began
    by_name = {w.name: w for w in works}
    for s in weave.sections:
        if any(isinstance(i, Rotate) and i.how == "half" for i in s.items):
            row = set()
        work = by_name.get(s.name)
        if s.over or s.on or work is None:
            continue
        if s.kind != "body":
            since |= ends_worked(work)
            continue
        mine = ends_worked(work)
        if row and mine and not mine & (row | since):
            groups[-1].append(s.name)
            row |= mine
        else:
            groups.append([s.name])
            row, since = mine, set()
    return tuple(tuple(g) for g in groups if len(g) > 1)


def ends_worked(work: SectionWork) -> set[str]:
    """Ends that a section works with: that meet anything in it, or are given free length where nothing does."""
    return {e for e, n in work.visits.items() if n} or {e for e, mm in work.slack.items() if mm}


def on_or_beside(
    weave: Weave, works: Sequence[SectionWork], length: Mapping[str, float] | None = None
) -> frozenset[str]:
    """Sections that add nothing to the length of the piece: those that lie on others as layers or stitching, and of bodies that
    hang beside each other all but one: the longest where the length of each is settled, else the first.

    length : of sections whose count is settled, in any unit.
    """
    out = {s.name for s in weave.sections if s.over or s.on}
    for group in beside(weave, works):
        known = length is not None and all(name in length for name in group)
        counts = max(group, key=lambda name: length[name]) if known and length is not None else group[0]
        out.update(name for name in group if name != counts)
    return frozenset(out)


def _works(weave: Weave) -> tuple[SectionWork, ...]:
    """The work of every section that takes cord or length. The last weaves are remembered: each section asks."""
    for known, found in tuple(_latest):
        if known is weave:
            return found
    works = tuple(w for s in weave.sections if (w := section_work(weave, s.name)) is not None)
    _latest.append((weave, works))
    return works


_latest: deque[tuple[Weave, tuple[SectionWork, ...]]] = deque(maxlen=4)


def roles(weave: Weave, section: str | None = None) -> Roles:
    """The role of every end: what it does in the bodies, whatever is knotted before and after them; where there is none,
    what it does at all. section : what it does in that one."""
    works = _works(weave)
    bodies = {s.name for s in weave.sections if s.kind == "body"}
    deciding = (
        [w for w in works if w.name == section] or [w for w in works if w.name in bodies] or list(works)
    )
    ends = working_ends(weave)
    signature = {}
    for e in ends:
        parts: list[tuple[float, ...]] = []
        for w in deciding:
            m = round(w.moves.get(e, 0.0), 6)
            # What an end that never moves is crossed by does not tell fillers apart.
            parts.append(
                (round(w.visits.get(e, 0.0), 6), m, round(w.passes.get(e, 0.0), 6)) if m else (0.0, 0.0, 0.0)
            )
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
    return Roles({e: role_of[e] for e in ends}, works)
