"""The weave as an immutable value: what a script says, apart from the text that says it."""

from __future__ import annotations

from dataclasses import dataclass, replace

TENSIONS = ("tight", "snug", "easy")
LEGGED = ("thirds", "there-and-back")  # hangings where a part of a cord hangs as a leg
LEGS = "mn"  # such parts, which have no end: cord.m beside cord.a, cord.n beside cord.b
STRUNG = "s"  # cord.s: a cord that is strung between two fixed points; it is worked over and never led
SECTION_KINDS = ("start", "body", "finish")
Ref = int | str  # a place (1 from the left, at that moment) or a name


@dataclass(frozen=True, slots=True)
class Cord:
    """One piece of cord with two ends, `name.a` and `name.b`.

    joined : the cord that its other end is made one with (melted, sewn, spliced); the two hang as one folded cord. join_mm : how
    far from the fold the join lies, along that other cord's side: by so much this cord reaches beyond the fold.
    """

    name: str
    kind: str
    colour: str
    lead: tuple[str, ...] = ()
    note: str = ""
    joined: str = ""
    join_mm: float = 0.0


@dataclass(frozen=True, slots=True)
class Hang:
    """How the cords hang: on what, and the working ends from left to right."""

    ends: tuple[str, ...] = ()
    on: str = "bar"
    lead: tuple[str, ...] = ()
    note: str = ""


@dataclass(frozen=True, slots=True)
class Param:
    """A name in a knot's brackets; `rest` takes every place that is left over."""

    name: str
    rest: bool = False


@dataclass(frozen=True, slots=True)
class Bead:
    """A bead that can be threaded: diameter in mm."""

    name: str
    diameter: float
    colour: str
    lead: tuple[str, ...] = ()
    note: str = ""


@dataclass(frozen=True, slots=True)
class Loop:
    """A region of the diagram, by an address that stays true when what is above it changes.

    kind : "bend" the loop at the `bend`-th turn of `ref`'s latest step (ref None: of this very step);
        "name" the loop that was called `name` when it was made (bend: the how-manyth of that name in a unit);
        "gap" between the neighbouring tails `ref` and `other`; "beside" on the left or right of `ref`, as it hangs,
        above its `bend`-th crossing counted from its tail (0: beside the tail itself); "edge" the `bend`-th loop that stands at
        the left or right edge of the work, from above (below 0: from below).
    """

    ref: Ref | None = None
    bend: int = 1
    kind: str = "bend"
    name: str = ""
    other: Ref | None = None
    left: bool = False


@dataclass(frozen=True, slots=True)
class Cross:
    """Cross neighbouring tails in order, in front (`over`) or behind. bight : with the end doubled, the tip staying
    back. name : what the loop of the turn it begins with is called from now on."""

    over: bool
    refs: tuple[Ref, ...]
    bight: bool = False
    name: str = ""


@dataclass(frozen=True, slots=True)
class Past:
    """Over or under a strand that lies beside the end now, and no further: across end `ref` (None: itself) where it
    runs above its `count`-th crossing counted from its tail. The end stays on the far side until its next hop."""

    over: bool
    ref: Ref | None
    count: int


@dataclass(frozen=True, slots=True)
class Through:
    """Pass behind everything into a loop, out in front over its outer edge (`up`), or the same seen from behind.

    turns : how often, each turn about the edge further from the loop's bend than the one before.
    """

    up: bool
    loop: Loop
    bight: bool = False
    name: str = ""
    turns: int = 1


@dataclass(frozen=True, slots=True)
class Round:
    """`turns` full turns about tails, in front first (`over`) or behind first."""

    refs: tuple[Ref, ...]
    turns: int = 1
    over: bool = True
    name: str = ""


@dataclass(frozen=True, slots=True)
class Curl:
    """A loop of the end alone: round, and across its own standing part in front (`over`) or behind, towards `left`."""

    over: bool
    left: bool
    name: str = ""


@dataclass(frozen=True, slots=True)
class Follow:
    """Run beside another end's path, on its left or right, with the same overs and unders.

    The latest step of `ref` is made beside it. back : instead from beside its tail back up its path, for `most`
    crossings or (0) as far as it goes. ref None: on down this end's own path, to where the step began.
    """

    ref: Ref | None
    left: bool
    back: bool = False
    most: int = 0


NOMINAL_GIRTH = (
    170.0  # mm; lengths that follow the girth are drawn for it, and counted for the size that is asked for
)


def free_length(mm: float, share: tuple[int, int], girth_mm: float) -> float:
    """mm of a length that is given, or is a share of the girth and (where mm is below 0) so much less."""
    return mm + girth_mm * share[0] / share[1]


@dataclass(frozen=True, slots=True)
class Leave:
    """Slack of `mm` left standing in the last turn. share : of the girth, to which mm (0 or below) is added; (0, 1) for none."""

    mm: float
    share: tuple[int, int] = (0, 1)


@dataclass(frozen=True, slots=True)
class Thread:
    """A bead pushed up the moving end."""

    bead: str


@dataclass(frozen=True, slots=True)
class Pass:
    """Through something that is no cord, a ring, a buckle, a bar: from its front to its back, or from `behind`. The end comes
    back to where it was."""

    what: str
    behind: bool = False


@dataclass(frozen=True, slots=True)
class Twist:
    """A flat cord is turned about itself: its other face lies up from here."""


@dataclass(frozen=True, slots=True)
class To:
    """Where the tail rests: "left", "right", or a place (as it is once the end rests); below 0 counted from the right, as in
    the mirror image of a knot."""

    where: Ref


Hop = Cross | Past | Through | Round | Curl | Follow | Leave | Thread | Pass | Twist | To


@dataclass(frozen=True, slots=True)
class Step:
    """The hops one end makes before it rests. more : ends that move with it, side by side, as one. stacked : they lie on each
    other, the first named on top."""

    end: Ref
    hops: tuple[Hop, ...]
    tension: str = ""
    note: str = ""
    lead: tuple[str, ...] = ()
    more: tuple[Ref, ...] = ()
    stacked: bool = False


@dataclass(frozen=True, slots=True)
class Call:
    """A knot tied over places, `repeat` times: one group of references for each bar-separated slot.

    each : the slot whose ends are taken one after the other, the knot tied with each; -1 for none. as_one : slots whose ends
    move side by side as one (1+2). under : of a finish, how many loops at the back the ends are tucked under; 0 as usual.
    """

    knot: str
    groups: tuple[tuple[Ref, ...], ...]
    lead: tuple[str, ...] = ()
    note: str = ""
    repeat: int = 1
    each: int = -1
    as_one: tuple[int, ...] = ()
    under: int = 0

    def reversed(self) -> Call:
        """With its slots from right to left, as in a mirror; what stands in a slot stays in its order."""
        last = len(self.groups) - 1
        each = last - self.each if self.each >= 0 else -1
        return replace(
            self, groups=self.groups[::-1], each=each, as_one=tuple(sorted(last - k for k in self.as_one))
        )


@dataclass(frozen=True, slots=True)
class Turn:
    """The work is turned over: left becomes right, the back becomes the front."""

    note: str = ""
    lead: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Rotate:
    """The work is turned end for end ("half") or by a quarter ("left", "right": that side comes to hang down).

    refs : the tails worked from now on, left to right; none with "half" means the other ends of all cords that hang.
    """

    how: str = "half"
    refs: tuple[Ref, ...] = ()
    note: str = ""
    lead: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Span:
    """Free cord of `mm` on these tails (none: all of them) before the next knot. share : as of Leave. most : mm up to which it stretches
    where the size asks for it, all that stretch in the same measure; 0 where it does not."""

    mm: float
    refs: tuple[Ref, ...] = ()
    note: str = ""
    lead: tuple[str, ...] = ()
    share: tuple[int, int] = (0, 1)
    most: float = 0.0


@dataclass(frozen=True, slots=True)
class Add:
    """New ends. One end is laid in at place `at`; the two ends of a cord hang from its fold, which lies at place
    `at`, or in front of (over) or behind the tails `refs` so that one end hangs on either side of them."""

    ends: tuple[str, ...]
    at: int = 0
    over: bool = False
    refs: tuple[Ref, ...] = ()
    note: str = ""
    lead: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Drop:
    """These tails are worked no more."""

    refs: tuple[Ref, ...]
    note: str = ""
    lead: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Former:
    """Work on a round former: strands run from edge to edge and back.

    code : over/under by turns, how many crossings each, along every row of the work or down its columns.
    """

    leads: int
    bights: int
    code: tuple[int, ...] = (1, 1)
    under_first: bool = False
    columns: bool = False


@dataclass(frozen=True, slots=True)
class Widen:
    """What is done to work on a former once it is laid: "follow" its whole path once more, on its left or right;
    "raise" it by the strand's own path through; "split" the pairs that following made. leads : raised until there are so many;
    0 for `times`."""

    how: str
    left: bool = True
    times: int = 1
    note: str = ""
    lead: tuple[str, ...] = ()
    leads: int = 0


@dataclass(frozen=True, slots=True)
class Knot:
    """A named list of steps and other knots over places, or a knot seen in a mirror, from behind, or turned over."""

    name: str
    params: tuple[Param, ...] = ()
    steps: tuple[Step | Call, ...] = ()
    derive: str = ""  # "", "mirror", "flip" or "turn"
    source: str = ""
    lead: tuple[str, ...] = ()
    note: str = ""


Item = Call | Step | Turn | Rotate | Span | Add | Drop | Widen


@dataclass(frozen=True, slots=True)
class Count:
    """How often a section is worked.

    kind : "repeat" (exactly `number` times), "fit" (scales with the size, in multiples of `number` and `plus` more, `least` times at
        the least and `most` at the most, 0 where nothing is said),
        "same" (as often as the section `other`), or "long" (as many whole units as come nearest to `mm`; where `other` is
        named, to `share` of its length less `mm`).
    """

    kind: str = "repeat"
    number: int = 1
    other: str = ""
    mm: float = 0.0
    share: tuple[int, int] = (1, 1)
    plus: int = 0
    least: int = 0
    most: int = 0

    @property
    def steps(self) -> tuple[int, int]:
        """Of work that fits: of how many times `number` it is made at the least and, below 0 for no end, at the most."""
        low = max(0 if self.plus else 1, -((self.plus - self.least) // self.number))
        return low, (self.most - self.plus) // self.number if self.most else -1


@dataclass(frozen=True, slots=True)
class Section:
    """Knots and steps with a count.

    over : the finished section this is a layer over. on : the finished section it is stitched on.
    former : set for work on a round former. alternate : every other unit is seen in a "mirror", as a "flip" or end for "end".
    every : of stitching, how many units of what it lies on one unit of it takes. spiral : the section is meant to turn.
    """

    name: str
    kind: str
    count: Count = Count()
    items: tuple[Item, ...] = ()
    lead: tuple[str, ...] = ()
    note: str = ""
    over: str = ""
    on: str = ""
    former: Former | None = None
    alternate: str = ""
    every: int = 1
    spiral: bool = False


@dataclass(frozen=True, slots=True)
class Weave:
    """Cords, how they hang, knots and sections: everything a script holds."""

    name: str
    cords: tuple[Cord, ...] = ()
    hang: Hang = Hang()
    knots: tuple[Knot, ...] = ()
    sections: tuple[Section, ...] = ()
    lead: tuple[str, ...] = ()
    tail: tuple[str, ...] = ()
    beads: tuple[Bead, ...] = ()

    def bead(self, name: str) -> Bead | None:
        return next((b for b in self.beads if b.name == name), None)

    def cord_of(self, end: str) -> Cord | None:
        """The cord an end such as `tide.a` belongs to."""
        name = end.split(".", 1)[0]
        return next((c for c in self.cords if c.name == name), None)

    def knot(self, name: str) -> Knot | None:
        return next((k for k in self.knots if k.name == name), None)

    def section(self, name: str) -> Section | None:
        return next((s for s in self.sections if s.name == name), None)
