"""What is alike in a unit, in one sentence; what nearly is, with its place."""

from __future__ import annotations

from collections.abc import Sequence

from dim_ladder.trace.arms import Arms
from dim_ladder.trace.ends import letter_of
from dim_ladder.trace.symmetry import Symmetry
from dim_ladder.trace.value import Trace
from dim_ladder.words.phrases import listing, ordinal

_WHAT = {
    "mirror": "Left and right are alike",
    "flip": "Front and back are alike",
    "turn": "Turned over, it is the same",
    "end": "Turned end for end, it is the same",
}


def symmetry_sentence(found: Sequence[Symmetry]) -> str:
    """ "" where nothing is to be said."""
    parts = []
    for s in found:
        if s.odd is not None:
            one, other = (ordinal(k + 1) for k in s.odd)
            return (
                f"Left and right are alike but for the {one} knot and its counterpart, the {other}: if that was not meant, "
                "mirror one of them."
            )
        parts.append(
            _WHAT[s.kind]
            + (", half a unit further along" if s.shifted else "")
            + ("" if s.coloured else ", but not in colours")
        )
    return ". ".join(parts[:2]) + "." if parts else ""


def arms_sentence(found: Arms | None) -> str:
    """That a body is worked as another one above it. "" where it is not."""
    if found is None:
        return ""
    like = f"the mirror image of {found.other}" if found.mirrored else f"the same as {found.other}"
    if found.odd is None:
        return f"Worked alike: {like}."
    return f"It is {like} but for its {ordinal(found.odd + 1)} knot: if that was not meant, tie that one as there."


def half_caught_sentence(one: Trace, pairs: Sequence[tuple[int, int]]) -> str:
    """pairs : of a cord's two ends the one that is caught and the one that is not. "" where there are none."""
    return " ".join(
        f"{letter_of(one, b)} hangs loose beside {letter_of(one, a)}: the work goes round one half of that cord only."
        for a, b in pairs
    )


def alike_sentence(one: Trace, groups: Sequence[tuple[int, ...]]) -> str:
    """Ends that a unit treats alike. "" where there are none, or all are."""
    named = [listing([letter_of(one, e) for e in g]) for g in groups if len(g) < len(one.ends)]
    if not named:
        return ""
    others = [f", and so do {more}" for more in named[1:]]  # as much as each other, not as the first ones
    return f"{named[0]} take the same{''.join(others)}: the work treats them alike."
