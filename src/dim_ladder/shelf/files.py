"""One weave, one UTF-8 JSON file. Format and versions are documented in docs/formats.md."""

from __future__ import annotations

import contextlib
import errno
import json
import os
import tempfile
from pathlib import Path
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from dim_ladder.base import InputError, Problem, WorldError
from dim_ladder.calibrate import Tie
from dim_ladder.notation import parse
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.scale import Plan
from dim_ladder.shelf.document import Document, laid

FORMAT = "dim-ladder-weave"
VERSION = (
    3  # 1: the first script language. 2: the whole language; how the work lies. 3: what else a tie may say.
)
LATER = {"kinds", "lot", "versions", "photos"}  # of a tie, from version 3 on
SUFFIX = ".dimladder"
MAX_BYTES = 20_000_000


class _File(BaseModel):
    model_config = ConfigDict(extra="forbid")

    format: Literal["dim-ladder-weave"]
    version: Literal[3]
    script: str
    ties: tuple[Tie, ...] = Field(default=(), max_length=20_000)
    plan: Plan = Field(default_factory=Plan)
    sheet: SheetChoices = Field(default_factory=SheetChoices)
    draft: str = Field(default="", max_length=2_000_000)


def document_text(doc: Document) -> str:
    """The document as JSON text: stable key order, one line a field, so that versions diff well."""
    file = {
        "format": FORMAT,
        "version": VERSION,
        "script": doc.script,
        "ties": [t.model_dump(mode="json", exclude_defaults=True) for t in doc.ties],
        "plan": doc.plan.model_dump(mode="json"),
        "sheet": doc.sheet.model_dump(mode="json"),
    }
    if doc.draft:
        file["draft"] = doc.draft
    return json.dumps(file, ensure_ascii=False, indent=1) + "\n"


def _migrated(data: dict[str, object], version: int) -> dict[str, object]:
    """A copy of a file's fields brought up to the newest version, one version at a time."""
    data = dict(data)
    if version == 1:  # every script of version 1 reads the same; there was one way for the work to lie
        sheet = data.get("sheet")
        if isinstance(sheet, dict) and "lie" in sheet:
            raise InputError(
                "sheet.lie is not known in format 1", "Mend this field; the file was left as it is"
            )
        data["version"] = version = 2
    if version == 2:  # every tie of version 2 reads the same
        ties = data.get("ties")
        for tie in ties if isinstance(ties, list) else ():
            later = sorted(LATER & set(tie)) if isinstance(tie, dict) else []
            if later:
                raise InputError(
                    f"ties.{later[0]} is not known in format 2", "Mend this field; the file was left as it is"
                )
        data["version"] = version = 3
    return data


def read_document_text(text: str, name: str = "the document") -> Document:
    """A document from its JSON text. Raises InputError, naming the field, for anything it does not know."""
    try:
        data = json.loads(text)
    except (json.JSONDecodeError, RecursionError) as e:
        line = getattr(e, "lineno", 0)
        why = f"line {line}: {getattr(e, 'msg', 'too deep')}" if line else "it is nested too deep"
        raise InputError(
            f"{name} is broken: {why}",
            "Open a backup or the last published sheet; the file was left as it is",
        ) from None
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise InputError(f"{name} is not a Dim Ladder weave", f"A weave ends in {SUFFIX}, a script in .weave")
    version = data.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise InputError(f"{name} does not say its version", "Open a backup; the file was left as it is")
    if version > VERSION:
        raise InputError(
            f"{name} was written by a newer Dim Ladder (format {version}, this one reads {VERSION})",
            "Update Dim Ladder; the file was left as it is",
        )
    try:
        file = _File.model_validate(_migrated(data, version))
    except ValidationError as e:
        problems = tuple(
            Problem(
                f"{name}: {'.'.join(map(str, err['loc']))}: {err['msg']}",
                "Mend this field; the file was left as it is",
            )
            for err in e.errors()[:50]
        )
        raise InputError.of(problems) from None
    parsed = parse(file.script)
    if parsed.problems:
        raise InputError.of(parsed.problems)
    return Document(
        parsed.weave, file.ties, file.plan, file.sheet, file.draft, laid(file.script, parsed.weave)
    )


def read_document(path: Path) -> Document:
    """A document, or a script (.weave) as a new document. Raises InputError or WorldError."""
    text = read_text(path)
    if path.suffix == ".weave":
        parsed = parse(text)
        if parsed.problems:
            raise InputError.of(parsed.problems)
        return Document.of_script(text, parsed.weave)
    return read_document_text(text, path.name)


def read_text(path: Path) -> str:
    """A bounded UTF-8 text file."""
    try:
        if path.is_dir():
            raise InputError(f"{path.name} is a folder", "Give a weave inside it")
        if path.stat().st_size > MAX_BYTES:
            raise InputError(
                f"{path.name} is too large to be a weave", f"At most {MAX_BYTES // 1_000_000} MB"
            )
        return path.read_bytes().decode("utf-8")
    except UnicodeDecodeError as e:
        raise InputError(f"{path.name} is not UTF-8 text (byte {e.start})", "Save it as UTF-8") from None
    except OSError as e:
        raise _world(e, path, "read") from None


def save_document(doc: Document, path: Path) -> None:
    """Write a document, or only its script when the name ends in .weave. Whole or not at all."""
    write_atomic(path, doc.script if path.suffix == ".weave" else document_text(doc))


def write_atomic(path: Path, data: str | bytes) -> None:
    """Write a whole file or leave what was there: temporary file, fsync, rename, fsync of the folder."""
    raw = data.encode("utf-8") if isinstance(data, str) else data
    temporary = ""
    try:
        fd, temporary = tempfile.mkstemp(prefix=f".{path.name}.", suffix=".part", dir=path.parent)
        with os.fdopen(fd, "wb") as f:
            f.write(raw)
            f.flush()
            os.fsync(f.fileno())
        with contextlib.suppress(OSError):
            os.chmod(temporary, path.stat().st_mode & 0o777 if path.exists() else 0o644)
        os.replace(temporary, path)
        folder = os.open(path.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)
    except OSError as e:
        if temporary:
            with contextlib.suppress(OSError):
                os.unlink(temporary)
        raise _world(e, path, "write") from None


def _world(e: OSError, path: Path, what: str) -> WorldError:
    reasons = {
        errno.ENOSPC: ("the disk is full", "Make room, or save somewhere else"),
        errno.EDQUOT: ("your share of the disk is full", "Make room, or save somewhere else"),
        errno.EACCES: ("there is no permission", "Choose a folder that is yours"),
        errno.EPERM: ("there is no permission", "Choose a folder that is yours"),
        errno.EROFS: ("the disk is read-only", "Choose another disk"),
        errno.ENOENT: ("there is no such file or folder", "Check the name, or make the folder"),
        errno.ENOTDIR: ("its folder is not a folder", "Check the name"),
        errno.EISDIR: ("it is a folder", "Give a file name"),
        errno.ENAMETOOLONG: ("its name is too long", "Give a shorter name"),
    }
    why, remedy = reasons.get(e.errno or 0, (e.strerror or str(e), "Try another folder"))
    return WorldError(f"Cannot {what} {path}: {why}", remedy)
