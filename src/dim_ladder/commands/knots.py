"""Knots made from steps and opened into steps again; mirror images and other faces of knots, by name."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from functools import partial

from dim_ladder.base import DimLadderError, InputError
from dim_ladder.commands.edit_base import must_read_back
from dim_ladder.library import FINISHES, library_knots
from dim_ladder.notation import (
    Call,
    Cross,
    Item,
    Knot,
    Leave,
    Param,
    Ref,
    Round,
    Section,
    Step,
    Thread,
    To,
    Weave,
    item_refs,
    with_refs,
)
from dim_ladder.trace import Trace, Tracer
from dim_ladder.trace.builder import Builder, StepError
from dim_ladder.trace.expand import bind, expand, resolve, unrolled
from dim_ladder.trace.solved import solve_knot
from dim_ladder.trace.value import StepRecord


def tails_before(weave: Weave, section: str) -> list[tuple[str, ...]]:
    """Tails, left to right as the work lies, before every item of the first unit of a section; one more after all.

    Raises InputError where the weave cannot be traced so far: what hangs there is not known.
    """
    index = next(i for i, s in enumerate(weave.sections) if s.name == section)
    found = _traced(weave, index)
    items = weave.sections[index].items
    out: list[tuple[str, ...]] = [()] * len(items)
    after = found.names_shown()
    known: dict[int, tuple[str, ...]] = {}
    turned = False
    for r in found.steps:
        if r.op.section == index and not r.quiet and r.op.item not in known:
            known[r.op.item] = found.shown(r.before, turned)
        turned = r.turned
    latest = after
    for k in range(len(items) - 1, -1, -1):  # an item that makes no step leaves the tails as they are
        latest = known.get(k, latest)
        out[k] = latest
    return [*out, after]


def _traced(weave: Weave, index: int) -> Trace:
    """Every section once, down to the one at `index`."""
    upto = replace(weave, sections=weave.sections[: index + 1])
    found = Tracer().trace(upto, counts={s.name: 1 for s in upto.sections})
    if found.problems:
        raise InputError(str(found.problems[0]), "Mend that step first")
    return found


# -- steps into a knot -------------------------------------------------------------------------------


def extracted(weave: Weave, section: Section, first: int, stop: int, name: str) -> tuple[Knot, Call]:
    """Items first..stop of a section as a knot over places, and the call that ties it where they stood.

    Raises InputError where they cannot be a knot.
    """
    items = section.items[first:stop]
    before = tails_before(weave, section.name)
    bad = next((i for i in items if not isinstance(i, Step | Call) or _is_finish(i)), None)
    if bad is not None:
        raise InputError(
            "a knot is made of steps and other knots only", "Choose a passage without anything else"
        )
    if any(
        isinstance(h, To) and isinstance(h.where, int) for i in items if isinstance(i, Step) for h in i.hops
    ):
        raise InputError("a knot cannot lead an end to a place number", "Write: to left, or to right")
    if weave.knot(name) is not None or any(k.name == name for k in library_knots()) or name in FINISHES:
        raise InputError(f"there is a knot “{name}” already", "Choose another name")
    used = {_end(r, before[k]) for k in range(first, stop) for r in item_refs(section.items[k])}
    order = [e for e in before[first] if e in used]
    called = {e: _place_name(i) for i, e in enumerate(order)}
    steps = []
    for k in range(first, stop):
        tails = before[k]
        item = section.items[k]
        step = with_refs(item, lambda r, tails=tails: called[_end(r, tails)])  # type: ignore[misc]
        assert isinstance(step, Step | Call)
        steps.append(step)
    knot = Knot(name, tuple(Param(called[e]) for e in order), tuple(steps))
    call = Call(name, tuple((before[first].index(e) + 1,) for e in order), lead=items[0].lead)
    knot = replace(knot, steps=(replace(steps[0], lead=()), *steps[1:]))
    must_read_back(
        replace(weave, knots=(*weave.knots, knot)),
        f"“{name}” cannot be the name of a knot",
        "Use letters, digits and hyphens",
    )
    return knot, call


def must_be_the_same(before: Weave, after: Weave, section: str, why: str) -> None:
    """Raises InputError where a section does not do with the cord what it did."""
    index = next(i for i, s in enumerate(before.sections) if s.name == section)
    a, b = _traced(before, index), _traced(after, index)
    if (a.crossings, a.paths, a.order) != (b.crossings, b.paths, b.order):
        raise InputError(why, "Say where its ends rest in another way, then try again")


def _end(ref: Ref, tails: tuple[str, ...]) -> str:
    try:
        return resolve(ref, tails)
    except ValueError as e:
        raise InputError(str(e), "Mend that step first") from None


def _place_name(i: int) -> str:
    return "abcdefghijklmnopqrstuvwxyz"[i] if i < 26 else f"p{i + 1}"


def _is_finish(item: Item) -> bool:
    return isinstance(item, Call) and item.knot in FINISHES


# -- a knot into steps -------------------------------------------------------------------------------


def inlined(weave: Weave, section: Section, at: int) -> tuple[Step, ...]:
    """The steps that a call makes, over places as they are at that moment."""
    call = section.items[at]
    assert isinstance(call, Call)
    knot = solve_knot(weave, call.knot)
    if knot is None:
        raise InputError(f"{call.knot} has no steps to open", "Choose a rung of a knot")
    index = next(i for i, s in enumerate(weave.sections) if s.name == section.name)
    found = _traced(weave, index)
    made = [
        r for r in found.steps if r.op.section == index and r.op.item == at and not r.op.unit and not r.quiet
    ]
    named: list[Step] = []
    for _ in range(call.repeat):
        # Places of the next repeat are those of that moment.
        tails = found.shown(made[len(named)].before, made[len(named)].turned)
        for binding in bind(call, knot, tails):
            named += [_by_name(part, own) for part, own in unrolled(knot, binding, str)]
    named = [_in_order(s, r, found) for s, r in zip(named, made, strict=True)]
    steps = by_places(weave, section, at, named)
    return tuple(
        replace(s, lead=() if k else call.lead, note=s.note or ("" if k else call.note))
        for k, s in enumerate(steps)
    )


def _in_order(step: Step, record: StepRecord, found: Trace) -> Step:
    """A group of tails is crossed in any order of its names; single tails in the order in which they are met. Left, right and
    places to rest at are those of the knot's own ends within a knot, and of all tails outside."""
    met = iter([h.ends for h in record.hops if isinstance(h.hop, Cross)])
    after = found.shown(record.order, record.turned)
    place = after.index(found.ends[record.end]) + 1
    side = {1: "left", len(after): "right"}.get(place)
    hops = []
    last = max((i for i, h in enumerate(step.hops) if not isinstance(h, Leave | Thread)), default=-1)
    for i, hop in enumerate(step.hops):
        if isinstance(hop, Cross):
            hop = replace(hop, refs=tuple(found.ends[e] for e in next(met)))
        elif i == last and isinstance(hop, To) and hop.where != side:
            hop = To(place)
        hops.append(hop)
    return replace(step, hops=tuple(hops))


def _by_name(part: Step, binding: dict[str, tuple[str, ...]]) -> Step:
    """A step of a knot with ends by name."""
    hops = tuple(
        replace(h, refs=tuple(e for r in h.refs for e in binding[str(r)]))
        if isinstance(h, Cross | Round)
        else h
        for h in part.hops
    )
    step = with_refs(replace(part, hops=hops), partial(_one, binding))
    assert isinstance(step, Step)
    return step


def _one(binding: dict[str, tuple[str, ...]], ref: Ref) -> Ref:
    """The one end that a place of a knot stands for; ends already put in, and place numbers, stay."""
    if isinstance(ref, int) or ref not in binding:
        return ref
    ends = binding[ref]
    if len(ends) != 1:
        raise InputError(f"“{ref}” stands for {len(ends)} ends in one hop", "This knot cannot be opened here")
    return ends[0]


def by_places(weave: Weave, section: Section, first: int, steps: Iterable[Step]) -> list[Step]:
    """Steps whose ends go by name, told by places instead, when they stand from item `first` on."""
    named = tuple(steps)
    part = replace(section, items=(*section.items[:first], *named))
    before = tails_before(_with(weave, part), section.name)
    out = []
    for k, step in enumerate(named, first):
        tails = before[k]
        placed = with_refs(
            step,
            lambda r, tails=tails: tails.index(r) + 1 if isinstance(r, str) and r in tails else r,  # type: ignore[misc]
        )
        assert isinstance(placed, Step)
        out.append(placed)
    return out


def _with(weave: Weave, section: Section) -> Weave:
    """The weave up to a section, that section exchanged."""
    index = next(i for i, s in enumerate(weave.sections) if s.name == section.name)
    return replace(weave, sections=(*weave.sections[:index], section))


# -- what stands below an edit -----------------------------------------------------------------------


def ends_kept(old: Weave, new: Weave, section: str, below: int) -> tuple[Item, ...] | None:
    """The last `below` items of a section, told so that each moves and crosses the ends it did before an edit above it.

    None where nothing would change, or where what hung there before is not known. An end that is gone keeps its place
    number.
    """
    was, now = old.section(section), new.section(section)
    if was is None or now is None or not below:
        return None
    try:
        before = tails_before(old, section)
    except DimLadderError:
        return None
    index = next(i for i, s in enumerate(new.sections) if s.name == section)
    cut = replace(new, sections=new.sections[: index + 1])
    program = expand(cut, counts={s.name: 1 for s in cut.sections})
    builder = Builder(program.ends)
    first = len(now.items) - below
    kept = list(now.items[first:])
    for op in program.ops:
        if op.section == index and op.item >= first and not op.quiet:
            meant = before[len(was.items) - below + op.item - first]
            item = with_refs(
                was.items[len(was.items) - below + op.item - first], _moved(meant, builder.order_names())
            )
            kept[op.item - first] = item
            op = op._replace(value=item)
        try:
            builder.run(op)
        except StepError:
            return None
    return None if tuple(kept) == now.items[first:] else tuple(kept)


def shared_below(old: Weave, new: Weave) -> tuple[str, int] | None:
    """The one section that an edit changed above some of its items, and how many stand unchanged below; else None."""
    changed = [(a, b) for a, b in zip(old.sections, new.sections, strict=False) if a != b]
    if len(old.sections) != len(new.sections) or len(changed) != 1 or old.hang != new.hang:
        return None
    was, now = changed[0]
    if was.name != now.name or was.former is not None:
        return None
    below = 0
    while below < min(len(was.items), len(now.items)) and was.items[-1 - below] == now.items[-1 - below]:
        below += 1
    return (now.name, below) if below and len(was.items) != len(now.items) else None


def _moved(meant: tuple[str, ...], tails: tuple[str, ...]) -> Callable[[Ref], Ref]:
    def move(ref: Ref) -> Ref:
        if isinstance(ref, int) and 1 <= ref <= len(meant) and meant[ref - 1] in tails:
            return tails.index(meant[ref - 1]) + 1
        return ref

    return move


# -- images of knots ---------------------------------------------------------------------------------


def mirror_image(weave: Weave, name: str) -> tuple[Weave, str]:
    """The knot that is the mirror image of another; the weave gets one where there is none."""
    return _image(weave, name, "mirror", "mirrored")


def other_face(weave: Weave, name: str) -> tuple[Weave, str]:
    """The knot as it is from behind; the weave gets one where there is none."""
    return _image(weave, name, "flip", "behind")


def _image(weave: Weave, name: str, how: str, word: str) -> tuple[Weave, str]:
    if name in FINISHES and weave.knot(name) is None:
        raise InputError(f"{name} has no mirror image: it makes ends fast", "Leave it out of the passage")
    for knots in (weave.knots, library_knots()):
        for k in knots:
            if k.derive == how and k.name == name:
                return weave, k.source
            if k.derive == how and k.source == name:
                return weave, k.name
    if solve_knot(weave, name) is None:
        raise InputError(f"there is no knot “{name}”", "Mend that step first")
    made = f"{name}-{word}"
    while weave.knot(made) is not None:
        made += "-2"
    knot = Knot(made, derive=how, source=name)
    return replace(weave, knots=(*weave.knots, knot)), made
