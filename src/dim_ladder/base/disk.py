"""The one file layer: whatever the program writes or reads goes through here.

A file is written whole or not at all: a temporary file of a name nobody can foresee beside the real target, fsync, rename,
fsync of the folder. A link is followed only where a person's own file is meant (`follow`), never where a name is made by
the program in a folder that may have come from somebody else. Only plain files are read, and never more than is asked for.
"""

from __future__ import annotations

import contextlib
import errno
import os
import re
import stat
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from dim_ladder.base.errors import InputError, WorldError

PREFIX, SUFFIX = ".dim-ladder-", ".part"
_STRAY = re.compile(r"^(\.dim-ladder-|\..+\.)[a-z0-9_]{8}\.part$")
STRAY_AFTER_S = 3600  # a temporary file this old belongs to nobody who is still writing
# Mode of new files, as the person has it: read once, since asking sets it for a moment.
_UMASK = os.umask(0o077)
os.umask(_UMASK)


class ReadOnlyFile(WorldError):
    """The file is marked read-only: nobody writes over it unasked."""


def write_whole(path: Path, data: str | bytes, *, follow: bool = False, over_read_only: bool = False) -> None:
    """Write a whole file or leave what was there; mode and ownership of what was there stay.

    follow : where `path` is a link of this person's own, the file it leads to is written and the link stays; otherwise a
    link is replaced, and what it leads to is left alone. over_read_only : the person was asked. Raises WorldError.
    """
    raw = data.encode("utf-8") if isinstance(data, str) else data
    try:
        target = own_target(path) if follow else path
        old = _plain(target, path)
        if old is not None and not old.st_mode & 0o222 and not over_read_only:
            raise ReadOnlyFile(
                f"{path.name} is marked read-only", "Save it under another name, or take the mark away first"
            )
        _replace(target, raw, old)
    except OSError as e:
        raise world(e, path, "write") from None


def _plain(target: Path, path: Path) -> os.stat_result | None:
    """What is at the target now; None where there is nothing, or a link that will be replaced."""
    try:
        old = os.lstat(target)
    except FileNotFoundError:
        return None
    if stat.S_ISLNK(old.st_mode):
        return None
    if not stat.S_ISREG(old.st_mode):
        kind = "a folder" if stat.S_ISDIR(old.st_mode) else "not a plain file"
        raise WorldError(f"Cannot write {path}: it is {kind}", "Give another name")
    return old


def _replace(target: Path, raw: bytes, old: os.stat_result | None) -> None:
    fd, temporary = tempfile.mkstemp(prefix=PREFIX, suffix=SUFFIX, dir=target.parent)
    try:
        with os.fdopen(fd, "wb") as f:
            f.write(raw)
            owned = _as_it_was(f.fileno(), old)
            f.flush()
            os.fsync(f.fileno())
        if owned:
            os.replace(temporary, target)
        else:
            _over(target, raw)  # a file of somebody else's that may be written: it stays theirs
            os.unlink(temporary)
    except BaseException:
        with contextlib.suppress(OSError):
            os.unlink(temporary)
        raise
    sync_folder(target.parent)


def _as_it_was(fd: int, old: os.stat_result | None) -> bool:
    """Give a new file the mode and owner of the one it replaces; False where the owner cannot be kept."""
    if old is None:
        os.fchmod(fd, 0o666 & ~_UMASK)
        return True
    now = os.fstat(fd)
    if (now.st_uid, now.st_gid) != (old.st_uid, old.st_gid):
        try:
            os.fchown(fd, old.st_uid, old.st_gid)
        except OSError:
            return False
    os.fchmod(fd, stat.S_IMODE(old.st_mode))
    return True


def _over(target: Path, raw: bytes) -> None:
    fd = os.open(target, os.O_WRONLY | os.O_NOFOLLOW | os.O_CLOEXEC)
    with os.fdopen(fd, "wb") as f:
        f.write(raw)
        f.truncate()
        f.flush()
        os.fsync(f.fileno())


def sync_folder(folder: Path) -> None:
    """Names of a folder onto the disk itself; where a file system cannot do that, nothing is amiss."""
    with contextlib.suppress(OSError):
        fd = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
        try:
            os.fsync(fd)
        finally:
            os.close(fd)


def own_target(path: Path) -> Path:
    """The file that a name leads to; links on the way to it must be this person's own. Raises WorldError, OSError."""
    here = path
    for _ in range(40):
        if not here.is_symlink():
            return here
        if os.lstat(here).st_uid not in (os.geteuid(), 0):
            raise WorldError(
                f"Cannot write {path}: it is a link that somebody else laid", "Save it elsewhere"
            )
        here = here.parent / os.readlink(here)
    raise OSError(errno.ELOOP, "links go round in a circle")


def open_to_append(path: Path) -> int:
    """A descriptor at the end of a plain file that is there already; links are not followed. Raises OSError."""
    fd = os.open(path, os.O_WRONLY | os.O_APPEND | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC)
    if not stat.S_ISREG(os.fstat(fd).st_mode):
        os.close(fd)
        raise OSError(errno.EINVAL, "it is not a plain file")
    return fd


def read_whole(path: Path, most: int, what: str = "a weave", *, follow: bool = True) -> bytes:
    """The bytes of a plain file. Raises InputError for one of more than `most` bytes, WorldError where it cannot be read."""
    raw = read_start(path, most + 1, follow=follow)
    if len(raw) > most:
        raise InputError(f"{path.name} is too large to be {what}", f"At most {most // 1_000_000} MB")
    return raw


def read_start(path: Path, most: int, *, follow: bool = True) -> bytes:
    """At most the first `most` bytes of a plain file. Raises InputError, WorldError."""
    try:
        # Not blocking: a pipe somebody laid here would hold the program for ever.
        flags = os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC | (0 if follow else os.O_NOFOLLOW)
        fd = os.open(path, flags)
        mode = os.fstat(fd).st_mode
        if not stat.S_ISREG(mode):
            os.close(fd)
            kind = "a folder" if stat.S_ISDIR(mode) else "not a plain file"
            raise InputError(f"{path.name} is {kind}", "Give a file")
        with os.fdopen(fd, "rb") as f:
            return f.read(most)
    except OSError as e:
        raise world(e, path, "read") from None
    except ValueError:  # a nought in the name
        raise InputError("This is not the name of a file", "Give another one") from None


def read_chunks(path: Path, size: int = 1_000_000) -> Iterator[bytes]:
    """A plain file of any length, piece by piece. Raises InputError, WorldError."""
    read_start(path, 0)  # what it says of anything but a plain file
    try:
        with open(path, "rb") as f:
            while piece := f.read(size):
                yield piece
    except OSError as e:
        raise world(e, path, "read") from None


def read_text(path: Path, most: int, what: str = "a weave", *, follow: bool = True) -> str:
    """A bounded UTF-8 text file. Raises InputError, WorldError."""
    try:
        return read_whole(path, most, what, follow=follow).decode("utf-8")
    except UnicodeDecodeError as e:
        raise InputError(f"{path.name} is not UTF-8 text (byte {e.start})", "Save it as UTF-8") from None


def sweep(folder: Path) -> None:
    """Take away temporary files of ours that a crash left behind; others' and fresh ones stay."""
    with contextlib.suppress(OSError):
        for entry in os.scandir(folder):
            if not _STRAY.match(entry.name):
                continue
            with contextlib.suppress(OSError):
                found = entry.stat(follow_symlinks=False)
                old = time.time() - found.st_mtime > STRAY_AFTER_S
                if stat.S_ISREG(found.st_mode) and found.st_uid == os.geteuid() and old:
                    os.unlink(entry.path)


def make_folder(path: Path) -> None:
    """A folder with those above it. Raises WorldError."""
    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as e:
        raise world(e, path, "make the folder") from None


def remove(path: Path) -> None:
    """Take a file away; nothing where there is none. Raises WorldError."""
    try:
        path.unlink(missing_ok=True)
    except OSError as e:
        raise world(e, path, "take it away") from None


def world(e: OSError, path: Path, what: str) -> WorldError:
    """What the system says of a file, in words with a remedy."""
    reasons = {
        errno.ENOSPC: ("the disk is full", "Make room, or save somewhere else"),
        errno.EDQUOT: ("your share of the disk is full", "Make room, or save somewhere else"),
        errno.EACCES: ("there is no permission", "Choose a folder that is yours"),
        errno.EPERM: ("there is no permission", "Choose a folder that is yours"),
        errno.EROFS: ("the disk is read-only", "Choose another disk"),
        errno.ENOENT: ("there is no such file or folder", "Check the name, or make the folder"),
        errno.ENOTDIR: ("its folder is not a folder", "Check the name"),
        errno.EISDIR: ("it is a folder", "Give a file name"),
        errno.EEXIST: ("there is a file of that name", "Give another name"),
        errno.ENAMETOOLONG: ("its name is too long", "Give a shorter name"),
        errno.ELOOP: ("it is a link, and links are not followed here", "Give the file it leads to"),
    }
    why, remedy = reasons.get(e.errno or 0, (e.strerror or str(e), "Try another folder"))
    return WorldError(f"Cannot {what} {path}: {why}", remedy)
