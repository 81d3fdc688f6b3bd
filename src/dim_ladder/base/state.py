"""Where the program keeps what is in no document: places of tying along, weaves without a file, settings."""

from __future__ import annotations

import os
from pathlib import Path


def state_folder() -> Path:
    """The person's state folder; DIM_LADDER_STATE names another one."""
    named = os.environ.get("DIM_LADDER_STATE")
    if named:
        return Path(named)
    from platformdirs import user_state_path

    return user_state_path("dim-ladder", appauthor=False)
