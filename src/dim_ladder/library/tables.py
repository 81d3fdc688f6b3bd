"""Hangings, finishes, fastenings and cord kinds. Lengths in mm; cautions by key of CAUTIONS."""

from __future__ import annotations

import re
from dataclasses import dataclass

from dim_ladder.base import InputError
from dim_ladder.notation import nearest

CAUTIONS: dict[str, str] = {
    "flame": "Open flame and hot nylon: molten cord sticks to skin and burns deep. Keep water at hand, nothing "
    "loose or flammable near, and ventilate: the fumes are harmful.",
    "blade": "Sharp blade: cut away from yourself, on a board.",
    "point": "Sharp point: work away from the hand that holds the piece.",
    "glue": "Glue: follow its maker's label, ventilate, keep it off skin and eyes.",
    "neck": "Not for necks, children's clothing, cots or animals without a breakaway: a cord or loop can strangle, "
    "beads and ends can choke.",
    "load": "Never for climbing, lifting, holding a load or towing.",
    "rules": "Local rules and the advice of trained people come first.",
}


@dataclass(frozen=True, slots=True)
class Hanging:
    """What the cords hang on. per_cord_mm : cord used by one folded cord round it."""

    words: str
    per_cord_mm: float


PASS_MM = (
    12.5  # through a ring, buckle or bar: half a turn of the middle of a cord of 4 mm round a bar of 4 mm
)

HANGINGS: dict[str, Hanging] = {
    "bar": Hanging("folded over a bar", 25.0),
    "ring": Hanging("folded through a ring with a lark's head each", 30.0),
    "buckle": Hanging("folded on the buckle with a cow hitch each", 35.0),
    "loop": Hanging("from the loop of the middle cord", 30.0),
    "closed-loop": Hanging(
        "as a closed loop, fast at both ends: after every few steps pull the excess through below", 20.0
    ),
    "thirds": Hanging(
        "with the first cord folded in thirds: its middle third is the core, doubled, and ends in a loop below",
        50.0,
    ),
    "there-and-back": Hanging(
        "with the fold on the near half: both legs run to the far half, pass it and come back outside themselves, to be worked "
        "over their own legs",
        60.0,
    ),
    "former": Hanging("round a former, held with a clip", 60.0),
    "cold-start": Hanging("laid side by side and clipped", 40.0),
}


@dataclass(frozen=True, slots=True)
class Finish:
    """How ends are made fast. tail_mm : cord each end needs to be gripped and finished."""

    words: str
    tail_mm: float
    cautions: tuple[str, ...]
    instead: str


FINISHES: dict[str, Finish] = {
    "tuck-and-melt": Finish(
        "tuck back under two crossings, cut to a short stub, melt the stub and press it with metal",
        90.0, ("flame", "blade"), "tuck and sew",
    ),
    "cut-and-melt": Finish("cut to a short stub, melt it and press it with metal", 70.0, ("flame", "blade"), "glue"),
    "glue": Finish("put a drop of glue on the last crossing, let it set, cut flush", 70.0, ("glue", "blade"), "sew"),
    "tuck": Finish("tuck back under four crossings and cut flush", 110.0, ("blade",), "glue"),
    "sew": Finish("stitch to its neighbour three times and cut flush", 80.0, ("point", "blade"), "tuck"),
    "leave": Finish("leave hanging at the length you like", 60.0, ("blade",), "cut and melt"),
}  # fmt: skip


LOOP_MM = 7.0  # cord under one loop at the back: about a cord and three quarters, drawn under with a needle


def finish_words(finish: str, under: int = 0) -> str:
    """How ends are made fast, tucked under so many loops where it is said how many."""
    words = FINISHES[finish].words
    if not under:
        return words
    loops = "one loop" if under == 1 else f"{under} loops"
    first, _, rest = words.partition(",")
    if "tuck" not in first:
        return f"tuck under {loops} at the back, {words}"
    rest = rest or (" and" + first.partition(" and")[2] if " and" in first else "")
    return f"tuck back under {loops}{',' if not rest.startswith(' and') else ''}{rest}"


@dataclass(frozen=True, slots=True)
class Fastening:
    """What closes the piece. adds_mm : length it contributes to the closed inner girth."""

    words: str
    adds_mm: float
    cautions: tuple[str, ...] = ()


FASTENINGS: dict[str, Fastening] = {
    "none": Fastening("no fastening", 0.0),
    "side-buckle": Fastening("side-release buckle", 32.0),
    "loop-and-stopper": Fastening("loop and stopper knot", 12.0),
    "loop-and-button": Fastening("loop and button", 15.0),
    "ring": Fastening("ring at one end", 20.0),
    "sliding": Fastening("sliding closure", 25.0, ("neck",)),
}


@dataclass(frozen=True, slots=True)
class CordKind:
    """A kind of cord. diameter in mm; grams per metre for leftovers that are weighed. give : the part of its diameter that it gives
    way under the hand's tension; soft : against what force, in that tension, on a diameter of cord pressed a diameter deep. grip :
    the part of the tension with which hands draw two ends apart that stays in the work by friction."""

    words: str
    diameter: float
    grams_per_metre: float
    give: float = 0.45
    soft: float = 0.6
    grip: float = 0.8


CORD_KINDS: dict[str, CordKind] = {
    # Give of kernmantle: a sheath over loose strands; half knots over two fillers come out 5.3 mm long, as makers measure. Of the
    # others an estimate: thinner cord is laid harder, waxed cord hardly gives, cotton gives as far but against more.
    "nylon-4mm": CordKind("nylon kernmantle 4 mm", 4.0, 6.6, 0.5, 0.38, 0.8),
    "nylon-3mm": CordKind("nylon kernmantle 3 mm", 3.0, 4.0, 0.5, 0.42, 0.8),
    "nylon-2mm": CordKind("nylon cord 2 mm", 2.0, 2.1, 0.45, 0.6, 0.8),
    "polyester-1mm": CordKind("waxed polyester 1 mm", 1.0, 0.9, 0.25, 2.0, 0.8),
    "cotton-3mm": CordKind("cotton cord 3 mm", 3.0, 5.2, 0.5, 0.6, 0.8),
    "cotton-5mm": CordKind("cotton cord 5 mm", 5.0, 12.0, 0.5, 0.6, 0.8),
}


_MEASURED = re.compile(r"(.+)-(\d+(?:\.\d+)?)mm")


def cord_kind(name: str) -> CordKind:
    """The kind of that name; an unknown name such as `hemp-2.5mm` gives its diameter by its last part, else 4 mm."""
    if name in CORD_KINDS:
        return CORD_KINDS[name]
    found = _MEASURED.fullmatch(name)
    if found and 0 < float(found[2]) <= 40:
        d = float(found[2])
        return CordKind(f"{found[1].replace('-', ' ')} {found[2]} mm", d, 0.41 * d * d)
    return CordKind(name.replace("-", " "), 4.0, 6.6)


def kind_named(text: str) -> str:
    """The name by which a script calls a kind of cord that a person wrote: `nylon kernmantle 4 mm`, `Hemp 2.5mm` or
    `nylon-4mm`. Raises InputError where nothing of it could be a name."""
    said = " ".join(text.lower().split())
    for name, kind in CORD_KINDS.items():
        if said in (name, kind.words.lower()):
            return name
    plain = re.sub(r"\s*mm$", "mm", said.replace(",", "."))
    name = re.sub(r"[^\w.]+", "-", plain).strip("-.")
    if not re.fullmatch(r"[^\W\d_]\w*(-(\d+\.\d+\w*|\w+))*", name) or len(name) > 60:
        raise InputError(
            f"“{text.strip()[:40]}” is not a kind of cord", "Write what it is, and how thick: hemp 3 mm"
        )
    return name


def nearest_fastening(name: str) -> str:
    """A remedy for an unknown fastening."""
    return nearest(name, FASTENINGS)
