"""The three ways a call can fail: the input is wrong, the world failed, or we have a bug (any other exception)."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Problem:
    """One thing wrong with an input, with its place and its remedy.

    line, column : 1-based place in the text; 0 when the input has no lines.
    step : index of the traced step at which it shows, or -1. place : where it is in a weave that is no text, such as
    "bar, step 2".
    """

    message: str
    hint: str = ""
    line: int = 0
    column: int = 0
    length: int = 1
    step: int = -1
    place: str = ""

    @property
    def where(self) -> str:
        """Its place in words, "" where it has none."""
        return f"line {self.line}: " if self.line else f"{self.place}: " if self.place else ""

    def __str__(self) -> str:
        return f"{self.where}{self.message}" + (f". {self.hint}" if self.hint else "")

    def as_json(self) -> dict[str, object]:
        return {
            "line": self.line,
            "column": self.column,
            "place": self.place,
            "message": self.message,
            "hint": self.hint,
        }


class DimLadderError(Exception):
    """Base of every failure that is explained to the person; message says what, hint says what to do."""

    def __init__(self, message: str, hint: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.hint = hint

    def __str__(self) -> str:
        return self.message + (f". {self.hint}" if self.hint else "")


class WorldError(DimLadderError):
    """The world failed: a full disk, a missing folder, no permission. Nothing of the work is lost."""


class InputError(DimLadderError):
    """What was given cannot be used. `problems` holds every finding, in the order of the input."""

    def __init__(self, message: str, hint: str = "", problems: tuple[Problem, ...] = ()) -> None:
        super().__init__(message, hint)
        self.problems = problems or (Problem(message, hint),)

    @classmethod
    def of(cls, problems: tuple[Problem, ...]) -> InputError:
        first = problems[0]
        more = f" (and {len(problems) - 1} more)" if len(problems) > 1 else ""
        return cls(first.where + first.message + more, first.hint, problems)


class Cancelled(Exception):
    """The person no longer wants the answer. Not a failure: whoever asked for the work catches it."""
