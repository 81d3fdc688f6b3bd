"""Help while a script is typed: what could stand here, and how a slip is mended."""

from __future__ import annotations

import difflib
import re
from collections.abc import Mapping
from dataclasses import dataclass

from dim_ladder.base import Problem
from dim_ladder.library import FINISHES, HANGINGS, all_kinds, library_knots
from dim_ladder.notation import Weave, parse, working_ends
from dim_ladder.trace.solved import solve_knot

HOPS = {
    "over": "in front of the next tails", "under": "behind the next tails", "up": "from behind up through a loop",
    "down": "from the front down through a loop", "round": "a full turn round tails", "bight": "the next hop doubled",
    "follow": "beside another path", "leave": "slack in the turn, in mm", "bead": "a bead on the end",
    "pass": "through a ring, buckle or bar", "twist": "a flat cord’s other face up",
    "to": "where it rests: left, right or a place", "own": "this step’s own loop", "gap": "between two tails",
    "tight": "drawn tight", "snug": "drawn snug", "easy": "drawn easy",
}  # fmt: skip
HEADS = {
    "weave": "its name, in quotes", "cords": "name, kind, colour", "beads": "name, size, colour", "hang": "ends from left to right",
    "knot": "a named list of steps", "section": "start, body or finish, and how often",
}  # fmt: skip
DEEDS = {
    "turn over": "the back comes up", "rotate": "end for end, or by a quarter", "span": "free cord, in mm",
    "add": "a cord laid in", "drop": "ends laid aside", "follow": "on a former: once more beside all of it",
    "raise": "on a former: two leads and bights more", "split": "on a former: pairs part",
}  # fmt: skip
CLAUSES = {
    "fit": "as often as the size needs", "fit pairs": "an even number of times", "fit multiple of": "3, 4, …", "plus": "so many more than a multiple", "at least": "times", "at most": "times", "repeat": "so many times",
    "same as": "as often as another section", "layer over": "over a finished section", "stitched on": "on a finished band",
    "on former": "leads 3 bights 5", "mirror every other": "in turn with its mirror image", "flip every other": "in turn from behind",
}  # fmt: skip
KINDS = {"start": "before the body", "body": "what is repeated", "finish": "the end of the work"}
DERIVES = {"mirror": "left and right exchanged", "flip": "front and back exchanged", "turn": "turned over"}
_WORD = re.compile(r"[\w.@#-]*$")


@dataclass(frozen=True, slots=True)
class Completion:
    """text goes in; note is shown beside it."""

    text: str
    note: str = ""


def completions(text: str, at: int, weave: Weave) -> tuple[int, tuple[Completion, ...]]:
    """What could stand at a place of a script, and where the word begins that it would take the place of.

    weave : the last one that could be read; it knows the names.
    """
    begin = text.rfind("\n", 0, at) + 1
    line = text[begin:at]
    if "--" in line:
        return at, ()
    word = _WORD.search(line)
    assert word is not None
    start, typed = begin + word.start(), word.group()
    found = _candidates(text[:begin], line[: word.start()], weave)
    fitting = [c for c in found if c.text.startswith(typed) and c.text != typed]
    return start, tuple(fitting)


def _candidates(above: str, before: str, weave: Weave) -> list[Completion]:
    """before : the line up to the word that is being typed."""
    if not before.startswith((" ", "\t")):
        return _heads(before, weave)
    block = _block(above)
    body = before.strip()
    if block == "cords":
        return _known({k: v.words for k, v in all_kinds().items()}) if len(body.split()) == 1 else []
    if block == "hang":
        return [Completion(e) for e in sorted({f"{c.name}.{x}" for c in weave.cords for x in "ab"})]
    if block not in ("knot", "section"):
        return []
    if ":" in body:
        last = re.split(r"[:,]", body)[-1].split()
        ends = [Completion(e, "an end") for e in working_ends(weave)] if block == "section" else []
        if not last:
            return _known(HOPS)
        if last[-1] == "bead":
            return [Completion(b.name, f"{b.diameter:g} mm") for b in weave.beads]
        if last[-1] == "to":
            return [Completion("left"), Completion("right")]
        return [*ends, *_known({k: HOPS[k] for k in ("own", "gap", "tight", "snug", "easy")})]
    if "(" in body:
        return [Completion(e, "an end") for e in working_ends(weave)]
    if body:
        return []
    knots = [Completion(_called(weave, k), "a knot") for k in dict.fromkeys(_knots(weave))]
    if block == "knot":
        return knots
    finishes = [Completion(f, w.words) for f, w in FINISHES.items()]
    ends = [Completion(e, "an end") for e in working_ends(weave)]
    return [*knots, *finishes, *_known(DEEDS), *ends]


def _heads(before: str, weave: Weave) -> list[Completion]:
    words = before.split()
    if not words:
        return _known(HEADS)
    if words[0] == "hang" and words[-1] == "on":
        return _known({k: v.words for k, v in HANGINGS.items()})
    if words[0] == "knot" and words[-1] == "=":
        return _known(DERIVES)
    if words[0] == "knot" and words[-1] in DERIVES:
        return [Completion(k, "a knot") for k in dict.fromkeys(_knots(weave))]
    if words[0] == "section" and words[-1].endswith(":"):
        return _known(KINDS)
    if words[0] == "section" and words[-1].endswith(","):
        return _known(CLAUSES)
    if words[0] == "section" and words[-1] in ("as", "over", "on"):
        return [Completion(s.name, "a section") for s in weave.sections]
    return []


def _known(table: Mapping[str, str]) -> list[Completion]:
    return [Completion(k, note) for k, note in table.items()]


def _knots(weave: Weave) -> list[str]:
    return [*(k.name for k in weave.knots), *(k.name for k in library_knots())]


def _called(weave: Weave, name: str) -> str:
    """A knot as it is called, with places to begin with: half-right (1 | 2 | 3)."""
    knot = solve_knot(weave, name)
    if knot is None:
        return name
    return f"{name} ({' | '.join(str(i + 1) for i in range(len(knot.params)))})"


def _block(above: str) -> str:
    """Which block the next line belongs to: the last head above it."""
    for line in reversed(above.split("\n")):
        if line and not line.startswith((" ", "\t", "--")):
            return line.split(None, 1)[0].rstrip(":")
    return ""


# -- slips -----------------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Fix:
    """words : what it does. start, stop : the characters it takes away. text : what it puts there."""

    words: str
    start: int
    stop: int
    text: str


def fixes(text: str, problem: Problem) -> tuple[Fix, ...]:
    """Ways to mend a slip at its place, the likeliest first."""
    lines = text.split("\n")
    if not 1 <= problem.line <= len(lines):
        return ()
    line = lines[problem.line - 1]
    begin = sum(len(x) + 1 for x in lines[: problem.line - 1])
    out: list[Fix] = []
    meant = re.match(r"Did you mean “([^”]+)”\?", problem.hint)
    made = re.search(r"is made from “([^”]+)”", problem.message)
    if meant and made:  # the slip is where that knot is written, not where it is tied
        source = re.search(rf"=\s*(?:mirror|flip|turn)\s+({re.escape(made.group(1))})(?![\w-])", text)
        if source is not None:
            out.append(Fix(f"Write {meant.group(1)}", source.start(1), source.end(1), meant.group(1)))
    elif meant:
        at = _place(line, problem, meant.group(1))
        if at is not None:
            out.append(Fix(f"Write {meant.group(1)}", begin + at[0], begin + at[1], meant.group(1)))
    crossed = re.match(r"Cross \S+ first, as in: (over|under) (.+)$", problem.hint)
    if crossed:
        out += _crossings(line, begin, crossed.group(1), crossed.group(2))
    return tuple(f for f in out if not parse(text[: f.start] + f.text + text[f.stop :]).problems or meant)


def _place(line: str, problem: Problem, meant: str) -> tuple[int, int] | None:
    """The word that was meant to be another: the one at the place, or the most alike on the line."""
    words = [(m.start(), m.end()) for m in re.finditer(r"[\w.@#-]+", line.split("--")[0])]
    here = next((w for w in words if w[0] <= problem.column - 1 < w[1]), None)
    quoted = re.search(r"“([^”]+)”", problem.message)
    if quoted:
        named = next((w for w in words if line[w[0] : w[1]] == quoted.group(1)), None)
        if named is not None:
            return named
    alike = [w for w in words if difflib.SequenceMatcher(None, line[w[0] : w[1]], meant).ratio() >= 0.5]
    return here if here in alike else (alike[0] if alike else None)


def _crossings(line: str, begin: int, verb: str, names: str) -> list[Fix]:
    """Tails in between are crossed too: in front, or behind."""
    found = next(
        (m for m in re.finditer(rf"\b{verb}\s+([^,:]+?)(?=\s*(?:,|--|$|tight|snug|easy))", line)), None
    )
    if found is None:
        return []
    *between, last = names.split()
    other = "under" if verb == "over" else "over"
    return [
        Fix(f"Go {verb} {' '.join(between)} too", begin + found.start(), begin + found.end(), f"{verb} {names}"),
        Fix(
            f"Go {other} {' '.join(between)} first", begin + found.start(), begin + found.end(),
            f"{other} {' '.join(between)}, {verb} {last}",
        ),
    ]  # fmt: skip
