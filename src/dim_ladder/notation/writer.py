"""A Weave to script text, in one layout: parse(write(x)) == x. Notes and comments stay where they belong."""

from __future__ import annotations

from collections.abc import Iterable

from dim_ladder.notation.values import (
    Add,
    Call,
    Count,
    Cross,
    Curl,
    Drop,
    Follow,
    Former,
    Hop,
    Item,
    Knot,
    Leave,
    Loop,
    Pass,
    Past,
    Ref,
    Rotate,
    Round,
    Section,
    Span,
    Step,
    Thread,
    Through,
    To,
    Turn,
    Twist,
    Weave,
)

ALTERNATES = {"mirror": "mirror", "flip": "flip", "end": "end for end"}


def write(weave: Weave) -> str:
    """The whole script, ending in a line break."""
    out: list[str] = []
    _lead(out, weave.lead, "")
    out.append(f'weave "{weave.name}"')
    if weave.cords:
        out += ["", "cords"]
        widths = [max(len(getattr(c, f)) for c in weave.cords) for f in ("name", "kind")]
        for c in weave.cords:
            _lead(out, c.lead, "  ")
            joined = (
                f"  joined to {c.joined}" + (f" {_mm(c.join_mm)}" if c.join_mm else "") if c.joined else ""
            )
            out.append(_noted(f"  {c.name:<{widths[0]}}  {c.kind:<{widths[1]}}  {c.colour}{joined}", c.note))
    if weave.beads:
        out += ["", "beads"]
        for b in weave.beads:
            _lead(out, b.lead, "  ")
            out.append(_noted(f"  {b.name}  {_mm(b.diameter)}  {b.colour}", b.note))
    if weave.hang.ends or weave.hang.on != "bar":
        out.append("")
        _lead(out, weave.hang.lead, "")
        out.append("hang" if weave.hang.on == "bar" else f"hang on {weave.hang.on}")
        if weave.hang.ends:
            out.append(_noted("  " + " ".join(weave.hang.ends), weave.hang.note))
    for knot in weave.knots:
        out.append("")
        _knot(out, knot)
    for section in weave.sections:
        out.append("")
        _section(out, section)
    if weave.tail:
        out.append("")
        _lead(out, weave.tail, "")
    return "\n".join(out) + "\n"


def write_item(item: Item) -> str:
    """One line of a knot or section, without indent, comments or note."""
    if isinstance(item, Call):
        groups = " | ".join(
            ("each " if i == item.each else "") + ("+".join(map(str, g)) if i in item.as_one else _run(g))
            for i, g in enumerate(item.groups)
        )
        often = (f" repeat {item.repeat}" if item.repeat > 1 else "") + (
            f" under {item.under}" if item.under else ""
        )
        return f"{item.knot} ({groups}){often}"
    if isinstance(item, Step):
        hops = ", ".join(write_hop(h) for h in item.hops)
        ends = ("/" if item.stacked else "+").join(map(str, (item.end, *item.more)))
        return f"{ends}: {hops}" + (f" {item.tension}" if item.tension else "")
    if isinstance(item, Turn):
        return "turn over"
    if isinstance(item, Rotate):
        return "rotate" + ("" if item.how == "half" else f" {item.how}") + _bracketed(item.refs)
    if isinstance(item, Span):
        most = f" to {_mm(item.most)}" if item.most else ""
        return f"span {_free(item.mm, item.share)}{most}" + _bracketed(item.refs)
    if isinstance(item, Drop):
        return f"drop {_refs(item.refs)}"
    if isinstance(item, Add):
        how = f"at {item.at}" if item.at else ("over " if item.over else "under ") + _refs(item.refs)
        return f"add {' '.join(item.ends)} {how}"
    if item.leads:
        return f"{item.how} to leads {item.leads}"
    side = (" left" if item.left else " right") if item.how == "follow" else ""
    return f"{item.how}{side}" + (f" repeat {item.times}" if item.times > 1 else "")


def write_hop(hop: Hop) -> str:
    if isinstance(hop, Cross):
        return _bight(hop.bight) + ("over " if hop.over else "under ") + _refs(hop.refs) + _name(hop.name)
    if isinstance(hop, Past):
        return f"{'over' if hop.over else 'under'} {'own' if hop.ref is None else hop.ref} at {hop.count}"
    if isinstance(hop, Through):
        turns = f" turns {hop.turns}" if hop.turns > 1 else ""
        return (
            _bight(hop.bight)
            + ("up " if hop.up else "down ")
            + write_loop(hop.loop)
            + turns
            + _name(hop.name)
        )
    if isinstance(hop, Round):
        return f"round {_refs(hop.refs)} {hop.turns}" + ("" if hop.over else " behind") + _name(hop.name)
    if isinstance(hop, Curl):
        return f"{'over' if hop.over else 'under'} own {_side(hop.left)}" + _name(hop.name)
    if isinstance(hop, Follow):
        back = (" back" + (f" {hop.most}" if hop.most else "")) if hop.back else ""
        return f"follow {'own' if hop.ref is None else hop.ref} {_side(hop.left)}{back}"
    if isinstance(hop, Leave):
        return f"leave {_free(hop.mm, hop.share)}"
    if isinstance(hop, Thread):
        return f"bead {hop.bead}"
    if isinstance(hop, Pass):
        return f"pass {hop.what}" + (" behind" if hop.behind else "")
    if isinstance(hop, Twist):
        return "twist"
    assert isinstance(hop, To)
    return f"to {hop.where}"


def write_loop(loop: Loop) -> str:
    """A region's address, as it stands after up or down."""
    if loop.kind == "gap":
        return f"gap {loop.ref} {loop.other}"
    if loop.kind == "beside":
        return f"{_side(loop.left)} of {loop.ref} {loop.bend}"
    if loop.kind == "edge":
        return f"{_side(loop.left)} loop {loop.bend}"
    name = f"@{loop.name}" if loop.kind == "name" else "own" if loop.ref is None else str(loop.ref)
    return name + (f".{loop.bend}" if loop.bend > 1 else "")


def _bight(bight: bool) -> str:
    return "bight " if bight else ""


def _name(name: str) -> str:
    return f" @{name}" if name else ""


def _side(left: bool) -> str:
    return "left" if left else "right"


def _mm(mm: float) -> str:
    return f"{mm:.10g} mm"


def _free(mm: float, share: tuple[int, int]) -> str:
    """A length, or a share of the girth."""
    if not share[0]:
        return _mm(mm)
    part = "" if share == (1, 1) else f"{share[0]} of {share[1]} of "
    return f"{part}girth" + (f" less {_mm(-mm)}" if mm else "")


def _bracketed(refs: tuple[Ref, ...]) -> str:
    return f" ({_refs(refs)})" if refs else ""


def write_count(count: Count) -> str:
    """The words after the kind of section: "repeat 12", "fit pairs", ..."""
    if count.kind == "repeat":
        return f"repeat {count.number}"
    if count.kind == "same":
        return f"same as {count.other}"
    if count.kind == "long" and not count.other:
        return f"for {_mm(count.mm)}"
    if count.kind == "long":
        share = f"{count.share[0]} of {count.share[1]} of " if count.share != (1, 1) else ""
        return f"as long as {share}{count.other}" + (f" less {_mm(count.mm)}" if count.mm else "")
    plain = {1: "fit", 2: "fit pairs"}.get(count.number, f"fit multiple of {count.number}")
    out = [f"fit multiple of {count.number} plus {count.plus}" if count.plus else plain]
    out += [f"at least {count.least}"] if count.least else []
    out += [f"at most {count.most}"] if count.most else []
    return " ".join(out)


def write_how(section: Section) -> str:
    """How often a section is worked and how its units take turns: "fit, mirror every other"."""
    return ", ".join([write_count(section.count), *_ways(section)])


def _ways(section: Section) -> list[str]:
    out = [f"{ALTERNATES[section.alternate]} every other"] if section.alternate else []
    return [*out, "spiral"] if section.spiral else out


def _refs(refs: Iterable[Ref]) -> str:
    return " ".join(map(str, refs))


def _run(refs: tuple[Ref, ...]) -> str:
    """References with runs of three and more neighbouring places as 2..8."""
    out: list[str] = []
    i = 0
    while i < len(refs):
        first = refs[i]
        j = i
        if isinstance(first, int):
            for step in (1, -1):
                k = i
                while k + 1 < len(refs) and refs[k + 1] == first + step * (k + 1 - i):
                    k += 1
                j = max(j, k)
        if j - i >= 2:
            out.append(f"{first}..{refs[j]}")
            i = j + 1
        else:
            out.append(str(first))
            i += 1
    return " ".join(out)


def _noted(line: str, note: str) -> str:
    return f"{line}  -- {note}" if note else line


def _lead(out: list[str], lead: Iterable[str], indent: str) -> None:
    out.extend(f"{indent}-- {text}".rstrip() for text in lead)


def _knot(out: list[str], knot: Knot) -> None:
    _lead(out, knot.lead, "")
    if knot.derive:
        out.append(_noted(f"knot {knot.name} = {knot.derive} {knot.source}", knot.note))
        return
    params = " | ".join(p.name + (".." if p.rest else "") for p in knot.params)
    out.append(_noted(f"knot {knot.name} ({params})", knot.note))
    _items(out, knot.steps)


def _section(out: list[str], section: Section) -> None:
    _lead(out, section.lead, "")
    clauses = [section.kind]
    if section.over:
        clauses.append(f"layer over {section.over}")
    if section.on:
        clauses.append(f"stitched on {section.on}" + (f" every {section.every}" if section.every > 1 else ""))
    if section.former is not None:
        clauses += _former(section.former)
    if section.count != Count():
        clauses.append(write_count(section.count))
    clauses += _ways(section)
    out.append(_noted(f"section {section.name}: {', '.join(clauses)}", section.note))
    _items(out, section.items)


def _former(former: Former) -> list[str]:
    out = ["on former", f"leads {former.leads} bights {former.bights}"]
    if (former.code, former.under_first, former.columns) != ((1, 1), False, False):
        words = ("under", "over") if former.under_first else ("over", "under")
        parts = " ".join(f"{words[i % 2]} {n}" for i, n in enumerate(former.code))
        out.append(f"code {'columns ' if former.columns else ''}{parts}")
    return out


def _items(out: list[str], items: Iterable[Item | Step]) -> None:
    for item in items:
        _lead(out, item.lead, "  ")
        out.append(_noted("  " + write_item(item), item.note))
