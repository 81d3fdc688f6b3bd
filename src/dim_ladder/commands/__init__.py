"""Every change to a document once, as a named edit; the history they make; every action with its words and keys."""

from dim_ladder.commands.edits import (
    AddItem,
    AddMirrored,
    AddSection,
    AddTie,
    Edit,
    MoveItem,
    RemoveItem,
    RemoveTie,
    ReplaceItem,
    ReplaceTie,
    SetColour,
    SetCount,
    SetDraft,
    SetName,
    SetPlan,
    SetScript,
    SetSheet,
    read_edit,
)
from dim_ladder.commands.history import History, StreamEntry
from dim_ladder.commands.table import ACTIONS, Action

__all__ = [
    "ACTIONS",
    "Action",
    "AddItem",
    "AddMirrored",
    "AddSection",
    "AddTie",
    "Edit",
    "History",
    "MoveItem",
    "RemoveItem",
    "RemoveTie",
    "ReplaceItem",
    "ReplaceTie",
    "SetColour",
    "SetCount",
    "SetDraft",
    "SetName",
    "SetPlan",
    "SetScript",
    "SetSheet",
    "StreamEntry",
    "read_edit",
]
