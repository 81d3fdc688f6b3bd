"""One script line into tokens. `--` begins a note, up to the end of the line."""

from __future__ import annotations

import re
from dataclasses import dataclass

_TOKEN = re.compile(
    r"""
    (?P<space>\s+)
  | (?P<string>"[^"]*")
  | (?P<colour>\#[0-9A-Fa-f]{6}\b)
  | (?P<name>[^\W\d_]\w*(?:-(?:\d+\.\d+\w*|\w+))*(?:\.[^\W\d_]\w*)?)
  | (?P<number>\d+(?:\.\d+)?)
  | (?P<dots>\.\.)
  | (?P<mark>[:,()|=+/@.])
    """,
    re.VERBOSE,
)


@dataclass(frozen=True, slots=True)
class Token:
    kind: str
    text: str
    column: int  # 1-based


def split_note(line: str) -> tuple[str, str]:
    """The line without its note, and the note. Quotes protect a `--` inside them."""
    quoted = False
    for i, ch in enumerate(line):
        if ch == '"':
            quoted = not quoted
        elif ch == "-" and not quoted and line.startswith("--", i) and (i == 0 or line[i - 1].isspace()):
            return line[:i], line[i + 2 :].strip()
    return line, ""


def tokens(line: str) -> tuple[list[Token], int]:
    """Tokens of a line without note; second: the 1-based column of the first unreadable sign, or 0."""
    out: list[Token] = []
    pos = 0
    while pos < len(line):
        m = _TOKEN.match(line, pos)
        if not m:
            return out, pos + 1
        kind = m.lastgroup or ""
        if kind != "space":
            out.append(Token("mark" if kind == "dots" else kind, m.group(), pos + 1))
        pos = m.end()
    return out, 0
