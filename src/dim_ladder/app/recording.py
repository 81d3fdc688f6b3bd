"""What the window does to the weave that is recorded: steps and sections added, moved, mirrored and removed."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QInputDialog

from dim_ladder.commands import ACTIONS, AddItem, AddMirrored, AddSection, MoveItem, RemoveItem
from dim_ladder.notation import SECTION_KINDS

if TYPE_CHECKING:
    from dim_ladder.app.window import MainWindow


class Recording:
    """Handlers of the actions that change the weave."""

    def __init__(self, window: MainWindow) -> None:
        self._w = window
        self._refused_line = ""

    def handlers(self) -> dict[str, Callable[[], None]]:
        return {
            "record.mirror": self._mirror,
            "record.write": self._write,
            "record.over": partial(self._add_line, "turn over"),
            "record.remove": self._remove,
            "record.earlier": partial(self._move, -1),
            "record.later": partial(self._move, 1),
            "record.section": self._section,
            **{a.id: partial(self._board, a.id) for a in ACTIONS if a.id.startswith("board.")},
        }

    def _board(self, action_id: str) -> None:
        self._w.stage("view.record")
        self._w.record.board.act(action_id.removeprefix("board."))

    def _mirror(self) -> None:
        sections = self._w.session.weave.sections
        if sections:
            self._w.session.do(AddMirrored(section=sections[self._w.session.section].name))

    def _add_line(self, text: str) -> None:
        """Add a line of the script to the section that is being recorded."""
        sections = self._w.session.weave.sections
        if not sections:
            self._w.say("Add a section first: Ctrl+Shift+N")
            return
        self._w.attempt(
            lambda: self._w.session.do(AddItem(section=sections[self._w.session.section].name, text=text))
        )

    def _write(self) -> None:
        text, ok = QInputDialog.getText(
            self._w,
            "Write a step",
            "As in the script: 1+2: over 3, up own · bar-right (1 | 2..8) · span 60 mm · add reed.a at 3",
            text=self._refused_line,
        )
        if ok and text.strip():
            before = self._w.session.weave
            self._add_line(text.strip())
            # What was refused stands there again, to be put right instead of typed anew.
            self._refused_line = text if self._w.session.weave is before else ""

    def _chosen_item(self) -> tuple[str, int] | None:
        step = self._w.session.chosen
        if step < 0:
            self._w.say("Choose a rung of the ladder first")
            return None
        op = self._w.session.ladder.steps[step].op
        return self._w.session.weave.sections[op.section].name, op.item

    def _remove(self) -> None:
        found = self._chosen_item()
        if found:
            self._w.session.do(RemoveItem(section=found[0], at=found[1]))

    def _move(self, by: int) -> None:
        found = self._chosen_item()
        if found is None:
            return
        section = self._w.session.weave.section(found[0])
        to = found[1] + by
        if section is None or not 0 <= to < len(section.items):
            return
        if self._w.session.do(MoveItem(section=found[0], at=found[1], to=to)):
            index = [s.name for s in self._w.session.weave.sections].index(found[0])
            steps = self._w.session.ladder.steps
            at = next((i for i, s in enumerate(steps) if s.op.section == index and s.op.item == to), -1)
            self._w.session.choose(at)

    def _section(self) -> None:
        text, ok = QInputDialog.getText(
            self._w,
            "New section",
            "Its name, and start, body or finish; such as: edge body",
            text="part body",
        )
        if not ok:
            return
        name, _, kind = text.strip().partition(" ")
        kind = kind.strip() or "body"
        if kind not in SECTION_KINDS:
            self._w.say(f"“{kind}” is not a kind of section. Write start, body or finish after the name")
            return
        count = "fit" if kind == "body" else "repeat 1"

        def add() -> None:
            if self._w.session.do(AddSection.model_validate({"name": name, "part": kind, "count": count})):
                names = [s.name for s in self._w.session.weave.sections]
                self._w.session.choose_section(names.index(name))

        self._w.attempt(add)
