"""Recording: board by keys and mouse, script, ladder; three views of one edit."""

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from dim_ladder.commands import RemoveItem, SetScript
from dim_ladder.notation import parse_strict, write, write_item
from dim_ladder.shelf import read_document
from helpers.weaves import SPIRAL

HALF_KNOT = ("4: over 3 2", "1: over 2, under 3 4, up 2")


def steps(window, section=0):
    return [write_item(i) for i in window.session.weave.sections[section].items]


def press(window, keys):
    """Keys on the board: letters and digits as they are, ~ for Return, < for Backspace, ! for Esc."""
    count = 0
    special = {"~": Qt.Key.Key_Return, "<": Qt.Key.Key_Backspace, "!": Qt.Key.Key_Escape}
    for key in keys:
        count += 1
        if key in special:
            QTest.keyClick(window.record.board, special[key])
        else:
            QTest.keyClicks(window.record.board, key)
    return count


def test_a_half_knot_takes_fewer_than_fifteen_keys(empty):
    used = press(empty, "4oo~1ouuid~")
    assert steps(empty) == list(HALF_KNOT)
    assert used <= 15


def test_letters_name_ends_and_digits_name_places(empty):
    press(empty, "doo~")
    assert steps(empty) == ["4: over 3 2"]
    press(empty, "do~")  # D hangs second now
    assert steps(empty)[1] == "2: over 3"


def test_the_diagram_follows_every_key(empty):
    sizes = []
    for key in "4oo":
        press(empty, key)
        picture = empty.record.board.picture
        sizes.append(sum(1 for s in picture.shapes if getattr(s, "tag", "") == "gap"))
    assert sizes == [0, 1, 2]


def test_the_prompt_says_what_can_be_done_next(empty):
    board = empty.record.board
    assert "Choose an end" in empty.record.prompt.text()
    press(empty, "4")
    assert "D going left, C is next" in empty.record.prompt.text()
    press(empty, "ooo")
    assert "nothing hangs there" in empty.record.prompt.text()
    press(empty, "~1oi")
    assert board.asking == "up"
    assert "press the letter of the loop" in empty.record.prompt.text()


def test_back_flip_turn_and_letting_go(empty):
    press(empty, "4oo<")
    assert len(empty.session.draft.moves) == 1
    press(empty, "f")
    assert empty.session.draft.moves[0].kind == "under"
    press(empty, "r")
    assert empty.session.draft.side == 1
    press(empty, "!")
    assert empty.session.draft is None
    assert steps(empty) == []
    press(empty, "4<")
    assert empty.session.draft is None


def test_a_wrong_move_is_explained_and_loses_nothing(empty):
    press(empty, "4oooo")
    assert "nothing hangs further left" in empty.message_text.text()
    assert empty.message.isVisible()
    assert len(empty.session.draft.moves) == 3
    press(empty, "ia")  # A has made no step, so it has no loop
    assert "has made no step yet" in empty.message_text.text()
    assert len(empty.session.draft.moves) == 3
    press(empty, "~")
    assert steps(empty) == ["4: over 3 2 1"]
    assert not empty.message.isVisible()


def test_keys_before_an_end_is_taken(empty):
    press(empty, "9")
    assert empty.session.draft is None
    empty.record.board.act("over")
    assert "Take an end first" in empty.message_text.text()
    press(empty, "~")
    assert steps(empty) == []


def test_half_a_step_does_not_become_an_edit(empty):
    press(empty, "4~")
    assert steps(empty) == []
    assert empty.session.history.number == 0


def test_the_row_of_moves_does_the_same_as_the_keys(empty, qtbot):
    press(empty, "4")
    buttons = empty.record.buttons
    for name in ("board.over", "board.under", "board.flip", "board.done"):
        qtbot.mouseClick(buttons[name], Qt.MouseButton.LeftButton)
    assert steps(empty) == ["4: over 3 2"]
    assert not buttons["board.over"].isEnabled()


# -- mouse ----------------------------------------------------------------------------------------


def drag(window, end, past, under=False):
    board = window.record.board
    start = board.position_of("tail", end).toPoint()
    QTest.mousePress(board, Qt.MouseButton.LeftButton, pos=start)
    modifier = Qt.KeyboardModifier.ShiftModifier if under else Qt.KeyboardModifier.NoModifier
    for other in past:
        at = board.position_of("tail", other)
        side = 1 if at.x() > board.position_of("tail", end).x() else -1
        move(board, QPoint(round(at.x() + 12 * side), start.y()), modifier)
    QTest.mouseRelease(board, Qt.MouseButton.LeftButton, pos=start)


def move(board, at, modifier):
    from PySide6.QtCore import QEvent
    from PySide6.QtGui import QMouseEvent
    from PySide6.QtWidgets import QApplication

    event = QMouseEvent(
        QEvent.Type.MouseMove, QPointF(at), QPointF(board.mapToGlobal(at)), Qt.MouseButton.NoButton,
        Qt.MouseButton.LeftButton, modifier,
    )  # fmt: skip
    QApplication.sendEvent(board, event)


def test_a_tail_dragged_across_others_crosses_them(empty):
    drag(empty, 3, (2, 1))
    press(empty, "~")
    drag(empty, 0, (3,))
    drag(empty, 0, (1, 2), under=True)
    board = empty.record.board
    press(empty, "i")
    loop = board.position_of("loop", 3).toPoint()
    QTest.mouseClick(board, Qt.MouseButton.LeftButton, pos=loop)
    press(empty, "~")
    assert steps(empty) == list(HALF_KNOT)


def test_taking_another_end_rests_the_one_in_hand(empty):
    board = empty.record.board
    press(empty, "4o")
    QTest.mouseClick(board, Qt.MouseButton.LeftButton, pos=board.position_of("tail", 0).toPoint())
    assert steps(empty) == ["4: over 3"]
    assert empty.session.draft.end == "second.a"


def test_a_click_on_a_crossing_of_the_step_in_hand_flips_it(empty):
    board = empty.record.board
    press(empty, "4ooo")
    QTest.mouseClick(board, Qt.MouseButton.LeftButton, pos=board.position_of("crossing", 1).toPoint())
    press(empty, "~")
    assert steps(empty) == ["4: over 3, under 2, over 1"]


# -- script ---------------------------------------------------------------------------------------


def type_script(window, text):
    window.record.script.setFocus()
    window.record.script.setPlainText(text)
    window.record.script.take()


def test_the_script_follows_the_board_and_the_board_the_script(empty):
    press(empty, "4oo~")
    assert "  4: over 3 2" in empty.record.script.toPlainText()
    type_script(empty, empty.record.script.toPlainText().rstrip() + "\n  1: over 2, under 3 4, up 2\n")
    assert steps(empty) == list(HALF_KNOT)
    assert len(empty.session.board().steps) == 2
    assert len([r for r in empty.ladder.rows if r.kind == "rung"]) == 2


def test_typing_that_cannot_be_read_is_kept_marked_and_explained(window, settled):
    before = window.session.weave
    text = write(before).replace("over c", "ovr c")
    type_script(window, text)
    assert window.session.weave == before
    assert window.session.document.draft == text
    assert window.record.script.extraSelections()
    assert "expected over, under, up, down, round or another hop" in window.record.step.problems.text()
    window.session.settle()
    assert read_document(window.session.path).draft == text
    press(window, "a")  # the board waits until the script is mended
    assert window.session.draft is None
    assert "has a slip" in window.message_text.text()
    type_script(window, text.replace("ovr c", "over c"))
    assert window.session.document.draft == ""
    assert window.record.script.extraSelections() == []


def test_one_undo_for_every_view(empty):
    press(empty, "4oo~")
    type_script(empty, empty.record.script.toPlainText().replace("New weave", "Reed Hurdle"))
    assert empty.windowTitle().startswith("Reed Hurdle")
    empty.run("edit.undo")
    assert empty.windowTitle().startswith("New weave")
    assert "New weave" in empty.record.script.toPlainText()
    empty.run("edit.undo")
    assert steps(empty) == []
    empty.run("edit.redo")
    empty.run("edit.redo")
    assert empty.session.weave.name == "Reed Hurdle"
    assert steps(empty) == ["4: over 3 2"]


def test_undo_keys_in_the_script_go_to_the_history(empty, qtbot):
    press(empty, "4oo~")
    script = empty.record.script
    script.setFocus()
    qtbot.waitUntil(script.hasFocus)
    QTest.keyClick(script, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert steps(empty) == []


def test_the_persons_own_layout_is_left_while_typing(empty, qtbot):
    script = empty.record.script
    script.setFocus()
    qtbot.waitUntil(script.hasFocus)
    own = script.toPlainText().replace("section unit", "\n\n\nsection   unit") + "  4:  over 3   2\n"
    script.setPlainText(own)
    script.take()
    assert steps(empty) == ["4: over 3 2"]
    assert script.toPlainText() == own


def test_a_problem_of_the_trace_is_marked_in_the_script_and_shown_on_the_ladder(empty, settled):
    type_script(empty, empty.record.script.toPlainText() + "  4: over 1\n")
    assert "between them hang" in empty.record.step.problems.text()
    assert [r for r in empty.ladder.rows if r.kind == "problem"]
    settled(empty)
    assert empty.record.script.extraSelections()


# -- ladder ---------------------------------------------------------------------------------------


def click_rung(window, step):
    row = next(r for r in window.ladder.rows if r.rung and r.rung.step == step)
    y = int(row.y + row.height / 2 - window.ladder.verticalScrollBar().value())
    QTest.mouseClick(window.ladder.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(60, y))


def test_choosing_a_rung_chooses_that_moment_everywhere(window):
    click_rung(window, 1)
    assert window.session.chosen == 1
    assert window.record.step.title.text().startswith("Step 2")
    assert "up through D’s loop" in window.record.step.sentence.text()
    assert window.tails.accessibleName().endswith("D B C A")
    QTest.keyClick(window.ladder, Qt.Key.Key_Down)
    assert window.session.chosen == 2
    QTest.keyClick(window.ladder, Qt.Key.Key_End)
    assert "Open flame" in window.record.step.caution.text()
    QTest.keyClick(window.ladder, Qt.Key.Key_Escape)
    assert window.session.chosen == -1


def test_rungs_are_removed_moved_and_brought_back(window):
    click_rung(window, 0)
    window.run("record.later")
    assert steps(window) == ["half-left (1 | 2 3 | 4)", "half-right (1 | 2 3 | 4)"]
    assert window.session.ladder.steps[window.session.chosen].op.item == 1
    window.run("record.remove")
    assert steps(window) == ["half-left (1 | 2 3 | 4)"]
    window.run("edit.undo")
    window.run("edit.undo")
    assert steps(window) == ["half-right (1 | 2 3 | 4)", "half-left (1 | 2 3 | 4)"]


def test_removing_needs_a_rung(window):
    window.session.choose(-1)
    window.run("record.remove")
    assert "Choose a rung" in window.message_text.text()


def test_the_count_of_a_section_is_edited_on_its_bracket(window, monkeypatch):
    from dim_ladder.app import ladder

    monkeypatch.setattr(ladder.QInputDialog, "getText", lambda *a, **k: ("repeat 12", True))
    window.ladder.ask_count(0)
    assert window.session.weave.sections[0].count.number == 12
    monkeypatch.setattr(ladder.QInputDialog, "getText", lambda *a, **k: ("now and then", True))
    window.ladder.ask_count(0)
    assert "expected a count" in window.message_text.text()


def test_the_unit_is_told_to_spiral_and_its_mirror_makes_it_flat(window, settled):
    window.session.do(RemoveItem(section="bar", at=1))
    settled(window)
    assert "This will spiral" in window.record.step.turning.text()
    assert "will spiral" in window.unit_words.text()
    window.run("record.mirror")
    settled(window)
    assert window.record.step.turning.text().startswith("Flat")
    assert steps(window) == ["half-right (1 | 2 3 | 4)", "half-left (1 | 2 3 | 4)"]


def test_a_new_section_is_recorded_into(window, monkeypatch):
    from PySide6 import QtWidgets as module

    monkeypatch.setattr(module.QInputDialog, "getText", lambda *a, **k: ("edge body", True))
    window.run("record.section")
    names = [s.name for s in window.session.weave.sections]
    assert names == ["bar", "edge", "end"]
    press(window, "1o~")
    assert steps(window, 1) == ["1: over 2"]
    monkeypatch.setattr(module.QInputDialog, "getText", lambda *a, **k: ("edge sideways", True))
    window.run("record.section")
    assert "not a kind of section" in window.message_text.text()


def test_a_thousand_rungs_are_painted_only_where_they_are_seen(window, settled, qtbot):
    lines = "".join("  1: over 2\n  2: over 1\n" for _ in range(500))
    window.session.do(SetScript(text=SPIRAL + "section long: body\n" + lines))
    settled(window)
    # So long a trace goes on in slices.
    qtbot.waitUntil(lambda: sum(r.kind == "rung" for r in window.ladder.rows) == 1003)
    window.session.choose(900)
    row = next(r for r in window.ladder.rows if r.rung and r.rung.step == 900)
    top = window.ladder.verticalScrollBar().value()
    assert top <= row.y <= top + window.ladder.viewport().height()
    assert not window.ladder.grab().isNull()


@pytest.mark.parametrize(
    "text",
    ['weave "x"\n', 'weave "x"\ncords\n t nylon-4mm #112233\nhang\n t.a\n', SPIRAL.split("section")[0]],
)
def test_bare_weaves_are_shown_without_a_stumble(window, settled, text):
    window.session.do(SetScript(text=text))
    settled(window)
    for stage in ("view.record", "view.tie", "view.cut", "view.sheet"):
        window.stage(stage)
        settled(window)
        assert not window.grab().isNull()
    window.stage("view.record")
    press(window, "1o~")
    assert parse_strict(write(window.session.weave)) == window.session.weave


# -- help in the script pane ----------------------------------------------------------------------


def cursor_to(script, text):
    at = script.toPlainText().index(text) + len(text)
    cursor = script.textCursor()
    cursor.setPosition(at)
    script.setTextCursor(cursor)
    script.setFocus()


def test_what_could_stand_here_is_offered_and_taken_with_tab(window):
    script = window.record.script
    cursor_to(script, "section bar: body, fit\n")
    QTest.keyClicks(script, "  sn")
    choices = script.choices
    assert choices.isVisible()
    assert choices.item(0).text().startswith("snake (1 | 2)")
    assert not window.grab().isNull()
    QTest.keyClick(script, Qt.Key.Key_Tab)
    assert not choices.isVisible()
    assert "  snake (1 | 2)" in script.toPlainText()
    # Return is Return as long as nothing is chosen with the arrows.
    QTest.keyClick(script, Qt.Key.Key_Return)
    QTest.keyClicks(script, "  1: ov")
    QTest.keyClick(script, Qt.Key.Key_Return)
    assert "  1: ov\n" in script.toPlainText()
    QTest.keyClick(script, Qt.Key.Key_Backspace)
    QTest.keyClick(script, Qt.Key.Key_Space, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(script, Qt.Key.Key_Down)
    QTest.keyClick(script, Qt.Key.Key_Return)
    assert "  1: over" in script.toPlainText()
    QTest.keyClicks(script, " tid")
    assert choices.isVisible()
    QTest.keyClick(script, Qt.Key.Key_Escape)
    assert not choices.isVisible()


def test_a_slip_is_mended_with_one_key(window, settled):
    before = window.session.weave
    type_script(window, window.record.script.toPlainText().replace("half-left (1", "half-lfet (1"))
    script = window.record.script
    cursor_to(script, "half-lfet")
    settled(window)
    assert script.fixes()[0].words == "Write half-left"
    window.run("record.mend")
    settled(window)
    assert window.session.weave == before
    assert not script.problems
    window.run("record.mend")
    assert "no mending to offer" in window.message_text.text()


def test_the_persons_own_layout_stays_through_edits_of_other_views(window, settled):
    own = window.record.script.toPlainText().replace("cords\n", "\n\ncords\n").replace("  half-right (1 | 2 3 | 4)", "    half-right ( 1|2 3|4 )")  # fmt: skip
    type_script(window, own)
    settled(window)
    script = window.record.script
    window.ladder.setFocus()
    window.session.choose(2)
    window.run("record.mirror-here")
    text = script.toPlainText()
    assert "    half-right ( 1|2 3|4 )\n  half-right (1 | 2 3 | 4)" in text
    assert "\n\n\ncords" in text
    assert parse_strict(text) == window.session.weave
    window.session.undo()
    assert "    half-right ( 1|2 3|4 )" in script.toPlainText()
    assert parse_strict(script.toPlainText()) == window.session.weave


def test_a_layer_that_hangs_as_one_tail_is_called_by_its_name(window, tmp_path, settled):
    window.open_path(window.session.path.parent / "double-bar.dimladder")
    settled(window)
    board = window.record.board
    window.session.choose_section([s.name for s in window.session.weave.sections].index("coat"))
    order = window.session.board_order()
    at = order.index("bar")
    QTest.keyClicks(board, str(at))
    assert "bar is next" in board.prompt_text()
    assert not board.grab().isNull()


def test_no_end_is_taken_in_hand_on_a_round_former(window, settled):
    window.open_path(window.session.path.parent / "marsh-ring.dimladder")
    settled(window)
    board = window.record.board
    window.session.choose_section(0)
    QTest.keyClicks(board, "1")
    assert window.session.draft is None
    assert "round former" in window.message_text.text()
    assert not board.grab().isNull()


def test_fittings_faces_and_stacks_have_keys(empty):
    press(empty, "4ox~")
    assert steps(empty)[-1] == "4: over 3, pass bar"
    press(empty, "1oxx~")  # pressed again, from behind
    assert steps(empty)[-1] == "1: over 2, pass bar behind"
    press(empty, "1y~")
    assert steps(empty)[-1] == "1: twist"
    QTest.keyClicks(empty.record.board, "1")
    QTest.keyClick(empty.record.board, Qt.Key.Key_G, Qt.KeyboardModifier.ShiftModifier)
    press(empty, "o~")
    assert steps(empty)[-1] == "1/2: over 3"
    assert empty.session.ladder.problems == ()
    empty.session.undo()
    assert steps(empty)[-1] == "1: twist"


def test_how_a_section_is_worked_is_one_line(empty, monkeypatch):
    monkeypatch.setattr(
        "dim_ladder.app.ladder.QInputDialog.getText",
        lambda *a, **k: ("repeat 4, mirror every other, spiral", True),
    )
    press(empty, "4oo~1ouuid~")
    empty.actions_by_id["record.how"].trigger()
    section = empty.session.weave.sections[empty.session.section]
    assert (section.count.number, section.alternate, section.spiral) == (4, "mirror", True)
    empty.session.undo()
    assert not empty.session.weave.sections[empty.session.section].spiral
