"""Work on a round former: any leads and bights, any coding, following and raising.

The work is seen unrolled: x runs round the former in half bights (0 to 2b), y from the near edge (0) to the far edge
(p). Every strand runs at a slope of one from edge to edge and back. A strand that rises from the near edge at x0
crosses one that falls to it at x1 where y = (x1 - x0) / 2 (mod b): crossings lie at whole y from 1 to p - 1, b of
them in every row. So a work of p leads and b bights has gcd(p, b) strands and (p - 1) b crossings.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from dim_ladder.base import InputError
from dim_ladder.notation import Former, Section, Weave, Widen
from dim_ladder.trace.diagram import Closed


@dataclass(frozen=True, slots=True)
class HalfCycle:
    """One run from edge to edge. strand : which cord, from 0. up : towards the far edge. start : x where it begins."""

    number: int
    strand: int
    up: bool
    start: int


@dataclass(frozen=True, slots=True)
class Meeting:
    """A crossing on a half cycle: at row y and column x of the work, with another half cycle; over : in front of it."""

    y: int
    x: int
    other: int
    over: bool


@dataclass(frozen=True, slots=True)
class FormerWork:
    """passes : how many times every strand lies side by side. raised : how often it was raised; first : half cycles
    of the work it was raised from, 0 where that work is not its beginning. step : leads and bights more each time it is."""

    leads: int
    bights: int
    over_rows: tuple[bool, ...]  # by row (from 1), or by column, whether the rising strand is in front
    columns: bool
    passes: int = 1
    raised: int = 0
    first: int = 0
    step: tuple[int, int] = (2, 2)

    @property
    def strands(self) -> int:
        return math.gcd(self.leads, self.bights)

    @property
    def crossings(self) -> int:
        return (self.leads - 1) * self.bights * self.passes**2

    def rising_over(self, x: int, y: int) -> bool:
        """Whether the strand that rises is in front at a crossing."""
        return self.over_rows[x % len(self.over_rows)] if self.columns else self.over_rows[y - 1]

    def half_cycles(self) -> tuple[HalfCycle, ...]:
        """Every run in the order in which it is laid: a strand from bight 1 on until it meets its beginning."""
        p, around = self.leads, 2 * self.bights
        out: list[HalfCycle] = []
        for strand in range(self.strands):
            x = 2 * strand
            while True:
                out.append(HalfCycle(len(out), strand, True, x))
                out.append(HalfCycle(len(out), strand, False, (x + p) % around))
                x = (x + 2 * p) % around
                if x == 2 * strand:
                    break
        return tuple(out)

    def meetings(self, run: HalfCycle) -> tuple[Meeting, ...]:
        """What a half cycle meets on the finished work, in order."""
        p, around = self.leads, 2 * self.bights
        up, down = _by_start(self)
        out = []
        for i in range(1, p):
            y = i if run.up else p - i
            x = (run.start + i) % around
            if (
                run.up
            ):  # the falling one that reaches the near edge at x + y began at the far edge p before that
                other = down[(x + y - p) % around]
            else:
                other = up[(x - y) % around]
            over = self.rising_over(x, y)
            out.append(Meeting(y, x, other, over if run.up else not over))
        return tuple(out)

    def calls(self, number: int) -> tuple[Meeting, ...]:
        """What a half cycle meets when it is laid: only what was laid before it."""
        run = self.half_cycles()[number]
        return tuple(m for m in self.meetings(run) if m.other < number)

    def closed(self) -> Closed:
        """The work as a closed link diagram, every pass closed on itself."""
        n = self.passes
        runs = self.half_cycles()
        under: dict[tuple[int, int, int, int], tuple[int, int]] = {}
        over: dict[tuple[int, int, int, int], tuple[int, int, bool]] = {}
        label = 0
        for strand in range(self.strands):
            mine = [r for r in runs if r.strand == strand]
            for t in range(n):
                visits: list[tuple[tuple[int, int, int, int], bool, bool]] = []
                for r in mine:
                    for m in self.meetings(r):
                        # Passes lie to the left of the way: rising meets falling ones from the first, falling meets
                        # rising ones from the last.
                        for other in range(n) if r.up else range(n - 1, -1, -1):
                            key = (m.x, m.y, t, other) if r.up else (m.x, m.y, other, t)
                            visits.append((key, m.over, r.up))
                first = label + 1
                for i, (key, is_over, up) in enumerate(visits):
                    a = label + 1 + i
                    z = a + 1 if i + 1 < len(visits) else first
                    if is_over:
                        over[key] = (a, z, up)
                    else:
                        under[key] = (a, z)
                label += len(visits)
        pd = []
        for key, (u_in, u_out) in sorted(under.items()):
            o_in, o_out, rising = over[key]
            # Counter-clockwise from the incoming under edge; both go round the former to the right.
            pd.append((u_in, o_in, u_out, o_out) if rising else (u_in, o_out, u_out, o_in))
        return Closed(tuple(pd), self.strands * n, 0)


def _by_start(work: FormerWork) -> tuple[dict[int, int], dict[int, int]]:
    up: dict[int, int] = {}
    down: dict[int, int] = {}
    for r in work.half_cycles():
        (up if r.up else down)[r.start] = r.number
    return up, down


def former_work(section: Section) -> FormerWork:
    """The work a section on a former describes. Raises InputError where it cannot be made."""
    f = section.former
    if f is None:
        raise InputError(f"{section.name} is not worked on a former", "Write: on former, leads 3 bights 5")
    leads, bights, passes, raised, step = f.leads, f.bights, 1, 0, (2, 2)
    followed = 0
    for item in section.items:
        if not isinstance(item, Widen):
            raise InputError(
                f"{section.name} is worked on a former: steps of ends do not fit in it",
                "follow left, raise or split; put other steps in a section of their own",
            )
        if item.how == "follow":
            passes += item.times
            followed = item.times
            continue
        if item.how == "split" and followed != 1:
            raise InputError("there are no pairs to split", "Follow the whole path once first: follow left")
        # The strand runs beside itself for a round and parts the pairs so made. After a whole `follow` only that much of the
        # second round is taken.
        step = _raised_by(leads, bights)
        times = _times(item, leads, bights, step)
        leads, bights, raised = leads + step[0] * times, bights + step[1] * times, raised + times
        if item.how == "split":
            passes, followed = passes - 1, 0
    if leads > 60 or bights > 120 or passes > 9:
        raise InputError("this work is too large for a former", "At most 60 leads, 120 bights and 9 passes")
    work = FormerWork(leads, bights, _code(f, leads, bights), f.columns, passes, raised, 0, step)
    if raised and _begins_with(work, FormerWork(f.leads, f.bights, _code(f, f.leads, f.bights), f.columns)):
        return replace(work, first=2 * f.bights)
    return work


def _raised_by(leads: int, bights: int) -> tuple[int, int]:
    """How many leads and bights more a work of one strand has once its strand has gone on for a round between its own ways.

    The strand comes back beside its own beginning after x leads and y bights where leads * y and bights * x differ by one (the
    smaller of the two that there are): ways laid from there on are new ones, between those that are there. Twice that keeps over
    and under in turn. Leads and bights that differ by one go up by two of either; 4 and 13 go to 6 and 19.
    """
    for y in range(1, bights + 1):
        for x in {leads * y // bights, leads * y // bights + 1}:
            if x and abs(leads * y - bights * x) == 1:
                return 2 * x, 2 * y
    raise InputError(
        f"{leads} leads and {bights} bights take {math.gcd(leads, bights)} cords, so none of them can raise it by its own path",
        "That takes leads and bights without a common divisor, such as 4 and 3, or 4 and 13",
    )


def _times(item: Widen, leads: int, bights: int, step: tuple[int, int]) -> int:
    """How often it is raised."""
    if not item.leads:
        return item.times
    more, over = divmod(item.leads - leads, step[0])
    if over or more < 1:
        sizes = ", ".join(f"{leads + k * step[0]} leads and {bights + k * step[1]} bights" for k in (1, 2, 3))
        raise InputError(
            f"{leads} leads and {bights} bights do not come to {item.leads} leads", f"They come to {sizes}"
        )
    return more


def _begins_with(large: FormerWork, small: FormerWork) -> bool:
    """Whether the smaller work is laid when the larger one is begun: the same half cycles meet the same ones, over and under
    alike. The last of them passes the beginning instead of ending in it, and may lie on its other side."""
    last = 2 * small.bights - 1
    for n in range(last + 1):
        here = [(m.other, m.over) for m in large.calls(n)]
        there = [(m.other, m.over) for m in small.calls(n)]
        if n == last:
            here, there = ([c for c in calls if c[0]] for calls in (here, there))
        if here != there:
            return False
    return True


def _code(f: Former, leads: int, bights: int) -> tuple[bool, ...]:
    flat: list[bool] = []
    over = not f.under_first
    for n in f.code:
        flat += [over] * n
        over = not over
    if len(f.code) % 2:  # the turns go on in turn
        flat += [not x for x in flat]
    if f.columns:
        if 2 * bights % len(flat):
            raise InputError(
                f"a coding of {len(flat)} columns does not come round on {bights} bights",
                f"{2 * bights} columns must be a multiple of it",
            )
        return tuple(flat)
    return tuple(flat[i % len(flat)] for i in range(leads - 1))


def former_diameter(girth_mm: float, ease_mm: float = 0.0) -> float:
    """Diameter in mm of the former for a work that slips on to this girth: its inside lies on the former."""
    if girth_mm <= 0:
        raise InputError("a girth is more than nothing", "Such as 62 mm or 17 cm")
    return (girth_mm + ease_mm) / math.pi


def strand_length(work: FormerWork, former_mm: float, cord_mm: float) -> float:
    """mm of cord in one strand with all its passes, without its ends; about right within a fifth.

    A half cycle goes p of 2b half bights round and as far across, at about 45 degrees, one cord above the former; the
    strands share 2b of them: p * sqrt(2) * girth * passes / strands in all, less or more as the work is drawn tight.
    """
    girth = math.pi * (former_mm + 2 * cord_mm)
    return work.leads * math.sqrt(2) * girth * work.passes / work.strands


def cover(work: FormerWork, former_mm: float, cord_mm: float) -> float:
    """How much of the former's surface the cord hides, from 0 to 1.

    Strands run at about 45 degrees, so a pass takes cord_mm * sqrt(2) of the girth, measured where the band has its
    middle, one cord above the former; b passes each way close it.
    """
    girth = math.pi * (former_mm + 2 * cord_mm)
    return min(1.0, work.bights * work.passes * cord_mm * math.sqrt(2) / girth)


def former_sections(weave: Weave) -> tuple[Section, ...]:
    return tuple(s for s in weave.sections if s.former is not None)
