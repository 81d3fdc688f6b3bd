"""Colourways: one weave in other colours, to be chosen from side by side."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import permutations

from dim_ladder.notation import Weave
from dim_ladder.trace import trace

# Of the salt marsh: first what does the most of the work, then what stands against it.
PALETTES: dict[str, tuple[str, ...]] = {
    "Samphire": ("#5c7a3a", "#d9dcb0", "#a03c3a", "#9dae4f", "#2f4534"),
    "Dusk on the flats": ("#d97b4f", "#28304d", "#f0c9a2", "#9c4a63", "#54426b"),
    "Mud and foam": ("#98836a", "#f4f1e6", "#352c27", "#cbbfa6", "#645241"),
    "Avocet": ("#1c1c1e", "#f5f4f0", "#7fa6b8", "#c7cdd0", "#3d4b53"),
    "Sea lavender": ("#8066a0", "#e6dcec", "#5d7a72", "#b79ac6", "#3a3358"),
    "Shelduck": ("#1f5c4d", "#c65f2e", "#f3efe6", "#a8231f", "#20242a"),
}
MOST = 8


@dataclass(frozen=True, slots=True)
class Colourway:
    """name : what it is called. colours : by cord of the weave, in its order."""

    name: str
    colours: tuple[str, ...]

    def of(self, weave: Weave) -> Weave:
        """The weave in these colours."""
        cords = tuple(replace(c, colour=k) for c, k in zip(weave.cords, self.colours, strict=True))
        return replace(weave, cords=cords)


def colourways(weave: Weave) -> tuple[Colourway, ...]:
    """As it is; its own colours on other cords; and in the palettes, its first colour on what does most. No two of them alike."""
    own = tuple(c.colour.lower() for c in weave.cords)
    found = [Colourway("As it is", own)]
    others = (
        [p for p in permutations(own) if p != own] if len(own) <= 4 else [own[k:] + own[:k] for k in (1, 2)]
    )
    for name, colours in zip(
        ("Colours exchanged", "Exchanged otherwise"), dict.fromkeys(others), strict=False
    ):
        found.append(Colourway(name, colours))
    kinds = _busiest(weave)
    for name, palette in PALETTES.items():
        new = {old: palette[k % len(palette)] for k, old in enumerate(kinds)}
        found.append(Colourway(name, tuple(new[c] for c in own)))
    unlike = {c.colours: c for c in reversed(found)}
    return tuple(reversed(unlike.values()))[:MOST]


def _busiest(weave: Weave) -> list[str]:
    """The colours of a weave, what crosses most first: that is what is seen."""
    seen = {c.colour.lower(): 0 for c in weave.cords}
    for s in weave.sections:
        if s.former is None:
            t = trace(weave, section=s.name, units=1)
            for c in t.crossings:
                for e in (c.lane_end, c.row_end):
                    if (cord := weave.cord_of(t.ends[e])) is not None:
                        seen[cord.colour.lower()] += 1
    return sorted(seen, key=lambda c: -seen[c])
