"""Who has a file open: held by the system for as long as the program lives, however it ends."""

from __future__ import annotations

import contextlib
import getpass
import json
import os
import platform
import stat
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from filelock import FileLock, Timeout

from dim_ladder.base import DimLadderError, WorldError
from dim_ladder.base.disk import read_start

MOST = 2000  # bytes of what a lock file says


@dataclass(frozen=True, slots=True)
class Holder:
    """user, machine : by name, "" where it is not said. process : its number, 0 unknown. since : as YYYY-MM-DD HH:MM."""

    user: str = ""
    machine: str = ""
    process: int = 0
    since: str = ""

    def words(self) -> str:
        """Who, where and since when, for a person."""
        mine = self.user == _user() and self.machine == platform.node()
        who = "another window of yours" if mine else self.user or "somebody"
        where = f" on {self.machine}" if self.machine and self.machine != platform.node() else ""
        number = f", process {self.process}" if self.process else ""
        return f"{who}{where} (since {self.since}{number})" if self.since else f"{who}{where}"


class Lock:
    """A lock that may or may not be had. holder : who has it where it is not had; None where it is, or where this place
    takes no locks (a read-only folder, say), which `possible` tells."""

    def __init__(self, path: Path) -> None:
        """path : the lock file, which is made; a link or anything but a plain file there is let alone."""
        self.path = path
        self.held = False
        self.possible = True
        self._lock = FileLock(
            path, timeout=0, mode=0o644, thread_local=False, fallback_to_soft=False, on_acquired=_say_who
        )

    @property
    def holder(self) -> Holder | None:
        return None if self.held or not self.possible else who_holds(self.path)

    def take(self) -> bool:
        """Try to have it, without waiting."""
        if self.held:
            return True
        try:
            if not stat.S_ISREG(os.lstat(self.path).st_mode):
                self.possible = False
                return False
        except OSError:
            if not self.path.parent.is_dir():  # else the folder would be made, which is not ours to make
                self.possible = False
                return False
        try:
            self._lock.acquire()
            self.held = self.possible = True
        except Timeout:
            self.possible = True
        except OSError:
            self.possible = False
        return self.held

    def leave(self) -> None:
        """Let go of it; its file goes too."""
        if not self.held:
            return
        self.held = False
        with contextlib.suppress(OSError):
            self.path.unlink(missing_ok=True)  # while it is held: nobody else can have locked this one
        with contextlib.suppress(OSError):
            self._lock.release()


def lock_path(document: Path) -> Path:
    """Beside the document itself, wherever a link to it lies, and out of sight."""
    real = Path(os.path.realpath(document))
    return real.with_name(f".{real.name}.lock")


@contextlib.contextmanager
def held(document: Path) -> Iterator[None]:
    """While a document is read and written, nobody else has it. Raises WorldError where a window has it open."""
    lock = Lock(lock_path(document))
    if not lock.take() and lock.possible:
        holder = lock.holder
        raise WorldError(
            f"{document.name} is open: {holder.words() if holder else 'somebody'} has it",
            "Close it there, or do it there; nothing was written",
        )
    try:
        yield
    finally:
        lock.leave()


def who_holds(path: Path) -> Holder:
    """What a lock file says of its holder; a stranger's file is believed in nothing but words."""
    try:
        found = json.loads(read_start(path, MOST, follow=False))
        return Holder(
            str(found["user"])[:80],
            str(found["machine"])[:80],
            int(found["process"]),
            str(found["since"])[:16],
        )
    except (DimLadderError, ArithmeticError, ValueError, KeyError, TypeError, RecursionError):
        return Holder()


def _say_who(fd: int) -> None:
    about = {
        "user": _user(),
        "machine": platform.node(),
        "process": os.getpid(),
        "since": f"{datetime.now():%Y-%m-%d %H:%M}",
    }
    with contextlib.suppress(OSError):
        os.ftruncate(fd, 0)
        os.pwrite(fd, json.dumps(about).encode(), 0)


def _user() -> str:
    try:
        return getpass.getuser()
    except (KeyError, OSError):  # a number without a name, as in some containers
        return ""
