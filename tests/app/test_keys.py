"""Keys changed in the sheet of keys work at once, everywhere, and after a restart."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from dim_ladder.app.keysheet import KeySheet
from dim_ladder.app.session import Session
from dim_ladder.app.settings import Settings, load_settings, settings_path

Key = Qt.Key
CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier


@pytest.fixture
def sheet(window, qtbot):
    s = KeySheet(window.session.keys, window.session.set_keys, window)
    qtbot.addWidget(s)
    s.show()
    qtbot.waitExposed(s)
    s.activateWindow()
    qtbot.waitUntil(s.isActiveWindow)
    return s


def ask(sheet, action_id):
    sheet.list.setCurrentItem(sheet.row_of(action_id))
    QTest.keyClick(sheet.list, Key.Key_Return)
    assert "Press the new key" in sheet.words.text()


def test_a_new_key_works_at_once_on_the_board(window, sheet):
    ask(sheet, "board.over")
    QTest.keyClicks(sheet.list, "z")
    assert sheet.row_of("board.over").text(0) == "Z"
    sheet.accept()
    board = window.record.board
    board.setFocus()
    for k in "1z":
        QTest.keyClicks(board, k)
    assert [m.kind for m in window.session.draft.moves] == ["over"]
    QTest.keyClicks(board, "o")  # the old one is free
    assert len(window.session.draft.moves) == 1
    assert "Z over" in board.prompt_text()
    assert "(Z)" in window.record.buttons["board.over"].toolTip()


def test_a_menus_key_and_its_tool_tip_follow(window, sheet):
    ask(sheet, "record.mirror")
    QTest.keyClick(sheet.list, Key.Key_J, CTRL | ALT)
    action = window.actions_by_id["record.mirror"]
    assert action.shortcut().toString() == "Ctrl+Alt+J"
    assert "Ctrl+Alt+J" in action.toolTip()
    other = Session()
    assert other.keys.of("record.mirror") == "Ctrl+Alt+J"
    other.close()
    other.jobs.finish()
    ask(sheet, "record.mirror")
    QTest.keyClick(sheet.list, Key.Key_Backspace)
    assert action.shortcut().isEmpty()
    next(b for b in sheet.children() if getattr(b, "text", str)() == "All as they were").click()
    assert action.shortcut().toString() == "Ctrl+M"
    assert load_settings().keys == {}


def test_a_clash_is_refused_and_esc_leaves_things_as_they_are(window, sheet):
    ask(sheet, "record.mirror")
    QTest.keyClick(sheet.list, Key.Key_O, CTRL)
    assert "Ctrl+O is taken: Open…" in sheet.words.text()
    assert sheet.row_of("record.mirror").text(0) == "Ctrl+M"
    ask(sheet, "record.mirror")
    QTest.keyClick(sheet.list, Key.Key_Escape)
    assert sheet.isVisible()
    assert sheet.row_of("record.mirror").text(0) == "Ctrl+M"
    assert window.session.keys.changed == {}


def test_settings_that_cannot_be_read_or_kept_do_no_harm(window, tmp_path):
    path = settings_path()
    path.parent.mkdir(parents=True, exist_ok=True)
    for text in ("", "nonsense", '{"dark": "perhaps"}', '{"keys": 3}'):
        path.write_text(text)
        assert load_settings() == Settings()
    path.write_text('{"dark": true, "of another day": 1}')
    assert load_settings().dark
    path.unlink()
    path.mkdir()
    window.session.set_up(dark=True)
    assert "cannot be kept" in window.message_text.text()


def test_size_and_surface_are_remembered(window):
    window.run("view.dark")
    assert load_settings().dark
    window.run("view.dark")
    window.resize(1111, 777)
    window.session.unsaved = False
    window.close()
    assert (load_settings().width, load_settings().height) == (1111, 777)


def test_icons_belong_to_actions_and_are_drawn_in_the_ink_of_the_day(window):
    from dim_ladder.app.icons import ICONS, SIZE, icon
    from dim_ladder.commands import ACTIONS

    known = {a.id for a in ACTIONS}
    assert set(ICONS) <= known
    assert icon("no.such").isNull()
    shapes = {}
    for name in ICONS:
        image = icon(name).pixmap(SIZE, SIZE).toImage()
        inked = [
            (x, y)
            for x in range(image.width())
            for y in range(image.height())
            if image.pixelColor(x, y).alpha() > 128
        ]
        assert len(inked) > 8, name
        shapes.setdefault(tuple(inked), []).append(name)
    same = [names for names in shapes.values() if len(names) > 1]
    assert {frozenset(n) for n in same} <= {
        frozenset({"edit.cut", "view.cut"}), frozenset({"record.mirror", "record.mirror-here"}), frozenset({"tie.log", "board.done"}),
    }  # fmt: skip
    light = icon("board.over").pixmap(SIZE, SIZE).toImage().pixelColor(3, 10).lightness()
    window.run("view.dark")
    dark = icon("board.over").pixmap(SIZE, SIZE).toImage().pixelColor(3, 10).lightness()
    window.run("view.dark")
    assert dark > light + 60
