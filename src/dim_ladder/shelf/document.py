"""Everything that is kept of one weave, as one immutable value."""

from __future__ import annotations

from dataclasses import dataclass, field

from dim_ladder.calibrate import Tie
from dim_ladder.notation import Weave
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.scale import Plan


@dataclass(frozen=True, slots=True)
class Document:
    """draft : script text that cannot be read yet, kept so that typing is never lost ("" when there is none)."""

    weave: Weave
    ties: tuple[Tie, ...] = ()
    plan: Plan = field(default_factory=Plan)
    sheet: SheetChoices = field(default_factory=SheetChoices)
    draft: str = ""
