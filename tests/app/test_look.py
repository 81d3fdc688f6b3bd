"""The section pulled tight, on its own screen: worked out on a thread, kept, stopped, honest."""

import pytest
from PySide6.QtTest import QTest

from dim_ladder.commands import SetColour, SetScript
from dim_ladder.notation import write
from helpers.weaves import weave_of


@pytest.fixture
def look(window, settled):
    screen = window.screen_of("view.look")
    settled(window)
    return screen


def test_front_back_and_edge_with_its_size_in_the_chosen_cord(window, look):
    assert look.shape.converged
    assert "a unit is 16 mm long" in look.words.text()
    assert [x[:11] for x in look.lengths.text().split("\n")] == [
        "A (buoy.a) ",
        "B (tide.a) ",
        "C (tide.b) ",
        "D (buoy.b) ",
    ]
    assert "a test tie counts for more" in look.honest.text()
    assert not look.stop_button.isVisible()
    pictures = {}
    for side, view in look.views.items():
        assert not view.grab().isNull()
        pictures[side] = view._picture
    assert pictures["front"].shapes != pictures["back"].shapes
    assert pictures["edge"].width < pictures["front"].width


def test_what_is_known_is_not_pulled_again(window, look, settled):
    first = look.shape
    window.session.do(SetColour(cord="tide", colour="#123456"))
    settled(window)
    assert look.shape is not first  # colours are in what it is made from
    window.session.undo()
    look.refresh()
    assert look.shape is first


def test_it_says_what_cannot_be_pulled(window, look, settled):
    window.session.do(SetScript(text=write(weave_of(2, "1: over 2", "drop k1.a"))))
    settled(window)
    assert look.shape is None
    assert "come, go or are laid anew" in look.words.text()
    window.session.do(SetScript(text=write(weave_of(2))))
    settled(window)
    assert "Record a unit first" in look.words.text()


def test_a_long_one_can_be_stopped_and_says_so(window, look, qtbot, settled):
    window.session.do(SetScript(text=write(weave_of(8, "bar-right (1 | 2..8)", "bar-left (1..7 | 8)"))))
    qtbot.waitUntil(look.stop_button.isVisible, timeout=5000)
    QTest.qWait(300)
    look.stop()
    settled(window)
    assert look.shape is not None
    assert not look.shape.converged
    assert "Stopped before it was tight" in look.honest.text()
