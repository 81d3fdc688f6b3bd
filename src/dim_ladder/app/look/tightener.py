"""Tight shapes for the window: asked for by section, rough at once, tighter as they come, known ones at once."""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import partial

from PySide6.QtCore import QObject, Signal

from dim_ladder.app.workers import PAINTING, Jobs
from dim_ladder.base import DimLadderError
from dim_ladder.notation import Section, Weave, write
from dim_ladder.shape import TightShape, tighten
from dim_ladder.shape.packing import Packed, packing
from dim_ladder.shape.tighten import job_for

KEPT = 24
APART_S = 0.4  # between two pictures


@dataclass(frozen=True, slots=True)
class Answer:
    """shape : as tight as it is by now, None at first. done : nothing more comes. stopped : by the person. why : it cannot
    be pulled tight. curve : cord against pitch, as far as it is known."""

    shape: TightShape | None = None
    done: bool = False
    stopped: bool = False
    why: str = ""
    curve: tuple[Packed, ...] = ()


class Tightener(QObject):
    """answered : there is more of the section that was asked for last."""

    answered = Signal()

    def __init__(self, jobs: Jobs, name: str, parent: QObject | None = None, *, curves: bool = False) -> None:
        super().__init__(parent)
        self._jobs, self._name, self._curves = jobs, name, curves
        self._known: OrderedDict[str, Answer] = OrderedDict()
        self._wanted = ""
        self._stop = _Flag()
        self.answer = Answer()

    def ask(self, weave: Weave, section: Section, former_mm: float = 0.0, *, after_ms: int = 150) -> None:
        """The section of the weave as it is; what was asked for before leaves off."""
        content = f"{former_mm}\n{content_of(weave, section)}"
        if content == self._wanted:
            return
        self._wanted = content
        self._stop.on = True
        known = self._known.get(content)
        if known is not None and known.done:
            self._known.move_to_end(content)
            self._jobs.drop(self._name)
            self._take(known)
            return
        # Until the new one comes, the last one stands: an edit does not make the picture jump away.
        self.answer = replace(self.answer, done=False, stopped=False, why="", curve=())
        flag = self._stop = _Flag()
        self._jobs.follow(
            self._name,
            partial(_answers, weave, section.name, former_mm, flag, self._curves),
            self._take,
            partial(self._last, content),
            self._failed,
            after_ms=after_ms,
        )

    def leave(self) -> None:
        """Nothing is looked at any more."""
        if not self.answer.done:
            self._jobs.drop(self._name)
            self._wanted = ""

    def stop(self) -> None:
        """What is tight by now is enough."""
        self._stop.on = True

    @property
    def busy(self) -> bool:
        return bool(self._wanted) and not self.answer.done

    def _take(self, answer: Answer) -> None:
        self.answer = answer
        self.answered.emit()

    def _last(self, content: str, answer: Answer | None) -> None:
        if answer is None:
            return
        answer = replace(answer, done=True, stopped=self._stop.on)
        if not answer.stopped:
            self._known[content] = answer
            while len(self._known) > KEPT:
                self._known.popitem(last=False)
        self._take(answer)

    def _failed(self, error: DimLadderError) -> None:
        self._take(Answer(done=True, why=str(error)))


class _Flag:
    """Tells a thread to leave it at what it has."""

    __slots__ = ("on",)

    def __init__(self) -> None:
        self.on = False


def _answers(
    weave: Weave, section: str, former_mm: float, flag: _Flag, curves: bool, stale: Callable[[], bool]
) -> Iterator[Answer]:
    def enough() -> bool:
        with PAINTING:
            return flag.on or stale()

    shape, shown = None, 0.0
    for shape in tighten(weave, section, core_mm=former_mm, stop=enough):
        if (
            time.monotonic() > shown + APART_S
        ):  # pictures cost more than what they show: not every state has one
            shown = time.monotonic()
            yield Answer(shape)
    if shape is None:
        return
    yield Answer(shape)
    if enough() or not curves:
        return
    for curve in packing(job_for(weave, section, former_mm), shape, enough):
        yield Answer(shape, curve=curve)


def content_of(weave: Weave, section: Section) -> str:
    """All that the shape of a section is made from, and how it looks."""
    index = weave.sections.index(section)
    return write(replace(weave, name="x", sections=weave.sections[: index + 1]))
