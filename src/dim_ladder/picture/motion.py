"""The weave tied before one's eyes: any stretch of it at any moment, forward and back.

A moment is a number: 3.25 is step 3 (from 0) when a quarter of its way is made; 4.0 is step 3 at rest.
"""

from __future__ import annotations

from dim_ladder.picture.diagrams import step_parts
from dim_ladder.picture.display import PAPER, Ink, Picture
from dim_ladder.picture.look import Style
from dim_ladder.picture.parts import Parts, assemble
from dim_ladder.trace.value import Trace


class Motion:
    """Steps first..last of a trace. Parts of a step are worked out when they are first shown, and kept."""

    def __init__(
        self,
        trace: Trace,
        first: int,
        last: int,
        ink: Ink = PAPER,
        style: Style | None = None,
        *,
        ease: bool = True,
    ) -> None:
        if not 0 <= first <= last < len(trace.steps):
            raise ValueError(f"steps {first}..{last} of {len(trace.steps)}")
        self.trace, self.first, self.last = trace, first, last
        self._ink, self._style, self._ease = ink, style or Style(), ease
        self._parts: dict[int, Parts] = {}

    @property
    def begin(self) -> float:
        return float(self.first)

    @property
    def end(self) -> float:
        return float(self.last + 1)

    def step_at(self, moment: float) -> int:
        """The step a moment belongs to; where one ends and the next begins, the one that ends."""
        whole = int(moment)
        return min(max(whole - 1 if moment == whole else whole, self.first), self.last)

    def parts(self, step: int) -> Parts:
        found = self._parts.get(step)
        if found is None:
            found = self._parts[step] = step_parts(self.trace, step, self._ink, self._style, ease=self._ease)
        return found

    def picture(self, moment: float) -> Picture:
        """Shapes of one moment; beyond the ends of the stretch, its first or last."""
        moment = min(max(moment, self.begin), self.end)
        step = self.step_at(moment)
        return assemble(self.parts(step), moment - step)


def eased_time(part: float) -> float:
    """Part of the way after a part of the time: slow, fast, slow, as a hand goes."""
    return part * part * (3 - 2 * part)
