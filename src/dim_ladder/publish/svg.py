"""A picture as SVG. Every text is data: escaped, never markup."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from html import escape
from itertools import groupby

from dim_ladder.picture.display import Area, Command, Disc, Line, Picture, Shape

FONT = "Atkinson Hyperlegible Next, Atkinson Hyperlegible, sans-serif"


IN_A_PAGE = 1  # digits after the point of places in a page, where a picture stands no larger than it is drawn


def number(value: float, digits: int = 2) -> str:
    return f"{value:.{digits}f}".rstrip("0").rstrip(".") or "0"


def path_data(path: tuple[Command, ...], digits: int = 2) -> str:
    return "".join(op + " ".join(number(v, digits) for v in args) for op, args in path)


def to_svg(
    picture: Picture, *, standalone: bool = True, scale: float = 1.0, ids: Iterator[int] | None = None
) -> str:
    """SVG text. standalone adds the XML name space and the background; scale enlarges the nominal size. ids : numbers for what is
    written once and drawn several times, of a page with many pictures."""
    w, h = number(picture.width), number(picture.height)
    size = f'width="{number(picture.width * scale)}" height="{number(picture.height * scale)}"'
    space = ' xmlns="http://www.w3.org/2000/svg"' if standalone else ""
    label = f' aria-label="{escape(picture.title)}"' if picture.title else ' aria-hidden="true"'
    out = [f'<svg{space} viewBox="0 0 {w} {h}" {size} stroke-linejoin="round" role="img"{label}>']
    if picture.title:
        out.append(f"<title>{escape(picture.title)}</title>")
    if standalone and picture.background:
        out.append(f'<rect width="{w}" height="{h}" fill="{picture.background}"/>')
    digits = 2 if standalone else IN_A_PAGE
    if ids is None:
        out += [shape_svg(s, digits) for s in picture.shapes]
    else:
        out += _shared(picture.shapes, digits, ids)
    out.append("</svg>")
    return "\n".join(out)


def _shared(shapes: Sequence[Shape], digits: int, ids: Iterator[int]) -> list[str]:
    """Shapes as elements; a cord, which is several lines along one path, has it written once."""
    out: list[str] = []
    for same, group in groupby(shapes, key=lambda s: s.path if isinstance(s, Line) else None):
        run = list(group)
        if same is None or len(run) < 2:
            out += [shape_svg(s, digits) for s in run]
            continue
        name = f"p{next(ids)}"
        out.append(f'<defs><path id="{name}" d="{path_data(same, digits)}" fill="none"/></defs>')
        out += [f'<use href="#{name}"{_stroke(s)}/>' for s in run if isinstance(s, Line)]
    return out


def _stroke(s: Line) -> str:
    extra = ' stroke-linecap="round"' if s.round_cap else ""
    if s.dash:
        extra += f' stroke-dasharray="{" ".join(number(d) for d in s.dash)}"'
    return f' stroke="{s.colour}" stroke-width="{number(s.width)}"{extra}'


def shape_svg(s: Shape, digits: int = 2) -> str:
    """One shape as an element. digits : of its places, after the point."""
    if isinstance(s, Line):
        return f'<path d="{path_data(s.path, digits)}" fill="none"{_stroke(s)}/>'
    if isinstance(s, Area):
        points = " ".join(f"{number(x, digits)},{number(y, digits)}" for x, y in s.points)
        return f'<polygon points="{points}" fill="{s.fill}"/>'
    if isinstance(s, Disc):
        stroke = f' stroke="{s.stroke}" stroke-width="{number(s.width)}"' if s.stroke else ""
        return f'<circle cx="{number(s.x)}" cy="{number(s.y)}" r="{number(s.r)}" fill="{s.fill or "none"}"{stroke}/>'
    bold = ' font-weight="bold"' if s.bold else ""
    return (
        f'<text x="{number(s.x)}" y="{number(s.y)}" font-family="{FONT}" font-size="{number(s.size)}" '
        f'text-anchor="{s.anchor}" fill="{s.colour}"{bold}>{escape(s.text)}</text>'
    )
