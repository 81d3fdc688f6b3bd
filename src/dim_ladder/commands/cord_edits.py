"""Edits of the cords: their names everywhere they stand, their kinds and colours."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal

from pydantic import Field

from dim_ladder.base import InputError
from dim_ladder.commands.edit_base import EditBase, must_read_back
from dim_ladder.library import cord_kind
from dim_ladder.notation import Add, Item, Knot, Ref, Section, Weave, nearest, with_refs
from dim_ladder.shelf import Document

Colour = Annotated[str, Field(pattern="^#[0-9a-fA-F]{6}$")]


class SetColourway(EditBase):
    """All cords at once, in the order of the weave."""

    kind: Literal["set-colourway"] = "set-colourway"
    name: Annotated[str, Field(max_length=60)]
    colours: tuple[Colour, ...]

    def label(self) -> str:
        return f"Colourway {self.name}"

    def apply(self, doc: Document) -> Document:
        cords = doc.weave.cords
        if len(cords) != len(self.colours):
            raise InputError(
                f"the colourway is of {len(self.colours)} cords, the weave has {len(cords)}",
                "Choose it again",
            )
        new = tuple(replace(c, colour=k.lower()) for c, k in zip(cords, self.colours, strict=True))
        return replace(doc, weave=replace(doc.weave, cords=new))


class SetColour(EditBase):
    kind: Literal["set-colour"] = "set-colour"
    cord: str
    colour: Colour

    def label(self) -> str:
        return f"Recolour {self.cord}"

    def apply(self, doc: Document) -> Document:
        _known(doc.weave, self.cord)
        cords = tuple(
            replace(c, colour=self.colour.lower()) if c.name == self.cord else c for c in doc.weave.cords
        )
        return replace(doc, weave=replace(doc.weave, cords=cords))


class SetCordKind(EditBase):
    kind: Literal["set-cord-kind"] = "set-cord-kind"
    cord: str
    to: str

    def label(self) -> str:
        return f"Make {self.cord} {cord_kind(self.to).words}"

    def apply(self, doc: Document) -> Document:
        _known(doc.weave, self.cord)
        cords = tuple(replace(c, kind=self.to) if c.name == self.cord else c for c in doc.weave.cords)
        made = replace(doc.weave, cords=cords)
        must_read_back(made, f"“{self.to}” cannot be a kind of cord", "Write it such as nylon-4mm")
        return replace(doc, weave=made)


class RenameCord(EditBase):
    """A cord and its two ends under another name: in the hanging, in every step, and in the ties."""

    kind: Literal["rename-cord"] = "rename-cord"
    cord: str
    to: str

    def label(self) -> str:
        return f"Rename {self.cord} to {self.to}"

    def apply(self, doc: Document) -> Document:
        w = doc.weave
        _known(w, self.cord)
        if any(c.name == self.to for c in w.cords):
            raise InputError(f"there is a cord “{self.to}” already", "Choose another name")

        def name(ref: Ref) -> Ref:
            return self._end(ref) if isinstance(ref, str) else ref

        def item(i: Item) -> Item:
            i = with_refs(i, name)
            return replace(i, ends=tuple(self._end(e) for e in i.ends)) if isinstance(i, Add) else i

        def section(s: Section) -> Section:
            return replace(s, items=tuple(item(i) for i in s.items))

        def knot(k: Knot) -> Knot:
            # Places of a knot are names too, and never have a dot: ends are told from them by it.
            return replace(k, steps=tuple(with_refs(s, name) for s in k.steps))  # type: ignore[misc]

        made = replace(
            w,
            cords=tuple(
                replace(
                    c,
                    name=self.to if c.name == self.cord else c.name,
                    joined=self.to if c.joined == self.cord else c.joined,
                )
                for c in w.cords
            ),
            hang=replace(w.hang, ends=tuple(self._end(e) for e in w.hang.ends)),
            sections=tuple(section(s) for s in w.sections),
            knots=tuple(knot(k) for k in w.knots),
        )
        must_read_back(made, f"“{self.to}” cannot be the name of a cord", "Use letters, digits and hyphens")
        ties = tuple(
            t.model_copy(
                update={
                    "readings": tuple(
                        r.model_copy(update={"ends": tuple(self._end(e) for e in r.ends)}) for r in t.readings
                    )
                }
            )
            for t in doc.ties
        )
        return replace(doc, weave=made, ties=ties)

    def _end(self, end: str) -> str:
        cord, dot, which = end.partition(".")
        return f"{self.to}.{which}" if dot and cord == self.cord else end


def _known(weave: Weave, cord: str) -> None:
    if all(c.name != cord for c in weave.cords):
        raise InputError(f"there is no cord “{cord}”", nearest(cord, (c.name for c in weave.cords)))
