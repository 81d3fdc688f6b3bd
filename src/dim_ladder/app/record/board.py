"""The board: the diagram that draws itself while an end is moved by keys, by mouse, or by the row of moves below it."""

from __future__ import annotations

from typing import ClassVar

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from dim_ladder.app.painting import paint_picture, paint_shapes
from dim_ladder.app.record.lying import Lying
from dim_ladder.app.session import Session
from dim_ladder.app.theme import theme
from dim_ladder.base import InputError
from dim_ladder.commands import ACTIONS, AddItem
from dim_ladder.commands.draft import Draft, begin
from dim_ladder.notation import Cross, Loop, Section, working_ends, write_item
from dim_ladder.trace import Trace
from dim_ladder.trace.clicks import region_anchors
from dim_ladder.trace.display import Anchor, Picture
from dim_ladder.trace.former import former_work
from dim_ladder.trace.former_pictures import flat_picture
from dim_ladder.trace.ladder import badge
from dim_ladder.trace.look import Style, end_colours, letter, letter_of
from dim_ladder.trace.pictures import diagram
from dim_ladder.trace.windows import window_end, window_of
from dim_ladder.trace.woven import is_woven

STYLE = Style(unit=34.0, row=36.0, cord=15.0)
SHOWN_STEPS = 8


class Board(QWidget):
    """Keys: see the command table, board.*. Emits prompt whenever what can be done next changes."""

    prompt = Signal(str)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._asking = ""  # "up" or "down" while a loop's letter is awaited
        self._picture: Picture | None = None
        self._stale = True
        self._scale, self._origin = 1.0, QPointF()
        self._drag_from: float | None = None
        self._pointer = QPointF(-100, -100)
        self._regions: tuple[Trace, tuple[Anchor, ...]] | None = None
        self._lying = Lying(session.jobs, "lying-board", self.redraw)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Board: the diagram being recorded")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(260, 200)
        self.setMouseTracking(True)
        session.traced.connect(self.redraw)
        self.redraw()

    def sizeHint(self) -> QSize:
        return QSize(620, 460)

    @property
    def asking(self) -> str:
        return self._asking

    @property
    def picture(self) -> Picture | None:
        """What is drawn now; made when it is asked for, once for all that changed since."""
        if self._stale:
            self._stale = False
            self._picture = self._drawn()
        return self._picture

    # -- what is shown -----------------------------------------------------------------------------

    def redraw(self) -> None:
        s = self._session
        if s.draft is None:
            self._asking = ""
        self._stale = True
        self.prompt.emit(self.prompt_text())
        self.update()

    def _drawn(self) -> Picture | None:
        s = self._session
        pen = theme().pen
        if s.draft is None and 0 <= s.chosen < len(s.ladder.steps):
            trace, step = s.ladder, s.chosen
            first = max(0, min(window_of(trace, step), step - 3))
            last = window_end(trace, step)
            last = last if is_woven(trace, first, last) else step
            return self._lying.draw(trace, first, step, last, pen, STYLE, True)
        trace = s.board()
        section = s.weave.sections[s.section] if s.weave.sections else None
        if section is not None and section.former is not None:
            return self._former(section)
        last = len(trace.steps) - 1
        drawing = s.draft is not None and bool(s.draft.moves)
        first = max(0, last - SHOWN_STEPS + 1)
        if drawing:  # while an end is led, everything hangs: what can be crossed and entered is counted so
            return diagram(trace, first, last, pen, STYLE, focus=True, ease=False)
        return self._lying.draw(trace, first, last, last, pen, STYLE, False)

    def _former(self, section: Section) -> Picture | None:
        """Work on a round former: unrolled."""
        try:
            work = former_work(section)
        except InputError as e:
            self._session.said.emit(str(e))
            return None
        return flat_picture(
            work, [c.colour for c in self._session.weave.cords] or ["#888888"], None, theme().pen, 30.0
        )

    def prompt_text(self) -> str:
        s = self._session
        if not s.weave.sections:
            return "Add a section first: Ctrl+Shift+N"
        if s.weave.sections[s.section].former is not None:
            return (
                "This section is worked on a round former: its leads, bights and coding stand in the script."
            )
        if s.document.draft:
            return "The script has a slip. Mend it before recording on, or undo."
        names = working_ends(s.weave)
        if s.draft is None:
            if not s.weave.sections[s.section].items:
                return (
                    "Choose an end: press its letter or its place number. It goes over with O, under with U."
                )
            return "Next step: press an end’s letter or place number. Ctrl+M adds the mirror image."
        who = letter(names.index(s.draft.end))
        if self._asking:
            how = "up from behind" if self._asking == "up" else "down from the front"
            return f"{who} passes {how}: press the letter of the loop ({who} for its own), or click a dot beside the cord to come out over"
        order = s.board().names_shown()
        at = order.index(s.draft.end) + s.draft.side
        side = "right" if s.draft.side > 0 else "left"
        if 0 <= at < len(order):
            nxt = letter(names.index(order[at]))
            doubled = ", doubled" if s.draft.bight else ""
            return (
                f"{who} going {side}{doubled}, {nxt} is next: O over, U under, W round, R turn, I up, K down, C own loop, "
                "B doubled, Return rests it"
            )
        return f"{who} going {side}: nothing hangs there. R turns round, I up, K down, C own loop, Return rests it"

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        picture = self.picture
        if picture is not None:
            area = QRectF(self.rect()).adjusted(16, 12, -16, -12)
            self._scale, self._origin = paint_picture(painter, picture, area, 1.45)
            self._paint_bar(painter)
            self._paint_hints(painter)
        if self.hasFocus():
            painter.setPen(QPen(QColor(t.signal), 2))
            painter.drawLine(0, 1, self.width(), 1)
        painter.end()

    def _paint_bar(self, painter: QPainter) -> None:
        """The bar the work hangs from, while its beginning is in sight."""
        if (
            self._picture is None
            or any(
                x.former
                for x in self._session.weave.sections[self._session.section : self._session.section + 1]
            )
            or any(r.deed is not None or r.quiet for r in self._session.board().steps)
            or len(self._session.board().steps) > SHOWN_STEPS
            or self._session.chosen >= 0
        ):
            return
        t = theme()
        pen = QPen(QColor(t.ink), 6)
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.setPen(pen)
        y = self._origin.y()
        right = self._origin.x() + self._picture.width * self._scale
        painter.drawLine(QPointF(self._origin.x() - 14, y), QPointF(right + 14, y))

    def _paint_hints(self, painter: QPainter) -> None:
        s = self._session
        t = theme()
        if s.draft is None:
            return
        trace = s.board()
        colours = end_colours(trace)
        if self._asking:
            painter.setPen(Qt.PenStyle.NoPen)
            near = self._near_region(self._pointer)
            for a in self.regions():
                painter.setBrush(QColor(t.signal if a is near else t.quiet))
                size = 6.0 if a is near else 1.8
                painter.drawEllipse(self._at(a), size, size)
            for a in self.anchors("loop"):
                at = self._at(a)
                paint_shapes(
                    painter, badge(at.x(), at.y(), 12.0, colours[a.which], letter_of(trace, a.which))
                )
            return
        order = trace.names_shown()
        ends = dict(zip(order, trace.order_shown(), strict=True))
        at_index = order.index(s.draft.end) + s.draft.side
        tails = {a.which: a for a in self.anchors("tail")}
        me = tails.get(ends[s.draft.end])
        if me is None:
            return
        here = self._at(me)
        painter.setPen(QPen(QColor(t.signal), 2.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(here, 16 * self._scale, 16 * self._scale)
        if 0 <= at_index < len(order):
            there = self._at(tails[ends[order[at_index]]])
            pen = QPen(QColor(t.signal), 2, Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.drawEllipse(there, 16 * self._scale, 16 * self._scale)

    def anchors(self, kind: str) -> list[Anchor]:
        picture = self.picture
        return [a for a in picture.anchors if a.kind == kind] if picture else []

    def _at(self, a: Anchor) -> QPointF:
        return QPointF(self._origin.x() + a.x * self._scale, self._origin.y() + a.y * self._scale)

    def position_of(self, kind: str, which: int) -> QPointF:
        """Where a tail's label, a loop or a crossing is on this widget."""
        self.grab()  # geometry is settled when painted
        return next(self._at(a) for a in self.anchors(kind) if a.which == which)

    # -- moves -------------------------------------------------------------------------------------

    def take(self, end: str) -> None:
        """Take an end in hand."""
        s = self._session
        if s.document.draft or not s.weave.sections:
            s.said.emit(self.prompt_text())
            return
        s.chosen = -1
        s.set_draft(begin(end, s.board_order()))

    def act(self, action: str) -> None:
        """One action of the board, by its id without "board."."""
        s = self._session
        d = s.draft
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
            elif action in ("up", "down"):
                self._asking = action
                s.traced.emit()
            elif action == "flip":
                s.set_draft(d.flip())
            elif action == "back":
                if self._asking:
                    self._asking = ""
                    s.traced.emit()
                else:
                    s.set_draft(d.back())
            elif action == "done":
                self.rest()
            elif action == "drop":
                self._asking = ""
                s.set_draft(None)
        except InputError as e:
            s.said.emit(str(e))

    def through(self, owner: str) -> None:
        d = self._session.draft
        if d is not None and self._asking:
            up, self._asking = self._asking == "up", ""
            self._session.set_draft(d.through(up, owner))

    def regions(self) -> tuple[Anchor, ...]:
        """Regions an end can pass through while a loop is asked for: a dot beside every strand it can come out over."""
        s = self._session
        if not self._asking:
            return ()
        trace = s.board()
        if self._regions is not None and self._regions[0] is trace:
            return self._regions[1]
        last = len(trace.steps) - 1
        found = region_anchors(trace, max(0, last - SHOWN_STEPS + 1), last, theme().pen, STYLE)
        self._regions = (trace, found)
        return found

    def _near_region(self, at: QPointF) -> Anchor | None:
        """The region whose dot lies nearest to a place, if near enough."""
        near = min(self.regions(), key=lambda a: (self._at(a) - at).manhattanLength(), default=None)
        return near if near is not None and (self._at(near) - at).manhattanLength() <= 24 else None

    def _through_region(self, at: QPointF) -> None:
        s = self._session
        near = self._near_region(at)
        if near is None or s.draft is None:
            s.said.emit("Click a loop’s letter, or a dot beside the cord to come out over")
            return
        up, self._asking = self._asking == "up", ""
        loop = Loop(s.board().ends[near.which], near.count, "beside", "", None, near.left)
        s.set_draft(s.draft.into(up, loop))

    def rest(self) -> None:
        """The step is done: it becomes an edit."""
        s = self._session
        d: Draft | None = s.draft
        if d is None:
            return
        if not d.moves:
            s.set_draft(None)
            return
        s.draft = None
        s.do(AddItem(section=s.weave.sections[s.section].name, text=write_item(d.step())))

    # -- keys --------------------------------------------------------------------------------------

    # From the command table, so that a key stands in one place; the keypad's Enter is Return too.
    KEYS: ClassVar[dict[Qt.Key, str]] = {
        QKeySequence.fromString(a.shortcut)[0].key(): a.id.removeprefix("board.")  # type: ignore[index]
        for a in ACTIONS
        if a.id.startswith("board.")
    } | {Qt.Key.Key_Enter: "done"}

    def keyPressEvent(self, event: QKeyEvent) -> None:
        plain = event.modifiers() in (
            Qt.KeyboardModifier.NoModifier,
            Qt.KeyboardModifier.ShiftModifier,
            Qt.KeyboardModifier.KeypadModifier,
        )
        if not plain or not self._key(Qt.Key(event.key()), event.text()):
            super().keyPressEvent(event)

    def _key(self, key: Qt.Key, text: str) -> bool:
        s = self._session
        if self._asking:
            if key in (Qt.Key.Key_Escape, Qt.Key.Key_Backspace):
                self.act("back")
                return True
            end = self._named(text)
            if end is not None:
                self.through(end)
            elif text:
                s.said.emit("Press the letter of the end whose loop it is")
            return True
        if s.draft is None:
            end = self._named(text)
            if end is None:
                return False
            self.take(end)
            return True
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            s.set_draft(s.draft.towards(-1 if key == Qt.Key.Key_Left else 1))
            return True
        if key in self.KEYS:
            self.act(self.KEYS[key])
            return True
        return False

    def _named(self, text: str) -> str | None:
        """The end that a letter (by start) or a digit (by place now) means."""
        names = working_ends(self._session.weave)
        if len(text) == 1 and text.isdigit():
            order = self._session.board().names_shown()
            return order[int(text) - 1] if 1 <= int(text) <= len(order) else None
        found = [e for i, e in enumerate(names) if letter(i) == text.upper()]
        here = self._session.board().ends
        return found[0] if found and found[0] in here else None

    # -- mouse -------------------------------------------------------------------------------------

    def _hit(self, at: QPointF, kind: str, reach: float) -> int | None:
        near = [
            (abs(p.x() - at.x()) + abs(p.y() - at.y()), a.which)
            for a in self.anchors(kind)
            if (p := self._at(a))
        ]
        best = min(near, default=(1e9, -1))
        return best[1] if best[0] <= reach else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        s = self._session
        at = event.position()
        names = s.board().ends
        if self._asking:
            hit = self._hit(at, "loop", 16)
            if hit is not None:
                self.through(names[hit])
            else:
                self._through_region(at)
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
        if crossing is not None and s.draft is not None:
            self._flip_crossing(crossing)

    def _flip_crossing(self, crossing: int) -> None:
        """Click on a crossing of the step in hand exchanges its over and under."""
        s = self._session
        trace = s.board()
        if s.draft is None or not trace.steps or not trace.steps[-1].start <= crossing < trace.steps[-1].stop:
            return
        index = 0
        for hop in trace.steps[-1].hops:
            if hop.start <= crossing < hop.stop:
                run = isinstance(hop.hop, Cross)
                s.set_draft(s.draft.flip(index + (crossing - hop.start if run else 0)))
                return
            index += len(hop.ends) if isinstance(hop.hop, Cross) else 1

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        s = self._session
        self._pointer = event.position()
        if self._asking:
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
