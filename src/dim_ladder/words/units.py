"""What is said of a section besides its steps: how the work lies when it begins, and who plays which part in the units after the
first. A letter is the fixed name of an end; where units move the ends, it says for every unit who does what whom did."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dim_ladder.notation import Section, Weave
from dim_ladder.trace import trace
from dim_ladder.trace.again import Again, again
from dim_ladder.trace.value import Trace
from dim_ladder.words.gather import HOW_WORDS
from dim_ladder.words.phrases import end_name, listing, ordinal
from dim_ladder.words.sentences import step_sentence

MOST_UNITS = 13  # looked at until they come round
MOST_STEPS = 600


@dataclass(frozen=True, slots=True)
class Units:
    """rows : a line for every unit whose steps are the first one's again, otherwise; told : units (from 0) whose steps must be said
    anew; trace : in which they are. once : how many steps at the head of the first unit are done that once."""

    rows: tuple[str, ...]
    told: tuple[int, ...]
    trace: Trace
    once: int


def units_told(weave: Weave, index: int, counts: Mapping[str, int]) -> Units:
    """What changes from unit to unit of a section. counts : units of the sections before it."""
    section = weave.sections[index]
    t, most = _some_units(weave, index, counts)
    if most < 2:
        return Units((), (), t, 0)
    by_unit = [steps_of(t, index, u) for u in range(most)]
    once = max(0, len(by_unit[0]) - len(by_unit[1]))
    if any(t.steps[i].deed is None for i in by_unit[0][:once]):
        once = 0
    found: list[Again | None] = [again(t, by_unit[0][once:], by_unit[0][once:])]
    found += [again(t, by_unit[0][once:], b) for b in by_unit[1:]]
    cycle = _cycle(found)
    if cycle == 1:
        return Units((), (), t, once)
    rows, told = [], []
    for u in range(1, cycle or most):
        f = found[u]
        if f is None:
            told.append(u)
        else:
            rows.append(f"{ordinal(u + 1)} time: {_part_words(t, f)}.")
    if cycle == 2:
        rows.append("So on in turn.")
    elif cycle:
        rows.append("Then again as from the first time.")
    elif section.count.kind != "repeat" or section.count.number > most:
        rows.append(f"The {ordinal(most + 1)} time and after: by the ends that hang in the same places then.")
    return Units(tuple(rows), tuple(told), t, once)


def after_the_first(
    weave: Weave, index: int, counts: Mapping[str, int], voice: str = "plain", lie: str = "hanging"
) -> tuple[str, ...]:
    """Lines on the units of a section after its first: who plays which part, and all steps of those that are tied otherwise."""
    found = units_told(weave, index, counts)
    told = {
        u: " ".join(step_sentence(found.trace, i, voice, lie) for i in steps_of(found.trace, index, u))
        for u in found.told
    }
    rows = {u: f"{ordinal(u + 1)} time: {text}" for u, text in told.items()}
    return (*(rows[u] for u in sorted(rows)), *found.rows)


def _part_words(t: Trace, f: Again) -> str:
    """Who plays which part."""
    how = HOW_WORDS[f.how]
    who = [f"{end_name(t, b)} as {end_name(t, a)}" for a, b in sorted(f.parts) if a != b]
    parts = ([f"with {how}" if how.startswith("left") else how] if how else []) + who
    return ", ".join(parts) or "as the first time"


def _some_units(weave: Weave, index: int, counts: Mapping[str, int]) -> tuple[Trace, int]:
    """The work with so many units of a section that they come round, if it can be told."""
    section = weave.sections[index]
    upto = {s.name: counts.get(s.name, 1) for s in weave.sections[:index] if s.count.kind != "repeat"}
    one = trace(weave, counts={**upto, section.name: 1})
    each = max(len(steps_of(one, index, 0)), 1)
    most = max(2, min(MOST_UNITS, MOST_STEPS // each))
    if section.count.kind == "repeat":
        most = min(section.count.number, most)
        return one if most == 1 else trace(weave, counts=upto), most
    for many in (most, 3, 2):
        t = trace(weave, counts={**upto, section.name: many})
        if steps_of(t, index, many - 1):
            return t, many
    return one, 1


def steps_of(t: Trace, section: int, unit: int) -> list[int]:
    """The steps of one unit that are worked."""
    return [i for i, r in enumerate(t.steps) if r.op.section == section and r.op.unit == unit and not r.quiet]


def _cycle(found: list[Again | None]) -> int:
    """After how many units the first comes again, and those after it too; 0 where it does not among these."""
    for c in range(1, len(found)):
        if all(found[k] == found[k - c] for k in range(c, len(found))) and found[c] is not None:
            return c
    return 0


def begin_words(weave: Weave, section: Section, t: Trace, first: int) -> str:
    """How the work lies when a section begins, where that is not how the one before it left it. first : its first step."""
    under = section.over or section.on
    if not under:
        return ""
    name = under.replace("-", " ")
    if section.on:
        often = "" if section.every == 1 else f" One unit of it takes {section.every} units of {name}."
        return f"Work on the finished {name}, through its own knots, from its first unit on; nothing of it is moved.{often}"
    order = t.order_before(first)
    hang = listing([end_name(t, e) for e in order])
    return (
        f"Turn the work end for end and tie back over the finished {name}, which hangs in the middle as one. From left to "
        f"right now hang {hang}."
    )
