"""The stages of the work: which there are, in their order, and how each is made when it is first asked for."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtWidgets import QWidget

from dim_ladder.app.doing import Doing


@dataclass(frozen=True)
class Stage:
    """id : of the action that shows it. word : on its bead. make : the screen; imports stand in there, so that the window is
    up at once."""

    id: str
    word: str
    make: Callable[[Doing], QWidget]


def _hang(doing: Doing) -> QWidget:
    from dim_ladder.app.hang.screen import HangScreen

    screen = HangScreen(doing.session)
    screen.ready.connect(lambda: doing.stage("view.record"))
    return screen


def _record(doing: Doing) -> QWidget:
    from dim_ladder.app.record.screen import RecordScreen

    return RecordScreen(doing.session)


def _look(doing: Doing) -> QWidget:
    from dim_ladder.app.look.screen import LookScreen

    return LookScreen(doing.session)


def _tie(doing: Doing) -> QWidget:
    from dim_ladder.app.tie.screen import TieScreen

    return TieScreen(doing.session)


def _cut(doing: Doing) -> QWidget:
    from dim_ladder.app.cut.screen import CutScreen

    return CutScreen(doing.session)


def _sheet(doing: Doing) -> QWidget:
    from dim_ladder.app.sheet.screen import SheetScreen

    return SheetScreen(doing.session)


def _stash(doing: Doing) -> QWidget:
    from dim_ladder.app.stash.screen import StashScreen

    return StashScreen(doing.session)


def _orders(doing: Doing) -> QWidget:
    from dim_ladder.app.stash.orders import OrdersScreen

    return OrdersScreen(doing.session)


STAGES = (
    Stage("view.hang", "Hang", _hang),
    Stage("view.record", "Record", _record),
    Stage("view.look", "Look", _look),
    Stage("view.tie", "Tie", _tie),
    Stage("view.cut", "Cut", _cut),
    Stage("view.sheet", "Sheet", _sheet),
    Stage("view.stash", "Stash", _stash),
    Stage("view.orders", "Orders", _orders),
)
NUMBERS = (
    "view.tie",
    "view.cut",
    "view.sheet",
    "view.stash",
    "view.orders",
)  # stages that say what cord is needed
