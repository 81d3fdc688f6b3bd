"""Cords and how they hang, set up from pictures; finishes made fast at the end. Edits, and what they offer."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from dim_ladder.base import InputError
from dim_ladder.commands.edit_base import EditBase, must_read_back
from dim_ladder.library import FINISHES, HANGINGS, cord_kind
from dim_ladder.notation import LEGGED, Call, Cord, Count, Section, Weave, nearest
from dim_ladder.shape.rough import rough_shape
from dim_ladder.shelf import Document

ARRANGEMENTS = {
    "around": "one around the other",
    "pairs": "pair beside pair",
    "woven": "one and the other in turn",
    "single": "one end of each",
    "joined": "the first two joined by their ends, and hung as one",
    "strung": "the others around the first, which is strung between two points",
}
STARTS = {
    "overhand-round": "an overhand knot of the first end round all others",
    "wrap-3": "the first end wrapped three times round all others",
    "wrap-5": "the first end wrapped five times round all others",
}
NAMES = ("tide", "buoy", "reed", "sand", "moss", "kelp", "shell", "mud", "foam", "slate", "tern", "sedge")
COLOURS = (
    "#1f6f8b", "#e07a1f", "#3f7a4a", "#d8c39a", "#7a5236", "#744a9e", "#c22f2b", "#888a8c", "#c9a13b", "#5b7f4b",
    "#22303a", "#b65a7c",
)  # fmt: skip
MOST_CORDS = 26
BROKEN = "that does not go with the steps"
HINT = "Names have letters, digits and hyphens; steps speak only of cords that are there"


class CordSpec(BaseModel):
    """A cord as it is chosen."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: Annotated[str, Field(min_length=1, max_length=60)]
    kind: Annotated[str, Field(min_length=1, max_length=60)] = "nylon-4mm"
    colour: Annotated[str, Field(pattern="^#[0-9a-fA-F]{6}$")] = "#1f6f8b"
    joined: Annotated[str, Field(max_length=60)] = ""


class SetUp(EditBase):
    """The cords, what they hang on, and their ends from left to right. Steps stay as they are."""

    kind: Literal["set-up"] = "set-up"
    cords: Annotated[tuple[CordSpec, ...], Field(min_length=1, max_length=MOST_CORDS)]
    on: str
    ends: Annotated[tuple[str, ...], Field(min_length=1, max_length=2 * MOST_CORDS)]

    def label(self) -> str:
        return f"Hang {len(self.ends)} ends"

    def apply(self, doc: Document) -> Document:
        if self.on not in HANGINGS:
            raise InputError(f"nothing hangs on “{self.on}”", nearest(self.on, HANGINGS))
        old = {c.name: c for c in doc.weave.cords}
        cords = tuple(
            replace(
                was,
                kind=c.kind,
                colour=c.colour.lower(),
                joined=c.joined,
                join_mm=was.join_mm if was.joined == c.joined else 0.0,
            )
            for c in self.cords
            for was in (old.get(c.name, Cord(c.name, c.kind, c.colour)),)
        )
        if self.on in LEGGED and not any(e.endswith(".m") for e in self.ends):
            raise InputError(
                f"{self.on.replace('-', ' ')}: the first cord hangs with its legs",
                "Choose it from its picture",
            )
        made = replace(doc.weave, cords=cords, hang=replace(doc.weave.hang, ends=self.ends, on=self.on))
        must_read_back(made, BROKEN, HINT)
        return replace(doc, weave=made)


class SetFinish(EditBase):
    """How these ends are made fast, as the one finish at the end of the weave; "" takes it away. places : as they hang
    then, from 1."""

    kind: Literal["set-finish"] = "set-finish"
    finish: str
    places: tuple[Annotated[int, Field(ge=1, le=2 * MOST_CORDS)], ...] = ()

    def label(self) -> str:
        return f"Finish: {self.finish.replace('-', ' ')}" if self.finish else "No finish"

    def apply(self, doc: Document) -> Document:
        if self.finish and self.finish not in FINISHES:
            raise InputError(f"there is no finish “{self.finish}”", nearest(self.finish, FINISHES))
        if self.finish and not self.places:
            raise InputError("no end is made fast", "Choose at least one")
        call = Call(self.finish, (self.places,)) if self.finish else None
        return _with_one(doc, "finish", FINISHES, call, ("end", "ends", "finish", "close", "last"))


class SetStart(EditBase):
    """The knot that the work begins with, of all ends; "" takes it away."""

    kind: Literal["set-start"] = "set-start"
    knot: str
    ends: Annotated[int, Field(ge=0, le=2 * MOST_CORDS)] = 0

    def label(self) -> str:
        return f"Start: {self.knot.replace('-', ' ')}" if self.knot else "No start"

    def apply(self, doc: Document) -> Document:
        if self.knot and self.knot not in STARTS:
            raise InputError(f"there is no start “{self.knot}”", nearest(self.knot, STARTS))
        if self.knot and self.ends < 2:
            raise InputError("one end alone makes no start", "Hang more ends first")
        call = Call(self.knot, ((1,), tuple(range(2, self.ends + 1)))) if self.knot else None
        return _with_one(doc, "start", STARTS, call, ("begin", "start", "top", "first"))


def _with_one(
    doc: Document, kind: str, known: Collection[str], call: Call | None, names: Sequence[str]
) -> Document:
    """The weave with this call as the only one of its known kind: first in the start, last in the finish. A section that
    held nothing else goes with its call; a new one takes the first of `names` that is free."""
    kept: list[Section] = []
    for s in doc.weave.sections:
        if s.kind == kind:
            items = tuple(i for i in s.items if not (isinstance(i, Call) and i.knot in known))
            if s.items and not items:
                continue
            s = replace(s, items=items)
        kept.append(s)
    if call is not None:
        first = kind == "start"
        at = 0 if first else -1
        if kept and kept[at].kind == kind:
            items = kept[at].items
            kept[at] = replace(kept[at], items=(call, *items) if first else (*items, call))
        else:
            taken = {s.name for s in kept}
            new = Section(next(n for n in names if n not in taken), kind, Count(), (call,))
            kept.insert(0 if first else len(kept), new)
    made = replace(doc.weave, sections=tuple(kept))
    must_read_back(made, BROKEN, HINT)
    return replace(doc, weave=made)


def start_of(weave: Weave) -> str:
    """The knot that the work begins with, of those that are offered; "" where there is none."""
    return next(
        (
            i.knot
            for s in weave.sections
            if s.kind == "start"
            for i in s.items
            if isinstance(i, Call) and i.knot in STARTS
        ),
        "",
    )


def start_takes(weave: Weave) -> float:
    """About how many mm the start takes of the end that takes most of it; 0 where there is none."""
    name = next((s.name for s in weave.sections if s.kind == "start" and start_of(weave)), "")
    found = rough_shape(weave).section(name) if name else None
    if found is None:
        return 0.0
    thick = max((cord_kind(c.kind).diameter for c in weave.cords), default=4.0)
    return max(found.per_role.values(), default=0.0) * thick


def arranged(cords: Sequence[str], how: str) -> tuple[str, ...]:
    """Ends from left to right. how : a key of ARRANGEMENTS. The first cord is the innermost of "around"."""
    if how == "joined":
        return (
            *(f"{c}.a" for c in cords[:1]),
            *arranged(cords[2:], "around"),
            *(f"{c}.a" for c in cords[1:2]),
        )
    if how == "strung":
        outside = tuple(reversed(cords[1:]))
        return (
            *(f"{c}.a" for c in outside),
            *(f"{c}.s" for c in cords[:1]),
            *(f"{c}.b" for c in reversed(outside)),
        )
    if how == "single":
        return tuple(f"{c}.a" for c in cords)
    if how == "pairs":
        return tuple(f"{c}.{x}" for c in cords for x in "ab")
    if how == "woven":
        return (*(f"{c}.a" for c in cords), *(f"{c}.b" for c in cords))
    outside = tuple(reversed(cords))
    return (*(f"{c}.a" for c in outside), *(f"{c}.b" for c in reversed(outside)))


def arranged_on(cords: Sequence[str], how: str, on: str) -> tuple[str, ...]:
    """Ends from left to right on what they hang on: in thirds, and there and back, the first cord hangs with its legs, the
    others around it. Two cords that go there and back are joined where one would be folded."""
    if on not in LEGGED or not cords:
        return arranged(cords, how)
    core = cords[0]
    if on == "there-and-back" and len(cords) > 1:
        other = cords[1]
        inner = (f"{core}.a", f"{core}.m", f"{other}.m", f"{other}.a")
        outside = tuple(reversed(cords[2:]))
    else:
        inner = (f"{core}.a", f"{core}.m", f"{core}.n", f"{core}.b")
        outside = tuple(reversed(cords[1:]))
    return (*(f"{c}.a" for c in outside), *inner, *(f"{c}.b" for c in reversed(outside)))


def arrangement_of(weave: Weave) -> str:
    """Which arrangement the ends hang in; "" for one of the maker's own."""
    names = [c.name for c in weave.cords]
    joined = any(c.joined for c in weave.cords)
    fits = (how for how in ARRANGEMENTS if arranged(names, how) == weave.hang.ends)
    return next((how for how in fits if (how == "joined") == joined), "")


def joined_for(cords: Sequence[CordSpec], how: str) -> tuple[CordSpec, ...]:
    """The cords with the join that an arrangement has: the second to the first, or none."""
    return tuple(
        c.model_copy(update={"joined": cords[0].name if how == "joined" and k == 1 else ""})
        for k, c in enumerate(cords)
    )


class JoinCords(EditBase):
    """One cord joined to another by their other ends; "" parts it again. mm : how far from the fold the join lies, on the side of
    the other cord."""

    kind: Literal["join-cords"] = "join-cords"
    cord: str
    to: str
    mm: Annotated[float, Field(ge=0, le=2000)] = 0.0

    def label(self) -> str:
        return f"Join {self.cord} to {self.to}" if self.to else f"Part {self.cord}"

    def apply(self, doc: Document) -> Document:
        names = [c.name for c in doc.weave.cords]
        if self.cord not in names:
            raise InputError(f"there is no cord “{self.cord}”", nearest(self.cord, names))
        cords = tuple(
            replace(c, joined=self.to, join_mm=self.mm if self.to else 0.0) if c.name == self.cord else c
            for c in doc.weave.cords
        )
        made = replace(doc.weave, cords=cords)
        must_read_back(
            made, f"{self.cord} cannot be joined", "Hang one end of each cord; the other ends are made one"
        )
        return replace(doc, weave=made)


def next_cord(cords: Sequence[CordSpec]) -> CordSpec:
    """One cord more: of the last one's kind, with a name and a colour that are still free."""
    names = {c.name for c in cords}
    name = next((n for n in NAMES if n not in names), f"cord{len(cords) + 1}")
    used = {c.colour.lower() for c in cords}
    colour = next((c for c in COLOURS if c not in used), COLOURS[len(cords) % len(COLOURS)])
    return CordSpec(name=name, kind=cords[-1].kind if cords else "nylon-4mm", colour=colour)


def finish_of(weave: Weave) -> tuple[str, tuple[int, ...]]:
    """The finish at the end, with the places it makes fast; "" where there is none."""
    for s in reversed(weave.sections):
        for item in reversed(s.items):
            if isinstance(item, Call) and item.knot in FINISHES:
                return item.knot, tuple(r for g in item.groups for r in g if isinstance(r, int))
    return "", ()
