"""A file is had by one window at a time, and by nobody once that one is gone, however it went."""

import os
import signal
import subprocess
import sys
from pathlib import Path

from dim_ladder.shelf.lock import Holder, Lock, lock_path, who_holds

HOLDS = """
import sys
from pathlib import Path
from dim_ladder.shelf.lock import Lock
lock = Lock(Path(sys.argv[1]))
print(lock.take(), flush=True)
sys.stdin.read()
"""


def test_the_second_is_told_who_has_it_and_a_kill_frees_it(tmp_path):
    path = lock_path(tmp_path / "tern.dimladder")
    p = subprocess.Popen([sys.executable, "-c", HOLDS, str(path)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)  # fmt: skip
    assert p.stdout.readline().strip() == "True"
    second = Lock(path)
    assert not second.take()
    assert second.possible
    assert second.holder.process == p.pid
    assert "another window of yours" in second.holder.words()
    assert f"process {p.pid}" in second.holder.words()
    assert second.holder.since in second.holder.words()
    p.send_signal(signal.SIGKILL)
    p.wait()
    p.stdin.close()
    p.stdout.close()
    assert second.take()
    assert second.holder is None
    assert who_holds(path).process == os.getpid()
    second.leave()
    assert not path.exists()


def test_the_lock_of_a_link_is_that_of_the_document_it_leads_to(tmp_path):
    real = tmp_path / "far" / "tern.dimladder"
    real.parent.mkdir()
    real.write_text("")
    link = tmp_path / "link.dimladder"
    link.symlink_to(real)
    assert lock_path(link) == lock_path(real)


def test_what_a_stranger_laid_there_is_let_alone(tmp_path):
    victim = tmp_path / "start-up"
    victim.write_text("mine")
    path = tmp_path / ".tern.lock"
    path.symlink_to(victim)
    lock = Lock(path)
    assert not lock.take()
    assert not lock.possible
    assert victim.read_text() == "mine"
    path.unlink()
    os.mkfifo(path)
    assert not Lock(path).take()
    path.unlink()
    for text in (
        "[]",
        "nonsense",
        '{"user": "<b>"}',
        '{"user": 1, "machine": [], "process": "x", "since": 0}',
        "9" * 5000,
    ):
        path.write_text(text)
        assert who_holds(path) == Holder()
    assert Holder().words() == "somebody"


def test_where_no_lock_can_be_work_goes_on_without(tmp_path):
    lock = Lock(Path(tmp_path / "none" / "x.lock"))
    assert not lock.take()
    assert not lock.possible
    assert lock.holder is None
    lock.leave()
    assert not (tmp_path / "none").exists()
