"""A piece of bars on a runner with eight ends, and a figure with beads: from an empty window to the finished record, by
keys and mouse."""

from functools import partial

import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog

from dim_ladder.app.palette import ActionSearch
from dim_ladder.commands import ACTIONS, SetName
from dim_ladder.notation import write_item
from dim_ladder.picture.ladder import rungs
from dim_ladder.shelf import read_document
from dim_ladder.trace import close, trace
from dim_ladder.trace.structure import check_structure
from journeys.test_band import keys

Key = Qt.Key
NONE, CTRL, SHIFT = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
)


def press(window, key, modifiers=NONE):
    """A key for the whole window, which a closed dialog may have left without the focus."""
    popup = QApplication.activePopupWidget()
    if popup is not None:
        popup.close()
    for _ in range(50):
        window.activateWindow()
        QTest.qWait(20)
        if window.isActiveWindow():
            break
    QTest.keyClick(window, key, modifiers)


def answer(text):
    """Type into the dialog that is about to ask, however long the window takes to ask, and press Return."""
    tries = iter(range(400))

    def typed():
        dialog = QApplication.activeModalWidget()
        if dialog is None and next(tries, None) is not None:
            QTimer.singleShot(50, typed)
            return
        assert isinstance(dialog, QInputDialog), dialog
        if dialog.inputMode() == QInputDialog.InputMode.IntInput:
            dialog.setIntValue(int(text))
        else:
            dialog.setTextValue(text)
        QTest.keyClick(dialog, Key.Key_Return)

    QTimer.singleShot(50, typed)


def lines(window, section=0):
    return [write_item(i) for i in window.session.weave.sections[section].items]


def test_bars_on_a_runner_with_eight_ends(window, settled, qtbot, tmp_path):
    # Four cords, folded over a ring, pair beside pair: eight ends.
    press(window, Key.Key_N, CTRL)
    hang = window.screen_of("view.hang")
    QTest.mouseClick(hang.on.cards["ring"], Qt.MouseButton.LeftButton)
    QTest.mouseClick(hang.order.cards["pairs"], Qt.MouseButton.LeftButton)
    for _ in range(2):
        QTest.mouseClick(hang.more, Qt.MouseButton.LeftButton)
    assert len(window.session.weave.hang.ends) == 8
    QTest.mouseClick(hang.record, Qt.MouseButton.LeftButton)
    board = window.record.board
    assert board.hasFocus()

    # A bar from left to right, another one back: the runner is taken, and everything hitches on to it.
    keys(board, "1")
    QTest.keyClick(board, Key.Key_H, SHIFT)
    keys(board, "~8")
    QTest.keyClick(board, Key.Key_H, SHIFT)
    keys(board, "~")
    assert lines(window) == ["bar-right (1 | 2..8)", "bar-left (1..7 | 8)"]
    settled(window)
    assert not window.session.ladder.problems
    assert "spiral" not in window.record.step.turning.text()

    # Three pairs of bars: the two rungs' knots are chosen and repeated; then one knot of the first two.
    window.session.choose_items("unit", 0, 0)
    last = len(window.session.ladder.steps) - 1
    window.session.choose(last, extend=True)
    answer("2")
    window.ladder.setFocus()
    press(window, Key.Key_R, CTRL)
    assert len(lines(window)) == 6
    window.session.choose_items("unit", 0, 1)
    answer("there-and-back")
    press(window, Key.Key_G, CTRL)
    assert lines(window)[0] == "there-and-back (1 | 2 | 3 | 4 | 5 | 6 | 7 | 8)"
    # It folds to one rung.
    window.session.choose_items("unit", 0, 0)
    window.ladder.setFocus()
    QTest.keyClick(window.ladder, Key.Key_Left)
    assert [r.text for r in window.ladder.rows if r.kind == "fold"] == ["there and back · 42 steps"]

    # Glued at the end, saved, opened again: the same crossings.
    press(window, Key.Key_H, CTRL)
    QTest.mouseClick(hang.finish.cards["glue"], Qt.MouseButton.LeftButton)
    before = trace(window.session.weave)
    path = tmp_path / "hurdle.dimladder"
    window.session.save(path)
    again = trace(read_document(path).weave)
    assert again.crossings == before.crossings
    assert len(again.crossings) > 200
    assert not again.problems


def test_a_figure_with_beads(window, settled, qtbot, tmp_path):
    # One thin cord on a ring; two kinds of beads, written into the script with what it offers.
    press(window, Key.Key_N, CTRL)
    hang = window.screen_of("view.hang")
    QTest.mouseClick(hang.on.cards["ring"], Qt.MouseButton.LeftButton)
    hang.rows[1].removed.emit()
    assert len(window.session.weave.hang.ends) == 2
    row = hang.rows[0]
    row.kind.lineEdit().setFocus()
    row.kind.lineEdit().selectAll()
    QTest.keyClicks(row.kind.lineEdit(), "polyester-1mm")
    QTest.keyClick(row.kind.lineEdit(), Key.Key_Tab)
    assert window.session.weave.cords[0].kind == "polyester-1mm"
    QTest.mouseClick(hang.record, Qt.MouseButton.LeftButton)
    script = window.record.script
    at = script.toPlainText().index("hang")
    cursor = script.textCursor()
    cursor.setPosition(at)
    script.setTextCursor(cursor)
    script.setFocus()
    keys(script, "beads~  eye 4 mm #1b1b1b~  shell 8 mm #f4f2ec~~")
    script.take()
    assert [b.name for b in window.session.weave.beads] == ["eye", "shell"]

    # The head: a bead on each end, then a snake of two; its name is offered.
    board = window.record.board
    board.setFocus()
    keys(board, "1d~2dd~")
    assert lines(window)[-2:] == ["1: bead eye", "2: bead shell"]
    answer("snake (1 | 2)")
    press(window, Key.Key_L, CTRL)
    window.activateWindow()
    QTest.qWait(20)
    # Wings: loops of 30 mm left standing on either side.
    board.setFocus()
    keys(board, "1ol30~~2ol30~~")
    assert lines(window)[-2:] == ["1: over 2, leave 30 mm", "2: over 1, leave 30 mm"]
    # It ends in an overhand knot of its own, drawn up: over, and up through the loop.
    keys(board, "1")
    QTest.keyClicks(board, "c")
    keys(board, "~")
    settled(window)
    assert not window.session.ladder.problems
    texts = [s.text for s in board.picture.shapes if getattr(s, "tag", "") == "size"]
    assert texts == ["30 mm", "30 mm"]
    beads = [r for r in rungs(window.session.ladder) if r.marks and r.marks[0].kind == "bead"]
    assert len(beads) == 2

    # The steps are played from the first to the last, and back.
    player = board.player
    board.setFocus()
    QTest.keyClick(board, Key.Key_Space)
    player._timer.stop()
    while player.playing:
        player.advance(0.5)
    assert window.session.chosen == len(window.session.ladder.steps) - 1
    QTest.keyClick(board, Key.Key_Escape)
    path = tmp_path / "wader.dimladder"
    window.session.save(path)
    kept = read_document(path)
    assert kept.weave == window.session.weave
    t = trace(kept.weave)
    assert check_structure(t) == []
    assert len(close(t).pd) == len(t.crossings) > 8


def find(window, a):
    """In the search, by the words of an action, the arrows and Return."""
    box = ActionSearch(window.run, window.enabled, window.session.keys, window)
    QTest.keyClicks(box.edit, a.text.rstrip("…"))  # the sign itself is on no key
    ids = [box.list.item(i).data(Qt.ItemDataRole.UserRole) for i in range(box.list.count())]
    for _ in range(ids.index(a.id)):
        QTest.keyClick(box.edit, Key.Key_Down)
    QTest.keyClick(box.edit, Key.Key_Return)
    box.deleteLater()


@pytest.mark.parametrize("how", ["key", "words"])
def test_every_action_can_be_done_from_the_keyboard(window, settled, how):
    """By its own key, or by its words after Ctrl+K. (Those with an end in hand: see the tests of the board.)"""
    ran = []
    kept = dict(window.handlers)
    for a in ACTIONS:
        window.handlers[a.id] = partial(ran.append, a.id)
    window.handlers["go.search"] = kept["go.search"]
    window.session.do(SetName(name="Another"))
    window.session.undo()
    window.session.do(SetName(name="One more"))
    settled(window)
    window.session.choose(0)
    window.session.offer = object()  # so that what it needs is there
    window.session.traces._left = True
    window.looking.can = lambda needs: True
    window._show_status()
    board = window.record.board
    for a in ACTIONS:
        if a.id in ("go.search", "edit.redo") or a.id.startswith("board."):
            continue
        ran.clear()
        if how == "words":
            find(window, a)
        elif a.shortcut:
            board.setFocus()
            combination = window.actions_by_id[a.id].shortcut()[0]
            QTest.keyClick(board, combination.key(), combination.keyboardModifiers())
        else:
            continue
        assert ran == [a.id], a.id
    window.handlers.update(kept)
    window.session.offer = None
    window.session.traces._left = False
