import gc
import threading
import weakref
from functools import partial

import pytest
from PySide6.QtCore import QObject
from shiboken6 import delete

from dim_ladder.app.garbage import Collector
from dim_ladder.app.look.faceview import FaceView
from dim_ladder.app.workers import Jobs
from dim_ladder.base import InputError
from dim_ladder.picture import Picture


@pytest.fixture
def jobs(qtbot):
    j = Jobs()
    yield j
    j.finish()


def refuse(e):
    raise AssertionError(e)


def test_work_runs_elsewhere_and_answers_here(qtbot, jobs):
    seen = {}

    def work():
        seen["worker"] = threading.get_ident()
        return 42

    def then(result):
        seen["answer"] = (result, threading.get_ident())

    jobs.ask(jobs, "a", work, then, refuse)
    qtbot.waitUntil(lambda: "answer" in seen)
    assert seen["answer"] == (42, threading.get_ident())
    assert seen["worker"] != threading.get_ident()
    assert not jobs.busy


def test_only_the_newest_answer_of_a_key_is_delivered(qtbot, jobs):
    gate = threading.Event()
    got = []
    jobs.ask(jobs, "a", lambda: gate.wait() and "old", got.append, refuse)
    jobs.ask(jobs, "a", lambda: "new", got.append, refuse)
    jobs.ask(jobs, "b", lambda: "other", got.append, refuse)
    qtbot.waitUntil(lambda: len(got) == 2)
    gate.set()
    qtbot.waitUntil(lambda: not jobs.busy)
    assert sorted(got) == ["new", "other"]


def test_bad_input_goes_to_the_person_and_a_bug_is_raised(qtbot, jobs):
    said = []

    def bad():
        raise InputError("no such end", "try another")

    jobs.ask(jobs, "a", bad, refuse, said.append)
    qtbot.waitUntil(lambda: said != [])
    assert str(said[0]) == "no such end. try another"

    def bug():
        raise ZeroDivisionError("a bug")

    with qtbot.captureExceptions() as caught:
        jobs.ask(jobs, "a", bug, refuse, refuse)
        qtbot.waitUntil(lambda: not jobs.busy)
    assert caught[0][0] is ZeroDivisionError


def test_finishing_waits_and_delivers_nothing(qtbot, jobs):
    got = []
    jobs.ask(jobs, "a", lambda: 1, got.append, refuse)
    jobs.finish()
    qtbot.wait(30)
    assert got == []


def test_cycles_of_window_parts_are_collected_on_the_interface_thread_only(qtbot, jobs, qapp):
    destroyed_on = []

    class Part:
        def __init__(self):
            self.me = self

        def __del__(self):
            destroyed_on.append(threading.get_ident())

    def allocate():
        return [[] for _ in range(200_000)] and None  # enough to set off an automatic collection

    Part()
    done = []
    jobs.ask(jobs, "a", allocate, lambda _: done.append(1), refuse)
    qtbot.waitUntil(lambda: done == [1])
    here = threading.get_ident()
    assert set(destroyed_on) <= {here}  # the timer of this thread may have been at it
    assert not gc.isenabled()
    collector = qapp.findChild(Collector)
    rubbish = [[] for _ in range(5000)]
    assert rubbish
    assert collector.check() >= 0
    gc.collect()
    assert destroyed_on == [here]


def test_a_generators_values_come_as_they_are_made_and_the_last_one_once_more(qtbot, jobs):
    gates = [threading.Event() for _ in range(3)]
    got, last = [], []

    def work(stale):
        for n, gate in enumerate(gates):
            gate.wait()
            yield n

    jobs.follow(jobs, "a", work, got.append, last.append, refuse)
    for n, gate in enumerate(gates):
        gate.set()
        qtbot.waitUntil(lambda n=n: got[-1:] == [n])
    qtbot.waitUntil(lambda: last == [2])
    assert got == [0, 1, 2]
    qtbot.waitUntil(lambda: not jobs.busy)


def test_what_nobody_wants_any_more_leaves_off(qtbot, jobs):
    begun, over = threading.Event(), threading.Event()
    seen = []

    def endless(stale):
        try:
            while not stale():
                begun.set()
                yield 0
        finally:
            over.set()

    jobs.follow(jobs, "a", endless, seen.append, seen.append, refuse)
    assert begun.wait()
    jobs.follow(jobs, "a", lambda stale: iter([7]), seen.append, seen.append, refuse)
    assert over.wait()
    qtbot.waitUntil(lambda: seen[-2:] == [7, 7])
    over.clear()
    begun.clear()
    jobs.follow(jobs, "a", endless, seen.append, seen.append, refuse)
    assert begun.wait()
    jobs.drop("a")
    assert over.wait()
    qtbot.waitUntil(lambda: not jobs.busy)
    # Dropped before it began: it never does.
    jobs.follow(jobs, "b", lambda stale: iter([seen.append("never")]), refuse, refuse, refuse, after_ms=30)
    jobs.drop("b")
    assert not jobs.busy


def test_a_generator_that_refuses_says_so(qtbot, jobs):
    said = []

    def bad(stale):
        yield 1
        raise InputError("not that", "but this")

    jobs.follow(jobs, "a", bad, lambda v: None, refuse, said.append)
    qtbot.waitUntil(lambda: said != [])
    assert str(said[0]) == "not that. but this"


def test_nothing_is_delivered_to_what_qt_has_deleted(qtbot, jobs):
    gate, got = threading.Event(), []
    gone = QObject()
    jobs.ask(gone, "a", gate.wait, got.append, got.append)
    jobs.ask(gone, "later", lambda: got.append("never"), got.append, got.append, after_ms=20)
    delete(gone)
    gate.set()
    qtbot.waitUntil(lambda: not jobs.busy)
    assert got == []


def test_a_generator_leaves_off_when_its_owner_is_deleted(qtbot, jobs):
    begun, over, got = threading.Event(), threading.Event(), []
    gone = QObject()

    def endless(stale):
        try:
            while not stale():
                begun.set()
                yield 0
        finally:
            over.set()

    jobs.follow(gone, "a", endless, got.append, got.append, got.append)
    assert begun.wait()
    qtbot.waitUntil(lambda: got != [])
    delete(gone)
    count = len(got)
    assert over.wait()
    qtbot.waitUntil(lambda: not jobs.busy)
    assert len(got) == count


def test_a_face_that_is_painted_for_a_deleted_view_is_dropped(qtbot, jobs):
    gate, painted = threading.Event(), []
    view = FaceView(jobs, "face", "front")
    view.show()
    qtbot.waitExposed(view)

    def make(pixels):
        gate.wait()
        painted.append(pixels)
        return Picture(10.0, 10.0, (), "a face", "#ffffff")

    view.show_face(make)
    assert jobs.busy
    delete(view)
    gate.set()
    qtbot.waitUntil(lambda: not jobs.busy)
    assert len(painted) == 1


def test_what_was_answered_is_not_held_on_to(qtbot, jobs):
    class Large:
        pass

    alive = []

    def work(large=None):
        return large

    large = Large()
    alive.append(weakref.ref(large))
    done = []
    jobs.ask(jobs, "a", partial(work, large), lambda found: done.append(found is not None), refuse)
    del large
    qtbot.waitUntil(lambda: done == [True])
    qtbot.waitUntil(lambda: alive[0]() is None)
