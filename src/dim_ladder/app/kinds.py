"""The kinds of cord of a workshop in the window: taken up with its weaves, kept beside them."""

from __future__ import annotations

from pathlib import Path

from dim_ladder.base import DimLadderError
from dim_ladder.library import CordKind, own_kinds, use_kinds
from dim_ladder.shelf.kinds import NAME, read_kinds, save_kinds


def take_up(folder: Path) -> str:
    """Use those of a folder; what is wrong with its file, "" where nothing is."""
    try:
        use_kinds(read_kinds(folder))
    except DimLadderError as e:
        return str(e)
    return ""


def keep(folder: Path | None, name: str, kind: CordKind | None) -> str:
    """Use a kind of one's own under a name, or (None) what ships again, and write it beside the weaves of a folder; none is not in a
    file yet. Says what was done. Raises DimLadderError, and then nothing is changed."""
    before = dict(own_kinds())
    after = {k: v for k, v in before.items() if k != name} | ({name: kind} if kind is not None else {})
    try:
        use_kinds(after)
        if folder is not None:
            save_kinds(folder, after)
    except DimLadderError:
        use_kinds(before)
        raise
    if kind is None:
        return f"{name} is again as it ships"
    return f"{kind.words}: kept " + (
        f"in {NAME} beside the weave" if folder is not None else "until this window closes"
    )
