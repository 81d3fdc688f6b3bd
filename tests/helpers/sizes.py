"""How much of a long check is run: a seeded smaller sample in the short run, all of it with --long."""

from __future__ import annotations

import os

LONG = bool(os.environ.get("DIM_LADDER_LONG"))


def sized(short: int, long: int) -> int:
    """A count for this run."""
    return long if LONG else short
