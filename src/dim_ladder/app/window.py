"""The main window: head, ladder, stage, status; and what every action of the command table does."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint, QSize, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QDialog,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QMainWindow,
    QMenu,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.doing import Doing, Undoes
from dim_ladder.app.filing import Filing
from dim_ladder.app.header import CordLine
from dim_ladder.app.icons import icon
from dim_ladder.app.keysheet import KeySheet
from dim_ladder.app.labels import Label
from dim_ladder.app.ladder import LadderView
from dim_ladder.app.looking import Looking
from dim_ladder.app.palette import ActionSearch
from dim_ladder.app.record.screen import RecordScreen
from dim_ladder.app.recording import Recording
from dim_ladder.app.screens import NUMBERS, STAGES
from dim_ladder.app.session import Session
from dim_ladder.app.tails import TailsLine
from dim_ladder.app.theme import apply_theme, sized, theme
from dim_ladder.base import DimLadderError
from dim_ladder.commands import (
    ACTIONS,
    Action,
)
from dim_ladder.commands.table import action

TITLE_BAR = 32  # what a desktop's frame takes of the screen's height
OF_RUNGS = (
    "edit.cut", "edit.copy", "edit.paste", "record.remove", "record.earlier", "record.later", "record.insert",
    "play.run", "play.back", "play.next", "play.previous", "play.faster", "play.slower", "play.behind",
)  # fmt: skip
# What would take a step in hand away, or ask in the middle of it: all that changes the record, or puts another in its place.
MID_STEP = (
    *(a.id for a in ACTIONS if a.menu == "Record" and a.id != "record.mend"),
    "edit.cut", "edit.paste", "edit.rename", "file.new", "file.open", "file.recent", "tie.along",
)  # fmt: skip


class MainWindow(QMainWindow):
    def __init__(self) -> None:
        super().__init__()
        self.session = Session(self)
        self.setAcceptDrops(True)
        self.setMinimumSize(1000, 680)
        room = self.screen().availableGeometry()
        self.resize(min(1280, room.width()), min(800, room.height() - TITLE_BAR))
        doing = self.doing = Doing(self, self.session, self.say, self.attempt, self.screen_of, self.flush)
        self.record = RecordScreen(self.session)
        self.filing = Filing(doing, self.record.board.player)
        self.recording = Recording(doing, self.record)
        self.looking = Looking(doing)
        self.actions_by_id: dict[str, QAction] = {}
        self._stages: dict[str, QWidget] = {}

        self.title = QPushButton()
        self.title.setObjectName("title")
        self.title.setFont(sized(1.3, True))
        self.title.setToolTip("Other weaves of this workshop")
        self.title.clicked.connect(self._weaves)
        self.cord_line = CordLine([(s.id, s.word) for s in STAGES])
        self.cord_line.picked.connect(self.run)
        search = QPushButton("Ctrl+K")
        search.setToolTip("Find any action by its words")
        search.setAccessibleName("Find an action")
        search.clicked.connect(lambda: self.run("go.search"))
        head = QHBoxLayout()
        head.setContentsMargins(20, 8, 16, 0)
        head.setSpacing(18)
        head.addWidget(self.title, 0, Qt.AlignmentFlag.AlignVCenter)
        head.addWidget(self.cord_line, 1)
        head.addWidget(search, 0, Qt.AlignmentFlag.AlignTop)

        self.message = QFrame()
        self.message.setObjectName("say")
        self.message_text = Label()
        self.message_text.setWordWrap(True)
        close = QPushButton("dismiss")
        close.setObjectName("plain")
        close.clicked.connect(lambda: self.say(""))
        says = QHBoxLayout(self.message)
        says.setContentsMargins(14, 6, 10, 6)
        says.addWidget(self.message_text, 1)
        says.addWidget(close)
        self.message.hide()

        self.ladder = LadderView(self.session)
        self.ladder.moved.connect(self.recording.move_to)
        self.record.step.tight.asked.connect(lambda: self.run("view.look"))
        self.record.step.tight.slips.connect(lambda: self.run("look.slips"))
        self.stack = QStackedWidget()
        self._stages["view.record"] = self.record
        self.stack.addWidget(self.record)
        split = QSplitter(Qt.Orientation.Horizontal)
        split.addWidget(self.ladder)
        split.addWidget(self.stack)
        split.setStretchFactor(1, 1)
        split.setSizes([262, 1018])
        split.setChildrenCollapsible(False)
        split.setHandleWidth(1)
        central = QWidget()
        layout = QVBoxLayout(central)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(head)
        layout.addWidget(self.message)
        layout.addWidget(split, 1)
        self.setCentralWidget(central)

        self.tails = TailsLine(self.session)
        self.unit_words = Label()
        self.saved_words = Label()
        self.statusBar().setSizeGripEnabled(False)
        self.statusBar().setContentsMargins(14, 0, 14, 0)
        self.statusBar().addWidget(self.tails)
        self.statusBar().addWidget(self.unit_words, 1)
        self.statusBar().addPermanentWidget(self.saved_words)
        self._clock = QTimer(self)
        self._clock.setInterval(1000)
        self._clock.timeout.connect(self._show_saved)
        self._clock.start()

        self.handlers = self._handlers()
        self._menus()
        self.session.changed.connect(self._changed)
        self.session.traced.connect(self._show_status)
        self.session.said.connect(self.say)
        self.session.traces.progressed.connect(self._show_status)
        self.session.saved.connect(self._show_saved)
        self._changed()
        self.stage("view.record")

    # -- actions -----------------------------------------------------------------------------------

    def _handlers(self) -> dict[str, Callable[[], None]]:
        return {
            **self.filing.handlers(),
            "file.recent": self._recent,
            **self.recording.handlers(),
            "file.quit": lambda: (self.close(), None)[1],
            "edit.undo": self._undo,
            "edit.redo": self._redo,
            "edit.stop": self.session.traces.stop,
            **{s.id: partial(self.stage, s.id) for s in STAGES},
            "view.fold": self.ladder.fold_all,
            "record.how": self._ask_how,
            **self._playing(),
            **self.looking.handlers(),
            "view.dark": self._dark,
            "view.motion": self._motion,
            "view.tight": self._tight,
            "go.search": self._search,
            "go.keys": lambda: self._ask(KeySheet(self.session.keys, self.session.set_keys, self)),
        }

    def _playing(self) -> dict[str, Callable[[], None]]:
        player = self.record.board.player

        def on_record(do: Callable[[], object]) -> Callable[[], None]:
            def run() -> None:
                self.stage("view.record")
                do()

            return run

        return {
            "play.run": on_record(player.play),
            "play.back": on_record(partial(player.play, False)),
            "play.next": on_record(partial(player.step, 1)),
            "play.previous": on_record(partial(player.step, -1)),
            "play.faster": partial(player.faster, 1),
            "play.slower": partial(player.faster, -1),
            "play.behind": on_record(player.turn_over),
            "play.save": self.filing.save_motion,
        }

    def run(self, action_id: str) -> None:
        """Carry out an action of the command table; nothing asks or changes the record while a person is in the middle of a
        step."""
        if action_id in MID_STEP and self.session.draft is not None and self.session.draft.begun:
            self.say(f"Rest the end first, or let it go; then: {action(action_id).text.rstrip('…')}")
            return
        self.handlers[action_id]()

    def enabled(self, action: Action) -> bool:
        if action.needs == "rung":
            return self.session.chosen >= 0
        if action.needs == "offer":
            return self.session.offer is not None
        if action.needs == "tracing":
            return self.session.traces.busy
        if action.needs in ("shape", "pulling"):
            return self.looking.can(action.needs)
        if action.id == "edit.undo":
            return self._shelf.can_undo if self._shelf is not None else bool(self.session.history.undo_label)
        if action.id == "edit.redo":
            return bool(self.session.history.redo_label)
        if action.id.startswith("board."):
            return self.session.draft is not None
        return True

    def _menus(self) -> None:
        menus: dict[str, QMenu] = {}
        for a in ACTIONS:
            if not a.menu:
                continue
            if a.menu not in menus:
                menus[a.menu] = self.menuBar().addMenu(a.menu)
            q = QAction(icon(a.id), a.text, self)
            q.setStatusTip(a.does)
            q.setToolTip(a.does)
            q.triggered.connect(lambda _=False, i=a.id: self.run(i))
            menus[a.menu].addAction(q)
            self.addAction(q)
            self.actions_by_id[a.id] = q
        self._put_keys()
        self.session.keys_changed.connect(self._put_keys)
        # Delete and the arrows with Ctrl must not take keys from text that is being typed.
        for action_id in OF_RUNGS:
            self.actions_by_id[action_id].setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
            self.removeAction(self.actions_by_id[action_id])
            for widget in (self.ladder, self.record.board):
                widget.addAction(self.actions_by_id[action_id])

    def _put_keys(self) -> None:
        """Every action under the key it has now."""
        keys = self.session.keys
        for action_id, q in self.actions_by_id.items():
            q.setShortcut(QKeySequence(keys.of(action_id)))
            does = action(action_id).does
            q.setToolTip(f"{does} ({keys.of(action_id)})" if keys.of(action_id) else does)

    # -- stages ------------------------------------------------------------------------------------

    def stage(self, which: str) -> None:
        """Show a stage; it is made when it is first asked for, so that the window is up at once."""
        if which not in self._stages:
            widget = self._make(which)
            self._stages[which] = widget
            self.stack.addWidget(widget)
        self.stack.setCurrentWidget(self._stages[which])
        self.session.show_numbers(which in NUMBERS)
        self._changed()
        cords = self.session.weave.cords
        self.cord_line.light(which, cords[0].colour if cords else theme().ink)
        if which == "view.record":
            self.record.board.setFocus()

    def _make(self, which: str) -> QWidget:
        screen = next(s for s in STAGES if s.id == which).make(self.doing)
        if which in ("view.stash", "view.orders"):
            screen.shelf.changed.connect(self._changed)  # type: ignore[attr-defined]
        if which == "view.look":
            self.looking.show_on(screen, self._show_status)
        return screen

    def screen_of(self, which: str) -> QWidget:
        """The widget of a stage, shown."""
        self.stage(which)
        return self._stages[which]

    # -- file --------------------------------------------------------------------------------------

    def open_path(self, path: Path) -> None:
        """Open a document or script; raises what Session.open raises."""
        self.filing.open_path(path)
        self._show_saved()

    def _weaves(self) -> None:
        self.filing.weaves_menu(self.actions_by_id, self._below_title())

    def _recent(self) -> None:
        self.filing.recent_menu(self._below_title())

    def _below_title(self) -> QPoint:
        return self.title.mapToGlobal(self.title.rect().bottomLeft())

    def flush(self) -> None:
        """What is typed but not taken yet becomes an edit before anything else happens."""
        self.record.script.take()
        focus = QApplication.focusWidget()
        if isinstance(focus, QLineEdit) and focus.isModified() and self.isAncestorOf(focus):
            focus.editingFinished.emit()
            focus.setModified(False)

    def attempt(self, work: Callable[[], object]) -> bool:
        try:
            work()
        except DimLadderError as e:
            self.say(str(e))
            return False
        return True

    def _undo(self) -> None:
        """The last hop of a step in hand; else the last change."""
        if self.session.draft is not None and self.session.draft.begun:
            self.record.board.act("back")
            return
        if self._shelf is not None:
            self._shelf.undo()
            return
        self.flush()
        self.session.undo()

    @property
    def _shelf(self) -> Undoes | None:
        """Where what is changed is not the weave: the stash and its orders, on their screens."""
        found: Undoes | None = getattr(self.stack.currentWidget(), "shelf", None)
        return found

    def _redo(self) -> None:
        self.flush()
        self.session.redo()

    # -- window ------------------------------------------------------------------------------------

    def _dark(self) -> None:
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        dark = not theme().pen.dark
        apply_theme(app, dark=dark)
        self.session.set_up(dark=dark)
        for action_id, q in self.actions_by_id.items():
            q.setIcon(icon(action_id))
        self.record.draw_icons()
        self.session.changed.emit()
        self.session.traced.emit()

    def _tight(self) -> None:
        self.session.set_up(tight=not self.session.settings.tight)
        self.record.step.tight.refresh()

    def _motion(self) -> None:
        on = not self.session.settings.motion
        self.session.set_up(motion=on)
        self.say(
            "Strands move when steps are played" if on else "Steps jump when they are played: nothing moves"
        )

    def _search(self) -> None:
        self._ask(ActionSearch(self.run, self.enabled, self.session.keys, self))

    def _ask(self, dialog: QDialog) -> None:
        dialog.exec()
        dialog.deleteLater()

    def say(self, text: str) -> None:
        """A message above the stage: what happened, to which piece, what to do. "" takes it away."""
        self.message_text.setText(text)
        self.message.setVisible(bool(text))
        self._show_saved()

    def _changed(self) -> None:
        weave = self.session.weave
        self.title.setText(weave.name.replace("&", "&&"))
        self.setWindowTitle(f"{weave.name} – Dim Ladder")
        h = self.session.history
        for action_id, word, label in (
            ("edit.undo", "Undo", h.undo_label),
            ("edit.redo", "Redo", h.redo_label),
        ):
            short = label if len(label) < 50 else label[:48] + "…"
            self.actions_by_id[action_id].setText(f"{word}: {short}".replace("&", "&&") if label else word)
            self.actions_by_id[action_id].setEnabled(bool(label))
        if self._shelf is not None:
            self.actions_by_id["edit.undo"].setText("Undo: what was changed on the shelf")
            self.actions_by_id["edit.undo"].setEnabled(self._shelf.can_undo)
        current = next((k for k, w in self._stages.items() if w is self.stack.currentWidget()), "view.record")
        self.cord_line.light(current, weave.cords[0].colour if weave.cords else theme().ink)
        self._show_status()
        self._show_saved()

    def _show_status(self) -> None:
        s = self.session
        for a in ACTIONS:
            if a.needs and a.id in self.actions_by_id:
                self.actions_by_id[a.id].setEnabled(self.enabled(a))
        if not s.weave.sections:
            self.unit_words.setText("no section yet")
            return
        if s.traces.busy:
            self.unit_words.setText(
                f"   {s.traces.progress}; " + ("stopped" if s.traces.stopped else "Ctrl+. stops")
            )
            return
        section = s.weave.sections[s.section]
        count = sum(1 for r in s.ladder.steps if r.op.section == s.section and not r.quiet and not r.op.unit)
        text = f"{section.name}: {count} step{'s' if count != 1 else ''}"
        if section.former is not None:
            text = f"{section.name}: on a round former, {section.former.leads} leads and {section.former.bights} bights"
        if s.turn is not None and s.turn.kind != "plain" and section.kind == "body":
            short = "spirals" if s.turn.kind == "spiral" and section.spiral else s.turn.short
            text += (
                f", {short}, colours repeat after {s.turn.colours} unit{'s' if s.turn.colours != 1 else ''}"
            )
        self.unit_words.setText("   " + text)

    def _ask_how(self) -> None:
        if self.session.weave.sections:
            self.ladder.ask_count(self.session.section)

    def _show_saved(self) -> None:
        s = self.session
        c = s.custody
        if c.paper.read_only:
            text = "to look at only"
        elif c.conflict:
            text = "changed elsewhere: Ctrl+Shift+D"
        elif c.save_trouble:
            text = "not saved"
        elif s.path is None:
            text = "not in a file yet: Ctrl+S" if s.history.number else ""
        elif s.unsaved:
            text = "saving…"
        else:
            ago = int(time.monotonic() - c.saved_at)
            text = "saved just now" if ago < 2 else f"saved {ago} s ago" if ago < 60 else "saved"
        self.saved_words.setText(text)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(u.isLocalFile() for u in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        for url in event.mimeData().urls():
            if url.isLocalFile():
                self.filing.switch_to(Path(url.toLocalFile()))
                return

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.filing.may_switch():
            event.ignore()
            return
        if not self.isFullScreen() and not self.isMaximized():
            self.session.set_up(width=self.width(), height=self.height())
        self.session.close()
        self.session.jobs.finish()
        super().closeEvent(event)

    def sizeHint(self) -> QSize:
        return QSize(1280, 800)
