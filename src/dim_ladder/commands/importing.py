"""Test ties of a table into a document: the same in the window and on the command line."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from dim_ladder.calibrate import Tie

How = Literal["replace", "keep", "both"]
HOWS: dict[How, str] = {
    "replace": "the ones of the table take their place",
    "keep": "the ones that are here stay",
    "both": "the ones of the table get names of their own",
}


@dataclass(frozen=True, slots=True)
class Meeting:
    """Ties of a table (`new`), told apart by what is here: known : the very same; clash : others of the same name."""

    new: tuple[Tie, ...]
    known: tuple[Tie, ...]
    clash: tuple[Tie, ...]

    @property
    def question(self) -> str:
        """What is to be asked where there is a clash."""
        names = ", ".join(t.id for t in self.clash[:5]) + (" …" if len(self.clash) > 5 else "")
        many = f"{len(self.clash)} ties" if len(self.clash) > 1 else "One tie"
        return f"{many} of the table ({names}) {'have names' if len(self.clash) > 1 else 'has a name'} that other ties have here"


def meeting(here: Sequence[Tie], table: Sequence[Tie]) -> Meeting:
    by_name = {t.id: t for t in here}
    return Meeting(
        tuple(t for t in table if t.id not in by_name),
        tuple(t for t in table if by_name.get(t.id) == t),
        tuple(t for t in table if t.id in by_name and by_name[t.id] != t),
    )


def merged(here: Sequence[Tie], found: Meeting, how: How) -> tuple[Tie, ...]:
    """All ties afterwards. Those of before keep their places."""
    instead = {t.id: t for t in found.clash} if how == "replace" else {}
    out = [instead.get(t.id, t) for t in here] + list(found.new)
    if how == "both":
        names = {t.id for t in out}
        for tie in found.clash:
            name = next(n for k in range(2, 10_000) if (n := f"{tie.id[:100]} ({k})") not in names)
            names.add(name)
            out.append(tie.model_copy(update={"id": name}))
    return tuple(out)
