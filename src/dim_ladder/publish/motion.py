"""The motion of a stretch of steps as one animated SVG, or as a series of still ones. No script in it: it can stand in
a page, in a mail, in a repository."""

from __future__ import annotations

from collections.abc import Iterator

from dim_ladder.picture.display import WHITE, Ink, cord_lines
from dim_ladder.picture.look import Style
from dim_ladder.picture.motion import Motion, eased_time
from dim_ladder.picture.parts import Mover, Parts, flattened, way_length
from dim_ladder.publish.svg import FONT, number, path_data, shape_svg
from dim_ladder.trace import Trace

HOLD_S = 0.7  # how long a finished step stands
SPEED = 260.0  # way of a tip in a second, in pixels at 96 dpi
SHORTEST_S, LONGEST_S = 0.6, 4.0


def step_seconds(parts: Parts) -> float:
    """How long a step moves: by the way its end makes."""
    way = max((way_length(flattened(m.path)) for m in parts.movers), default=0.0)
    return min(max(way / SPEED, SHORTEST_S), LONGEST_S) if way else 0.0


def animated_svg(
    trace: Trace, first: int, last: int, ink: Ink = WHITE, style: Style | None = None, *, speed: float = 1.0
) -> str:
    """SVG text that shows steps first..last being made, over and over. speed : 2 is twice as fast."""
    motion = Motion(trace, first, last, ink, style)
    every = [motion.parts(i) for i in range(first, last + 1)]
    times = [(step_seconds(p) / speed, HOLD_S / speed) for p in every]
    total = sum(move + hold for move, hold in times)
    width, height = max(p.width for p in every), max(p.height for p in every)
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {number(width)} {number(height)}" '
        f'width="{number(width)}" height="{number(height)}" role="img">',
        f"<title>Steps {first + 1} to {last + 1}, being made</title>",
        f'<rect width="{number(width)}" height="{number(height)}" fill="{ink.paper}"/>',
    ]
    at = 0.0
    for parts, (move, hold) in zip(every, times, strict=True):
        clock = _Clock(total, at, at + move, at + move + hold)
        out += _group(parts, clock, (width - parts.width) / 2)
        at += move + hold
    out.append("</svg>")
    return "\n".join(out)


def stills(
    trace: Trace, first: int, last: int, per_step: int, ink: Ink = WHITE, style: Style | None = None
) -> Iterator[str]:
    """The same motion as single SVGs, so many for each step; the last of each shows it at rest."""
    from dim_ladder.publish.svg import to_svg

    motion = Motion(trace, first, last, ink, style)
    for step in range(first, last + 1):
        for k in range(1, per_step + 1):
            yield to_svg(motion.picture(step + (1.0 if k == per_step else eased_time(k / per_step))))


class _Clock:
    """When a step begins, rests and gives way, as parts of the whole."""

    def __init__(self, total: float, begin: float, rest: float, stop: float) -> None:
        self.total = total
        self.begin, self.rest, self.stop = begin / total, rest / total, min(stop / total, 1.0)

    def shown(self, part: float = 0.0) -> str:
        """An animation that shows its group from a part of the way on until the step gives way."""
        at = self.begin + (self.rest - self.begin) * part
        values, keys = ["visible"], [0.0]
        if at > 0:
            values, keys = ["hidden", "visible"], [0.0, at]
        if self.stop < 1.0:
            values.append("hidden")
            keys.append(self.stop)
        return self._animate("visibility", values, keys, "discrete")

    def drawn(self) -> str:
        keys = [0.0, self.begin, self.rest, 1.0]
        return self._animate("stroke-dashoffset", ["1", "1", "0", "0"], keys, "linear")

    def along(self, path: str) -> str:
        keys = ";".join(_k(k) for k in (0.0, self.begin, self.rest, 1.0))
        return (
            f'<animateMotion path="{path}" dur="{number(self.total)}s" repeatCount="indefinite" calcMode="linear" '
            f'keyPoints="0;0;1;1" keyTimes="{keys}"/>'
        )

    def _animate(self, name: str, values: list[str], keys: list[float], mode: str) -> str:
        return (
            f'<animate attributeName="{name}" dur="{number(self.total)}s" repeatCount="indefinite" calcMode="{mode}" '
            f'values="{";".join(values)}" keyTimes="{";".join(_k(k) for k in keys)}"/>'
        )


def _k(value: float) -> str:
    return f"{value:.5f}".rstrip("0").rstrip(".") or "0"


def _group(parts: Parts, clock: _Clock, shift: float) -> list[str]:
    out = [f'<g visibility="hidden" transform="translate({number(shift)} 0)">{clock.shown()}']
    out += [shape_svg(s) for s in parts.under]
    for m in parts.movers:
        out += _mover(m, parts.ink, clock)
    for part, shapes in parts.fresh:
        out.append(f'<g visibility="hidden">{clock.shown(part)}')
        out += [shape_svg(s) for s in shapes]
        out.append("</g>")
    out += [shape_svg(s) for s in parts.over]
    out += [line for m in parts.movers for line in _badge(m, clock)]
    out.append("</g>")
    return out


def _mover(m: Mover, ink: Ink, clock: _Clock) -> list[str]:
    return [
        f'<path d="{path_data(line.path)}" fill="none" stroke="{line.colour}" stroke-width="{number(line.width)}" '
        f'pathLength="1" stroke-dasharray="1 2" stroke-dashoffset="1">{clock.drawn()}</path>'
        for line in cord_lines(m.path, m.colour, m.width, ink, pattern=m.pattern)
    ]


def _badge(m: Mover, clock: _Clock) -> list[str]:
    r = m.cord * 0.75
    letter = (
        f'<text y="{number(r * 0.42)}" font-family="{FONT}" font-size="{number(r * 1.25)}" text-anchor="middle" '
        f'font-weight="bold" fill="#ffffff" stroke="#1c2328" stroke-width="0.6" paint-order="stroke">{m.letter}</text>'
        if m.letter.isalnum()
        else ""
    )
    disc = f'<circle r="{number(r)}" fill="{m.colour}" stroke="#22303a" stroke-width="1.2"/>'
    return [f"<g>{disc}{letter}{clock.along(path_data(m.path))}</g>"]
