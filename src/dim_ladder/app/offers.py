"""After an edit above them steps may move other ends than they did: an edit that gives them theirs back is offered."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject

from dim_ladder.app.workers import Jobs
from dim_ladder.commands import ReplaceItems, items_text
from dim_ladder.commands.knots import ends_kept, shared_below
from dim_ladder.notation import Item, Weave

OFFER = "Steps below now move other ends than before. Ctrl+Shift+K keeps the ends they moved."
PAUSE_MS = 90


def ask_offer(
    jobs: Jobs,
    owner: QObject,
    before: Weave,
    now: Callable[[], Weave],
    offered: Callable[[ReplaceItems], None],
) -> None:
    """Work out, on a thread, whether there is something to offer. before : the weave before the edit. now : the weave at
    any moment: an answer that comes too late is dropped."""
    after = now()
    found = shared_below(before, after)
    if found is None:
        return
    name, below = found

    def done(kept: tuple[Item, ...] | None) -> None:
        section = after.section(name)
        if kept is None or section is None or now() is not after:
            return
        count = len(section.items)
        offered(
            ReplaceItems(
                section=name,
                at=count - below,
                last=count - 1,
                text=items_text(kept),
                why="Keep the ends that later steps moved",
            )
        )

    jobs.ask(
        owner, "offer", lambda: ends_kept(before, after, name, below), done, lambda e: None, after_ms=PAUSE_MS
    )
