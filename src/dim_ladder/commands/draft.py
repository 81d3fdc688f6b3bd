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
    Pass,
    Past,
    Ref,
    Round,
    Step,
    Thread,
    Through,
    To,
    Twist,
)

FLIPPED = {
    "over": "under", "under": "over", "up": "down", "down": "up", "round": "round behind", "round behind": "round",
    "curl over": "curl under", "curl under": "curl over", "beside left": "beside right", "beside right": "beside left",
    "to left": "to right", "to right": "to left", "past over": "past under", "past under": "past over",
    "back left": "back right", "back right": "back left", "pass": "pass behind", "pass behind": "pass",
}  # fmt: skip
NAMED = ("over", "under", "up", "down", "round", "round behind", "curl over", "curl under")
MOST_TURNS = 200


@dataclass(frozen=True, slots=True)
class Move:
    """One hop. kind : over, under, past over, past under, up, down, round, round behind, curl over, curl under,
    beside left, beside right, back left, back right, leave, bead, pass, pass behind, twist, to left, to right or to place; other :
    the end crossed, gone round or run beside, or whose loop it is, "" its own, or the bead, or what is passed. mm : slack left. loop : another
    region than the first loop of `other`, with ends by name. turns : full turns of a round, or times through a loop.
    bight : made with the end doubled. count : crossings above the tail (past), crossings followed (back, 0: all), or
    the place (to place). name : what its loop is called from now on."""

    kind: str
    other: str
    loop: Loop | None = None
    turns: int = 1
    bight: bool = False
    mm: float = 0.0
    count: int = 0
    name: str = ""


@dataclass(frozen=True, slots=True)
class Draft:
    """end : the moving end. more : ends that move along with it, side by side. before : order of tails when it began. side : +1 going right, -1 going left.
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
    more: tuple[str, ...] = ()
    stacked: bool = False  # they lie beneath it, not beside it

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
        return self._with(Move("over" if over else "under", self._next(order), bight=self.bight))

    def next_tail(self, order: tuple[str, ...]) -> str | None:
        """The tail that O or U crosses next, or None at the edge. order : tails now, the end among them."""
        last = self.moves[-1] if self.moves else None
        at = order.index(self.end)
        if self.bight and last is not None and last.bight and last.kind in ("over", "under"):
            at = order.index(
                last.other
            )  # the tip stayed: the doubled end reaches on from where it has come to
        at += self.side
        while 0 <= at < len(order) and order[at] in self.more:
            at += self.side
        return order[at] if 0 <= at < len(order) else None

    def _next(self, order: tuple[str, ...]) -> str:
        found = self.next_tail(order)
        if found is None:
            side = "right" if self.side > 0 else "left"
            raise InputError(f"nothing hangs further {side}", "Turn round with R")
        return found

    def together(self, order: tuple[str, ...], stacked: bool = False) -> Draft:
        """The next tail moves along with it, as one. order : tails when the end was taken in hand. stacked : it lies under it."""
        if self.begun:
            raise InputError("ends move as one from the beginning of a step", "Rest this step first")
        return replace(self, more=(*self.more, self._next(order)), stacked=stacked)

    def past(self, over: bool, owner: str, count: int) -> Draft:
        """Over or under a strand beside the end, and to stay there. owner : whose strand, "" its own."""
        return self._with(Move("past over" if over else "past under", owner, count=count))

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

    def back_along(self, owner: str, most: int = 0) -> Draft:
        """Back up along another end's path, on the side the end is going. most : crossings, 0 to its top."""
        return self._with(Move("back right" if self.side > 0 else "back left", owner, count=most))

    def down_itself(self) -> Draft:
        """From the top of what it followed on down beside its own path, on the side the end is going."""
        return self._with(Move("back right" if self.side > 0 else "back left", ""))

    def again(self) -> Draft:
        """Once more through the loop, or round the tail, of the last hop."""
        last = self.moves[-1] if self.moves else None
        if last is None or last.bight or last.kind not in ("up", "down", "round", "round behind"):
            raise InputError("there is no loop to go through once more", "Pass a loop with I or K first")
        turns = min(last.turns + 1, MOST_TURNS)
        return replace(self, moves=(*self.moves[:-1], replace(last, turns=turns)))

    def call_loop(self, name: str) -> Draft:
        """Name the loop that the last hop made."""
        last = self.moves[-1] if self.moves else None
        if last is None or last.kind not in NAMED:
            raise InputError("the last hop made no loop that could be named", "Cross something first")
        return replace(self, moves=(*self.moves[:-1], replace(last, name=name)))

    def to_place(self, place: int) -> Draft:
        """To rest at a place, 1 from the left."""
        if not 1 <= place <= len(self.before):
            raise InputError(f"there is no place {place}", f"1 to {len(self.before)}, from the left")
        return self._with(Move("to place", "", count=place))

    def leave(self, mm: float) -> Draft:
        """Slack of so many mm in the turn just made."""
        if not self.moves:
            raise InputError("there is no turn to leave slack in yet", "Cross something first")
        return self._with(Move("leave", "", mm=mm))

    def passing(self, what: str) -> Draft:
        """Through a ring, a buckle or a bar, from the front."""
        return self._with(Move("pass", what))

    def twist(self) -> Draft:
        """The other face up."""
        return self._with(Move("twist", ""))

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
            return replace(self, more=self.more[:-1]) if self.more else None
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
                # One hop of what goes on in the same way. A named loop begins another.
                same = (
                    isinstance(last, Cross) and (last.over, last.bight) == (over, move.bight) and side == went
                )
                if same and isinstance(last, Cross) and not move.name:
                    hops[-1] = replace(last, refs=(*last.refs, place[move.other]))
                else:
                    hops.append(Cross(over, (place[move.other],), move.bight, move.name))
                side = went
                continue
            side = None
            hops.append(_hop(move, went, place))
        more = tuple(place[e] for e in self.more)
        return Step(place[self.end], tuple(hops), more=more, stacked=self.stacked and bool(more))


def _hop(move: Move, went: int, place: dict[str, int]) -> Hop:
    """What is written for one move, other than a crossing of tails. went : the side the end was going."""
    owner: Ref | None = place.get(move.other, move.other or None)
    if move.kind in ("up", "down"):
        loop = move.loop or Loop(move.other or None)
        ref = place.get(loop.ref, loop.ref) if isinstance(loop.ref, str) else loop.ref
        return Through(move.kind == "up", replace(loop, ref=ref), move.bight, move.name, move.turns)
    if move.kind.startswith("round"):
        return Round((place[move.other],), move.turns, move.kind == "round", move.name)
    if move.kind in ("past over", "past under"):
        return Past(move.kind == "past over", owner, move.count)
    if move.kind.startswith("beside"):
        return Follow(place[move.other], move.kind == "beside left")
    if move.kind.startswith("back"):
        return Follow(owner, move.kind == "back left", owner is not None, move.count)
    if move.kind == "leave":
        return Leave(move.mm)
    if move.kind == "bead":
        return Thread(move.other)
    if move.kind.startswith("pass"):
        return Pass(move.other, move.kind == "pass behind")
    if move.kind == "twist":
        return Twist()
    if move.kind.startswith("to "):
        return To(move.count or move.kind.removeprefix("to "))
    return Curl(move.kind == "curl over", went < 0, move.name)


def begin(end: str, order: tuple[str, ...]) -> Draft:
    """Take an end in hand; it first goes towards the side where more hangs."""
    at = order.index(end)
    return Draft(end, order, 1 if at < len(order) / 2 else -1)
