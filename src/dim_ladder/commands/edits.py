"""Named edits. Each is data (it goes to JSON and back), has words for the undo menu, and turns a Document into another.

Parts of a weave travel as script text, so that a journal of edits can be read by a person.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal

from pydantic import Field, TypeAdapter, ValidationError

from dim_ladder.base import InputError
from dim_ladder.calibrate import Tie
from dim_ladder.commands.cord_edits import RenameCord, SetColour, SetColourway, SetCordKind
from dim_ladder.commands.edit_base import EditBase, bounded, in_section
from dim_ladder.commands.passages import (
    AddItems,
    AddMirrored,
    ExtractKnot,
    FlipCrossing,
    FlipItems,
    InlineKnot,
    MirrorItems,
    MoveItem,
    RemoveItem,
    RepeatItems,
    ReplaceItems,
    SwapLeader,
)
from dim_ladder.commands.setup import JoinCords, SetFinish, SetStart, SetUp
from dim_ladder.notation import (
    SECTION_KINDS,
    Section,
    nearest,
    parse_count,
    parse_how,
    parse_item,
    parse_strict,
)
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.scale import Plan
from dim_ladder.shelf import Document, read_document_text
from dim_ladder.shelf.document import laid
from dim_ladder.shelf.files import MOST_PHOTO


class SetScript(EditBase):
    """The whole script, as typed. Raises InputError with every problem when it cannot be read."""

    kind: Literal["set-script"] = "set-script"
    text: str

    def label(self) -> str:
        return "Edit script"

    def apply(self, doc: Document) -> Document:
        weave = parse_strict(self.text)
        return replace(doc, weave=weave, draft="", layout=laid(self.text, weave))


class SetDraft(EditBase):
    """Script text that cannot be read yet: the weave stays, the typing is kept."""

    kind: Literal["set-draft"] = "set-draft"
    text: str

    def label(self) -> str:
        return "Type in script"

    def apply(self, doc: Document) -> Document:
        return replace(doc, draft=self.text)


class TakeFile(EditBase):
    """Everything as a file has it that was changed outside; what was here comes back with undo."""

    kind: Literal["take-file"] = "take-file"
    text: str

    def label(self) -> str:
        return "Take what the file holds"

    def apply(self, doc: Document) -> Document:
        return read_document_text(self.text, "the file")


class AddItem(EditBase):
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
            at = len(s.items) if self.at is None else bounded(self.at, len(s.items) + 1)
            return replace(s, items=(*s.items[:at], item, *s.items[at:]))

        return in_section(doc, self.section, put)


class ReplaceItem(EditBase):
    kind: Literal["replace-item"] = "replace-item"
    section: str
    at: int
    text: str

    def label(self) -> str:
        return f"Change step to {self.text}"

    def apply(self, doc: Document) -> Document:
        item = parse_item(self.text)

        def swap(s: Section) -> Section:
            at = bounded(self.at, len(s.items))
            old = s.items[at]
            new = replace(item, lead=old.lead, note=item.note or old.note)
            return replace(s, items=(*s.items[:at], new, *s.items[at + 1 :]))

        return in_section(doc, self.section, swap)


class AddSection(EditBase):
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


def _above(doc: Document, section: str) -> list[str]:
    """Sections that a count can speak of: those above."""
    names = [s.name for s in doc.weave.sections]
    return names[: names.index(section)] if section in names else []


class SetCount(EditBase):
    kind: Literal["set-count"] = "set-count"
    section: str
    count: str

    def label(self) -> str:
        return f"Set {self.section} to {self.count}"

    def apply(self, doc: Document) -> Document:
        count = parse_count(self.count, _above(doc, self.section))
        return in_section(doc, self.section, lambda s: replace(s, count=count))


class SetHow(EditBase):
    """How often a section is worked, and how its units take turns, as written in the script: "fit, mirror every other, spiral"."""

    kind: Literal["set-how"] = "set-how"
    section: str
    how: str

    def label(self) -> str:
        return f"Work {self.section}: {self.how}"

    def apply(self, doc: Document) -> Document:
        said = parse_how(self.how, _above(doc, self.section))
        return in_section(
            doc,
            self.section,
            lambda s: replace(s, count=said.count, alternate=said.alternate, spiral=said.spiral),
        )


class SetName(EditBase):
    kind: Literal["set-name"] = "set-name"
    name: Annotated[str, Field(min_length=1, max_length=120, pattern='^[^"\n\r]+$')]

    def label(self) -> str:
        return f"Rename to {self.name}"

    def apply(self, doc: Document) -> Document:
        return replace(doc, weave=replace(doc.weave, name=self.name.strip() or "Unnamed"))


class AddTie(EditBase):
    kind: Literal["add-tie"] = "add-tie"
    tie: Tie

    def label(self) -> str:
        return f"Log {self.tie.id}"

    def apply(self, doc: Document) -> Document:
        if any(t.id == self.tie.id for t in doc.ties):
            raise InputError(f"there is a tie “{self.tie.id}” already", "Give it another name")
        return replace(doc, ties=(*doc.ties, self.tie))


class SetTies(EditBase):
    """All test ties at once, as after importing a table, or where all were counted wrongly."""

    kind: Literal["set-ties"] = "set-ties"
    ties: Annotated[tuple[Tie, ...], Field(max_length=20_000)]

    def label(self) -> str:
        return "Change all ties"

    def apply(self, doc: Document) -> Document:
        names = [t.id for t in self.ties]
        if len(set(names)) < len(names):
            raise InputError("two ties have the same name", "Give each its own")
        return replace(doc, ties=self.ties)


class ReplaceTie(EditBase):
    kind: Literal["replace-tie"] = "replace-tie"
    id: str
    tie: Tie

    def label(self) -> str:
        return f"Change {self.id}"

    def apply(self, doc: Document) -> Document:
        _known_tie(doc, self.id)
        return replace(doc, ties=tuple(self.tie if t.id == self.id else t for t in doc.ties))


class RemoveTie(EditBase):
    kind: Literal["remove-tie"] = "remove-tie"
    id: str

    def label(self) -> str:
        return f"Remove {self.id}"

    def apply(self, doc: Document) -> Document:
        _known_tie(doc, self.id)
        return replace(doc, ties=tuple(t for t in doc.ties if t.id != self.id))


class SetPlan(EditBase):
    kind: Literal["set-plan"] = "set-plan"
    plan: Plan

    def label(self) -> str:
        return "Change the size"

    def apply(self, doc: Document) -> Document:
        return replace(doc, plan=self.plan)


class SetSheet(EditBase):
    kind: Literal["set-sheet"] = "set-sheet"
    sheet: SheetChoices

    def label(self) -> str:
        return "Change the sheet"

    def apply(self, doc: Document) -> Document:
        return replace(doc, sheet=self.sheet)


class SetPhoto(EditBase):
    """photo : base64 of a JPEG (publish/photo.py), "" to take it off the sheet."""

    kind: Literal["set-photo"] = "set-photo"
    photo: Annotated[str, Field(max_length=MOST_PHOTO)]

    def label(self) -> str:
        return "Photo on the sheet" if self.photo else "No photo on the sheet"

    def apply(self, doc: Document) -> Document:
        return replace(doc, photo=self.photo)


Edit = (
    SetScript | SetDraft | AddItem | RemoveItem | ReplaceItem | MoveItem | AddMirrored | AddSection
    | SetCount | SetHow | SetColour | SetColourway | SetName | AddTie | ReplaceTie | RemoveTie | SetPlan | SetSheet
    | AddItems | ReplaceItems | RepeatItems | MirrorItems | FlipItems | SwapLeader | ExtractKnot | InlineKnot
    | TakeFile | SetTies | FlipCrossing | RenameCord | JoinCords | SetCordKind | SetUp | SetFinish | SetStart
    | SetPhoto
)  # fmt: skip
_ADAPTER: TypeAdapter[Edit] = TypeAdapter(Annotated[Edit, Field(discriminator="kind")])


def read_edit(text: str) -> Edit:
    """An edit from its JSON text."""
    try:
        return _ADAPTER.validate_json(text)
    except ValidationError as e:
        raise InputError(f"this is not an edit: {e.errors()[0]['msg']}", "") from None


def _known_tie(doc: Document, tie_id: str) -> None:
    if all(t.id != tie_id for t in doc.ties):
        raise InputError(f"there is no tie “{tie_id}”", nearest(tie_id, (t.id for t in doc.ties)))
