"""The common slips of a section, each as a weave of its own: what was meant, what happened, how to tell, what to undo.

Each is made by the very edits of the recorder and judged by the trace, not by a table: which ends come out where, whether
it turns, what shows in front, what still holds.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from dim_ladder.base import DimLadderError
from dim_ladder.commands.edit_base import EditBase
from dim_ladder.commands.passages import FlipCrossing, FlipItems, InlineKnot, SwapLeader
from dim_ladder.notation import Call, Cross, Item, Step, Through, Weave
from dim_ladder.shelf import Document
from dim_ladder.trace import Trace, close, trace
from dim_ladder.trace.ends import letter_of
from dim_ladder.trace.faces import Faces, faces
from dim_ladder.trace.holds import Hold, hold
from dim_ladder.trace.turning import Turning, turning
from dim_ladder.words.phrases import listing

FALLS = "Pull on it, and it falls apart: nothing is left that holds."
MOST = 8
MOST_ALIKE = 2  # of one name: other crossings go wrong in the same way
MOST_ITEMS = 24  # of a unit that is looked at


@dataclass(frozen=True, slots=True)
class Slip:
    """name : what was done instead. tell : what tells it from the right one. undo : what to take back. weave : with the
    slip in its section, that falls apart or holds. falls : nothing holds it any more, though the right one holds. seen : of what
    tells it, what is seen without counting crossings, "" where nothing is."""

    name: str
    tell: str
    undo: str
    weave: Weave
    section: str
    falls: bool
    seen: str = ""


@dataclass(frozen=True, slots=True)
class _Known:
    """What the trace says of a work."""

    trace: Trace
    hold: Hold | None
    turn: Turning | None
    shows: Faces | None


def slips(weave: Weave, section: str) -> Iterator[Slip]:
    """The slips of one unit of a section that end in something else than what was meant; the likeliest first."""
    found = weave.section(section)
    right = trace(weave, section=section, units=1)
    if (
        found is None
        or found.former is not None
        or right.problems
        or not right.settled  # ends come in or are laid aside: there is no telling it from another by its closure
        or not right.crossings
        or len(found.items) > MOST_ITEMS
    ):
        return
    meant = _Known(right, hold(right), turning(weave, section), faces(right))
    seen = [_print(right)]
    told: list[tuple[str, str]] = []
    for name, item, wrong in _wrong(weave, section):
        t = trace(wrong, section=section, units=1)
        if t.problems or not t.settled or _print(t) in seen:
            continue
        seen.append(_print(t))
        known = _Known(t, hold(t), turning(wrong, section), faces(t))
        tell, falls = _tell(meant, known)
        if (name, tell) in told or sum(n == name for n, _ in told) == MOST_ALIKE:
            continue
        told.append((name, tell))
        seen_of_it = FALLS if falls else _comes_of_it(meant, known)
        yield Slip(name, tell, _undo(found.items, item), wrong, section, falls, seen_of_it)
        if len(told) == MOST:
            return


def _print(t: Trace) -> object:
    """What two works that are the same in every crossing have in common."""
    return close(t).pd, t.order


def _wrong(weave: Weave, section: str) -> Iterator[tuple[str, int, Weave]]:
    """What may be done instead, the item of the section where it begins to go wrong, and the weave so made."""
    doc = Document(weave)
    items = _items(doc, section)
    half = len(items) // 2
    if len(items) % 2 == 0 and items[:half] != items[half:]:
        yield "the same side twice", half, _put(doc, section, items[:half] * 2)
    last = max((k for k, i in enumerate(items) if isinstance(i, Call)), default=0)
    # Of bare steps all of them are one knot.
    first = last if isinstance(items[last], Call) else 0
    until = last if isinstance(items[last], Call) else len(items) - 1
    yield from _tried(doc, "the other end led", first, SwapLeader(section=section, at=first, last=until))
    yield from _tried(doc, "tied from behind", first, FlipItems(section=section, at=first, last=until))
    opened = doc
    for k in range(len(items) - 1, -1, -1):
        if k == first and isinstance(items[k], Call):
            try:
                opened = InlineKnot(section=section, at=k).apply(doc)
            except DimLadderError:
                return
    count = len(_items(opened, section)) - len(items) + 1 if opened is not doc else until - first + 1
    steps = _items(opened, section)[first : first + count]
    for n, step in enumerate(steps):
        if isinstance(step, Step) and len(step.hops) > 1:
            for h, hop in enumerate(step.hops):
                if isinstance(hop, Through):
                    without = replace(step, hops=step.hops[:h] + step.hops[h + 1 :])
                    made = list(_items(opened, section))
                    made[first + n] = without
                    yield "one loop missed", first, _put(opened, section, tuple(made))
    for n, step in enumerate(steps):
        if not isinstance(step, Step):
            continue
        for h, hop in enumerate(step.hops):
            if isinstance(hop, Cross):
                for which in range(min(2, len(hop.refs))):
                    name = "under instead of over" if hop.over else "over instead of under"
                    edit = FlipCrossing(section=section, at=first + n, hop=h, which=which)
                    yield from _tried(opened, name, first, edit)


def _tried(doc: Document, name: str, item: int, edit: EditBase) -> Iterator[tuple[str, int, Weave]]:
    try:
        yield name, item, edit.apply(doc).weave
    except DimLadderError:  # this slip cannot happen here
        return


def _items(doc: Document, section: str) -> tuple[Item, ...]:
    found = doc.weave.section(section)
    return found.items if found is not None else ()


def _put(doc: Document, section: str, items: tuple[Item, ...]) -> Weave:
    sections = tuple(replace(s, items=items) if s.name == section else s for s in doc.weave.sections)
    return replace(doc.weave, sections=sections)


def _undo(items: tuple[Item, ...], item: int) -> str:
    if len(items) == 1:
        return "Undo this knot and tie it again."
    what = "knot" if isinstance(items[item], Call) else "step"
    back = len(items) - item
    if back == 1:
        return f"Undo the last {what} of the unit."
    return f"Undo back to {what} {item + 1} of the unit, {back} in all."


def _tell(right: _Known, wrong: _Known) -> tuple[str, bool]:
    """What comes of it, and where it can be seen; and whether it falls apart."""
    where = _where(right.trace, wrong.trace)
    if right.hold is not None and wrong.hold is not None and right.hold.real and not wrong.hold.real:
        return f"{FALLS} {where}".strip(), True
    told = " ".join(part for part in (_comes_of_it(right, wrong), where) if part)
    return told or "It looks alike: follow it step by step beside the right one.", False


def _comes_of_it(right: _Known, wrong: _Known) -> str:
    """The plainest difference: an end is loose, it turns, ends hang elsewhere, another end shows, it is looser."""
    r, w = right.trace, wrong.trace
    meant, got = right.hold, wrong.hold
    if meant is not None and got is not None and len(got.loose) > len(meant.loose):
        loose = listing([letter_of(w, e) for e in got.loose if e not in meant.loose])
        return f"{loose} slips out when it is pulled; it should be caught."
    a, b = right.turn, wrong.turn
    if a is not None and b is not None and a.kind != b.kind and "spiral" in (a.kind, b.kind):
        turns = "It begins to twist: after a few units the edges wind round."
        return turns if b.kind == "spiral" else "It lies flat where it should wind round."
    if r.order != w.order:
        n = next(i for i, (x, y) in enumerate(zip(r.order, w.order, strict=True)) if x != y)
        return f"{letter_of(w, w.order[n])} hangs at place {n + 1}, where {letter_of(r, r.order[n])} should."
    f, g = right.shows, wrong.shows
    if f is not None and g is not None and f.front != g.front and g.front:
        shows = listing([letter_of(w, e) for e in g.front])
        should = listing([letter_of(r, e) for e in f.front]) if f.front else "none"
        return f"In front across the middle lies {shows}, where {should} should."
    if meant is not None and got is not None and got.real < meant.real:
        return "It is looser: part of it comes undone by itself when it is pulled."
    return ""


def _where(right: Trace, wrong: Trace) -> str:
    """The first crossing that is the other way round, where both works cross the same ends in the same order."""
    pairs = list(zip(right.crossings, wrong.crossings, strict=False))
    if len(right.crossings) != len(wrong.crossings):
        return ""
    if any({x.lane_end, x.row_end} != {y.lane_end, y.row_end} for x, y in pairs):
        return ""
    for k, (x, y) in enumerate(pairs):
        if x.over_end != y.over_end:
            below = y.lane_end + y.row_end - y.over_end
            top, low = letter_of(wrong, y.over_end), letter_of(wrong, below)
            led = [s for s in right.steps if s.hops and not s.quiet]
            n = next((n for n, s in enumerate(led, 1) if s.start <= k < s.stop), 0)
            if not n or top == low:
                return ""
            return f"In step {n} of the unit {top} lies over {low}, where it should lie under."
    return ""
