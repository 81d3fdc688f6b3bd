"""The window around the screens: actions, search, saving, trouble with the disk, looks at every size."""

import pytest
from PySide6 import QtWidgets as module
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QFontInfo
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLabel, QLineEdit, QPushButton

from dim_ladder.app.keysheet import KeySheet
from dim_ladder.app.palette import ActionSearch
from dim_ladder.app.settings import load_settings
from dim_ladder.app.theme import theme
from dim_ladder.app.window import MID_STEP
from dim_ladder.base import InputError
from dim_ladder.commands import ACTIONS, AddItem, SetName
from dim_ladder.publish.typeface import FAMILY, MONO_FAMILY
from dim_ladder.shelf import read_document

STAGES = ("view.hang", "view.record", "view.look", "view.tie", "view.cut", "view.sheet")


def test_every_action_of_the_table_has_a_handler_and_a_place(window):
    assert set(window.handlers) == {a.id for a in ACTIONS}
    menus = {m.text(): [x.toolTip() for x in m.menu().actions()] for m in window.menuBar().actions()}
    for a in ACTIONS:
        if a.menu:
            assert any(t.startswith(a.does) for t in menus[a.menu])
            assert window.actions_by_id[a.id].shortcut().toString() == a.shortcut.replace("Return", "Return")


def test_the_search_finds_and_runs_any_action(window, qtbot):
    ran = []
    search = ActionSearch(ran.append, window.enabled, window.session.keys, window)
    qtbot.addWidget(search)
    assert search.list.count() == len(ACTIONS)
    search.edit.setText("whole units")
    assert search.list.count() == 1
    QTest.keyClick(search.edit, Qt.Key.Key_Return)
    assert ran == ["view.cut"]
    search.edit.setText("rest the end")  # needs an end in hand
    QTest.keyClick(search.edit, Qt.Key.Key_Return)
    assert ran == ["view.cut"]
    search.edit.setText("")
    QTest.keyClick(search.edit, Qt.Key.Key_Down)
    assert search.list.currentRow() == 1


def test_the_sheet_of_keys_names_every_action_and_finds_by_words(window, qtbot):
    sheet = KeySheet(window.session.keys, window.session.set_keys, window)
    qtbot.addWidget(sheet)
    for a in ACTIONS:
        row = sheet.row_of(a.id)
        assert (row.text(0), row.text(1), row.text(2)) == (a.shortcut or "–", a.text, a.does)
    sheet.search.setText("mirror unit")
    assert [r.text(1) for r in sheet.rows() if not r.isHidden()] == ["Mirror the unit"]
    assert not sheet.grab().isNull()


def test_stages_by_key_and_by_bead(window, qtbot):
    for key, stage in zip("H15234", STAGES, strict=True):
        QTest.keyClick(window, getattr(Qt.Key, f"Key_{key}"), Qt.KeyboardModifier.ControlModifier)
        assert window.stack.currentWidget() is window._stages[stage]
    line = window.cord_line
    QTest.mouseClick(line, Qt.MouseButton.LeftButton, pos=line.centre(1).toPoint())
    assert window.stack.currentWidget() is window.record
    QTest.keyClick(line, Qt.Key.Key_Right)
    assert window.stack.currentWidget() is window._stages["view.look"]


def test_shipped_fonts_are_used(window, qapp):
    from dim_ladder.app.theme import mono

    assert QFontInfo(qapp.font()).family() == FAMILY
    assert QFontInfo(mono()).family() == MONO_FAMILY


# -- files ----------------------------------------------------------------------------------------


def test_edits_save_themselves(window, qtbot):
    path = window.session.path
    window.session.do(SetName(name="Sluice Bar"))
    assert window.saved_words.text() == "saving…"
    qtbot.waitUntil(lambda: not window.session.unsaved)
    assert read_document(path).weave.name == "Sluice Bar"
    assert window.saved_words.text().startswith("saved")


def test_an_unwritable_folder_is_told_and_nothing_is_lost(window, qtbot, tmp_path):
    path = window.session.path
    path.unlink()
    path.parent.rename(tmp_path / "gone")
    window.session.do(SetName(name="Sluice Bar"))
    qtbot.waitUntil(lambda: window.session.custody.save_trouble != "")
    assert "Your work is safe in this window" in window.message_text.text()
    assert window.saved_words.text() == "not saved"
    assert window.session.weave.name == "Sluice Bar"
    other = tmp_path / "other.dimladder"
    window.session.save(other)
    assert read_document(other).weave.name == "Sluice Bar"
    assert window.session.custody.save_trouble == ""


def test_a_broken_document_is_refused_and_the_open_weave_stays(window, tmp_path):
    broken = tmp_path / "broken.dimladder"
    broken.write_text('{"format": "dim-ladder-weave", "version": 7}', "utf-8")
    with pytest.raises(InputError, match="newer Dim Ladder"):
        window.open_path(broken)
    assert window.session.weave.name == "Tern Ladder"
    drop(window, broken)
    assert "newer Dim Ladder" in window.message_text.text()
    assert window.session.weave.name == "Tern Ladder"


def drop(window, path):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    event = QDropEvent(
        QPointF(5, 5),
        Qt.DropAction.CopyAction,
        data,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    window.dropEvent(event)


def test_a_dropped_script_opens_as_a_new_weave(window, tmp_path, settled):
    script = tmp_path / "reed.weave"
    script.write_text(
        'weave "Reed"\ncords\n t nylon-4mm #112233\nhang\n t.a t.b\nsection s: body, fit\n 1: over 2\n',
        "utf-8",
    )
    drop(window, script)
    settled(window)
    assert window.session.weave.name == "Reed"
    assert window.session.path is None


def test_save_as_writes_documents_and_scripts(window, tmp_path, monkeypatch):
    for name, suffix in (("copy", ".dimladder"), ("script.weave", ".weave")):
        monkeypatch.setattr(
            module.QFileDialog, "getSaveFileName", lambda *a, n=name, **k: (str(tmp_path / n), "")
        )
        window.run("file.save-as")
        (found,) = tmp_path.glob(f"{name.split('.')[0]}*")
        assert found.suffix == suffix
        assert read_document(found).weave == window.session.weave
    assert window.session.path.name == "copy.dimladder"  # a script alone does not become the weave's file


def test_new_and_reopen_keep_what_was_typed(window, settled):
    path = window.session.path
    script = window.record.script
    script.setPlainText(script.toPlainText().replace("Tern Ladder", "Reed Hurdle"))
    window.run("file.new")  # before the pane's own pause is over
    settled(window)
    assert window.session.weave.name == "New weave"
    window.open_path(path)
    assert window.session.weave.name == "Reed Hurdle"


def test_rename(window, monkeypatch):
    monkeypatch.setattr(module.QInputDialog, "getText", lambda *a, **k: ('The "new" one', True))
    window.run("edit.rename")
    assert window.session.weave.name == "The ”new” one"
    assert window.title.text() == "The ”new” one"


def test_leaving_with_unsaved_work_asks(window, monkeypatch):
    asked = []
    monkeypatch.setattr(window.filing, "_may_leave", lambda: asked.append(1) and False)
    window.run("file.new")
    window.session.do(SetName(name="Not in a file"))
    assert window.close() is False
    assert asked == [1]
    assert window.isVisible()


def test_another_weave_does_not_drop_work_without_a_file(window, monkeypatch, tmp_path):
    first = window.session.path
    window.run("file.new")
    window.session.do(SetName(name="Not in a file"))
    monkeypatch.setattr(window.filing, "_may_leave", lambda: False)
    window.run("file.new")
    drop(window, first)
    assert window.session.weave.name == "Not in a file"
    monkeypatch.setattr(window.filing, "_may_leave", lambda: True)
    drop(window, first)
    assert window.session.weave.name == "Tern Ladder"


def test_the_question_before_leaving_saves_or_stays(window, monkeypatch, tmp_path):
    """The real question, answered by its buttons."""
    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication, QMessageBox

    window.run("file.new")
    window.session.do(SetName(name="Kept"))

    def answer(text):
        def press():
            box = QApplication.activeModalWidget()
            if box is None:  # not asked yet
                QTimer.singleShot(30, press)
                return
            assert isinstance(box, QMessageBox)
            assert "Kept" in box.text()
            next(b for b in box.buttons() if b.text().replace("&", "") == text).click()

        QTimer.singleShot(30, press)

    answer("Stay")
    assert window.filing.may_switch() is False
    answer("Leave without it")
    assert window.filing.may_switch() is True
    path = tmp_path / "kept.dimladder"
    monkeypatch.setattr(module.QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    answer("Save…")
    assert window.filing.may_switch() is True
    assert read_document(path).weave.name == "Kept"


def test_undo_is_named_in_the_menu(window):
    undo = window.actions_by_id["edit.undo"]
    assert not undo.isEnabled()
    window.session.do(SetName(name="Sluice Bar"))
    assert undo.text() == "Undo: Rename to Sluice Bar"
    assert undo.isEnabled()


def children(widget, *kinds):
    return [w for kind in kinds for w in widget.findChildren(kind)]


# -- looks ----------------------------------------------------------------------------------------


@pytest.mark.parametrize("size", [(1024, 700), (1280, 800), (1920, 1080)])
@pytest.mark.parametrize("stage", STAGES)
def test_nothing_is_clipped(window, settled, stage, size):
    window.resize(*size)
    screen = window.screen_of(stage)
    settled(window)
    window.grab()  # settles the layout
    assert (window.width(), window.height()) == size
    for widget in children(screen, QPushButton, QLabel, QLineEdit):
        if not widget.isVisible() or (isinstance(widget, QLabel) and not widget.text()):
            continue
        right = widget.mapTo(window, QPoint(widget.width(), 0)).x()
        assert right <= window.width(), f"{widget} {getattr(widget, 'text', str)()}"
        if isinstance(widget, QPushButton):
            wanted = widget.fontMetrics().horizontalAdvance(widget.text())
            assert widget.width() >= wanted, widget.text()


def test_every_control_can_be_reached_and_has_a_name(window, settled):
    for stage in STAGES:
        screen = window.screen_of(stage)
        settled(window)
        for widget in children(screen, QPushButton, QLineEdit, QComboBox):
            if not widget.isVisible():
                continue
            name = widget.accessibleName() or (widget.text() if isinstance(widget, QPushButton) else "")
            assert name, widget
    assert window.ladder.accessibleName()
    assert window.record.board.accessibleName()


def test_dark_and_light(window, settled):
    light = window.grab().toImage().pixelColor(5, 200).lightness()
    window.run("view.dark")
    settled(window)
    dark = window.grab().toImage().pixelColor(5, 200).lightness()
    assert light > 220
    assert dark < 60
    assert theme().pen.dark
    block = window.record.script.document().firstBlock()  # the script's colours change with the surface
    ranges = block.layout().formats()
    form = ranges[-1].format
    assert form.foreground().color().lightness() > 130
    window.run("view.dark")
    assert not theme().pen.dark


def test_messages_are_dismissed(window):
    window.say("The tide is in")
    assert window.message.isVisible()
    button = next(b for b in window.message.findChildren(QPushButton) if b.text() == "dismiss")
    button.click()
    assert not window.message.isVisible()


def test_tab_goes_through_a_screen_in_the_order_of_reading(window, settled):
    window.activateWindow()
    for stage, first, last in (
        ("view.record", ["Ladder of steps", "Board: the diagram being recorded"], "Script of the weave"),
        (
            "view.hang",
            ["Ladder of steps", "bar: folded over a bar; takes 25 mm of each cord"],
            "Record the first step",
        ),
        (
            "view.tie",
            ["Ladder of steps", "Measure everything all in one", "tide B and C cut"],
            "Remove tie T1",
        ),
        ("view.cut", ["Ladder of steps", "Chance of running short", "size"], "another cut of buoy"),
    ):
        window.stage(stage)
        settled(window)
        window.title.setFocus()
        seen = []
        while window.focusWidget() not in seen:
            seen.append(window.focusWidget())
            QTest.keyClick(seen[-1], Qt.Key.Key_Tab)
            assert len(seen) < 100
        names = [w.accessibleName() or w.text() for w in seen]
        assert all(names)
        at = names.index(first[0])
        assert names[at : at + len(first)] == first
        assert names[-1] == last


def test_nothing_asks_or_changes_the_record_in_the_middle_of_a_step(window, monkeypatch):
    def asked(*a, **k):
        raise AssertionError("a dialog in the middle of a step")

    for name in ("getText", "getInt", "getItem"):
        monkeypatch.setattr(module.QInputDialog, name, asked)
    monkeypatch.setattr(module.QColorDialog, "getColor", asked)
    monkeypatch.setattr(module.QDialog, "exec", asked)
    board = window.record.board
    for key in "1o":
        QTest.keyClicks(board, key)
    before, weave = window.session.draft, window.session.weave
    for action_id in MID_STEP:
        window.run(action_id)
        assert window.message_text.text().startswith("Rest the end first")
        assert window.session.draft is before
        assert window.session.weave is weave
    assert "record.mirror" in MID_STEP
    assert "edit.paste" in MID_STEP


def test_undo_takes_back_the_last_hop_of_a_step_in_hand(window):
    board = window.record.board
    for key in "1oo":
        QTest.keyClicks(board, key)
    assert len(window.session.draft.moves) == 2
    weave = window.session.weave
    window.run("edit.undo")
    assert len(window.session.draft.moves) == 1
    window.run("edit.undo")
    assert not window.session.draft.begun
    assert window.session.weave is weave
    window.session.do(SetName(name="Heron Band"))
    window.run("edit.undo")  # nothing in hand: the last change
    assert window.session.weave is weave


def test_hops_that_an_edit_elsewhere_lets_go_are_not_lost_without_a_word(window):
    board = window.record.board
    for key in "1o":
        QTest.keyClicks(board, key)
    name = window.session.weave.sections[window.session.section].name
    assert window.session.do(AddItem(section=name, text="1: over 2"))
    assert window.session.draft is None
    assert window.message_text.text().startswith("The step in hand was let go")
    assert window.session.do(SetName(name="Heron Band"))
    assert window.message_text.text() == ""


# -- weaves at hand ---------------------------------------------------------------------------------


@pytest.fixture
def shown(window, monkeypatch):
    """What menus hold when they come up."""
    found = []

    def note(menu, at):
        found.append([(x.text(), x.isChecked()) for x in menu.actions() if x.text()])
        menu.deleteLater()

    monkeypatch.setattr(window.filing, "pop", note)
    return found


def test_the_weaves_of_the_workshop_are_at_hand_in_a_weave_without_a_file_too(window, shown):
    window.title.click()
    (first,) = shown
    assert ("Tern Ladder", True) in first
    assert ("Reed Plait", False) in first
    window.run("file.new")
    window.title.click()
    assert [name for name, _ in shown[1]] == [name for name, _ in first]
    assert not any(ticked for _, ticked in shown[1])


def test_recent_weaves_come_back_newest_first_wherever_they_lie(window, shown, tmp_path):
    home = window.session.path.parent
    other = tmp_path / "elsewhere" / "heron-strap.dimladder"
    other.parent.mkdir()
    other.write_bytes((home / "marsh-curl.dimladder").read_bytes())
    window.open_path(home / "reed-plait.dimladder")
    window.open_path(other)
    window.run("file.recent")
    assert [name for name, _ in shown[-1]] == [
        "Heron Strap  (elsewhere)", "Reed Plait  (workshop)", "Tern Ladder  (workshop)",
    ]  # fmt: skip
    assert shown[-1][0][1]
    window.title.click()
    assert ("Reed Plait  (workshop)", False) in shown[-1]  # not of this folder, so said with its own
    # Kept over a restart; what is gone is not offered.
    assert load_settings().recent == window.session.settings.recent
    other.unlink()
    window.filing.switch_to(home / "tern-ladder.dimladder")
    window.run("file.recent")
    assert [name for name, _ in shown[-1]] == ["Tern Ladder  (workshop)", "Reed Plait  (workshop)"]


def test_without_any_recent_weave_it_says_so(window, shown):
    window.session.set_up(recent=())
    window.run("file.recent")
    assert shown == []
    assert "No weave" in window.message_text.text()
