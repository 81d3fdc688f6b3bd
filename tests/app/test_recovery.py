"""Nothing is lost: undo reaches past a restart, a killed program's edits are back, weaves without a file too."""

import os
import signal
import subprocess
import sys
from pathlib import Path

from dim_ladder.commands import SetName
from dim_ladder.shelf import read_document
from dim_ladder.shelf.workshop import make_demo


def test_undo_reaches_past_a_restart(sessions, tmp_path):
    path = make_demo(tmp_path / "w")
    first = sessions()
    first.open(path)
    name = first.weave.name
    for n in ("A", "B", "C"):
        first.do(SetName(name=n))
    first.undo()
    first.close()
    again = sessions()
    again.open(path)
    assert again.weave.name == "B"
    assert again.history.redo_label == "Rename to C"
    again.undo()
    again.undo()
    assert again.weave.name == name
    assert again.history.undo_label == ""
    assert not [w for w in again.words if w]


KILLED = """
import os, sys
os.environ["QT_QPA_PLATFORM"] = "offscreen"
from pathlib import Path
from dim_ladder.app.main import application
from dim_ladder.app.session import Session
from dim_ladder.commands import SetName
application()
s = Session()
if sys.argv[1] != "-":
    s.open(Path(sys.argv[1]))
for n in ("First", "Second"):
    s.do(SetName(name=n))
print("ready", flush=True)
sys.stdin.read()
"""


def killed(argument):
    """A program that makes two edits and is killed before anything is saved."""
    env = os.environ | {"PYTHONPATH": str(Path(__file__).parents[2] / "src")}
    p = subprocess.Popen([sys.executable, "-c", KILLED, argument], stdin=subprocess.PIPE, stdout=subprocess.PIPE, env=env, text=True)  # fmt: skip
    assert p.stdout.readline().strip() == "ready"
    p.send_signal(signal.SIGKILL)
    p.wait()
    p.stdin.close()
    p.stdout.close()


def test_edits_of_a_killed_program_are_back(sessions, tmp_path):
    path = make_demo(tmp_path / "w")
    before = read_document(path)
    killed(str(path))
    assert read_document(path) == before  # nothing was saved
    s = sessions()
    s.open(path)
    assert s.weave.name == "Second"
    assert "2 edits were not saved" in s.words[-1]
    assert "Rename to Second" in s.words[-1]
    assert read_document(path).weave.name == "Second"
    s.undo()
    s.undo()
    assert s.document == before


def test_a_weave_in_no_file_is_back_too_and_only_once(sessions, tmp_path):
    killed("-")
    s = sessions()
    assert s.recover()
    assert s.weave.name == "Second"
    assert "Ctrl+S keeps it" in s.words[-1]
    assert s.unsaved
    s.undo()
    assert s.weave.name == "First"
    other = sessions()
    assert not other.recover()  # the first one has it now
    s.save(tmp_path / "kept.dimladder")
    assert not list((tmp_path / "state").glob("unsaved-*.journal"))
    assert s.history.redo_label == "Rename to Second"


def test_leaving_without_it_forgets_it(sessions, tmp_path):
    s = sessions()
    s.new()
    s.do(SetName(name="Draft"))
    assert list((tmp_path / "state").glob("unsaved-*.journal"))
    s.custody.keeper.forget()
    assert not list((tmp_path / "state").glob("unsaved-*.journal"))


def test_a_folder_that_takes_no_journal_is_told_and_the_journal_goes_on_elsewhere(sessions, tmp_path):
    path = make_demo(tmp_path / "w")
    path.with_name(f".{path.name}.journal").mkdir()
    s = sessions()
    s.open(path)
    assert any("Every change is kept in" in w for w in s.words)
    assert s.do(SetName(name="A"))
    assert "A" in next((tmp_path / "state").glob("away-*.journal")).read_text()
    s.close()
    assert read_document(path).weave.name == "A"
