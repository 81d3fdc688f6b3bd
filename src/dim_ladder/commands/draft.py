"""A step while it is being recorded: single moves in, a Step out. Knows nothing of keys or windows."""

from __future__ import annotations

from dataclasses import dataclass, replace

from dim_ladder.base import InputError
from dim_ladder.notation import (
    Call,
    Cross,
    Curl,
    Follow,
    Hop,
    Item,
    Leave,
    Loop,
    Round,
    Step,
    Thread,
    Through,
    To,
)

FLIPPED = {
    "over": "under", "under": "over", "up": "down", "down": "up", "round": "round behind", "round behind": "round",
    "curl over": "curl under", "curl under": "curl over", "beside left": "beside right", "beside right": "beside left",
    "to left": "to right", "to right": "to left",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Move:
    """One hop. kind : over, under, up, down, round, round behind, curl over, curl under, beside left, beside right,
    leave, bead, to left or to right; other : the end crossed, gone round or run beside, or whose loop it is, "" its
    own, or the bead. mm : slack left. loop : another region than the first loop of `other`, with ends by
    name. turns : full turns of a round. bight : made with the end doubled."""

    kind: str
    other: str
    loop: Loop | None = None
    turns: int = 1
    bight: bool = False
    mm: float = 0.0


@dataclass(frozen=True, slots=True)
class Draft:
    """end : the moving end. before : order of tails when it began. side : +1 going right, -1 going left.
    bight : the next pass is made with the end doubled. bars : so many tails are hitched onto this end instead, as a
    bar on a runner is made."""

    end: str
    before: tuple[str, ...]
    side: int
    moves: tuple[Move, ...] = ()
    # Side before each move, so that taking one back also takes back a turn made for it.
    sides: tuple[int, ...] = ()
    bight: bool = False
    bars: int = 0

    @property
    def begun(self) -> bool:
        """Whether there is anything to keep."""
        return bool(self.moves or self.bars)

    def hitch(self, order: tuple[str, ...], every: bool = False) -> Draft:
        """The next tail on the side the end is going makes a double half hitch on it; every : all that hang there.

        order : tails when the end was taken in hand.
        """
        if self.moves:
            raise InputError(
                "a bar begins with its runner at rest", "Rest this step first, or take its hops back"
            )
        at = order.index(self.end)
        room = len(order) - 1 - at if self.side > 0 else at
        if self.bars >= room:
            side = "right" if self.side > 0 else "left"
            raise InputError(f"nothing hangs further {side}", "Rest the bar, or turn round with R first")
        return replace(self, bars=room if every else self.bars + 1)

    def cross(self, over: bool, order: tuple[str, ...]) -> Draft:
        """Cross the next tail on the side the end is going. order : tails now, the end among them."""
        return self._with(Move("over" if over else "under", self._next(order)))

    def _next(self, order: tuple[str, ...]) -> str:
        at = order.index(self.end) + self.side
        if not 0 <= at < len(order):
            side = "right" if self.side > 0 else "left"
            raise InputError(f"nothing hangs further {side}", "Turn round with R")
        return order[at]

    def round(self, order: tuple[str, ...]) -> Draft:
        """A full turn round the next tail, front first; one turn more where it has just gone round it."""
        other = self._next(order)
        last = self.moves[-1] if self.moves else None
        if last is not None and last.kind.startswith("round") and last.other == other:
            return replace(self, moves=(*self.moves[:-1], replace(last, turns=last.turns + 1)))
        return self._with(Move("round", other))

    def curl(self) -> Draft:
        """A loop of the end alone, and in front across its own standing part, to the side it is going."""
        return self._with(Move("curl over", ""))

    def through(self, up: bool, owner: str) -> Draft:
        """Pass a loop. owner : the end whose loop it is; the end itself means its own loop of this step."""
        return self._with(Move("up" if up else "down", "" if owner == self.end else owner, bight=self.bight))

    def beside(self, other: str) -> Draft:
        """Run beside another end's latest step, on the side the end is going."""
        if other == self.end:
            raise InputError("an end cannot run beside itself", "Press the letter of another end")
        return self._with(Move("beside right" if self.side > 0 else "beside left", other))

    def leave(self, mm: float) -> Draft:
        """Slack of so many mm in the turn just made."""
        if not self.moves:
            raise InputError("there is no turn to leave slack in yet", "Cross something first")
        return self._with(Move("leave", "", mm=mm))

    def bead(self, name: str) -> Draft:
        return self._with(Move("bead", name))

    def to_edge(self) -> Draft:
        """To the edge of the work, on the side the end is going, as its last hop went: in front or behind."""
        return self._with(Move("to right" if self.side > 0 else "to left", ""))

    def into(self, up: bool, loop: Loop) -> Draft:
        """Pass any region, by its address with ends by name."""
        return self._with(Move("up" if up else "down", "", loop, bight=self.bight))

    def _with(self, move: Move) -> Draft:
        if self.bars:
            raise InputError("the runner of a bar does nothing else", "Rest the bar first")
        return replace(self, moves=(*self.moves, move), sides=(*self.sides, self.side), bight=False)

    def doubled(self) -> Draft:
        """The next pass with the end doubled, or not."""
        return replace(self, bight=not self.bight)

    def turn(self) -> Draft:
        return self.towards(-self.side)

    def towards(self, side: int) -> Draft:
        return replace(self, side=side, bars=0 if side != self.side else self.bars)

    def back(self) -> Draft | None:
        """Without the last move; None when there is none, which lets the end go."""
        if self.bars:
            return replace(self, bars=self.bars - 1)
        if not self.moves:
            return None
        return replace(self, moves=self.moves[:-1], side=self.sides[-1], sides=self.sides[:-1])

    def flip(self, index: int = -1) -> Draft:
        """Exchange over and under (up and down, front first and behind first) of one move, the last by default."""
        if not self.moves:
            raise InputError("there is no crossing yet", "Cross something first")
        index %= len(self.moves)
        move = self.moves[index]
        if move.kind not in FLIPPED:
            raise InputError("that has no other way round", "Take it back with Backspace")
        flipped = replace(move, kind=FLIPPED[move.kind])
        return replace(self, moves=(*self.moves[:index], flipped, *self.moves[index + 1 :]))

    def item(self) -> Item:
        """What is recorded: a step, or the knot that makes a bar."""
        if not self.bars:
            return self.step()
        at = self.before.index(self.end) + 1
        if self.side > 0:
            return Call("bar-right", ((at,), tuple(range(at + 1, at + 1 + self.bars))))
        return Call("bar-left", (tuple(range(at - self.bars, at)), (at,)))

    def step(self) -> Step:
        """The step with places as they were when it began."""
        place = {e: i + 1 for i, e in enumerate(self.before)}
        hops: list[Hop] = []
        side: int | None = None
        for move, went in zip(self.moves, self.sides, strict=True):
            if move.kind in ("over", "under"):
                over = move.kind == "over"
                last = hops[-1] if hops else None
                if isinstance(last, Cross) and last.over == over and side == went:
                    hops[-1] = replace(last, refs=(*last.refs, place[move.other]))
                else:
                    hops.append(Cross(over, (place[move.other],)))
                side = went
                continue
            side = None
            if move.kind in ("up", "down"):
                loop = move.loop or Loop(move.other or None)
                ref = place.get(loop.ref, loop.ref) if isinstance(loop.ref, str) else loop.ref
                hops.append(Through(move.kind == "up", replace(loop, ref=ref), move.bight))
            elif move.kind.startswith("round"):
                hops.append(Round((place[move.other],), move.turns, move.kind == "round"))
            elif move.kind.startswith("beside"):
                hops.append(Follow(place[move.other], move.kind == "beside left"))
            elif move.kind == "leave":
                hops.append(Leave(move.mm))
            elif move.kind == "bead":
                hops.append(Thread(move.other))
            elif move.kind.startswith("to "):
                hops.append(To(move.kind.removeprefix("to ")))
            else:
                hops.append(Curl(move.kind == "curl over", went < 0))
        return Step(place[self.end], tuple(hops))


def begin(end: str, order: tuple[str, ...]) -> Draft:
    """Take an end in hand; it first goes towards the side where more hangs."""
    at = order.index(end)
    return Draft(end, order, 1 if at < len(order) / 2 else -1)
