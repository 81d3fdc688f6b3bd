"""All that is checked of a section, in sentences: flat or spiral, what holds, colours, slips, uneven ends."""

from __future__ import annotations

from dataclasses import dataclass

from dim_ladder.base import InputError
from dim_ladder.notation import Weave
from dim_ladder.shape.rough import uneven_folds
from dim_ladder.trace import trace
from dim_ladder.trace.faces import colours_after, faces, side_slip
from dim_ladder.trace.former import former_work
from dim_ladder.trace.holds import Hold, hold
from dim_ladder.trace.turning import Turning, turning
from dim_ladder.trace.words import listing


@dataclass(frozen=True, slots=True)
class Checks:
    """notes : (kind, sentence); kind is flat, spiral, plain, hold, faces, colours, fold, slip or former."""

    section: str
    turn: Turning | None
    hold: Hold | None
    slip: str
    notes: tuple[tuple[str, str], ...]


def check_section(weave: Weave, section: str) -> Checks:
    """Check one section of a weave that can be traced."""
    found = weave.section(section)
    if found is None:
        raise InputError(f"there is no section “{section}”")
    if found.former is not None:
        work = former_work(found)
        cords = "one cord" if work.strands == 1 else f"{work.strands} cords"
        text = (
            f"{work.leads} leads and {work.bights} bights take {cords}, {work.crossings} crossings"
            + (f", every strand {work.passes} times side by side" if work.passes > 1 else "")
            + "."
        )
        return Checks(section, None, None, "", (("former", text),))
    turn = turning(weave, section)
    one = trace(weave, section=section, units=1)
    notes: list[tuple[str, str]] = []
    slip = side_slip(weave, section)
    if slip:
        notes.append(("slip", slip))
    if turn is not None and turn.kind != "plain":
        notes.append((turn.kind, turn.reason))
    held = hold(one)
    if held is not None:
        notes.append(("hold", held.sentence))
    if not one.problems and one.settled:
        shown = faces(one)
        if shown is not None:
            notes.append(("faces", shown.sentence))
        before, after = colours_after(one, 0), colours_after(one, 1)
        if one.crossings and before != after and len(before) <= 12:
            words = listing(list(after))
            notes.append(("colours", f"After one unit hang, from left to right: {words}."))
    notes += [("fold", text) for text in uneven_folds(weave, section)]
    return Checks(section, turn, held, slip, tuple(notes))
