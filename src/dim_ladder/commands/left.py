"""What journals hold that a program left behind: beside documents, and in the state folder."""

from __future__ import annotations

import contextlib
import hashlib
import os
from dataclasses import dataclass, replace
from pathlib import Path

from dim_ladder.base.state import state_folder
from dim_ladder.commands.history import History
from dim_ladder.commands.recovery import Recovered, replayed
from dim_ladder.shelf import Document
from dim_ladder.shelf.journal import journal_path, read_journal, without_last
from dim_ladder.shelf.lock import Lock

MOST = 30  # weaves in no file that are offered at a time; the others come when these are saved
LOOSE, AWAY = (
    "unsaved-",
    "away-",
)  # journals in the state folder: of weaves in no file; whose own folder takes none


def away_path(document: Path) -> Path:
    """Where the journal of a document lies whose own folder takes none."""
    name = hashlib.sha256(os.fsencode(os.path.realpath(document))).hexdigest()[:24]
    return state_folder() / f"{AWAY}{name}.journal"


def recovered(path: Path, text: str, document: Document, *, skip_last: bool = False) -> Recovered:
    """The history of a document whose file holds `text`; one without a past where no journal fits it.

    skip_last : without its last step."""
    forms: dict[str, str] = {}
    lost: Document | None = None  # never saved, and something else has changed the file since
    for place in (away_path(path), journal_path(path)):  # one that is kept elsewhere is the newer one
        kept = read_journal(place)
        if kept is None:
            continue
        kept = without_last(kept) if skip_last else kept
        found = replayed(kept, text)
        if found is not None:
            return replace(found, stranded=lost)
        alone = replayed(kept, None)
        if alone is None:
            continue
        forms = forms or alone.forms  # what is half filled in is not in the file, whatever became of that
        if alone.unsaved and lost is None:
            lost = alone.history.document
    return Recovered(History(document), forms=forms, stranded=lost)


@dataclass(frozen=True)
class Leftover:
    """A weave in no file (or whose file is gone) that the program ended with. of : where its file was, None without one.
    when : seconds since 1970. lock : held by whoever takes it."""

    path: Path
    found: Recovered
    of: Path | None
    when: float

    @property
    def words(self) -> str:
        return self.found.history.document.weave.name


def leftovers() -> list[Leftover]:
    """Weaves that a crash left behind in the state folder, newest first; those that a window has open are left out."""
    out = []
    try:
        found_here = [p for p in state_folder().glob("*.journal") if p.name.startswith((LOOSE, AWAY))]
        paths = sorted(found_here, key=lambda p: -p.stat().st_mtime)[:MOST]
    except OSError:
        return []
    for path in paths:
        lock = Lock(path.with_suffix(".lock"))
        if not lock.take() and lock.possible:
            continue  # its window is open
        try:
            found = _leftover(path)
        finally:
            lock.leave()
        if found is not None:
            out.append(found)
    return sorted(out, key=lambda x: -x.when)


def without_its_last_step(leftover: Leftover) -> Recovered | None:
    """What a leftover holds when its last step is left out."""
    kept = read_journal(leftover.path)
    return replayed(without_last(kept), kept.base) if kept is not None else None


def _leftover(path: Path) -> Leftover | None:
    kept = read_journal(path)
    if kept is None:
        return None
    of = Path(kept.of) if kept.of else None
    if of is not None and of.exists():
        return None  # it is found when that file is opened
    last = next((e.text for e in reversed(kept.events) if e.what == "saved"), "")
    base = kept.base
    found = replayed(kept, base)
    if found is None:
        return None
    if not (found.history.past()[0] or found.forms or (of is not None and last)):
        if path.name.startswith(LOOSE) and kept.whole:
            with contextlib.suppress(OSError):
                path.unlink()  # begun, and nothing was done: not to be looked through at every start
        return None
    with contextlib.suppress(OSError):
        return Leftover(path, found, of, path.stat().st_mtime)
    return None


def take(leftover: Leftover) -> Lock | None:
    """The lock of a leftover, for the window that shows it now; None where another one was quicker."""
    lock = Lock(leftover.path.with_suffix(".lock"))
    return lock if lock.take() or not lock.possible else None
