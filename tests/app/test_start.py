"""Starting as the person does: with nothing, with a file, with the demo, with something that is not there."""

import subprocess
import sys

import pytest
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from dim_ladder.app import main as starting
from dim_ladder.shelf import read_document
from dim_ladder.shelf.workshop import make_demo


@pytest.fixture
def started(qapp, monkeypatch):
    """start(), with a look at its window before it is closed again."""

    qapp.setQuitOnLastWindowClosed(False)
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)  # put back afterwards

    def run(args, look):
        seen = []

        def peek():
            try:
                windows = [w for w in QApplication.topLevelWidgets() if isinstance(w, starting.MainWindow)]
                (window,) = [w for w in windows if w.isVisible()]
                seen.append(look(window))
                window.session.unsaved = False
                window.close()
                window.deleteLater()
            finally:
                qapp.exit()  # at once: a quit that is posted twice would end the loops of later tests

        QTimer.singleShot(50, peek)
        assert starting.start(args) == 0
        return seen[0]

    yield run
    qapp.setQuitOnLastWindowClosed(True)


def test_with_nothing_four_ends_hang(started):
    assert len(started([], lambda w: w.session.weave.hang.ends)) == 4


def test_with_a_file(started, tmp_path):
    path = make_demo(tmp_path / "w")
    assert started([str(path)], lambda w: w.session.path) == path


def test_with_the_demo_which_stays_as_it_was_left(started, tmp_path, monkeypatch):
    folder = tmp_path / "demo"
    monkeypatch.setenv("DIM_LADDER_DEMO", str(folder))
    assert started(["demo"], lambda w: w.session.weave.name) == "Tern Ladder"
    path = folder / "tern-ladder.dimladder"
    path.write_text(path.read_text("utf-8").replace("Tern Ladder", "My Ladder"), "utf-8")
    assert started(["demo"], lambda w: w.session.weave.name) == "My Ladder"
    assert started(["demo", "--fresh"], lambda w: w.session.weave.name) == "Tern Ladder"
    assert read_document(path).weave.name == "Tern Ladder"


def test_with_something_that_is_not_there(started, tmp_path, capsys):
    text = started([str(tmp_path / "none.dimladder")], lambda w: w.message_text.text())
    assert "no such file" in text
    assert "no such file" in capsys.readouterr().err


def test_the_demo_in_a_place_that_cannot_be_written(started, tmp_path, monkeypatch):
    (tmp_path / "file").write_text("", "utf-8")
    monkeypatch.setenv("DIM_LADDER_DEMO", str(tmp_path / "file" / "below"))
    assert "Cannot write" in started(["demo"], lambda w: w.message_text.text())


def test_a_fault_of_ours_is_reported_and_said_and_work_goes_on(started, tmp_path, capsys):
    def fault(window):
        before = window.session.weave
        error = ZeroDivisionError("a fault")
        sys.excepthook(ZeroDivisionError, error, None)
        assert window.session.weave is before
        return window.message_text.text()

    said = started([], fault)
    assert "not yours: ZeroDivisionError (a fault)" in said
    (report,) = (tmp_path / "state" / "crashes").glob("*.txt")
    assert str(report) in said
    assert "Traceback" not in capsys.readouterr().err


def test_a_fault_before_there_is_a_window_is_a_report_with_its_own_status(monkeypatch, tmp_path, capsys):
    from dim_ladder import __main__ as program

    def broken(args):
        raise ZeroDivisionError("too early")

    monkeypatch.setattr("dim_ladder.app.start", broken)
    monkeypatch.setattr(sys, "argv", ["dim-ladder"])
    assert program.main() == 70
    assert "ZeroDivisionError (too early)" in capsys.readouterr().err
    assert list((tmp_path / "state" / "crashes").glob("*.txt"))


def test_a_window_stands_before_what_is_slow_to_load_is_loaded():
    """Each of these takes as long to load as all else together, and none is asked for before there is a window."""
    code = (
        "import sys, dim_ladder.app.main as m, dim_ladder.app.window as w; "
        "print(*(n for n in ('scipy.optimize', 'scipy.spatial', 'scipy.special', 'numba', 'pygltflib') if n in sys.modules))"
    )
    found = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert found.stdout.strip() == ""
