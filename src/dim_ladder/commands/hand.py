"""The end in hand as text: a step that is not at rest yet outlives the program too."""

from __future__ import annotations

from dataclasses import dataclass

from pydantic import TypeAdapter, ValidationError

from dim_ladder.commands.draft import Draft

HAND = "hand"  # its name among the forms of a journal
MOST = 200_000  # characters


@dataclass(frozen=True, slots=True)
class Hand:
    """section, cursor : where the step goes."""

    section: int
    cursor: int | None
    draft: Draft


_ADAPTER = TypeAdapter(Hand)


def hand_text(draft: Draft | None, section: int, cursor: int | None) -> str:
    """As JSON; "" where nothing is in hand."""
    if draft is None:
        return ""
    return _ADAPTER.dump_json(Hand(section, cursor, draft)).decode("utf-8")


def read_hand(text: str) -> Hand | None:
    """What was in hand; None where there was nothing, or it cannot be read."""
    try:
        return _ADAPTER.validate_json(text) if text and len(text) <= MOST else None
    except ValidationError:
        return None
