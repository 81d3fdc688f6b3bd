"""A history out of a journal: undo past a restart, and edits that a crash kept from being saved."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from dim_ladder.base import InputError
from dim_ladder.commands.edits import Edit, SetDraft, SetScript, read_edit
from dim_ladder.commands.history import History
from dim_ladder.notation import parse
from dim_ladder.shelf import Document, document_text, read_document_text
from dim_ladder.shelf.journal import TEXTS, Event, Kept, fingerprint

ENDS = "ends "  # in the name of an edit that a form became: the form is empty from then on
TEXT_ROOM = (
    600_000  # characters of scripts, typed one after the other, that are read again at most: about a second
)


@dataclass(frozen=True, slots=True)
class Recovered:
    """unsaved : words of the edits that the file does not hold, oldest first. forms : what was half filled in, by name.
    hung : the program ended while it opened this. left_out : edits that could not be carried out any more. stranded : what a
    journal holds that was never saved, and that fits the file no more."""

    history: History
    unsaved: tuple[str, ...] = ()
    forms: dict[str, str] = field(default_factory=dict)
    hung: bool = False
    left_out: int = 0
    stranded: Document | None = None


def typed_edit(text: str) -> Edit:
    """What stands in the script pane, as an edit: the weave where it can be read, else a draft of it."""
    return SetDraft(text=text) if parse(text).problems else SetScript(text=text)


def edit_event(edit: Edit) -> Event:
    """An edit for the journal; one that is nothing but a script is told by its text."""
    if isinstance(edit, SetScript | SetDraft):
        return Event("do", edit.text, edit.kind)
    return Event("do", edit.model_dump_json())


def _edit(event: Event) -> Edit:
    if event.name == "set-script":
        return SetScript(text=event.text)
    if event.name == "set-draft":
        return SetDraft(text=event.text)
    return read_edit(event.text)


def replayed(kept: Kept, text: str | None) -> Recovered | None:
    """The journal's edits carried out anew; None where they do not lead to what the file holds (`text`). Without a text, what
    the journal holds by itself, unsaved as far as it came after the last save."""
    try:
        history = History(read_document_text(kept.base, "the journal"))
    except InputError:
        return None
    mark = fingerprint(text) if text is not None else ""
    at = 0 if text is None or fingerprint(kept.base) == mark else -1
    words: list[tuple[int, str]] = []
    forms: dict[str, str] = {}
    pane: str | None = None  # typed, and no edit yet
    hung = False
    left_out = 0
    for n, event in enumerate(_thinned(kept.events), 1):
        if event.what == "saved":
            at = n if text is None or event.text == mark else at
        elif event.what == "form":
            forms[event.name] = event.text
        elif event.what in ("opening", "opened"):
            hung = event.what == "opening"
        elif event.what == "typed":
            pane = event.text
        else:
            pane = None
            try:
                words.append((n, _carry_out(history, event)))
                if event.name.startswith(ENDS):
                    forms.pop(event.name.removeprefix(ENDS), None)
            except InputError:
                left_out = sum(e.what in ("do", "undo", "redo") for e in kept.events[n - 1 :])
                break
    if at < 0:  # the file was changed by something else
        return None
    if pane is not None:
        before = history.document
        edit = typed_edit(pane)
        if history.do(edit) is not before:
            words.append((len(kept.events) + 1, edit.label()))
    return Recovered(
        history, tuple(w for n, w in words if n > at), {k: v for k, v in forms.items() if v}, hung, left_out
    )


def _carry_out(history: History, event: Event) -> str:
    """Raises InputError, and changes nothing."""
    if event.what == "undo":
        label = history.undo_label
        history.undo()
        return f"Undo: {label}"
    if event.what == "redo":
        label = history.redo_label
        history.redo()
        return f"Redo: {label}"
    edit = _edit(event)
    history.do(edit)
    return edit.label()


def _thinned(events: Sequence[Event]) -> tuple[Event, ...]:
    """Without the older ones of scripts that were typed one right after the other, where reading all of them again would
    keep the person waiting: undo then goes back over several at once."""
    room = TEXT_ROOM
    out: list[Event] = []
    after: Event | None = None  # the next one that changes the document
    for event in reversed(events):
        script = event.what == "do" and event.name in TEXTS
        if script:
            room -= len(event.text)
            if room < 0 and after is not None and after.what == "do" and after.name in TEXTS:
                continue
        if event.what in ("do", "undo", "redo", "saved"):
            after = event
        out.append(event)
    return tuple(reversed(out))


def compact(
    history: History, saved_text: str, forms: dict[str, str] | None = None
) -> tuple[str, tuple[Event, ...]]:
    """The base and events of a new journal that says the same in short: the last edits, and what can be redone.

    saved_text : what the document's file holds, "" where it has none.
    """
    done, undone = history.past()
    start = done[0][0] if done else history.document
    events = _thinned([edit_event(edit) for _, edit in done])
    events += tuple(edit_event(edit) for edit in undone)
    events += (Event("undo"),) * len(undone)
    events += tuple(Event("form", text, name) for name, text in (forms or {}).items() if text)
    return document_text(start), (*events, Event("saved", fingerprint(saved_text)))


def apart(document: Document, other: Document | None, text: str) -> str:
    """What is different in what stands on the disk (`text`, read as `other` where it can be read), line by line: - is what
    this window holds, + is what the file holds."""
    import difflib

    mine = document.script.splitlines() if other is not None else document_text(document).splitlines()
    theirs = other.script.splitlines() if other is not None else text[:200_000].splitlines()
    lines = list(difflib.unified_diff(mine, theirs, "this window", "the file", lineterm="", n=1))[2:]
    lines = ["…" if line.startswith("@@") else line for line in lines]
    if other is not None:
        lines += [
            f"{sign} test tie {t.id}"
            for sign, here, there in (("-", document.ties, other.ties), ("+", other.ties, document.ties))
            for t in here
            if t not in there
        ]
        lines += ["± the size asked for"] if document.plan != other.plan else []
        lines += ["± the sheet"] if document.sheet != other.sheet else []
    return "\n".join(lines[:400]) or "Nothing that shows: only how the file is laid out"
