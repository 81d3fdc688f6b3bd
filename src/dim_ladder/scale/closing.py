"""What closes a piece: what its plan says; where that says nothing, what the work hangs on and ends with; and what it adds."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from dim_ladder.base import InputError
from dim_ladder.library import BUTTONS, FASTENINGS, OPENS_MM, SLIDE_MM, STOPPERS, Fastening, nearest_fastening
from dim_ladder.notation import Add, Call, Rotate, Weave, working_ends
from dim_ladder.scale.plan import Plan
from dim_ladder.trace.roles import roles

BY_HANGING = {"buckle": "side-buckle", "there-and-back": "side-buckle", "ring": "ring"}
LOOPED = ("loop", "thirds")  # there is a loop of the work itself at one end


@dataclass(frozen=True, slots=True)
class Closing:
    """key : of FASTENINGS. adds_mm : to the closed girth. why : what of the work it follows from, "" where the plan says it. asked :
    whether nothing says it, so that it is counted as nothing until somebody does."""

    key: str
    adds_mm: float
    why: str = ""
    asked: bool = False

    @property
    def of(self) -> Fastening:
        return FASTENINGS[self.key]


NOTHING = Closing("none", 0.0)


def closing_of(weave: Weave, plan: Plan) -> Closing:
    """What closes a piece. Raises InputError for a fastening that is not there."""
    key, why, asked = plan.fastening, "", False
    if key not in ("", *FASTENINGS):
        raise InputError(f"there is no fastening “{key}”", nearest_fastening(key))
    if not key or _round(weave):  # nothing opens a ring, whatever is said
        key, why = follows(weave)
        if not key:
            key, asked = "none", plan.target == "girth"
    own = plan.fastening_mm
    adds = FASTENINGS[key].adds_mm if own is None or not FASTENINGS[key].part else own
    return Closing(key, adds, why, asked)


def follows(weave: Weave) -> tuple[str, str]:
    """The fastening that the work itself says, and by what, in words; nothing where it does not say."""
    if _round(weave):
        return "slip-on", "it is worked round"
    if laid_over(weave):
        return "sliding", "a cord is laid in and tied over the ends of both sides"
    on = weave.hang.on
    if on in BY_HANGING:
        return BY_HANGING[on], f"it hangs on a {on}" if on in ("buckle", "ring") else "it runs there and back"
    if on in LOOPED:
        tied = set(_last_knots(weave))
        if tied & BUTTONS:
            return "loop-and-button", "it begins with a loop and ends in a button"
        if tied & STOPPERS:
            return "loop-and-stopper", "it begins with a loop and ends in a stopper"
    return "", ""


def _round(weave: Weave) -> bool:
    bodies = [s for s in weave.sections if s.kind == "body"]
    return bool(bodies) and all(s.former is not None for s in bodies)


def _last_knots(weave: Weave) -> Iterator[str]:
    for s in weave.sections:
        if s.kind == "finish":
            yield from (i.knot for i in s.items if isinstance(i, Call))


def laid_over(weave: Weave) -> bool:
    """Whether a cord is laid in last, over ends of both sides of the work."""
    turned = any(isinstance(i, Rotate) for s in weave.sections for i in s.items)
    ends = [s for s in weave.sections if s.kind == "finish"]
    return turned and any(isinstance(i, Add) for s in ends for i in s.items)


def opens_mm(plan: Plan, closing: Closing) -> float:
    """By how much the closed piece opens, mm; 0 where its closing does not."""
    if not closing.of.opens:
        return 0.0
    return OPENS_MM if plan.open_mm is None else plan.open_mm


def sliding_tails(weave: Weave, plan: Plan) -> dict[str, float]:
    """By end, what a sliding closure takes of it beyond what is held, mm: it runs through the closure, and by half of what that opens.

    Closed, the two sides stand as far apart as the closure is long. Open, each end still reaches through it: both together by as much
    more as the piece became wider.
    """
    closing = closing_of(weave, plan)
    if not closing.of.opens:
        return {}
    laid = {
        e.partition(".")[0] for s in weave.sections for i in s.items if isinstance(i, Add) for e in i.ends
    }
    ends = [e for e in working_ends(weave) if e.partition(".")[0] not in laid]
    part = roles(weave).role_of
    core = [e for e in ends if part.get(e, "").startswith("filler")] or ends
    through = 0.0 if laid_over(weave) else closing.adds_mm or SLIDE_MM
    return dict.fromkeys(core, through + opens_mm(plan, closing) / 2)


def asked_words(closing: Closing) -> str:
    """What has to be asked; "" where the plan or the work says it."""
    if not closing.asked:
        return ""
    return "Nothing says what closes it: it is counted as if nothing did. Choose a fastening"
