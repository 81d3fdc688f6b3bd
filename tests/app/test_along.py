"""Tying along: by any key or a click, counted and timed, found again after a crash; it ends in a test tie."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from dim_ladder.app.along.clock import Clock, clock_words
from dim_ladder.app.along.screen import Along
from dim_ladder.commands import SetScript
from dim_ladder.notation import write
from helpers.weaves import weave_of

Key = Qt.Key


class Time:
    """A clock in our own hands."""

    def __init__(self):
        self.now = 100.0

    def clock(self, worked):
        return Clock(worked, lambda: self.now)


@pytest.fixture
def time():
    return Time()


@pytest.fixture
def opened(window, qtbot, time):
    made = []

    def make():
        along = Along(window.session, time.clock)
        along.resize(1280, 800)
        along.show()
        qtbot.waitExposed(along)
        along.activateWindow()  # else keys are looked up among the shortcuts of the window below
        qtbot.waitUntil(along.isActiveWindow)
        along.ended.connect(window.filing._tied)
        made.append(along)
        return along

    yield make
    for along in made:
        along.close()
        along.deleteLater()


def begin(along, **counts):
    for name, n in counts.items():
        along.begin.counts[name].setValue(n)
    along.begin.begin_button.click()
    return along


def test_return_begins(opened):
    along = opened()
    QTest.keyClick(along.focusWidget() or along, Key.Key_Return)
    assert along.tying is not None
    assert along.tying.at == 0
    along.next()
    QTest.keyClick(along, Key.Key_Escape)
    again = opened()
    QTest.keyClick(again.focusWidget() or again, Key.Key_Return)  # goes on where it was
    assert again.tying.at == 1


def test_any_key_a_click_and_a_pedal_go_on_and_the_units_are_counted(opened, time):
    along = begin(opened(), bar=2)
    assert along.unit.text() == "1 / 2"
    assert along.step.text() == "unit of bar, step 1 of 4"
    assert "from the right" in along.side.text()
    assert along.sentence.text().startswith("D (orange, far right)")
    for key in (Key.Key_Space, Key.Key_PageDown, Key.Key_B):
        QTest.keyClick(along, key)
    QTest.mouseClick(along, Qt.MouseButton.LeftButton, pos=QPoint(400, 300))
    assert along.unit.text() == "2 / 2"
    QTest.keyClick(along, Key.Key_Shift)  # a key that only changes others is no step
    assert along.tying.at == 4
    QTest.keyClick(along, Key.Key_Backspace)
    assert (along.unit.text(), along.tying.at) == ("1 / 2", 3)
    assert not along.grab().isNull()


def test_the_end_becomes_a_test_tie_with_counts_and_minutes(window, opened, time):
    along = begin(opened(), bar=3)
    for _ in range(2 * 4 + 1):
        time.now += 30
        QTest.keyClick(along, Key.Key_Space)
    assert "a unit takes 2:00" in along.time.text()
    QTest.keyClick(along, Key.Key_P)
    time.now += 10_000
    along.refresh()
    assert along.time.text().startswith("4:30 (paused)")
    assert "Paused" in along.sentence.text()
    QTest.keyClick(along, Key.Key_Space)  # goes on, and is no step
    assert along.tying.at == 9
    QTest.keyClick(along, Key.Key_E)
    screen = window.screen_of("view.tie")
    assert screen.counts["bar"].text() == "2"  # two whole ones
    assert screen.minutes.text() == "4.5"
    assert "2 × bar" in window.message_text.text()
    assert screen.tie().counts == {"bar": 2}


def test_a_crash_loses_nothing(window, opened, time):
    along = begin(opened(), bar=4)
    for _ in range(6):
        time.now += 20
        QTest.keyClick(along, Key.Key_Space)
    # The program is gone without a word; another one begins.
    again = opened()
    assert "Which" not in again.begin.words.text()
    again.begin.go_on.emit()
    assert again.tying.at == 6
    assert again.unit.text() == "2 / 4"
    assert again.clock.seconds == 120
    time.now += 5
    assert again.clock.seconds == 125
    QTest.keyClick(again, Key.Key_Escape)
    third = opened()
    third.begin.go_on.emit()
    assert third.clock.seconds == 125


def test_a_changed_weave_begins_anew_and_says_so(window, opened, settled):
    begin(opened(), bar=4).next()
    window.session.do(SetScript(text=write(weave_of(2, "1: over 2"))))
    settled(window)
    along = opened()
    assert "has been changed" in along.begin.words.text()
    along.begin.go_on.emit()
    assert along.tying is None


def test_where_am_i(opened):
    along = begin(opened(), bar=3)
    for _ in range(5):
        along.next()
    QTest.keyClick(along, Key.Key_W)
    near = along.nearby
    assert along.pages.currentWidget() is near
    assert [c.at for c in near.choices] == [3, 4, 5, 6, 7]
    assert near.choices[2].accessibleName() == "unit 2, after step 1"
    assert not along.grab().isNull()
    QTest.keyClick(near, Key.Key_Left)
    QTest.keyClick(near, Key.Key_Left)
    QTest.keyClick(near, Key.Key_Return)
    assert along.tying.at == 3
    assert along.pages.currentWidget() is not near
    QTest.keyClick(along, Key.Key_W)
    QTest.keyClick(near, Key.Key_Escape)
    assert along.tying.at == 3
    QTest.keyClick(along, Key.Key_W)
    QTest.mouseClick(near.choices[-1], Qt.MouseButton.LeftButton)
    assert along.tying.at == near.choices[-1].at


def test_the_last_key_leads_to_the_tie(window, opened):
    along = begin(opened(), bar=1)
    for _ in range(len(along.beats) - 1):
        along.next()
    assert "flame" in along.check.text().lower()  # the ends are melted now
    for _ in range(1):
        QTest.keyClick(along, Key.Key_Space)
    assert along.finished
    assert "All is tied" in along.knot.text()
    QTest.keyClick(along, Key.Key_Space)
    assert window.screen_of("view.tie").counts["bar"].text() == "1"


def test_a_checkpoint_tells_what_the_tape_should_read(window, opened, settled):
    settled(window)
    assert window.session.calibration is not None
    along = begin(opened(), bar=12)
    told = set()
    for _ in range(12 * 4):
        along.next()
        if along.check.isVisible():
            told.add(along.check.text())
    assert any("the tape should read about" in t for t in told)
    assert "tape reads about" in along.tape.text()


def test_a_weave_that_cannot_be_tied_says_so(window, empty):
    empty.run("tie.along")
    assert "record one first" in empty.message_text.text()
    empty.session.do(
        SetScript(text=write(weave_of(2, "1: over 2")).replace("1: over 2", "1: over 2\n  2: over 2"))
    )
    empty.run("tie.along")
    assert "Mend the weave first" in empty.message_text.text()
    assert empty.filing.along is None


def test_clock_words():
    assert [clock_words(s) for s in (0, 59.6, 61, 3599, 3661)] == ["0:00", "1:00", "1:01", "59:59", "1:01:01"]


def test_from_the_menu_to_the_screen_and_back(window, qtbot):
    window.run("tie.along")
    along = window.filing.along
    qtbot.waitExposed(along)
    assert along.isFullScreen()
    begin(along, bar=2)
    QTest.keyClick(along, Key.Key_Escape)
    assert window.filing.along is None


def test_what_looks_wrong_is_compared_with_the_slips(opened, window, settled):
    """S, while a step is in hand: the right one and its slips; any key goes back to the very step."""
    along = begin(opened(), bar=2)
    along.next()
    at = along.tying.at
    QTest.keyClick(along, Key.Key_S)
    settled(window)
    assert along.pages.currentWidget() is along.wrong
    names = [c.slip.name for c in along.gallery.cards if c.slip is not None]
    assert "the same side twice" in names
    QTest.keyClick(along, Key.Key_Space)
    assert along.pages.currentWidget() is not along.wrong
    assert along.tying.at == at
    QTest.keyClick(along, Key.Key_S)
    QTest.mouseClick(
        along.wrong, Qt.MouseButton.LeftButton, pos=along.wrong.rect().bottomLeft() + QPoint(4, -4)
    )
    assert along.pages.currentWidget() is not along.wrong
    assert along.tying.at == at
    settled(window)
