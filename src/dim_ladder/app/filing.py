"""What the window does with files: weaves opened and saved, ties in and out, sheets published."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from datetime import datetime
from functools import partial
from html import escape
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QFileDialog, QInputDialog, QMenu, QMessageBox

from dim_ladder.app.compare import MINE, THEIRS, CompareDialog, plain_box
from dim_ladder.app.doing import Doing
from dim_ladder.app.record.player import Player
from dim_ladder.base import DimLadderError
from dim_ladder.base.disk import ReadOnlyFile, read_text, write_whole
from dim_ladder.calibrate import Tie, ties_to_csv
from dim_ladder.calibrate.csvio import read_table
from dim_ladder.commands import SetName
from dim_ladder.commands.edits import SetTies
from dim_ladder.commands.importing import How, Meeting, meeting, merged
from dim_ladder.commands.left import Leftover
from dim_ladder.shelf import SUFFIX
from dim_ladder.shelf.files import MAX_BYTES
from dim_ladder.shelf.workshop import weaves_in

if TYPE_CHECKING:
    from dim_ladder.app.along.screen import Along


class Filing:
    """Handlers of the actions that have to do with files."""

    def __init__(self, doing: Doing, player: Player) -> None:
        self._do, self._player = doing, player
        self.along: Along | None = None

    def handlers(self) -> dict[str, Callable[[], None]]:
        return {
            "file.new": self._new,
            "file.open": self._open,
            "file.save": self._save,
            "file.save-as": self._save_as,
            "file.loose": self._loose,
            "file.compare": self._compare,
            "file.take-over": lambda: (self._do.session.take_over(), None)[1],
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
        self._do.flush()
        self._do.session.settle()
        return not self._do.session.unsaved or self._may_leave()

    def switch_to(self, path: Path, _checked: bool = False) -> None:
        if self.may_switch():
            self._do.attempt(lambda: self.open_path(path))

    def _new(self) -> None:
        if self.may_switch():
            self._do.session.new()
            self._do.stage("view.hang")

    def _open(self) -> None:
        start = str(self._do.session.path.parent if self._do.session.path else Path.home())
        name, _ = QFileDialog.getOpenFileName(
            self._do.parent, "Open a weave", start, f"Weaves (*{SUFFIX} *.weave *.html *.pdf);;All files (*)"
        )
        if name:
            self.switch_to(Path(name))

    def _save(self) -> None:
        self._do.flush()
        if self._do.session.path is None:
            self._save_as()
        else:
            self._save_to(None)

    def _save_to(self, path: Path | None) -> None:
        """Save; a file that is marked read-only is written over only when the person says so."""
        session = self._do.session
        try:
            session.save(path)
        except ReadOnlyFile as e:
            if self.ask(f"{e.message}. Write over it all the same?", "Write over it"):
                self._do.attempt(lambda: session.save(path, over_read_only=True))
            else:
                self._do.say(str(e))
        except DimLadderError as e:
            self._do.say(str(e))

    def ask(self, question: str, yes: str, no: str = "Leave it") -> bool:
        """A question with one way to go on and one to stay."""
        box = plain_box(self._do.parent, question)
        go = box.addButton(yes, QMessageBox.ButtonRole.AcceptRole)
        box.addButton(no, QMessageBox.ButtonRole.RejectRole)
        box.exec()
        return box.clickedButton() is go

    def _loose(self) -> None:
        """Weaves in no file that the program ended with, to choose from."""
        found = self._do.session.custody.leftovers()
        if not found:
            self._do.say("No weave was left in no file")
            return
        menu = QMenu(self._do.parent)
        for leftover in found:
            when = datetime.fromtimestamp(leftover.when)
            place = f", of {leftover.of.name}" if leftover.of else ""
            words = f"{leftover.words} ({when:%d %b %H:%M}{place})".replace("&", "&&")
            menu.addAction(words).triggered.connect(partial(self._take_loose, leftover))
        self.pop(menu, self._do.parent.mapToGlobal(QPoint(40, 60)))

    def _take_loose(self, leftover: Leftover, _checked: bool = False) -> None:
        if self.may_switch():
            self._do.session.recover(leftover)

    def _compare(self) -> None:
        """What is different in the file; which of the two goes on."""
        custody = self._do.session.custody
        self._do.flush()
        if custody.path is None or not (custody.conflict or custody.paper.differs(thorough=True)):
            self._do.say("The file holds what this window read or wrote last")
            return
        try:
            other = custody.other()
        except DimLadderError as e:
            self._do.say(str(e))
            return
        dialog = CompareDialog(custody.path, other, custody.apart(other), self._do.parent)
        chosen = self.choose(dialog)
        dialog.deleteLater()
        if chosen == MINE:
            self._do.attempt(lambda: self._do.say(f"The other one is kept as {custody.keep_mine().name}"))
        elif chosen == THEIRS:
            custody.take_theirs(other, self._do.session.do)

    def choose(self, dialog: CompareDialog) -> int:
        """Let the person choose."""
        return dialog.exec()

    def _save_as(self) -> None:
        from dim_ladder.commands.sheets import file_stem

        self._do.flush()
        folder = self._do.session.path.parent if self._do.session.path else Path.home()
        start = str(folder / (file_stem(self._do.session.weave.name) + SUFFIX))
        name, _ = QFileDialog.getSaveFileName(
            self._do.parent, "Save the weave", start, f"Weave (*{SUFFIX});;Script alone (*.weave)"
        )
        if name:
            path = Path(name)
            if path.suffix not in (SUFFIX, ".weave"):
                path = path.with_name(path.name + SUFFIX)
            self._save_to(path)

    def open_path(self, path: Path) -> None:
        """Open a document or script; raises what Session.open raises."""
        self._do.flush()
        self._do.say("")
        self._do.session.open(path)

    def weaves_menu(self, actions: Mapping[str, QAction], at: QPoint) -> None:
        """The weaves of this workshop, those that were open last elsewhere, and what begins, opens and names one. actions : by
        id. at : on the screen."""
        folder = self._do.session.workshop
        here = weaves_in(folder) if folder else ()
        menu = QMenu(self._do.parent)
        self._fill(menu, here)
        elsewhere = [p for p in self.recent() if p not in here]
        if elsewhere:
            menu.addSection("Lately elsewhere")
            self._fill(menu, elsewhere, places=True)
        menu.addSeparator()
        for action_id in ("file.new", "file.open", "edit.rename"):
            menu.addAction(actions[action_id])
        self.pop(menu, at)

    def recent_menu(self, at: QPoint) -> None:
        """The weaves that were open last, the newest first. at : on the screen."""
        recent = self.recent()
        if not recent:
            self._do.say("No weave that is in a file was open before")
            return
        menu = QMenu(self._do.parent)
        self._fill(menu, recent, places=True)
        self.pop(menu, at)

    def pop(self, menu: QMenu, at: QPoint) -> None:
        """Let a menu be chosen from."""
        menu.exec(at)
        menu.deleteLater()

    def recent(self) -> list[Path]:
        """Those of the recent weaves that are still there."""
        return [p for text in self._do.session.settings.recent if (p := Path(text)).is_file()]

    def _fill(self, menu: QMenu, paths: Sequence[Path], *, places: bool = False) -> None:
        """An entry for every weave, the open one ticked. places : with the folder it lies in."""
        for path in paths:
            name = path.stem.replace("-", " ").title().replace("&", "&&")
            entry = menu.addAction(f"{name}  ({path.parent.name})" if places else name)
            entry.setToolTip(escape(str(path)))
            entry.setCheckable(True)
            entry.setChecked(path == self._do.session.path)
            entry.triggered.connect(partial(self.switch_to, path))

    def _rename(self) -> None:
        text, ok = QInputDialog.getText(
            self._do.parent, "Rename the weave", "Its name", text=self._do.session.weave.name
        )
        if ok and text.strip():
            self._do.attempt(lambda: self._do.session.do(SetName(name=text.strip().replace('"', "”")[:120])))

    # -- ties and sheets -----------------------------------------------------------------------------

    def _log(self) -> None:
        from dim_ladder.app.tie.screen import TieScreen

        screen = self._do.stage("view.tie")
        if isinstance(screen, TieScreen):
            screen.log_tie()

    def _take(self) -> None:
        from dim_ladder.app.tie.screen import TieScreen

        screen = self._do.stage("view.tie")
        if isinstance(screen, TieScreen):
            screen.instruments.take()

    def _instruments(self) -> None:
        from dim_ladder.app.tie.screen import TieScreen

        self._do.stage("view.tie")
        screen = self._do.stage("view.tie")
        if isinstance(screen, TieScreen):
            screen.instruments.show_ports()
            screen.instruments.choice.setFocus()

    def tie_along(self) -> None:
        """The whole screen for one step at a time; what was tied comes back as a test tie."""
        from dim_ladder.app.along.screen import Along

        self._do.flush()
        session = self._do.session
        if session.document.draft or session.ladder.problems:
            self._do.say("Mend the weave first; then tie along")
            return
        if not any(s.items or s.former for s in session.weave.sections):
            self._do.say("There is no step to tie yet: record one first")
            return
        along = self.along = Along(session)
        along.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        along.ended.connect(self._tied)
        along.left.connect(self._along_left)
        along.showFullScreen()

    def _along_left(self) -> None:
        self.along = None
        self._do.parent.activateWindow()

    def _tied(self, tie: Tie) -> None:
        from dim_ladder.app.tie.screen import TieScreen

        screen = self._do.stage("view.tie")
        if isinstance(screen, TieScreen):
            screen.fill(tie)

    def _import(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self._do.parent, "Import ties", "", "Tables (*.csv)")
        if name:
            self._do.attempt(lambda: self.import_ties(Path(name)))

    def import_ties(self, path: Path) -> None:
        """Add the ties of a CSV table; where other ties have the same names, the person says what is to become of them."""
        table = read_table(read_text(path, MAX_BYTES, "a table"))
        here = self._do.session.document.ties
        found = meeting(here, table.ties)
        how: How | None = self.choose_how(found) if found.clash else "keep"
        if how is None:
            self._do.say("Nothing was imported")
            return
        after = merged(here, found, how)
        if after != here and not self._do.session.do(SetTies(ties=after)):
            return
        many = len(after) - len(here) + (len(found.clash) if how == "replace" else 0)
        same = f"; {len(found.known)} were here already" if found.known else ""
        out = f"; not read: the columns {', '.join(table.left_out)}" if table.left_out else ""
        self._do.say(f"{many} ties imported from {path.name}{same}{out}")

    def choose_how(self, found: Meeting) -> How | None:
        """What is to become of ties whose names are taken; None to leave off."""
        box = plain_box(self._do.parent, f"{found.question}. What is to become of them?")
        ways: dict[object, How] = {}
        for text, how in (
            ("Replace those here", "replace"),
            ("Keep those here", "keep"),
            ("Keep both", "both"),
        ):
            ways[box.addButton(text, QMessageBox.ButtonRole.AcceptRole)] = how  # type: ignore[assignment]
        box.addButton("Import nothing", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        return ways.get(box.clickedButton())

    def _export(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self._do.parent, "Export ties", "ties.csv", "Tables (*.csv)")
        if name:
            self._do.attempt(lambda: write_whole(Path(name), ties_to_csv(self._do.session.document.ties)))

    def save_motion(self) -> None:
        """The stretch that is played as one animated SVG; it is made on a thread."""
        from dim_ladder.commands.sheets import file_stem
        from dim_ladder.publish.motion import animated_svg

        session = self._do.session
        stretch = self._player.stretch()
        if stretch is None:
            self._do.say("There is no step to show yet")
            return
        start = str(
            (session.path.parent if session.path else Path.home()) / f"{file_stem(session.weave.name)}.svg"
        )
        name, _ = QFileDialog.getSaveFileName(self._do.parent, "Save the motion", start, "Pictures (*.svg)")
        if not name:
            return
        path = Path(name if name.endswith(".svg") else f"{name}.svg")
        trace, speed = session.ladder, self._player.speed

        def write() -> str:
            write_whole(path, animated_svg(trace, *stretch, speed=speed))
            return path.name

        session.jobs.ask(
            session,
            "save-motion",
            write,
            lambda done: self._do.say(f"The motion is in {done}: any browser shows it"),
            lambda e: self._do.say(str(e)),
        )

    def _publish(self) -> None:
        from dim_ladder.app.sheet.screen import SheetScreen

        screen = self._do.stage("view.sheet")
        if isinstance(screen, SheetScreen):
            screen.publish()

    def _may_leave(self) -> bool:
        """Work without a file, or that could not be written, is not dropped without asking."""

        box = plain_box(self._do.parent, f"“{self._do.session.weave.name}” is not saved in a file.")
        box.setWindowTitle("Keep this weave?")
        keep = box.addButton("Save…", QMessageBox.ButtonRole.AcceptRole)
        drop = box.addButton("Leave without it", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is keep:
            self._save()
            return not self._do.session.unsaved
        if box.clickedButton() is not drop:
            return False
        self._do.session.custody.keeper.forget()
        return True
