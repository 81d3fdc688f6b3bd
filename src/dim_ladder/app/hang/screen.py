"""Before the first step: which cords, on what and how they hang, and how their ends are made fast; all from pictures."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from itertools import pairwise

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QColorDialog,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.fields import clear
from dim_ladder.app.hang.cards import Cards
from dim_ladder.app.hang.cords import CordRow
from dim_ladder.app.hang.kind import KindDialog
from dim_ladder.app.labels import Label
from dim_ladder.app.painting import PictureView
from dim_ladder.app.session import Session
from dim_ladder.app.theme import sized, theme
from dim_ladder.app.typing import keep_typing
from dim_ladder.base import format_length
from dim_ladder.commands import RenameCord
from dim_ladder.commands.setup import (
    ARRANGEMENTS,
    COLOURS,
    MOST_CORDS,
    STARTS,
    CordSpec,
    SetFinish,
    SetStart,
    SetUp,
    arranged,
    arranged_on,
    arrangement_of,
    finish_of,
    joined_for,
    next_cord,
    start_of,
    start_takes,
)
from dim_ladder.library import CAUTIONS, FINISHES, HANGINGS
from dim_ladder.notation import LEGGED, Weave, is_leg
from dim_ladder.picture.display import Picture
from dim_ladder.picture.hanging import Hung, hanging_picture
from dim_ladder.picture.palette import palette_words, told_apart
from dim_ladder.words.phrases import hung_words

SMALL = QSize(100, 106)
LINE = QSize(100, 34)


class HangScreen(QWidget):
    """Everything here is one edit of the open weave. ready : the person wants to record now."""

    ready = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.rows: list[CordRow] = []
        self._shape: object = None

        self.on = Cards(self._hang_on)
        for key, hanging in HANGINGS.items():
            note = f"{hanging.words}; takes {format_length(hanging.per_cord_mm)} of each cord"
            self.on.add(key, key.replace("-", " "), note, partial(self._sample, key), SMALL)
        self.order = Cards(self._arrange)
        for key, words in ARRANGEMENTS.items():
            self.order.add(key, key, words, partial(self._sample_order, key), SMALL)
        self.start = Cards(self._start)
        self.start.add("", "none", "The first knot is that of the body", None, LINE)
        for key, words in STARTS.items():
            self.start.add(key, key.replace("-", " "), words, None, LINE)
        self.finish = Cards(self._finish)
        self.finish.add("", "none yet", "Ends stay as they are", None, LINE)
        for key, finish in FINISHES.items():
            note = f"{finish.words}; needs {format_length(finish.tail_mm)} of each end"
            self.finish.add(key, key.replace("-", " "), note, None, LINE)

        self.picture = PictureView(2.0)
        self.picture.setAccessibleName("How the cords hang")
        self.words = Label()
        self.words.setWordWrap(True)
        self._cords = QVBoxLayout()
        self._cords.setSpacing(4)
        self.alike = Label()
        self.alike.setObjectName("quiet")
        self.alike.setWordWrap(True)
        self.apart = QPushButton("Tell them apart")
        self.apart.setToolTip("The nearest colours that everybody can tell apart, in grey print too")
        self.apart.clicked.connect(self._tell_apart)
        self.alike.hide()
        self.apart.hide()
        self.more = QPushButton("One cord more")
        self.more.setToolTip("Another cord, with a colour of its own")
        self.more.clicked.connect(self._add)
        self.record = QPushButton("Record the first step")
        self.record.setObjectName("next")
        self.record.clicked.connect(self.ready)

        left = QWidget()
        form = QVBoxLayout(left)
        form.setContentsMargins(24, 18, 8, 18)
        form.setSpacing(8)
        for title, widget in (
            ("The cords hang on", self.on), ("from left to right", self.order), ("the work begins with", self.start), ("and in the end they are made fast", self.finish),
        ):  # fmt: skip
            head = Label(title)
            head.setFont(sized(1.08, True))
            form.addWidget(head)
            form.addWidget(widget)
        form.addStretch(1)
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # what is in it has the focus
        scroll.setWidgetResizable(True)
        scroll.setWidget(left)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setMinimumWidth(268)
        right = QWidget()
        right.setMinimumWidth(412)
        side = QVBoxLayout(right)
        side.setContentsMargins(16, 18, 24, 18)
        side.setSpacing(10)
        cords_head = Label("The cords")
        cords_head.setFont(sized(1.08, True))
        side.addWidget(cords_head)
        side.addLayout(self._cords)
        buttons = QHBoxLayout()
        buttons.addWidget(self.more)
        buttons.addWidget(self.apart)
        buttons.addStretch(1)
        side.addLayout(buttons)
        side.addWidget(self.alike)
        side.addWidget(self.picture, 1)
        side.addWidget(self.words)
        side.addWidget(self.record, 0, Qt.AlignmentFlag.AlignRight)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(scroll, 5)
        layout.addWidget(right, 5)
        session.changed.connect(self.refresh)
        self.refresh()

    # -- what is there -----------------------------------------------------------------------------

    def specs(self) -> tuple[CordSpec, ...]:
        return tuple(
            CordSpec(name=c.name, kind=c.kind, colour=c.colour, joined=c.joined)
            for c in self._session.weave.cords
        )

    def refresh(self) -> None:
        weave = self._session.weave
        shape = tuple((c.name, c.kind, c.colour) for c in weave.cords)
        if shape != self._shape:
            self._shape = shape
            self._build()
            self._show_alike()
        self.on.choose(weave.hang.on)
        self.order.choose(arrangement_of(weave))
        self.start.choose(start_of(weave))
        self.finish.choose(finish_of(weave)[0])
        self.picture.show_later(lambda: hanging_picture(weave.hang.on, hung(weave), theme().pen))
        self.words.setText(_words(weave))
        self.more.setEnabled(len(weave.cords) < MOST_CORDS)

    def _build(self) -> None:
        clear(self._cords)
        self.rows = []
        for k, spec in enumerate(self.specs()):
            row = CordRow(spec, k)
            row.renamed.connect(partial(self._rename, spec.name))
            row.kind_changed.connect(partial(self._kind, k))
            row.kind_asked.connect(partial(self._ask_kind, spec.kind))
            row.refused.connect(self._session.said)
            row.recolour.connect(partial(self._recolour, k))
            row.removed.connect(partial(self._remove, k))
            row.moved.connect(partial(self._move, k))
            keep_typing(self._session, row.name, f"name of {spec.name}")
            kind = row.kind.lineEdit()
            if kind is not None:
                keep_typing(self._session, kind, f"kind of {spec.name}")
            self.rows.append(row)
            self._cords.addWidget(row)
        order: list[QWidget] = [list(self.finish.cards.values())[-1]]
        order += [w for row in self.rows for w in row.controls()]
        order += [self.more, self.apart, self.record]
        for a, b in pairwise(order):
            QWidget.setTabOrder(a, b)

    def _sample(self, on: str) -> Picture:
        """A card's picture: the weave's own cords, as far as they can be told apart on it."""
        weave = self._session.weave
        ends = hung(weave)
        if on in LEGGED or weave.hang.on in LEGGED:
            ends = (
                _two(ends) if on not in LEGGED else _legged(ends, 1 if on == "thirds" else len(weave.cords))
            )
        return hanging_picture(on, ends if 0 < len(ends) <= 4 else _two(ends), theme().pen, labels=False)

    def _sample_order(self, how: str) -> Picture:
        names = [c.name for c in self._session.weave.cords][:2] or ["tide"]
        colours = {c.name: (k, c.colour) for k, c in enumerate(self._session.weave.cords)}
        ends = [
            Hung(*colours.get(e.split(".")[0], (0, COLOURS[0])), k)
            for k, e in enumerate(arranged(names, how))
        ]
        ends = [Hung(0 if how == "joined" else e.cord, e.colour, e.cord) for e in ends]
        return hanging_picture("cold-start" if how == "single" else "bar", ends, theme().pen, labels=False)

    # -- edits -------------------------------------------------------------------------------------

    def _set(self, cords: tuple[CordSpec, ...], on: str, ends: tuple[str, ...]) -> None:
        self._session.do(SetUp(cords=cords, on=on, ends=ends))
        self.refresh()

    def _how(self) -> str:
        return arrangement_of(self._session.weave) or "pairs"

    def _hang_on(self, on: str) -> None:
        weave = self._session.weave
        ends = weave.hang.ends
        if {on, weave.hang.on} & set(LEGGED) and on != weave.hang.on:
            ends = arranged_on([c.name for c in weave.cords], "around", on)
            self._set(joined_for(self.specs(), ""), on, ends)
            return
        self._set(self.specs(), on, ends)

    def _arrange(self, how: str) -> None:
        specs = joined_for(self.specs(), how)
        on = self._session.weave.hang.on
        # With legs there is one order only; another one hangs them otherwise.
        self._set(specs, "bar" if on in LEGGED else on, arranged([c.name for c in specs], how))

    def _change(self, cords: tuple[CordSpec, ...]) -> None:
        """Other cords: they hang in the same way as before."""
        weave = self._session.weave
        cords = joined_for(cords, self._how())
        self._set(cords, weave.hang.on, arranged_on([c.name for c in cords], self._how(), weave.hang.on))

    def _add(self) -> None:
        specs = self.specs()
        self._change((*specs, next_cord(specs)))

    def _remove(self, k: int) -> None:
        specs = self.specs()
        if len(specs) > 1:
            self._change((*specs[:k], *specs[k + 1 :]))

    def _move(self, k: int, by: int) -> None:
        specs = list(self.specs())
        if 0 <= k + by < len(specs):
            specs.insert(k + by, specs.pop(k))
            self._change(tuple(specs))

    def _with(self, k: int, **fields: str) -> None:
        specs = self.specs()
        changed = (*specs[:k], specs[k].model_copy(update=fields), *specs[k + 1 :])
        self._set(changed, self._session.weave.hang.on, self._session.weave.hang.ends)

    def _rename(self, name: str, to: str) -> None:
        if to != name and not self._session.do(RenameCord(cord=name, to=to)):
            self._shape = None
            self.refresh()

    def _kind(self, k: int, kind: str) -> None:
        self._with(k, kind=kind)

    def _ask_kind(self, kind: str) -> None:
        KindDialog(self._session, kind, self).exec()
        self._build()

    def _recolour(self, k: int) -> None:
        new = QColorDialog.getColor(
            QColor(self.specs()[k].colour), self, f"The colour of {self.specs()[k].name}"
        )
        if new.isValid():
            self._with(k, colour=new.name())

    def _tell_apart(self) -> None:
        """One edit that gives cords that look alike the nearest colours that do not."""
        specs = self.specs()
        colours = told_apart([c.colour for c in specs])
        changed = tuple(c.model_copy(update={"colour": k}) for c, k in zip(specs, colours, strict=True))
        self._set(changed, self._session.weave.hang.on, self._session.weave.hang.ends)

    def _show_alike(self) -> None:
        """Which cords some eyes, or grey print, do not tell apart; looked up on a thread, since what knows of colours loads slowly."""
        specs = self.specs()
        names, colours = [c.name for c in specs], [c.colour for c in specs]

        def look() -> tuple[str, bool]:
            said = palette_words(names, colours)
            return said, bool(said) and told_apart(colours) != tuple(c.lower() for c in colours)

        self._session.jobs.ask(
            self, "palette", look, self._alike_found, lambda e: self._session.said.emit(str(e))
        )

    def _alike_found(self, found: tuple[str, bool]) -> None:
        said, helps = found
        self.alike.setText(said)
        self.alike.setVisible(bool(said))
        self.apart.setVisible(helps)

    def _start(self, knot: str) -> None:
        weave = self._session.weave
        self._session.do(SetStart(knot=knot, ends=len(weave.hang.ends)))
        self.refresh()

    def _finish(self, finish: str) -> None:
        s = self._session
        last = s.ladder.order_shown()
        kept = finish_of(s.weave)[1]
        self._session.do(
            SetFinish(finish=finish, places=kept or tuple(range(1, len(last) + 1)) if finish else ())
        )
        self.refresh()


def hung(weave: Weave) -> list[Hung]:
    number = {c.name: k for k, c in enumerate(weave.cords)}
    found = []
    for e in weave.hang.ends:
        cord = weave.cord_of(e)
        if cord is not None:
            # What is joined hangs as one folded cord.
            found.append(Hung(number.get(cord.joined, number[cord.name]), cord.colour, number[cord.name]))
    return found


def _legged(ends: list[Hung], cords: int) -> list[Hung]:
    """One cord by four strands, or two joined ones by two each."""
    e = ends[len(ends) // 2] if ends else Hung(0, COLOURS[0])
    other = next((o for o in ends if o.cord != e.cord), e) if cords > 1 else e
    return [replace(e, cord=0)] * 2 + [replace(other, cord=0 if other is e else 1)] * 2


def _two(ends: list[Hung]) -> list[Hung]:
    """Two folded cords in the colours of many."""
    colours = list(dict.fromkeys((e.cord, e.colour) for e in ends))[:2] or [(0, COLOURS[0])]
    a, b = colours[0], colours[-1]
    return [Hung(1, b[1], 1), Hung(0, a[1]), Hung(0, a[1]), Hung(1, b[1], 1)]


def _words(weave: Weave) -> str:
    hanging = HANGINGS.get(weave.hang.on)
    legs = sum(map(is_leg, weave.hang.ends))
    ends = len(weave.hang.ends) - legs
    text = (
        f"{len(weave.cords)} cord{'s' if len(weave.cords) != 1 else ''}, {ends} working end{'s' if ends != 1 else ''}"
        + (f" and {legs} legs" if legs else "")
    )
    if hanging is not None:
        text += f", {hung_words(weave)}. That takes {format_length(hanging.per_cord_mm)} of each cord"
    takes = start_takes(weave)
    if takes:
        text += f"; the start roughly {format_length(round(takes, -1))} of its end"
    finish = FINISHES.get(finish_of(weave)[0])
    if finish is not None:
        text += f"; the finish needs {format_length(finish.tail_mm)} of each end"
    text += ". All of it is in the cuts."
    return "\n".join([text, *(CAUTIONS[k] for k in (finish.cautions if finish else ()))])
