"""The knots of a unit that are drawn up by themselves, as weaves of one knot each: those that stand apart by free cord or by beads on all tails
that are worked, those that stay as they were drawn up, or all of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import groupby

from dim_ladder.library import FINISHES
from dim_ladder.notation import (
    Call,
    Count,
    Item,
    Knot,
    Section,
    Span,
    Step,
    Turn,
    Weave,
    flipped,
    mirrored_item,
)
from dim_ladder.trace import Trace, trace
from dim_ladder.trace.knotted import knots
from dim_ladder.trace.roles import period_of, section_work

ON_AND_ON = 3  # times, from which on a knot lies between others like it and not between tails


def knots_apart(weave: Weave, section: str, *, by_beads: bool = True) -> tuple[Weave, ...]:
    """For each knot of a unit that stands apart from the others a weave in which the section is that knot alone, tied once, with its tails as
    they hang by then. by_beads : beads on all ends part knots, as free cord does. Empty where they are one piece of work."""
    whole = told_out(weave, section)
    if whole is None:
        return ()
    runs = _runs(whole[2], len(whole[1].items), by_beads)[0]
    return _each(*whole, runs) if len(runs) > 1 else ()


def strung(weave: Weave, section: str) -> tuple[Weave, ...]:
    """The same for knots that an end ties on itself alone, as a coil, where others are tied on to that end beside them: they hold by
    themselves and stay as they were drawn up, and what comes next can only come up to them."""
    whole = told_out(weave, section)
    found = knots(whole[2]) if whole is not None else ()
    alone = {e for k in found if len(k.ends) == 1 for e in k.ends}
    core = {e for k in found if len(k.ends) > 1 for e in k.ends - k.led}
    return knot_by_knot(weave, section) if alone & core else ()


def on_and_on(weave: Weave, section: str) -> tuple[Weave, ...]:
    """The same for a knot that is tied so often, one below the other, and for what is tied above and below it on the same ends: as a body such
    knots come together; between tails each would be drawn up where it was laid. Empty where there is none, or where more is done."""
    whole = told_out(weave, section)
    if whole is None:
        return ()
    _, s, one = whole
    met: dict[int, set[int]] = {}
    for k in one.steps:
        if k.stop > k.start:
            crossed = one.crossings[k.start : k.stop]
            met.setdefault(k.op.item, set()).update(e for c in crossed for e in (c.lane_end, c.row_end))
    others = [i for k, i in enumerate(s.items) if k not in met]
    if not all(isinstance(i, Call) and i.knot in FINISHES for i in others):
        return ()
    if len({frozenset(ends) for ends in met.values()}) != 1:
        return ()
    runs: list[list[int]] = []
    alike = [list(run) for _, run in groupby(sorted(met), key=lambda k: _knot_of(s.items[k]) or k)]
    often = [_often([s.items[k] for k in run]) >= ON_AND_ON for run in alike]
    for run, alone, before in zip(alike, often, [True, *often], strict=False):
        if alone or before:
            runs.append(run)
        else:
            runs[-1] += run
    return _each(*whole, runs) if any(often) else ()


def _knot_of(item: Item) -> Call | None:
    """What an item ties, however often; None of anything but one knot below the other."""
    if not isinstance(item, Call) or item.each >= 0:
        return None
    return replace(item, repeat=1, lead=(), note="")


def _often(items: Sequence[Item]) -> int:
    """How often items tie one knot, one below the other; 1 where they tie several."""
    tied = {_knot_of(i) for i in items}
    if len(tied) > 1 or None in tied:
        return 1
    return sum(i.repeat for i in items if isinstance(i, Call))


def knot_by_knot(weave: Weave, section: str) -> tuple[Weave, ...]:
    """The same for the knots of a unit that is one piece of work; those that can be tied beside each other, because none takes up what another
    left, are one."""
    whole = told_out(weave, section)
    if whole is None:
        return ()
    found = knots(whole[2])
    of = [{whole[2].steps[k].op.item for k in knot.steps} for knot in found]
    taken = set[int]().union(*of)
    levels: list[list[int]] = []
    hung: dict[int, int] = {}  # by end, below how many knots it hangs
    for knot, items in zip(found, of, strict=True):
        level = max((hung.get(e, 0) for e in knot.ends), default=0)
        hung.update(dict.fromkeys(knot.ends, level + 1))
        levels += [[] for _ in range(level + 1 - len(levels))]
        between = set(range(min(items), max(items))) - taken
        levels[level] += sorted(items | between)
    return _each(*whole, levels) if len(levels) > 1 else ()


def _each(weave: Weave, s: Section, one: Trace, runs: Sequence[Sequence[int]]) -> tuple[Weave, ...]:
    """A weave of every run of items."""
    section = s.name
    begins = {step.op.item: step.before for step in reversed(one.steps)}
    out: list[Weave] = []
    every = {k for run in runs for k in run}
    done = set[int]()
    for run in runs:
        # Where not just what is told before it was tied, it hangs as the run above it left it.
        as_told = done == {k for k in every if k < run[0]}
        t, order = (
            (one, begins[run[0]])
            if as_told
            else ((last := trace(out[-1], section=section, units=1)), last.order)
        )
        done.update(run)
        hang = replace(weave.hang, ends=tuple(t.ends[e] for e in order))
        items = tuple(s.items[k] for k in run)
        first = items[0]
        often = first.repeat if len(run) == 1 and isinstance(first, Call) else _often(items)
        if often >= ON_AND_ON and isinstance(first, Call):
            knot = Section(section, "body", Count(number=often), (replace(first, repeat=1),))
        else:
            knot = Section(section, "finish", items=items)
        out.append(replace(weave, hang=hang, sections=(knot,)))
    return tuple(out)


def free_between(weave: Weave, section: str) -> tuple[float, ...]:
    """mm of free cord in a unit, or in as many as take it to be the same again: above its first knot, below that, and so on, and below its
    last one. Where its knots do not stand apart, all of it above or below them."""
    work = section_work(weave, section)
    if work is None or work.span <= 0:
        return (0.0, 0.0)
    whole = told_out(weave, section)
    if whole is not None:
        runs, free = _runs(whole[2], len(whole[1].items), whole[1].kind != "body")
        if runs:
            # What is free on some tails beside the knots of others is told of the whole.
            return (*free[:-1], free[-1] + max(work.span * work.period - sum(free), 0.0))
    one = trace(weave, section=section, units=1)
    first = next((k for k in one.steps if not k.quiet and (k.hops or k.placed)), None)
    above = first is not None and isinstance(first.deed, Span)
    span = work.span * work.period
    return (span, 0.0) if above else (0.0, span)


def told_out(weave: Weave, section: str) -> tuple[Weave, Section, Trace] | None:
    """A weave in which a section is told out, as many units of it as take it to be the same again, none of them turned; and its trace. None
    where more is done to it than tying and leaving free."""
    s = weave.section(section)
    if s is None or s.former is not None or s.on or s.over or s.alternate == "end":
        return None
    if not all(isinstance(i, Step | Call | Span | Turn) for i in s.items):
        return None
    if s.alternate or any(isinstance(i, Turn) for i in s.items):
        weave = _one_by_one(weave, s)
        s = weave.section(section) or s
    one = trace(weave, section=section, units=1)
    return None if one.problems or not one.settled else (weave, s, one)


def _one_by_one(weave: Weave, s: Section) -> Weave:
    """The weave with a section whose units are seen in turn in a mirror, or are turned over in between, as it is seen from in front."""
    tails = len(trace(weave, section=s.name, units=0).order)
    items: list[Item] = []
    derived: dict[str, Knot] = {}
    over = False
    for unit in range(period_of(weave, s.name)):
        for item in s.items:
            if isinstance(item, Turn):
                over = not over
                continue
            for how in (s.alternate if unit else "", "turn" if over else ""):
                item = _seen(item, how, tails, derived)
            items.append(item)
    told = replace(s, items=tuple(items), alternate="")
    at = weave.sections.index(s)
    sections = (*weave.sections[:at], told, *weave.sections[at + 1 :])
    return replace(weave, sections=sections, knots=(*weave.knots, *derived.values()))


def _seen(item: Item, how: str, tails: int, derived: dict[str, Knot]) -> Item:
    """An item in a mirror, from behind, or turned over. derived : those that it takes, by name, are laid down here."""
    if not how:
        return item
    if how != "flip":
        item = mirrored_item(item, tails)
    if isinstance(item, Step):
        return item if how == "mirror" else flipped(item)
    if isinstance(item, Call) and item.knot not in FINISHES:
        knot = Knot(f"{item.knot}, {how}", derive=how, source=item.knot)
        derived[knot.name] = knot
        item = replace(item, knot=knot.name)
        return item if how == "flip" else item.reversed()
    return item


def _runs(one: Trace, items: int, by_beads: bool) -> tuple[list[range], tuple[float, ...]]:
    """Runs of items between which all tails that meet anything hang free, each of which crosses something, and mm of what is free above, between
    and below them. by_beads : beads on all of those tails are a run of their own."""
    tied = {k.op.item for k in one.steps if k.stop > k.start}
    met = {e for c in one.crossings for e in (c.lane_end, c.row_end)}
    spans = {
        k.op.item: k.placed[0] for k in one.steps if isinstance(k.deed, Span) and met <= set(k.placed[0].ends)
    }
    beaded = _beads_on_all(one, items, met) if by_beads else []
    runs: list[range] = []
    free, since = [0.0], 0
    for k in range(items + 1):
        begins = any(b.start == k for b in beaded)
        if k < items and k not in spans and not begins and not any(b.stop == k for b in beaded):
            continue
        if tied & set(range(since, k)) or range(since, k) in beaded:
            runs.append(range(since, k))
            free.append(0.0)
        if (runs and runs[-1].stop == k) or not runs or begins:
            since = k + (k in spans)
        if k in spans:
            free[-1] += spans[k].mm
    return runs, tuple(free)


def _beads_on_all(one: Trace, items: int, met: set[int]) -> list[range]:
    """Items after each other that only thread beads, on all of these ends."""
    on: dict[int, set[int]] = {}
    for k in range(items):
        own = [x for x in one.steps if x.op.item == k]
        if own and all(
            x.stop == x.start and x.placed and all(p.kind == "bead" for p in x.placed) for x in own
        ):
            on[k] = {e for x in own for p in x.placed for e in p.ends}
    out = []
    for k in sorted(on):
        if k - 1 in on:
            continue
        stop = next(n for n in range(k, items + 1) if n not in on)
        if met and met <= set().union(*(on[n] for n in range(k, stop))):
            out.append(range(k, stop))
    return out
