"""One line of a knot or a section: a step with its hops, a call, or something done to the whole work."""

from __future__ import annotations

from dim_ladder.base.budget import MOST_TAILS
from dim_ladder.notation.cursor import Cursor, Wrong, nearest
from dim_ladder.notation.values import (
    TENSIONS,
    Add,
    Call,
    Cross,
    Curl,
    Drop,
    Follow,
    Hop,
    Item,
    Leave,
    Loop,
    Pass,
    Past,
    Ref,
    Rotate,
    Round,
    Span,
    Step,
    Thread,
    Through,
    To,
    Turn,
    Twist,
    Widen,
)

HOPS = ("over", "under", "up", "down", "round", "bight", "follow", "leave", "bead", "to")
SIDES = ("left", "right")
DEEDS = ("turn", "rotate", "span", "add", "drop", "follow", "raise", "split")
LATER = ("pass", "twist")  # hops whose words may name cords, as they did before there were these hops
WORDS = {*HOPS, *TENSIONS, *SIDES, "own", "gap", "behind", "at", "each", "back", "turns"}
MOST_TURNS = 200
Lead = tuple[str, ...]


def read_ref(ln: Cursor, expected: str) -> Ref:
    """A place number or the name of an end."""
    t = ln.now
    if t is not None and t.kind == "number":
        return ln.whole("a place")
    if t is not None and t.kind == "name" and t.text not in WORDS:
        ln.i += 1
        return t.text
    raise ln.wrong(expected)


def read_refs(ln: Cursor, expected: str) -> tuple[Ref, ...]:
    """One or more of them, to the first word that is none."""
    refs = [read_ref(ln, expected)]
    while is_ref(ln):
        refs.append(read_ref(ln, expected))
    return tuple(refs)


def is_ref(ln: Cursor) -> bool:
    t = ln.now
    return t is not None and (t.kind == "number" or (t.kind == "name" and t.text not in WORDS))


def read_item(ln: Cursor, lead: Lead, note: str) -> Item:
    """A line of a section."""
    t = ln.now
    second = ln.toks[1].text if len(ln.toks) > 1 else ""
    if t is not None and t.text in DEEDS and second not in ("(", ":", "+", "/"):
        return _deed(ln, lead, note)
    if t is not None and t.text == "rotate":
        return _deed(ln, lead, note)
    if second == "(":
        return read_call(ln, lead, note)
    return read_step(ln, lead, note)


def read_call(ln: Cursor, lead: Lead, note: str) -> Call:
    name = ln.want("name", "a knot's name")
    groups, each, as_one = _slots(ln)
    repeat = ln.whole("how often") if ln.take("repeat") else 1
    under = ln.whole("how many loops", MOST_TURNS) if ln.take("under") else 0
    ln.done("the knot")
    return Call(name.text, groups, lead, note, repeat, each, as_one, under)


def _groups(ln: Cursor) -> tuple[tuple[Ref, ...], ...]:
    return _slots(ln)[0]


def _slots(ln: Cursor) -> tuple[tuple[tuple[Ref, ...], ...], int, tuple[int, ...]]:
    """Bar-separated slots in brackets, which of them begins with `each`, and which are of ends that move as one."""
    as_one: list[int] = []
    ln.need("(")
    groups: list[tuple[Ref, ...]] = []
    group: list[Ref] = []
    each = -1
    while True:
        if ln.take(")"):
            groups.append(tuple(group))
            return tuple(groups), each, tuple(as_one)
        if ln.take("|"):
            groups.append(tuple(group))
            group = []
            continue
        if not group and ln.peek("each"):
            if each >= 0:
                raise ln.wrong("one slot with “each”", "Only one slot can deal out its ends")
            ln.i += 1
            each = len(groups)
            continue
        if ln.peek("+"):
            if not group or (len(group) > 1 and as_one[-1:] != [len(groups)]):
                raise ln.wrong(
                    "a place number, an end, “|” or “)”", "Ends that move as one fill a slot: (1+2 | 3+4)"
                )
            ln.i += 1
            group.append(read_ref(ln, "the end that moves with it"))
            as_one += [len(groups)] if as_one[-1:] != [len(groups)] else []
            continue
        if as_one[-1:] == [len(groups)]:
            raise ln.wrong("“+”, “|” or “)”", "Ends that move as one fill a slot: (1+2 | 3+4)")
        ref = read_ref(ln, "a place number, an end, “|” or “)”")
        if isinstance(ref, int) and ln.take(".."):
            last = ln.whole("the last place", MOST_TAILS)
            if ref > MOST_TAILS:
                raise ln.wrong(f"a place from 1 to {MOST_TAILS:,}")
            group.extend(range(ref, last + 1) if last >= ref else range(ref, last - 1, -1))
            _room(sum(map(len, groups)) + len(group), ln)
        else:
            group.append(ref)


def _room(many: int, ln: Cursor) -> None:
    if many > 4 * MOST_TAILS:
        raise ln.wrong("fewer places", f"At most {4 * MOST_TAILS:,} in one line")


def read_step(ln: Cursor, lead: Lead, note: str) -> Step:
    end = read_ref(ln, "the end that moves, such as tide.a or a place number")
    more: list[Ref] = []
    mark = ln.take_one("+", "/")
    while mark and (len(more) == 0 or ln.take(mark)):
        more.append(read_ref(ln, "an end that moves with it"))
    ln.need(":", "A step is written as: v: over c, under w")
    hops: list[Hop] = []
    tension = ""
    while True:
        hops.append(_hop(ln))
        tension = ln.take_one(*TENSIONS)
        if ln.now is None:
            break
        if tension or not ln.take(","):
            raise ln.wrong("a comma or the end of the step")
    return Step(end, tuple(hops), tension, note, lead, tuple(more), mark == "/")


def _hop(ln: Cursor) -> Hop:
    t = ln.now
    word = ln.take_one(*HOPS, *LATER)
    if not word or t is None:
        raise ln.wrong(
            "over, under, up, down, round or another hop", nearest(t.text, (*HOPS, *LATER)) if t else ""
        )
    if word == "pass":
        what = ln.want("name", "what it passes, such as ring, buckle or bar").text
        return Pass(what, ln.take("behind"))
    if word == "twist":
        return Twist()
    if word == "leave":
        return Leave(*_free(ln, "how much slack"))
    if word == "bead":
        return Thread(ln.want("name", "the bead's name").text)
    if word == "to":
        side = ln.take_one("left", "right")
        return To(side or ln.whole("left, right or a place"))
    if word == "follow":
        ref = None if ln.take("own") else read_ref(ln, "the end it runs beside, or own")
        left = _side(ln) == "left"
        if ref is None or not ln.take("back"):
            return Follow(ref, left)
        t = ln.now
        return Follow(ref, left, True, ln.whole("how many crossings") if t and t.kind == "number" else 0)
    if word == "round":
        about, turns = read_refs_and_turns(ln)
        return Round(about, turns, not ln.take("behind"), _named(ln))
    bight = word == "bight"
    if bight:
        word = ln.take_one("over", "under", "up", "down")
        if not word:
            raise ln.wrong("over, under, up or down", "A doubled end hops as well: bight up v")
    if word in ("over", "under"):
        if ln.peek("own"):
            if bight:
                raise ln.wrong("a tail to cross", "A bight cannot cross its own standing part")
            ln.i += 1
            if ln.take("at"):
                return Past(word == "over", None, _from_none(ln))
            return Curl(word == "over", _side(ln) == "left", _named(ln))
        refs = read_refs(ln, "the tail it crosses")
        if len(refs) == 1 and not bight and ln.take("at"):
            return Past(word == "over", refs[0], _from_none(ln))
        return Cross(word == "over", refs, bight, _named(ln))
    loop = _loop(ln)
    turns = 1
    if ln.take("turns"):
        if bight or loop.kind == "gap":
            raise ln.wrong(
                "a loop that the end can go round", "A bight, or a gap between tails, is passed once"
            )
        turns = ln.whole("how many turns", MOST_TURNS)
    return Through(word == "up", loop, bight, _named(ln), turns)


def read_refs_and_turns(ln: Cursor) -> tuple[tuple[Ref, ...], int]:
    """`c 3`: the last number counts turns; `4 3`: about the tail at place 4, three turns."""
    refs = list(read_refs(ln, "the tail it goes round"))
    if len(refs) > 1 and isinstance(refs[-1], int):
        turns = refs.pop()
        assert isinstance(turns, int)
        if turns > MOST_TURNS:
            t = ln.toks[ln.i - 1]
            raise Wrong(f"{turns} turns are out of bounds", f"1 to {MOST_TURNS}", t.column, len(t.text))
        return tuple(refs), turns
    return tuple(refs), 1


def _side(ln: Cursor) -> str:
    side = ln.take_one(*SIDES)
    if not side:
        raise ln.wrong("left or right", "As seen on the picture")
    return side


def _named(ln: Cursor) -> str:
    return ln.want("name", "a name for the loop", "Write it as: over c @eye").text if ln.take("@") else ""


def _from_none(ln: Cursor) -> int:
    """How many crossings up from the tail, from 0."""
    return 0 if ln.take("0") else ln.whole("how many crossings up from its tail")


def _loop(ln: Cursor) -> Loop:
    if ln.take("@"):
        name = ln.want("name", "the loop's name").text
        return Loop(None, _bend(ln), "name", name)
    if ln.take("gap"):
        a = read_ref(ln, "the tails on either side of the gap")
        return Loop(a, 1, "gap", "", read_ref(ln, "the other tail beside the gap"))
    side = ln.take_one(*SIDES)
    if side and ln.take("loop"):
        return Loop(
            None, ln.whole("which loop at that edge, from above", 10_000), "edge", "", None, side == "left"
        )
    if side:
        ln.need("of", "Write it as: left of v 3, or left loop 3")
        ref = read_ref(ln, "the end it lies beside")
        t = ln.now
        count = _from_none(ln) if t is not None and t.kind == "number" else 0
        return Loop(ref, count, "beside", "", None, side == "left")
    if ln.take("own"):
        return Loop(None, _bend(ln))
    t = ln.now
    if t is not None and t.kind == "number" and "." in t.text:  # a place and a later bend: 3.2
        ln.i += 1
        place, bend = t.text.split(".")
        if not int(place[:6]) >= 1 or not int(bend[:6]) >= 1:
            raise Wrong(f"“{t.text}” is no bend of a place", "Write it as: 3.2", t.column, len(t.text))
        return Loop(int(place[:6]), int(bend[:6]))
    ref = read_ref(ln, "own, @name, gap, or the end whose loop it is")
    return Loop(ref, _bend(ln))


def _bend(ln: Cursor) -> int:
    return ln.whole("which bend, from 1", 100) if ln.take(".") else 1


def _deed(ln: Cursor, lead: Lead, note: str) -> Item:
    """Something done to the whole work, or to what lies on a former."""
    word = ln.take_one(*DEEDS)
    item: Item
    if word == "turn":
        ln.take("over")
        item = Turn(note, lead)
    elif word == "rotate":
        how = ln.take_one("left", "right") or "half"
        refs = tuple(r for g in _groups(ln) for r in g) if ln.peek("(") else ()
        item = Rotate(how, refs, note, lead)
    elif word == "span":
        mm, share = _free(ln, "how much free cord")
        most = 0.0
        where = ln.now
        if ln.take("to"):
            most = ln.length("up to how much free cord")
            if share[0] or most <= mm:
                column = where.column if where is not None else 1
                raise Wrong("it cannot stretch to that", "Write it as: span 20 mm to 40 mm", column)
        refs = tuple(r for g in _groups(ln) for r in g) if ln.peek("(") else ()
        item = Span(mm, refs, note, lead, share, most)
    elif word == "add":
        item = _add(ln, lead, note)
    elif word == "drop":
        item = Drop(read_refs(ln, "the tail that is worked no more"), note, lead)
    else:
        left = word != "follow" or _side(ln) == "left"
        if word == "raise" and ln.take("to"):
            ln.need("leads", "Write it as: raise to leads 6")
            item = Widen(word, True, 1, note, lead, ln.whole("how many leads", 60))
            ln.done("“raise”")
            return item
        times = ln.whole("how often", 20) if ln.take("repeat") else 1
        item = Widen(word, left, times, note, lead)
    ln.done(f"“{word}”")
    return item


def _free(ln: Cursor, what: str) -> tuple[float, tuple[int, int]]:
    """A length, or a share of the girth, less a length: 60 mm, 1 of 2 of girth less 20 mm."""
    second = ln.toks[ln.i + 1].text if ln.i + 1 < len(ln.toks) else ""
    if not ln.peek("girth") and second != "of":
        return ln.length(what), (0, 1)
    share = (1, 1)
    if not ln.take("girth"):
        hint = "Write it as: 1 of 2 of girth less 20 mm"
        part = ln.whole("how many parts", 99)
        ln.need("of", hint)
        share = (part, ln.whole("of how many parts", 99))
        ln.need("of", hint)
        ln.need("girth", hint)
    return (-ln.length("by how much it is less") if ln.take("less") else 0.0), share


def _add(ln: Cursor, lead: Lead, note: str) -> Add:
    ends = [_end(ln)]
    if ln.now is not None and ln.now.kind == "name" and ln.now.text not in WORDS:
        ends.append(_end(ln))
        if ends[0].split(".")[0] != ends[1].split(".")[0] or ends[0] == ends[1]:
            raise Wrong(
                f"{ends[0]} and {ends[1]} are not the two ends of one cord",
                "Add cords one by one",
                ln.toks[ln.i - 1].column,
            )
    if ln.take("at"):
        return Add(tuple(ends), ln.whole("a place"), False, (), note, lead)
    side = ln.take_one("over", "under")
    if not side or len(ends) != 2:
        raise ln.wrong("at", "add reed.a at 3, add reed.a reed.b at 3, or add reed.a reed.b under 2")
    return Add(tuple(ends), 0, side == "over", read_refs(ln, "the tails it lies across"), note, lead)


def _end(ln: Cursor) -> str:
    t = ln.want("name", "an end such as tide.a")
    if "." not in t.text:
        raise Wrong(
            f"“{t.text}” is a cord, not an end", f"Write {t.text}.a or {t.text}.b", t.column, len(t.text)
        )
    return t.text
