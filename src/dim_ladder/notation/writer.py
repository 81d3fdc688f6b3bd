"""A Weave to script text, in one layout: parse(write(x)) == x. Notes and comments stay where they belong."""

from __future__ import annotations

from collections.abc import Iterable

from dim_ladder.notation.values import Call, Count, Cross, Hop, Item, Knot, Ref, Section, Step, Weave


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
            out.append(_noted(f"  {c.name:<{widths[0]}}  {c.kind:<{widths[1]}}  {c.colour}", c.note))
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
    """One call or step as it stands in a script, without indent, comments or note."""
    if isinstance(item, Call):
        groups = " | ".join(" ".join(map(str, g)) for g in item.groups)
        return f"{item.knot} ({groups})"
    hops = ", ".join(write_hop(h) for h in item.hops)
    return f"{item.end}: {hops}" + (f" {item.tension}" if item.tension else "")


def write_hop(hop: Hop) -> str:
    if isinstance(hop, Cross):
        return ("over " if hop.over else "under ") + _refs(hop.refs)
    return ("up " if hop.up else "down ") + ("own" if hop.loop.ref is None else str(hop.loop.ref))


def write_count(count: Count) -> str:
    """The words after the kind of section: "repeat 12", "fit pairs", ..."""
    if count.kind == "repeat":
        return f"repeat {count.number}"
    if count.kind == "same":
        return f"same as {count.other}"
    return {1: "fit", 2: "fit pairs"}.get(count.number, f"fit multiple of {count.number}")


def _refs(refs: Iterable[Ref]) -> str:
    return " ".join(map(str, refs))


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
    count = "" if section.count == Count() else f", {write_count(section.count)}"
    out.append(_noted(f"section {section.name}: {section.kind}{count}", section.note))
    _items(out, section.items)


def _items(out: list[str], items: Iterable[Item | Step]) -> None:
    for item in items:
        _lead(out, item.lead, "  ")
        out.append(_noted("  " + write_item(item), item.note))
