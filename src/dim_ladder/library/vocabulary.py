"""Words per reader. One neutral id inside; plain, paracord and macrame outside."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True)
class Vocabulary:
    """The words of one school. A knot without a name of its own is called by its id, with spaces."""

    name: str
    end: str
    filler: str
    fillers: str
    move: str  # with {end}, {side}
    move_many: str
    cord: str
    standing: str
    bight: str
    knots: dict[str, str] = field(default_factory=dict)

    def knot(self, neutral: str) -> str:
        return self.knots.get(neutral, neutral.replace("-", " "))


VOCABULARIES: dict[str, Vocabulary] = {
    "plain": Vocabulary(
        "plain", "end", "filler", "fillers", "{end} goes {side}", "{end} go {side}",
        "cord", "standing part", "a doubled part of it",
        {
            "half-right": "half knot led from the right", "half-left": "half knot led from the left",
            "half-hitch": "half hitch", "half-hitch-behind": "half hitch from behind", "cow-hitch": "cow hitch",
            "plait-right": "right over middle", "plait-left": "left over middle",
        },
    ),
    "paracord": Vocabulary(
        "paracord", "strand", "core strand", "core", "Take {end} {side}", "Take {end} {side}",
        "cord", "standing end", "a bight of it",
        {
            "half-right": "right-hand half of the band knot", "half-left": "left-hand half of the band knot",
            "half-hitch": "half hitch", "half-hitch-behind": "reverse half hitch", "cow-hitch": "lark's head with one end",
            "plait-right": "right strand to the middle", "plait-left": "left strand to the middle",
        },
    ),
    "macrame": Vocabulary(
        "macrame", "cord", "filler cord", "filler cords", "Bring {end} {side}", "Bring {end} {side}",
        "cord", "upper part", "a loop of it",
        {
            "half-right": "right-facing half knot", "half-left": "left-facing half knot",
            "half-hitch": "half hitch", "half-hitch-behind": "reversed half hitch", "cow-hitch": "vertical lark's head",
            "plait-right": "right cord to the centre", "plait-left": "left cord to the centre",
        },
    ),
}  # fmt: skip
