"""The board: the diagram that draws itself while an end is moved by keys, by mouse, or by the row of moves below it."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import (
    QFocusEvent,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
)

from dim_ladder.app.record.answers import QUESTIONS, Answers
from dim_ladder.base import InputError
from dim_ladder.commands import AddItem, FlipCrossing
from dim_ladder.commands.draft import Draft, begin
from dim_ladder.notation import Cross, Step, write_item
from dim_ladder.trace import Trace

FITTINGS = ("ring", "buckle", "bar", "loop")  # what an end can pass of what work hangs on


class Board(Answers):
    """Keys: see the command table, board.*."""

    # -- moves -------------------------------------------------------------------------------------

    def take(self, end: str) -> None:
        """Take an end in hand."""
        s = self._session
        self.player.leave()
        if s.document.draft or not s.weave.sections or s.weave.sections[s.section].former is not None:
            s.said.emit(self.prompt_text())
            return
        if s.chosen >= 0:
            s.choose(-1)
        s.set_draft(begin(end, s.board_order()))

    def act(self, action: str) -> None:
        """One action of the board, by its id without "board."."""
        s = self._session
        d = s.draft
        if d is None and action == "drop" and self.player.on:
            self.player.leave()
            return
        if d is None and action == "drop" and s.cursor is not None:
            s.record_before(None)
            return
        if action == "flip" and self._flip_pointed():
            return
        if d is None:
            s.said.emit("Take an end first: press its letter or its place number")
            return
        try:
            if action in ("over", "under"):
                s.set_draft(d.cross(action == "over", s.board().names_shown()))
            elif action == "turn":
                s.set_draft(d.turn())
            elif action == "round":
                s.set_draft(d.round(s.board().names_shown()))
            elif action == "curl":
                s.set_draft(d.curl())
            elif action == "bight":
                s.set_draft(d.doubled())
            elif action in QUESTIONS:
                self.ask(action)
            elif action in ("over-one", "under-one"):
                self.strand(action == "over-one")
            elif action == "again":
                s.set_draft(d.again())
            elif action in ("together", "stacked"):
                s.set_draft(d.together(s.board().names_shown(), action == "stacked"))
            elif action in ("hitch", "hitch-all"):
                s.set_draft(d.hitch(d.before, action == "hitch-all"))
            elif action == "bead":
                self._bead(d)
            elif action == "pass":
                self._pass(d)
            elif action == "twist":
                s.set_draft(d.twist())
            elif action == "edge":
                s.set_draft(d.to_edge())
            elif action == "flip":
                s.set_draft(d.flip())
            elif action == "back":
                if self._asking:
                    self.unasked()
                else:
                    s.set_draft(d.back())
            elif action == "done":
                self.rest()
            elif action == "drop":
                self._asking = ""
                s.set_draft(None)
        except InputError as e:
            s.said.emit(str(e))

    def _pass(self, d: Draft) -> None:
        """Through what the work hangs on where that can be passed, else a ring; pressed again, from behind instead."""
        if d.moves and d.moves[-1].kind in ("pass", "pass behind"):
            self._session.set_draft(d.flip())
            return
        on = self._session.weave.hang.on
        self._session.set_draft(d.passing(on if on in FITTINGS else FITTINGS[0]))

    def _bead(self, d: Draft) -> None:
        """The first bead of the script; pressed again, the next one instead."""
        names = [b.name for b in self._session.weave.beads]
        if not names:
            raise InputError(
                "this weave has no bead yet", "Write one above “hang”: beads, then: eye 4 mm #1b1b1b"
            )
        last = d.moves[-1] if d.moves else None
        if last is not None and last.kind == "bead" and len(names) > 1:
            before = d.back()
            assert before is not None
            self._session.set_draft(before.bead(names[(names.index(last.other) + 1) % len(names)]))
        else:
            self._session.set_draft(d.bead(names[0]))

    def rest(self) -> None:
        """The step is done: it becomes an edit."""
        s = self._session
        d: Draft | None = s.draft
        if d is None:
            return
        if not d.begun:
            s.set_draft(None)
            return
        count = len(s.weave.sections[s.section].items)
        s.rest(AddItem(section=s.weave.sections[s.section].name, text=write_item(d.item()), at=s.cursor))
        if s.cursor is not None and len(s.weave.sections[s.section].items) > count:
            s.record_before(s.cursor + 1)

    # -- keys --------------------------------------------------------------------------------------

    def _keys(self) -> dict[str, str]:
        """What keys do with an end in hand; the keypad's Enter is Return too."""
        keys = self._session.keys.on_board()
        return {"Enter": keys["Return"], **keys} if "Return" in keys else keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        plain = event.modifiers() in (
            Qt.KeyboardModifier.NoModifier,
            Qt.KeyboardModifier.ShiftModifier,
            Qt.KeyboardModifier.KeypadModifier,
        )
        shift = event.modifiers() == Qt.KeyboardModifier.ShiftModifier
        used = plain and self._key(Qt.Key(event.key()), event.text(), shift)
        self._pointing = False
        if not used:
            super().keyPressEvent(event)

    def _key(self, key: Qt.Key, text: str, shift: bool) -> bool:
        s = self._session
        word = QKeySequence(key).toString()
        keys = self._keys()
        action = keys.get(f"Shift+{word}" if shift else word) or keys.get(word)
        if self._asking:
            return self.answer(key, text)
        if action == "flip" and self._flip_pointed():
            return True
        if s.draft is None:
            if action == "drop" and (s.cursor is not None or self.player.on):
                self.act("drop")
                return True
            end = self.named(text)
            if end is None:
                return False
            self.take(end)
            return True
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            s.set_draft(s.draft.towards(-1 if key == Qt.Key.Key_Left else 1))
            return True
        if action is not None:
            self.act(action)
            return True
        return False

    # -- mouse -------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        s = self._session
        at = event.position()
        names = s.board().ends
        if self.asks_loop:
            hit = self._hit(at, "loop", 16)
            if hit is not None:
                self.through(names[hit])
            else:
                self.through_region(at)
            return
        tail = self._hit(at, "tail", 22)
        if tail is not None:
            if s.draft is None or s.draft.end != names[tail]:
                if s.draft is not None:
                    self.rest()
                self.take(names[tail])
            self._drag_from = at.x()
            return
        crossing = self._hit(at, "crossing", 16)
        if crossing is None:
            return
        if s.draft is not None:
            self._flip_crossing(crossing)
        else:  # the rung that made it
            trace = self._shown_trace()
            s.choose_made(trace, crossing)

    def _shown_trace(self) -> Trace:
        s = self._session
        return s.ladder if s.draft is None and s.chosen >= 0 else s.board()

    def _flip_pointed(self) -> bool:
        """Flip the crossing under the pointer, if there is one that it was moved to."""
        crossing = self._hit(self._pointer, "crossing", 14) if self._pointing else None
        if crossing is None:
            return False
        self._flip_crossing(crossing)
        return True

    def _flip_crossing(self, crossing: int) -> None:
        """Exchange over and under of one crossing: of the step in hand, or of a step that is kept already."""
        s = self._session
        trace = self._shown_trace()
        record = next((r for r in trace.steps if r.start <= crossing < r.stop), None)
        if record is None or not record.hops:
            return
        in_hand = s.draft is not None and s.draft.begun and record is trace.steps[-1]
        index = 0
        for k, hop in enumerate(record.hops):
            run = isinstance(hop.hop, Cross)
            if hop.start <= crossing < hop.stop:
                which = crossing - hop.start if run else 0
                if in_hand and s.draft is not None and not s.draft.bars:
                    s.set_draft(s.draft.flip(index + which))
                elif s.draft is not None:
                    s.said.emit("Rest the end first: that crossing is not of this step")
                elif not isinstance(record.op.value, Step):
                    s.said.emit(
                        "That crossing belongs to a knot. Ctrl+Shift+G opens it into steps, to change it here"
                    )
                    s.choose(trace.steps.index(record))
                else:
                    name = s.weave.sections[record.op.section].name
                    s.do(FlipCrossing(section=name, at=record.op.item, hop=k, which=which))
                return
            index += len(hop.ends) if run else 1

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        s = self._session
        self._pointer, self._pointing = event.position(), True
        self.update()
        if self._drag_from is None or s.draft is None:
            return
        board = s.board()
        ends = dict(zip(board.names_shown(), board.order_shown(), strict=True))
        tails = {a.which: self._at(a).x() for a in self.anchors("tail")}
        x = event.position().x()
        under = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        order = board.names_shown()
        here = order.index(s.draft.end)
        for side in (-1, 1):
            at = here + side
            if 0 <= at < len(order) and (x - tails[ends[order[at]]]) * side > 6:
                draft = s.draft.towards(side)
                s.set_draft(draft.cross(not under, order))
                return

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._drag_from = None

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()
