"""Random works, as the property tests of the core make them, through every screen of the window."""

from dataclasses import replace

import pytest

from dim_ladder.app.screens import STAGES
from dim_ladder.commands import SetScript
from dim_ladder.notation import write
from dim_ladder.trace import trace
from helpers.sizes import sized
from helpers.works import random_work

MOST = 36  # crossings: what takes long to pull tight is for the tests of the shape


def _works(count):
    """In cord of one thickness, of a few crossings each."""
    seed, out = 0, []
    while len(out) < count:
        seed += 1
        work = random_work(seed)
        if len(trace(work).crossings) <= MOST and len(work.sections) > 1:
            cords = tuple(replace(c, kind="nylon-4mm") for c in work.cords)
            out.append(pytest.param(replace(work, cords=cords), id=str(seed)))
    return out


@pytest.mark.parametrize("work", _works(sized(4, 60)))
def test_every_screen_shows_it_or_says_why_not(window, qtbot, tmp_path, work):
    session = window.session
    assert session.do(SetScript(text=write(work)))
    assert session.ladder.problems == ()
    for stage in STAGES:
        window.run(stage.id)
        qtbot.waitUntil(lambda: not session.jobs.busy)
        assert not window.grab().isNull()
    cut, sheet = window.screen_of("view.cut"), window.screen_of("view.sheet")
    said = cut.headline.text()
    # A cut with its chance, or in words what stands in its way; the same on the sheet.
    assert ("running short" in said) == (cut.piece is not None)
    assert len(said) > 20
    sheet.publish(tmp_path)
    qtbot.waitUntil(lambda: not session.jobs.busy)
    assert list(tmp_path.glob("*.html")) or sheet.trouble.text()
    session.undo()
    assert session.ladder.problems == ()
