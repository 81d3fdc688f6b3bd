"""Test ties of a table into a document, on the command line."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

from dim_ladder.base import InputError
from dim_ladder.calibrate.csvio import Table
from dim_ladder.cli.opening import opened
from dim_ladder.commands.importing import HOWS, meeting, merged
from dim_ladder.shelf import save_document


def import_ties(file: Path, read: Table, path: Path, same: str) -> dict[str, Any]:
    """What a table holds, added to the ties of `file` and saved as `path`. same : what is to become of ties whose names are
    taken, "" where it was not said. Raises InputError, and nothing is written."""
    doc = opened(file)
    found = meeting(doc.ties, read.ties)
    if same not in ("", *HOWS):
        raise InputError(f"there is no way “{same}”", f"--same {', '.join(HOWS)}")
    if found.clash and not same:
        ways = "; ".join(f"--same {k}: {v}" for k, v in HOWS.items())
        raise InputError(f"{found.question}; nothing was imported", f"Say which: {ways}")
    ties = merged(doc.ties, found, next((h for h in HOWS if h == same), "keep"))
    save_document(replace(doc, ties=ties), path)
    many = len(ties) - len(doc.ties) + (len(found.clash) if same == "replace" else 0)
    return {"imported": many, "ties": len(ties), "file": str(path), "left_out": list(read.left_out)}
