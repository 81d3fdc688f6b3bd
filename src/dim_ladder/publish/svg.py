"""A picture as SVG. Every text is data: escaped, never markup."""

from __future__ import annotations

from html import escape

from dim_ladder.trace.display import Area, Command, Disc, Label, Line, Picture

FONT = "Atkinson Hyperlegible Next, Atkinson Hyperlegible, sans-serif"


def _n(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".") or "0"


def path_data(path: tuple[Command, ...]) -> str:
    return "".join(op + " ".join(_n(v) for v in args) for op, args in path)


def to_svg(picture: Picture, *, standalone: bool = True, scale: float = 1.0) -> str:
    """SVG text. standalone adds the XML name space and the background; scale enlarges the nominal size."""
    w, h = _n(picture.width), _n(picture.height)
    size = f'width="{_n(picture.width * scale)}" height="{_n(picture.height * scale)}"'
    space = ' xmlns="http://www.w3.org/2000/svg"' if standalone else ""
    label = f' aria-label="{escape(picture.title)}"' if picture.title else ' aria-hidden="true"'
    out = [f'<svg{space} viewBox="0 0 {w} {h}" {size} role="img"{label}>']
    if picture.title:
        out.append(f"<title>{escape(picture.title)}</title>")
    if standalone and picture.background:
        out.append(f'<rect width="{w}" height="{h}" fill="{picture.background}"/>')
    for s in picture.shapes:
        if isinstance(s, Line):
            extra = ' stroke-linecap="round"' if s.round_cap else ""
            if s.dash:
                extra += f' stroke-dasharray="{" ".join(_n(d) for d in s.dash)}"'
            out.append(
                f'<path d="{path_data(s.path)}" fill="none" stroke="{s.colour}" stroke-width="{_n(s.width)}"{extra}/>'
            )
        elif isinstance(s, Area):
            points = " ".join(f"{_n(x)},{_n(y)}" for x, y in s.points)
            out.append(f'<polygon points="{points}" fill="{s.fill}"/>')
        elif isinstance(s, Disc):
            stroke = f' stroke="{s.stroke}" stroke-width="{_n(s.width)}"' if s.stroke else ""
            out.append(
                f'<circle cx="{_n(s.x)}" cy="{_n(s.y)}" r="{_n(s.r)}" fill="{s.fill or "none"}"{stroke}/>'
            )
        elif isinstance(s, Label):
            bold = ' font-weight="bold"' if s.bold else ""
            out.append(
                f'<text x="{_n(s.x)}" y="{_n(s.y)}" font-family="{FONT}" font-size="{_n(s.size)}" '
                f'text-anchor="{s.anchor}" fill="{s.colour}"{bold}>{escape(s.text)}</text>'
            )
    out.append("</svg>")
    return "\n".join(out)
