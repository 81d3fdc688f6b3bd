"""Whole units: how often each section is worked, kept or free, and the nearest answers as little pictures."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QSpinBox, QVBoxLayout, QWidget

from dim_ladder.app.fields import clear, named
from dim_ladder.app.labels import Label
from dim_ladder.app.painting import paint_picture
from dim_ladder.app.theme import sized, theme
from dim_ladder.base import format_length
from dim_ladder.notation import Section, Weave, write_count
from dim_ladder.picture.display import Picture
from dim_ladder.scale import Option, Piece
from dim_ladder.scale.cycles import cycle_of, in_cycles, out_of_cycles
from dim_ladder.scale.laid import laid
from dim_ladder.scale.stretch import span_words
from dim_ladder.scale.tape import small_picture

HIGH = 24


class OptionButton(QPushButton):
    """An answer: its counts and error in words, the piece as a line below them."""

    def __init__(self, words: str, picture: Picture, parent: QWidget | None = None) -> None:
        super().__init__(words, parent)
        self._picture = picture
        self.setCheckable(True)
        self.setStyleSheet(f"text-align: left; padding-bottom: {HIGH + 4}px;")
        self.setToolTip(words)

    def minimumSizeHint(self) -> QSize:
        return QSize(120, super().minimumSizeHint().height())  # words that have no room are in the tool tip

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        room = QRectF(8, self.height() - HIGH - 3, self.width() - 16, HIGH)
        paint_picture(painter, self._picture, room, room.width() / self._picture.width)
        painter.end()


class Units(QWidget):
    """chosen : counts that the maker takes, and the names of those that stay in every size. counted : a section, and how often it is
    worked from now on, as it is written."""

    chosen = Signal(dict, tuple)
    counted = Signal(str, str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._chosen: dict[str, int] = {}
        self._kept: tuple[str, ...] = ()
        self.counts: dict[str, tuple[QSpinBox, QCheckBox]] = {}
        self.cycles: dict[str, QCheckBox] = {}
        self._weave = Weave("")
        self._rows = QVBoxLayout()
        self._rows.setSpacing(4)
        self.options = QVBoxLayout()
        self.options.setSpacing(6)
        title = Label("Whole units")
        title.setFont(sized(1.0, True))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        layout.addWidget(title)
        layout.addLayout(self._rows)
        layout.addLayout(self.options)
        layout.addStretch(1)

    def show_piece(self, weave: Weave, piece: Piece | None, system: str) -> None:
        self._chosen, self._kept = (dict(piece.plan.chosen), piece.plan.kept) if piece else ({}, ())
        self._weave = weave
        self._show_counts(weave, piece)
        clear(self.options)
        if piece is None:
            return
        answers = (piece.option, *piece.alternatives)
        drawn = [laid(weave, piece, o) for o in answers]
        longest = max([d.mm for d in drawn] + [d.wanted_mm for d in drawn])
        colours = colours_of(piece)
        for option, of in zip(answers, drawn, strict=True):
            picture = small_picture(of, colours, longest, theme().pen)
            free = span_words(weave, option.stretch, system)
            words = option_words(option, system) + (f", {free}" if free else "")
            button = OptionButton(words, picture)
            button.setChecked(option is piece.option)
            button.clicked.connect(partial(self._take, option.counts))
            self.options.addWidget(button)

    def _show_counts(self, weave: Weave, piece: Piece | None) -> None:
        """A number for every section that fits: kept once it is changed, free again when its tick is taken off."""
        names = [s.name for s in weave.sections if s.count.kind == "fit" and piece and s.name in piece.counts]
        if list(self.counts) != names:
            clear(self._rows)
            self.counts, self.cycles = {}, {}
            for name in names:
                self._rows.addWidget(self._row(name))
        for name, (number, keep) in self.counts.items():
            assert piece is not None
            section = weave.section(name)
            for widget in (number, keep):
                widget.blockSignals(True)
            if not number.hasFocus() or number.value() != piece.counts[name]:
                number.setSingleStep(section.count.number if section else 1)
                number.setValue(piece.counts[name])
            keep.setChecked(name in self._kept)
            for widget in (number, keep):
                widget.blockSignals(False)
            self._show_cycle(name, section)

    def _show_cycle(self, name: str, section: Section | None) -> None:
        """Where colours change places from unit to unit, whether the section ends as it began."""
        cycle = cycle_of(self._weave, name)
        box = self.cycles[name]
        box.setVisible(cycle > 1)
        box.setText(f"in whole {cycle}s")
        box.setToolTip(
            f"The colours of {name} repeat after {cycle} units: in whole cycles it ends as it began"
        )
        box.blockSignals(True)
        box.setChecked(section is not None and not section.count.number % cycle and not section.count.plus)
        box.blockSignals(False)

    def _cycle(self, name: str, on: bool) -> None:
        section = self._weave.section(name)
        if section is not None:
            turned = in_cycles if on else out_of_cycles
            self.counted.emit(name, write_count(turned(section.count, cycle_of(self._weave, name))))

    def _row(self, name: str) -> QWidget:
        box = QWidget()
        row = QHBoxLayout(box)
        row.setContentsMargins(0, 0, 0, 0)
        number = QSpinBox()
        number.setRange(1, 100_000)
        number.setKeyboardTracking(False)
        named(number, f"How many {name}")
        number.valueChanged.connect(partial(self._count, name))
        keep = QCheckBox("keep")
        keep.setAccessibleName(f"Keep the number of {name}")
        keep.setToolTip("Kept, it stays as it is whatever else changes; the other sections make up for it")
        keep.toggled.connect(partial(self._keep, name))
        row.addWidget(number)
        row.addWidget(Label(f"× {name}"), 1, Qt.AlignmentFlag.AlignLeft)
        whole = QCheckBox()
        whole.setAccessibleName(f"{name} in whole colour cycles")
        whole.toggled.connect(partial(self._cycle, name))
        self.cycles[name] = whole
        row.addWidget(whole)
        row.addWidget(keep)
        self.counts[name] = number, keep
        return box

    def _count(self, name: str, value: int) -> None:
        """A number that is changed stays; others that were taken with an answer give way to it."""
        held = {n: v for n, v in self._chosen.items() if n in self._kept}
        self.chosen.emit({**held, name: value}, tuple(dict.fromkeys((*self._kept, name))))

    def _keep(self, name: str, on: bool) -> None:
        rest = {n: v for n, v in self._chosen.items() if n != name}
        kept = tuple(n for n in self._kept if n != name)
        if on:
            self.chosen.emit({**rest, name: self.counts[name][0].value()}, (*kept, name))
        else:
            self.chosen.emit({n: v for n, v in rest.items() if n in kept}, kept)

    def _take(self, counts: dict[str, int], _checked: bool = False) -> None:
        self.chosen.emit(counts, self._kept)


def colours_of(piece: Piece) -> list[str]:
    """Colours of its cords, the one most is used of first."""
    return [c.colour for c in sorted(piece.cuts, key=lambda c: -c.cut_mm)]


def option_words(option: Option, system: str) -> str:
    units = ", ".join(f"{n} × {k}" for k, n in option.counts.items())
    error = option.error_mm
    off = (
        "exact"
        if abs(error) < 0.5
        else f"{format_length(abs(error), system)} {'over' if error > 0 else 'under'}"
    )
    return f"{units}: {format_length(option.length_mm, system)}, {off}"
