"""What one stretch of work is of another: the same, its mirror, seen from behind or turned over, and who does in it what whom did.

Two stretches are compared as their maker sees them: which side an end goes to, over or under what, through whose loop. Of ends
that are crossed side by side only the set counts, for they are met in the order in which they hang.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dim_ladder.notation import (
    Add,
    Cross,
    Curl,
    Drop,
    Follow,
    Leave,
    Pass,
    Past,
    Rotate,
    Round,
    Span,
    Thread,
    Through,
    To,
)
from dim_ladder.trace.value import HopRecord, StepRecord, Trace

WAYS = ("", "mirror", "flip", "turn")


@dataclass(frozen=True, slots=True)
class Again:
    """how : "", "mirror", "flip" or "turn". parts : an end of the first stretch -> who does the same in the other."""

    how: str
    parts: tuple[tuple[int, int], ...]


class _Differs(Exception):
    pass


class _Reader:
    """Holds two stretches beside each other."""

    def __init__(self, trace: Trace, how: str) -> None:
        self.t = trace
        self.mirrored, self.flipped = how in ("mirror", "turn"), how in ("flip", "turn")
        self.asked: dict[tuple[frozenset[int], frozenset[int]], None] = {}

    def same(self, a: object, b: object) -> None:
        if a != b:
            raise _Differs

    def end(self, a: int, b: int) -> None:
        self.ends((a,), (b,))

    def ends(self, a: Sequence[int], b: Sequence[int]) -> None:
        """Ends that are met side by side, beside those that are met in the other stretch."""
        mine, its = (
            frozenset(map(self.t.first_of, a)),
            frozenset(map(self.t.first_of, b)),
        )
        self.same((len(a), len(mine)), (len(b), len(its)))
        self.asked[mine, its] = None

    def parts(self) -> dict[int, int]:
        """Who does what whom did: whoever is met wherever the other was, and nowhere else. Of several that are always met side by
        side, each stays what it was where it can."""
        of: dict[tuple[int, ...], tuple[list[int], list[int]]] = {}
        for k, all_of in enumerate(zip(*self.asked, strict=True) if self.asked else ()):
            every = sorted(frozenset().union(*all_of))
            for e in every:
                of.setdefault(tuple(n for n, some in enumerate(all_of) if e in some), ([], []))[k].append(e)
        out: dict[int, int] = {}
        for mine, its in of.values():
            self.same(len(mine), len(its))
            stay = [e for e in mine if e in its]
            out |= {e: e for e in stay}
            rest = [e for e in mine if e not in stay]
            out |= dict(zip(rest, [e for e in its if e not in stay], strict=True))
        return dict(sorted(out.items()))

    def side(self, a: bool, b: bool) -> None:
        self.same(a != self.mirrored, b)

    def front(self, a: bool, b: bool) -> None:
        self.same(a != self.flipped, b)

    def step(self, i: int, j: int) -> None:
        r, s = self.t.steps[i], self.t.steps[j]
        self.same(r.finish, s.finish)
        self.same(type(r.deed), type(s.deed))
        self.same(len(r.hops), len(s.hops))
        if r.deed is not None:
            self._deed(r, s)
            return
        if r.finish:
            self.same(getattr(r.op.value, "under", 0), getattr(s.op.value, "under", 0))
            self.ends(r.ends, s.ends)
            return
        self.end(r.end, s.end)
        self.ends(r.ends, s.ends)
        if (r.step is None) != (s.step is None):
            raise _Differs
        if r.step is not None and s.step is not None:
            self.same((r.step.tension, r.step.stacked), (s.step.tension, s.step.stacked))
        for h, g in zip(r.hops, s.hops, strict=True):
            self._hop(h, g, r, s)

    def _deed(self, r: StepRecord, s: StepRecord) -> None:
        a, b = r.deed, s.deed
        if isinstance(a, Span) and isinstance(b, Span):
            self.same((a.mm, a.most, a.share, bool(a.refs)), (b.mm, b.most, b.share, bool(b.refs)))
        if isinstance(a, Drop):
            self.same(r.waits, s.waits)
            self.ends(r.ends, s.ends)
        if isinstance(a, Add) and isinstance(b, Add):
            self.same((a.at, a.over, len(a.refs)), (b.at, b.over, len(b.refs)))
            self.ends(r.ends, s.ends)
        if isinstance(a, Rotate) and isinstance(b, Rotate):
            self.same((a.how, len(r.order)), (b.how, len(s.order)))
            for x, y in zip(r.order_shown, s.order_shown, strict=True):
                self.end(x, y)

    def _hop(self, h: HopRecord, g: HopRecord, r: StepRecord, s: StepRecord) -> None:
        a, b = h.hop, g.hop
        self.same(type(a), type(b))
        if isinstance(a, Cross) and isinstance(b, Cross):
            self.same((a.bight, a.name), (b.bight, b.name))
            self.front(a.over != r.turned, b.over != s.turned)
            self.side((h.side > 0) != r.turned, (g.side > 0) != s.turned)
            self.ends(h.ends, g.ends)
        elif isinstance(a, Through) and isinstance(b, Through):
            self._through(h, g, r, s)
        elif isinstance(a, Past) and isinstance(b, Past):
            self.front(a.over != r.turned, b.over != s.turned)
            self.same(a.count, b.count)
            self.ends(h.ends, g.ends)
        elif isinstance(a, Round) and isinstance(b, Round):
            self.same((a.turns, a.name), (b.turns, b.name))
            self.front(a.over != r.turned, b.over != s.turned)
            self.ends(h.ends, g.ends)
        elif isinstance(a, Curl) and isinstance(b, Curl):
            self.same(a.name, b.name)
            self.front(a.over != r.turned, b.over != s.turned)
            self.side((h.side > 0) != r.turned, (g.side > 0) != s.turned)
        elif isinstance(a, Follow) and isinstance(b, Follow):
            self.same((a.back, a.most, a.ref is None), (b.back, b.most, b.ref is None))
            self.side(a.left != r.turned, b.left != s.turned)
            self.ends(h.ends, g.ends)
        elif isinstance(a, Leave | Thread):
            self.same(a, b)
        elif isinstance(a, Pass) and isinstance(b, Pass):
            self.same(a.what, b.what)
            self.front(a.behind != r.turned, b.behind != s.turned)
        elif isinstance(a, To):
            n, m = len(r.order), len(s.order)
            self.same(n, m)
            one = n - 1 - h.place if r.turned else h.place
            other = m - 1 - g.place if s.turned else g.place
            self.same(n - 1 - one if self.mirrored else one, other)

    def _through(self, h: HopRecord, g: HopRecord, r: StepRecord, s: StepRecord) -> None:
        a, b = h.hop, g.hop
        assert isinstance(a, Through)
        assert isinstance(b, Through)
        self.same((a.bight, a.name, a.turns), (b.bight, b.name, b.turns))
        self.front(a.up != r.turned, b.up != s.turned)
        x, y = a.loop, b.loop
        self.same((x.kind, x.name, x.bend), (y.kind, y.name, y.bend))
        if x.kind in ("edge", "beside"):
            self.side(x.left != r.turned, y.left != s.turned)
        if x.kind != "edge":
            self.ends(h.ends, g.ends)


def again(
    trace: Trace, first: Sequence[int], then: Sequence[int], ways: Sequence[str] = WAYS
) -> Again | None:
    """How steps `then` are steps `first` again; None where they are not."""
    if len(first) != len(then):
        return None
    for how in ways:
        reader = _Reader(trace, how)
        try:
            for i, j in zip(first, then, strict=True):
                reader.step(i, j)
            return Again(how, tuple(reader.parts().items()))
        except _Differs:
            continue
    return None
