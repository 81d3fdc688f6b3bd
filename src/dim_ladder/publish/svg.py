"""A picture as SVG. Every text is data: escaped, never markup."""

from __future__ import annotations

from html import escape

from dim_ladder.picture.display import Area, Command, Disc, Line, Picture, Shape

FONT = "Atkinson Hyperlegible Next, Atkinson Hyperlegible, sans-serif"


def number(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".") or "0"


def path_data(path: tuple[Command, ...]) -> str:
    return "".join(op + " ".join(number(v) for v in args) for op, args in path)


def to_svg(picture: Picture, *, standalone: bool = True, scale: float = 1.0) -> str:
    """SVG text. standalone adds the XML name space and the background; scale enlarges the nominal size."""
    w, h = number(picture.width), number(picture.height)
    size = f'width="{number(picture.width * scale)}" height="{number(picture.height * scale)}"'
    space = ' xmlns="http://www.w3.org/2000/svg"' if standalone else ""
    label = f' aria-label="{escape(picture.title)}"' if picture.title else ' aria-hidden="true"'
    out = [f'<svg{space} viewBox="0 0 {w} {h}" {size} stroke-linejoin="round" role="img"{label}>']
    if picture.title:
        out.append(f"<title>{escape(picture.title)}</title>")
    if standalone and picture.background:
        out.append(f'<rect width="{w}" height="{h}" fill="{picture.background}"/>')
    out += [shape_svg(s) for s in picture.shapes]
    out.append("</svg>")
    return "\n".join(out)


def shape_svg(s: Shape) -> str:
    """One shape as an element."""
    if isinstance(s, Line):
        extra = ' stroke-linecap="round"' if s.round_cap else ""
        if s.dash:
            extra += f' stroke-dasharray="{" ".join(number(d) for d in s.dash)}"'
        return f'<path d="{path_data(s.path)}" fill="none" stroke="{s.colour}" stroke-width="{number(s.width)}"{extra}/>'
    if isinstance(s, Area):
        points = " ".join(f"{number(x)},{number(y)}" for x, y in s.points)
        return f'<polygon points="{points}" fill="{s.fill}"/>'
    if isinstance(s, Disc):
        stroke = f' stroke="{s.stroke}" stroke-width="{number(s.width)}"' if s.stroke else ""
        return f'<circle cx="{number(s.x)}" cy="{number(s.y)}" r="{number(s.r)}" fill="{s.fill or "none"}"{stroke}/>'
    bold = ' font-weight="bold"' if s.bold else ""
    return (
        f'<text x="{number(s.x)}" y="{number(s.y)}" font-family="{FONT}" font-size="{number(s.size)}" '
        f'text-anchor="{s.anchor}" fill="{s.colour}"{bold}>{escape(s.text)}</text>'
    )
