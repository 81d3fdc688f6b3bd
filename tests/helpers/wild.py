"""Random weaves over the whole language: every step is tried, and kept where it can be made."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from dim_ladder.notation import (
    Add,
    Cross,
    Curl,
    Drop,
    Follow,
    Hop,
    Item,
    Leave,
    Loop,
    Past,
    Rotate,
    Round,
    Span,
    Step,
    Thread,
    Through,
    To,
    Turn,
    Weave,
    parse_strict,
)
from dim_ladder.trace import Tracer
from helpers.weaves import COLOURS

Choose = Callable[[int, int], int]


def blank(count: int) -> Weave:
    cords = "\n".join(f"  k{i} nylon-4mm {COLOURS[i % 8]}" for i in range(1, count + 1))
    ends = " ".join(f"k{i}.a" for i in range(1, count + 1))
    return parse_strict(
        f'weave "Wild"\ncords\n{cords}\nbeads\n  shell 8 mm #f4f2ec\nhang\n  {ends}\nsection s: body\n'
    )


def wild_weave(choose: Choose, most_ends: int = 5, most_items: int = 5, whole: bool = True) -> Weave:
    """whole : also things done to the whole work, after which other ends may hang than at first."""
    count = choose(2, most_ends)
    weave = blank(count)
    items: list[Item] = []
    names: list[str] = []
    tracer = Tracer()
    for _ in range(choose(1, most_items)):
        for _ in range(3):
            t = tracer.trace(_with(weave, items))
            item = _item(choose, len(t.order), names, whole, weave)
            if item is not None and not tracer.trace(_with(weave, [*items, item])).problems:
                items.append(item)
                break
    return _with(weave, items)


def _with(weave: Weave, items: list[Item]) -> Weave:
    return replace(weave, sections=(replace(weave.sections[0], items=tuple(items)),))


def _item(choose: Choose, tails: int, names: list[str], whole: bool, weave: Weave) -> Item | None:
    what = choose(0, 19) if whole else 9
    if what == 0:
        return Turn()
    if what == 1:
        return Span(float(choose(1, 60)))
    if what == 2 and tails > 2:
        return Drop((choose(1, tails),))
    if what == 3:
        cord = weave.cords[choose(0, len(weave.cords) - 1)].name
        return Add((f"{cord}.b",), choose(1, tails + 1))
    if what == 4:
        return Rotate("left", tuple(range(choose(1, tails), tails + 1)))
    if not tails:
        return None
    me = choose(1, tails)
    right = me + 1 <= tails and (me == 1 or choose(0, 1) == 1)
    more: tuple[int, ...] = ()
    if choose(0, 4) == 0 and tails > 2:
        more = (me - 1,) if right and me > 1 else (me + 1,) if not right and me < tails else ()
    hops: list[Hop] = []
    at = me
    for _ in range(choose(1, 4)):
        kind = choose(0, 13)
        side = 1 if right else -1
        nxt = at + side
        name = f"n{len(names)}" if choose(0, 3) == 0 else ""
        if kind <= 3 and 1 <= nxt <= tails:
            hops.append(Cross(choose(0, 1) == 1, (_was(me, at, nxt),), False, name))
            at = nxt
        elif kind == 4:
            hops.append(Curl(choose(0, 1) == 1, choose(0, 1) == 1, name))
        elif kind == 5 and 1 <= nxt <= tails:
            hops.append(Round((_was(me, at, nxt),), choose(1, 3), choose(0, 1) == 1, name))
        elif kind == 13 and hops:
            ref = None if choose(0, 1) else choose(1, tails)
            hops.append(Past(choose(0, 1) == 1, ref, choose(1 if ref is None else 0, 5)))
        elif kind == 6 and hops:
            hops.append(To(("left", "right", choose(1, tails))[choose(0, 2)]))
            break
        elif kind == 7:
            hops.append(Leave(25.0) if hops else Thread("shell"))
        elif kind == 8:
            back = choose(0, 1) == 1
            hops.append(Follow(choose(1, tails), choose(0, 1) == 1, back, choose(1, 4) if back else 0))
        elif kind == 9 and tails > 2:
            hops.append(Through(choose(0, 1) == 1, Loop(choose(1, tails), 1, "gap", "", choose(1, tails))))
        elif hops or kind > 10:
            loop = (
                Loop(None, choose(1, 3)),
                Loop(choose(1, tails), choose(1, 3)),
                Loop(choose(1, tails), choose(0, 5), "beside", "", None, choose(0, 1) == 1),
                Loop(None, 1, "name", names[choose(0, len(names) - 1)] if names else "none"),
            )[choose(0, 3)]
            bight = choose(0, 3) == 0
            turns = 1 if bight else choose(1, 2)
            hops.append(Through(choose(0, 1) == 1, loop, bight, name, turns))
            if not bight:
                right = not right
        else:
            right = not right
            continue
        if name and getattr(hops[-1], "name", ""):
            names.append(name)
    return Step(me, tuple(hops), more=more) if hops else None


def _was(me: int, at: int, nxt: int) -> int:
    """The place, when the step began, of the tail that is next to an end on its way from `me`, now at `at`."""
    if nxt == me:
        return me + (1 if at > me else -1)
    return nxt + (0 if (nxt > me) == (nxt > at) else (1 if at > me else -1))
