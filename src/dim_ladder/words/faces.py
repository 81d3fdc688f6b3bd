"""What a unit looks like, in colours: after some units, in front and at the back; and a slip of side, told."""

from __future__ import annotations

from dim_ladder.trace.diagram import permutation
from dim_ladder.trace.ends import letter_of
from dim_ladder.trace.faces import Faces, ends_after
from dim_ladder.trace.value import Trace
from dim_ladder.words.phrases import cord_colour, listing


def colours_after(one: Trace, units: int) -> tuple[str, ...]:
    """Colour words from left to right after some units."""
    out = []
    for e in ends_after(one, units):
        cord = one.weave.cord_of(one.ends[e])
        out.append(cord_colour(one.weave, cord) if cord else "")
    return tuple(out)


def faces_sentence(one: Trace, shown: Faces) -> str:
    """Which colours show in the front centre and the back centre."""
    parts = []
    if shown.front and set(_in_turn(one, shown.front)) == set(_in_turn(one, shown.back)):
        said = f"{_colours(one, shown.front)} in the front centre and the back centre."
        return said[0].upper() + said[1:]
    if shown.front:
        parts.append(f"{_colours(one, shown.front)} in the front centre")
    if shown.back:
        parts.append(f"{_colours(one, shown.back)} in the back centre")
    said = listing(parts)
    return said[0].upper() + said[1:] + "."


def _colours(one: Trace, ends: tuple[int, ...]) -> str:
    turns = _in_turn(one, ends)
    in_turn = len(turns) > len(ends)
    if len(turns) == len(one.ends) > 2:
        return "every cord in turn"
    named = []
    for e in turns:
        cord = one.weave.cord_of(one.ends[e])
        named.append(f"{cord_colour(one.weave, cord)} ({letter_of(one, e)})" if cord else letter_of(one, e))
    return listing(named[:4]) + (" in turn" if in_turn else "")


def _in_turn(one: Trace, ends: tuple[int, ...]) -> list[int]:
    """These ends and those that come to their places in the units after: what hangs elsewhere then gives its place to another."""
    to = [p - 1 for p in permutation(one)]
    turns: dict[int, None] = {}
    for e in ends:
        while e not in turns:
            turns[e] = None
            e = to[e]
    return list(turns)


def side_slip_sentence(side: str) -> str:
    """side : the one that the last knot leads from again."""
    return (
        f"The last knot is tied from the {side} again, like the one before it; until then you changed sides "
        "every time. If that was not meant, undo it and tie its mirror image."
    )
