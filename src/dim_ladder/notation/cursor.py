"""A cursor over the tokens of one line, and the word for what is wrong there."""

from __future__ import annotations

import difflib
from collections.abc import Iterable

from dim_ladder.base import InputError, read_length
from dim_ladder.notation.lexer import Token

MAX_COUNT = 10_000


class Wrong(Exception):
    """What is wrong at a column of the line, and the remedy."""

    def __init__(self, message: str, hint: str = "", column: int = 1, length: int = 1) -> None:
        super().__init__(message)
        self.message, self.hint, self.column, self.length = message, hint, column, length


class Cursor:
    """A cursor over the tokens of one line."""

    def __init__(self, toks: list[Token], end_column: int) -> None:
        self.toks = toks
        self.i = 0
        self.end_column = end_column

    @property
    def now(self) -> Token | None:
        return self.toks[self.i] if self.i < len(self.toks) else None

    def peek(self, text: str) -> bool:
        return self.now is not None and self.now.text == text

    def take(self, text: str) -> bool:
        if self.peek(text):
            self.i += 1
            return True
        return False

    def take_one(self, *texts: str) -> str:
        """The next token if it is one of these, else ""."""
        if self.now is not None and self.now.text in texts:
            self.i += 1
            return self.toks[self.i - 1].text
        return ""

    def wrong(self, expected: str, hint: str = "") -> Wrong:
        t = self.now
        if t is None:
            return Wrong(f"the line ends where {expected} was expected", hint, self.end_column)
        return Wrong(f"expected {expected}, found “{t.text}”", hint, t.column, len(t.text))

    def need(self, text: str, hint: str = "") -> None:
        if not self.take(text):
            raise self.wrong(f"“{text}”", hint)

    def want(self, kind: str, expected: str, hint: str = "") -> Token:
        t = self.now
        if t is None or t.kind != kind:
            raise self.wrong(expected, hint)
        self.i += 1
        return t

    def done(self, after: str) -> None:
        if self.now is not None:
            raise Wrong(
                f"“{self.now.text}” is left over after {after}", "", self.now.column, len(self.now.text)
            )

    def whole(self, what: str, most: int = MAX_COUNT) -> int:
        """A whole number from 1."""
        t = self.want("number", what)
        if "." in t.text or not 1 <= int(t.text[:9]) <= most:
            raise Wrong(f"{t.text} is out of bounds", f"1 to {most:,}", t.column, len(t.text))
        return int(t.text[:9])

    def length(self, what: str, most: float = 10_000.0) -> float:
        """A length with its unit, in mm."""
        t = self.want("number", what, "Write it as: 25 mm")
        unit = self.want("name", "a unit of length", "mm, cm, m, in or ft")
        try:
            return read_length(f"{t.text} {unit.text}", minimum=0.1, maximum=most)
        except InputError as e:
            raise Wrong(e.message, e.hint, t.column, len(t.text)) from None


def nearest(word: str, known: Iterable[str]) -> str:
    """A remedy naming the closest known word, or listing a few."""
    options = sorted(set(known))
    close = difflib.get_close_matches(word, options, 1, 0.5)
    if close:
        return f"Did you mean “{close[0]}”?"
    return f"Known here: {', '.join(options[:8])}" if options else ""
