"""Sentences that the designer put in other words: kept, and flagged when the step under them changes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from dim_ladder.publish.choices import Reworded, SheetChoices
from dim_ladder.publish.steps import SheetSection, SheetStep


@dataclass(frozen=True, slots=True)
class Flagged:
    """Words whose step is another now. now : what the program says of the step in that place; "" where there is none."""

    own: Reworded
    now: str


def reword(
    sections: Sequence[SheetSection], choices: SheetChoices
) -> tuple[tuple[SheetSection, ...], tuple[Flagged, ...]]:
    """The sections with the designer's words where they fit, and the words that do not fit any more.

    Words fit a step for which the program says what it said when they were written: in their own place, or, where steps were put in
    or taken out above, in the nearest. Those written in another vocabulary or lie wait.
    """
    out, flagged = [], []
    for section in sections:
        mine = [
            e
            for e in choices.reworded
            if e.section == section.name and e.vocabulary == choices.vocabulary and e.lie == choices.lie
        ]
        steps = list(section.steps)
        for e in mine:
            at = _place(section.steps, e)
            if at is None:
                now = section.steps[e.step - 1].told.text if e.step <= len(section.steps) else ""
                flagged.append(Flagged(e, now))
                continue
            step = steps[at]
            told = replace(step.told, text=e.text)
            steps[at] = replace(step, told=told, said=step.told.text)
        out.append(replace(section, steps=tuple(steps)))
    names = {s.name for s in sections}
    flagged += [
        Flagged(e, "")
        for e in choices.reworded
        if e.section not in names and e.vocabulary == choices.vocabulary and e.lie == choices.lie
    ]
    return tuple(out), tuple(flagged)


def _place(steps: Sequence[SheetStep], own: Reworded) -> int | None:
    fits = [k for k, s in enumerate(steps) if s.told.text == own.was]
    return min(fits, key=lambda k: abs(k + 1 - own.step)) if fits else None


def with_words(choices: SheetChoices, section: str, step: int, was: str, text: str) -> SheetChoices:
    """The choices with a step in other words; with none where the text is empty or what the program says itself."""
    rest = tuple(
        e
        for e in choices.reworded
        if (e.section, e.vocabulary, e.lie) != (section, choices.vocabulary, choices.lie)
        or (e.step != step and e.was != was)
    )
    text = " ".join(text.split())
    if text and text != was:
        own = Reworded(
            section=section, step=step, was=was, text=text, vocabulary=choices.vocabulary, lie=choices.lie
        )
        rest = (*rest, own)
    return SheetChoices.model_validate({**choices.model_dump(), "reworded": [e.model_dump() for e in rest]})
