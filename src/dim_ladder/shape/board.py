"""The board that work lies on: how hard each kind of it is held down to it."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from dim_ladder.notation import Cross, To
from dim_ladder.trace import Trace
from dim_ladder.trace.knotted import is_net

FLAT, WIDE = 0.12, 6  # of a tension on every diameter, of work of so many ends
PLAITED = 5  # ends of a plait, from which on it can lie rolled up as well as flat
SIDE_BY_SIDE = 0.25  # the same for three and more fillers, which hands lay beside each other
BUNDLED = 0.05  # towards one line, of ends that go into a knot all round it and come out so: with more the knot is drawn long
ROUND = 3  # ends
ROWS = 4  # ends of work that is tied in rows, from which on it lies on one


def on_board(
    ends: Sequence[int],
    fillers: Sequence[int],
    turns: Mapping[tuple[int, int], int],
    in_rows: bool,
    knots: Sequence[frozenset[int]],
    plait: str,
) -> float:
    """How hard work is held to a board, so wide it is: several knots beside each other, rows of hitches, wide plaits, and a flat band over
    several fillers. ends : that meet anything, and those of them that are fillers. turns : of what turns about each other how often.
    knots : the ends of each knot of the unit. plait : see plaited; a round one is worked in the hand."""
    worked = len(ends) - len(fillers)
    if plait:
        return FLAT if plait == "flat" and worked >= PLAITED else 0.0
    if worked >= WIDE or (
        len(ends) >= ROWS and (in_rows or ROWS <= worked < len(ends) or is_net(ends, knots))
    ):
        return FLAT
    lies = len(fillers) > 2 and not sum(n for pair, n in turns.items() if set(pair) <= set(ends))
    return SIDE_BY_SIDE if lies else 0.0


def in_bundle(alike: Sequence[Sequence[int]], strands: int) -> bool:
    """Whether a knot is tied round its own middle: it treats three ends and more alike, and no other (a wall, a crown, a diamond of four, or such
    knots two by two). The hand holds them in a bundle, and not beside each other in a row."""
    return all(len(group) >= ROUND for group in alike) and sorted(e for g in alike for e in g) == list(
        range(strands)
    )


def plaited(t: Trace, ends: Collection[int]) -> str:
    """ "flat" where these ends only go across others, each step to one side; "round" where some turn back; "" where anything is tucked or looped."""
    led = [s for s in t.steps if s.hops and not set(ends).isdisjoint(s.ends)]
    hops = [[h for h in s.hops if not isinstance(h.hop, To)] for s in led]
    if not hops or any(not isinstance(h.hop, Cross) or h.hop.bight for step in hops for h in step):
        return ""
    return "round" if any(len({h.side for h in step}) > 1 for step in hops) else "flat"
