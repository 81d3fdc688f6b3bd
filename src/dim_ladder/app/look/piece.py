"""The whole piece on the screen Look: lying, front and back, or closed round and turned in the hand."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from dim_ladder.app.look.faceview import FaceView
from dim_ladder.app.look.shown import pieces_of, shown_whole
from dim_ladder.app.look.turnview import TurnView
from dim_ladder.app.session import Session
from dim_ladder.app.theme import theme
from dim_ladder.base import DimLadderError, format_length
from dim_ladder.picture.display import Picture
from dim_ladder.shape.turning import Held
from dim_ladder.shape.whole import Whole, whole_picture
from dim_ladder.shape.worn import TIP, worn

ASIDE = -20.0  # degrees, by which it is turned at first: what closes it is seen past its front
CLOSED = "The whole piece, closed round"
SHORT = "The piece is too short to be closed round."
STRAIGHT = "This piece is planned by its length, and not worn round. Plan it by a girth on the screen Cut to see it closed."


class WholeViews(QWidget):
    """said : words on what is shown. nothing : why nothing is."""

    said = Signal(str)
    nothing = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._of = ""
        self.piece: Whole | None = None
        jobs = session.jobs
        self.faces = {
            s: FaceView(jobs, f"look-whole-{s}", f"The whole piece, {s}") for s in ("front", "back")
        }
        self.closed = TurnView(jobs, "look-closed", CLOSED, (ASIDE, TIP))
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        for view in self.faces.values():
            rows.addWidget(view)

    def ask(self, content: str) -> None:
        """Bring it together, in the planned size. content : what it depends on besides that."""
        s = self._session
        content = f"{s.document.plan!r} {len(s.document.ties)} {content}"
        if content != self._of:
            self._of = content
            self.said.emit("Its sections are being drawn up, one after the other …")
            work = partial(pieces_of, s.weave, s.calibration, s.document.plan)
            s.jobs.follow(self, "look-piece", work, self._pieced, self._pieced, self._unpieced)
        else:
            self._pieced(self.piece)

    def leave(self) -> None:
        self._session.jobs.drop("look-piece")
        self._of = ""

    def drop(self) -> None:
        """There is none any more."""
        self.leave()
        self.piece = None
        self.clear()

    def clear(self) -> None:
        for view in self.faces.values():
            view.show_face(None)
        self.closed.show_held(None)

    def _pieced(self, piece: Whole | None) -> None:
        if piece is None or not self._of:
            return
        self.piece = piece
        if not piece.strands:
            self.clear()
            self.nothing.emit("No section can be pulled tight yet.")
            return
        for side, view in self.faces.items():
            if view.isVisible():
                seen = shown_whole(piece, side, theme().pen)
                view.show_face(seen.make, seen.natural, beside=seen.beside)
        if self.closed.isVisible():
            self.closed.show_held(self.held(), CLOSED)
        left = f" Not in it: {', '.join(piece.left_out)}." if piece.left_out else ""
        straight = f" {self._straight()}" if self.closed.isVisible() and self.held() is None else ""
        self.said.emit(
            f"{format_length(piece.length_mm)} of it worked.{left} Sections are pulled tight by themselves and joined.{straight}"
        )

    def held(self) -> Held | None:
        """The piece closed round; None where it does not close."""
        if self.piece is None or self._session.document.plan.target == "length":
            return None
        return worn(self.piece)

    def _straight(self) -> str:
        return STRAIGHT if self._session.document.plan.target == "length" else SHORT

    def _unpieced(self, error: DimLadderError) -> None:
        self.nothing.emit(str(error))

    def pictures(self, closed: bool) -> dict[str, Picture]:
        """What is shown, at 24 pixels to a diameter."""
        if self.piece is None or not self.piece.strands:
            return {}
        if not closed:
            return {"whole": whole_picture(self.piece, scale=24.0)}
        found = self.held()
        if found is None:
            return {}
        return {"closed": found.seen(self.closed.turn, self.closed.tip, scale=24.0, title=CLOSED)}
