"""What a trace under construction holds: its drawing, who its ends are, and the steps made so far."""

from __future__ import annotations

from dim_ladder.trace.drawing import Drawing
from dim_ladder.trace.value import StepRecord


class Underway:
    """Ends are numbered by their place at the start, later ones as they come. turned : the back lies up now. beside : of ends
    that move as one, whose loop is passed when theirs is."""

    def __init__(self, ends: tuple[str, ...]) -> None:
        self.hung = len(ends)
        self.names: list[str] = list(ends)
        self.number = {e: i for i, e in enumerate(ends)}
        self.d = Drawing(len(ends))
        self.steps: list[StepRecord] = []
        self.turned = False
        self.beside = 0

    @property
    def crossings(self) -> int:
        """How many there are so far."""
        return len(self.d.crossings)
