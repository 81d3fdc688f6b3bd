"""Everything that is kept of one weave, as one immutable value."""

from __future__ import annotations

from dataclasses import dataclass, field

from dim_ladder.calibrate import Tie
from dim_ladder.notation import Weave, write
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.scale import Plan


@dataclass(frozen=True, slots=True)
class Document:
    """draft : script text that cannot be read yet, kept so that typing is never lost ("" when there is none).
    layout : the script as the person laid it out, "" where it is as the program writes it. photo : of the finished work, for the
    sheet, as base64 of a JPEG; "" for none."""

    weave: Weave
    ties: tuple[Tie, ...] = ()
    plan: Plan = field(default_factory=Plan)
    sheet: SheetChoices = field(default_factory=SheetChoices)
    draft: str = ""
    layout: str = ""
    photo: str = ""

    @property
    def script(self) -> str:
        """The weave as text, in the person's own layout where there is one."""
        return self.layout or write(self.weave)

    @classmethod
    def of_script(cls, text: str, weave: Weave) -> Document:
        """A document of a weave that was read from this text."""
        return cls(weave, layout=laid(text, weave))


def laid(text: str, weave: Weave) -> str:
    """The layout to keep of a text that says a weave."""
    return "" if text == write(weave) else text
