"""What it will look like: the section pulled tight from all sides, the whole piece, and how it goes wrong."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.labels import Label
from dim_ladder.app.look.colours import Colours
from dim_ladder.app.look.faceview import FaceView
from dim_ladder.app.look.gallery import Gallery
from dim_ladder.app.look.piece import WholeViews
from dim_ladder.app.look.shown import Shown, shown, units_for
from dim_ladder.app.look.tightener import Answer, Tightener, content_of
from dim_ladder.app.look.turnview import TurnView
from dim_ladder.app.look.words import honest_words, kept_words, size_words
from dim_ladder.app.painting import PictureView
from dim_ladder.app.session import Session
from dim_ladder.app.theme import sized, theme
from dim_ladder.commands import SetColourway
from dim_ladder.commands.colourways import Colourway
from dim_ladder.commands.table import action
from dim_ladder.notation import Section, working_ends
from dim_ladder.picture.display import Picture
from dim_ladder.publish.solid import to_glb
from dim_ladder.scale.girth import former_mm
from dim_ladder.shape import TightShape
from dim_ladder.shape.charts import contact_map, cord_bars, packing_chart
from dim_ladder.shape.faces import SIDES, Cords, beads_of, strands_of, title_of
from dim_ladder.shape.solid import bodies
from dim_ladder.shape.turning import Held, held

SHOWN_MM = 90.0  # about so much of the band is drawn
MOST_BARS = 12  # ends, beyond which bars would fill the screen
MODES = {
    "look.band": "Band",
    "look.whole": "Whole",
    "look.closed": "Closed",
    "look.slips": "Slips",
    "look.turn": "Turn",
    "look.colours": "Colours",
}
WHOLE = ("look.whole", "look.closed")  # ways in which all of it is seen
TURNED = 12  # units that are turned in the hand


@dataclass(frozen=True, slots=True)
class _Kept:
    """A shape that was kept to be compared with another."""

    shape: TightShape
    cords: Cords
    title: str


class LookScreen(QWidget):
    """Shapes are worked out on a thread while the screen is seen. changed : what can be done with it is another."""

    changed = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.mode = "look.band"
        self.names = False
        self.kept: _Kept | None = None
        self._drawn: tuple[object, ...] = ()
        jobs = session.jobs
        self.tightener = Tightener(jobs, "look", self, curves=True)
        self.tightener.answered.connect(self._answered)
        self.views = {side: FaceView(jobs, f"look-{side}", f"The tight weave, {side}") for side in SIDES}
        self.kept_view = FaceView(jobs, "look-kept", "The shape kept beside")
        self.whole = WholeViews(session)
        self.whole.said.connect(self._pieced)
        self.whole.nothing.connect(self._unpieced)
        self.gallery = Gallery(jobs, "look-slips")
        self.turned = TurnView(jobs, "look-turn")
        self.colours = Colours(jobs, "look-colours", self._take_colours)
        self._lay_out()
        session.changed.connect(self.refresh)
        session.traced.connect(self.refresh)
        self.refresh()

    def _lay_out(self) -> None:
        self.title, self.words, self.honest, self.kept_words = Label(), Label(), Label(), Label()
        self.title.setFont(sized(1.3, True))
        self.honest.setObjectName("quiet")
        self.kept_words.setObjectName("quiet")
        self.bars, self.chart, self.contacts = (PictureView(1.0) for _ in range(3))
        self.bars.setAccessibleName("Cord of every end in a unit")
        self.chart.setAccessibleName("Cord against pitch")
        self.contacts.setAccessibleName("Which cords press on which")
        for label in (self.title, self.words, self.honest, self.kept_words):
            label.setWordWrap(True)
            label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            label.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.stop_button = QPushButton("Stop")
        self.stop_button.setToolTip("Leave it as tight as it is by now")
        self.stop_button.clicked.connect(self.stop)
        self.buttons: dict[str, QPushButton] = {}
        row = QHBoxLayout()
        row.setSpacing(6)
        for action_id, text in MODES.items():
            button = QPushButton(text)
            button.setCheckable(True)
            button.setToolTip(action(action_id).does)
            button.clicked.connect(partial(self.show_mode, action_id))
            self.buttons[action_id] = button
            row.addWidget(button)
        row.addStretch(1)
        self.names_button, self.keep_button = QPushButton("Names"), QPushButton("Keep")
        self.names_button.setCheckable(True)
        self.keep_button.setCheckable(True)
        self.names_button.setToolTip("Write the letter of every end where it comes in and goes out")
        self.keep_button.setToolTip("Keep this shape, to compare it with what comes; again lets it go")
        self.names_button.clicked.connect(self.toggle_names)
        self.keep_button.clicked.connect(self.toggle_kept)
        row.addWidget(self.names_button)
        row.addWidget(self.keep_button)
        band = QWidget()
        grid = QGridLayout(band)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(10)
        self.heads: list[QLabel] = []
        for k, (head, view) in enumerate((("kept", self.kept_view), *self.views.items())):
            label = Label(head)
            label.setObjectName("quiet")
            label.setAlignment(Qt.AlignmentFlag.AlignCenter)
            self.heads.append(label)
            grid.addWidget(view, 0, k)
            grid.addWidget(label, 1, k)
            grid.setColumnStretch(k, {"edge": 2, "kept": 0}.get(head, 3))
        grid.setRowStretch(0, 1)
        self._grid = grid
        self.kept_view.hide()
        self.heads[0].hide()
        self.stage = QStackedWidget()
        for page in (band, self.whole, self.whole.closed, self.gallery, self.turned, self.colours):
            self.stage.addWidget(page)
        left = QVBoxLayout()
        left.setSpacing(10)
        left.addLayout(row)
        left.addWidget(self.stage, 1)
        side_box = QWidget()
        side_box.setMinimumWidth(230)
        side_box.setMaximumWidth(310)
        column = QVBoxLayout(side_box)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(10)
        for widget in (
            self.title,
            self.words,
            self.kept_words,
            self.bars,
            self.chart,
            self.contacts,
            self.honest,
        ):
            column.addWidget(widget)
        column.addWidget(self.stop_button, 0, Qt.AlignmentFlag.AlignLeft)
        column.addStretch(1)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(20, 14, 20, 14)
        layout.setSpacing(20)
        layout.addLayout(left, 5)
        layout.addWidget(side_box, 2)
        self._mark()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.tightener.leave()
        self.gallery.leave()
        self.whole.leave()

    # -- what is chosen ----------------------------------------------------------------------------

    def section(self) -> Section | None:
        """The one that is recorded if something crosses in it, else the first body."""
        s = self._session
        sections = s.weave.sections
        here = sections[s.section] if sections else None
        if here is not None and (here.kind == "body" or here.items):
            return here
        return next((x for x in sections if x.kind == "body"), None)

    def show_mode(self, mode: str, _checked: bool = False) -> None:
        self.mode = mode
        self._mark()
        self._drawn = ()
        self.refresh()

    def _mark(self) -> None:
        for action_id, button in self.buttons.items():
            button.setChecked(action_id == self.mode)
        self.stage.setCurrentIndex(list(MODES).index(self.mode))
        self.names_button.setEnabled(self.mode == "look.band")
        self.keep_button.setEnabled(
            self.mode == "look.band" and (self.shape is not None or self.kept is not None)
        )

    def toggle_names(self) -> None:
        self.names = not self.names
        self.names_button.setChecked(self.names)
        self._drawn = ()
        self._show_kept()
        self._answered()

    def toggle_kept(self) -> None:
        """Keep the shape beside what comes, or let it go."""
        shape, section = self.shape, self.section()
        if self.kept is not None:
            self.kept = None
        elif shape is not None and section is not None:
            self.kept = _Kept(shape, self.tightener.answer.cords, section.name)
        self.keep_button.setChecked(self.kept is not None)
        self.kept_view.setVisible(self.kept is not None)
        self.heads[0].setVisible(self.kept is not None)
        self._grid.setColumnStretch(0, 3 if self.kept is not None else 0)
        self._show_kept()
        self._answered()

    def _show_kept(self) -> None:
        if self.kept is not None:
            seen = self._shown(self.kept.shape, self.kept.cords, "front")
            self.kept_view.show_face(seen.make, seen.natural, beside=seen.beside)

    def stop(self) -> None:
        """What is tight by now is shown."""
        self.tightener.stop()

    @property
    def shape(self) -> TightShape | None:
        return self.tightener.answer.shape if not self.tightener.answer.why else None

    @property
    def pulling(self) -> bool:
        return self.tightener.busy and self.isVisible()

    # -- what is shown -----------------------------------------------------------------------------

    def refresh(self) -> None:
        if not self.isVisible():
            return
        s = self._session
        section = self.section()
        if s.ladder.problems:
            self._nothing("The script has a slip. Mend it, or undo; then it can be pulled tight.")
            return
        if section is None or not (section.items or section.former):
            self._nothing(
                "Record a unit first; then it can be pulled tight."
                if section
                else "There is no body section yet."
            )
            return
        self.tightener.ask(s.weave, section, former_mm(s.document.plan, section))
        if self.mode == "look.slips":
            self.gallery.show_slips(s.weave, section.name, content_of(s.weave, section), theme().pen)
        if self.mode in WHOLE:
            self.whole.ask(content_of(s.weave, s.weave.sections[-1]))
        self._answered()

    def _nothing(self, why: str) -> None:
        self.tightener.leave()
        self.tightener.answer = Answer()
        section = self.section()
        self.title.setText(section.name if section else "")
        self.words.setText(why)
        for label in (self.honest, self.kept_words):
            label.setText("")
        self.stop_button.hide()
        for chart in (self.bars, self.chart, self.contacts):
            chart.hide()
        self._drawn = ()
        for view in self.views.values():
            view.show_face(None)
        self.whole.drop()
        self.turned.show_held(None)
        self._mark()
        self.changed.emit()

    def _answered(self) -> None:
        section = self.section()
        answer = self.tightener.answer
        if section is None:
            return
        self.title.setText(section.name)
        self.stop_button.setVisible(self.tightener.busy and answer.shape is not None)
        self._mark()
        self.changed.emit()
        if answer.why:
            self._cannot(answer.why)
            return
        if answer.shape is None:
            self.words.setText("Pulling it tight …")
            return
        self._faces(answer.shape, answer.cords)
        self._words(answer)
        if answer.done and answer.shape.converged:
            self._session.shape_known(section.name)

    def _cannot(self, why: str) -> None:
        self.words.setText(f"This cannot be pulled tight: {why}")
        self.honest.setText("")
        for chart in (self.bars, self.chart, self.contacts):
            chart.hide()
        self._drawn = ()
        for view in self.views.values():
            view.show_face(None)
        self.turned.show_held(None)

    def _shown(self, shape: TightShape, cords: Cords, side: str) -> Shown:
        units = units_for(shape, SHOWN_MM)
        beads = beads_of(shape, self._session.weave, units)
        return shown(shape, cords, side, units, theme().pen, names=self.names, beads=beads)

    def _faces(self, shape: TightShape, cords: Cords) -> None:
        section = self.section()
        if self.mode == "look.colours" and section is not None:
            self.colours.show_ways(self._session.weave, section.name, shape, theme().pen)
        now = (id(shape), cords, self.names, theme().pen)
        if now == self._drawn or self.mode not in ("look.band", "look.turn"):
            return
        if self.mode == "look.turn":
            self._drawn = now
            self.turned.show_held(*self._held(shape, cords))
            return
        keep = bool(self._drawn) and self._drawn[1:] == now[1:]
        self._drawn = now
        self.heads[-1].setText("from above" if shape.kind == "closed" else "edge")
        for side, view in self.views.items():
            seen = self._shown(shape, cords, side)
            view.show_face(seen.make, seen.natural, beside=seen.beside, keep=keep)

    def _held(self, shape: TightShape, cords: Cords) -> tuple[Held, str]:
        """The shape to be turned, and what it is."""
        units = TURNED if shape.kind == "cell" else 1
        beads = beads_of(shape, self._session.weave, units)
        return held(strands_of(shape, cords, units), beads), title_of(shape, units, "front")

    def _take_colours(self, way: Colourway) -> None:
        self._session.do(SetColourway(name=way.name, colours=way.colours))

    def solid(self) -> bytes | None:
        """What is turned in the hand, as a glTF file; None where nothing is pulled tight."""
        shape = self.shape
        if shape is None:
            return None
        round_it = self.whole.held() if self.mode == "look.closed" else None
        if round_it is not None and self.whole.piece is not None:
            names = working_ends(self._session.weave)
            return to_glb(bodies(round_it.strands, round_it.beads), self.whole.piece.unit_mm, names)
        body, _ = self._held(shape, self.tightener.answer.cords)
        return to_glb(bodies(body.strands, body.beads), shape.unit_mm, self.tightener.answer.cords.names)

    def _words(self, answer: Answer) -> None:
        shape = answer.shape
        assert shape is not None
        # What is loose yet has no size that means anything.
        tight = answer.done or shape.converged
        self.words.setText(size_words(shape) if tight else "Drawing it up …")
        self.kept_words.setVisible(self.kept is not None)
        if self.kept is not None:
            self.kept_words.setText(kept_words(self.kept.shape, self.kept.title, shape))
        pen = theme().pen
        for chart in (self.bars, self.contacts):
            chart.setVisible(tight and len(shape.per_end) <= MOST_BARS)
        self.contacts.show_picture(contact_map(shape, answer.cords, pen))
        self.bars.show_picture(cord_bars(shape, answer.cords, pen))
        self.chart.setVisible(len(answer.curve) > 2)
        if len(answer.curve) > 2:
            self.chart.show_picture(packing_chart(answer.curve, shape, self._measured(), pen))
        if self.mode not in WHOLE:
            self.honest.setText(honest_words(answer))

    def _measured(self) -> float | None:
        """The pitch that the person's own ties say, in mm; None before there is a tie."""
        s, section = self._session, self.section()
        if s.calibration is None or not s.calibration.ties or section is None:
            return None
        if section.name not in s.calibration.prior.sections or not any(t.length_mm for t in s.document.ties):
            return None
        return float(s.calibration.pitch(section.name).median)

    def _pieced(self, words: str) -> None:
        if self.mode in WHOLE:
            self.honest.setText(words)

    def _unpieced(self, why: str) -> None:
        if self.mode in WHOLE:
            self.words.setText(why)
            self.honest.setText("")

    def pictures(self) -> dict[str, Picture]:
        """What is shown, by name, to be saved: at 24 pixels to a diameter."""
        section = self.section()
        if self.mode in WHOLE and (found := self.whole.pictures(self.mode == "look.closed")):
            return found
        if self.shape is None or section is None:
            return {}
        cords = self.tightener.answer.cords
        if self.mode == "look.turn":
            body, said = self._held(self.shape, cords)
            return {
                f"{section.name}-turned": body.seen(self.turned.turn, self.turned.tip, scale=24.0, title=said)
            }
        if self.mode == "look.colours":
            ways = self.colours.pictures(self._session.weave, section.name)
            return {
                f"{section.name}-{name.lower().replace(' ', '-')}-{side}": self._shown(
                    self.shape, look, side
                ).make(24.0)
                for name, look in ways.items()
                for side in ("front", "back")
            }
        return {f"{section.name}-{side}": self._shown(self.shape, cords, side).make(24.0) for side in SIDES}
