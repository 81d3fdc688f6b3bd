"""Kinds of cord: how thick, how heavy, how far they give way, each with where that comes from."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import pi, sqrt
from types import MappingProxyType

from dim_ladder.base import InputError

PATTERNS = ("", "braid", "twist", "smooth", "flat", "tracer", "mottled")
BULGE = (
    1.3  # times its width where nothing presses, the most that round cord spreads: as far as a sheath reaches
)
MOST_STRETCH = 0.3  # what stretches further is no cord to tie with
MOST_GIVE = 0.7  # of its diameter: nothing with a sheath goes flatter


@dataclass(frozen=True, slots=True)
class CordKind:
    """A kind of cord. diameter in mm; grams per metre for leftovers that are weighed.

    give : the part of its diameter by which it can be pressed together, 0 for what is rigid. soft : the force, of the tension
    with which a hand draws a knot up, on a diameter of cord that is pressed a diameter deep. grip : the part of the tension with
    which two ends are drawn apart that friction keeps in the work. spread : how uncertain the three are, as a part of each
    (one standard deviation). source : where they come from. sheath : one of PATTERNS, "" as its material has it. second : the
    colour of its tracer threads or mottling. thick : of flat cord its thickness in mm, while its diameter is how wide it lies; 0 for round cord.
    stretch : by what part it is longer under a hand's pull than slack, as it is measured out.
    """

    words: str
    diameter: float
    grams_per_metre: float
    give: float = 0.45
    soft: float = 0.6
    grip: float = 0.8
    spread: float = 0.3
    source: str = "an estimate, as for braided cord of any make"
    sheath: str = ""
    second: str = ""
    thick: float = 0.0
    stretch: float = 0.03

    @property
    def across(self) -> float:
        """mm across a round cord with as much in it: what flat cord is in a knot, where it folds and rolls up."""
        return 2 * sqrt(self.diameter * self.thick / pi) if self.thick else self.diameter

    @property
    def presses(self) -> float:
        """The part of that by which it can be pressed together: flat cord down to how thick it lies."""
        return min(MOST_GIVE, 1 - self.thick / self.across) if self.thick else self.give

    @property
    def spreads(self) -> float:
        """How wide it lies where it is pressed flat, at most, as a part of `across`."""
        return self.diameter / self.across if self.thick else BULGE


_BAND = "measured by makers: length, width, thickness and cord of half knots over two fillers"
SHIPPED: Mapping[str, CordKind] = MappingProxyType({
    "nylon-4mm": CordKind("nylon kernmantle 4 mm", 4.0, 6.6, 0.5, 0.38, 0.8, 0.1, _BAND, stretch=0.04),
    "nylon-3mm": CordKind("nylon kernmantle 3 mm", 3.0, 4.0, 0.5, 0.42, 0.8, 0.2, "an estimate: as 4 mm, laid a little harder", stretch=0.04),
    "nylon-2mm": CordKind("nylon cord 2 mm", 2.0, 2.1, 0.45, 0.6, 0.8, 0.25, "an estimate: few strands in its core, so it gives less", stretch=0.04),
    "flat-4mm": CordKind("flat coreless nylon 4 mm", 4.0, 3.1, 0.5, 0.15, 0.8, 0.3, "an estimate: a sheath without strands lies flat under any pull", thick=1.2, stretch=0.05),
    "satin-2mm": CordKind("satin cord 2 mm", 2.0, 2.4, 0.4, 0.6, 0.6, 0.3, "an estimate: a smooth braid over a soft core, which slides", stretch=0.03),
    "polyester-1mm": CordKind("waxed polyester 1 mm", 1.0, 0.9, 0.25, 2.0, 0.9, 0.3, "an estimate: wax makes it hard, and it grips", stretch=0.015),
    "cotton-3mm": CordKind("cotton cord 3 mm", 3.0, 5.2, 0.45, 0.6, 0.9, 0.3, "an estimate: loose yarns that give far, but are not drawn as hard", stretch=0.02),
    "cotton-5mm": CordKind("cotton cord 5 mm", 5.0, 12.0, 0.45, 0.6, 0.9, 0.3, "an estimate: as 3 mm", stretch=0.02),
    "tracer-4mm": CordKind("nylon kernmantle with tracer threads 4 mm", 4.0, 6.6, 0.5, 0.38, 0.8, 0.15, "an estimate: as without tracer threads", "tracer", "#f0d070", stretch=0.04),
    "mottled-4mm": CordKind("nylon kernmantle, mottled 4 mm", 4.0, 6.6, 0.5, 0.38, 0.8, 0.15, "an estimate: as of one colour", "mottled", "#2f3326", stretch=0.04),
    "stiff-4mm": CordKind("stiff cord that does not give 4 mm", 4.0, 15.0, 0.0, 1.0, 0.0, 0.0, "round, rigid and slippery by definition: what a knot is at its tightest", stretch=0),
})  # fmt: skip

_own: dict[str, CordKind] = {}
_MEASURED = re.compile(r"(.+)-(\d+(?:\.\d+)?)mm")
_NAME = re.compile(r"[^\W\d_]\w*(-(\d+\.\d+\w*|\w+))*")


def own_kinds() -> Mapping[str, CordKind]:
    """Those of the person's own, which go before those that ship."""
    return MappingProxyType(_own)


def use_kinds(own: Mapping[str, CordKind]) -> None:
    """Let these be the person's own kinds from now on, in this process."""
    for name, kind in own.items():
        check_kind(name, kind)
    _own.clear()
    _own.update(own)


def all_kinds() -> Mapping[str, CordKind]:
    return {**SHIPPED, **_own}


def check_kind(name: str, kind: CordKind) -> None:
    """Raises InputError where a kind cannot be: with the name, what is wrong, and what could be."""
    of = f"the kind of cord “{name}”"
    if not _NAME.fullmatch(name) or len(name) > 60:
        raise InputError(f"“{name[:40]}” cannot name a kind of cord", "Letters, digits and hyphens: hemp-3mm")
    for value, what, low, high in (
        (kind.diameter, "diameter", 0.1, 40.0),
        (kind.grams_per_metre, "mass per metre", 0.01, 2000.0),
        (kind.give, "give", 0.0, MOST_GIVE),
        (kind.soft, "softness", 0.05, 20.0),
        (kind.grip, "grip", 0.0, 1.5),
        (kind.spread, "spread", 0.0, 1.0),
        (kind.thick, "thickness", 0.0, kind.diameter),
        (kind.stretch, "stretch", 0.0, MOST_STRETCH),
    ):
        if not low <= value <= high:
            raise InputError(f"{of} has a {what} of {value:g}", f"It can be {low:g} to {high:g}")
    if kind.sheath not in PATTERNS:
        raise InputError(f"{of} has a sheath “{kind.sheath[:40]}”", ", ".join(p for p in PATTERNS if p))
    if kind.second and not re.fullmatch("#[0-9a-fA-F]{6}", kind.second):
        raise InputError(
            f"{of} has a second colour “{kind.second[:40]}”", "Write it as #f0d070, or leave it out"
        )
    if not kind.words.strip() or len(kind.words) > 80:
        raise InputError(f"{of} has no words of its own", "Say in a few words what it is")


def cord_kind(name: str) -> CordKind:
    """The kind of that name. Of a name that is not known, such as `hemp-2.5mm`, the last part says how thick it is, else it is 4 mm;
    it gives way as the shipped kind of that material next to it in thickness, where there is one."""
    known = _own.get(name) or SHIPPED.get(name)
    if known is not None:
        return known
    found = _MEASURED.fullmatch(name)
    if found and 0 < float(found[2]) <= 40:
        d = float(found[2])
        like = [k for n, k in all_kinds().items() if (m := _MEASURED.fullmatch(n)) and m[1] == found[1]]
        words = f"{found[1].replace('-', ' ')} {found[2]} mm"
        if like:
            base = min(like, key=lambda k: (abs(k.diameter - d), k.diameter))
            heavy = base.grams_per_metre * (d / base.diameter) ** 2
            source = f"an estimate: as {base.words}"
            return replace(
                base,
                words=words,
                diameter=d,
                thick=base.thick * (d / base.diameter) ** 0.5,
                grams_per_metre=heavy,
                spread=max(base.spread, 0.3),
                source=source,
            )
        return CordKind(words, d, 0.41 * d * d)
    return CordKind(name.replace("-", " "), 4.0, 6.6)


def kind_named(text: str) -> str:
    """The name by which a script calls a kind of cord that a person wrote: `nylon kernmantle 4 mm`, `Hemp 2.5mm` or
    `nylon-4mm`. Raises InputError where nothing of it could be a name."""
    said = " ".join(text.lower().split())
    for name, kind in all_kinds().items():
        if said in (name, kind.words.lower()):
            return name
    plain = re.sub(r"\s*mm$", "mm", said.replace(",", "."))
    name = re.sub(r"[^\w.]+", "-", plain).strip("-.")
    if not _NAME.fullmatch(name) or len(name) > 60:
        raise InputError(
            f"“{text.strip()[:40]}” is not a kind of cord", "Write what it is, and how thick: hemp 3 mm"
        )
    return name
