"""What the board shows: the diagram, what can be done next from here, and what lies under the pointer."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from dim_ladder.app.painting import paint_picture, paint_shapes
from dim_ladder.app.record.lying import Lying
from dim_ladder.app.record.player import Player
from dim_ladder.app.session import Session
from dim_ladder.app.theme import theme
from dim_ladder.base import InputError
from dim_ladder.commands.draft import Draft
from dim_ladder.notation import Cross, Curl, Round, Section, Through, working_ends
from dim_ladder.picture.clicks import region_anchors
from dim_ladder.picture.diagrams import diagram
from dim_ladder.picture.display import Anchor, Picture
from dim_ladder.picture.former import flat_picture
from dim_ladder.picture.ladder import badge
from dim_ladder.picture.look import Style
from dim_ladder.picture.windows import window_end, window_of
from dim_ladder.picture.woven import is_woven
from dim_ladder.trace import Trace
from dim_ladder.trace.ends import end_colours, letter, letter_of
from dim_ladder.trace.former import former_work

STYLE = Style(unit=34.0, row=36.0, cord=15.0)
SHOWN_STEPS = 8


def _called(end: str, names: tuple[str, ...]) -> str:
    """An end by its letter; a finished layer that hangs as one tail by its name."""
    return letter(names.index(end)) if end in names else end


class BoardView(QWidget):
    """What is drawn, and what lies where. Emits prompt whenever what can be done next changes."""

    prompt = Signal(str)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._asking = ""  # what is awaited: see the questions of Answers
        self._typed = ""  # what is typed of it so far
        self._along = ""  # whose path it goes back along
        self._upward = True  # whether the named loop is passed from behind
        self._strand: Draft | None = None  # as it was when a strand beside the end was crossed last
        self._pointing = False  # the pointer was moved since the last key
        self._picture: Picture | None = None
        self._stale = True
        self._scale, self._origin = 1.0, QPointF()
        self._drag_from: float | None = None
        self._pointer = QPointF(-100, -100)
        self.player = Player(session, STYLE, self)
        self.player.moved.connect(self.redraw)
        self._regions: tuple[Trace, tuple[Anchor, ...]] | None = None
        self._lying = Lying(session.jobs, self, "lying-board", self.redraw)
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
    def asks_loop(self) -> bool:
        return self._asking in ("up", "down")

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
        if not self._asking:
            self._typed = ""
        self._stale = True
        self.prompt.emit(self.prompt_text())
        self.update()

    def _drawn(self) -> Picture | None:
        s = self._session
        pen = theme().pen
        if self.player.on:
            return self.player.picture()
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
        drawing = s.draft is not None and bool(s.draft.begun)
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

    def question(self, who: str) -> str:
        """What is awaited, in words. who : the end that moves."""
        typed = self._typed or "…"
        return {
            "beside": f"{who} runs beside: press the letter of the end whose latest step it follows",
            "along": f"{who} goes back along: press the letter of the end whose path it follows",
            "most": f"Back along how many crossings? {typed} Type it, then Return; Return alone goes the whole way",
            "leave": f"Slack in the turn of {who}: {typed} mm. Type it, then Return",
            "place": f"{who} rests at place {typed} Press its number from the left"
            + (", then Return" if self._places() > 9 else ""),
            "name": f"The loop that {who} has just made is called @{typed} Type it, then Return",
            "at": f"Which loop: {', '.join(f'{i} @{n}' for i, n in enumerate(self.named_loops(), 1))}",
        }[self._asking]

    def _places(self) -> int:
        d = self._session.draft
        return len(d.before) if d is not None else 0

    def named_loops(self) -> tuple[str, ...]:
        """Loops with a name that the end could pass, the latest first."""
        s = self._session
        mine = [m.name for m in s.draft.moves if m.name] if s.draft is not None else []
        hops = [h.hop for r in s.board().steps for h in r.hops]
        made = [h.name for h in hops if isinstance(h, Cross | Curl | Round | Through) and h.name]
        return tuple(dict.fromkeys([*mine[::-1], *made[::-1]]))[:9]

    def prompt_text(self) -> str:
        s = self._session
        if self.player.on:
            return "Space plays and stops, full stop and comma go one step on and back, Esc goes back to recording."
        if not s.weave.sections:
            return "Add a section first: Ctrl+Shift+N"
        if s.weave.sections[s.section].former is not None:
            return (
                "This section is worked on a round former: its leads, bights and coding stand in the script."
            )
        if s.document.draft:
            return "The script has a slip. Mend it before recording on, or undo."
        if s.custody.paper.read_only:
            return "To look at only: this weave is open in another window."
        names = working_ends(s.weave)
        if s.draft is None and s.cursor is not None:
            where = f"after step {s.cursor} of" if s.cursor else "at the beginning of"
            return (
                f"Recording {where} {s.weave.sections[s.section].name}: press an end’s letter or place number. "
                "Esc goes back to the end."
            )
        if s.draft is None:
            if not s.weave.sections[s.section].items:
                return (
                    "Choose an end: press its letter or its place number. It goes over with O, under with U."
                )
            return "Next step: press an end’s letter or place number. Ctrl+M adds the mirror image."
        who = _called(s.draft.end, names)

        def k(name: str) -> str:
            return s.keys.of(f"board.{name}")

        if self._asking and not self.asks_loop:
            return self.question(who)
        if s.draft.bars:
            many = f"{s.draft.bars} tail{'s' if s.draft.bars > 1 else ''}"
            return f"{who} is a runner, {many} hitched on: {k('hitch')} the next, {k('hitch-all')} all, {k('back')} one less, {k('done')} keeps the bar"
        if self._asking:
            how = "up from behind" if self._asking == "up" else "down from the front"
            named = self.named_loops()
            also = f", @ for {' or '.join('@' + n for n in named)}" if named else ""
            return f"{who} passes {how}: press the letter of the loop ({who} for its own){also}, or click a dot beside the cord to come out over"
        tail = s.draft.next_tail(s.board().names_shown())
        side = "right" if s.draft.side > 0 else "left"
        if s.draft.more:
            who = " and ".join(_called(e, names) for e in (s.draft.end, *s.draft.more))
        if tail is not None:
            nxt = _called(tail, names)
            doubled = ", doubled" if s.draft.bight else ""
            return (
                f"{who} going {side}{doubled}, {nxt} is next: {k('over')} over, {k('under')} under, {k('round')} round, "
                f"{k('turn')} turn, {k('up')} up, {k('down')} down, {k('curl')} own loop, {k('hitch')} hitches it on, "
                f"{k('done')} rests it"
            )
        return (
            f"{who} going {side}: nothing hangs there. {k('turn')} turns round, {k('up')} up, {k('down')} down, "
            f"{k('curl')} own loop, {k('done')} rests it"
        )

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        picture = self.picture  # before the painter: a fault in making it must not leave one behind
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
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
            or self.player.on
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
        pointed = self._hit(self._pointer, "crossing", 14) if self._pointing and not self._asking else None
        if pointed is not None:  # F flips it
            at = next(self._at(a) for a in self.anchors("crossing") if a.which == pointed)
            painter.setPen(QPen(QColor(t.signal), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(at, 13 * self._scale, 13 * self._scale)
        if s.draft is None:
            return
        trace = s.board()
        colours = end_colours(trace)
        if self.asks_loop:
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
        tails = {a.which: a for a in self.anchors("tail")}
        me = tails.get(ends[s.draft.end])
        if me is None:
            return
        painter.setPen(QPen(QColor(t.signal), 2.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for moving in (me, *(tails[ends[e]] for e in s.draft.more if ends.get(e) in tails)):
            painter.drawEllipse(self._at(moving), 16 * self._scale, 16 * self._scale)
        found = s.draft.next_tail(order)
        next_tail = tails.get(ends[found]) if found is not None else None
        if next_tail is not None:
            painter.setPen(QPen(QColor(t.signal), 2, Qt.PenStyle.DashLine))
            painter.drawEllipse(self._at(next_tail), 16 * self._scale, 16 * self._scale)

    def anchors(self, kind: str) -> list[Anchor]:
        picture = self.picture
        return [a for a in picture.anchors if a.kind == kind] if picture else []

    def _at(self, a: Anchor) -> QPointF:
        return QPointF(self._origin.x() + a.x * self._scale, self._origin.y() + a.y * self._scale)

    def position_of(self, kind: str, which: int) -> QPointF:
        """Where a tail's label, a loop or a crossing is on this widget."""
        self.grab()  # geometry is settled when painted
        return next(self._at(a) for a in self.anchors(kind) if a.which == which)

    def regions(self) -> tuple[Anchor, ...]:
        """Regions an end can pass through while a loop is asked for: a dot beside every strand it can come out over."""
        s = self._session
        if not self.asks_loop:
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

    def _hit(self, at: QPointF, kind: str, reach: float) -> int | None:
        near = [
            (abs(p.x() - at.x()) + abs(p.y() - at.y()), a.which)
            for a in self.anchors(kind)
            if (p := self._at(a))
        ]
        best = min(near, default=(1e9, -1))
        return best[1] if best[0] <= reach else None
