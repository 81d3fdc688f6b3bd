"""The hops of one step, one after the other: what each asks of the pen, and how loops are found by their address."""

from __future__ import annotations

from collections.abc import Callable

from dim_ladder.base.budget import spend
from dim_ladder.library import PASS_MM
from dim_ladder.notation import (
    NOMINAL_GIRTH,
    Cross,
    Curl,
    Follow,
    Hop,
    Leave,
    Loop,
    Pass,
    Past,
    Ref,
    Round,
    Thread,
    Through,
    To,
    free_length,
)
from dim_ladder.trace.drawing import Named, StepError
from dim_ladder.trace.expand import AsOne, Op
from dim_ladder.trace.parallel import double_back, follow_back, follow_own, move_along
from dim_ladder.trace.pen import Pen
from dim_ladder.trace.regions import at_edge, beside
from dim_ladder.trace.underway import Underway
from dim_ladder.trace.value import Bend, HopRecord, Placed


def _goes_on(hop: Hop) -> bool:
    """Whether a hop starts where an end came out of the last one, without falling first."""
    if isinstance(hop, Through):
        return not hop.bight and hop.loop.kind != "gap"
    return isinstance(hop, Past | To | Leave)


LEAST_FREE = 0.1  # mm: what a share of the girth leaves at least, where it is drawn
HOP = 40  # units of work, with a little for every crossing


class Hops:
    """The hops of one step, one after the other."""

    __slots__ = ("at_top", "b", "begun", "group", "names", "op", "own", "path_start", "pen", "placed")

    def __init__(
        self, b: Underway, op: Op, pen: Pen, group: Callable[[Ref], tuple[int, ...]], path_start: int,
        own: frozenset[int],
    ) -> None:  # fmt: skip
        self.b, self.op, self.pen, self.group, self.path_start = b, op, pen, group, path_start
        self.own = own  # the ends of the knot that is tied; of a bare step all there are
        self.placed: list[Placed] = []
        self.names: list[tuple[str, Bend]] = []
        self.at_top = False
        self.begun = 0  # crossings before the pass in hand

    def all(self, hops: tuple[Hop, ...]) -> list[HopRecord]:
        out = []
        crossings = self.b.d.crossings
        for i, hop in enumerate(hops):
            if self.at_top and not (isinstance(hop, Follow) and hop.ref is None):
                raise StepError(
                    "the end is at the top of what it followed",
                    "Go on with: follow own left, or say how far: back 6",
                )
            start = len(crossings)
            if self.pen.open and not _goes_on(hop):
                self.pen.settle()
            if isinstance(hop, Cross):
                ends, side, edge = self._cross(hop)
            else:
                ends, side, edge = self._one(hop, hops[i + 1] if i + 1 < len(hops) else None)
            spend(HOP + 4 * (len(crossings) - start))
            place = self._place(hop) if isinstance(hop, To) else -1
            out.append(HopRecord(hop, ends, start, len(crossings), side, edge, len(self.pen.bends), place))
        if self.at_top:
            raise StepError(
                "the end is at the top of what it followed", "Go on with: follow own left, or say: back 6"
            )
        return out

    def _one(self, hop: Hop, nxt: Hop | None) -> tuple[tuple[int, ...], int, int]:
        pen = self.pen
        if isinstance(hop, Through):
            return self._through(hop, nxt)
        if isinstance(hop, Past):
            return self._past(hop)
        if isinstance(hop, Round):
            tails = tuple(e for r in hop.refs for e in self.group(r))
            turned = len(pen.bends)
            for _ in range(hop.turns):
                pen.cross(tails, hop.over)
                pen.cross(tails[::-1], not hop.over)
            self._name(hop.name, turned)
            return tails, 0, -1
        if isinstance(hop, Curl):
            turned = len(pen.bends)
            n = pen.curl(hop.over, hop.left)
            self._name(hop.name, turned)
            return (pen.end,), -1 if hop.left else 1, n
        if isinstance(hop, Follow):
            return self._follow(hop)
        if isinstance(hop, To):
            self._to(hop)
            return (), 0, -1
        self._mark(hop)
        return (), 0, -1

    def _name(self, name: str, turned: int) -> None:
        """Name the first turn made since; where no turn was made, the latest."""
        bends = self.pen.bends
        if name and bends:
            self.names.append((name, bends[min(turned, len(bends) - 1)]))

    def _cross(self, hop: Cross) -> tuple[tuple[int, ...], int, int]:
        pen, d = self.pen, self.b.d
        turned = len(pen.bends)
        if len(hop.refs) == 1 and not hop.bight and not hop.name:
            return tuple(pen.cross(self.group(hop.refs[0]), hop.over)), pen.side, -1
        crossed: list[int] = []
        if hop.bight:
            if pen.row >= 0:
                pen.land()
            leg, order = len(d.paths[pen.end]), list(d.order)
            for ref in hop.refs:
                crossed += pen.cross(self.group(ref), hop.over)
            side = pen.side
            pen.land()
            tip, row = d.paths[pen.end][-1], d.paths[pen.end][-2]
            d.bottom[tip] = row
            d.order = order
            self._bight(leg, hop.name)
            return tuple(crossed), side, -1
        for ref in hop.refs:
            crossed += pen.cross(self.group(ref), hop.over)
        self._name(hop.name, turned)
        return tuple(crossed), pen.side, -1

    def _bight(self, leg: int, name: str) -> None:
        bend = double_back(self.pen, leg)
        if name:
            self.names.append((name, bend))

    def _through(self, hop: Through, nxt: Hop | None) -> tuple[tuple[int, ...], int, int]:
        pen, d = self.pen, self.b.d
        if hop.loop.kind == "gap":
            return self._gap(hop)
        if pen.with_it and hop.bight:
            raise StepError(
                "several ends at once pass a loop tips first, not doubled", "Move them one after the other"
            )
        owner, bend = self._loop(hop.loop)
        turned = len(pen.bends)
        if hop.bight:
            if pen.row >= 0:
                pen.land()
            leg = len(d.paths[pen.end])
            edge = pen.into(bend, hop.up, doubled=True)
            self._bight(leg, hop.name)
            pen.front = hop.up
            return (owner,), 0, edge
        place = self._place(nxt) if isinstance(nxt, To) else None
        self.begun = self.b.crossings
        # Falling in front only to go on in front would be a way there and back.
        stay = (
            isinstance(nxt, Through)
            and nxt.up != hop.up
            and not nxt.bight
            and nxt.loop.kind != "gap"
            and not pen.with_it
            and hop.turns == 1
        )
        edge = pen.through(bend, hop.up, place, stay)
        for _ in range(hop.turns - 1):
            edge, bend = self._once_more(bend, edge, hop.up, place)
        self._name(hop.name, max(turned, len(pen.bends) - 1))
        return (owner,), 0, edge

    def _past(self, hop: Past) -> tuple[tuple[int, ...], int, int]:
        """Over or under a strand beside the end, and to stay there."""
        pen = self.pen
        if pen.with_it:
            raise StepError(
                "several ends at once cannot be led strand by strand", "Move them one after the other"
            )
        owner = pen.end if hop.ref is None else self._one_end(hop.ref)[0]
        if pen.row >= 0:
            pen.land()
            self.b.d.hang(pen.end)
        if owner == pen.end and not hop.count:
            raise StepError(
                f"{self.b.names[owner]} cannot cross its own tail", "Make a loop first: over own left"
            )
        name = self.b.names[owner]
        left, right = (beside(self.b.d, owner, side, hop.count, name) for side in (True, False))
        pen.past((left, right), hop.over)
        return (owner,), 0, -1

    def _once_more(self, bend: Bend, edge: int, up: bool, place: int | None) -> tuple[int, Bend]:
        """One more turn about the same edge, beyond the turns that are there."""
        d = self.b.d
        if not bend.by_row:
            key = d.rows.key
            mine = {
                d.crossings[edge].row,
                *(d.crossings[n].row for n in d.lane_crossings[bend.lane] if n >= self.begun),
            }
            bend = Bend(bend.lane, min(mine, key=key.__getitem__), bend.side)
        spend(HOP + 2 * len(d.lanes))
        return self.pen.through(bend, up, place), bend

    def _gap(self, hop: Through) -> tuple[tuple[int, ...], int, int]:
        """Behind (or in front of) the tails between here and the gap, and to rest in it."""
        pen, d = self.pen, self.b.d
        assert hop.loop.ref is not None
        assert hop.loop.other is not None
        (a,), (b,) = self.group(hop.loop.ref), self.group(hop.loop.other)
        order = [e for e in d.order if e != pen.end]
        for e in (a, b):
            if e not in order:
                raise StepError(f"{self.b.names[e]} does not hang here beside a gap")
        i, j = sorted((order.index(a), order.index(b)))
        if i == j:
            raise StepError("a gap lies between two tails", "Write it as: up gap 2 3")
        if j != i + 1:
            between = self.b.names[order[i + 1]]
            raise StepError(
                f"there is no gap between {self.b.names[a]} and {self.b.names[b]}: {between} hangs there"
            )
        pen.front = not hop.up
        pen.move_to(j)
        pen.front = hop.up
        return (a, b), pen.side, -1

    def _loop(self, loop: Loop) -> tuple[int, Bend]:
        b, pen = self.b, self.pen
        d = b.d
        if loop.kind == "name":
            found = [n for n in d.named if n.name == loop.name]
            here = [n for n in found if (n.section, n.unit) == (self.op.section, self.op.unit)]
            mine = [Named(n, bend, pen.end, 0, 0) for n, bend in self.names if n == loop.name]
            pool = here + mine if loop.bend > 1 or here or mine else found
            if not pool or (loop.bend > 1 and loop.bend > len(pool)):
                raise StepError(
                    f"no loop is called @{loop.name} here"
                    if not pool
                    else f"there is no {loop.bend}. @{loop.name} here",
                    f"Name one when it is made, as in: over 2 @{loop.name}",
                )
            named = pool[loop.bend - 1] if loop.bend > 1 else pool[-1]
            return named.end, named.bend
        if loop.kind == "beside":
            assert loop.ref is not None
            (owner,) = self._one_end(loop.ref)
            if pen.row >= 0:
                pen.land()
                d.hang(pen.end)
            if owner == pen.end and loop.bend == 0:
                raise StepError(
                    f"{b.names[owner]} cannot pass its own tail", "Make a loop first: over own left"
                )
            return owner, beside(d, owner, loop.left, loop.bend, b.names[owner])
        if loop.kind == "edge":
            if pen.row >= 0:
                pen.land()
                d.hang(pen.end)
            bend = at_edge(d, loop.left, loop.bend, *self._ground())
            return d.lane_end[bend.lane], bend
        if loop.ref is None:
            owner, bends = pen.end, tuple(pen.bends)
            if not bends:
                raise StepError(
                    f"{b.names[owner]} has no loop of its own yet", "Let it cross something first"
                )
        else:
            owner = self._one_end(loop.ref)[0]
            bends = d.bends[owner]
            if not bends:
                raise StepError(
                    f"{b.names[owner]} has made no step yet, so it has no loop",
                    "Move it first, or pass another loop",
                )
        if loop.bend > len(bends):
            raise StepError(
                f"{b.names[owner]} has no {loop.bend}. turn: its latest step has {len(bends)}",
                f"Count up to {len(bends)}",
            )
        return owner, bends[loop.bend - 1]

    def _ground(self) -> tuple[int, frozenset[int]]:
        """In stitching, the first row of the work that this unit of it lies on, and whose it is: its loops are counted. Else
        -1 and none, for all there are."""
        b, here = self.b, (self.op.section, self.op.unit)
        ground = [r for r in b.steps if r.quiet and (r.op.section, r.op.unit) == here]
        first = next((r for r in ground if r.path_stop > r.path_start), None)
        if first is None:
            return -1, frozenset()
        path = b.d.paths[first.end]
        row = next(p for i, p in enumerate(path[first.path_start :], first.path_start) if i % 2)
        return row, frozenset(e for r in ground for e in r.ends)

    def _one_end(self, ref: Ref) -> tuple[int, ...]:
        found = self.group(ref)
        if isinstance(found, AsOne):
            return found[self.b.beside % len(found) :][:1]
        if len(found) != 1:
            raise StepError(f"“{ref}” stands for {len(found)} ends; a loop belongs to one")
        return found

    def _follow(self, hop: Follow) -> tuple[tuple[int, ...], int, int]:
        pen = self.pen
        if hop.ref is None:
            if not self.at_top:
                raise StepError(
                    "an end can follow its own path only from the top, behind the other end of its cord",
                    "Write it as: follow B left back, follow own right",
                )
            follow_own(pen, self.path_start, hop.left)
            self.at_top = False
            return (pen.end,), 0, -1
        (other,) = self._one_end(hop.ref)
        if other == pen.end:
            raise StepError(f"{self.b.names[other]} cannot run beside its own tail", "Use: follow own")
        if hop.back:
            self.at_top = follow_back(pen, other, hop.left, hop.most)
            return (other,), 0, -1
        self._follow_step(other, hop.left)
        return (other,), 0, -1

    def _follow_step(self, other: int, left: bool) -> None:
        """Make the latest step of another end beside it."""
        b, pen, d = self.b, self.pen, self.b.d
        me, it = b.names[pen.end], b.names[other]
        latest = next((s for s in reversed(b.steps) if s.end == other and s.path_stop > s.path_start), None)
        side = "left" if left else "right"
        if latest is None or pen.row >= 0 or len(d.paths[pen.end]) != self.path_start:
            raise StepError(
                f"{it} has made no step that {me} could make beside it", "Follow at once, as the first hop"
            )
        came = d.paths[other][latest.path_start - 1]
        turn = d.paths[other][latest.path_start]
        key = d.lanes.key
        mine = pen.from_lane
        near = [
            e
            for e in d.order
            if e != pen.end and min(key[mine], key[came]) < key[d.tail_lane(e)] < max(key[mine], key[came])
        ]
        late = [n for n in d.lane_crossings[mine] if d.rows.key[d.crossings[n].row] >= d.rows.key[turn]]
        since = d.top[mine] >= 0 and d.rows.key[d.top[mine]] >= d.rows.key[turn]
        looped = since or any(n >= latest.start for n in d.lane_crossings[came])
        if (key[mine] < key[came]) != left or near or late or looped:
            raise StepError(
                f"{me} does not hang where it could make the step of {it} on its {side}",
                f"Let it follow at once, from beside the place {it} came from; or move them as one: {it}+{me}",
            )
        move_along(d, pen.end, other, latest.path_start, not left)
        pen.from_lane, pen.row, pen.side, pen.last = d.paths[pen.end][-1], -1, 0, -1

    def _place(self, to: To) -> int:
        """Where among all tails; within a knot its own tails are what left, right and numbers count."""
        order = self.b.d.order
        rest = [e for e in order if e != self.pen.end]
        own = [i for i, e in enumerate(rest) if e in self.own] or list(range(len(rest)))
        n = len(own) + 1
        at = {"left": 0, "right": n - 1}.get(to.where) if isinstance(to.where, str) else None
        if isinstance(to.where, int):
            where = to.where if to.where > 0 else n + 1 + to.where
            if not 1 <= where <= n:
                raise StepError(f"there is no place {abs(to.where)}: {n} tails hang")
            at = n - where if self.b.turned != self.op.mirrored else where - 1
        if at is None:
            raise StepError(f"“{to.where}” is not a place to rest at", "left, right or a place number")
        if not own:
            return 0
        return own[0] if at == 0 else own[at - 1] + 1

    def _to(self, hop: To) -> None:
        pen = self.pen
        place = self._place(hop)
        if pen.open:
            pen.settle(place)
            return
        if pen.index != place:
            pen.move_to(place)

    def _mark(self, hop: Hop) -> None:
        """A bead, slack, what is passed, a face turned up: a place on the path, nothing crossed."""
        pen, d = self.pen, self.b.d
        movers = (pen.end, *pen.with_it)
        if isinstance(hop, Leave):
            if not pen.bends:
                raise StepError(
                    "there is no turn yet to leave slack in", "Write it after a hop: over 2, leave 25 mm"
                )
            bend = pen.bends[-1]
            mm = max(free_length(hop.mm, hop.share, NOMINAL_GIRTH), LEAST_FREE)
            self.placed.append(Placed("leave", "", mm, bend.row, bend.lane, movers))
            return
        if pen.row >= 0:
            pen.rest()
        lane = pen.from_lane
        row = d.rows.append()
        d.row(row, lane, lane, pen.end)
        if isinstance(hop, Pass):
            self.placed.append(Placed("pass", hop.what, PASS_MM, row, lane, movers))
        elif isinstance(hop, Thread):
            self.placed.append(Placed("bead", hop.bead, 0.0, row, lane, movers))
        else:
            self.placed.append(Placed("twist", "", 0.0, row, lane, movers))
