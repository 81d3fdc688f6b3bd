"""A bug of ours, as a report that a person can read and send on: what failed where, never a traceback in the face.

The report stays on this machine, in the state folder. It holds what the program was doing, no document.
"""

from __future__ import annotations

import contextlib
import platform
import traceback
from datetime import UTC, datetime
from pathlib import Path

from dim_ladder import __version__
from dim_ladder.base.disk import make_folder, write_whole
from dim_ladder.base.errors import DimLadderError
from dim_ladder.base.state import state_folder

STATUS = 70  # of a program that ended by a fault of its own, as sysexits.h has it
MOST = 40  # reports that are kept


def crash_report(error: BaseException, doing: str) -> Path | None:
    """Write down what is known of an exception nobody expected. doing : the action or command. None where no folder
    can be written to."""
    now = datetime.now(UTC)
    text = "\n".join(
        [
            f"Dim Ladder {__version__}, Python {platform.python_version()}, {platform.system()} {platform.release()}",
            f"{now:%Y-%m-%d %H:%M:%S} UTC, while: {doing}",
            "",
            "".join(traceback.format_exception(error)).replace(str(Path.home()), "~"),
        ]
    )
    try:
        folder = state_folder() / "crashes"
        make_folder(folder)
        path = folder / f"{now:%Y%m%d-%H%M%S-%f}.txt"
        write_whole(path, text)
        for old in sorted(folder.glob("*.txt"))[:-MOST]:
            with contextlib.suppress(OSError):
                old.unlink()
    except (OSError, DimLadderError):
        return None
    return path


def crash_words(error: BaseException, path: Path | None) -> tuple[str, str]:
    """Message and hint for the person."""
    what = f"This is a fault of Dim Ladder, not yours: {type(error).__name__} ({str(error)[:200]})"
    where = f"A report is in {path}" if path else "No report could be written"
    return what, f"Nothing that was saved is lost. {where}; it stays on this machine until you send it on"
