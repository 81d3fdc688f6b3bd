"""What the window does for the actions of the screen Look."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QWidget

from dim_ladder.app.doing import Doing
from dim_ladder.base.disk import write_whole
from dim_ladder.publish.raster import to_png
from dim_ladder.publish.svg import to_svg

if TYPE_CHECKING:
    from dim_ladder.app.look.screen import LookScreen

MODES = ("look.band", "look.whole", "look.closed", "look.slips", "look.turn", "look.colours")


class Looking:
    def __init__(self, doing: Doing) -> None:
        self._do = doing
        self._screen: LookScreen | None = None

    def show_on(self, screen: QWidget, changed: Callable[[], None]) -> None:
        """From now on this is the screen. changed : called when other actions can be used."""
        from dim_ladder.app.look.screen import LookScreen

        assert isinstance(screen, LookScreen)
        self._screen = screen
        screen.changed.connect(changed)

    def _shown(self) -> LookScreen:
        self._do.stage("view.look")
        assert self._screen is not None
        return self._screen

    def handlers(self) -> dict[str, Callable[[], None]]:
        return {
            **{mode: partial(self._show, mode) for mode in MODES},
            "look.keep": lambda: self._shown().toggle_kept(),
            "look.names": lambda: self._shown().toggle_names(),
            "look.stop": lambda: self._shown().stop(),
            "look.save": self.save,
            "look.solid": self.save_solid,
        }

    def can(self, needs: str) -> bool:
        """needs : "shape" for one that is shown, "pulling" for one that is being pulled tight."""
        if self._screen is None:
            return False
        return self._screen.shape is not None if needs == "shape" else self._screen.pulling

    def _show(self, mode: str) -> None:
        self._shown().show_mode(mode)

    def save(self) -> None:
        """What the screen shows, as SVG and PNG files into a folder."""
        made = self._shown().pictures()
        if not made:
            self._do.say("Nothing is pulled tight yet that could be saved")
            return
        session = self._do.session
        start = str(session.path.parent if session.path else Path.home())
        name = QFileDialog.getExistingDirectory(self._do.parent, "Save the pictures into", start)
        if not name:
            return
        folder = Path(name)

        def write() -> str:
            for stem, picture in made.items():
                write_whole(folder / f"{stem}.svg", to_svg(picture))
                write_whole(folder / f"{stem}.png", to_png(picture))
            return f"{len(made)} pictures are in {folder.name}: {', '.join(made)}"

        session.jobs.ask(session, "save-faces", write, self._do.say, lambda e: self._do.say(str(e)))

    def save_solid(self) -> None:
        """The tight weave as one glTF file, in its colours and at its size."""
        screen, session = self._shown(), self._do.session
        if screen.shape is None:
            self._do.say("Nothing is pulled tight yet that could be saved")
            return
        folder = session.path.parent if session.path else Path.home()
        name, _ = QFileDialog.getSaveFileName(
            self._do.parent, "Save it as glTF", str(folder / f"{session.weave.name}.glb"), "glTF (*.glb)"
        )
        if not name:
            return
        path = Path(name)

        def write() -> str:
            made = screen.solid()
            write_whole(path, made or b"")
            return f"It is in {path.name}, in metres, every cord a body of its own"

        session.jobs.ask(session, "save-solid", write, self._do.say, lambda e: self._do.say(str(e)))
