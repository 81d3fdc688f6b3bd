"""Whether cords can be told apart by their colours: as most people see them, as those do who lack a kind of cones, and in grey
print; and which colours near them could be."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

from dim_ladder.base.colours import lightness

# Differences below which two cords are taken for each other: CIE dE 2000 (Luo, Cui & Rigg 2001, Color Res. Appl. 26:340-350),
# of which 2 to 3 are just seen side by side on a flat patch, and cords are small, round and shaded; in grey, of L*.
APART = 10.0
GREY_APART = 12.0
# Deficiencies are simulated as coloraide does by default (Brettel, Vienot & Mollon 1997, J. Opt. Soc. Am. A 14:2647-2655; for two of
# them Vienot, Brettel & Mollon 1999, Color Res. Appl. 24:243-252).
VIEWS = {
    "": "as they are",
    "protan": "for eyes that lack red cones",
    "deutan": "for eyes that lack green cones",
    "tritan": "for eyes that lack blue cones",
    "grey": "in grey print",
}
STEP = 2.0  # of L*, by which another colour is tried


@dataclass(frozen=True, slots=True)
class Alike:
    """Two colours, by their places, and the views in which they look alike."""

    one: int
    other: int
    views: tuple[str, ...]


def seen_alike(colours: Sequence[str]) -> tuple[Alike, ...]:
    """Pairs that look alike in some view. Cords of the very same colour are meant to."""
    out = []
    for i, j in combinations(range(len(colours)), 2):
        if colours[i].lower() != colours[j].lower():
            views = tuple(v for v in VIEWS if _near(colours[i].lower(), colours[j].lower(), v))
            if views:
                out.append(Alike(i, j, views))
    return tuple(out)


@lru_cache(maxsize=4096)
def _near(a: str, b: str, view: str) -> bool:
    if view == "grey":
        return abs(lightness(a) - lightness(b)) * 100 < GREY_APART
    return _difference(a, b, view) < APART


@lru_cache(maxsize=4096)
def _difference(a: str, b: str, view: str) -> float:
    from coloraide import Color  # slow to load

    one, other = Color(a), Color(b)
    if view:
        one, other = one.filter(view), other.filter(view)
    return float(one.delta_e(other, method="2000"))


def told_apart(colours: Sequence[str]) -> tuple[str, ...]:
    """Colours as near to these as can be found that are told apart in every view: one after the other is made lighter or darker,
    that one first whose change is least. As they are, where nothing helps."""
    now = [c.lower() for c in colours]
    for _ in range(len(set(now)) + 2):
        pairs = seen_alike(now)
        if not pairs:
            return tuple(now)
        best: tuple[int, float, str, str] | None = None
        for old in dict.fromkeys(now[k] for p in pairs for k in (p.one, p.other)):
            rest = [c for c in dict.fromkeys(now) if c != old]
            found = _moved(old, rest, len(pairs))
            if found is not None and (best is None or (found[0], found[1]) < best[:2]):
                best = (*found[:2], old, found[2])
        if best is None or best[0] >= len(pairs):
            return tuple(c.lower() for c in colours)
        now = [best[3] if c == best[2] else c for c in now]
    return tuple(now) if not seen_alike(now) else tuple(c.lower() for c in colours)


def _moved(old: str, rest: Sequence[str], before: int) -> tuple[int, float, str] | None:
    """How many pairs are alike still with a colour made lighter or darker, how far that is, and the colour."""
    from coloraide import Color

    best: tuple[int, float, str] | None = None
    base = Color(old).convert("lch-d65")
    for k in range(1, 40):
        for sign in (1, -1):
            light = base["lightness"] + sign * k * STEP
            if not 6 <= light <= 96:
                continue
            new = (
                base.clone()
                .set("lightness", light)
                .convert("srgb")
                .fit(method="lch-chroma")
                .to_string(hex=True)
            )
            alike = len(seen_alike([new, *rest]))
            found = (alike, _difference(old, new, ""), new)
            if alike < before and (best is None or found[:2] < best[:2]):
                best = found
        if best is not None and best[0] == 0:
            break
    return best


def palette_words(names: Sequence[str], colours: Sequence[str]) -> str:
    """Which cords look alike and where, in sentences; "" where all are told apart."""
    said: dict[tuple[str, ...], list[str]] = {}
    for p in seen_alike(colours):
        said.setdefault(p.views, []).append(f"{names[p.one]} and {names[p.other]}")
    out = []
    for views, pairs in said.items():
        where = [VIEWS[v] for v in views] if "" not in views else []
        at = " and ".join([", ".join(where[:-1]), where[-1]] if len(where) > 2 else where)
        who = "; ".join(pairs)
        out.append(f"{who} look alike{' ' + at if at else ''}.")
    return " ".join(out)
