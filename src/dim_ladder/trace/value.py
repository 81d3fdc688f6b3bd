"""The traced diagram as an immutable value."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

from dim_ladder.base import Problem
from dim_ladder.notation import Hop, Step, Weave

if TYPE_CHECKING:
    from dim_ladder.trace.expand import Op


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
    edge, -1 for over and under.
    """

    hop: Hop
    ends: tuple[int, ...]
    start: int
    stop: int
    side: int = 0
    edge: int = -1


class StepRecord(NamedTuple):
    """A step as it was carried out.

    order : tails after it, left to right. crossings start:stop and pieces path_start:path_stop of the end's path
    are its own (path_start counts the pieces that were there before).
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


@dataclass(frozen=True, slots=True)
class Trace:
    """A planar diagram in the half-plane under the bar.

    ends : names, numbered by their place at the start. paths : per end lane, row, lane, ... from the bar down.
    lane_rank, row_rank : integer position of each lane from the left, of each row from the top.
    problem : the first step that could not be made, if any; the trace holds what comes before it.
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

    @property
    def ok(self) -> bool:
        return not self.problems

    def order_names(self) -> tuple[str, ...]:
        """Ends at the bottom, left to right."""
        return tuple(self.ends[e] for e in self.order)

    def order_before(self, step: int) -> tuple[int, ...]:
        """Tails from left to right when a step begins."""
        return self.steps[step - 1].order if step > 0 else tuple(range(len(self.ends)))
