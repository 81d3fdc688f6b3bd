"""Work on a round former: any leads and bights, any coding, following and raising.

The work is seen unrolled: x runs round the former in half bights (0 to 2b), y from the near edge (0) to the far edge
(p). Every strand runs at a slope of one from edge to edge and back. A strand that rises from the near edge at x0
crosses one that falls to it at x1 where y = (x1 - x0) / 2 (mod b): crossings lie at whole y from 1 to p - 1, b of
them in every row. So a work of p leads and b bights has gcd(p, b) strands and (p - 1) b crossings.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

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
    of the work it was raised from, 0 where that work is not its beginning."""

    leads: int
    bights: int
    over_rows: tuple[bool, ...]  # by row (from 1), or by column, whether the rising strand is in front
    columns: bool
    passes: int = 1
    raised: int = 0
    first: int = 0

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
    leads, bights, passes, raised = f.leads, f.bights, 1, 0
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
        if abs(leads - bights) != 1:
            raise InputError(
                f"{leads} leads and {bights} bights cannot be raised by the strand's own path",
                "That takes leads and bights that differ by one, such as 4 and 3",
            )
        # The strand runs beside itself for a round and parts the pairs so made: four half cycles more, which are two
        # leads and two bights. After a whole `follow` only that much of the second round is taken.
        times = item.times
        leads, bights, raised = leads + 2 * times, bights + 2 * times, raised + times
        if item.how == "split":
            passes, followed = passes - 1, 0
    if leads > 60 or bights > 120 or passes > 9:
        raise InputError("this work is too large for a former", "At most 60 leads, 120 bights and 9 passes")
    code = _code(f, leads, bights)
    # Over and under in turn, a crossing of the smaller work lies in a row of the same parity in the larger one: the
    # same half cycles in the same order, four more after them. Another coding moves against the work it grew from.
    grown = raised and all(a != b for a, b in itertools.pairwise(code))
    return FormerWork(leads, bights, code, f.columns, passes, raised, 2 * f.bights if grown else 0)


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
