"""Hangings and finishes. Lengths in mm; cautions by key of CAUTIONS."""

from __future__ import annotations

from dataclasses import dataclass

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
    """What the cords hang on. per_cord_mm : cord used by one folded cord round it. by_one_end : how a cord hangs there of which only one end
    is worked, "" where that is no other way."""

    words: str
    per_cord_mm: float
    by_one_end: str = ""


PASS_MM = (
    12.5  # through a ring, buckle or bar: half a turn of the middle of a cord of 4 mm round a bar of 4 mm
)

HANGINGS: dict[str, Hanging] = {
    "bar": Hanging("folded over a bar", 25.0, "knotted to a bar by one end"),
    "ring": Hanging("folded through a ring with a lark's head each", 30.0, "knotted to a ring by one end"),
    "buckle": Hanging("folded on the buckle with a cow hitch each", 35.0, "knotted to the buckle by one end"),
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
    """How ends are made fast. needs_mm : cord each end cannot do without: less is running short. tail_mm : what is good to have
    of each, to grip and finish it."""

    words: str
    needs_mm: float
    tail_mm: float
    cautions: tuple[str, ...]
    instead: str


FINISHES: dict[str, Finish] = {
    "tuck-and-melt": Finish(
        "tuck back under two crossings, cut to a short stub, melt the stub and press it with metal",
        30.0, 60.0, ("flame", "blade"), "tuck and sew",
    ),
    "cut-and-melt": Finish("cut to a short stub, melt it and press it with metal", 10.0, 50.0, ("flame", "blade"), "glue"),
    "glue": Finish("put a drop of glue on the last crossing, let it set, cut flush", 10.0, 50.0, ("glue", "blade"), "sew"),
    "tuck": Finish("tuck back under four crossings and cut flush", 50.0, 80.0, ("blade",), "glue"),
    "sew": Finish("stitch to its neighbour three times and cut flush", 20.0, 60.0, ("point", "blade"), "tuck"),
    "leave": Finish("leave hanging at the length you like", 40.0, 60.0, ("blade",), "cut and melt"),
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
