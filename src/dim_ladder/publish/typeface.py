"""The shipped fonts."""

from __future__ import annotations

import base64
from functools import cache
from importlib import resources

FAMILY = "Atkinson Hyperlegible Next"
MONO_FAMILY = "JetBrains Mono"
FILES = {
    "regular": "AtkinsonHyperlegibleNext-Regular.ttf",
    "bold": "AtkinsonHyperlegibleNext-Bold.ttf",
    "mono": "JetBrainsMono-Regular.ttf",
    "wide-regular": "Inter-Regular.ttf",
    "wide-bold": "Inter-Bold.ttf",
}


@cache
def font_bytes(which: str) -> bytes:
    """A font file: "regular", "bold", "mono", or of more scripts "wide-regular" and "wide-bold"."""
    return resources.files("dim_ladder.publish").joinpath("fonts", FILES[which]).read_bytes()


@cache
def font_base64(which: str) -> str:
    return base64.b64encode(font_bytes(which)).decode("ascii")
