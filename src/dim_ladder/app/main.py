"""Starting the application."""

from __future__ import annotations

import os
import sys
from functools import partial
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from dim_ladder.app.garbage import Collector
from dim_ladder.app.settings import load_settings
from dim_ladder.app.theme import apply_theme, load_fonts
from dim_ladder.app.window import MainWindow
from dim_ladder.base import DimLadderError
from dim_ladder.base.crash import crash_report, crash_words
from dim_ladder.shape.helper import switch_off, switch_on
from dim_ladder.shelf.workshop import make_demo

HELPER_MS = 250


def data_folder() -> Path:
    """Where weaves live unless the person says otherwise."""
    from platformdirs import user_data_path

    return user_data_path("dim-ladder", appauthor=False)


def application() -> QApplication:
    """The one QApplication, with fonts and theme."""
    existing = QApplication.instance()
    app = existing if isinstance(existing, QApplication) else QApplication(["dim-ladder"])
    # Threads hand the interpreter's lock over sooner than Python's 5 ms, so that painting never waits long for it.
    sys.setswitchinterval(0.0005)
    app.setApplicationName("Dim Ladder")
    app.setDesktopFileName("dim-ladder")
    app.setStyle("Fusion")
    if app.findChild(Collector) is None:
        Collector(app)
    load_fonts(app)
    apply_theme(app, dark=False)
    return app


def _fault(
    window: MainWindow, kind: type[BaseException], error: BaseException, _: TracebackType | None
) -> None:
    """A fault of ours in the midst of work: reported and said; the weave is as it was, and work goes on."""
    if issubclass(kind, KeyboardInterrupt):
        window.close()
        return
    message, hint = crash_words(error, crash_report(error, "the window was open"))
    print(f"{message}. {hint}", file=sys.stderr)
    window.say(f"{message}. {hint}")


def start(args: list[str]) -> int:
    """Open the window. args: nothing, a file, or "demo" for the made-up workshop ("demo --fresh" resets it)."""
    path: Path | None = None
    app = application()
    settings = load_settings()
    apply_theme(app, dark=settings.dark)
    window = MainWindow()
    sys.excepthook = partial(_fault, window)
    if settings.width and settings.height:
        room = window.screen().availableGeometry()
        window.resize(min(settings.width, room.width()), min(settings.height, room.height()))
    try:
        if args and args[0] == "demo":
            folder = Path(os.environ.get("DIM_LADDER_DEMO") or data_folder() / "demo-workshop")
            path = make_demo(folder, fresh="--fresh" in args)
        elif args:
            path = Path(args[0])
        window.session.custody.ask = partial(window.filing.ask, yes="Without the last step", no="All of it")
        if path is not None:
            window.open_path(path)
        else:
            window.session.recover()  # the newest; the others are told of
    except DimLadderError as e:
        print(e, file=sys.stderr)
        window.say(str(e))
    window.show()
    QTimer.singleShot(HELPER_MS, switch_on)  # the window itself comes first
    try:
        return app.exec()
    finally:
        switch_off()
