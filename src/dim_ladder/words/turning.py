"""Flat or spiral, and why, in one sentence."""

from __future__ import annotations

from dim_ladder.trace.ends import letter
from dim_ladder.trace.turning import Turning
from dim_ladder.words.phrases import listing

_REASONS = {
    "plain": "Nothing crosses here.",
    "flat": "Flat: every turn that one step makes, a later one of the same unit undoes.",
    "wrapped": (
        "Every unit adds turns of the same hand, as bars of hitches do: they lie side by side along the runner, and "
        "the work need not turn."
    ),
    "woven": "Flat: what goes over and what goes under is spread across the width, as in every wide plait.",
    "net": (
        "Every unit adds turns of the same hand, but its knots lie beside each other and others tie them together: the net "
        "lies flat. What is tied many times below itself in it may curl there; tie every other one mirrored against that."
    ),
    "straight": (
        "Every unit adds turns of the same hand, but they lie within its knots: pulled tight, the work stays straight."
    ),
    "laid": (
        "It lies as it is laid: what is led over and under through finished work is dressed flat or drawn up, and its "
        "ends need not turn. Many in a row turn one way; mirror every other one against that."
    ),
}
BAND = 2  # ends that turn about each other, as the workers of a band do
_AGAIN = {"twice": "you tied the same side twice", "unit": "every unit ties the same side again"}


def turning_reason(turn: Turning, *, meant: bool = False) -> str:
    """Why a section lies as it does. meant : it is to turn."""
    if turn.kind == "flat" and turn.pairs:
        return "Flat: the turns of some ends are undone by the turns of others, which are their mirror image."
    if turn.kind != "spiral":
        return _REASONS[turn.kind]
    letters = [letter(e) for e in turn.ends]
    names = listing(letters) if len(letters) <= 6 else f"{letters[0]} to {letters[-1]}"
    if meant:
        return f"It turns, as it is meant to: {names} turn about each other the same way in every unit."
    reason = f"This will spiral: {names} turn about each other the same way in every unit"
    if turn.again:
        # Crowns and walls go round their own middle, and are no band either way.
        straight = "a flat band" if len(turn.ends) <= BAND else "a column that does not turn"
        reason += f"; {_AGAIN[turn.again]}. So a coil is made; for {straight} tie the mirrored knot every other time"
    return reason + "."
