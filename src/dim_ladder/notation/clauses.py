"""The heads of sections and knots: how often, over what, on what, and which places there are."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace

from dim_ladder.base.budget import MOST_LAYERS
from dim_ladder.notation.cursor import Cursor, Wrong, nearest
from dim_ladder.notation.steps import WORDS
from dim_ladder.notation.values import Count, Former, Param, Section

COUNTS = "repeat 12, fit, fit pairs, fit multiple of 3 plus 1 at least 4 at most 40, same as bar, for 60 mm, or as long as 3 of 4 of bar less 25 mm"
CLAUSES = (
    "repeat", "fit", "same", "for", "as", "layer", "stitched", "on", "leads", "code", "mirror", "flip", "end", "spiral",
)  # fmt: skip


def read_params(ln: Cursor) -> tuple[Param, ...]:
    """The places of a knot. Raises Wrong."""
    hint = "Write them as: knot half-right (w | c.. | v)"
    ln.need("(", hint)
    out: list[Param] = []
    while True:
        t = ln.want("name", "a name for a place", hint)
        if "." in t.text or t.text in WORDS:
            raise Wrong(f"“{t.text}” cannot name a place", hint, t.column, len(t.text))
        if any(p.name == t.text for p in out):
            raise Wrong(f"two places are called “{t.text}”", "", t.column, len(t.text))
        rest = ln.take("..")
        if rest and any(p.rest for p in out):
            raise Wrong("only one place can take what is left over", "", t.column, len(t.text))
        out.append(Param(t.text, rest))
        if ln.take(")"):
            return tuple(out)
        ln.need("|", hint)


def read_clause(ln: Cursor, section: Section, above: Collection[str], layers: dict[str, int]) -> Section:
    """One clause of a section, which is changed by it. above : sections that stand above. layers : by section, how many layers lie below
    it; changed. Raises Wrong."""
    word = ln.take_one("layer", "stitched", "on", "leads", "code", "mirror", "flip", "end", "spiral")
    if word == "layer":
        ln.need("over", "Write it as: layer over bar")
        over = _above(ln, above)
        layers[section.name] = deep = layers.get(over, 0) + 1
        if deep > MOST_LAYERS:
            raise Wrong(f"more than {MOST_LAYERS} layers lie over each other here", "Work them as one")
        return replace(section, over=over)
    if word == "stitched":
        ln.need("on", "Write it as: stitched on bar")
        on = _above(ln, above)
        return replace(
            section, on=on, every=ln.whole("of how many units each", 200) if ln.take("every") else 1
        )
    if word == "spiral":
        return replace(section, spiral=True)
    if word in ("mirror", "flip", "end"):
        said = "end for end" if word == "end" else word
        for more in (*(("for", "end") if word == "end" else ()), "every", "other"):
            ln.need(more, f"Write it as: {said} every other")
        return replace(section, alternate=word)
    if word == "on":
        ln.need("former", "Write it as: on former, leads 5 bights 8")
        return replace(section, former=section.former or Former(0, 0))
    if word == "leads":
        leads = ln.whole("how many leads", 60)
        ln.need("bights", "Write it as: leads 5 bights 8")
        bights = ln.whole("how many bights", 120)
        if leads < 2 or bights < 2:
            raise Wrong("a former takes at least 2 leads and 2 bights", "Such as: leads 3 bights 5")
        return replace(section, former=replace(section.former or Former(0, 0), leads=leads, bights=bights))
    if word == "code":
        former = section.former or Former(0, 0)
        columns = bool(ln.take("columns"))
        first = ln.take_one("over", "under")
        if not first:
            raise ln.wrong("over or under", "Write it as: code over 2 under 2")
        code = [ln.whole("how many crossings", 60)]
        word = first
        while follow := ln.take_one("over", "under"):
            if follow == word:
                raise ln.wrong("the other of over and under in turn", "Such as: over 2 under 1")
            word = follow
            code.append(ln.whole("how many crossings", 60))
        former = replace(former, code=tuple(code), under_first=first == "under", columns=columns)
        return replace(section, former=former)
    return replace(section, count=read_count(ln, above))


def _above(ln: Cursor, known: Collection[str]) -> str:
    t = ln.want("name", "a section's name")
    if t.text not in known:
        raise Wrong(f"no section “{t.text}” stands above", nearest(t.text, known), t.column, len(t.text))
    return t.text


def read_count(ln: Cursor, above: Collection[str]) -> Count:
    """How often a section is worked. above : sections that stand above. Raises Wrong."""
    hint = COUNTS
    if ln.take("repeat"):
        return Count("repeat", ln.whole("how often"))
    if ln.take("fit"):
        return _fit(ln, hint)
    if ln.take("same"):
        ln.need("as", hint)
        return Count("same", 1, _above(ln, above))
    if ln.take("for"):
        return Count("long", mm=ln.length("how long it is to be, such as 60 mm"))
    if ln.take("as"):
        ln.need("long", hint)
        ln.need("as", hint)
        share = (1, 1)
        if ln.now is not None and ln.now.kind == "number":
            part = ln.whole("how many parts", 99)
            ln.need("of", "Write it as: as long as 3 of 4 of bar")
            share = (part, ln.whole("of how many parts", 99))
            ln.need("of", "Write it as: as long as 3 of 4 of bar")
        other = _above(ln, above)
        return Count("long", 1, other, ln.length("by how much it is less") if ln.take("less") else 0.0, share)
    raise ln.wrong("a count", hint)


def _fit(ln: Cursor, hint: str) -> Count:
    number = plus = least = most = 0
    if ln.take("pairs"):
        number = 2
    elif ln.take("multiple"):
        ln.need("of", hint)
        number = ln.whole("the multiple")
    if number and ln.take("plus"):
        plus = ln.whole("how many more", max(number - 1, 1))
    where = ln.now
    while ln.take("at"):
        if ln.take("least"):
            least = ln.whole("the least")
        elif ln.take("most"):
            most = ln.whole("the most")
        else:
            raise ln.wrong("least or most", hint)
    count = Count("fit", max(number, 1), plus=plus % max(number, 1), least=least, most=most)
    low, high = count.steps
    if 0 <= high < low:
        column = where.column if where is not None else 1
        raise Wrong(
            "no number of times is like that", "Leave more room between the least and the most", column
        )
    return count
