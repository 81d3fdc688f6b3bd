"""Steps and items seen in a mirror or from behind."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from dim_ladder.notation.values import (
    Add,
    Call,
    Cross,
    Curl,
    Drop,
    Follow,
    Hop,
    Item,
    Pass,
    Past,
    Ref,
    Rotate,
    Round,
    Span,
    Step,
    Through,
    To,
)

OTHER = {"left": "right", "right": "left"}


def flipped(step: Step) -> Step:
    """The same step with front and back exchanged."""
    hops: list[Hop] = []
    for hop in step.hops:
        if isinstance(hop, Cross | Past | Round | Curl):
            hops.append(replace(hop, over=not hop.over))
        elif isinstance(hop, Through):
            hops.append(replace(hop, up=not hop.up))
        elif isinstance(hop, Pass):
            hops.append(replace(hop, behind=not hop.behind))
        else:
            hops.append(hop)
    return replace(step, hops=tuple(hops))


def mirrored(step: Step) -> Step:
    """The same step with left and right exchanged, where it speaks of them; names of ends stay."""
    hops: list[Hop] = []
    for hop in step.hops:
        if isinstance(hop, Curl | Follow):
            hops.append(replace(hop, left=not hop.left))
        elif isinstance(hop, To):
            hops.append(To(OTHER.get(hop.where, hop.where) if isinstance(hop.where, str) else hop.where))
        elif isinstance(hop, Through) and hop.loop.kind in ("beside", "edge"):
            hops.append(replace(hop, loop=replace(hop.loop, left=not hop.loop.left)))
        else:
            hops.append(hop)
    return replace(step, hops=tuple(hops))


def end_for_end(step: Step) -> Step:
    """The same step on a motif turned end for end in its plane: loops at the edges counted from below, on the other side."""
    hops = tuple(
        replace(h, loop=replace(h.loop, bend=-h.loop.bend, left=not h.loop.left))
        if isinstance(h, Through) and h.loop.kind == "edge"
        else h
        for h in step.hops
    )
    return replace(step, hops=hops)


def with_refs(item: Item, change: Callable[[Ref], Ref]) -> Item:
    """An item with every place and end it speaks of exchanged for another."""

    def many(refs: tuple[Ref, ...]) -> tuple[Ref, ...]:
        return tuple(change(r) for r in refs)

    if isinstance(item, Step):
        return replace(
            item, end=change(item.end), more=many(item.more), hops=tuple(_hop(h, change) for h in item.hops)
        )
    if isinstance(item, Call):
        return replace(item, groups=tuple(many(g) for g in item.groups))
    if isinstance(item, Rotate | Span | Drop):
        return replace(item, refs=many(item.refs))
    if isinstance(item, Add):
        at = change(item.at) if item.at else 0
        assert isinstance(at, int)
        return replace(item, refs=many(item.refs), at=at)
    return item


def _hop(hop: Hop, change: Callable[[Ref], Ref]) -> Hop:
    if isinstance(hop, Cross | Round):
        return replace(hop, refs=tuple(change(r) for r in hop.refs))
    if isinstance(hop, Through):
        loop = hop.loop
        ref = None if loop.ref is None else change(loop.ref)
        other = None if loop.other is None else change(loop.other)
        return replace(hop, loop=replace(loop, ref=ref, other=other))
    if isinstance(hop, Follow | Past) and hop.ref is not None:
        return replace(hop, ref=change(hop.ref))
    if isinstance(hop, To) and isinstance(hop.where, int):
        return To(change(hop.where))
    return hop


def mirrored_item(item: Item, count: int) -> Item:
    """An item of a section seen in a mirror: places counted from the other side of `count` tails, names kept.

    Raises ValueError for a place that is not there. A call keeps its knot: the caller finds the mirror image.
    """

    def across(r: Ref) -> Ref:
        if isinstance(r, int) and r > count:
            raise ValueError(f"there is no place {r}: {count} tails hang")
        return count + 1 - r if isinstance(r, int) else r

    if isinstance(item, Add):
        at = (count + 2 - item.at) if item.at else 0
        return replace(item, at=max(at, 0), refs=tuple(across(r) for r in item.refs), ends=item.ends[::-1])
    out = with_refs(item, across)
    if isinstance(out, Step):
        return mirrored(out)
    if isinstance(out, Rotate) and out.how in OTHER:
        return replace(out, how=OTHER[out.how])
    return out
