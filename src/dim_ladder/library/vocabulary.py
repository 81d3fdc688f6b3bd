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
    round: str
    thread: str  # before "up through": empty, or a verb with a space
    knots: dict[str, str] = field(default_factory=dict)

    def knot(self, neutral: str) -> str:
        return self.knots.get(neutral, neutral.replace("-", " "))


# What each school calls the knots that ship: plain, paracord, macrame.
NAMES: dict[str, tuple[str, str, str]] = {
    "half-right": ("half knot led from the right", "right-hand half of the band knot", "right-facing half knot"),
    "half-left": ("half knot led from the left", "left-hand half of the band knot", "left-facing half knot"),
    "square": ("two half knots, one from either side", "band knot", "square knot"),
    "square-lock": ("three half knots, sides in turn", "band knot with a locking half", "square knot and a half"),
    "half-hitch": ("half hitch", "half hitch", "half hitch"),
    "half-hitch-behind": ("half hitch from behind", "reverse half hitch", "reversed half hitch"),
    "cow-hitch": ("cow hitch made with one end", "lark’s head with one end", "vertical lark’s head"),
    "cow-hitch-behind": ("cow hitch from behind", "reverse lark’s head with one end", "reversed vertical lark’s head"),
    "larks-head": ("lark’s head round what hangs beside it", "lark’s head round the core", "lark’s head on filler cords"),
    "larks-head-behind": ("lark’s head from behind", "reverse lark’s head", "reversed lark’s head on filler cords"),
    "double-hitch-right": (
        "two half hitches, runner going right", "double hitch to the right", "double half hitch to the right",
    ),
    "double-hitch-left": (
        "two half hitches, runner going left", "double hitch to the left", "double half hitch to the left",
    ),
    "bar-right": ("bar of hitches to the right", "row of hitches to the right", "clove hitch bar to the right"),
    "bar-left": ("bar of hitches to the left", "row of hitches to the left", "clove hitch bar to the left"),
    "upright-hitch-right": (
        "two hitches round an upright, to the right", "upright double hitch to the right",
        "vertical double half hitch to the right",
    ),
    "upright-hitch-left": (
        "two hitches round an upright, to the left", "upright double hitch to the left",
        "vertical double half hitch to the left",
    ),
    "half-knot-right": ("half knot of two ends, led from the right", "half knot from the right, no core", "half knot to the left, no fillers"),
    "half-knot-left": ("half knot of two ends, led from the left", "half knot from the left, no core", "half knot to the right, no fillers"),
    "reef": ("two half knots, one each way, of two ends", "reef knot", "square knot without fillers"),
    "snake": ("loops of two ends, each through the other’s in turn", "snake knot", "snake knot"),
    "snake-left": ("the same from the other side", "snake knot from the left", "snake knot from the left"),
    "double-connection": ("two overhands, each through the other", "double connection", "two-cord connection knot"),
    "hitch-chain": ("chain of two ends", "hitches in turn", "alternating half hitches"),
    "overhand-chain": ("two overhands, one below the other", "overhands in turn", "alternating overhand knots"),
    "carrick-mat": ("flat mat of two loops", "carrick weave", "carrick mat"),
    "butterfly": ("loop standing out of the middle", "butterfly loop", "butterfly loop"),
    "diamond-2": ("diamond of two ends", "two-strand diamond", "diamond knot of two cords"),
    "diamond-4": ("diamond of four ends", "four-strand diamond", "diamond knot of four cords"),
    "button": ("button from one end", "button knot", "button knot of one cord"),
    "button-two": ("button from two ends", "two-strand button", "button knot of two cords"),
    "overhand": ("overhand knot", "overhand", "overhand knot"),
    "stopper": ("overhand with one more turn", "stopper", "double overhand knot"),
    "figure-eight": ("figure of eight", "figure-eight stopper", "figure-eight knot"),
    "coil-3": ("coil of three turns", "three-turn barrel", "coil knot of three"),
    "coil-5": ("coil of five turns", "five-turn barrel", "coil knot of five"),
    "slip": ("overhand with a bight drawn through", "slip knot", "slip loop"),
    "chain-begin": ("first link of a chain of bights", "start of a chain sinnet", "first chain loop"),
    "chain-link": ("next link of the chain", "chain sinnet loop", "chain loop"),
    "chain-lock": ("tip through the last link", "locking the chain sinnet", "last chain loop drawn up"),
    "wrap-3": ("three turns, locked under the first", "three-turn wrap", "gathering wrap of three"),
    "wrap-5": ("five turns, locked under the first", "five-turn wrap", "gathering wrap of five"),
    "overhand-round": ("overhand tied round a bundle", "overhand on the core", "gathering overhand"),
    "wall-3": ("wall of three", "three-strand wall", "wall knot of three cords"),
    "crown-3": ("crown of three", "three-strand crown", "crown knot of three cords"),
    "wall-4": ("wall of four", "four-strand wall", "wall knot of four cords"),
    "crown-4": ("crown of four", "four-strand crown", "crown knot of four cords"),
    "crown-wall-4": ("crown upon a wall of four", "four-strand wall and crown", "crown and wall of four cords"),
    "round-button": ("wall, crown and wall of three", "three-strand button", "round button of three cords"),
    "walker-3": ("three overhands, each round the others", "three-strand walker", "gathered walker knot"),
    "plait-right": ("right over middle", "right strand to the middle", "right cord to the centre"),
    "plait-left": ("left over middle", "left strand to the middle", "left cord to the centre"),
    "plait-3": ("plait of three", "three-strand flat braid", "three-cord braid"),
    "plait-4": ("flat plait of four", "four-strand flat braid", "flat four-cord braid"),
    "plait-5": ("flat plait of five", "five-strand flat braid", "flat five-cord braid"),
    "plait-6": ("flat plait of six", "six-strand flat braid", "flat six-cord braid"),
    "plait-7": ("flat plait of seven", "seven-strand flat braid", "flat seven-cord braid"),
    "plait-8": ("flat plait of eight", "eight-strand flat braid", "flat eight-cord braid"),
    "round-4": ("round plait of four", "four-strand round braid", "round four-cord braid"),
    "round-6": ("round plait of six", "six-strand round braid", "round six-cord braid"),
    "round-8": ("round plait of eight", "eight-strand round braid", "round eight-cord braid"),
}  # fmt: skip


def _names(school: int) -> dict[str, str]:
    return {knot: names[school] for knot, names in NAMES.items()}


VOCABULARIES: dict[str, Vocabulary] = {
    "plain": Vocabulary(
        "plain", "end", "filler", "fillers", "{end} goes {side}", "{end} go {side}",
        "cord", "standing part", "a doubled part of it", "round", "", _names(0),
    ),
    "paracord": Vocabulary(
        "paracord", "strand", "core strand", "core", "Take {end} {side}", "Take {end} {side}",
        "cord", "standing end", "a bight of it", "wrapped round", "tuck it ", _names(1),
    ),
    "macrame": Vocabulary(
        "macrame", "cord", "filler cord", "filler cords", "Bring {end} {side}", "Bring {end} {side}",
        "cord", "upper part", "a loop of it", "wound round", "pass it ", _names(2),
    ),
}  # fmt: skip
