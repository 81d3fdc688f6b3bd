"""Two windows, a file changed by something else, a folder that goes: told, and nothing is overwritten or lost."""

import json
import os

import pytest

from dim_ladder.app.compare import LATER, MINE, THEIRS, CompareDialog
from dim_ladder.base import InputError, WorldError
from dim_ladder.base.disk import ReadOnlyFile
from dim_ladder.calibrate import ties_to_csv
from dim_ladder.commands import SetColour, SetName, SetScript
from dim_ladder.commands.left import away_path
from dim_ladder.publish.travel import travelling_weave
from dim_ladder.shelf import document_text, read_document
from dim_ladder.shelf.journal import journal_path, read_journal
from dim_ladder.shelf.workshop import make_demo
from helpers.crash import crashed


@pytest.fixture
def path(tmp_path):
    return make_demo(tmp_path / "w")


def last(session):
    return next(w for w in reversed(session.words) if w)


# -- two windows ---------------------------------------------------------------------------------------


def test_the_second_window_only_looks_until_the_first_is_gone(sessions, path):
    first, second = sessions(path), sessions(path)
    assert "To look at only: another window of yours" in last(second)
    assert str(os.getpid()) in last(second)
    assert not second.do(SetName(name="B"))
    assert second.weave.name == "Tern Ladder"
    second.undo()
    second.redo()
    before = journal_path(path).read_bytes()
    second.settle()
    second.custody.keeper.form("tie", "x")
    second.custody.keeper.typed("x")
    with pytest.raises(WorldError, match="open elsewhere"):
        second.save()
    assert journal_path(path).read_bytes() == before
    assert first.do(SetName(name="A"))
    assert not second.take_over()
    second.custody.look()
    assert "Nobody else" not in last(second)
    first.close()
    assert read_document(path).weave.name == "A"
    second.custody.look()
    assert "Nobody else has this weave open any more" in last(second)
    assert second.take_over()
    assert second.weave.name == "A"  # what the first one saved, not what was read before
    assert second.do(SetName(name="B"))
    second.close()
    assert read_document(path).weave.name == "B"


def test_a_copy_can_be_saved_from_a_window_that_only_looks(sessions, path, tmp_path):
    sessions(path)
    second = sessions(path)
    second.save(tmp_path / "copy.dimladder")
    assert second.do(SetName(name="Copy"))
    second.settle()
    assert read_document(tmp_path / "copy.dimladder").weave.name == "Copy"
    assert read_document(path).weave.name == "Tern Ladder"


def test_saving_over_a_weave_that_is_open_elsewhere_is_refused(sessions, path, tmp_path):
    sessions(path)
    second = sessions()
    second.do(SetName(name="Mine"))
    with pytest.raises(WorldError, match="open elsewhere"):
        second.save(path)
    assert read_document(path).weave.name == "Tern Ladder"
    second.save(tmp_path / "else.dimladder")


# -- changed by something else ---------------------------------------------------------------------------


def changed(path, **fields):
    data = json.loads(path.read_text("utf-8")) | fields
    path.write_text(json.dumps(data), "utf-8")


def test_a_file_changed_by_something_else_is_never_overwritten(sessions, path):
    s = sessions(path)
    theirs = path.read_text("utf-8").replace("Tern Ladder", "Theirs")
    path.write_text(theirs, "utf-8")
    s.do(SetName(name="Mine"))
    s.settle()
    assert path.read_text("utf-8") == theirs
    assert "was changed by something else" in last(s)
    assert "Ctrl+Shift+D" in last(s)
    assert s.unsaved
    shown = s.custody.apart(s.custody.other())
    assert '-weave "Mine"' in shown
    assert '+weave "Theirs"' in shown
    aside = s.custody.keep_mine()
    assert read_document(path).weave.name == "Mine"
    assert aside.read_text("utf-8") == theirs
    s.do(SetName(name="Mine still"))
    s.settle()
    assert read_document(path).weave.name == "Mine still"


def test_taking_what_the_file_holds_can_be_undone(sessions, path):
    s = sessions(path)
    s.do(SetName(name="Mine"))
    s.settle()
    path.write_text(path.read_text("utf-8").replace("Mine", "Theirs"), "utf-8")
    s.custody.look()
    assert "was changed by something else" in last(s)
    s.custody.take_theirs(s.custody.other(), s.do)
    assert s.weave.name == "Theirs"
    s.undo()
    assert s.weave.name == "Mine"
    s.settle()
    assert read_document(path).weave.name == "Mine"


def test_touching_a_file_or_saving_it_as_it_was_is_no_change(sessions, path):
    s = sessions(path)
    os.utime(path, (1, 1))
    s.custody.look()
    path.write_bytes(path.read_bytes())
    s.custody.look()
    assert not s.custody.conflict
    s.do(SetName(name="Mine"))
    s.settle()
    assert read_document(path).weave.name == "Mine"


def test_a_file_raised_to_a_newer_version_while_it_is_open_stays(sessions, path):
    s = sessions(path)
    changed(path, version=99)
    newer = path.read_bytes()
    s.do(SetName(name="Mine"))
    s.settle()
    assert path.read_bytes() == newer
    other = s.custody.other()
    assert other.document is None
    assert "newer Dim Ladder" in other.why
    aside = s.custody.keep_mine()
    assert aside.read_bytes() == newer
    assert read_document(path).weave.name == "Mine"


@pytest.mark.parametrize(("choice", "name"), [(MINE, "Mine"), (THEIRS, "Theirs"), (LATER, "Theirs")])
def test_the_window_shows_what_is_different_and_does_what_is_chosen(window, monkeypatch, choice, name):
    path = window.session.path
    window.run("file.compare")
    assert "holds what this window" in window.message_text.text()
    path.write_text(path.read_text("utf-8").replace("Tern Ladder", "Theirs"), "utf-8")
    window.session.do(SetName(name="Mine"))
    window.session.settle()
    assert window.saved_words.text() == "changed elsewhere: Ctrl+Shift+D"
    asked = []

    def choose(dialog):
        assert isinstance(dialog, CompareDialog)
        asked.append(dialog)
        return choice

    monkeypatch.setattr(window.filing, "choose", choose)
    window.run("file.compare")
    assert len(asked) == 1
    window.session.settle()
    assert read_document(path).weave.name == name
    assert window.session.weave.name == ("Theirs" if choice == THEIRS else "Mine")


# -- the folder --------------------------------------------------------------------------------------------


def test_a_vanished_folder_loses_nothing_and_is_used_again_when_it_is_back(sessions, path, tmp_path):
    s = sessions(path)
    path.parent.rename(tmp_path / "gone")
    s.do(SetName(name="A"))
    s.settle()
    assert "Your work is safe in this window, and every change is kept in" in last(s)
    assert [e.what for e in read_journal(away_path(path)).events].count("do") == 1
    s.do(SetName(name="B"))
    # Killed here, it is back from the state folder alone.
    other = sessions()
    kept = away_path(path).read_text("utf-8")
    assert "Rename" not in kept
    assert '\\"B\\"' in kept
    (tmp_path / "gone").rename(path.parent)
    s.custody.look()
    assert last(s) == "Saved: the folder takes it again"
    assert read_document(path).weave.name == "B"
    assert not away_path(path).exists()
    assert journal_path(path).exists()
    assert not other.recover()


def test_a_weave_whose_folder_is_gone_for_good_is_offered(sessions, path, tmp_path):
    s = sessions(path)
    path.parent.rename(tmp_path / "gone")
    s.do(SetName(name="A"))
    s.settle()
    s.custody.keeper.end()  # as a crash would leave it
    fresh = sessions()
    assert fresh.recover()
    assert fresh.weave.name == "A"
    assert "whose file" in last(fresh)
    fresh.save(tmp_path / "again.dimladder")
    assert read_document(tmp_path / "again.dimladder").weave.name == "A"
    assert not sessions().recover()


def test_edits_kept_elsewhere_are_back_when_the_file_is_opened_again(sessions, path):
    blocked = journal_path(path)
    blocked.mkdir()
    s = sessions(path)
    s.do(SetName(name="A"))
    crashed(s)
    again = sessions(path)
    assert again.weave.name == "A"
    assert "One edit was not saved" in " ".join(again.words)


def test_a_read_only_file_is_written_over_only_when_the_person_says_so(window, monkeypatch):
    path = window.session.path
    path.chmod(0o444)
    window.session.do(SetName(name="A"))
    window.session.settle()
    assert read_document(path).weave.name == "Tern Ladder"
    assert "marked read-only" in window.message_text.text()
    asked = []
    monkeypatch.setattr(window.filing, "ask", lambda q, yes, no="": (asked.append(q), False)[1])
    window.run("file.save")
    assert read_document(path).weave.name == "Tern Ladder"
    monkeypatch.setattr(window.filing, "ask", lambda q, yes, no="": (asked.append(q), True)[1])
    window.run("file.save")
    assert len(asked) == 2
    assert "Write over it all the same?" in asked[0]
    assert read_document(path).weave.name == "A"
    assert path.stat().st_mode & 0o777 == 0o444


def test_a_deleted_file_is_written_again(sessions, path):
    s = sessions(path)
    path.unlink()
    s.do(SetName(name="A"))
    s.settle()
    assert read_document(path).weave.name == "A"


def test_a_journal_deleted_while_open_comes_back_whole(sessions, path):
    s = sessions(path)
    s.do(SetName(name="A"))
    journal_path(path).unlink()
    s.do(SetName(name="B"))
    kept = read_journal(journal_path(path))
    assert kept is not None
    s.do(SetName(name="C"))
    crashed(s)
    again = sessions(path)
    assert again.weave.name == "C"
    again.undo()
    again.undo()
    assert again.weave.name == "A"


# -- what comes with a folder from somebody else ---------------------------------------------------------------


def test_a_received_folder_cannot_make_the_program_write_elsewhere(sessions, path, tmp_path):
    victim = tmp_path / "start-up"
    victim.write_text("mine")
    for name in (
        f".{path.name}.journal",
        f".{path.name}.journal.part",
        f".{path.name}.lock",
        f".{path.name}.part",
    ):
        (path.parent / name).symlink_to(victim)
    s = sessions(path)
    s.do(SetName(name="A"))
    s.custody.keeper.typed("rm -rf")
    s.settle()
    s.close()
    assert victim.read_text() == "mine"
    assert read_document(path).weave.name == "A"


def test_a_document_behind_a_link_of_ones_own_is_written_where_it_lies(sessions, path, tmp_path):
    link = tmp_path / "link.dimladder"
    link.symlink_to(path)
    s = sessions(link)
    s.do(SetName(name="A"))
    s.settle()
    assert link.is_symlink()
    assert read_document(path).weave.name == "A"
    victim = tmp_path / "start-up"
    victim.write_text("mine")
    trap = tmp_path / "trap.dimladder"
    trap.symlink_to(victim)
    with pytest.raises(WorldError, match=r"which is no \.dimladder file"):
        s.save(trap)
    dangling = tmp_path / "dangling.dimladder"
    dangling.symlink_to(tmp_path / "autostart")
    with pytest.raises(WorldError, match="which is no"):
        s.save(dangling)
    assert victim.read_text() == "mine"


# -- weaves in no file -----------------------------------------------------------------------------------------


def test_every_weave_in_no_file_is_offered_and_none_hides_another(sessions, tmp_path):
    names = ("One", "Two", "Three")
    for name in names:
        s = sessions()
        s.do(SetName(name=name))
        s.custody.keeper.end()  # as a crash would leave it
    open_one = sessions()
    open_one.do(SetName(name="Open"))
    fresh = sessions()
    found = fresh.custody.leftovers()
    assert sorted(x.words for x in found) == sorted(names)  # not the one that is open
    assert len(list((tmp_path / "state").glob("unsaved-*.journal"))) == 4
    assert fresh.recover()
    assert "2 more weaves found" in last(fresh)
    assert len(fresh.custody.leftovers()) == 2
    assert fresh.recover(fresh.custody.leftovers()[0])
    # The one that was left without a file is still to be had.
    assert len(fresh.custody.leftovers()) == 2


def test_the_same_process_number_again_overwrites_nothing(sessions, tmp_path, monkeypatch):
    monkeypatch.setattr(os, "getpid", lambda: 7)
    for name in ("One", "Two"):
        s = sessions()
        s.do(SetName(name=name))
        s.custody.keeper.end()
    assert sorted(x.words for x in sessions().custody.leftovers()) == ["One", "Two"]


def test_journals_of_the_older_kind_are_found_too(sessions, tmp_path):
    state = tmp_path / "state"
    state.mkdir(exist_ok=True)
    s = sessions()
    base = document_text(s.document)
    edit = SetName(name="Old").model_dump_json()
    lines = [json.dumps({"journal": 1, "base": base}), json.dumps({"what": "do", "text": edit})]
    (state / f"unsaved-{os.getpid()}.journal").write_text("\n".join(lines) + "\n")  # whose number runs
    assert s.recover()
    assert s.weave.name == "Old"


# -- what hangs, and what is half done -------------------------------------------------------------------------


def test_a_weave_the_program_ended_with_while_opening_it_is_offered_without_its_last_step(sessions, path):
    s = sessions(path)
    s.do(SetName(name="A"))
    s.do(SetScript(text=s.document.script + "\n-- the last step\n"))
    crashed(s)
    raw = journal_path(path).read_text("utf-8") + '{"what": "opening"}\n'
    journal_path(path).write_text(raw, "utf-8")
    again = sessions()
    asked = []
    again.custody.ask = lambda q: (asked.append(q), True)[1]
    again.open(path)
    assert "ended while it was opening" in asked[0]
    assert "Edit script" in asked[0]
    assert again.weave.name == "A"
    assert "the last step" not in again.document.script


def test_typing_outlives_the_program(sessions, path):
    s = sessions(path)
    text = s.document.script
    size = journal_path(path).stat().st_size
    for n in range(1, 30):
        s.custody.keeper.typed(text + "-- a note that is being typed"[:n])
    assert journal_path(path).stat().st_size < size + len(text) + 29 * 60  # keys, not whole scripts
    s.custody.keeper.end()
    s.custody.paper.leave()
    again = sessions(path)
    assert again.document.script == text + "-- a note that is being typed"
    assert "Edit script" in " ".join(again.words)
    again.undo()
    assert again.document.script == text


def test_a_published_sheet_opens_as_a_weave(sessions, path, tmp_path):
    from dim_ladder.commands.sheets import write_sheet

    page = write_sheet(read_document(path), tmp_path, ["html"])[0]
    with page.open("ab") as f:
        f.truncate(page.stat().st_size + 30_000_000)  # larger than any document may be
    s = sessions(page)
    assert s.weave == travelling_weave(read_document(path).weave, ())
    assert s.path is None
    assert "Ctrl+S keeps it" in last(s)
    page.write_text("<html>")
    with pytest.raises(InputError, match="carries no Dim Ladder document"):
        s.open(page)


def test_saving_as_a_read_only_file_says_so(sessions, path, tmp_path):
    other = tmp_path / "other.dimladder"
    other.write_text("x")
    other.chmod(0o444)
    s = sessions(path)
    with pytest.raises(ReadOnlyFile):
        s.save(other)
    assert s.path == path
    assert s.do(SetColour(cord="tide", colour="#123456"))
    s.settle()
    assert read_document(path).weave.cords[0].colour == "#123456"


def test_edits_that_no_longer_fit_their_file_are_kept_beside_it(sessions, path):
    s = sessions(path)
    s.do(SetName(name="Never saved"))
    s.custody.keeper.form("tie", "{}")
    crashed(s)
    path.write_text(path.read_text("utf-8").replace("Tern Ladder", "Theirs"), "utf-8")
    again = sessions(path)
    assert again.weave.name == "Theirs"
    assert again.custody.keeper.forms == {"tie": "{}"}
    assert "Edits of it that were never saved are kept in" in last(again)
    (aside,) = path.parent.glob("tern-ladder (never saved *).dimladder")
    assert read_document(aside).weave.name == "Never saved"
    again.close()
    sessions(path)
    assert len(list(path.parent.glob("*never saved*"))) == 1


def test_a_sheet_is_not_published_while_the_script_has_a_slip(window, tmp_path):
    sheet = window.screen_of("view.sheet")
    window.record.script.setPlainText(window.session.document.script.replace("over c", "ovr c"))
    window.flush()
    sheet.publish(tmp_path / "out")
    assert "The script has a slip" in window.message_text.text()
    assert not (tmp_path / "out").exists()


@pytest.mark.parametrize(
    ("how", "many", "units"), [("replace", 2, 9), ("keep", 2, 6), ("both", 3, 6), (None, 2, 6)]
)
def test_ties_of_the_same_names_are_asked_about(window, tmp_path, monkeypatch, how, many, units):
    table = tmp_path / "ties.csv"
    here = window.session.document.ties
    first = here[0].model_copy(update={"counts": {"bar": 9}})
    table.write_text(ties_to_csv((first, here[1])), "utf-8")
    asked = []
    monkeypatch.setattr(window.filing, "choose_how", lambda found: (asked.append(found.question), how)[1])
    before = len(here)
    window.filing.import_ties(table)
    assert "has a name that other ties have here" in asked[0]
    ties = window.session.document.ties
    assert len(ties) - before == many - 2
    assert ties[0].counts["bar"] == (units if how == "replace" else here[0].counts["bar"])
    assert ("were here already" in window.message_text.text()) == (how is not None)


def test_a_full_disk_is_survived(sessions, path, monkeypatch):
    """Half a line fits: what came before it is there again, and so is what comes after."""
    s = sessions(path)
    s.do(SetName(name="A"))
    real = os.write
    full = [True]

    def write(fd, raw):
        return (
            real(fd, raw[: len(raw) // 2]) if full[0] and raw.startswith(b'{"what": "do"') else real(fd, raw)
        )

    monkeypatch.setattr(os, "write", write)
    s.do(SetName(name="B"))
    full[0] = False
    s.do(SetName(name="C"))
    crashed(s)
    again = sessions(path)
    assert again.weave.name == "C"
    again.undo()
    assert again.weave.name == "B"
    again.undo()
    assert again.weave.name == "A"


def test_the_journal_is_written_anew_in_short_while_it_is_worked_on(sessions, path, qtbot, monkeypatch):
    from dim_ladder.shelf import journal as journals

    monkeypatch.setattr(journals, "GROWN_LINES", 100)
    s = sessions(path)
    for n in range(950):
        s.do(SetName(name=f"N{n}") if n % 3 else SetScript(text=s.document.script + f"-- {n}\n"))
        if n % 10 == 0:
            qtbot.wait(1)
    qtbot.waitUntil(lambda: not s.jobs.busy)
    s.do(SetName(name="last"))
    s.custody.keeper.typed(s.document.script + "-- half a rem")
    assert len(journal_path(path).read_text("utf-8").splitlines()) < 400 + 2 * 100 + 10
    crashed(s)
    again = sessions(path)
    assert again.document.script.endswith("-- half a rem")
    again.undo()
    assert again.weave.name == "last"
    assert len(again.history.past()[0]) > 100
    assert [p.name for p in path.parent.iterdir() if p.suffix == ".part"] == []


def test_a_weave_in_no_file_that_hung_is_offered_without_its_last_step(sessions, tmp_path):
    s = sessions()
    s.do(SetName(name="A"))
    s.do(SetName(name="B"))
    s.custody.keeper.end()
    (journal,) = (tmp_path / "state").glob("unsaved-*.journal")
    journal.write_text(journal.read_text("utf-8") + '{"what": "opening"}\n', "utf-8")
    again = sessions()
    asked = []
    again.custody.ask = lambda q: (asked.append(q), True)[1]
    assert again.recover()
    assert "Open it without its last step?" in asked[0]
    assert again.weave.name == "A"


def test_a_document_and_a_link_to_it_have_one_journal(sessions, path, tmp_path):
    link = tmp_path / "link.dimladder"
    link.symlink_to(path)
    s = sessions(link)
    s.do(SetName(name="A"))
    crashed(s)
    assert sessions(path).weave.name == "A"
    assert not list(tmp_path.glob(".link*"))


@pytest.mark.parametrize("what", ["shortened", "deleted", "elsewhere"])
def test_typing_is_kept_whatever_becomes_of_the_journal(sessions, path, what, monkeypatch, qtbot, tmp_path):
    """The last key was shown; then the journal is written anew for another reason, and the program ends."""
    from dim_ladder.shelf import journal as journals

    s = sessions(path)
    text = s.document.script
    s.custody.keeper.typed(text + "-- half a rem")
    if what == "shortened":
        monkeypatch.setattr(journals, "GROWN_LINES", 0)
    elif what == "deleted":
        journal_path(path).unlink()
    else:
        journal_path(path).unlink()
        journal_path(path).mkdir()
    s.custody.keeper.form("tie", "{}")
    qtbot.waitUntil(lambda: not s.jobs.busy)
    assert ("away-" in "".join(p.name for p in (tmp_path / "state").iterdir())) == (what == "elsewhere")
    crashed(s)
    again = sessions(path)
    assert again.document.script == text + "-- half a rem"
    assert again.custody.keeper.forms == {"tie": "{}"}
