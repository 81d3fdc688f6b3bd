"""A session as a crash would leave it."""

from __future__ import annotations

from dim_ladder.app.session import Session


def crashed(session: Session) -> None:
    """Nothing is saved or asked any more, and nobody has its file: what the journal holds is all there is."""
    session.custody.keeper.end()
    session.custody.unsaved = False
    session.custody.paper.leave()
