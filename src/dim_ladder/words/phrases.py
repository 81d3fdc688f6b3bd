"""The small change of sentences: places, counts, lists, and how work lies before its reader."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from dim_ladder.base import InputError
from dim_ladder.base.colours import colour_words
from dim_ladder.base.lengths import mm_words
from dim_ladder.library import HANGINGS, VOCABULARIES, Vocabulary
from dim_ladder.notation import Cord, Weave, is_leg
from dim_ladder.trace.ends import letter_of
from dim_ladder.trace.value import Trace


@dataclass(frozen=True, slots=True)
class Lie:
    """How the work lies before the reader: hanging from above, or on a table with its beginning away from you."""

    name: str
    front: str
    to_front: str
    to_back: str
    from_front: str
    from_back: str
    in_front: str
    behind: str


LIES: dict[str, Lie] = {
    "hanging": Lie(
        "hanging",
        "front",
        "to the front",
        "at the back",
        "from the front",
        "from behind",
        "in front",
        "behind",
    ),
    "table": Lie("table", "top", "to the top", "underneath", "from the top", "from below", "on top", "below"),
}


def hung_words(weave: Weave) -> str:
    """How the cords hang, as it goes on after "hang the cords"."""
    hanging = HANGINGS.get(weave.hang.on)
    if hanging is None:
        return f"on the {weave.hang.on.replace('-', ' ')}"
    ends = set(weave.hang.ends)
    joined = weave.hang.on == "there-and-back" and not any(
        f"{c.name}.m" in ends and f"{c.name}.n" in ends for c in weave.cords
    )
    words = hanging.words.replace("with the fold on", "joined by their ends on") if joined else hanging.words
    single = _by_one_end(weave)
    if hanging.by_one_end and single:
        cords = {e.partition(".")[0] for e in weave.hang.ends}
        each = " each" if len(single) > 1 else ""
        of_all = f"{hanging.by_one_end}{each}"
        words = of_all if len(single) == len(cords) else f"{words}; {listing(single)} {of_all}"
    strung = [c.name for c in weave.cords if f"{c.name}.s" in ends]
    if strung:
        words += f"; {listing(strung)} {'is' if len(strung) == 1 else 'are'} strung, fast above and below"
    pairs = [f"{c.joined} and {c.name}" for c in weave.cords if c.joined and not joined]
    return words + (f"; {listing(pairs)} are joined by their ends and hang as one cord" if pairs else "")


def _by_one_end(weave: Weave) -> list[str]:
    """Cords of which one end is worked, and that no other cord is joined to."""
    joined = {name for c in weave.cords if c.joined for name in (c.name, c.joined)}
    ends = [e.partition(".")[0] for e in weave.hang.ends]
    legs = {e.partition(".")[0] for e in weave.hang.ends if is_leg(e) or e.endswith(".s")}
    return [c for c in dict.fromkeys(ends) if ends.count(c) == 1 and c not in joined | legs]


@lru_cache(maxsize=64)
def _words_of(colours: tuple[str, ...]) -> dict[str, str]:
    return colour_words(colours)


def cord_colour(weave: Weave, cord: Cord) -> str:
    """The colour of a cord in a word, told from those of the others."""
    return _words_of(tuple(c.colour for c in weave.cords))[cord.colour.lower()]


def end_name(trace: Trace, end: int) -> str:
    """An end by its letter; a finished layer that hangs as one by its name."""
    return letter_of(trace, end) or f"the finished {trace.ends[end].replace('-', ' ')}"


SHARES = {
    (1, 1): "the girth",
    (1, 2): "half the girth",
    (1, 3): "a third of the girth",
    (1, 4): "a quarter of the girth",
}


def free_words(mm: float, share: tuple[int, int]) -> str:
    """A length that is left free, as makers say it."""
    if not share[0]:
        return mm_words(mm)
    part = SHARES.get(share, f"{share[0]}/{share[1]} of the girth")
    return part + (f" less {mm_words(-mm)}" if mm else "")


def vocabulary(name: str) -> Vocabulary:
    if name not in VOCABULARIES:
        raise InputError(f"there is no vocabulary “{name}”", ", ".join(VOCABULARIES))
    return VOCABULARIES[name]


def lie_of(name: str) -> Lie:
    if name not in LIES:
        raise InputError(f"the work cannot lie “{name}”", ", ".join(LIES))
    return LIES[name]


def place_words(index: int, count: int) -> str:
    """Where a tail hangs, as a maker says it. index from 0."""
    if count == 1:
        return "alone"
    if index == 0:
        return "far left"
    if index == count - 1:
        return "far right"
    if count % 2 and index == count // 2:
        return "in the middle"
    left = index < count / 2
    n = index + 1 if left else count - index
    return f"{ordinal(n)} from the {'left' if left else 'right'}"


def ordinal(n: int) -> str:
    suffix = "th" if 10 <= n % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(n % 10, "th")
    return f"{n}{suffix}"


def times(n: int) -> str:
    return {1: "once", 2: "twice"}.get(n, f"{n} times")


def listing(items: list[str]) -> str:
    if not items:
        return ""
    return items[0] if len(items) == 1 else f"{', '.join(items[:-1])} and {items[-1]}"
