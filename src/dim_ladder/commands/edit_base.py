"""What every edit is, and what edits share: positions that must be there, a section changed in its document."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from pydantic import BaseModel, ConfigDict

from dim_ladder.base import InputError
from dim_ladder.notation import Section, Weave, name_problems, nearest, parse_strict, write
from dim_ladder.shelf import Document


class EditBase(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    def label(self) -> str:
        raise AssertionError("every edit has words")

    def apply(self, doc: Document) -> Document:
        raise AssertionError("every edit does something")


def must_read_back(weave: Weave, message: str, hint: str) -> None:
    """Let the parser judge a weave, above all its names: raises InputError where its text could not be read again."""
    try:
        same = parse_strict(write(weave)) == weave
    except InputError as e:
        raise InputError(f"{message}: {e.message}", hint) from None
    if not same:
        raise InputError(message, hint)


def bounded(at: int, count: int) -> int:
    if not 0 <= at < count:
        raise InputError(f"there is no step {at + 1}: the section has {count}", "Choose one that is there")
    return at


def in_section(doc: Document, name: str, change: Callable[[Section], Section]) -> Document:
    """A document with one section changed. Raises InputError where it is not there, and where it would then speak of
    beads or ends that the weave does not have: its file could not be read again."""
    sections = doc.weave.sections
    index = next((i for i, s in enumerate(sections) if s.name == name), None)
    if index is None:
        raise InputError(f"there is no section “{name}”", nearest(name, (s.name for s in sections)))
    new = (*sections[:index], change(sections[index]), *sections[index + 1 :])
    made = replace(doc.weave, sections=new)
    problems = name_problems(made)
    if problems:
        raise InputError(problems[0].message, problems[0].hint)
    return replace(doc, weave=made)
