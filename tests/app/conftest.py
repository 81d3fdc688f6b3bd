"""A real window on a made-up workshop."""

from __future__ import annotations

import gc

import pytest
from PySide6.QtCore import QCoreApplication, QEvent
from PySide6.QtWidgets import QApplication
from shiboken6 import isValid

from dim_ladder.app.main import application
from dim_ladder.app.session import Session
from dim_ladder.app.theme import apply_theme
from dim_ladder.app.window import MainWindow
from dim_ladder.shape import ready
from dim_ladder.shelf.workshop import make_demo
from helpers.patience import PatientBot


@pytest.fixture(scope="session")
def qapp_cls():
    return QApplication


@pytest.fixture
def qtbot(qapp, request):
    return PatientBot(request)


@pytest.fixture(scope="session", autouse=True)
def _modules_are_no_rubbish():
    """What is imported by now stays: no collection looks through it again, which took a tenth of a second a test."""
    import dim_ladder.app.window  # noqa: F401

    gc.collect()
    gc.freeze()


@pytest.fixture(scope="session")
def shape_cache(tmp_path_factory):
    """Shapes are worked out once for all tests of the window."""
    return tmp_path_factory.mktemp("shapes")


@pytest.fixture(autouse=True)
def _as_in_the_program(qapp, tmp_path, monkeypatch, shape_cache):
    """Fonts, theme and the collector on the interface thread, for every test that shows something; a state folder of
    its own."""
    monkeypatch.setenv("DIM_LADDER_STATE", str(tmp_path / "state"))
    monkeypatch.setenv("DIM_LADDER_CACHE", str(shape_cache))
    application()
    gc.collect()  # leftovers of other tests go here, on this thread


@pytest.fixture
def window(qtbot, qapp, tmp_path):
    """The window with the demo's first weave open."""
    apply_theme(qapp, dark=False)
    w = MainWindow()
    w.session.set_up(tight=False)  # tests of the tight weave beside the recorder switch it on
    w.open_path(make_demo(tmp_path / "workshop"))
    w.resize(1280, 800)
    w.show()
    w.activateWindow()
    qtbot.waitExposed(w)
    settle(qtbot, w)
    yield w
    w.session.unsaved = False  # nothing of a test asks on the way out
    w.close()
    w.session.jobs.finish()
    w.deleteLater()
    QCoreApplication.sendPostedEvents(
        None, QEvent.Type.DeferredDelete
    )  # else every later style change pays for it
    assert not isValid(w)


@pytest.fixture
def empty(window, qtbot):
    """The window with a new weave without a file."""
    window.run("file.new")
    window.stage("view.record")
    settle(qtbot, window)
    return window


def settle(qtbot, window):
    """Until everything asked for on threads has arrived."""
    qtbot.waitUntil(lambda: not window.session.jobs.busy)


@pytest.fixture
def settled(qtbot):
    return lambda window: settle(qtbot, window)


@pytest.fixture
def look(window, settled):
    """The screen Look, with the section pulled tight by the compiled loops."""
    assert ready(wait=True)
    screen = window.screen_of("view.look")
    settled(window)
    return screen


@pytest.fixture
def sessions(qapp):
    """Makes sessions without a window; words : what each said."""
    made = []

    def make(path=None):
        s = Session()
        s.words = []
        s.said.connect(s.words.append)
        made.append(s)
        if path is not None:
            s.open(path)
        return s

    yield make
    for s in made:
        s.unsaved = False
        s.close()
        s.jobs.finish()
