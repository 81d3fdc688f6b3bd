"""The sheet as one self-contained HTML file: works offline, with scripts off, and carries its document inside."""

from __future__ import annotations

import base64
import hashlib
from functools import cache
from importlib import resources

from jinja2 import Environment, StrictUndefined, select_autoescape
from markupsafe import Markup

from dim_ladder.picture.display import Picture
from dim_ladder.publish.restore import embed
from dim_ladder.publish.sheet import Sheet
from dim_ladder.publish.svg import to_svg
from dim_ladder.publish.typeface import font_base64


def _file(name: str) -> str:
    return resources.files("dim_ladder.publish").joinpath("templates", name).read_text("utf-8")


@cache
def _environment() -> Environment:
    env = Environment(
        autoescape=select_autoescape(default=True, default_for_string=True),
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    env.filters["svgwidth"] = _svg_in
    return env


def _svg_in(picture: Picture | None, widest: float) -> Markup:
    """A picture shrunk to at most `widest` pixels, never enlarged; to_svg escapes every text."""
    if picture is None:
        return Markup("")
    return Markup(to_svg(picture, standalone=False, scale=min(1.0, widest / picture.width)))


def _hash(text: str) -> str:
    return "sha256-" + base64.b64encode(hashlib.sha256(text.encode("utf-8")).digest()).decode("ascii")


def render(sheet: Sheet, document_text: str) -> str:
    """The page. document_text is carried inside, so that the sheet can be opened as a weave again."""
    script = _file("sheet.js")
    style = _file("sheet.css") % {"regular": font_base64("regular"), "bold": font_base64("bold")}
    return (
        _environment()
        .from_string(_file("sheet.html.j2"))
        .render(
            sheet=sheet,
            style=Markup(style),
            script=Markup(script),
            script_hash=_hash(script),
            style_hash=_hash(style),
            document=embed(document_text),
        )
    )
