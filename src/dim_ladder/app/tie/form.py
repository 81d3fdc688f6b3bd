"""The one-minute form of a test tie: asks for what this weave has, in the order in which it is measured."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from functools import partial
from pathlib import Path

from pydantic import ValidationError
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.fields import Field, clear, length_field, read_count, read_minutes
from dim_ladder.app.labels import Label
from dim_ladder.app.session import Session
from dim_ladder.app.theme import sized
from dim_ladder.app.tie.reading import Asked, Swatch, quiet, read_left
from dim_ladder.app.tie.state import NAME, FormState, read_state
from dim_ladder.calibrate import Reading, Tie
from dim_ladder.library import FINISHES
from dim_ladder.notation import Call, working_ends
from dim_ladder.trace.ends import letter


class TieForm(QWidget):
    """edited : something in it changed. logged : the person asks to keep it. left_off : a change is given up. built : its
    fields are other ones."""

    edited = Signal()
    logged = Signal()
    left_off = Signal()
    built = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._ways: dict[str, str] = {}  # by cord: its ends are measured "apart" or "together"
        self._all = False  # everything in one reading
        self._shape: object = None
        self._base: Tie | None = None  # the tie that is being changed
        self.counts: dict[str, Field] = {}
        self.lines: list[Asked] = []
        self.photos: tuple[str, ...] = ()
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(18, 20, 8, 12)
        self._layout.setSpacing(12)

        session.switched.connect(self.switch)
        session.closing.connect(self._nothing_of_another)

    # -- belonging to its weave ----------------------------------------------------------------------

    def state(self) -> FormState:
        """What is half filled in."""
        ways = dict(self._ways)
        if any(f.text() for line in self.lines for f in (line.cut, line.left)):
            # As they are asked now: which ends belong together is known only later when this is shown again.
            shown = {line.ends for line in self.lines}
            for cord in self._session.weave.cords:
                own = tuple(e for e in working_ends(self._session.weave) if e.split(".")[0] == cord.name)
                ways[cord.name] = "together" if own in shown else "apart"
        return FormState(
            everything=self._all,
            apart=ways,
            readings={" ".join(line.ends): (line.cut.text(), line.left.text()) for line in self.lines},
            texts=self._texts(),
            tension=self.tension_text(),
            changing=self._base.id if self._base else "",
            photos=self.photos,
        )

    def _keep(self) -> None:
        """With every key."""
        state = self.state()
        self._session.custody.keeper.form(NAME, "" if state.empty else state.model_dump_json())

    def _nothing_of_another(self) -> None:
        """The weave is left: nothing of it stays in the form (it is kept with the weave)."""
        self._shape = self._base = None
        self.lines, self.counts, self.photos, self._ways = [], {}, (), {}

    def switch(self) -> None:
        """Another weave is open: what was half filled in there is back."""
        state = read_state(self._session.custody.keeper.forms.get(NAME, ""))
        self._nothing_of_another()
        self._all, self._ways, self.photos = state.everything, dict(state.apart), state.photos
        self._base = next((t for t in self._session.document.ties if t.id == state.changing), None)
        self._shape = self._of_weave()
        self.build()
        self._put_state(state)

    def _put_state(self, state: FormState) -> None:
        for line in self.lines:
            cut, left = state.readings.get(" ".join(line.ends), ("", ""))
            line.cut.put(cut)
            line.left.put(left)
        for field in (*self.counts.values(), self.length, self.thickness, self.width_field, self.minutes):
            field.put(state.texts.get(field.accessibleName(), ""))
        for edit in (self.who, self.lot, self.note):
            edit.setText(state.texts.get(edit.accessibleName(), ""))
        for button in self.tension.buttons():
            button.setChecked(button.text() == state.tension)
        self.edited.emit()

    # -- building ----------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Ask for what the weave has now."""
        shape = self._of_weave()
        if shape != self._shape:
            self._shape = shape
            self._base = None
            self.build()

    def _of_weave(self) -> object:
        weave = self._session.weave
        return (
            working_ends(weave),
            tuple((c.name, c.colour) for c in weave.cords),
            tuple((s.name, s.kind, bool(s.items)) for s in weave.sections),
        )

    def build(self) -> None:
        kept = {line.ends: (line.cut.text(), line.left.text()) for line in self.lines}
        texts = self._texts()
        clear(self._layout)
        self.lines, self.counts = [], {}
        head = Label(f"Change {self._base.id}" if self._base else "A test tie")
        head.setFont(sized(1.5, True))
        self._layout.addWidget(head)
        self._layout.addWidget(
            quiet(
                "Lengths as you read them: 17 cm, 82,5 cm, 9 1/8 in, 30 + 12.5 cm. What was left may be weighed: 12.5 g. "
                "What you did not measure stays empty."
            )
        )
        self._layout.addWidget(self._cords(kept))
        self._layout.addWidget(self._after(texts))
        self._layout.addStretch(1)
        self.built.emit()

    def _texts(self) -> dict[str, str]:
        found = {f"units of {name}": f.text() for name, f in self.counts.items()}
        if self.lines or self.counts:
            for field in (self.length, self.thickness, self.width_field, self.minutes):
                found[field.accessibleName()] = field.text()
            for line in (self.who, self.lot, self.note):
                found[line.accessibleName()] = line.text()
        return found

    def _cords(self, kept: dict[tuple[str, ...], tuple[str, str]]) -> QWidget:
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(7)
        grid.setVerticalSpacing(7)
        grid.setColumnStretch(4, 1)
        title = Label("Before you tie")
        title.setFont(sized(1.0, True))
        grid.addWidget(title, 0, 0, 1, 2)
        grid.addWidget(quiet("cut", Qt.AlignmentFlag.AlignRight), 0, 2)
        grid.addWidget(quiet("left over", Qt.AlignmentFlag.AlignRight), 0, 3)
        ends = working_ends(self._session.weave)
        if len(ends) > 2:
            grid.addWidget(
                self._toggle("each cord" if self._all else "all in one", "Measure everything", self._toggle_all),
                0, 4, Qt.AlignmentFlag.AlignLeft,
            )  # fmt: skip
        row = 1
        if self._all:
            self._ask(grid, row, ends, "all ends", kept)
            return box
        for index, cord in enumerate(self._session.weave.cords):
            groups = self._groups(cord.name)
            for k, group in enumerate(groups):
                letters = " and ".join(letter(ends.index(e)) for e in group)
                grid.addWidget(Swatch(cord.colour, index), row, 0)
                self._ask(grid, row, group, f"{cord.name}  {letters}", kept)
                if sum(map(len, groups)) > 1 and k == 0:
                    words = "together" if len(groups) > 1 else "apart"
                    toggle = self._toggle(
                        words, f"Measure {cord.name}", partial(self._toggle_cord, cord.name)
                    )
                    grid.addWidget(toggle, row, 4, Qt.AlignmentFlag.AlignLeft)
                row += 1
        return box

    def _ask(
        self, grid: QGridLayout, row: int, ends: tuple[str, ...], words: str, kept: dict[tuple[str, ...], tuple[str, str]]
    ) -> None:  # fmt: skip
        name = words.replace("  ", " ")
        cut = length_field(f"{name} cut", optional=True, width=70)
        left = Field(f"{name} left over", read_left, optional=True, width=70)
        for field, text in zip((cut, left), kept.get(ends, ("", "")), strict=True):
            field.put(text)
            self._watch(field)
        grid.addWidget(Label(words), row, 1)
        grid.addWidget(cut, row, 2)
        grid.addWidget(left, row, 3)
        self.lines.append(Asked(ends, cut, left))

    def _toggle(self, words: str, what: str, then: object) -> QPushButton:
        button = QPushButton(words)
        button.setObjectName("plain")
        button.setToolTip("Measure ends together, each by itself, or all cord of the piece in one")
        button.setAccessibleName(f"{what} {words}")
        button.clicked.connect(then)
        return button

    def _after(self, texts: dict[str, str]) -> QWidget:
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(3, 1)
        title = Label("What you tied")
        title.setFont(sized(1.0, True))
        grid.addWidget(title, 0, 0, 1, 2)
        self._row = 1

        def add(words: str, widget: QWidget | QLayout, *, wide: bool = False) -> Label:
            label = Label(words)
            grid.addWidget(label, self._row, 0)
            if isinstance(widget, QLayout):
                grid.addLayout(widget, self._row, 1, 1, 3)
            else:
                grid.addWidget(widget, self._row, 1, 1, 3 if wide else 1)
            self._row += 1
            return label

        sections = self._session.weave.sections
        for section in sections:
            # What only makes ends fast is no work that is counted.
            if all(isinstance(i, Call) and i.knot in FINISHES for i in section.items):
                continue
            field = Field(f"units of {section.name}", read_count, optional=True)
            self.counts[section.name] = field
            add(f"units of {section.name}", field)
        self.length = length_field("tied length", optional=True)
        self.width_field = length_field("width", default="mm", optional=True, hint="mm", width=64)
        self.thickness = length_field("thickness", default="mm", optional=True, hint="mm", width=64)
        self.minutes = Field("minutes", read_minutes, optional=True)
        rings = bool(sections) and all(s.former is not None for s in sections)
        self.length_label = add("girth of the former" if rings else "tied length", self.length)
        across = QHBoxLayout()
        across.setSpacing(8)
        across.addWidget(self.width_field)
        across.addWidget(quiet("wide"))
        across.addWidget(self.thickness)
        across.addWidget(quiet("thick"))
        across.addStretch(1)
        add("across", across)
        add("minutes", self.minutes)
        for field in (*self.counts.values(), self.length, self.width_field, self.thickness, self.minutes):
            field.put(texts.get(field.accessibleName(), ""))
            self._watch(field)
        add("tension", self._tension(box))
        about = QHBoxLayout()
        about.setSpacing(8)
        self.who, self.lot, self.note = QLineEdit(), QLineEdit(), QLineEdit()
        for line, name, hint in (
            (self.who, "who", "who tied it"),
            (self.lot, "lot", "lot of the cord"),
            (self.note, "note", "a note"),
        ):
            line.setPlaceholderText(hint)
            line.setAccessibleName(name)
            line.setText(texts.get(name, ""))
            line.textEdited.connect(self._keep)
        about.addWidget(self.who)
        about.addWidget(self.lot)
        add("by, from", about)
        add("note", self.note, wide=True)
        pictures = QHBoxLayout()
        pictures.setSpacing(8)
        photos = QPushButton(f"{len(self.photos)} named" if self.photos else "name a file…")
        photos.setObjectName("plain")
        photos.setToolTip("Photos stay where they are; the tie keeps their names")
        photos.setAccessibleName("Photos")
        photos.clicked.connect(self._choose_photos)
        self._photos_button = photos
        pictures.addWidget(photos)
        pictures.addStretch(1)
        add("photos", pictures)
        last = QHBoxLayout()
        last.setSpacing(8)
        self.log = QPushButton(f"Keep the change to {self._base.id}" if self._base else "Log this tie")
        self.log.setObjectName("next")
        self.log.setToolTip("Keep the readings as a test tie (Ctrl+Return)")
        self.log.clicked.connect(self.logged)
        last.addWidget(self.log)
        if self._base:
            leave = QPushButton("Leave it as it was")
            leave.clicked.connect(self.leave)
            last.addWidget(leave)
        last.addStretch(1)
        grid.addLayout(last, self._row, 0, 1, 4)
        return box

    def _tension(self, box: QWidget) -> QLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        before = self.tension_text() if hasattr(self, "tension") else "snug"
        self.tension = QButtonGroup(box)
        for name in ("tight", "snug", "easy"):
            button = QPushButton(name)
            button.setCheckable(True)
            button.setChecked(name == before)
            button.clicked.connect(self._keep)
            self.tension.addButton(button)
            row.addWidget(button)
        row.addStretch(1)
        return row

    def tension_text(self) -> str:
        try:
            checked = self.tension.checkedButton()
        except RuntimeError:  # its window part is gone already
            return "snug"
        return checked.text() if checked else ""

    def _watch(self, field: Field) -> None:
        field.taken.connect(self.edited)
        field.textChanged.connect(self._keep)
        field.refused.connect(self._session.said)

    # -- which ends go into one reading -------------------------------------------------------------

    def _is_apart(self, cord: str) -> bool:
        """Ends of different roles eat differently and are asked one by one, unless the maker says otherwise."""
        ends = working_ends(self._session.weave)
        if f"{cord}.m" in ends:
            return False  # in thirds: only two of its four strands have an end that can be measured
        if cord in self._ways:
            return self._ways[cord] == "apart"
        calibration = self._session.calibration
        role_of = calibration.prior.role_of if calibration else {}
        return len({role_of.get(e, e) for e in ends if e.split(".")[0] == cord}) > 1

    def _groups(self, cord: str) -> list[tuple[str, ...]]:
        """Which ends of a cord are measured in one reading."""
        ends = tuple(e for e in working_ends(self._session.weave) if e.split(".")[0] == cord)
        if not ends:
            return []
        return [(e,) for e in ends] if len(ends) == 1 or self._is_apart(cord) else [ends]

    def regroup(self) -> None:
        """Ask anew once the roles are known, unless something is typed already."""
        if self._all or self._base:
            return
        wanted = [g for c in self._session.weave.cords for g in self._groups(c.name)]
        typed = any(f.text() for line in self.lines for f in (line.cut, line.left))
        if wanted != [line.ends for line in self.lines] and not typed:
            self.build()

    def _toggle_cord(self, cord: str, _checked: bool = False) -> None:
        self._ways[cord] = "together" if self._is_apart(cord) else "apart"
        self.build()
        self._keep()

    def _toggle_all(self, _checked: bool = False) -> None:
        self._all = not self._all
        self.build()
        self._keep()

    # -- what it holds -----------------------------------------------------------------------------

    def fields(self) -> list[Field]:
        """In the order in which they are measured."""
        out = [f for line in self.lines for f in (line.cut, line.left)]
        return [*out, *self.counts.values(), self.length, self.width_field, self.thickness, self.minutes]

    def wrong(self) -> Field | None:
        return next((f for f in self.fields() if f.wrong), None)

    def tie(self) -> Tie | None:
        """The form as a tie; None (said why) when something in it cannot be read."""
        bad = self.wrong()
        if bad is not None:
            self._session.said.emit(f"{bad.accessibleName()}: {bad.wrong}")
            bad.setFocus()
            return None
        asked = {line.ends for line in self.lines}
        shown = [r for line in self.lines if (r := line.reading()) is not None]
        # Readings of a changed tie that this form has no line for stay as they are.
        others = [r for r in self._base.readings if r.ends not in asked] if self._base else []
        fields = {
            "tension": self.tension_text(),
            "who": self.who.text().strip()[:200],
            "lot": self.lot.text().strip()[:200],
            "counts": {s: int(f.value) for s, f in self.counts.items() if f.value is not None},
            "length_mm": self.length.value,
            "width_mm": self.width_field.value,
            "thickness_mm": self.thickness.value,
            "minutes": self.minutes.value,
            "readings": (*shown, *others),
            "note": self.note.text()[:2000],
            "photos": self.photos,
        }
        try:
            if self._base is not None:
                return Tie.model_validate({**self._base.model_dump(), **fields})
            return Tie.model_validate({**self._new(), **fields})
        except ValidationError as e:
            self._session.said.emit(f"This tie cannot be kept: {e.errors()[0]['msg']}")
            return None

    def _new(self) -> dict[str, object]:
        """What a new tie is told by itself: its name, the day, the cord it was tied with and the version of the weave."""
        document, c = self._session.document, self._session.calibration
        numbers = [int(t.id[1:]) for t in document.ties if t.id[:1] == "T" and t.id[1:].isdecimal()]
        return {
            "id": f"T{max(numbers, default=0) + 1}",
            "date": datetime.date.today().isoformat(),
            "kinds": {cord.name: cord.kind for cord in document.weave.cords},
            "versions": dict(c.prior.versions) if c and c.is_of(document.weave) else {},
        }

    @property
    def changing(self) -> Tie | None:
        """The tie that is being changed."""
        return self._base

    def change(self, tie: Tie) -> None:
        """Show a logged tie, to be changed."""
        self._base, self._all = tie, False
        groups = [r.ends for r in tie.readings]
        ends = working_ends(self._session.weave)
        self._all = groups == [ends]
        for cord in self._session.weave.cords:
            own = tuple(e for e in ends if e.split(".")[0] == cord.name)
            if own in groups:
                self._ways[cord.name] = "together"
            elif any((e,) in groups for e in own):
                self._ways[cord.name] = "apart"
        self.photos = tie.photos
        self.build()
        self.put(tie)

    def put(self, tie: Tie) -> None:
        """Show what a tie holds."""
        for line in self.lines:
            line.put(next((r for r in tie.readings if r.ends == line.ends), Reading(ends=line.ends)))
        for name, field in self.counts.items():
            field.put(str(tie.counts[name]) if name in tie.counts else "")
        for field, mm, per, unit in (
            (self.length, tie.length_mm, 10, "cm"),
            (self.width_field, tie.width_mm, 1, "mm"),
            (self.thickness, tie.thickness_mm, 1, "mm"),
        ):
            field.put("" if mm is None else f"{mm / per:.10g} {unit}")
        self.minutes.put("" if tie.minutes is None else f"{tie.minutes:.10g}")
        for edit, text in ((self.who, tie.who), (self.lot, tie.lot), (self.note, tie.note)):
            edit.setText(text)
        for button in self.tension.buttons():
            button.setChecked(button.text() == tie.tension)
        self._keep()

    def leave(self, _checked: bool = False) -> None:
        """A new tie is asked for again."""
        self._base = None
        self.photos = ()
        for field in self.fields():
            field.put("")
        self.note.clear()
        self.build()
        self._keep()
        self.left_off.emit()

    def after_log(self) -> None:
        """The next tie is usually cut the same."""
        if self._base is not None:
            self.leave()
            return
        for line in self.lines:
            line.left.put("")
        for field in (self.length, self.width_field, self.thickness, self.minutes):
            field.put("")
        self.note.clear()
        self.photos = ()
        self._photos_button.setText("name a file…")
        self._keep()

    def fill(self, tie: Tie) -> None:
        """What is known of a tie already, as from tying along: counts and minutes. Readings are still to be taken."""
        for name, field in self.counts.items():
            if name in tie.counts:
                field.put(str(tie.counts[name]))
        if tie.minutes is not None:
            self.minutes.put(f"{tie.minutes:.10g}")
        if tie.note and not self.note.text():
            self.note.setText(tie.note)
        self._keep()
        empty = (line.cut if line.cut.value is None else line.left for line in self.lines)
        next(empty, self.length).setFocus()

    # -- photos ------------------------------------------------------------------------------------

    def _choose_photos(self, _checked: bool = False) -> None:
        names, _ = QFileDialog.getOpenFileNames(
            self, "Photos of this tie", "", "Pictures (*.jpg *.jpeg *.png)"
        )
        if names:
            self.name_photos([Path(n) for n in names])

    def name_photos(self, paths: Sequence[Path]) -> None:
        """Keep where photos lie: beside the weave by name, elsewhere by their whole path."""
        home = self._session.path.parent if self._session.path else None
        named = [p.name if home and p.parent == home else str(p) for p in paths]
        self.photos = tuple(dict.fromkeys([*self.photos, *named]))[:40]
        self._photos_button.setText(f"{len(self.photos)} named")
        self._keep()
