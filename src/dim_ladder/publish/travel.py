"""What of a weave travels in a published page: what a reader needs to tie it and to open it as a weave, and what the
designer chose besides. Nothing private goes by itself; paths, photos and unread drafts never go."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import fields, is_dataclass, replace
from typing import TypeVar

from dim_ladder.calibrate import Tie
from dim_ladder.notation import Weave

T = TypeVar("T")
CARRIED = {
    "ties": "test ties, without names",
    "names": "who tied them, lots, notes on them",
    "remarks": "remarks in the script",
}


def travelling_weave(weave: Weave, carry: Sequence[str]) -> Weave:
    """A weave without the remarks of its script, unless they are chosen. What stands at its hanging is on the sheet anyway."""
    if "remarks" in carry:
        return weave
    bare = _bare(weave)
    return replace(bare, hang=replace(bare.hang, note=weave.hang.note), tail=())


def _bare(value: T) -> T:
    if isinstance(value, tuple):
        return type(value)(map(_bare, value))
    if not is_dataclass(value) or isinstance(value, type):
        return value
    empty = {"lead": (), "note": ""}
    return replace(value, **{f.name: empty.get(f.name, _bare(getattr(value, f.name))) for f in fields(value)})


def travelling_ties(ties: Sequence[Tie], carry: Sequence[str]) -> tuple[Tie, ...]:
    """Test ties as far as they are chosen. Photos never go: they are names of files."""
    if "ties" not in carry:
        return ()
    if "names" in carry:
        return tuple(t.model_copy(update={"photos": ()}) for t in ties)
    nobody = {"photos": (), "who": "", "lot": "", "note": ""}
    return tuple(t.model_copy(update={**nobody, "id": f"T{n}"}) for n, t in enumerate(ties, 1))
