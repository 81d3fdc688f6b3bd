"""What the window does to the weave that is recorded: steps and sections added, moved, mirrored and removed."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import cast

from PySide6.QtGui import QColor, QGuiApplication
from PySide6.QtWidgets import QColorDialog, QInputDialog

from dim_ladder.app.doing import Doing
from dim_ladder.app.record.knots import KnotBook
from dim_ladder.app.record.screen import RecordScreen
from dim_ladder.base.lengths import read_length
from dim_ladder.commands import (
    ACTIONS,
    AddItem,
    AddItems,
    AddMirrored,
    AddSection,
    Edit,
    ExtractKnot,
    FlipItems,
    InlineKnot,
    MirrorItems,
    MoveItem,
    RemoveItem,
    RenameCord,
    RepeatItems,
    SetColour,
    SetCordKind,
    SwapLeader,
    items_text,
    read_items,
)
from dim_ladder.commands.edit_base import EditBase
from dim_ladder.commands.setup import JoinCords
from dim_ladder.library import all_kinds, cord_kind, kind_named
from dim_ladder.notation import SECTION_KINDS, Item


class Recording:
    """Handlers of the actions that change the weave."""

    def __init__(self, doing: Doing, screen: RecordScreen) -> None:
        self._do, self._screen = doing, screen
        self._refused_line = ""

    def handlers(self) -> dict[str, Callable[[], None]]:
        return {
            "record.mirror": self._mirror,
            "record.book": self._book,
            "record.write": self._write,
            "record.mend": lambda: (self._screen.script.mend(), None)[1],
            "record.over": partial(self._add_line, "turn over"),
            "edit.cut": self._cut,
            "edit.copy": lambda: (self._copy(), None)[1],
            "edit.paste": self._paste,
            "record.insert": self._insert,
            "record.repeat": self._repeat,
            "record.mirror-here": lambda: (self._on_passage(MirrorItems), None)[1],
            "record.flip-here": lambda: (self._on_passage(FlipItems), None)[1],
            "record.swap-leader": lambda: (self._on_passage(SwapLeader), None)[1],
            "record.knot": self._knot,
            "record.open-knot": lambda: (self._on_passage(InlineKnot), None)[1],
            "record.keep-ends": self._do.session.take_offer,
            "cord.rename": self._rename_cord,
            "cord.colour": self._recolour,
            "cord.kind": self._cord_kind,
            "cord.join": self._join,
            "record.remove": lambda: (self._on_passage(RemoveItem), None)[1],
            "record.earlier": partial(self._move, -1),
            "record.later": partial(self._move, 1),
            "record.section": self._section,
            **{a.id: partial(self._board, a.id) for a in ACTIONS if a.id.startswith("board.")},
        }

    def _board(self, action_id: str) -> None:
        self._do.stage("view.record")
        self._screen.board.act(action_id.removeprefix("board."))

    def _mirror(self) -> None:
        sections = self._do.session.weave.sections
        if sections:
            self._do.session.do(AddMirrored(section=sections[self._do.session.section].name))

    def _add_line(self, text: str) -> None:
        """Add a line of the script to the section that is being recorded."""
        sections = self._do.session.weave.sections
        if not sections:
            self._do.say("Add a section first: Ctrl+Shift+N")
            return
        session = self._do.session
        name = sections[session.section].name
        before = len(self._items(name))
        self._do.attempt(lambda: session.do(AddItem(section=name, text=text, at=session.cursor)))
        if session.cursor is not None and len(self._items(name)) > before:
            session.record_before(session.cursor + 1)

    def _book(self) -> None:
        session = self._do.session
        if session.draft is not None:
            self._do.say("Rest the end first, or let it go; then a whole knot can be tied")
            return
        if not session.weave.sections or session.traces.busy or session.board().problems:
            self._do.say("Mend the weave first; then a knot can be tied at its end")
            return
        book = KnotBook(session, self._add_line, self._do.parent)
        book.exec()
        book.deleteLater()

    def _write(self) -> None:
        text, ok = QInputDialog.getText(
            self._do.parent,
            "Write a step",
            "As in the script: 1+2: over 3, up own · bar-right (1 | 2..8) · span 60 mm · add reed.a at 3",
            text=self._refused_line,
        )
        if ok and text.strip():
            before = self._do.session.weave
            self._add_line(text.strip())
            # What was refused stands there again, to be put right instead of typed anew.
            self._refused_line = text if self._do.session.weave is before else ""

    # -- passages ----------------------------------------------------------------------------------

    def _passage(self) -> tuple[str, int, int] | None:
        found = self._do.session.passage()
        if found is None:
            self._do.say("Choose a rung of the ladder first; Shift with the arrows chooses more")
        return found

    def _on_passage(self, edit: type[EditBase], **more: object) -> bool:
        """Carry out an edit on the chosen rungs, and keep them chosen where they are still there."""
        found = self._passage()
        if found is None:
            return False
        section, first, last = found
        session = self._do.session
        before = len(self._items(section))
        made = edit.model_validate({"section": section, "at": first, "last": last, **more})
        done = session.do(cast(Edit, made))
        if done:
            grown = len(self._items(section)) - before
            session.choose_items(
                section, first, max(first, last + grown) if edit is not RemoveItem else first
            )
        return done

    def _items(self, section: str) -> tuple[Item, ...]:
        found = self._do.session.weave.section(section)
        return found.items if found else ()

    def _move(self, by: int) -> None:
        found = self._passage()
        if found is None:
            return
        section, first, last = found
        to = first + by
        if to >= 0 and last + by < len(self._items(section)):
            self.move_to(section, first, last, to)

    def move_to(self, section: str, first: int, last: int, to: int) -> None:
        """Move items so that the first of them stands at `to`, and keep them chosen."""
        if self._do.session.do(MoveItem(section=section, at=first, last=last, to=to)):
            self._do.session.choose_items(section, to, to + last - first)

    def _copy(self) -> bool:
        found = self._passage()
        if found is None:
            return False
        section, first, last = found
        QGuiApplication.clipboard().setText(items_text(self._items(section)[first : last + 1]))
        return True

    def _cut(self) -> None:
        if self._copy():
            self._on_passage(RemoveItem)

    def _paste(self) -> None:
        session = self._do.session
        if not session.weave.sections:
            self._do.say("Add a section first: Ctrl+Shift+N")
            return
        found = session.passage()
        text = QGuiApplication.clipboard().text()
        if found is not None:
            section, at = found[0], found[2] + 1
        else:
            section = session.weave.sections[session.section].name
            at = session.cursor if session.cursor is not None else len(self._items(section))
        before = len(self._items(section))
        if self._do.attempt(lambda: read_items(text)) and session.do(
            AddItems(section=section, text=text, at=at)
        ):
            session.choose_items(section, at, at + len(self._items(section)) - before - 1)

    def _insert(self) -> None:
        found = self._passage()
        if found is not None:
            session = self._do.session
            session.choose_section([s.name for s in session.weave.sections].index(found[0]))
            session.record_before(found[2] + 1)
            self._do.stage("view.record")

    def _repeat(self) -> None:
        if self._passage() is None:
            return
        many, ok = QInputDialog.getInt(self._do.parent, "Repeat these steps", "How often more", 1, 1, 1000)
        if ok:
            self._on_passage(RepeatItems, times=many)

    def _knot(self) -> None:
        if self._passage() is None:
            return
        name, ok = QInputDialog.getText(
            self._do.parent, "Make a knot of these steps", "Its name, such as: tide-turn"
        )
        if ok and name.strip():
            self._on_passage(ExtractKnot, name=name.strip())

    # -- cords -------------------------------------------------------------------------------------

    def _cord(self, title: str) -> str | None:
        cords = [c.name for c in self._do.session.weave.cords]
        if not cords:
            self._do.say("This weave has no cord yet. Write one in the script, below: cords")
            return None
        if len(cords) == 1:
            return cords[0]
        name, ok = QInputDialog.getItem(self._do.parent, title, "Which cord", cords, 0, False)
        return name if ok else None

    def _rename_cord(self) -> None:
        cord = self._cord("Rename a cord")
        if cord is not None:
            to, ok = QInputDialog.getText(
                self._do.parent, f"Rename {cord}", "Its name from now on", text=cord
            )
            if ok and to.strip() and to.strip() != cord:
                self._do.session.do(RenameCord(cord=cord, to=to.strip()))

    def _recolour(self) -> None:
        cord = self._cord("Recolour a cord")
        if cord is not None:
            old = next(c.colour for c in self._do.session.weave.cords if c.name == cord)
            new = QColorDialog.getColor(QColor(old), self._do.parent, f"The colour of {cord}")
            if new.isValid():
                self._do.session.do(SetColour(cord=cord, colour=new.name()))

    def _cord_kind(self) -> None:
        cord = self._cord("Another kind of cord")
        if cord is not None:
            old = next(c.kind for c in self._do.session.weave.cords if c.name == cord)
            kinds = [cord_kind(k).words for k in dict.fromkeys([old, *all_kinds()])]
            kind, ok = QInputDialog.getItem(
                self._do.parent, f"What {cord} is", "Kind and diameter, such as hemp 3 mm", kinds
            )
            if ok and kind.strip():
                self._do.attempt(lambda: self._do.session.do(SetCordKind(cord=cord, to=kind_named(kind))))

    def _join(self) -> None:
        names = [c.name for c in self._do.session.weave.cords]
        if len(names) < 2:
            self._do.say("One cord alone has nothing to be joined to")
            return
        cord = self._cord("Join two cords")
        if cord is None:
            return
        others = [n for n in names if n != cord]
        to, ok = QInputDialog.getItem(
            self._do.parent, f"Join {cord}", "To which cord; to none parts it", ["none", *others], 1, False
        )
        if not ok:
            return
        if to == "none":
            self._do.session.do(JoinCords(cord=cord, to=""))
            return
        text, ok = QInputDialog.getText(
            self._do.parent,
            f"Join {cord} to {to}",
            f"How far from the fold the join lies, on the side of {to}",
            text="0 mm",
        )
        if ok:
            self._do.attempt(
                lambda: self._do.session.do(
                    JoinCords(cord=cord, to=to, mm=read_length(text, minimum=0.0, maximum=2000.0))
                )
            )

    # -- sections ----------------------------------------------------------------------------------

    def _section(self) -> None:
        text, ok = QInputDialog.getText(
            self._do.parent,
            "New section",
            "Its name, and start, body or finish; such as: edge body",
            text="part body",
        )
        if not ok:
            return
        name, _, kind = text.strip().partition(" ")
        kind = kind.strip() or "body"
        if kind not in SECTION_KINDS:
            self._do.say(f"“{kind}” is not a kind of section. Write start, body or finish after the name")
            return
        count = "fit" if kind == "body" else "repeat 1"

        def add() -> None:
            if self._do.session.do(AddSection.model_validate({"name": name, "part": kind, "count": count})):
                names = [s.name for s in self._do.session.weave.sections]
                self._do.session.choose_section(names.index(name))

        self._do.attempt(add)
