"""The traced diagram as an immutable value."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

from dim_ladder.base import Problem
from dim_ladder.notation import Call, Drop, Hop, Item, Step, Thread, Weave

if TYPE_CHECKING:
    from dim_ladder.trace.expand import Op


class Bend(NamedTuple):
    """A turn of a path where `lane` meets `row`: its loop lies beside the lane on `side` (+1 right, -1 left), just
    above the row, or just below it. The loop's outer edge is the lane, or the row when `by_row`."""

    lane: int
    row: int
    side: int
    below: bool = False
    by_row: bool = False


class Crossing(NamedTuple):
    """Where a vertical piece (lane) meets a horizontal piece (row), and which of the two is in front."""

    lane: int
    row: int
    lane_over: bool
    lane_end: int
    row_end: int

    @property
    def over_end(self) -> int:
        return self.lane_end if self.lane_over else self.row_end


class HopRecord(NamedTuple):
    """A hop as it was carried out: ends crossed in order (or the loop's owner), and its crossings start:stop.

    side : +1 when it went to the right, -1 to the left, 0 for a pass. edge : the crossing with the loop's outer
    edge, -1 for over and under. turns : how many turns the step has made once it is done.
    place : where among all tails one is brought to rest by `to`, from 0; -1 for other hops.
    """

    hop: Hop
    ends: tuple[int, ...]
    start: int
    stop: int
    side: int = 0
    edge: int = -1
    turns: int = 0
    place: int = -1


class Placed(NamedTuple):
    """Something that stands at a place of the drawing. kind : "bead", "leave" or "span". text : the bead's name, or
    empty. mm : slack or free cord. row : where. lane : on which lane; -1 for a span. ends : whose."""

    kind: str
    text: str
    mm: float
    row: int
    lane: int
    ends: tuple[int, ...]


class StepRecord(NamedTuple):
    """A step as it was carried out, or something done to the whole work (deed).

    before, order : tails before and after it, left to right as seen from the front. crossings start:stop and pieces
    path_start:path_stop of the end's path are its own (path_start counts the pieces that were there before).
    others : ends moved along, with their pieces. turned : the work lay with its back up. quiet : work that was
    finished before and is only shown again.
    """

    op: Op
    knot_step: int
    end: int
    hops: tuple[HopRecord, ...]
    order: tuple[int, ...]
    start: int
    stop: int
    ends: tuple[int, ...]
    finish: str = ""
    step: Step | None = None
    path_start: int = 0
    path_stop: int = 0
    others: tuple[tuple[int, int, int], ...] = ()
    placed: tuple[Placed, ...] = ()
    turned: bool = False
    quiet: bool = False
    before: tuple[int, ...] = ()
    deed: Item | None = None

    @property
    def waits(self) -> bool:
        """Whether ends only wait here, to follow when the others have tied the knot: see following.py."""
        return isinstance(self.deed, Drop) and isinstance(self.op.value, Call)

    @property
    def order_shown(self) -> tuple[int, ...]:
        """Tails after the step, left to right as the work lies before its maker."""
        return self.order[::-1] if self.turned else self.order

    @property
    def leads(self) -> bool:
        """Whether an end is led anywhere in it: a bead that is pushed up makes nothing of what it is on but what it was."""
        return any(not isinstance(h.hop, Thread) for h in self.hops)


@dataclass(frozen=True, slots=True)
class Trace:
    """A planar diagram in the half-plane under the bar.

    ends : names, numbered by their place at the start; then those that came later, in order of coming. An end that
    hangs anew after the work was rotated has a further number. paths : per end lane, row, lane, ... downwards.
    tops : per end the row it begins at, -1 at the bar. tips : the row its tail stops at, -1 while it hangs.
    numbers : per end its number among all ends that are ever worked, which gives its letter; -1 for a layer.
    folds : pairs of ends of a cord that was laid in by its fold. hung : how many ends hung at the start.
    lane_rank, row_rank : integer position of each lane from the left, of each row from the top.
    problems : what could not be made; the trace holds what comes before it.
    """

    weave: Weave
    ends: tuple[str, ...]
    steps: tuple[StepRecord, ...]
    crossings: tuple[Crossing, ...]
    paths: tuple[tuple[int, ...], ...]
    lane_rank: tuple[int, ...]
    row_rank: tuple[int, ...]
    order: tuple[int, ...]
    problems: tuple[Problem, ...] = ()
    tops: tuple[int, ...] = ()
    tips: tuple[int, ...] = ()
    folds: tuple[tuple[int, int], ...] = ()
    hung: int = 0
    bends: tuple[tuple[Bend, ...], ...] = ()
    numbers: tuple[int, ...] = ()

    @property
    def ok(self) -> bool:
        return not self.problems

    @property
    def start(self) -> tuple[int, ...]:
        """Ends that hang at the start, left to right."""
        return tuple(range(self.hung))

    @property
    def settled(self) -> bool:
        """Whether the very ends that hung at the start hang at the end: none came, none was dropped."""
        return len(self.ends) == self.hung == len(self.order)

    @property
    def turned(self) -> bool:
        """Whether the back lies up at the end: places are then counted from the other side."""
        return bool(self.steps) and self.steps[-1].turned

    def shown(self, order: tuple[int, ...], turned: bool) -> tuple[str, ...]:
        """Ends by name, left to right as the work lies, of tails left to right from the front."""
        return tuple(self.ends[e] for e in (reversed(order) if turned else order))

    def order_shown(self) -> tuple[int, ...]:
        """Tails at the end, left to right as the work lies before its maker."""
        return self.order[::-1] if self.turned else self.order

    def names_shown(self) -> tuple[str, ...]:
        """Ends at the bottom, left to right as the work lies. Place numbers count along this."""
        return tuple(self.ends[e] for e in self.order_shown())

    def order_before(self, step: int) -> tuple[int, ...]:
        """Tails from left to right when a step begins."""
        return self.steps[step].before if step < len(self.steps) else self.order

    def first_of(self, end: int) -> int:
        """The number under which an end of that name first hung: its letter and colour."""
        return self.ends.index(self.ends[end])
