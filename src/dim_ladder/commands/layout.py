"""A script in the person's own layout, through edits that come from elsewhere."""

from __future__ import annotations

import difflib
import re

from dim_ladder.notation import Weave, parse, write


def laid_out(own: str, before: Weave, after: Weave) -> str:
    """The person's text of a weave after an edit of it; "" where its layout cannot be kept."""
    now = write(after)
    text = merged(own, write(before), now)
    if text is None or text == now:
        return ""
    parsed = parse(text)
    return text if parsed.ok and parsed.weave == after else ""


def merged(own: str, before: str, after: str) -> str | None:
    """A person's own text of a weave, changed as little as an edit asks for.

    own : as typed, saying the same as `before`. before, after : the script as the program writes it, before and after
    the edit. None where the two cannot be laid side by side.
    """
    own_lines, base, new = own.split("\n"), before.split("\n"), after.split("\n")
    where = _aligned(own_lines, base)
    if where is None:
        return None
    out: list[str] = []
    done = 0  # lines of the own text that are dealt with
    for tag, i, j, k, m in _changes(base, new):
        if tag == "equal":
            stop = where[j - 1] + 1
            out += own_lines[done:stop]
            done = stop
            continue
        if i < j:  # lines go, with the blank ones before them
            out += own_lines[done : where[i]]
            done = where[j - 1] + 1
        out += new[k:m]
    return "\n".join([*out, *own_lines[done:]])


def _changes(base: list[str], new: list[str]) -> list[tuple[str, int, int, int, int]]:
    """Which lines are equal and which are not, as difflib tells it. What is equal at either end is taken off first: a
    long script of like lines would cost it seconds."""
    first = 0
    while first < min(len(base), len(new)) and base[first] == new[first]:
        first += 1
    last = 0
    while last < min(len(base), len(new)) - first and base[-1 - last] == new[-1 - last]:
        last += 1
    b, n = len(base) - last, len(new) - last
    out = [("equal", 0, first, 0, first)] if first else []
    matcher = difflib.SequenceMatcher(None, base[first:b], new[first:n], autojunk=False)
    out += [(tag, i + first, j + first, k + first, m + first) for tag, i, j, k, m in matcher.get_opcodes()]
    if last:
        out.append(("equal", b, len(base), n, len(new)))
    return out


def _aligned(own: list[str], base: list[str]) -> list[int] | None:
    """For every line of the program's text the line of the person's that says the same; None where one is missing."""
    out: list[int] = []
    at = 0
    for line in base:
        if not line.strip():
            # A blank line of the program stands at a blank one of the person, or at no line of its own.
            if at < len(own) and not own[at].strip():
                out.append(at)
                at += 1
            else:
                out.append(at - 1)
            continue
        wanted = _plain(line)
        while at < len(own) and not own[at].strip():
            at += 1
        if at >= len(own) or _plain(own[at]) != wanted:
            return None
        out.append(at)
        at += 1
    return out


def _plain(line: str) -> str:
    return re.sub(r"\s+", " ", re.sub(r"\s*([,:|()])\s*", r"\1", line.strip().lower()))
