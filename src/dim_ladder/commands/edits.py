"""Named edits. Each is data (it goes to JSON and back), has words for the undo menu, and turns a Document into another.

Parts of a weave travel as script text, so that a journal of edits can be read by a person.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from dim_ladder.base import InputError
from dim_ladder.calibrate import Tie
from dim_ladder.library import library_knots
from dim_ladder.notation import (
    SECTION_KINDS,
    Call,
    Item,
    Section,
    Weave,
    mirrored_item,
    nearest,
    parse_count,
    parse_item,
    parse_strict,
)
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.scale import Plan
from dim_ladder.shelf import Document


class _Base(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    def label(self) -> str:
        raise AssertionError("every edit has words")

    def apply(self, doc: Document) -> Document:
        raise AssertionError("every edit does something")


class SetScript(_Base):
    """The whole script, as typed. Raises InputError with every problem when it cannot be read."""

    kind: Literal["set-script"] = "set-script"
    text: str

    def label(self) -> str:
        return "Edit script"

    def apply(self, doc: Document) -> Document:
        return replace(doc, weave=parse_strict(self.text), draft="")


class SetDraft(_Base):
    """Script text that cannot be read yet: the weave stays, the typing is kept."""

    kind: Literal["set-draft"] = "set-draft"
    text: str

    def label(self) -> str:
        return "Type in script"

    def apply(self, doc: Document) -> Document:
        return replace(doc, draft=self.text)


class AddItem(_Base):
    """A step or knot into a section, at the end or before position `at`."""

    kind: Literal["add-item"] = "add-item"
    section: str
    text: str
    at: int | None = None

    def label(self) -> str:
        return (
            f"Add {self.text.split(':')[0].split('(')[0].strip()}"
            if "(" in self.text
            else f"Add step {self.text}"
        )

    def apply(self, doc: Document) -> Document:
        item = parse_item(self.text)

        def put(s: Section) -> Section:
            at = len(s.items) if self.at is None else _bounded(self.at, len(s.items) + 1)
            return replace(s, items=(*s.items[:at], item, *s.items[at:]))

        return _in_section(doc, self.section, put)


class RemoveItem(_Base):
    kind: Literal["remove-item"] = "remove-item"
    section: str
    at: int

    def label(self) -> str:
        return "Remove step"

    def apply(self, doc: Document) -> Document:
        def cut(s: Section) -> Section:
            at = _bounded(self.at, len(s.items))
            return replace(s, items=(*s.items[:at], *s.items[at + 1 :]))

        return _in_section(doc, self.section, cut)


class ReplaceItem(_Base):
    kind: Literal["replace-item"] = "replace-item"
    section: str
    at: int
    text: str

    def label(self) -> str:
        return f"Change step to {self.text}"

    def apply(self, doc: Document) -> Document:
        item = parse_item(self.text)

        def swap(s: Section) -> Section:
            at = _bounded(self.at, len(s.items))
            old = s.items[at]
            new = replace(item, lead=old.lead, note=item.note or old.note)
            return replace(s, items=(*s.items[:at], new, *s.items[at + 1 :]))

        return _in_section(doc, self.section, swap)


class MoveItem(_Base):
    kind: Literal["move-item"] = "move-item"
    section: str
    at: int
    to: int

    def label(self) -> str:
        return "Move step"

    def apply(self, doc: Document) -> Document:
        def move(s: Section) -> Section:
            at, to = _bounded(self.at, len(s.items)), _bounded(self.to, len(s.items))
            items = list(s.items)
            items.insert(to, items.pop(at))
            return replace(s, items=tuple(items))

        return _in_section(doc, self.section, move)


class AddMirrored(_Base):
    """Repeat a section's items from `start` on, seen in a mirror."""

    kind: Literal["add-mirrored"] = "add-mirrored"
    section: str
    start: int = 0

    def label(self) -> str:
        return "Add the mirror image"

    def apply(self, doc: Document) -> Document:
        count = len(doc.weave.hang.ends)

        def add(s: Section) -> Section:
            start = _bounded(self.start, len(s.items)) if s.items else 0
            mirrored = tuple(_mirrored(doc.weave, i, count) for i in s.items[start:])
            if not mirrored:
                raise InputError(f"section “{s.name}” has nothing to mirror yet", "Record a step first")
            return replace(s, items=(*s.items, *mirrored))

        return _in_section(doc, self.section, add)


class AddSection(_Base):
    kind: Literal["add-section"] = "add-section"
    name: str
    part: Literal["start", "body", "finish"] = "body"
    count: str = "fit"

    def label(self) -> str:
        return f"Add section {self.name}"

    def apply(self, doc: Document) -> Document:
        if doc.weave.section(self.name):
            raise InputError(f"there is a section “{self.name}” already", "Choose another name")
        # A name must read back as a name: let the parser judge it.
        new = parse_strict(f'weave "x"\nsection {self.name}: {self.part}\n').sections[0]
        rank = SECTION_KINDS.index(self.part)
        at = sum(SECTION_KINDS.index(s.kind) <= rank for s in doc.weave.sections)
        new = replace(new, count=parse_count(self.count, [s.name for s in doc.weave.sections[:at]]))
        sections = (*doc.weave.sections[:at], new, *doc.weave.sections[at:])
        return replace(doc, weave=replace(doc.weave, sections=sections))


class SetCount(_Base):
    kind: Literal["set-count"] = "set-count"
    section: str
    count: str

    def label(self) -> str:
        return f"Set {self.section} to {self.count}"

    def apply(self, doc: Document) -> Document:
        names = [s.name for s in doc.weave.sections]
        above = names[: names.index(self.section)] if self.section in names else []
        count = parse_count(self.count, above)
        return _in_section(doc, self.section, lambda s: replace(s, count=count))


class SetColour(_Base):
    kind: Literal["set-colour"] = "set-colour"
    cord: str
    colour: Annotated[str, Field(pattern="^#[0-9a-fA-F]{6}$")]

    def label(self) -> str:
        return f"Recolour {self.cord}"

    def apply(self, doc: Document) -> Document:
        if all(c.name != self.cord for c in doc.weave.cords):
            raise InputError(
                f"there is no cord “{self.cord}”", nearest(self.cord, (c.name for c in doc.weave.cords))
            )
        cords = tuple(
            replace(c, colour=self.colour.lower()) if c.name == self.cord else c for c in doc.weave.cords
        )
        return replace(doc, weave=replace(doc.weave, cords=cords))


class SetName(_Base):
    kind: Literal["set-name"] = "set-name"
    name: Annotated[str, Field(min_length=1, max_length=120, pattern='^[^"\n\r]+$')]

    def label(self) -> str:
        return f"Rename to {self.name}"

    def apply(self, doc: Document) -> Document:
        return replace(doc, weave=replace(doc.weave, name=self.name.strip() or "Unnamed"))


class AddTie(_Base):
    kind: Literal["add-tie"] = "add-tie"
    tie: Tie

    def label(self) -> str:
        return f"Log {self.tie.id}"

    def apply(self, doc: Document) -> Document:
        if any(t.id == self.tie.id for t in doc.ties):
            raise InputError(f"there is a tie “{self.tie.id}” already", "Give it another name")
        return replace(doc, ties=(*doc.ties, self.tie))


class ReplaceTie(_Base):
    kind: Literal["replace-tie"] = "replace-tie"
    id: str
    tie: Tie

    def label(self) -> str:
        return f"Change {self.id}"

    def apply(self, doc: Document) -> Document:
        _known_tie(doc, self.id)
        return replace(doc, ties=tuple(self.tie if t.id == self.id else t for t in doc.ties))


class RemoveTie(_Base):
    kind: Literal["remove-tie"] = "remove-tie"
    id: str

    def label(self) -> str:
        return f"Remove {self.id}"

    def apply(self, doc: Document) -> Document:
        _known_tie(doc, self.id)
        return replace(doc, ties=tuple(t for t in doc.ties if t.id != self.id))


class SetPlan(_Base):
    kind: Literal["set-plan"] = "set-plan"
    plan: Plan

    def label(self) -> str:
        return "Change the size"

    def apply(self, doc: Document) -> Document:
        return replace(doc, plan=self.plan)


class SetSheet(_Base):
    kind: Literal["set-sheet"] = "set-sheet"
    sheet: SheetChoices

    def label(self) -> str:
        return "Change the sheet"

    def apply(self, doc: Document) -> Document:
        return replace(doc, sheet=self.sheet)


Edit = (
    SetScript | SetDraft | AddItem | RemoveItem | ReplaceItem | MoveItem | AddMirrored | AddSection
    | SetCount | SetColour | SetName | AddTie | ReplaceTie | RemoveTie | SetPlan | SetSheet
)  # fmt: skip
_ADAPTER: TypeAdapter[Edit] = TypeAdapter(Annotated[Edit, Field(discriminator="kind")])


def read_edit(text: str) -> Edit:
    """An edit from its JSON text."""
    try:
        return _ADAPTER.validate_json(text)
    except ValidationError as e:
        raise InputError(f"this is not an edit: {e.errors()[0]['msg']}", "") from None


# -- helpers --------------------------------------------------------------------------------------


def _bounded(at: int, count: int) -> int:
    if not 0 <= at < count:
        raise InputError(f"there is no step {at + 1}: the section has {count}", "Choose one that is there")
    return at


def _in_section(doc: Document, name: str, change: Callable[[Section], Section]) -> Document:
    sections = doc.weave.sections
    index = next((i for i, s in enumerate(sections) if s.name == name), None)
    if index is None:
        raise InputError(f"there is no section “{name}”", nearest(name, (s.name for s in sections)))
    new = (*sections[:index], change(sections[index]), *sections[index + 1 :])
    return replace(doc, weave=replace(doc.weave, sections=new))


def _known_tie(doc: Document, tie_id: str) -> None:
    if all(t.id != tie_id for t in doc.ties):
        raise InputError(f"there is no tie “{tie_id}”", nearest(tie_id, (t.id for t in doc.ties)))


def _mirrored(weave: Weave, item: Item, count: int) -> Item:
    """An item seen in a mirror: places counted from the other side, a knot exchanged for its mirror image."""
    if not isinstance(item, Call):
        try:
            return replace(mirrored_item(item, count), lead=())
        except ValueError as e:
            raise InputError(str(e), "Mend that step first") from None
    partner = mirror_partner(weave, item.knot)
    if partner is None:
        raise InputError(f"{item.knot} has no mirror image yet", f"Write: knot NAME = mirror {item.knot}")
    return replace(item, knot=partner, lead=())


def mirror_partner(weave: Weave, name: str) -> str | None:
    """The knot that is the mirror image of another, in this weave or in the library."""
    for knots in (weave.knots, library_knots()):
        for k in knots:
            if k.derive == "mirror" and k.name == name:
                return k.source
            if k.derive == "mirror" and k.source == name:
                return k.name
    return None
