"""A history out of a journal: undo past a restart, and edits that a crash kept from being saved."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from dim_ladder.base import InputError
from dim_ladder.commands.edits import read_edit
from dim_ladder.commands.history import History
from dim_ladder.shelf import Document, document_text, read_document_text
from dim_ladder.shelf.journal import Event, Kept, fingerprint, journal_path, read_journal

MOST = 300  # edits that are kept past a restart


@dataclass(frozen=True, slots=True)
class Recovered:
    """unsaved : words of the edits that the file does not hold, oldest first."""

    history: History
    unsaved: tuple[str, ...]


def recovered(path: Path, text: str, document: Document) -> Recovered:
    """The history of a document whose file holds `text`; one without a past where the journal does not fit it."""
    kept = read_journal(journal_path(path))
    found = replayed(kept, text) if kept is not None else None
    return found or Recovered(History(document), ())


def replayed(kept: Kept, text: str) -> Recovered | None:
    """The journal's edits carried out anew; None where they do not lead to what the file holds."""
    try:
        history = History(read_document_text(kept.base, "the journal"))
        at = 0 if fingerprint(kept.base) == fingerprint(text) else -1
        words: list[tuple[int, str]] = []
        for n, event in enumerate(kept.events, 1):
            if event.what == "saved":
                if event.text == fingerprint(text):
                    at = n
                continue
            if event.what == "do":
                edit = read_edit(event.text)
                history.do(edit)
                words.append((n, edit.label()))
            elif event.what == "undo":
                words.append((n, f"Undo: {history.undo_label}"))
                history.undo()
            else:
                words.append((n, f"Redo: {history.redo_label}"))
                history.redo()
    except InputError:
        return None
    if at < 0:  # the file was changed by something else
        return None
    return Recovered(history, tuple(w for n, w in words if n > at))


def compact(history: History, saved_text: str) -> tuple[str, tuple[Event, ...]]:
    """The base and events of a new journal that says the same in short: the last edits, and what can be redone.

    saved_text : what the document's file holds, "" where it has none.
    """
    done, undone = history.past()
    done = done[-MOST:]
    start = done[0][0] if done else history.document
    events = [Event("do", edit.model_dump_json()) for _, edit in done]
    events += [Event("do", edit.model_dump_json()) for edit in undone]
    events += [Event("undo")] * len(undone)
    events.append(Event("saved", fingerprint(saved_text)))
    return document_text(start), tuple(events)
