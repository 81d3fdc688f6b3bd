"""What steps do, by places and sides instead of ends: the same for the same work, comparable with its mirror and its flip."""

from __future__ import annotations

from dim_ladder.notation import Cross, Round, Through
from dim_ladder.trace.value import Trace

Signature = tuple[tuple[object, ...], ...]


def runs(trace: Trace) -> list[tuple[int, int]]:
    """Steps that belong to one knot; bare steps one by one."""
    out: list[tuple[int, int]] = []
    for i, r in enumerate(trace.steps):
        if r.quiet:
            continue
        before = trace.steps[i - 1] if i else None
        same = before is not None and before.op is r.op and r.knot_step > before.knot_step >= 0
        if same and out and out[-1][1] == i:
            out[-1] = (out[-1][0], i + 1)
        else:
            out.append((i, i + 1))
    return out


def signature(trace: Trace, first: int, stop: int) -> Signature:
    """What steps do, by places and sides, not by ends: (tails, places, hops...) per step; () where it cannot be told."""
    out: list[tuple[object, ...]] = []
    for i in range(first, stop):
        r = trace.steps[i]
        order = trace.order_before(i)
        if not r.hops or r.turned:
            return ()
        hops: list[object] = []
        for h in r.hops:
            hop = h.hop
            if isinstance(hop, Cross):
                hops.append(("x", hop.over, hop.bight, h.side, tuple(order.index(e) for e in h.ends)))
            elif isinstance(hop, Through) and hop.loop.kind == "bend":
                at = order.index(h.ends[0]) if h.ends[0] in order else -1
                hops.append(("t", hop.up, hop.bight, at, hop.loop.bend, hop.turns))
            elif isinstance(hop, Round):
                hops.append(("r", hop.over, hop.turns, 0, tuple(order.index(e) for e in h.ends)))
            else:
                return ()
        if any(e not in order for e in r.ends):
            return ()
        out.append(
            (len(order), tuple(order.index(e) for e in r.ends), r.step.tension if r.step else "", *hops)
        )
    return tuple(out)


def mirror_of(sign: Signature) -> Signature:
    out = []
    for count, places, tension, *hops in sign:
        assert isinstance(count, int)

        def other(p: object, n: int = count) -> object:
            if isinstance(p, tuple):
                return tuple(other(x, n) for x in p)
            return n - 1 - p if isinstance(p, int) and p >= 0 else p

        new: list[object] = []
        for h in hops:
            assert isinstance(h, tuple)
            if h[0] == "x":
                new.append((h[0], h[1], h[2], -h[3], other(h[4])))
            elif h[0] == "t":
                new.append((h[0], h[1], h[2], other(h[3]), *h[4:]))
            else:
                new.append((*h[:4], other(h[4])))
        out.append((count, other(places), tension, *new))
    return tuple(out)


def flip_of(sign: Signature) -> Signature:
    return tuple(
        (count, places, tension, *((h[0], not h[1], *h[2:]) for h in hops if isinstance(h, tuple)))
        for count, places, tension, *hops in sign
    )
