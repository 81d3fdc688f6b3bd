"""Work in another process: the same answers, left off when nobody wants them, and done here where there is no helper."""

import itertools
import os
import signal
import sys
import threading
from multiprocessing.connection import Pipe

import pytest

from dim_ladder.base import InputError
from dim_ladder.notation import parse_strict
from dim_ladder.shape import helper, tighten
from dim_ladder.shape.helper import elsewhere, is_on, switch_off, switch_on
from helpers.weaves import TERN


@pytest.fixture
def on():
    switch_on()
    yield
    switch_off()


def never():
    return False


def count(upto, *, stop):
    """Numbers, with the process that counts them; leaves off when told."""
    for n in range(upto):
        yield n, os.getpid()
        if stop():
            return


def refuses(*, stop):
    yield 1
    raise InputError("not that", "but this")


def dies(times, *, stop):
    """Ends its process so often, if it is another one than this."""
    yield "begun"
    if os.environ.get("HERE") != str(os.getpid()):
        mark = f"{times}.died"
        with open(mark, "a", encoding="utf-8") as f:
            f.write("x")
        with open(mark, encoding="utf-8") as f:
            if len(f.read()) <= times:
                os.kill(os.getpid(), signal.SIGKILL)
    yield os.getpid()


@pytest.fixture(autouse=True)
def _known_there(monkeypatch):
    """The functions of this file have a name in the other process too."""
    monkeypatch.setenv("PYTHONPATH", os.pathsep.join([os.path.dirname(__file__), *sys.path]))


def test_values_come_from_another_process_in_order(on):
    assert is_on()
    found = list(elsewhere(count, 500, stop=never))
    assert [n for n, _ in found] == list(range(500))
    assert {pid for _, pid in found} != {os.getpid()}
    assert next(iter(elsewhere(count, 3, stop=never)))[1] == found[0][1]  # the same one again


def test_without_a_helper_it_is_done_here():
    assert not is_on()
    assert list(elsewhere(count, 2, stop=never)) == [(0, os.getpid()), (1, os.getpid())]


def test_who_wants_no_more_gets_no_more(on):
    seen = []
    for n, _ in elsewhere(count, 10**9, stop=lambda: len(seen) >= 3):
        seen.append(n)
    assert len(seen) >= 3
    # Left in the midst, it is free for the next one.
    assert [n for n, _ in itertools.islice(elsewhere(count, 10**9, stop=never), 4)] == [0, 1, 2, 3]
    assert [n for n, _ in elsewhere(count, 3, stop=never)] == [0, 1, 2]


def test_two_at_a_time_have_a_helper_each(on):
    one, two = (elsewhere(count, 3, stop=never) for _ in range(2))
    pids = {next(one)[1], next(two)[1]}
    assert len(pids) == 2
    assert [n for n, _ in one] == [n for n, _ in two] == [1, 2]


def test_what_is_refused_there_is_refused_here(on):
    work = elsewhere(refuses, stop=never)
    assert next(work) == 1
    with pytest.raises(InputError, match="not that") as e:
        next(work)
    assert e.value.hint == "but this"
    assert [n for n, _ in elsewhere(count, 2, stop=never)] == [0, 1]


def test_a_helper_that_dies_is_begun_anew_and_then_work_is_done_here(on, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    switch_off()
    monkeypatch.setenv("HERE", str(os.getpid()))
    switch_on()
    *_, pid = elsewhere(dies, 1, stop=never)  # once: another helper does it
    assert pid != os.getpid()
    *_, pid = elsewhere(dies, 9, stop=never)  # again and again: done here
    assert pid == os.getpid()


def test_the_tight_weave_is_the_same_from_there(on, tmp_path, monkeypatch):
    weave = parse_strict(TERN)
    monkeypatch.setenv("DIM_LADDER_CACHE", str(tmp_path / "there"))
    *_, there = tighten(weave, "bar")
    switch_off()
    monkeypatch.setenv("DIM_LADDER_CACHE", str(tmp_path / "here"))
    *_, here = tighten(weave, "bar")
    assert there.pitch == pytest.approx(here.pitch, rel=1e-3)
    assert there.per_end == pytest.approx(here.per_end, rel=1e-3)
    assert there.converged
    assert here.converged


def test_an_idle_helper_ends_and_another_one_is_begun_when_it_is_needed(on, monkeypatch):
    (first,) = helper._helpers
    (_, before), *_ = elsewhere(count, 1, stop=never)
    first._process.terminate()
    first._process.wait()
    (_, after), *_ = elsewhere(count, 1, stop=never)
    assert after != before


def test_the_helper_itself_serves_until_its_way_is_closed(monkeypatch):
    """Its life, on a thread of this process: what it answers, and that a late stop does no harm."""
    mine, other = Pipe()
    monkeypatch.setattr(helper, "IDLE_S", None)
    ended = []

    def life():
        try:
            helper._serve(other)
        except EOFError:
            ended.append("closed")

    thread = threading.Thread(target=life)
    thread.start()

    def answer():
        kinds = []
        while not kinds or kinds[-1] == "value":
            kinds.append(mine.recv()[0])
        return kinds

    mine.send(None)
    mine.send((count, (2,)))
    assert answer() == ["value", "value", "over"]
    mine.send((refuses, ()))
    assert answer() == ["value", "failed"]
    mine.close()
    thread.join()
    assert ended == ["closed"]
    other.close()


def test_a_helper_that_nobody_asks_ends(monkeypatch):
    mine, other = Pipe()
    monkeypatch.setattr(helper, "IDLE_S", 0.0)
    helper._serve(other)
    other.close()
    with pytest.raises(EOFError):
        mine.recv()
