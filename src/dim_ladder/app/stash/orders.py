"""Orders: which weave in which size how often; the cut map over the stash, what to buy, what it costs; booked out and back."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import date
from functools import partial
from pathlib import Path

from pydantic import ValidationError
from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.fields import clear, named
from dim_ladder.app.labels import Label
from dim_ladder.app.painting import PictureView
from dim_ladder.app.session import Session
from dim_ladder.app.stash.state import OnShelf
from dim_ladder.app.theme import sized, theme
from dim_ladder.base import DimLadderError, InputError, format_length, read_length, typed_length
from dim_ladder.base.disk import write_whole
from dim_ladder.commands.calibrating import Cords
from dim_ladder.commands.ordering import wanted_of
from dim_ladder.publish.labels import label_pages
from dim_ladder.shelf import SUFFIX
from dim_ladder.shelf.sizes import size_named, tables_of
from dim_ladder.shelf.stash import ORDER
from dim_ladder.stash import Order, OrderLine, Stash, StashPlan, booked, plan_order, unbooked
from dim_ladder.stash.cutmap import cut_map
from dim_ladder.stash.plan import Tell, shopping_words
from dim_ladder.stash.progress import cut_now, progress_words, put_back, to_cut

SECONDS = 8.0


class OrdersScreen(OnShelf):
    """plan : of the order as it stands, None until it is planned. far : how far planning is and what it is at, from its thread."""

    far = Signal(float, str)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(session, parent)
        self.plan: StashPlan | None = None
        self.title = Label()
        self.title.setFont(sized(1.35, True))
        self.title.setWordWrap(True)
        self.words = Label()
        self.words.setWordWrap(True)
        self.weave = QComboBox()
        self.weave.setAccessibleName("Weave")
        self.weave.setMinimumContentsLength(16)
        self.size_field = QLineEdit()
        self.size_field.setPlaceholderText("17 cm, or M")
        self.size_field.setAccessibleName("Size")
        self.size_field.setFixedWidth(140)
        self.count = QSpinBox()
        self.count.setRange(1, 500)
        named(self.count, "How many")
        self.add = QPushButton("Add to the order")
        self.add.clicked.connect(self.take)
        self.size_field.returnPressed.connect(self.take)
        row = QHBoxLayout()
        for w in (self.weave, self.size_field, self.count, self.add):
            row.addWidget(w)
        row.addStretch(1)
        self.done: list[QSpinBox] = []
        self._lines = QVBoxLayout()
        self._lines.setSpacing(2)
        self.run = QPushButton("Plan the cuts")
        self.run.setObjectName("next")
        self.run.clicked.connect(self.make)
        self.stop = QPushButton("Stop")
        self.stop.clicked.connect(self._stop)
        self.book = QPushButton("Book it out of the stash")
        self.book.clicked.connect(self.book_out)
        self.back = QPushButton("Put the last order back")
        self.back.clicked.connect(self.put_back)
        self.undo = QPushButton("Undo")
        self.undo.clicked.connect(self.shelf.undo)
        self.labels = QPushButton("Labels…")
        self.labels.clicked.connect(partial(self.print_labels, None))
        buttons = QHBoxLayout()
        for b in (self.run, self.stop, self.book, self.back, self.undo, self.labels):
            buttons.addWidget(b)
        buttons.addStretch(1)
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.setMaximumHeight(6)
        self.bar.setAccessibleName("How far planning is")
        self.bar.hide()
        self.far.connect(self._how_far)
        self.map = PictureView(1.0)
        self.map.setAccessibleName("Cut map")
        self.list = Label()
        self.list.setWordWrap(True)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.addWidget(self.list)
        column.addWidget(self.map)
        column.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setWidget(inside)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(28, 20, 28, 16)
        layout.setSpacing(10)
        layout.addWidget(self.title)
        layout.addWidget(self.words)
        layout.addLayout(row)
        layout.addLayout(self._lines)
        layout.addLayout(buttons)
        layout.addWidget(self.bar)
        layout.addWidget(scroll, 1)
        self.shelf.changed.connect(self._show)
        self.shelf.look()

    # -- the order ---------------------------------------------------------------------------------

    @property
    def order(self) -> Order | None:
        return self.shelf.order

    def _show(self) -> None:
        self._forget()
        order, folder = self.order, self.shelf.folder
        now = self.weave.currentText()
        self.weave.clear()
        if folder is not None:
            self.weave.addItems(sorted(p.name for p in folder.glob(f"*{SUFFIX}")))
        mine = self._session.path.name if self._session.path else ""
        self.weave.setCurrentIndex(max(self.weave.findText(now or mine), 0))
        clear(self._lines)
        self.done = []
        for k, line in enumerate(order.lines if order else ()):
            self._lines.addWidget(self._line(k, line))
        self.title.setText(
            f"An order of {progress_words(order)}" if order else "Which pieces are to be made?"
        )
        self.words.setText(self.shelf.trouble)
        self.words.setVisible(bool(self.shelf.trouble))
        usable = not self.shelf.trouble
        self.add.setEnabled(usable)
        self.run.setEnabled(usable and order is not None and any(x.count > x.done for x in order.lines))
        self.back.setEnabled(bool(self.shelf.stash.bookings))
        self.undo.setEnabled(self.shelf.can_undo)

    def _line(self, k: int, line: OrderLine) -> QWidget:
        box = QWidget()
        row = QHBoxLayout(box)
        row.setContentsMargins(0, 0, 0, 0)
        what = line.weave.removesuffix(SUFFIX).replace("-", " ") or f"order {line.order}"
        size = "".join(
            f", {x}" if k == 0 else f" {x}" for k, x in enumerate(filter(None, (line.name, line.size)))
        )
        cut = f", {line.cut} cut" if line.cut > line.done else ""
        words = Label(f"{line.count} × {what}{size}{cut}")
        words.setMinimumWidth(260)
        row.addWidget(words)
        done = QSpinBox()
        done.setRange(0, line.count)
        done.setValue(line.done)
        done.setKeyboardTracking(False)
        done.setSuffix(f" of {line.count} tied")
        named(done, f"How many {what} are tied")
        self.done.append(done)
        done.valueChanged.connect(partial(self.tied, k))
        row.addWidget(done)
        drop = QPushButton("take off")
        drop.setObjectName("plain")
        drop.setAccessibleName(f"Take {what} off the order")
        drop.clicked.connect(partial(self.take_off, k))
        row.addWidget(drop)
        row.addStretch(1)
        return box

    def take(self) -> None:
        """The line that is typed, on to the order."""
        try:
            line = OrderLine.model_validate(
                {"weave": self.weave.currentText(), "count": self.count.value()}
                | self._size(self.size_field.text().strip())
            )
            lines = (*(self.order.lines if self.order else ()), line)
            first = self.order or Order(lines=(line,))
            order = Order.model_validate({**first.model_dump(), "lines": [x.model_dump() for x in lines]})
        except InputError as e:
            self._session.said.emit(str(e))
            return
        except ValidationError as e:
            self._session.said.emit(f"The order cannot take this: {e.errors()[0]['msg']}")
            return
        self.shelf.put_order(order)
        self.size_field.clear()

    def _size(self, text: str) -> dict[str, str]:
        """A length as typed, or a size of the workshop's tables by its name. Raises InputError."""
        found = size_named(tables_of(self.shelf.folder), text)
        if found is not None:
            table, row = found
            return {"name": row.name, "size": typed_length(row.size_mm), "target": table.of}
        return {"size": typed_length(read_length(text, "cm", minimum=1, maximum=20_000)) if text else ""}

    def tied(self, k: int, many: int) -> None:
        """So many pieces of a line are tied."""
        if self.order is None:
            return
        lines = tuple(
            x.model_copy(update={"done": many}) if n == k else x for n, x in enumerate(self.order.lines)
        )
        self.shelf.put_order(self.order.model_copy(update={"lines": lines}))
        self.done[k].setFocus()  # the line is another one now; whoever counts goes on

    def take_off(self, k: int, _checked: bool = False) -> None:
        if self.order is None:
            return
        lines = tuple(x for n, x in enumerate(self.order.lines) if n != k)
        self.shelf.put_order(self.order.model_copy(update={"lines": lines}) if lines else None)

    # -- the plan ----------------------------------------------------------------------------------

    def _forget(self) -> None:
        self.plan = None
        self._session.jobs.drop("plan-order")
        self.map.show_picture(None)
        self.list.setText("")
        self.book.setEnabled(False)
        self.labels.setEnabled(False)
        self.stop.setEnabled(False)
        self.bar.hide()

    def _how_far(self, part: float, words: str) -> None:
        """Told from the thread that plans; what comes late is of a plan that nobody waits for."""
        if self.stop.isEnabled():
            self.bar.setValue(round(1000 * part))
            self.list.setText(f"{words[:1].upper()}{words[1:]} …")

    def make(self) -> None:
        """Plan on a thread, as long as it takes, at most some seconds; it can be stopped, and what was found by then stands."""
        if self.order is None or self.shelf.folder is None:
            return
        order, stash, path = self.order, self.shelf.stash, self.shelf.folder / ORDER
        self.list.setText("Solving every size, then what is cut from what …")
        self.stop.setEnabled(True)
        self.bar.setValue(0)
        self.bar.show()
        self._session.jobs.follow(
            self,
            "plan-order",
            partial(_planned, order, stash, path, self._session.calibrator.cords, self.far.emit),
            lambda _: None,
            self._made,
            self._failed,
        )

    def _stop(self) -> None:
        self._forget()
        self.list.setText("Stopped. Nothing was booked.")

    def _made(self, plan: StashPlan | None) -> None:
        self.stop.setEnabled(False)
        self.bar.hide()
        if plan is None:
            return
        self.plan = plan
        picture = cut_map(plan, theme().pen, max(360.0, float(self.map.width())))
        self.map.setFixedHeight(round(picture.height))
        self.map.show_picture(picture)
        self.list.setText("\n".join(plan_words(plan, self.shelf.stash)))
        self.book.setEnabled(bool(plan.pieces) and not plan.buy)
        self.labels.setEnabled(bool(plan.pieces))

    def _failed(self, e: DimLadderError) -> None:
        self.stop.setEnabled(False)
        self.bar.hide()
        self.list.setText(f"No plan: {e}")

    def book_out(self) -> None:
        if self.plan is None or self.order is None:
            return
        try:
            stash = booked(
                self.shelf.stash, self.plan, self.order.name, date.today().isoformat(), to_cut(self.order)
            )
        except InputError as e:
            self._session.said.emit(str(e))
            return
        if self.shelf.put(stash, cut_now(self.order)):
            self._session.said.emit("The order is booked out of the stash; it can be put back")

    def put_back(self) -> None:
        try:
            stash = unbooked(self.shelf.stash)
        except InputError as e:
            self._session.said.emit(str(e))
            return
        booking = self.shelf.stash.bookings[-1]
        self.shelf.put(stash, put_back(self.order, booking) if self.order else None)

    def print_labels(self, path: Path | None, _checked: bool = False) -> None:
        if self.plan is None:
            return
        if path is None:
            name, _ = QFileDialog.getSaveFileName(self, "Labels", "labels.pdf", "PDF (*.pdf)")
            if not name:
                return
            path = Path(name)
        try:
            write_whole(path, label_pages(self.plan))
        except DimLadderError as e:
            self._session.said.emit(str(e))
            return
        self._session.said.emit(f"Written: {path.name}")


def _planned(
    order: Order, stash: Stash, path: Path, cords: Cords, tell: Tell, stale: Callable[[], bool]
) -> Iterator[StashPlan]:
    """With what all weaves say of their cord, as on the screen Cut. Solving is half of the way, cutting the other."""
    wanted = wanted_of(
        order, path, softness=lambda of, doc: cords.others(str(of), doc.ties), stop=stale,
        tell=lambda part, words: tell(part / 2, words),
    )  # fmt: skip
    if not stale():
        yield plan_order(
            wanted, stash, seconds=SECONDS, stop=stale, tell=lambda part, words: tell((1 + part) / 2, words)
        )


def plan_words(plan: StashPlan, stash: Stash) -> list[str]:
    """What there is to say of a plan, a line each."""
    if not plan.pieces:
        return ["All of it is cut.", *_time_left(plan)]
    out = [
        "There is no better plan."
        if plan.gap == 0
        else f"A better plan could save {plan.gap:.1%} of new cord at most.",
        *(f"Buy {line}." for line in shopping_words(plan.buy)),
        f"{format_length(plan.used_mm)} are used, {format_length(plan.waste_mm)} are waste.",
    ]
    money = f" {stash.currency}" if stash.currency else ""
    if plan.cost is not None:
        out.append(f"Cords and fastenings cost {plan.cost:.2f}{money}.")
    elif plan.unpriced:
        out.append(f"What it costs is not known: no price for {', '.join(plan.unpriced)}.")
    if plan.minutes is not None:
        middle, low, high = (m / 60 for m in plan.minutes)
        out.append(f"It takes about {middle:.1f} hours, 9 in 10 between {low:.1f} and {high:.1f}.")
    if plan.price is not None:
        price, low, high = plan.price
        out.append(
            f"A piece comes to {price:.2f}{money} with the work, 9 in 10 between {low:.2f} and {high:.2f}."
        )
    return out if plan.left == plan.minutes else [*out, *_time_left(plan)]


def _time_left(plan: StashPlan) -> list[str]:
    if plan.left is None:
        return []
    middle, low, high = (m / 60 for m in plan.left)
    return [
        f"With what is cut already {middle:.1f} hours are left to tie, 9 in 10 between {low:.1f} and {high:.1f}."
    ]
