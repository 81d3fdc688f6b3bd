"""Kinds of cord of one's own: a file beside the weaves of a workshop."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from dim_ladder.base import InputError
from dim_ladder.base.disk import read_text, write_whole
from dim_ladder.library import CordKind, check_kind

NAME = "cord-kinds.json"
MAX_BYTES = 1_000_000
Number = Annotated[float, Field(allow_inf_nan=False)]


class _Kind(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    words: Annotated[str, Field(max_length=80)]
    diameter_mm: Number
    grams_per_metre: Number
    give: Number
    soft: Number
    grip: Number
    spread: Number
    source: Annotated[str, Field(max_length=400)] = "one's own"
    sheath: Annotated[str, Field(max_length=40)] = ""
    second: Annotated[str, Field(max_length=40)] = ""
    thick_mm: Number = 0.0
    stretch: Number = 0.03


class _File(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    format: Literal["dim-ladder-cord-kinds"] = "dim-ladder-cord-kinds"
    version: Literal[1] = 1
    kinds: Annotated[dict[str, _Kind], Field(max_length=500)]


def read_kinds(folder: Path) -> dict[str, CordKind]:
    """Those of a workshop; none where it has no such file. Raises InputError or WorldError where the file is there and cannot be
    read, with the kind and what is wrong."""
    path = folder / NAME
    if not path.is_file():
        return {}
    try:
        file = _File.model_validate_json(read_text(path, MAX_BYTES))
    except ValidationError as e:
        first = e.errors()[0]
        where = " → ".join(str(p) for p in first["loc"]) or "the file"
        raise InputError(
            f"{NAME}: {where}: {first['msg'].lower()}",
            "Mend it there, or move the file away: what ships stays",
        ) from None
    out = {
        name: CordKind(
            k.words,
            k.diameter_mm,
            k.grams_per_metre,
            k.give,
            k.soft,
            k.grip,
            k.spread,
            k.source,
            k.sheath,
            k.second,
            k.thick_mm,
            k.stretch,
        )
        for name, k in file.kinds.items()
    }
    for name, kind in out.items():
        try:
            check_kind(name, kind)
        except InputError as e:
            raise InputError(f"{NAME}: {e}", "What ships stays as it is") from None
    return out


def save_kinds(folder: Path, kinds: Mapping[str, CordKind]) -> Path:
    """Write them whole. Raises InputError where one cannot be, WorldError where it cannot be written."""
    for name, kind in kinds.items():
        check_kind(name, kind)
    file = _File(
        kinds={
            name: _Kind(
                words=k.words, diameter_mm=k.diameter, grams_per_metre=k.grams_per_metre, give=k.give, soft=k.soft,
                grip=k.grip, spread=k.spread, source=k.source, sheath=k.sheath, second=k.second, thick_mm=k.thick, stretch=k.stretch,
            )
            for name, k in sorted(kinds.items())
        }
    )  # fmt: skip
    path = folder / NAME
    write_whole(path, file.model_dump_json(indent=1) + "\n")
    return path
