"""Playback on the board: by keys, buttons and slider; the rungs follow; nothing here waits for the clock."""

import xml.etree.ElementTree as ET

import pytest
from PySide6 import QtWidgets
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from dim_ladder.app.record.player import SPEEDS
from dim_ladder.commands import AddItem

Key = Qt.Key
SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def board(window):
    window.record.board.setFocus()
    return window.record.board


def run_out(player, seconds=0.05, most=3000):
    """Time goes by in our own hands; the moments seen."""
    player._timer.stop()
    seen = [player.moment]
    for _ in range(most):
        if not player.playing:
            return seen
        player.advance(seconds)
        seen.append(player.moment)
    raise AssertionError("it never ends")


def test_space_plays_to_the_end_and_the_rungs_follow(window, board):
    player = board.player
    steps = player.stretch()
    assert steps == (0, 3)
    QTest.keyClick(board, Key.Key_Space)
    assert player.playing
    assert window.record.transport.play.text() == "Stop"
    chosen = set()
    player._timer.stop()
    moments = []
    while player.playing:
        player.advance(0.1)
        chosen.add(window.session.chosen)
        moments.append(player.moment)
        assert not board.grab().isNull()
    assert moments == sorted(moments)
    assert moments[-1] == 4.0
    assert chosen == {0, 1, 2, 3}
    assert window.session.chosen == 3
    assert "Esc goes back" in board.prompt_text()
    QTest.keyClick(board, Key.Key_Escape)
    assert not player.on
    assert window.record.transport.play.text() == "Play"


def test_backwards_undoes_step_after_step(window, board):
    player = board.player
    window.session.choose(3)
    player.seek(4.0)
    QTest.keyClick(board, Key.Key_Space, SHIFT)
    seen = run_out(player)
    assert seen == sorted(seen, reverse=True)
    assert seen[-1] == 0.0
    QTest.keyClick(board, Key.Key_Space, SHIFT)  # from the end again
    assert player.moment == 4.0
    QTest.keyClick(board, Key.Key_Space, SHIFT)
    assert not player.playing


def test_a_finished_step_stands_for_a_moment_and_speed_scales_time(window, board):
    player = board.player
    times = {}
    for speed in (1.0, 2.0):
        player.speed = speed
        player.leave()
        window.session.choose(0)
        player.play()
        seen = run_out(player, 0.02)
        times[speed] = len(seen)
        assert sum(m == 1.0 for m in seen) > 0.5 / 0.02 / speed
    assert times[1.0] == pytest.approx(2 * times[2.0], rel=0.05)
    for _ in range(9):
        QTest.keyClicks(board, "+")
    assert player.speed == SPEEDS[-1]
    for _ in range(9):
        QTest.keyClicks(board, "-")
    assert player.speed == SPEEDS[0]
    window.record.transport.speed.click()
    assert window.record.transport.speed.text() == "0.5×"


def test_full_stop_and_comma_go_by_steps_and_the_slider_anywhere(window, board):
    player = board.player
    QTest.keyClicks(board, "..")
    assert (player.moment, window.session.chosen) == (2.0, 1)
    QTest.keyClicks(board, ",")
    assert (player.moment, window.session.chosen) == (1.0, 0)
    slider = window.record.transport.slider
    assert (slider.minimum(), slider.maximum(), slider.value()) == (0, 400, 100)
    slider.sliderMoved.emit(250)
    assert player.moment == 2.5
    assert window.record.transport.words.text() == "step 3 of 4"
    QTest.keyClicks(board, ".")
    assert player.moment == 3.0
    QTest.keyClicks(board, ",,,,")
    assert player.moment == 0.0


def test_from_behind(window, board):
    front = None
    QTest.keyClicks(board, ".")
    front = board.picture
    QTest.keyClicks(board, "/")
    assert window.record.transport.side.text() == "Back"
    assert board.picture != front
    assert board.picture.width == pytest.approx(front.width)
    QTest.keyClicks(board, "/")
    assert board.picture.shapes == front.shapes


def test_a_chosen_passage_is_the_stretch(window, board):
    window.session.choose_items("bar", 1, 1)
    assert board.player.stretch() == (2, 3)
    QTest.keyClick(board, Key.Key_Space)
    assert board.player.moment == 2.0
    assert run_out(board.player)[-1] == 4.0


def test_taking_an_end_choosing_a_rung_or_an_edit_ends_it(window, board, settled):
    player = board.player
    QTest.keyClicks(board, ".")
    QTest.keyClicks(board, "1")
    assert not player.on
    assert window.session.draft is not None
    assert window.record.below.currentWidget() is window.record.moves
    QTest.keyClick(board, Key.Key_Escape)
    assert window.record.below.currentWidget() is window.record.transport
    QTest.keyClicks(board, "..")
    window.session.choose(0)
    assert not player.on
    QTest.keyClicks(board, ".")
    window.session.do(AddItem(section="bar", text="1: over 2"))
    assert not player.on
    QTest.keyClicks(board, ".")
    settled(window)  # checks that arrive do not end it
    window.session.traced.emit()
    assert player.on


def test_without_motion_steps_jump_from_rest_to_rest(window, board):
    window.run("view.motion")
    board.player.play()
    seen = run_out(board.player, 0.02)
    assert {m - int(m) for m in seen} == {0.0}
    assert seen[-1] == 4.0
    window.run("view.motion")
    assert window.session.settings.motion


def test_without_steps_it_says_so(empty):
    empty.run("play.run")
    assert "no step to play" in empty.message_text.text()
    empty.run("play.save")
    assert "no step to show" in empty.message_text.text()
    assert not empty.record.transport.play.isEnabled()


def test_the_motion_is_saved_as_one_picture(window, settled, monkeypatch, tmp_path):
    monkeypatch.setattr(
        QtWidgets.QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "tern"), "")
    )
    window.run("play.save")
    settled(window)
    text = (tmp_path / "tern.svg").read_text(encoding="utf-8")
    ET.fromstring(text)
    assert text.count("<animateMotion") == 4
    assert "tern.svg" in window.message_text.text()


def test_with_an_end_in_hand_nothing_is_played(window, board):
    QTest.keyClicks(board, "1o")
    for action in ("play.run", "play.back", "play.next", "play.behind"):
        window.run(action)
        assert not board.player.on
        assert "Rest the end first" in window.message_text.text()
    assert window.session.draft is not None
    assert not board.grab().isNull()
