"""The journal: replayed it gives the very history; torn, strange or stale it does no harm."""

import random

import pytest

from dim_ladder.base import InputError, WorldError
from dim_ladder.commands import AddItem, History, RemoveItem, SetColour, SetDraft, SetName
from dim_ladder.commands.history import KEPT
from dim_ladder.commands.left import recovered
from dim_ladder.commands.recovery import compact, replayed
from dim_ladder.notation import parse_strict
from dim_ladder.shelf import Document, document_text
from dim_ladder.shelf.journal import Event, Journal, Kept, fingerprint, journal_path, read_journal
from helpers.weaves import TERN

DOC = Document(parse_strict(TERN))


def random_history(seed, steps=60):
    rng = random.Random(seed)
    h = History(DOC)
    for _ in range(steps):
        what = rng.random()
        if what < 0.2:
            h.undo()
        elif what < 0.3:
            h.redo()
        else:
            edit = rng.choice([
                SetName(name=f"N{rng.randint(0, 9)}"), AddItem(section="bar", text="1: over 2", at=0),
                RemoveItem(section="bar", at=rng.randint(0, 3)), SetColour(cord="tide", colour=f"#{rng.randrange(1 << 24):06x}"),
                SetDraft(text=f"weave {rng.randint(0, 3)}"),
            ])  # fmt: skip
            try:
                h.do(edit)
            except InputError:
                continue
    return h


def labels(h):
    """Every state and every word of a history, back to its beginning and forth again."""
    out = []
    while h.undo_label:
        out.append((h.document, h.undo_label))
        h.undo()
    out.append((h.document, ""))
    while h.redo_label:
        out.append((h.document, h.redo_label))
        h.redo()
    return out


@pytest.mark.parametrize("seed", range(10))
def test_written_short_and_replayed_it_is_the_same_history(seed, tmp_path):
    h = random_history(seed)
    path = tmp_path / ".tern.journal"
    text = document_text(h.document)
    base, events = compact(h, text)
    Journal(path, base, events)
    kept = read_journal(path)
    found = replayed(kept, text)
    assert found.unsaved == ()
    assert found.history.document == h.document
    # Going all the way back leaves it at its end again, so both can be compared as they are.
    at = len(h.past()[1])
    for history in (h, found.history):
        for _ in range(at):
            history.redo()
    assert labels(found.history) == labels(h)


def test_what_came_after_the_last_save_is_told(tmp_path):
    h = History(DOC)
    path = tmp_path / "tern.dimladder"
    text = document_text(DOC)
    path.write_text(text)
    journal = Journal(journal_path(path), *compact(h, text))
    for edit in (SetName(name="A"), SetName(name="B")):
        h.do(edit)
        journal.append(Event("do", edit.model_dump_json()))
    journal.append(Event("undo"))
    journal.sync()
    found = recovered(path, text, DOC)
    assert found.unsaved == ("Rename to A", "Rename to B", "Undo: Rename to B")
    assert found.history.document.weave.name == "A"
    assert found.history.redo_label == "Rename to B"
    found.history.undo()
    assert found.history.document == DOC


def test_a_file_changed_by_something_else_has_no_past(tmp_path):
    path = tmp_path / "tern.dimladder"
    text = document_text(DOC)
    h = History(DOC)
    h.do(SetName(name="A"))
    Journal(journal_path(path), *compact(h, document_text(h.document)))
    other = text.replace("Tern Ladder", "Other")
    found = recovered(path, other, DOC)
    assert found.history.undo_label == ""
    assert found.history.document == DOC


def test_torn_or_strange_journals_do_no_harm(tmp_path):
    path = tmp_path / "j"
    h = History(DOC)
    h.do(SetName(name="A"))
    h.do(SetName(name="B"))
    Journal(path, *compact(h, document_text(DOC)))
    whole = path.read_text()
    lines = whole.split("\n")
    path.write_text("\n".join(lines[:2]) + "\n" + lines[2][:20])
    assert [e.what for e in read_journal(path).events] == ["do"]
    for text in ("", "nonsense", '{"journal": 9, "base": ""}', '{"journal": 1}', "[]"):
        path.write_text(text)
        assert read_journal(path) is None
    assert read_journal(tmp_path / "none") is None
    path.write_bytes(b"\xff\xfe")
    assert read_journal(path) is None
    strange = Kept(document_text(DOC), (Event("do", '{"kind": "format-disk"}'),))
    found = replayed(strange, document_text(DOC))
    assert (found.history.document, found.left_out) == (DOC, 1)
    assert replayed(Kept("nonsense", ()), "nonsense") is None


def test_it_stays_short(tmp_path):
    h = History(DOC)
    for k in range(KEPT + 50):
        h.do(SetName(name=f"N{k}"))
    base, events = compact(h, document_text(h.document))
    assert len(events) == KEPT + 1
    found = replayed(Kept(base, events), document_text(h.document))
    assert found.history.document == h.document
    assert len(found.history.past()[0]) == KEPT


def test_a_folder_that_cannot_be_written_is_told(tmp_path):
    with pytest.raises(WorldError, match="no such file or folder"):
        Journal(tmp_path / "none" / "j", "")
    assert fingerprint("a") != fingerprint("b")
