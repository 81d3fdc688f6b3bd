"""Passages of rungs by keys and mouse; steps that go in anywhere; every hop by a key."""

import pytest
from PySide6 import QtWidgets
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from dim_ladder.commands import AddItems, SetScript
from dim_ladder.commands.draft import begin
from dim_ladder.notation import write, write_item
from helpers.weaves import weave_of

Key = Qt.Key
NONE, SHIFT, CTRL = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier  # fmt: skip


def lines(window, section="s"):
    return [write_item(i) for i in window.session.weave.section(section).items]


@pytest.fixture
def four(window, settled):
    """Four ends and four bare steps."""
    steps = ("4: over 3", "1: over 2", "2: under 3", "3: over 4")
    window.session.do(SetScript(text=write(weave_of(4, *steps))))
    settled(window)
    window.ladder.setFocus()
    return window


def keys(widget, text):
    """Single keys, counted."""
    for k in text:
        if k == "\n":
            QTest.keyClick(widget, Key.Key_Return)
        else:
            QTest.keyClicks(widget, k, SHIFT if k.isupper() else NONE)
    return len(text)


# -- strokes --------------------------------------------------------------------------------------


def test_a_half_knot_takes_at_most_fifteen_keys(empty):
    board = empty.record.board
    board.setFocus()
    assert keys(board, "4oo\n1ouui1\n") <= 15
    assert len(empty.session.ladder.steps) == 2
    assert len(empty.session.ladder.crossings) == 7


def test_a_row_of_a_runner_with_eight_ends_takes_at_most_twelve_keys(window):
    window.session.do(SetScript(text=write(weave_of(8))))
    board = window.record.board
    board.setFocus()
    assert keys(board, "1hhhhhhh\n") <= 12
    assert lines(window) == ["bar-right (1 | 2..8)"]
    # The way back, all at once.
    QTest.keyClicks(board, "8")
    QTest.keyClick(board, Key.Key_H, SHIFT)
    assert "7 tails hitched on" in board.prompt_text()
    QTest.keyClick(board, Key.Key_Backspace)
    assert window.session.draft.bars == 6
    assert len(board.picture.shapes) > 0
    QTest.keyClick(board, Key.Key_Return)
    assert lines(window)[1] == "bar-left (2..7 | 8)"
    assert not window.session.ladder.problems


def test_every_other_hop_has_a_key(window):
    text = write(weave_of(3, "2: over 3")).replace("hang\n", "beads\n  eye 4 mm #1b1b1b\n  shell 8 mm #f4f2ec\n\nhang\n", 1)  # fmt: skip
    window.session.do(SetScript(text=text))
    board = window.record.board
    board.setFocus()
    keys(board, "1sb\n")  # beside B, on the side where it can lie
    assert lines(window)[-1].startswith("1: follow ")
    keys(board, "1ol25\n\n")
    assert lines(window)[-1] == "1: over 2, leave 25 mm"
    QTest.keyClicks(board, "1d")
    assert window.session.draft.moves[-1].other == "eye"
    QTest.keyClicks(board, "d")  # the next bead instead
    assert [m.other for m in window.session.draft.moves] == ["shell"]
    keys(board, "oe\n")
    assert lines(window)[-1] == "1: bead shell, over 2, to right"
    keys(board, "1l")
    assert "no turn to leave slack in" in window.message_text.text()
    assert board.asking == ""
    keys(board, "olx\n")
    assert "Type how many mm" in window.message_text.text()
    assert "…" in board.prompt_text()
    QTest.keyClick(board, Key.Key_Escape)
    assert board.asking == ""
    keys(board, "sc")
    assert "cannot run beside itself" in window.message_text.text()
    assert not window.session.ladder.problems


def test_strand_by_strand_named_loops_places_and_following_back_have_keys(window):
    """The hops that lead flat weaves and doubled mats, each typed and read back from the script."""
    window.session.do(SetScript(text=write(weave_of(3, "2: over 3"))))
    board = window.record.board
    board.setFocus()
    # A loop with a name, passed by its name, three times round.
    keys(board, "1cneye\n")
    assert window.session.draft.moves[-1].name == "eye"
    keys(board, "i@tt\n")
    assert lines(window)[-1] == "1: over own right @eye, up @eye turns 3"
    # Two names: the number that the prompt gives.
    keys(board, "1cnear\n")
    QTest.keyClicks(board, "k@")
    assert "1 @ear, 2 @eye" in board.prompt_text()
    keys(board, "2\n")
    assert lines(window)[-1].endswith("@ear, down @eye")
    # Doubled over two tails, the tip staying back.
    keys(board, "1bobo\n")
    assert lines(window)[-1] == "1: bight over 2 3"
    # To rest at a place.
    keys(board, "1op3\n")
    assert lines(window)[-1] == "1: over 2, to 3"
    # Two ends as one.
    keys(board, "1go\n")
    assert lines(window)[-1] == "1+2: over 3"
    # Back along another, six crossings of it, then falling to the front.
    keys(board, "1S")
    QTest.keyClicks(board, "2")
    assert "how many crossings" in board.prompt_text()
    keys(board, "2\n\n")
    assert lines(window)[-1].startswith("1: follow 2 ")
    assert lines(window)[-1].endswith(" back 2")
    assert not window.session.ladder.problems


def test_a_doubled_mat_by_keys_alone(window):
    """Back up beside the other end all the way, then down beside itself."""
    text = write(weave_of(1, "carrick-mat (1 | 2)")).replace("  k1.a\n", "  k1.a k1.b\n")
    window.session.do(SetScript(text=text))
    assert sorted(window.session.board_order()) == ["k1.a", "k1.b"]
    board = window.record.board
    board.setFocus()
    keys(board, "aSb\n\n")
    last = lines(window)[-1]
    assert last.startswith("1: follow 2 ")
    assert " back, follow own " in last
    assert not window.session.ladder.problems


def test_a_trefoil_led_strand_by_strand_with_two_keys(window):
    """Over its own strands one by one: the same key again shows the next strand instead."""
    window.session.do(SetScript(text=write(weave_of(1, "1: over own right"))))
    board = window.record.board
    board.setFocus()
    keys(board, "1cO")
    first = window.session.draft.moves[-1]
    assert (first.kind, first.other) == ("past over", "")
    seen = {first.count}
    for _ in range(12):
        QTest.keyClicks(board, "O", SHIFT)
        seen.add(window.session.draft.moves[-1].count)
        assert len(window.session.draft.moves) == 2
    assert len(seen) > 1
    keys(board, "U")  # after another key it goes on from there
    assert [m.kind for m in window.session.draft.moves] == ["curl over", "past over", "past under"]
    QTest.keyClicks(board, "f")
    assert window.session.draft.moves[-1].kind == "past over"
    keys(board, "\n")
    assert " at " in lines(window)[-1]
    assert not window.session.ladder.problems


def test_what_cannot_be_asked_yet_is_said(window):
    window.session.do(SetScript(text=write(weave_of(3, "2: over 3"))))
    board, said = window.record.board, window.message_text
    board.setFocus()
    keys(board, "1n")
    assert "no loop that could be named" in said.text()
    keys(board, "t")
    assert "no loop to go through once more" in said.text()
    QTest.keyClicks(board, "O", SHIFT)
    assert (window.session.draft.moves == ()) == ("No strand lies beside" in said.text())
    keys(board, "i@")
    assert "No loop has a name yet: N names one" in said.text()
    QTest.keyClick(board, Key.Key_Escape)
    keys(board, "op9")
    assert "there is no place 9" in said.text()
    assert board.asking == ""
    keys(board, "g")
    assert "from the beginning of a step" in said.text()


# -- passages -------------------------------------------------------------------------------------


def test_shift_and_the_arrows_choose_a_passage_and_edits_keep_it_chosen(four, monkeypatch):
    ladder, session = four.ladder, four.session
    session.choose(1)
    QTest.keyClick(ladder, Key.Key_Down, SHIFT)
    assert session.passage() == ("s", 1, 2)
    QTest.keyClick(ladder, Key.Key_Up, CTRL)
    assert lines(four) == ["1: over 2", "2: under 3", "4: over 3", "3: over 4"]
    assert session.passage() == ("s", 0, 1)
    QTest.keyClick(ladder, Key.Key_Down, CTRL)
    assert session.passage() == ("s", 1, 2)
    four.run("record.mirror-here")
    assert lines(four)[1:3] == ["4: over 3", "3: under 2"]
    four.run("record.flip-here")
    assert lines(four)[1:3] == ["4: under 3", "3: over 2"]
    four.run("record.swap-leader")
    assert lines(four)[1:3] == ["2: under 3", "3: over 4"]
    monkeypatch.setattr(QtWidgets.QInputDialog, "getInt", lambda *a, **k: (2, True))
    four.run("record.repeat")
    assert len(lines(four)) == 8
    assert session.passage() == ("s", 1, 6)
    QTest.keyClick(ladder, Key.Key_Delete)
    assert lines(four) == ["4: over 3", "3: over 4"]
    for _ in range(7):
        session.undo()
    assert lines(four) == ["4: over 3", "1: over 2", "2: under 3", "3: over 4"]


def test_cut_copy_and_paste_are_lines_of_script(four):
    ladder, session = four.ladder, four.session
    session.choose(0)
    QTest.keyClick(ladder, Key.Key_Down, SHIFT)
    QTest.keyClick(ladder, Key.Key_C, CTRL)
    assert QApplication.clipboard().text() == "4: over 3\n1: over 2"
    session.choose(3)
    QTest.keyClick(ladder, Key.Key_V, CTRL)
    assert lines(four)[4:] == ["4: over 3", "1: over 2"]
    assert session.passage() == ("s", 4, 5)
    QTest.keyClick(ladder, Key.Key_X, CTRL)
    assert len(lines(four)) == 4
    QApplication.clipboard().setText("anything else")
    QTest.keyClick(ladder, Key.Key_V, CTRL)
    assert len(lines(four)) == 4
    assert "line 1 of what is pasted" in four.message_text.text()
    session.choose(-1)
    four.run("edit.cut")
    assert "Choose a rung" in four.message_text.text()


def test_steps_become_a_knot_with_a_name_and_open_again(four, monkeypatch):
    four.session.choose(0)
    QTest.keyClick(four.ladder, Key.Key_Down, SHIFT)
    monkeypatch.setattr(QtWidgets.QInputDialog, "getText", lambda *a, **k: ("tide-turn", True))
    before = four.session.ladder.crossings
    four.run("record.knot")
    assert lines(four)[0] == "tide-turn (1 | 2 | 3 | 4)"
    assert four.session.ladder.crossings == before
    assert [r.text for r in four.ladder.rows if r.kind == "heading"] == ["tide turn"]
    four.run("record.open-knot")
    assert lines(four)[:2] == ["4: over 3", "1: over 2"]


def test_a_rung_is_dragged_to_another_place(four, qtbot):
    ladder = four.ladder
    rows = [r for r in ladder.rows if r.kind == "rung"]

    def at(row, part):
        return QPoint(80, int(row.y + row.height * part - ladder.verticalScrollBar().value()))

    view = ladder.viewport()
    QTest.mousePress(view, Qt.MouseButton.LeftButton, NONE, at(rows[0], 0.5))
    for y in (0.5, 1.0):
        move = QMouseEvent(QEvent.Type.MouseMove, QPointF(at(rows[2], y)), QPointF(at(rows[2], y)), Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, NONE)  # fmt: skip
        QApplication.sendEvent(view, move)
    assert not ladder.grab().isNull()
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, NONE, at(rows[2], 1.0))
    assert lines(four) == ["1: over 2", "2: under 3", "4: over 3", "3: over 4"]
    assert four.session.passage() == ("s", 2, 2)


def test_knots_fold_to_one_rung_and_open_again(window):
    window.ladder.setFocus()
    rungs = [r for r in window.ladder.rows if r.kind == "rung"]
    window.session.choose(rungs[0].rung.step)
    QTest.keyClick(window.ladder, Key.Key_Left)
    folds = [r for r in window.ladder.rows if r.kind == "fold"]
    assert len(folds) == 1
    assert folds[0].text.endswith("2 steps")
    assert len([r for r in window.ladder.rows if r.kind == "rung"]) == len(rungs) - 2
    QTest.keyClick(window.ladder, Key.Key_Down)
    assert window.session.chosen == rungs[2].rung.step
    QTest.keyClick(window.ladder, Key.Key_Up)
    assert window.session.ladder.steps[window.session.chosen].op.item == folds[0].item
    assert not window.ladder.grab().isNull()
    window.run("view.fold")
    assert not [
        r for r in window.ladder.rows if r.kind == "rung" and r.item < 2 and r.section == folds[0].section
    ]
    window.run("view.fold")
    assert len([r for r in window.ladder.rows if r.kind == "rung"]) == len(rungs)


# -- steps that go in anywhere ----------------------------------------------------------------------


def test_steps_go_in_below_the_chosen_rung_and_later_ones_can_keep_their_ends(four, settled):
    board, session = four.record.board, four.session
    session.do(SetScript(text=write(weave_of(4, "4: over 3", "1: over 2", "3: over 4"))))
    settled(four)
    session.choose(0)
    QTest.keyClick(four.ladder, Key.Key_Insert)
    assert session.cursor == 1
    assert "after step 1" in board.prompt_text()
    assert len(session.board().steps) == 1
    assert not four.ladder.grab().isNull()
    board.setFocus()
    heard = []
    session.said.connect(heard.append)
    keys(board, "1o\n")
    assert lines(four)[:3] == ["4: over 3", "1: over 2", "1: over 2"]
    assert session.cursor == 2
    settled(four)
    # What is said of its shape may come after it.
    assert any("now move other ends" in words for words in heard)
    assert four.actions_by_id["record.keep-ends"].isEnabled()
    moved = [r.end for r in session.ladder.steps][2:]
    four.run("record.keep-ends")
    kept = [r.end for r in session.ladder.steps][2:]
    assert kept != moved
    assert lines(four)[2] == "2: over 1"
    assert not four.actions_by_id["record.keep-ends"].isEnabled()
    assert session.history.undo_label == "Keep the ends that later steps moved"
    QTest.keyClick(board, Key.Key_Escape)
    assert session.cursor is None
    assert len(session.board().steps) == 4


def test_an_edit_that_moves_no_end_offers_nothing(four, settled):
    four.session.do(AddItems(section="s", text="span 20 mm", at=1))
    settled(four)
    assert four.session.offer is None
    assert four.message_text.text() == ""


# -- crossings ------------------------------------------------------------------------------------


def point(board, which):
    at = board.position_of("crossing", which)
    QApplication.sendEvent(board, QMouseEvent(QEvent.Type.MouseMove, at, at, Qt.MouseButton.NoButton, Qt.MouseButton.NoButton, NONE))  # fmt: skip
    return at


def test_the_crossing_under_the_pointer_flips(four, settled):
    board = four.record.board
    board.setFocus()
    point(board, 1)
    assert not board.grab().isNull()
    QTest.keyClicks(board, "f")
    assert lines(four)[1] == "1: under 2"
    assert four.session.history.undo_label == "Flip a crossing"
    four.session.undo()
    at = point(board, 2)
    QTest.mouseClick(board, Qt.MouseButton.LeftButton, NONE, at.toPoint())
    assert four.session.chosen == 2


def test_with_an_end_in_hand_only_its_own_crossings_flip(four, settled):
    board = four.record.board
    board.setFocus()
    QTest.keyClicks(board, "1")
    at = board.position_of("crossing", len(four.session.ladder.crossings) - 1)
    before = four.session.weave
    QTest.mouseClick(board, Qt.MouseButton.LeftButton, NONE, at.toPoint())
    assert "Rest the end first" in four.message_text.text()
    assert four.session.weave is before


def test_a_crossing_of_a_knot_says_how_to_change_it(window, settled):
    board = window.record.board
    board.setFocus()
    point(board, 0)
    before = window.session.weave
    QTest.keyClicks(board, "f")
    assert "Ctrl+Shift+G" in window.message_text.text()
    assert window.session.weave is before
    window.run("record.open-knot")
    point(board, 0)
    QTest.keyClicks(board, "f")
    assert window.session.history.undo_label == "Flip a crossing"


# -- cords ----------------------------------------------------------------------------------------


def test_cords_are_renamed_recoloured_and_exchanged(window, monkeypatch):
    monkeypatch.setattr(QtWidgets.QInputDialog, "getItem", lambda *a, **k: (a[3][0] if "Which" in a[2] else "hemp-2mm", True))  # fmt: skip
    monkeypatch.setattr(QtWidgets.QInputDialog, "getText", lambda *a, **k: ("samphire", True))
    monkeypatch.setattr(QtWidgets.QColorDialog, "getColor", lambda *a, **k: QColor("#123456"))
    for action in ("cord.rename", "cord.colour", "cord.kind"):
        window.run(action)
    cord = window.session.weave.cords[0]
    assert (cord.name, cord.colour, cord.kind) == ("samphire", "#123456", "hemp-2mm")
    assert not window.session.ladder.problems


def test_a_problem_stands_at_its_rung(window, settled):
    text = write(weave_of(3, "1: over 2", "1: over 3", "1: over 2"))
    window.session.do(SetScript(text=text + "\nsection later: body\n  1: over 2\n"))
    settled(window)
    kinds = [(r.kind, r.section) for r in window.ladder.rows]
    assert kinds == [("section", 0), ("rung", 0), ("problem", 0), ("section", 1)]
    assert "between them hangs" in window.ladder.rows[2].text
    assert not window.ladder.grab().isNull()


# -- the book of knots ------------------------------------------------------------------------------


@pytest.fixture
def book(window, settled):
    from dim_ladder.app.record.knots import KnotBook

    made = KnotBook(window.session, window.recording._add_line, window)
    made.show()
    yield made
    settled(window)
    made.deleteLater()


def test_a_knot_is_found_by_anybodys_words_and_tied_from_a_place(window, book, settled):
    QTest.keyClicks(book.search, "square knot")
    assert book.entry.name == "square"
    assert book.line.text() == "square (1 | 2 3 | 4)"
    book.first.setValue(2)
    assert book.line.text() == "square (2 | 3 | 4)"
    book.first.setValue(3)
    assert not book.button.isEnabled()
    assert "takes 3 ends" in book.line.text()
    book.first.setValue(2)
    assert not book.grab().isNull()
    QTest.keyClick(book.search, Key.Key_Return)
    assert [write_item(i) for i in window.session.weave.section("bar").items][-1] == "square (2 | 3 | 4)"
    assert not window.session.ladder.problems


def test_a_knot_is_tied_doubled_from_the_book(window, book, settled):
    QTest.keyClicks(book.search, "snake")
    book.doubled.setChecked(True)
    assert book.line.text() == "snake (1+2 | 3+4)"
    book.tie()
    assert [write_item(i) for i in window.session.weave.section("bar").items][-1] == "snake (1+2 | 3+4)"
    assert not window.session.ladder.problems


def test_the_arrows_go_through_what_is_found_and_nothing_found_says_so(window, book, settled):
    QTest.keyClicks(book.search, "plait 8")
    first = book.entry.name
    QTest.keyClick(book.search, Key.Key_Down)
    QTest.keyClick(book.search, Key.Key_Up)
    assert book.entry.name == first
    book.search.setText("nothing is called so")
    assert book.entry is None
    assert not book.button.isEnabled()
    assert "No knot" in book.title.text()
    book.search.setText("mat")
    settled(window)
    assert book.entry is not None


def test_a_knot_goes_in_where_recording_is(window, book, settled):
    window.session.record_before(1)
    book.search.setText("snake")
    book.tie()
    assert [write_item(i) for i in window.session.weave.section("bar").items][1] == "snake (1 | 2)"
    assert window.session.cursor == 2
    window.session.set_draft(begin("tide.a", window.session.board_order()))
    window.run("record.book")
    assert "Rest the end first" in window.message_text.text()
