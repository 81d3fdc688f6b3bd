"""Sentences for steps, made from what the trace did, in the reader's words."""

from __future__ import annotations

from dataclasses import dataclass

from dim_ladder.base import InputError
from dim_ladder.base.colours import colour_word
from dim_ladder.library import FINISHES, VOCABULARIES, Vocabulary
from dim_ladder.notation import Call, Cross
from dim_ladder.trace.pictures import letter
from dim_ladder.trace.value import HopRecord, StepRecord, Trace


@dataclass(frozen=True, slots=True)
class StepText:
    """One step in words. heading : its knot, said at the knot's first step."""

    step: int
    section: str
    unit: int
    heading: str
    sentence: str


def vocabulary(name: str) -> Vocabulary:
    if name not in VOCABULARIES:
        raise InputError(f"there is no vocabulary “{name}”", ", ".join(VOCABULARIES))
    return VOCABULARIES[name]


def place_words(index: int, count: int) -> str:
    """Where a tail hangs, as a maker says it. index from 0."""
    if count == 1:
        return "alone"
    if index == 0:
        return "far left"
    if index == count - 1:
        return "far right"
    if count % 2 and index == count // 2:
        return "in the middle"
    left = index < count / 2
    n = index + 1 if left else count - index
    return f"{ordinal(n)} from the {'left' if left else 'right'}"


def ordinal(n: int) -> str:
    suffix = "th" if 10 <= n % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(n % 10, "th")
    return f"{n}{suffix}"


def listing(items: list[str]) -> str:
    return items[0] if len(items) == 1 else f"{', '.join(items[:-1])} and {items[-1]}"


def step_sentence(trace: Trace, index: int, voice: str = "plain") -> str:
    """What one step does, as a sentence; the end by letter, colour and place."""
    words = vocabulary(voice)
    r = trace.steps[index]
    before = trace.order_before(index)
    if r.finish:
        names = listing([letter(e) for e in r.ends])
        return f"{names}: {FINISHES[r.finish].words}."
    cord = trace.weave.cord_of(trace.ends[r.end])
    colour = f"{colour_word(cord.colour)}, " if cord else ""
    who = f"{letter(r.end)} ({colour}{place_words(before.index(r.end), len(before))})"
    parts: list[str] = []
    side = 0
    for hop in r.hops:
        if isinstance(hop.hop, Cross):
            parts.append(_crossing_words(hop, side, words, who, first=not parts))
            side = hop.side
        else:
            parts.append(_pass_words(hop, r, words, who, first=not parts))
            side = 0
    text = ", ".join(parts)
    rest = f"rests {place_words(r.order.index(r.end), len(r.order))}"
    text += f", and {rest}." if words.name == "plain" and len(parts) == 1 else f"; it {rest}."
    if r.step is not None:
        if r.step.tension:
            text += {"tight": " Pull tight.", "snug": " Draw snug.", "easy": " Leave easy."}[r.step.tension]
        if r.step.note:
            text += f" ({r.step.note})"
    return text


def _crossing_words(hop: HopRecord, side: int, words: Vocabulary, who: str, *, first: bool) -> str:
    verb = "over" if isinstance(hop.hop, Cross) and hop.hop.over else "under"
    where = "right" if hop.side > 0 else "left"
    targets = f"{verb} {listing([letter(e) for e in hop.ends])}"
    if first:
        return f"{words.move.format(end=who, side=where)} {targets}"
    return targets if hop.side == side else f"back {where} {targets}"


def _pass_words(hop: HopRecord, r: StepRecord, words: Vocabulary, who: str, *, first: bool) -> str:
    up = not isinstance(hop.hop, Cross) and hop.hop.up
    owner = hop.ends[0]
    whose = "its own loop" if owner == r.end else f"{letter(owner)}’s loop"
    if up:
        text = f"then up through {whose}: in from behind, out to the front over the loop’s edge"
    else:
        text = f"then down through {whose}: in from the front, out at the back under the loop’s edge"
    if not first:
        return text
    start = words.move.format(end=who, side="").strip()
    return f"{start} {text.removeprefix('then ')}"


def step_heading(trace: Trace, index: int, voice: str = "plain") -> str:
    """The knot that begins with this step, else ""."""
    r = trace.steps[index]
    if isinstance(r.op.value, Call) and r.knot_step in (0, -1):
        if r.finish:
            return r.finish.replace("-", " ").capitalize()
        name = vocabulary(voice).knot(r.op.value.knot)
        return name[0].upper() + name[1:]
    return ""


def words_for(trace: Trace, voice: str = "plain") -> tuple[StepText, ...]:
    """Every step of a trace in words."""
    sections = trace.weave.sections
    return tuple(
        StepText(
            i,
            sections[r.op.section].name if r.op.section < len(sections) else "",
            r.op.unit,
            step_heading(trace, i, voice),
            step_sentence(trace, i, voice),
        )
        for i, r in enumerate(trace.steps)
    )


def hang_sentence(trace: Trace, voice: str = "plain") -> str:
    """How the work begins: the tails from left to right, by letter and colour."""
    words = vocabulary(voice)
    tails = []
    for e, name in enumerate(trace.ends):
        cord = trace.weave.cord_of(name)
        tails.append(f"{letter(e)} {colour_word(cord.colour)}" if cord else letter(e))
    return f"From left to right hang: {', '.join(tails)} ({len(tails)} {words.end}s)."
