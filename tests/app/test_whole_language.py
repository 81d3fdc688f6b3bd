"""The whole language from the window: keys for every hop, regions by the mouse, formers, lines written, checks told."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog

from dim_ladder.notation import write_item
from dim_ladder.trace import check_structure


def steps(window, section=0):
    return [write_item(i) for i in window.session.weave.sections[section].items]


def press(window, keys):
    for key in keys:
        if key == "~":
            QTest.keyClick(window.record.board, Qt.Key.Key_Return)
        else:
            QTest.keyClicks(window.record.board, key)


@pytest.mark.parametrize(
    ("keys", "line"),
    [
        ("1www~", "1: round 2 3"),
        ("1wf~", "1: round 2 1 behind"),
        ("1co~", "1: over own right, over 2"),
        ("4cf~", "4: under own left"),
        ("1ouia~", "1: over 2, under 3, up own"),
        ("1obia~", "1: over 2, bight up own"),
        ("1ouwka~", "1: over 2, under 3, round 4 1, down own"),
    ],
)
def test_every_hop_has_a_key(empty, keys, line):
    press(empty, keys)
    assert steps(empty) == [line]
    assert empty.session.ladder.problems == ()
    empty.run("edit.undo")
    assert steps(empty) == []


def test_taking_back_and_flipping_go_hop_by_hop(empty):
    press(empty, "1ww")
    QTest.keyClick(empty.record.board, Qt.Key.Key_Backspace)
    assert empty.session.draft.moves == ()
    press(empty, "oc")
    QTest.keyClick(empty.record.board, Qt.Key.Key_Backspace)
    press(empty, "b")
    assert "doubled" in empty.record.prompt.text()
    assert [m.kind for m in empty.session.draft.moves] == ["over"]


def test_every_region_that_shows_a_dot_can_be_clicked_and_is_written(empty):
    press(empty, "4oo~1ouuid~1o")
    board = empty.record.board
    board.act("up")
    board.grab()
    dots = board.regions()
    assert len(dots) > 12
    assert {a.left for a in dots} == {True, False}
    refused = []
    for dot in dots:
        before = empty.session.draft
        board.act("up")
        at = board._at(dot).toPoint()
        QTest.mouseClick(board, Qt.MouseButton.LeftButton, pos=at)
        draft = empty.session.draft
        if draft is before:
            refused.append((empty.session.board().ends[dot.which], dot.count))
            assert "its own tail" in empty.message_text.text()
        else:
            assert len(draft.moves) == len(before.moves) + 1
            assert check_structure(empty.session.board()) == []
        empty.session.set_draft(before)
    assert set(refused) == {("second.b", 0)}  # beside the tail it hangs on there is nothing to pass
    board.act("up")
    dot = next(a for a in board.regions() if a.which == 1 and a.count == 3)
    QTest.mouseClick(board, Qt.MouseButton.LeftButton, pos=board._at(dot).toPoint())
    assert empty.session.draft.moves[-1].loop is not None
    press(empty, "~")
    assert " of " in steps(empty)[-1]


def test_a_click_far_from_every_dot_says_what_to_do(empty):
    press(empty, "1o")
    empty.record.board.act("up")
    QTest.mouseClick(
        empty.record.board, Qt.MouseButton.LeftButton, pos=empty.record.board.rect().bottomLeft()
    )
    assert "Click a loop" in empty.message_text.text()
    assert empty.record.board.asking == "up"


def test_anything_the_script_can_say_is_written_as_one_line(empty, monkeypatch):
    lines = iter(["1+2: over 3 4", "square (1 | 2 3 | 4)", "span 60 mm", "1: ovr 2", "1: over 2", ""])
    offered = []

    def typed(*_args, text=""):
        offered.append(text)
        return next(lines), True

    monkeypatch.setattr(QInputDialog, "getText", typed)
    for _ in range(4):
        empty.run("record.write")
    assert steps(empty) == ["1+2: over 3 4", "square (1 | 2 3 | 4)", "span 60 mm"]
    assert "Did you mean" in empty.message_text.text()
    for _ in range(2):
        empty.run("record.write")
    assert offered == ["", "", "", "", "1: ovr 2", ""]  # a refused line is there again to be put right
    assert steps(empty)[-1] == "1: over 2"
    empty.run("edit.undo")
    empty.run("record.over")
    assert steps(empty)[-1] == "turn over"
    press(empty, "1o~")
    assert empty.session.ladder.steps[-1].turned
    empty.run("edit.undo")
    empty.run("edit.undo")
    assert steps(empty)[-1] == "span 60 mm"


def test_on_turned_work_letters_places_and_pictures_are_of_the_side_that_lies_up(empty):
    empty.run("record.over")
    assert empty.session.board_order()[0] == "second.b"
    press(empty, "do~")  # the letter of the end that now lies on the far left
    assert steps(empty)[-1] == "1: over 2"
    press(empty, "2uo~")  # a place, counted from the left as the work lies
    assert steps(empty)[-1] == "2: under 3, over 4"
    moved = [empty.session.ladder.ends[s.end] for s in empty.session.ladder.steps[1:]]
    assert moved == ["second.b", "second.b"]
    assert empty.session.ladder.names_shown() == ("first.b", "first.a", "second.a", "second.b")
    assert empty.tails.accessibleName().index("C") < empty.tails.accessibleName().index("D")
    press(empty, "a")
    assert empty.session.draft.end == "second.a"
    assert "A" in empty.record.prompt.text()


def test_a_former_shows_its_rows_its_ring_and_the_former_to_take(window, settled):
    window.open_path(window.session.path.parent / "marsh-ring.dimladder")
    window.session.choose_section(0)
    settled(window)
    rows = [r.text for r in window.ladder.rows]
    assert "1. bight 1 up: free" in rows
    assert sum(". bight " in r or ". back: " in r for r in rows) == 18
    assert window.record.step.title.text() == "6 leads, 9 bights"
    assert "a former" in window.record.step.notes.text()
    assert window.record.board.picture.title.startswith("6 leads, 9 bights, unrolled")
    assert "round former" in window.record.prompt.text()


@pytest.mark.parametrize("name", ["sluice-hanging", "sandpiper", "double-bar", "marsh-ring"])
def test_every_weave_of_the_workshop_opens_draws_and_says_its_steps(window, settled, name):
    window.open_path(window.session.path.parent / f"{name}.dimladder")
    settled(window)
    assert window.session.ladder.problems == ()
    for i in range(len(window.session.ladder.steps)):
        window.session.choose(i)
        assert window.record.step.sentence.text()
    for section in range(len(window.session.weave.sections)):
        window.session.choose_section(section)
        assert not window.record.board.grab().isNull()
    window.stage("view.sheet")
    settled(window)


def test_what_holds_and_a_slip_of_side_are_told_while_recording(empty, settled):
    half, other = "4oo~1ouuid~", "1oo~4ouuid~"
    press(empty, half)
    settled(empty)
    assert "falls apart after one tuck" in empty.record.step.notes.text()
    press(empty, other)
    settled(empty)
    assert empty.record.step.turning.text().startswith("Flat")
    press(empty, "1oo~4ouuia~")  # the lead is another end's by now, and the side is the same again
    settled(empty)
    assert "from the left again" in empty.record.step.turning.text()
