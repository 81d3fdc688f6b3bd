"""Which ends and places an item speaks of."""

from __future__ import annotations

from collections import deque

from dim_ladder.notation.values import (
    LEGS,
    STRUNG,
    Add,
    Call,
    Cross,
    Drop,
    Follow,
    Item,
    Past,
    Ref,
    Rotate,
    Round,
    Span,
    Step,
    Through,
    Weave,
)


def is_leg(end: str) -> bool:
    """Whether it is a part of a cord that hangs with it and ends in a fold, a loop or a join: cord.m or cord.n."""
    return end[-2:-1] == "." and end[-1] in LEGS


def is_strung(end: str) -> bool:
    """Whether it is a cord strung between two fixed points, cord.s."""
    return end.endswith(f".{STRUNG}")


def step_refs(step: Step) -> list[Ref]:
    """Every end or place a step speaks of, the moving ones first."""
    refs: list[Ref] = [step.end, *step.more]
    for hop in step.hops:
        if isinstance(hop, Cross | Round):
            refs.extend(hop.refs)
        elif isinstance(hop, Through):
            refs.extend(r for r in (hop.loop.ref, hop.loop.other) if r is not None)
        elif isinstance(hop, Follow | Past) and hop.ref is not None:
            refs.append(hop.ref)
    return refs


def item_refs(item: Item) -> list[Ref]:
    """Every end or place an item speaks of."""
    if isinstance(item, Step):
        return step_refs(item)
    if isinstance(item, Call):
        return [r for g in item.groups for r in g]
    if isinstance(item, Rotate | Span | Drop | Add):
        return list(item.refs)
    return []


def working_ends(weave: Weave) -> tuple[str, ...]:
    """Every end that is ever worked: those that hang at first, then those laid in, then the other ends of cords that
    hang when the work is turned end for end. Their position gives an end its letter."""
    for known, found in tuple(_latest):  # asked again and again for the same few weaves
        if known is weave:
            return found
    found = _working_ends(weave)
    _latest.append((weave, found))
    return found


_latest: deque[tuple[Weave, tuple[str, ...]]] = deque(maxlen=4)


def _working_ends(weave: Weave) -> tuple[str, ...]:
    out = dict.fromkeys(weave.hang.ends)
    for section in weave.sections:
        for item in section.items:
            if isinstance(item, Add):
                out.update(dict.fromkeys(item.ends))
            elif isinstance(item, Rotate) and item.how == "half" and not item.refs:
                cords = [e.rpartition(".")[0] for e in out if not is_strung(e)]
                out.update(dict.fromkeys(f"{c}.{x}" for c in cords for x in "ab"))
            elif isinstance(item, Rotate):
                out.update(dict.fromkeys(r for r in item.refs if isinstance(r, str)))
    return tuple(out)
