"""What a person has set, in one small file: validated, whole or not at all, and never in the way of starting."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from dim_ladder.base import DimLadderError
from dim_ladder.base.disk import make_folder, read_text, write_whole

MOST = 1_000_000  # bytes
RECENT = 12  # weaves that are remembered


class Settings(BaseModel):
    """dark : the surface. keys : changed keys by action. motion : steps move when they are played, else they jump. tight : the
    tight weave is shown beside the recorder. recent : paths of weaves, the newest first."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    dark: bool = False
    motion: bool = True
    tight: bool = True
    recent: Annotated[tuple[Annotated[str, Field(max_length=4096)], ...], Field(max_length=RECENT)] = ()
    keys: dict[Annotated[str, Field(max_length=60)], Annotated[str, Field(max_length=40)]] = {}
    width: Annotated[int, Field(ge=0, le=20_000)] = 0
    height: Annotated[int, Field(ge=0, le=20_000)] = 0


def settings_path() -> Path:
    named = os.environ.get("DIM_LADDER_STATE")
    if named:
        return Path(named) / "settings.json"
    from platformdirs import user_config_path

    return user_config_path("dim-ladder", appauthor=False) / "settings.json"


def load_settings() -> Settings:
    """As they were set; the program's own where there are none, or none that can be read."""
    try:
        return Settings.model_validate_json(read_text(settings_path(), MOST, "settings"))
    except (DimLadderError, ValidationError):
        return Settings()


def keep_settings(settings: Settings) -> str:
    """Write them; what went wrong, else ""."""
    path = settings_path()
    try:
        make_folder(path.parent)
        write_whole(path, settings.model_dump_json(indent=1) + "\n", follow=True)
    except DimLadderError as e:
        return f"What you set cannot be kept: {e}"
    return ""
