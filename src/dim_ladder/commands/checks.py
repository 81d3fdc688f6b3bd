"""All that is checked of a section, in sentences: flat or spiral, what holds, colours, slips, uneven ends."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from dim_ladder.base import InputError, format_length
from dim_ladder.library import cord_kind
from dim_ladder.notation import Weave
from dim_ladder.shape.begun import as_it_lies
from dim_ladder.shape.centre import as_it_turns, centre, found_shape, known_shape
from dim_ladder.shape.rough import uneven_folds
from dim_ladder.trace import Trace, end_cycle, trace
from dim_ladder.trace.alike import alike_ends, half_caught
from dim_ladder.trace.arms import arms
from dim_ladder.trace.faces import faces, side_slip
from dim_ladder.trace.former import cover, former_diameter, former_work, strand_length
from dim_ladder.trace.holds import Hold, hold, slipped
from dim_ladder.trace.symmetry import symmetries
from dim_ladder.trace.turning import Turning, cycle_linking, turning
from dim_ladder.trace.unmade import once_only
from dim_ladder.words.faces import colours_after, faces_sentence, side_slip_sentence
from dim_ladder.words.holding import hold_sentence, slipped_sentence
from dim_ladder.words.phrases import listing
from dim_ladder.words.symmetry import alike_sentence, arms_sentence, half_caught_sentence, symmetry_sentence
from dim_ladder.words.turning import turning_reason


@dataclass(frozen=True, slots=True)
class Checks:
    """notes : (kind, sentence); kind is stop (it cannot be made like this), flat, spiral, meant (a spiral that is wanted), plain, hold, faces, alike, arms, ends, half, colours, fold, slip,
    closed or former."""

    section: str
    turn: Turning | None
    hold: Hold | None
    slip: str
    notes: tuple[tuple[str, str], ...]


def check_section(weave: Weave, section: str, girth_mm: float = 0.0, *, wait: bool = False) -> Checks:
    """Check one section of a weave that can be traced. girth_mm : what work on a former is to slip on to, 0 unknown. wait : have it
    pulled tight where only its shape tells whether it turns."""
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
        if girth_mm > 0:
            across = former_diameter(girth_mm)
            thick = max((cord_kind(c.kind).diameter for c in weave.cords), default=4.0)
            text += (
                f" To slip on over {format_length(girth_mm)}: a former {format_length(round(across))} across, roughly "
                f"{format_length(round(strand_length(work, across, thick), -1))} of each cord and its ends; the cord "
                f"hides {cover(work, across, thick):.0%} of it."
            )
        return Checks(section, None, None, "", (("former", text),))
    whole = weave
    weave = as_it_lies(weave, found)
    turn = as_it_turns(weave, section, turning(weave, section), wait=wait)
    one = trace(weave, section=section, units=1)
    notes: list[tuple[str, str]] = []
    if not trace(whole).problems:
        notes += [("stop", str(p)) for p in once_only(whole, whole.sections.index(found))]
    side = side_slip(weave, section)
    slip = side_slip_sentence(side) if side else ""
    if slip:
        notes.append(("slip", slip))
    if turn is not None and turn.kind != "plain":
        notes.append(_turns(turn, found.spiral))
    held = hold(one)
    if held is not None:
        notes.append(("hold", hold_sentence(one, held)))
    elif one.problems and (locked := slipped(weave, section)) is not None:
        notes.append(("hold", slipped_sentence(locked)))
    if not one.problems and one.settled:
        shape = known_shape(weave, section)
        shown = (centre(shape, one) if shape is not None else None) or faces(one)
        if shown is not None and len(shown.front) <= 2 and len(shown.back) <= 2:
            notes.append(("faces", faces_sentence(one, shown)))
        alike = symmetry_sentence(symmetries(weave, section))
        if alike:
            notes.append(("alike", alike))
        arm = arms_sentence(arms(weave, section))
        if arm:
            notes.append(("arms", arm))
        ends = alike_sentence(one, alike_ends(one, found.kind == "body"))
        if ends:
            notes.append(("ends", ends))
        loose = half_caught_sentence(one, half_caught(one))
        if loose:
            notes.append(("half", loose))
        before, after = colours_after(one, 0), colours_after(one, 1)
        if one.crossings and before != after and len(before) <= 12:
            words = listing(list(after))
            notes.append(("colours", f"After one unit hang, from left to right: {words}."))
    if weave.hang.on == "closed-loop" and not one.problems and one.settled and one.crossings:
        notes.append(("closed", _closed_loop(one)))
    notes += [("fold", text) for text in uneven_folds(weave, section, partial(found_shape, wait=wait))]
    return Checks(section, turn, held, slip, tuple(notes))


def _turns(turn: Turning, meant: bool) -> tuple[str, str]:
    """Flat or spiral; what is meant to turn is no slip, but what is meant to and does not is one."""
    if not meant:
        return turn.kind, turning_reason(turn)
    if turn.kind == "spiral":
        return "meant", turning_reason(turn, meant=True)
    return "slip", f"It is meant to turn, and does not. {turning_reason(turn)}"


def _closed_loop(one: Trace) -> str:
    """Whether work in a loop that is fast at both ends can be pulled through, as far as places and turns tell."""
    cycle = end_cycle(one)
    if cycle > 1:
        return (
            f"In a closed loop every cord must come back to its place: work {cycle} units at a time, or any multiple of "
            f"{cycle}."
        )
    if sum(cycle_linking(one).values()):
        return "In a closed loop this leaves the loop twisted: every turn to one side wants one to the other."
    return "Every cord comes back to its place, so the excess below can be pulled through as you go."
