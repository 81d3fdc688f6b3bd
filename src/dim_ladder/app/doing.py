"""What an action is handed of the window, so that what carries it out need not know the window."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

from PySide6.QtWidgets import QWidget

from dim_ladder.app.session import Session


class Undoes(Protocol):
    """What a screen changes that is not the weave, and takes back itself."""

    @property
    def can_undo(self) -> bool: ...

    def undo(self) -> None: ...


@dataclass(frozen=True)
class Doing:
    """parent : what dialogs stand before. say : a message above the stage. attempt : carries out, says what is refused,
    and tells whether it was done. stage : shows a screen by its id and gives its widget. flush : what is typed but not
    taken yet becomes an edit."""

    parent: QWidget
    session: Session
    say: Callable[[str], None]
    attempt: Callable[[Callable[[], object]], bool]
    stage: Callable[[str], QWidget]
    flush: Callable[[], None]
