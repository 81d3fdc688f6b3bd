"""How a section lies in the picture of the whole piece: where it begins, and which ways are right, down and front there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from dim_ladder.shape.rope import Array, turned
from dim_ladder.shape.value import TightShape

CLOSE = 0.7  # of its radius, that a cord of a layer lies at least outside what it is tied over
LEANS = 0.35  # of how far aside an end is led, that it goes down meanwhile at least
BUNDLE = 0.4  # of its width, that a row of cords is deep at least to be a bundle
STRAIGHT = 0.1  # diameters that an end goes aside which nothing is done with
LED = 4.0  # diameters over which a cord comes out of a section and lies straight


def _way(x: float, y: float, z: float) -> Array:
    return np.array([x, y, z])


@dataclass(frozen=True, slots=True)
class Frame:
    """right, down, front : (3,) its ways, as the piece lies. origin : (3,) where it begins. turned : whether the work was ever turned."""

    right: Array = field(default_factory=lambda: _way(1.0, 0.0, 0.0))
    down: Array = field(default_factory=lambda: _way(0.0, 1.0, 0.0))
    front: Array = field(default_factory=lambda: _way(0.0, 0.0, 1.0))
    origin: Array = field(default_factory=lambda: _way(0.0, 0.0, 0.0))
    turned: bool = False

    def lay(self, line: Array, y: float) -> Array:
        """Points of a section that begins so far down, as the piece lies. line : (n, 3)."""
        way = np.array([self.right, self.down, self.front])
        return np.asarray(self.origin + (line + np.array([0.0, y, 0.0])) @ way)

    def place(self, y: float) -> Array:
        """(3,) the middle of the work so far down."""
        return np.asarray(self.origin + y * self.down)

    def seen(self, at: Array) -> Array:
        """Places (n, 3) of the piece as they lie in the work: to the right, down and in front."""
        return np.asarray((at - self.origin) @ np.array([self.right, self.down, self.front]).T)

    def lean(self, to: Sequence[Array], left: Sequence[Array]) -> float:
        """How much further down ends must begin that are led there from where they were left, so that they lie on no edge."""
        if self.turned or not len(to):
            return 0.0
        way = np.array(to) - np.array(left)
        below = way @ self.down
        aside = np.linalg.norm(way - below[:, None] * self.down, axis=1)
        return float(max(0.0, *(LEANS * aside - below)))

    def aside(self, at: Array) -> float:
        """How far to the right a place lies."""
        return float((at - self.origin) @ self.right)

    def about(self, at: Array) -> Frame:
        """Beginning there."""
        return replace(self, origin=np.asarray(at, np.float64))

    def halved(self) -> Frame:
        """Turned end for end."""
        return replace(self, right=-self.right, down=-self.down, turned=True)

    def quartered(self, left: bool) -> Frame:
        """Turned so that its left side hangs down, or its right."""
        if left:
            return replace(self, right=self.down, down=-self.right, turned=True)
        return replace(self, right=-self.down, down=self.right, turned=True)

    def over(self) -> Frame:
        """Turned over, about its length."""
        return replace(self, right=-self.right, front=-self.front)


HANGING = Frame()


def led(before: Array, after: Array) -> Array:
    """A smooth way from where one section leaves a cord to where the next takes it up, without its two ends."""
    a, b = before[-1], after[0]
    reach = float(np.linalg.norm(b - a))
    bend = min(reach, LED)
    ta = (before[-1] - before[-3]) / max(float(np.linalg.norm(before[-1] - before[-3])), 1e-9) * bend
    tb = (after[2] - after[0]) / max(float(np.linalg.norm(after[2] - after[0])), 1e-9) * bend
    u = np.linspace(0, 1, max(4, round(reach / 0.25)))[1:-1, None]
    return np.asarray(
        (2 * u**3 - 3 * u**2 + 1) * a
        + (u**3 - 2 * u**2 + u) * ta
        + (3 * u**2 - 2 * u**3) * b
        + (u**3 - u**2) * tb
    )


def turned_to(tops: Array, places: Array) -> float:
    """The angle about its length, in radians, by which a knot is turned so that its cords come from where they hang: the hand turns it so, where they
    come in a bundle. 0 where they come in a row, which has a front. tops : (n, 3) where its cords begin; places : (n, 3) where they are left."""
    a, b = tops - tops.mean(axis=0), places - places.mean(axis=0)
    wide, deep = (
        sorted(np.linalg.svd(a[:, [0, 2]], compute_uv=False), reverse=True)[:2] if len(a) > 2 else (1, 0)
    )
    if deep < BUNDLE * wide:
        return 0.0
    along = float((a[:, [0, 2]] * b[:, [0, 2]]).sum())
    return float(np.arctan2((a[:, 2] * b[:, 0] - a[:, 0] * b[:, 2]).sum(), along))


def turned_about(points: Array, middle: Array, angle: float) -> Array:
    """Points (n, 3) of a work that is turned about its length, where its middle is."""
    return turned(points - middle, 1, angle, 0.0) + middle


def hangs_straight(line: Array) -> bool:
    """Whether an end only hangs beside what others are worked into."""
    return bool(np.ptp(line[:, [0, 2]], axis=0).max() < STRAIGHT)


def round_oval(
    lines: list[Array], core: int, inner: TightShape, scale: float, thick: Sequence[float]
) -> list[Array]:
    """Cord that was worked round a round core, laid round finished work as it is: as far along its outline as along the core's, and as far out,
    but not in it: the core was pressed, and what is drawn of the finished work is not. thick : diameters of the cords."""
    a, b = inner.width * scale / 2, inner.thickness * scale / 2
    wide, half = max(a, b), min(a, b)
    side = wide - half  # half of the straight part of its outline
    r = (4 * side + 2 * np.pi * half) / (2 * np.pi)
    axis = np.array([lines[core][:, 0].mean(), lines[core][:, 2].mean()])
    fars = [np.hypot(x[:, 0] - axis[0], x[:, 2] - axis[1]) for x in lines]
    pressed = max(
        0.0,
        *(
            CLOSE * d / 2 + r - far.min()
            for k, (d, far) in enumerate(zip(thick, fars, strict=True))
            if k != core
        ),
    )
    out = []
    for k, (line, far) in enumerate(zip(lines, fars, strict=True)):
        if k == core:
            out.append(line)
            continue
        x, z = line[:, 0] - axis[0], line[:, 2] - axis[1]
        # Along a quarter of the outline from its broad side's middle: straight, then round.
        angle = np.arctan2(np.abs(x), np.abs(z))
        along = r * angle
        turn = np.clip((along - side) / half, 0.0, np.pi / 2)
        px = np.minimum(along, side) + half * np.sin(turn)
        pz = half * np.cos(turn)
        off = far - r + pressed
        px, pz = px + off * np.sin(turn), pz + off * np.cos(turn)
        if a < b:
            px, pz = pz, px
        out.append(np.column_stack([axis[0] + np.sign(x) * px, line[:, 1], axis[1] + np.sign(z) * pz]))
    return out
