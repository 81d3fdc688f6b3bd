"""Edits of a passage: a run of items of one section that is removed, moved, copied, mirrored, or made into a knot."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Annotated, Literal

from pydantic import Field

from dim_ladder.base import InputError
from dim_ladder.commands.edit_base import EditBase, bounded, in_section
from dim_ladder.commands.knots import (
    extracted,
    inlined,
    mirror_image,
    must_be_the_same,
    other_face,
    tails_before,
)
from dim_ladder.notation import (
    Call,
    Cross,
    Item,
    Section,
    Step,
    Weave,
    flipped,
    mirrored,
    mirrored_item,
    parse_item,
    step_refs,
    with_refs,
    write_item,
)
from dim_ladder.shelf import Document


class _Passage(EditBase):
    """Items at..last (without `last` only the one at `at`) of a section, counted from 0."""

    section: str
    at: int
    last: int | None = None

    def _bounds(self, s: Section) -> tuple[int, int]:
        """First and one past the last."""
        at = bounded(self.at, len(s.items))
        last = at if self.last is None else bounded(self.last, len(s.items))
        return min(at, last), max(at, last) + 1

    def _words(self) -> str:
        many = 1 if self.last is None else abs(self.last - self.at) + 1
        return "step" if many == 1 else f"{many} steps"

    def _swap(self, doc: Document, change: Callable[[tuple[Item, ...]], tuple[Item, ...]]) -> Document:
        """The document with these items exchanged for others."""

        def put(s: Section) -> Section:
            first, stop = self._bounds(s)
            return replace(s, items=(*s.items[:first], *change(s.items[first:stop]), *s.items[stop:]))

        return in_section(doc, self.section, put)


class RemoveItem(_Passage):
    kind: Literal["remove-item"] = "remove-item"

    def label(self) -> str:
        return f"Remove {self._words()}"

    def apply(self, doc: Document) -> Document:
        return self._swap(doc, lambda _: ())


class MoveItem(_Passage):
    """to : where the first of them stands afterwards."""

    kind: Literal["move-item"] = "move-item"
    to: int

    def label(self) -> str:
        return f"Move {self._words()}"

    def apply(self, doc: Document) -> Document:
        def move(s: Section) -> Section:
            first, stop = self._bounds(s)
            moved = s.items[first:stop]
            rest = (*s.items[:first], *s.items[stop:])
            to = bounded(self.to, len(rest) + 1)
            return replace(s, items=(*rest[:to], *moved, *rest[to:]))

        return in_section(doc, self.section, move)


class AddItems(EditBase):
    """Lines of the script into a section, at the end or before position `at`."""

    kind: Literal["add-items"] = "add-items"
    section: str
    text: str
    at: int | None = None

    def label(self) -> str:
        many = len(read_items(self.text))
        return "Paste a step" if many == 1 else f"Paste {many} steps"

    def apply(self, doc: Document) -> Document:
        items = read_items(self.text)

        def put(s: Section) -> Section:
            at = len(s.items) if self.at is None else bounded(self.at, len(s.items) + 1)
            return replace(s, items=(*s.items[:at], *items, *s.items[at:]))

        return in_section(doc, self.section, put)


class ReplaceItems(_Passage):
    """why : the words for the undo menu."""

    kind: Literal["replace-items"] = "replace-items"
    text: str
    why: str = ""

    def label(self) -> str:
        return self.why or f"Change {self._words()}"

    def apply(self, doc: Document) -> Document:
        return self._swap(doc, lambda _: read_items(self.text))


class RepeatItems(_Passage):
    """The passage `times` more, right below."""

    kind: Literal["repeat-items"] = "repeat-items"
    times: Annotated[int, Field(ge=1, le=1000)] = 1

    def label(self) -> str:
        return f"Repeat {self._words()}"

    def apply(self, doc: Document) -> Document:
        return self._swap(doc, lambda items: (*items, *[replace(i, lead=()) for i in items] * self.times))


class AddMirrored(EditBase):
    """Repeat a section's items from `start` on, seen in a mirror."""

    kind: Literal["add-mirrored"] = "add-mirrored"
    section: str
    start: int = 0

    def label(self) -> str:
        return "Add the mirror image"

    def apply(self, doc: Document) -> Document:
        made, s = _found(doc, self.section)
        start = bounded(self.start, len(s.items)) if s.items else 0
        if not s.items[start:]:
            raise InputError(f"section “{s.name}” has nothing to mirror yet", "Record a step first")
        before = tails_before(doc.weave, s.name)
        new: list[Item] = []
        for k, item in enumerate(s.items[start:], start):
            made, image = _image(made, item, before[k])
            new.append(replace(image, lead=()))
        return in_section(
            replace(doc, weave=made), self.section, lambda s: replace(s, items=(*s.items, *new))
        )


class MirrorItems(_Passage):
    """The passage seen in a mirror, in its place: left and right exchanged."""

    kind: Literal["mirror-items"] = "mirror-items"

    def label(self) -> str:
        return f"Mirror {self._words()}"

    def apply(self, doc: Document) -> Document:
        made, s = _found(doc, self.section)
        first, stop = self._bounds(s)
        before = tails_before(doc.weave, s.name)
        new: list[Item] = []
        for k in range(first, stop):
            made, image = _image(made, s.items[k], before[k])
            new.append(image)
        return self._swap(replace(doc, weave=made), lambda _: tuple(new))


class FlipItems(_Passage):
    """The passage seen from behind: every over an under."""

    kind: Literal["flip-items"] = "flip-items"

    def label(self) -> str:
        return f"Exchange front and back of {self._words()}"

    def apply(self, doc: Document) -> Document:
        made, s = _found(doc, self.section)
        first, stop = self._bounds(s)
        new: list[Item] = []
        for item in s.items[first:stop]:
            if isinstance(item, Call):
                made, knot = other_face(made, item.knot)
                item = replace(item, knot=knot)
            elif isinstance(item, Step):
                item = flipped(item)
            new.append(item)
        return self._swap(replace(doc, weave=made), lambda _: tuple(new))


class SwapLeader(_Passage):
    """The other end leads: whatever the outermost ends of the passage did, each does what the other did."""

    kind: Literal["swap-leader"] = "swap-leader"

    def label(self) -> str:
        return "Swap the leader"

    def apply(self, doc: Document) -> Document:
        def swapped(items: tuple[Item, ...]) -> tuple[Item, ...]:
            places = [r for i in items if isinstance(i, Step) for r in step_refs(i) if isinstance(r, int)]
            turn = min(places, default=0) + max(places, default=0)
            out: list[Item] = []
            for item in items:
                if isinstance(item, Call):
                    if len(item.groups) < 2:
                        raise InputError(
                            f"{item.knot} is tied with one end", "Choose a knot that two ends tie"
                        )
                    out.append(item.reversed())
                elif isinstance(item, Step):
                    out.append(
                        mirrored(_as_step(with_refs(item, lambda r: turn - r if isinstance(r, int) else r)))
                    )
                else:
                    out.append(item)
            return tuple(out)

        return self._swap(doc, swapped)


class ExtractKnot(_Passage):
    """The passage becomes a knot of that name, and the section ties it where the passage stood."""

    kind: Literal["extract-knot"] = "extract-knot"
    name: str

    def label(self) -> str:
        return f"Make the knot {self.name}"

    def apply(self, doc: Document) -> Document:
        _, s = _found(doc, self.section)
        first, stop = self._bounds(s)
        knot, call = extracted(doc.weave, s, first, stop, self.name)
        made = replace(doc.weave, knots=(*doc.weave.knots, knot))
        out = self._swap(replace(doc, weave=made), lambda _: (call,))
        why = "as a knot this would rest its ends elsewhere: “to left” and “to right” then count its own ends"
        must_be_the_same(doc.weave, out.weave, self.section, why)
        return out


class InlineKnot(_Passage):
    """A knot opened into its steps, where it is tied; the knot itself stays for other places."""

    kind: Literal["inline-knot"] = "inline-knot"

    def label(self) -> str:
        return "Open the knot into its steps"

    def apply(self, doc: Document) -> Document:
        _, s = _found(doc, self.section)
        first, stop = self._bounds(s)
        if not any(isinstance(i, Call) for i in s.items[first:stop]):
            raise InputError("that is a step, not a knot", "Choose a rung of a knot")
        out = doc
        for k in range(stop - 1, first - 1, -1):  # from below, so that what stands above keeps its number
            if isinstance(s.items[k], Call):
                _, now = _found(out, self.section)
                steps = inlined(out.weave, now, k)
                before = out.weave
                out = InlineKnot(section=self.section, at=k)._swap(out, partial(_always, steps))
                why = "opened here, its ends would rest elsewhere: “to left” and “to right” then count all tails"
                must_be_the_same(before, out.weave, self.section, why)
        return out


class FlipCrossing(_Passage):
    """One crossing of a bare step the other way. hop : which of its hops; which : the how-manyth tail it crosses."""

    kind: Literal["flip-crossing"] = "flip-crossing"
    hop: int
    which: int = 0

    def label(self) -> str:
        return "Flip a crossing"

    def apply(self, doc: Document) -> Document:
        def flip(items: tuple[Item, ...]) -> tuple[Item, ...]:
            (item,) = items
            if not isinstance(item, Step):
                raise InputError("that crossing belongs to a knot", "Open the knot into its steps first")
            hop = item.hops[bounded(self.hop, len(item.hops))]
            if isinstance(hop, Cross) and len(hop.refs) > 1:
                at = bounded(self.which, len(hop.refs))
                parts = [(hop.over, hop.refs[:at]), (not hop.over, hop.refs[at : at + 1])]
                parts.append((hop.over, hop.refs[at + 1 :]))
                new = [
                    replace(hop, over=over, refs=refs, name=hop.name if k == 0 else "")
                    for k, (over, refs) in enumerate(p for p in parts if p[1])
                ]
            else:
                new = list(flipped(replace(item, hops=(hop,))).hops)  # type: ignore[arg-type]
            return (replace(item, hops=(*item.hops[: self.hop], *new, *item.hops[self.hop + 1 :])),)

        return self._swap(doc, flip)


# -- text ------------------------------------------------------------------------------------------


def items_text(items: tuple[Item, ...]) -> str:
    """Items as lines of the script, with the notes above them: what is copied."""
    lines: list[str] = []
    for item in items:
        lines += [f"-- {line}".rstrip() for line in item.lead]
        lines.append(write_item(item) + (f" -- {item.note}" if item.note else ""))
    return "\n".join(lines)


def read_items(text: str) -> tuple[Item, ...]:
    """Lines of the script as items of a section. Raises InputError with the line."""
    items: list[Item] = []
    lead: list[str] = []
    for n, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        if line.strip().startswith("--"):
            lead.append(line.strip().removeprefix("--").strip())
            continue
        try:
            items.append(replace(parse_item(line.strip()), lead=tuple(lead)))
        except InputError as e:
            raise InputError(f"line {n} of what is pasted: {e.message}", e.hint) from None
        lead = []
    if not items:
        raise InputError("there is no step in what is pasted", "Copy rungs of a ladder or lines of a script")
    return tuple(items)


# -- helpers ---------------------------------------------------------------------------------------


def _found(doc: Document, name: str) -> tuple[Weave, Section]:
    in_section(doc, name, lambda s: s)  # says so when it is not there
    section = doc.weave.section(name)
    assert section is not None
    return doc.weave, section


def _image(weave: Weave, item: Item, before: tuple[str, ...]) -> tuple[Weave, Item]:
    """An item seen in a mirror: places counted from the other side, a knot exchanged for its mirror image, which the
    weave gets where it has none."""
    try:
        if isinstance(item, Call):
            weave, knot = mirror_image(weave, item.knot)
            across = mirrored_item(item, len(before))
            assert isinstance(across, Call)
            groups = tuple(g[::-1] for g in across.groups[::-1])
            return weave, replace(item.reversed(), knot=knot, groups=groups)
        return weave, mirrored_item(item, len(before))
    except ValueError as e:
        raise InputError(str(e), "Mend that step first") from None


def _always(items: tuple[Item, ...], _: tuple[Item, ...]) -> tuple[Item, ...]:
    return items


def _as_step(item: Item) -> Step:
    assert isinstance(item, Step)
    return item
