"""The one stream of edits that undo, redo, the views, autosave and the journal live off."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal, TypeVar

from dim_ladder.commands.edits import Edit, SetDraft
from dim_ladder.commands.layout import laid_out
from dim_ladder.shelf import Document

T = TypeVar("T")
KEPT = 400  # edits that can be taken back: what a day's work holds, and memory stays as it is


@dataclass(frozen=True, slots=True)
class StreamEntry:
    """One event. number counts from 1 and never goes back; undo and redo are events too."""

    number: int
    what: Literal["do", "undo", "redo"]
    edit: Edit


@dataclass(frozen=True, slots=True)
class _Done:
    edit: Edit
    before: Document
    after: Document


Listener = Callable[[Document, StreamEntry], None]


class History:
    """The present document, what was done and what was undone. Documents are immutable, so undo only looks back."""

    def __init__(self, document: Document) -> None:
        self._document = document
        self._done: list[_Done] = []
        self._undone: list[_Done] = []
        self._count = 0
        self._listeners: list[Listener] = []

    @property
    def document(self) -> Document:
        return self._document

    @property
    def number(self) -> int:
        """Number of the last event; 0 before the first."""
        return self._count

    @property
    def undo_label(self) -> str:
        return self._done[-1].edit.label() if self._done else ""

    @property
    def redo_label(self) -> str:
        return self._undone[-1].edit.label() if self._undone else ""

    def past(self) -> tuple[list[tuple[Document, Edit]], list[Edit]]:
        """What was done, oldest first, each with the document before it; and what can be redone, the next one first."""
        return [(d.before, d.edit) for d in self._done], [d.edit for d in reversed(self._undone)]

    def listen(self, listener: Listener) -> None:
        """Be told of every event, after it."""
        self._listeners.append(listener)

    def do(self, edit: Edit) -> Document:
        """Carry out an edit. Raises InputError and changes nothing when it cannot be carried out."""
        before = self._document
        after = _sharing(edit.apply(before), before)
        if before.layout and after.layout == before.layout and after.weave != before.weave:
            # The person's own layout stays: only the lines that an edit asks for are others.
            after = replace(after, layout=laid_out(before.layout, before.weave, after.weave))
        if after == before:
            return before
        last = self._done[-1] if self._done else None
        if last is not None and _same_stroke(last.edit, edit):
            # Typing in one field is one undo, back to what was there before the first key.
            self._done[-1] = _Done(edit, last.before, after)
        else:
            self._done.append(_Done(edit, before, after))
            del self._done[:-KEPT]
        self._undone.clear()
        self._tell(after, "do", edit)
        return after

    def undo(self) -> Document:
        """Take back the last edit; without one, nothing happens."""
        if self._done:
            entry = self._done.pop()
            self._undone.append(entry)
            self._tell(entry.before, "undo", entry.edit)
        return self._document

    def redo(self) -> Document:
        if self._undone:
            entry = self._undone.pop()
            self._done.append(entry)
            self._tell(entry.after, "redo", entry.edit)
        return self._document

    def _tell(self, document: Document, what: Literal["do", "undo", "redo"], edit: Edit) -> None:
        self._document = document
        self._count += 1
        entry = StreamEntry(self._count, what, edit)
        for listener in self._listeners:
            listener(document, entry)


def _same_stroke(last: Edit, new: Edit) -> bool:
    return isinstance(last, SetDraft) and isinstance(new, SetDraft)


def _sharing(after: Document, before: Document) -> Document:
    """The same document, with the parts that did not change being the very ones of before: a script that is typed is read
    anew as a whole, and each of its hundreds of versions would keep all of it."""
    new, old = after.weave, before.weave
    if new is old:
        return after
    sections = _shared(new.sections, old.sections)
    kept = tuple(
        replace(s, items=_shared(s.items, o.items)) if s is not o and s.name == o.name else s
        for s, o in zip(sections, (*old.sections, *sections), strict=False)
    )
    weave = replace(
        new, sections=kept, knots=_shared(new.knots, old.knots), cords=_shared(new.cords, old.cords)
    )
    return replace(after, weave=old if weave == old else weave)


def _shared(new: tuple[T, ...], old: tuple[T, ...]) -> tuple[T, ...]:
    """`new`, with what stands alike at either end taken from `old`."""
    if new == old:
        return old
    most = min(len(new), len(old))
    start = next((k for k in range(most) if new[k] != old[k]), most)
    end = next((k for k in range(most - start) if new[-1 - k] != old[-1 - k]), most - start)
    return (*old[:start], *new[start : len(new) - end], *old[len(old) - end :])
