"""What the window does with files: weaves opened and saved, ties in and out, sheets published."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QInputDialog, QMenu, QMessageBox

from dim_ladder.calibrate import Tie, ties_from_csv, ties_to_csv
from dim_ladder.commands import AddTie, SetName
from dim_ladder.shelf import SUFFIX, write_atomic
from dim_ladder.shelf.files import read_text
from dim_ladder.shelf.workshop import weaves_in

if TYPE_CHECKING:
    from dim_ladder.app.along.screen import Along
    from dim_ladder.app.window import MainWindow


class Filing:
    """Handlers of the actions that have to do with files."""

    def __init__(self, window: MainWindow) -> None:
        self._w = window
        self.along: Along | None = None

    def handlers(self) -> dict[str, Callable[[], None]]:
        return {
            "file.new": self._new,
            "file.open": self._open,
            "file.save": self._save,
            "file.save-as": self._save_as,
            "edit.rename": self._rename,
            "tie.along": self.tie_along,
            "tie.log": self._log,
            "tie.take": self._take,
            "tie.instruments": self._instruments,
            "tie.import": self._import,
            "tie.export": self._export,
            "sheet.publish": self._publish,
        }

    def may_switch(self) -> bool:
        """Before another weave takes this one's place: written, or the person says that it may go."""
        self._w.flush()
        self._w.session.settle()
        return not self._w.session.unsaved or self._may_leave()

    def switch_to(self, path: Path, _checked: bool = False) -> None:
        if self.may_switch():
            self._w.attempt(lambda: self._w.open_path(path))

    def _new(self) -> None:
        if self.may_switch():
            self._w.session.new()
            self._w.stage("view.hang")

    def _open(self) -> None:
        start = str(self._w.session.path.parent if self._w.session.path else Path.home())
        name, _ = QFileDialog.getOpenFileName(
            self._w, "Open a weave", start, f"Weaves (*{SUFFIX} *.weave);;All files (*)"
        )
        if name:
            self.switch_to(Path(name))

    def _save(self) -> None:
        self._w.flush()
        if self._w.session.path is None:
            self._save_as()
        else:
            self._w.attempt(self._w.session.save)

    def _save_as(self) -> None:
        from dim_ladder.commands.sheets import file_stem

        self._w.flush()
        folder = self._w.session.path.parent if self._w.session.path else Path.home()
        start = str(folder / (file_stem(self._w.session.weave.name) + SUFFIX))
        name, _ = QFileDialog.getSaveFileName(
            self._w, "Save the weave", start, f"Weave (*{SUFFIX});;Script alone (*.weave)"
        )
        if name:
            path = Path(name)
            if path.suffix not in (SUFFIX, ".weave"):
                path = path.with_name(path.name + SUFFIX)
            self._w.attempt(lambda: self._w.session.save(path))

    def weaves_menu(self) -> None:
        menu = QMenu(self._w)
        for path in weaves_in(self._w.session.path.parent) if self._w.session.path else ():
            entry = menu.addAction(path.stem.replace("-", " ").title())
            entry.setCheckable(True)
            entry.setChecked(path == self._w.session.path)
            entry.triggered.connect(partial(self.switch_to, path))
        menu.addSeparator()
        for action_id in ("file.new", "file.open", "edit.rename"):
            menu.addAction(self._w.actions_by_id[action_id])
        menu.exec(self._w.title.mapToGlobal(self._w.title.rect().bottomLeft()))
        menu.deleteLater()

    def _rename(self) -> None:
        text, ok = QInputDialog.getText(
            self._w, "Rename the weave", "Its name", text=self._w.session.weave.name
        )
        if ok and text.strip():
            self._w.attempt(lambda: self._w.session.do(SetName(name=text.strip().replace('"', "”")[:120])))

    # -- ties and sheets -----------------------------------------------------------------------------

    def _log(self) -> None:
        from dim_ladder.app.tie.screen import TieScreen

        screen = self._w.screen_of("view.tie")
        if isinstance(screen, TieScreen):
            screen.log_tie()

    def _take(self) -> None:
        from dim_ladder.app.tie.screen import TieScreen

        screen = self._w.screen_of("view.tie")
        if isinstance(screen, TieScreen):
            screen.instruments.take()

    def _instruments(self) -> None:
        from dim_ladder.app.tie.screen import TieScreen

        self._w.stage("view.tie")
        screen = self._w.screen_of("view.tie")
        if isinstance(screen, TieScreen):
            screen.instruments.show_ports()
            screen.instruments.choice.setFocus()

    def tie_along(self) -> None:
        """The whole screen for one step at a time; what was tied comes back as a test tie."""
        from dim_ladder.app.along.screen import Along

        self._w.flush()
        session = self._w.session
        if session.document.draft or session.ladder.problems:
            self._w.say("Mend the weave first; then tie along")
            return
        if not any(s.items or s.former for s in session.weave.sections):
            self._w.say("There is no step to tie yet: record one first")
            return
        along = self.along = Along(session)
        along.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        along.ended.connect(self._tied)
        along.left.connect(self._along_left)
        along.showFullScreen()

    def _along_left(self) -> None:
        self.along = None
        self._w.activateWindow()

    def _tied(self, tie: Tie) -> None:
        from dim_ladder.app.tie.screen import TieScreen

        screen = self._w.screen_of("view.tie")
        if isinstance(screen, TieScreen):
            screen.fill(tie)

    def _import(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self._w, "Import ties", "", "Tables (*.csv)")
        if name:
            self._w.attempt(lambda: self.import_ties(Path(name)))

    def import_ties(self, path: Path) -> None:
        """Add the ties of a CSV table; those already known by name are left as they are."""
        known = {t.id for t in self._w.session.document.ties}
        new = [t for t in ties_from_csv(read_text(path)) if t.id not in known]
        for tie in new:
            self._w.session.do(AddTie(tie=tie))
        self._w.say(f"{len(new)} ties imported from {path.name}")

    def _export(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self._w, "Export ties", "ties.csv", "Tables (*.csv)")
        if name:
            self._w.attempt(lambda: write_atomic(Path(name), ties_to_csv(self._w.session.document.ties)))

    def save_motion(self) -> None:
        """The stretch that is played as one animated SVG; it is made on a thread."""
        from dim_ladder.commands.sheets import file_stem
        from dim_ladder.publish.motion import animated_svg

        session = self._w.session
        stretch = self._w.record.board.player.stretch()
        if stretch is None:
            self._w.say("There is no step to show yet")
            return
        start = str(
            (session.path.parent if session.path else Path.home()) / f"{file_stem(session.weave.name)}.svg"
        )
        name, _ = QFileDialog.getSaveFileName(self._w, "Save the motion", start, "Pictures (*.svg)")
        if not name:
            return
        path = Path(name if name.endswith(".svg") else f"{name}.svg")
        trace, speed = session.ladder, self._w.record.board.player.speed

        def write() -> str:
            write_atomic(path, animated_svg(trace, *stretch, speed=speed))
            return path.name

        session.jobs.ask(
            "save-motion",
            write,
            lambda done: self._w.say(f"The motion is in {done}: any browser shows it"),
            lambda e: self._w.say(str(e)),
        )

    def _publish(self) -> None:
        from dim_ladder.app.sheet.screen import SheetScreen

        screen = self._w.screen_of("view.sheet")
        if isinstance(screen, SheetScreen):
            screen.publish()

    def _may_leave(self) -> bool:
        """Work without a file, or that could not be written, is not dropped without asking."""

        box = QMessageBox(self._w)
        box.setWindowTitle("Keep this weave?")
        box.setText(f"“{self._w.session.weave.name}” is not saved in a file.")
        keep = box.addButton("Save…", QMessageBox.ButtonRole.AcceptRole)
        drop = box.addButton("Leave without it", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is keep:
            self._save()
            return not self._w.session.unsaved
        if box.clickedButton() is not drop:
            return False
        self._w.session.keeper.forget()
        return True
