"""A weave too long to trace at once: the window goes on, tells how far it is, and can stop."""

import pytest

from dim_ladder.app import tracing
from dim_ladder.app.tracing import Traces
from dim_ladder.commands import AddItem, SetScript
from dim_ladder.notation import parse_strict, write
from dim_ladder.trace import Tracer
from helpers.weaves import weave_of


@pytest.fixture
def slow(monkeypatch):
    """Everything past 64 steps is put off."""
    monkeypatch.setattr(tracing, "AT_ONCE_S", 0.0)
    monkeypatch.setattr(tracing, "SLICE_S", 0.0)


def long_weave(n=400):
    return weave_of(3, *(["1: over 2", "3: over 2"] * (n // 2)))


def test_what_is_put_off_is_drawn_in_slices_and_is_the_same_trace(qtbot, slow):
    traces = Traces()
    weave = long_weave()
    first = traces.follow(weave, {})
    assert traces.busy
    assert 0 < len(first.steps) < 400
    assert "not traced to its end" in str(first.problems[0])
    assert traces.board(weave, 0, None, None, True) is first
    with qtbot.waitSignal(traces.grown):
        pass
    assert not traces.busy
    whole = Tracer().trace(weave)
    assert traces.ladder.crossings == whole.crossings
    assert traces.ladder.paths == whole.paths
    assert not traces.ladder.problems
    assert traces.board(weave, 0, None, None, True).order == whole.order


def test_stopping_leaves_it_where_it_is_and_another_weave_begins_anew(qtbot, slow):
    traces = Traces()
    traces.follow(long_weave(), {})
    with qtbot.waitSignal(traces.grown):
        traces.stop()
    assert traces.busy
    assert traces.stopped
    drawn = len(traces.ladder.steps)
    qtbot.wait(30)
    assert len(traces.ladder.steps) == drawn < 400
    short = weave_of(3, "1: over 2")
    assert not traces.follow(short, {}).problems
    assert not traces.busy


def test_the_window_says_how_far_it_is_and_takes_no_step_until_it_is_done(window, qtbot, settled, slow):
    window.session.do(SetScript(text=write(long_weave())))
    assert window.session.traces.busy
    window._show_status()
    assert "of 400 steps traced" in window.unit_words.text()
    assert window.actions_by_id["edit.stop"].isEnabled()
    window.record.board.setFocus()
    qtbot.keyClicks(window.record.board, "1")
    assert window.session.draft is None
    assert "not traced to its end" in window.message_text.text()
    window.run("edit.stop")
    assert "stopped" in window.unit_words.text()
    before = len(window.session.ladder.steps)
    # The next edit draws on, from where it stopped.
    window.session.do(AddItem(section="s", text="1: over 2"))
    qtbot.waitUntil(lambda: not window.session.traces.busy)
    settled(window)
    assert len(window.session.ladder.steps) == 401 > before
    assert not window.actions_by_id["edit.stop"].isEnabled()
    qtbot.keyClicks(window.record.board, "1")
    assert window.session.draft is not None
    window.session.undo()
    assert parse_strict(write(window.session.weave)) == long_weave()
