"""Tight shapes for the window: asked for by section, rough at once, tighter as they come, known ones at once."""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from functools import partial

from PySide6.QtCore import QObject, Signal

from dim_ladder.app.workers import PAINTING, Jobs
from dim_ladder.base import DimLadderError
from dim_ladder.library import CordKind, cord_kind, own_kinds
from dim_ladder.notation import Section, Weave, write
from dim_ladder.shape import TightShape, tighten
from dim_ladder.shape.faces import Cords, cords_of
from dim_ladder.shape.packing import Packed, packing
from dim_ladder.shape.tighten import job_for

KEPT = 24
NO_CORDS = Cords(())
APART_S = 0.4  # between two pictures


@dataclass(frozen=True, slots=True)
class Answer:
    """shape : as tight as it is by now, None at first. done : nothing more comes. stopped : by the person. why : it cannot
    be pulled tight. cords : how its ends look. curve : cord against pitch, as far as it is known. content : what it is made
    from."""

    shape: TightShape | None = None
    cords: Cords = NO_CORDS
    done: bool = False
    stopped: bool = False
    why: str = ""
    curve: tuple[Packed, ...] = ()
    content: str = ""


class Tightener(QObject):
    """answered : there is more of the section that was asked for last."""

    answered = Signal()

    def __init__(self, jobs: Jobs, name: str, parent: QObject | None = None, *, curves: bool = False) -> None:
        super().__init__(parent)
        self._jobs, self._name, self._curves = jobs, name, curves
        self._known: OrderedDict[str, Answer] = OrderedDict()
        self._wanted: tuple[Weave, str, float, dict[str, CordKind]] | None = None
        self._stop = _Flag()
        self.answer = Answer()

    def ask(self, weave: Weave, section: Section, former_mm: float = 0.0, *, after_ms: int = 150) -> None:
        """The section of the weave as it is; what was asked for before leaves off. Costs nothing here: a key is waiting."""
        was = self._wanted
        if was is not None and was[0] is weave and was[1:] == (section.name, former_mm, dict(own_kinds())):
            return
        self._wanted = (weave, section.name, former_mm, dict(own_kinds()))
        self._stop.on = True
        # Until the new one comes, the last one stands: an edit does not make the picture jump away.
        self.answer = replace(self.answer, done=False, stopped=False, why="", curve=())
        flag = self._stop = _Flag()
        self._jobs.follow(
            self,
            self._name,
            partial(_answers, weave, section, former_mm, flag, self._curves, self._known),
            self._take,
            self._last,
            self._failed,
            after_ms=after_ms,
        )

    def leave(self) -> None:
        """Nothing is looked at any more."""
        if not self.answer.done:
            self._jobs.drop(self._name)
            self._wanted = None

    def stop(self) -> None:
        """What is tight by now is enough."""
        self._stop.on = True

    @property
    def busy(self) -> bool:
        return self._wanted is not None and not self.answer.done

    def _take(self, answer: Answer) -> None:
        self.answer = answer
        self.answered.emit()

    def _last(self, answer: Answer | None) -> None:
        if answer is None:
            return
        answer = replace(answer, done=True, stopped=self._stop.on and not answer.done)
        if not answer.stopped:
            self._known[answer.content] = answer
            self._known.move_to_end(answer.content)
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
    weave: Weave, section: Section, former_mm: float, flag: _Flag, curves: bool, known: Mapping[str, Answer],
    stale: Callable[[], bool],
) -> Iterator[Answer]:  # fmt: skip
    def enough() -> bool:
        with PAINTING:
            return flag.on or stale()

    content = f"{former_mm}\n{content_of(weave, section)}"
    before = known.get(content)
    if before is not None:
        yield before
        return
    cords = cords_of(weave, section.name)
    shape, shown = None, 0.0
    for shape in tighten(weave, section.name, core_mm=former_mm, stop=enough):
        if (
            time.monotonic() > shown + APART_S
        ):  # pictures cost more than what they show: not every state has one
            shown = time.monotonic()
            yield Answer(shape, cords, content=content)
    if shape is None:
        return
    yield Answer(shape, cords, content=content)
    if enough() or not curves:
        return
    for curve in packing(job_for(weave, section.name, former_mm), shape, enough):
        yield Answer(shape, cords, curve=curve, content=content)


def content_of(weave: Weave, section: Section) -> str:
    """All that the shape of a section is made from, and how it looks."""
    index = weave.sections.index(section)
    kinds = [cord_kind(c.kind) for c in weave.cords]
    return f"{write(replace(weave, name='x', sections=weave.sections[: index + 1]))}\n{kinds}"
