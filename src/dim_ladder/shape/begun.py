"""A section as far as it can be taken by itself: as what goes on where it is tied often enough, as the work lies when its first knot is tied, and as it is before cord comes in."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace

from dim_ladder.notation import Add, Call, Drop, Item, Rotate, Section, Step, Weave
from dim_ladder.shape.parted import ON_AND_ON
from dim_ladder.trace import Trace, trace
from dim_ladder.trace.alike import alike_ends
from dim_ladder.trace.expand import done_once


def as_it_lies(weave: Weave, s: Section) -> Weave:
    """The weave with a section begun as the work lies when its first knot is tied: what turns it, lays ends aside or brings one in
    before that is a section of its own, and so is what is laid aside when its last knot is. A start or a finish that is tied often enough is
    drawn up as a body is."""
    if s.kind != "body" and s.former is None and (s.count.kind == "long" or s.count.number >= ON_AND_ON):
        at = weave.sections.index(s)
        s = replace(s, kind="body")
        weave = replace(weave, sections=(*weave.sections[:at], s, *weave.sections[at + 1 :]))
    many = s.kind == "body" and (s.count.kind, s.count.number) != ("repeat", 1)
    weave, s = (weave, s) if many else _ended(weave, s)
    first = next((k for k, i in enumerate(s.items) if isinstance(i, Step | Call)), len(s.items))
    begins = max((k + 1 for k, i in enumerate(s.items[:first]) if _only_begins(i)), default=0)
    before = done_once(s) if many else range(begins)
    if not before or len(before) == len(s.items):
        return weave
    at = weave.sections.index(s)
    # Finished work that it is tied over hangs among what comes in there.
    turn = Section(f"{s.name}, begun", "start", items=s.items[: len(before)], over=s.over)
    rest = replace(s, items=s.items[len(before) :], over="")
    begun = replace(weave, sections=(*weave.sections[:at], turn, rest, *weave.sections[at + 1 :]))
    return begun if trace(begun, section=turn.name, units=1).order else weave


def _ended(weave: Weave, s: Section) -> tuple[Weave, Section]:
    """The weave, and the section, with what is laid aside after its last knot in a section of its own: that knot is tied, and drawn up, with all its ends."""
    last = max((k + 1 for k, i in enumerate(s.items) if not isinstance(i, Drop)), default=0)
    if not last or last == len(s.items):
        return weave, s
    at = weave.sections.index(s)
    tied = replace(s, items=s.items[:last])
    aside = Section(f"{s.name}, ended", s.kind, items=s.items[last:])
    return replace(weave, sections=(*weave.sections[:at], tied, aside, *weave.sections[at + 1 :])), tied


def _only_begins(item: Item) -> bool:
    """Whether something done before the first knot only says how the work lies then: turned, with ends laid aside, or with one end more, as the cord that a row is
    hitched to. What is laid in by its fold, or crosswise, hangs on the knot."""
    return isinstance(item, Rotate | Drop) or (
        isinstance(item, Add) and len(item.ends) == 1 and not item.refs
    )


def treated_alike(weave: Weave, s: Section, one: Trace, often: bool) -> tuple[tuple[int, ...], ...]:
    """Ends that a unit treats alike, or (often) every one of many. Where cord comes in or goes, those that are alike in what is tied before, and are not led again."""
    if one.settled:
        return alike_ends(one, often)
    many = next((k for k, i in enumerate(s.items) if isinstance(i, Add | Drop)), 0)
    if not many or s.kind == "body":
        return ()
    at = weave.sections.index(s)
    begun = replace(
        weave,
        sections=(*weave.sections[:at], replace(s, items=s.items[:many]), *weave.sections[at + 1 :]),
    )
    before = trace(begun, section=s.name, units=1)
    led = {one.ends[e] for step in one.steps[len(before.steps) :] if step.leads for e in step.ends if e >= 0}
    groups = (tuple(before.ends[e] for e in g) for g in alike_ends(before))
    return tuple(tuple(one.ends.index(e) for e in g) for g in groups if not led & set(g))


def by_strand(
    groups: tuple[tuple[int, ...], ...], strands: tuple[tuple[int, ...], ...]
) -> tuple[tuple[int, ...], ...]:
    """Groups of ends as groups of strands; a cord that was laid in by its fold is one strand of two ends."""
    at = {e: k for k, ends in enumerate(strands) for e in ends}
    many = Counter(e for ends in strands for e in ends)  # two, where a loop of it is held aside
    return tuple(tuple(at[e] for e in group) for group in groups if all(many[e] == 1 for e in group))


def each_half(
    same: tuple[tuple[int, ...], ...], bonds: tuple[tuple[int, int], ...]
) -> tuple[tuple[int, ...], ...]:
    """Of ends that are alike and go side by side as halves of flat cords: the outer halves are alike, and the inner ones. Halves of one
    cord are not: the outer one goes the longer way."""
    nth = dict.fromkeys((e for group in same for e in group), 0)
    for a, b in bonds:
        nth[b] = nth.get(a, 0) + 1
    out = []
    for group in same:
        halves: dict[int, list[int]] = {}
        for e in group:
            halves.setdefault(nth[e], []).append(e)
        if len({len(h) for h in halves.values()}) == 1 and len(halves) > 1:
            out += [tuple(h) for h in halves.values() if len(h) > 1]
    return tuple(out)


def as_one_cord(
    same: tuple[tuple[int, ...], ...], bonds: tuple[tuple[int, int], ...]
) -> tuple[tuple[int, ...], ...]:
    """The same where ends that go side by side take as much as each other."""
    out = [set(group) for group in same]
    for pair in bonds:
        own = [group for group in out if group & set(pair)]
        out = [group for group in out if not group & set(pair)] + [set(pair).union(*own)]
    return tuple(tuple(sorted(group)) for group in out)
