"""One weave, one UTF-8 JSON file. Format and versions are documented in docs/formats.md."""

from __future__ import annotations

import json
import os
import re
from pathlib import Path
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from dim_ladder.base import InputError, Problem, WorldError
from dim_ladder.base.disk import read_text, write_whole
from dim_ladder.calibrate import Tie
from dim_ladder.notation import parse
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.scale import Plan
from dim_ladder.shelf.document import Document, laid

FORMAT = "dim-ladder-weave"
# 1: the first script language. 2: the whole language; how the work lies. 3: what else a tie may say. 4: what travels.
# 5: two knots of the book under names that are true.
VERSION = 5
RENAMED = {"snake": "hitch-chain", "double-connection": "overhand-chain"}  # in scripts before version 5
LATER = {"kinds", "lot", "versions", "photos"}  # of a tie, from version 3 on
SUFFIX = ".dimladder"
MAX_BYTES = 20_000_000
MOST_PHOTO = 400_000  # letters


class _File(BaseModel):
    model_config = ConfigDict(extra="forbid")

    format: Literal["dim-ladder-weave"]
    version: Literal[5]
    script: str
    ties: tuple[Tie, ...] = Field(default=(), max_length=20_000)
    plan: Plan = Field(default_factory=Plan)
    sheet: SheetChoices = Field(default_factory=SheetChoices)
    draft: str = Field(default="", max_length=2_000_000)
    photo: str = Field(default="", max_length=MOST_PHOTO)


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
    if doc.photo:
        file["photo"] = doc.photo
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
    if version == 3:  # every sheet of version 3 reads the same; its pages carried everything
        sheet = data.get("sheet")
        if isinstance(sheet, dict) and "carry" in sheet:
            raise InputError(
                "sheet.carry is not known in format 3", "Mend this field; the file was left as it is"
            )
        data["version"] = version = 4
    if version == 4:
        for field in ("script", "draft"):
            text = data.get(field)
            if isinstance(text, str):
                data[field] = _renamed(text)
        data["version"] = version = 5
    return data


def _renamed(script: str) -> str:
    """A script in which knots of the book go by their names of version 5. A knot that the script makes itself keeps its own."""
    for old, new in RENAMED.items():
        if re.search(rf"^knot[ \t]+{old}\b(?!-)", script, re.MULTILINE):
            continue
        tied = rf"^([ \t]+){old}(?=[ \t]*\()"
        made = rf"^(knot[ \t]+\S+[ \t]*=[ \t]*(?:mirror|flip|turn)[ \t]+){old}\b(?!-)"
        for pattern in (tied, made):
            script = re.sub(pattern, rf"\g<1>{new}", script, flags=re.MULTILINE)
    return script


def read_document_text(text: str, name: str = "the document") -> Document:
    """A document from its JSON text. Raises InputError, naming the field, for anything it does not know."""
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as e:  # a number of thousands of digits is no JSON error
        line = getattr(e, "lineno", 0)
        why = (
            f"line {line}: {getattr(e, 'msg', '')}"
            if line
            else "it is nested too deep, or a number in it is too long"
        )
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
        parsed.weave,
        file.ties,
        file.plan,
        file.sheet,
        file.draft,
        laid(file.script, parsed.weave),
        file.photo,
    )


def read_document(path: Path) -> Document:
    """A document, or a script (.weave) as a new document. Raises InputError or WorldError."""
    text = read_script(path)
    if path.suffix == ".weave":
        parsed = parse(text)
        if parsed.problems:
            raise InputError.of(parsed.problems)
        return Document.of_script(text, parsed.weave)
    return read_document_text(text, path.name)


def read_script(path: Path) -> str:
    """The text of a document or script: bounded, UTF-8. Raises InputError or WorldError."""
    return read_text(path, MAX_BYTES)


def save_document(doc: Document, path: Path, *, over_read_only: bool = False) -> None:
    """Write a document, or only its script when the name ends in .weave. Whole or not at all; a link is followed where it
    leads to such a file already, which keeps it from being used to write over anything else. Raises WorldError."""
    text = doc.script if path.suffix == ".weave" else document_text(doc)
    write_whole(path, text, follow=_leads_to_its_like(path), over_read_only=over_read_only)


def _leads_to_its_like(path: Path) -> bool:
    if not path.is_symlink():
        return False
    real = Path(os.path.realpath(path))
    if real.suffix == path.suffix and real.is_file():
        return True
    raise WorldError(
        f"{path.name} is a link to {real}, which is no {path.suffix} file", "Save it under another name"
    )
