"""The knots that can be tied here: what they are called, what they look like, and how they are written at a place."""

from __future__ import annotations

from dataclasses import dataclass, replace

from dim_ladder.base import InputError
from dim_ladder.commands.setup import COLOURS
from dim_ladder.library import VOCABULARIES, library_knots
from dim_ladder.notation import Call, Cord, Count, Hang, Section, Weave, write_item
from dim_ladder.trace import Trace, Tracer
from dim_ladder.trace.solved import Solved, solve_knot
from dim_ladder.words.phrases import vocabulary

LOOSE_REST = 2  # tails that stand for "all that is left over" in a picture


@dataclass(frozen=True, slots=True)
class KnotEntry:
    """title : in the reader's words. also : in everybody's, to find it by. ends : how many it needs at least. rest : it
    takes all that is left over. own : it stands in the weave itself."""

    name: str
    title: str
    also: str
    ends: int
    rest: bool
    own: bool


def knot_book(weave: Weave, voice: str) -> tuple[KnotEntry, ...]:
    """Every knot that can be tied with the tails of a weave: its own first, then those that ship."""
    out = []
    names = [(k.name, True) for k in weave.knots] + [
        (k.name, False) for k in library_knots() if weave.knot(k.name) is None
    ]
    for name, own in names:
        knot = solve_knot(weave, name)
        if knot is not None:
            rest = any(p.rest for p in knot.params)
            also = " ".join(dict.fromkeys(vocabulary(v).knot(name) for v in VOCABULARIES))
            out.append(KnotEntry(name, vocabulary(voice).knot(name), also, len(knot.params), rest, own))
    return tuple(out)


def call_at(weave: Weave, name: str, tails: int, first: int, doubled: bool = False) -> str:
    """The line that ties a knot from a place on; one that takes all that is left over reaches to the last tail.

    first : from 1. doubled : two neighbours go as one where a knot takes one end. Raises InputError where too few tails
    hang there.
    """
    knot = solve_knot(weave, name)
    if knot is None:
        raise InputError(f"there is no knot “{name}”", "Choose another one")
    room = tails - first + 1
    many = sum(2 if doubled and not p.rest else 1 for p in knot.params)
    if room < many:
        raise InputError(
            f"{name} takes {many} ends{', two for each place' if doubled else ''}, and from place {first} on hang {max(room, 0)}",
            "Begin further left, or add ends",
        )
    spare = room - many if any(p.rest for p in knot.params) else 0
    as_one = tuple(i for i, p in enumerate(knot.params) if doubled and not p.rest)
    return write_item(Call(name, _groups(knot, first, 1 + spare, 2 if doubled else 1), as_one=as_one))


def _groups(knot: Solved, first: int, rest: int, each: int = 1) -> tuple[tuple[int, ...], ...]:
    """Places for every name of a knot, left to right from `first`; `rest` of them where it takes what is left over."""
    groups: list[tuple[int, ...]] = []
    at = first
    for p in knot.params:
        count = rest if p.rest else each
        groups.append(tuple(range(at, at + count)))
        at += count
    return tuple(groups)


def sample(weave: Weave, name: str) -> Trace:
    """A knot tied once, by itself, in colours that tell its ends apart."""
    knot = solve_knot(weave, name)
    if knot is None:
        raise InputError(f"there is no knot “{name}”", "Choose another one")
    many = len(knot.params) + (LOOSE_REST - 1 if any(p.rest for p in knot.params) else 0)
    colours = tuple(dict.fromkeys([*(c.colour for c in weave.cords), *COLOURS]))
    cords = tuple(Cord(f"k{i + 1}", "nylon-4mm", colours[i % len(colours)]) for i in range(many))
    hang = Hang(tuple(f"{c.name}.a" for c in cords))
    before = [Call("chain-begin", ((1,),))] if name in ("chain-link", "chain-lock") else []
    section = Section("s", "body", Count(), (*before, Call(name, _groups(knot, 1, LOOSE_REST))))
    alone = replace(weave, cords=cords, hang=hang, sections=(section,), beads=weave.beads)
    return Tracer().trace(alone)
