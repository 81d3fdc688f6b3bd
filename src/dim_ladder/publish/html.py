"""The sheet as one self-contained HTML file: works offline, with scripts off, and carries its document inside."""

from __future__ import annotations

import base64
import hashlib
import json
from functools import lru_cache
from importlib import resources
from itertools import count

from jinja2 import Environment, StrictUndefined, select_autoescape
from markupsafe import Markup

from dim_ladder.picture.display import Picture
from dim_ladder.publish.raster import to_webp
from dim_ladder.publish.restore import embed
from dim_ladder.publish.sheet import Sheet
from dim_ladder.publish.steps import AGAIN, Told
from dim_ladder.publish.svg import to_svg
from dim_ladder.publish.typeface import font_base64


def _file(name: str) -> str:
    return resources.files("dim_ladder.publish").joinpath("templates", name).read_text("utf-8")


def _environment(pictures: int) -> Environment:
    """pictures : how many steps of the page have one."""
    env = Environment(
        autoescape=select_autoescape(default=True, default_for_string=True),
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    ids = count()

    spent = [0, 0]  # bytes of lines, of pixels
    many = pictures > MANY
    drawn_in_all, colours, quality = (FEW_DRAWN, 0, FEW_QUALITY) if many else (ALL_DRAWN, COLOURS, FINE)

    def svg_in(picture: Picture | None, widest: float) -> Markup:
        """A picture shrunk to at most `widest` pixels, never enlarged; to_svg escapes every text. As pixels where it has so many lines,
        or so many pictures stand before it, that the page would grow beyond what a telephone opens."""
        if picture is None:
            return Markup("")
        scale = min(1.0, widest / picture.width, HIGHEST / picture.height)
        drawn = to_svg(picture, standalone=False, scale=scale, ids=ids)
        if len(drawn) <= MOST_DRAWN and spent[0] + len(drawn) <= drawn_in_all:
            spent[0] += len(drawn)
            return Markup(drawn)
        width, height = max(1, round(picture.width * scale)), max(1, round(picture.height * scale))
        # The more there are, the coarser: of hundreds of steps each is small.
        finer = 1.0 if many or spent[1] >= ALL_PIXELS else 1.5
        fine = 2.0 if spent[0] + len(drawn) <= drawn_in_all else finer
        pixels = _as_pixels(picture, scale * fine, colours, quality)
        spent[1] += len(pixels)
        return Markup('<img src="{}" alt="{}" width="{}" height="{}">').format(
            pixels, picture.title, width, height
        )

    env.filters["svgwidth"] = svg_in
    env.filters["told"] = _told
    env.filters["pixels"] = _pixels
    env.filters["jpeg"] = _jpeg
    env.filters["inside"] = _inside
    env.filters["wide"] = lambda picture: _as_pixels(picture, 1.5 if many else 2.0)
    return env


HIGHEST = 640.0  # pixels of a picture
MOST_DRAWN = 60_000  # bytes of a picture as lines; beyond that pixels are shorter
ALL_DRAWN = 300_000  # of all pictures of a page as lines
ALL_PIXELS = 150_000  # of all as pixels, finer than they stand there
COLOURS = 24  # of a drawing as pixels
FINE = 82  # quality of shaded cord as pixels
# Steps with a picture, from which on a page has fewer drawn as lines, and pixels that are a little blurred: brought down to few colours instead,
# cords would lose theirs.
MANY, FEW_DRAWN, FEW_QUALITY = 120, 40_000, 28
FACE = (150.0, 240.0)  # pixels, within which the work is shown at the head


def _inside(picture: Picture) -> tuple[int, int]:
    scale = min(1.0, FACE[0] / picture.width, FACE[1] / picture.height)
    return round(picture.width * scale), round(picture.height * scale)


def _pixels(picture: Picture) -> str:
    """A picture of thousands of shapes as pixels, twice as fine as it stands there."""
    return _as_pixels(picture, 2 * _inside(picture)[1] / picture.height)


@lru_cache(maxsize=48)
def _as_pixels(picture: Picture, scale: float, colours: int = 0, quality: int = FINE) -> str:
    return "data:image/webp;base64," + base64.b64encode(to_webp(picture, scale, colours, quality)).decode(
        "ascii"
    )


def _jpeg(data: bytes) -> str:
    return "data:image/jpeg;base64," + base64.b64encode(data).decode("ascii")


def _told(told: Told) -> Markup:
    """For which ways of hanging an element speaks; hidden where no size of the sheet hangs so."""
    if not told.ways:
        return Markup("")
    other = Markup(' data-other="1" hidden') if told.other else Markup("")
    return Markup(' data-ways="{}"').format(" ".join(map(str, told.ways))) + other


def _hash(text: str) -> str:
    return "sha256-" + base64.b64encode(hashlib.sha256(text.encode("utf-8")).digest()).decode("ascii")


def _json(data: object) -> Markup:
    """As it may stand in an element: nothing in it can end that."""
    return Markup(json.dumps(data, separators=(",", ":")).replace("<", "\\u003c"))


def render(sheet: Sheet, document_text: str, data: dict[str, object] | None = None, why: str = "") -> str:
    """The page. document_text is carried inside, so that the sheet can be opened as a weave again. data : what a page that scales
    looks up, see page.py; why : for which reason it does not."""
    script = _file("sheet.js")
    style = _file("sheet.css") % {"regular": font_base64("regular"), "bold": font_base64("bold")}
    pictures = sum(step.picture is not None for part in sheet.sections for step in part.steps)
    return (
        _environment(pictures)
        .from_string(_file("sheet.html.j2"))
        .render(
            sheet=sheet,
            again=AGAIN,
            data=_json(data) if data else None,
            why=why,
            style=Markup(style),
            script=Markup(script),
            script_hash=_hash(script),
            style_hash=_hash(style),
            document=embed(document_text),
        )
    )
