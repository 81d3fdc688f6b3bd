"""Ends that do each other's work: where they come to hang after as many units as a size takes.

A section is traced, pulled tight and counted by itself, below the fewest units of those above it. Units of a plait leave ends in each other's places:
after more of them other ends hang where the knot comes that is tied next, and it is they that it takes cord of. Which end does whose work is read off the steps:
the same ones are carried out, by other ends.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator, Mapping
from dataclasses import replace

from dim_ladder.notation import Weave, working_ends
from dim_ladder.trace.after import as_few
from dim_ladder.trace.roles import roles
from dim_ladder.trace.tracer import trace
from dim_ladder.trace.value import StepRecord, Trace

Exchange = dict[str, dict[str, str]]


def exchanged(weave: Weave, counts: Mapping[str, float]) -> Exchange:
    """By section, which end does the work there that another does where that section is traced by itself, by the name of the other; only of sections
    in which that is not the same one. counts : units of every section; what is not named is worked as often as it is where it is traced."""
    if any(known is weave for known in tuple(_in_place)):
        return {}
    key = {n: round(c) for n, c in counts.items() if weave.section(n) is not None}
    for known, of, found in tuple(_latest):
        if known is weave and of == key:
            return found
    works = {w.name: w for w in roles(weave).sections}
    turns = [s.name in works and works[s.name].cycle > 1 for s in weave.sections]
    if not any(turns[:-1]):
        _in_place.append(weave)
        return {}
    few = as_few(weave, key)
    found = {}
    for i, s in enumerate(weave.sections):
        # Nothing is traced again that would only come to what it was.
        if any(turns[:i]) and s.former is None and few.get(s.name, 1) > 0:
            same = _same_work(weave, i, few)
            if any(a != b for a, b in same.items()):
                found[s.name] = same
    _latest.append((weave, key, found))
    return found


# A page asks for many sizes, and for every end in each.
_latest: deque[tuple[Weave, dict[str, int], Exchange]] = deque(maxlen=64)
_in_place: deque[Weave] = deque(maxlen=4)  # whose units leave every end where it was


def _same_work(weave: Weave, index: int, few: Mapping[str, int]) -> dict[str, str]:
    """By end, which one does its work in a section; empty where that cannot be told."""
    name = weave.sections[index].name
    alone = trace(weave, section=name, units=1)
    upto = replace(weave, sections=weave.sections[: index + 1])
    there = trace(upto, counts={**few, name: 1})
    if alone.problems or there.problems:
        return {}
    mine = [s for s in there.steps if s.op.section == index]
    if len(mine) != len(alone.steps):
        return {}
    out: dict[str, str] = {}
    for a, b in zip(alone.steps, mine, strict=True):
        for one, other in zip(_who(alone, a), _who(there, b), strict=False):
            if out.setdefault(one, other) != other:
                return {}  # by name here, by place there: it is other work
    if len(set(out.values())) < len(out):
        return {}
    # Of the rest each hangs where another would, and what hangs there no more is laid aside as another would be.
    hang = there.shown(mine[0].before, mine[0].turned) if mine else ()
    every = dict.fromkeys((*alone.ends, *hang, *working_ends(weave)))
    for one, other in (*zip(alone.ends, hang, strict=False), *((e, e) for e in every)):
        if one not in out and other not in out.values():
            out[one] = other
    left = [e for e in every if e not in out]
    return out | dict(zip(left, [e for e in every if e not in out.values()], strict=True))


def _who(t: Trace, s: StepRecord) -> Iterator[str]:
    """Ends in a step, as it is carried out: those that are led, and those that meet."""
    yield from (t.ends[e] for e in s.ends)
    for c in t.crossings[s.start : s.stop]:
        yield t.ends[c.lane_end]
        yield t.ends[c.row_end]
