"""Script text to a Weave, with every problem of the text at once, each with line, column and remedy."""

from __future__ import annotations

from collections.abc import Iterable, Sized
from dataclasses import dataclass, field, replace
from functools import lru_cache

from dim_ladder.base import InputError, Problem
from dim_ladder.base.budget import (
    MOST_BEADS,
    MOST_CORDS,
    MOST_KNOTS,
    MOST_LAYERS,
    MOST_LINE,
    MOST_NAME,
    MOST_PROBLEMS,
    MOST_REFS,
    MOST_SECTIONS,
    MOST_TAILS,
)
from dim_ladder.notation.cursor import Cursor, Wrong, nearest
from dim_ladder.notation.lexer import Token, split_note, tokens
from dim_ladder.notation.refs import item_refs
from dim_ladder.notation.steps import WORDS, read_call, read_item, read_step
from dim_ladder.notation.values import (
    LEGGED,
    LEGS,
    SECTION_KINDS,
    STRUNG,
    Add,
    Bead,
    Call,
    Cord,
    Count,
    Former,
    Hang,
    Item,
    Knot,
    Param,
    Rotate,
    Section,
    Step,
    Thread,
    Weave,
)

MAX_CHARACTERS = 2_000_000
MAX_LINES = 25_000
COUNTS = "repeat 12, fit, fit pairs, fit multiple of 3 plus 1 at least 4 at most 40, same as bar, for 60 mm, or as long as 3 of 4 of bar less 25 mm"
CLAUSES = (
    "repeat", "fit", "same", "for", "as", "layer", "stitched", "on", "leads", "code", "mirror", "flip", "end", "spiral",
)  # fmt: skip
Path = tuple[object, ...]


@dataclass(slots=True)
class Parsed:
    """A weave as far as it could be read, where its parts stand in the text, and what is wrong.

    where : path -> (line, column). Paths: ("cord", i), ("hang",), ("knot", name), ("knot", name, i),
        ("section", s), ("section", s, i).
    """

    weave: Weave
    problems: tuple[Problem, ...]
    where: dict[Path, tuple[int, int]] = field(default_factory=dict)

    @property
    def ok(self) -> bool:
        return not self.problems


def parse(text: str) -> Parsed:
    """Read a script. Never raises for a bad script: see Parsed.problems. The last texts are remembered: an edit, the
    pane it was typed in and the journal ask about the same one."""
    return _parse(text)


@lru_cache(maxsize=4)
def _parse(text: str) -> Parsed:
    if len(text) > MAX_CHARACTERS or text.count("\n") > MAX_LINES:
        problem = Problem("The script is too long to be a weave", f"At most {MAX_LINES:,} lines", 1, 1)
        return Parsed(Weave(""), (problem,))
    return _Parser(text).run()


def name_problems(weave: Weave) -> tuple[Problem, ...]:
    """Names that a weave speaks of and does not have: a text of it could not be read. Places are left out."""
    p = _Parser("")
    p._check_names(weave)
    return tuple(p.problems)


def parse_strict(text: str) -> Weave:
    """Read a script; raises InputError with all problems when there is any."""
    parsed = parse(text)
    if parsed.problems:
        raise InputError.of(parsed.problems)
    return parsed.weave


def parse_item(text: str) -> Item:
    """One call or step, as it stands in a section. Raises InputError with the column."""
    body, note = split_note(text)
    toks, bad = tokens(body.strip())
    try:
        if bad or not toks:
            raise Wrong(
                "this is not a step" if not toks else f"“{body.strip()[bad - 1]}” cannot be read here",
                "",
                bad or 1,
            )
        return read_item(Cursor(toks, len(body) + 1), (), note)
    except Wrong as w:
        raise InputError.of((Problem(w.message, w.hint, 1, w.column, w.length),)) from None


def parse_count(text: str, sections: Iterable[str] = ()) -> Count:
    """A section's count: "repeat 12", "fit", "fit pairs", "fit multiple of 3", "same as bar", "for 60 mm", ..."""
    toks, _ = tokens(text.strip())
    parser = _Parser("")
    parser.sections = [Section(name, "body") for name in sections]
    line = Cursor(toks, len(text) + 1)
    try:
        count = parser._count(line)
        line.done("the count")
    except Wrong as w:
        raise InputError(w.message, w.hint) from None
    return count


HOW = ("repeat", "fit", "same", "for", "as", "mirror", "flip", "end", "spiral")


def parse_how(text: str, sections: Iterable[str] = ()) -> Section:
    """How often a section is worked, and how its units take turns: "fit pairs", "fit, mirror every other", "repeat 12, spiral".
    A section of no name and no items. Raises InputError."""
    toks, bad = tokens(text.strip())
    parser = _Parser("")
    parser.sections = [Section(name, "body") for name in sections]
    line = Cursor(toks, len(text) + 1)
    section = Section("", "body")
    try:
        if bad:
            raise Wrong(f"“{text.strip()[bad - 1]}” cannot be read here", COUNTS, bad)
        more = True
        while more:
            if not any(line.peek(word) for word in HOW):
                raise line.wrong("a count", COUNTS)
            section = parser._clause(line, section)
            more = line.take(",")
        line.done("the count")
    except Wrong as w:
        raise InputError(w.message, w.hint) from None
    return section


def _room(have: Sized, most: int, what: str, at: Token) -> None:
    """Raises Wrong where one more would be too many."""
    if len(have) >= most:
        raise Wrong(f"there are more than {most:,} {what}", f"At most {most:,}", at.column, len(at.text))
    if len(at.text) > MOST_NAME:
        raise Wrong("this name is too long", f"At most {MOST_NAME} characters", at.column)


class _Parser:
    def __init__(self, text: str) -> None:
        self.lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
        self.problems: list[Problem] = []
        self.where: dict[Path, tuple[int, int]] = {}
        self.name: str | None = None
        self.cords: list[Cord] = []
        self.beads: list[Bead] = []
        self.hang: Hang | None = None
        self.knots: list[Knot] = []
        self.sections: list[Section] = []
        self.block = ""
        self.items: list[Item] = []
        self.steps: list[Step | Call] = []
        self.lead: list[str] = []
        self.weave_lead: tuple[str, ...] = ()
        self.number = 0
        self.refs = 0  # ends that items name
        self.layers: dict[str, int] = {}  # by section: how many layers lie below it

    def run(self) -> Parsed:
        for number, raw in enumerate(self.lines, 1):
            if not self.lines:
                break
            self.number = number
            if len(raw) > MOST_LINE:
                hint = f"At most {MOST_LINE:,} characters"
                self.problems.append(Problem("this line is too long", hint, number, 1))
                if len(self.problems) == MOST_PROBLEMS:
                    break
                continue
            body, note = split_note(raw)
            if not body.strip():
                if note or raw.strip().startswith("--"):
                    self.lead.append(note)
                continue
            line = body.rstrip()
            toks, bad = tokens(line)
            try:
                if bad:
                    raise Wrong(f"“{line[bad - 1]}” cannot be read here", "", bad)
                self._line(Cursor(toks, len(line) + 1), line[0].isspace(), note)
            except Wrong as w:
                self.problems.append(Problem(w.message, w.hint, self.number, w.column, max(1, w.length)))
                self.lead.clear()
                if len(self.problems) == MOST_PROBLEMS:
                    break
        self._close()
        weave = Weave(
            self.name or "Unnamed",
            tuple(self.cords),
            self.hang or Hang(),
            tuple(self.knots),
            tuple(self.sections),
            self.weave_lead,
            tuple(self.lead),
            tuple(self.beads),
        )
        if self.name is None and len(self.problems) < MOST_PROBLEMS:
            self.problems.append(Problem("the weave has no name", 'Begin with: weave "A name"', 1, 1))
        self._check_names(weave)
        self.problems.sort(key=lambda p: (p.line, p.column))
        return Parsed(weave, tuple(self.problems), self.where)

    def _take_lead(self) -> tuple[str, ...]:
        lead = tuple(self.lead)
        self.lead.clear()
        return lead

    # -- blocks ---------------------------------------------------------------------------------

    def _line(self, ln: Cursor, indented: bool, note: str) -> None:
        first = ln.toks[0]
        if not indented:
            self._close()
            heads = {
                "weave": self._weave,
                "cords": self._cords,
                "beads": self._beads_head,
                "hang": self._hang,
                "knot": self._knot,
                "section": self._section,
            }
            head = heads.get(first.text)
            if head is None:
                raise Wrong(
                    f"“{first.text}” does not begin a part of a weave",
                    nearest(first.text, heads) + " Lines inside a part are indented.",
                    first.column,
                    len(first.text),
                )
            ln.i = 1
            self.block = "skip"  # a head that cannot be read takes its lines with it, without a word for each
            head(ln, note)
            return
        if self.block == "cords":
            self._cord(ln, note)
        elif self.block == "beads":
            self._bead(ln, note)
        elif self.block == "hang":
            self._hang_ends(ln, note)
        elif self.block == "knot":
            self.where["knot", self.knots[-1].name, len(self.steps)] = (self.number, first.column)
            call = len(ln.toks) > 1 and ln.toks[1].text == "("
            self.steps.append((read_call if call else read_step)(ln, self._take_lead(), note))
        elif self.block == "section":
            self.where["section", len(self.sections) - 1, len(self.items)] = (self.number, first.column)
            self.items.append(read_item(ln, self._take_lead(), note))
            self.refs += len(item_refs(self.items[-1]))
            if self.refs > MOST_REFS:
                self.lines = []  # the rest would be read for nothing
                raise Wrong(
                    f"up to here more than {MOST_REFS:,} ends are named", "Say it with fewer", first.column
                )
        elif self.block != "skip":
            raise Wrong(
                "this line belongs to nothing",
                "Begin a part first: cords, beads, hang, knot or section",
                first.column,
            )

    def _close(self) -> None:
        if self.block == "knot" and self.knots:
            self.knots[-1] = replace(self.knots[-1], steps=tuple(self.steps))
        if self.block == "section" and self.sections:
            self.sections[-1] = replace(self.sections[-1], items=tuple(self.items))
        self.steps, self.items, self.block = [], [], ""

    def _weave(self, ln: Cursor, note: str) -> None:
        t = ln.want("string", "the weave's name in quotes", 'Write it as: weave "Tern Ladder"')
        if self.name is not None:
            raise Wrong("the weave is named twice", "", t.column, len(t.text))
        if len(t.text) > MOST_NAME + 80 + 2:
            raise Wrong("this name is too long", f"At most {MOST_NAME} characters", t.column, len(t.text))
        self.name = t.text[1:-1].strip() or "Unnamed"
        self.weave_lead = self._take_lead() + ((note,) if note else ())
        ln.done("the name")

    def _cords(self, ln: Cursor, note: str) -> None:
        self.block = "cords"
        if note:
            self.lead.append(note)
        ln.done("cords")

    def _cord(self, ln: Cursor, note: str) -> None:
        name = ln.want("name", "the cord's name")
        if "." in name.text or name.text in WORDS:
            raise Wrong(f"“{name.text}” cannot name a cord", "Use a plain word", name.column, len(name.text))
        if any(c.name == name.text for c in self.cords):
            raise Wrong(
                f"there are two cords called “{name.text}”", "Rename one", name.column, len(name.text)
            )
        kind = ln.want("name", "its kind", "Write it as: tide nylon-4mm #1f6f8b")
        colour = ln.want("colour", "its colour", "Six digits after #, such as #1f6f8b")
        _room(self.cords, MOST_CORDS, "cords", name)
        self.where["cord", len(self.cords)] = (self.number, name.column)
        joined, mm = "", 0.0
        if ln.take("joined"):
            ln.need("to", "Write it as: joined to tide")
            joined = ln.want("name", "the cord it is joined to").text
            mm = ln.length("how far from the fold the join lies", 2000.0) if ln.now is not None else 0.0
        ln.done("the cord's colour")
        self.cords.append(
            Cord(name.text, kind.text, colour.text.lower(), self._take_lead(), note, joined, mm)
        )

    def _beads_head(self, ln: Cursor, note: str) -> None:
        self.block = "beads"
        if note:
            self.lead.append(note)
        ln.done("beads")

    def _bead(self, ln: Cursor, note: str) -> None:
        name = ln.want("name", "the bead's name")
        if name.text in WORDS or any(b.name == name.text for b in self.beads):
            raise Wrong(
                f"“{name.text}” cannot name this bead", "Use another word", name.column, len(name.text)
            )
        size = ln.length("its size, such as 8 mm", 200.0)
        colour = ln.want("colour", "its colour", "Six digits after #, such as #f4f2ec")
        ln.done("the bead's colour")
        _room(self.beads, MOST_BEADS, "beads", name)
        self.where["bead", len(self.beads)] = (self.number, name.column)
        self.beads.append(Bead(name.text, size, colour.text.lower(), self._take_lead(), note))

    def _hang(self, ln: Cursor, note: str) -> None:
        if self.hang is not None:
            raise Wrong("the cords are hung twice", "Keep one hang part")
        on = "bar"
        if ln.take("on"):
            on = ln.want("name", "what the cords hang on", "bar, ring, buckle, loop or former").text
        self.block = "hang"
        self.hang = Hang((), on, self._take_lead(), note)
        self.where["hang",] = (self.number, 1)
        ln.done("hang")

    def _hang_ends(self, ln: Cursor, note: str) -> None:
        assert self.hang is not None
        ends = list(self.hang.ends)
        while ln.now is not None:
            t = ln.want("name", "a working end such as tide.a")
            if "." not in t.text:
                raise Wrong(
                    f"“{t.text}” is a cord, not an end",
                    f"Write {t.text}.a or {t.text}.b",
                    t.column,
                    len(t.text),
                )
            if t.text in ends:
                raise Wrong(f"{t.text} hangs twice", "Each end has one place", t.column, len(t.text))
            _room(ends, MOST_TAILS, "tails", t)
            ends.append(t.text)
        self.hang = replace(
            self.hang,
            ends=tuple(ends),
            note="; ".join(n for n in (self.hang.note, note) if n),
            lead=self.hang.lead + self._take_lead(),
        )

    def _knot(self, ln: Cursor, note: str) -> None:
        name = ln.want("name", "the knot's name")
        if any(k.name == name.text for k in self.knots):
            raise Wrong(
                f"there are two knots called “{name.text}”", "Rename one", name.column, len(name.text)
            )
        _room(self.knots, MOST_KNOTS, "knots", name)
        self.where["knot", name.text] = (self.number, name.column)
        if ln.take("="):
            how = ln.want("name", "mirror, flip or turn")
            if how.text not in ("mirror", "flip", "turn"):
                raise Wrong(
                    f"“{how.text}” is not a way to make a knot from another",
                    "mirror exchanges left and right, flip front and back, turn both",
                    how.column,
                    len(how.text),
                )
            source = ln.want("name", "the other knot's name")
            ln.done("the knot")
            self.knots.append(Knot(name.text, (), (), how.text, source.text, self._take_lead(), note))
            return
        params = self._params(ln)
        ln.done("the knot's places")
        self.block = "knot"
        self.knots.append(Knot(name.text, params, (), "", "", self._take_lead(), note))

    def _params(self, ln: Cursor) -> tuple[Param, ...]:
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

    def _section(self, ln: Cursor, note: str) -> None:
        name = ln.want("name", "the section's name")
        if any(s.name == name.text for s in self.sections):
            raise Wrong(
                f"there are two sections called “{name.text}”", "Rename one", name.column, len(name.text)
            )
        ln.need(":", "Write it as: section bar: body, fit pairs")
        _room(self.sections, MOST_SECTIONS, "sections", name)
        section = Section(name.text, "body")
        kind = ln.take_one(*SECTION_KINDS)
        if kind:
            section = replace(section, kind=kind)
            if ln.now is not None:
                ln.need(",")
        elif ln.now is None or ln.now.text not in CLAUSES:
            t = ln.want("name", "start, body or finish", "Write it as: section bar: body, fit pairs")
            raise Wrong(
                f"“{t.text}” is not a kind of section", "start, body or finish", t.column, len(t.text)
            )
        while ln.now is not None:
            section = self._clause(ln, section)
            if ln.now is not None and not ln.peek("code"):
                ln.need(",")
        ln.done("the section")
        self.where["section", len(self.sections)] = (self.number, name.column)
        self.block = "section"
        self.sections.append(replace(section, lead=self._take_lead(), note=note))

    def _clause(self, ln: Cursor, section: Section) -> Section:
        word = ln.take_one("layer", "stitched", "on", "leads", "code", "mirror", "flip", "end", "spiral")
        if word == "layer":
            ln.need("over", "Write it as: layer over bar")
            over = self._above(ln)
            self.layers[section.name] = deep = self.layers.get(over, 0) + 1
            if deep > MOST_LAYERS:
                raise Wrong(f"more than {MOST_LAYERS} layers lie over each other here", "Work them as one")
            return replace(section, over=over)
        if word == "stitched":
            ln.need("on", "Write it as: stitched on bar")
            on = self._above(ln)
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
            return replace(
                section, former=replace(section.former or Former(0, 0), leads=leads, bights=bights)
            )
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
        return replace(section, count=self._count(ln))

    def _above(self, ln: Cursor) -> str:
        t = ln.want("name", "a section's name")
        known = {s.name for s in self.sections}
        if t.text not in known:
            raise Wrong(f"no section “{t.text}” stands above", nearest(t.text, known), t.column, len(t.text))
        return t.text

    def _count(self, ln: Cursor) -> Count:
        hint = COUNTS
        if ln.take("repeat"):
            return Count("repeat", ln.whole("how often"))
        if ln.take("fit"):
            return self._fit(ln, hint)
        if ln.take("same"):
            ln.need("as", hint)
            return Count("same", 1, self._above(ln))
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
            other = self._above(ln)
            return Count(
                "long", 1, other, ln.length("by how much it is less") if ln.take("less") else 0.0, share
            )
        raise ln.wrong("a count", hint)

    def _fit(self, ln: Cursor, hint: str) -> Count:
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

    # -- names across lines -----------------------------------------------------------------------

    def _say(self, path: Path, message: str, hint: str = "") -> None:
        if len(self.problems) >= MOST_PROBLEMS:
            return
        line, column = self.where.get(path, (1, 1))
        self.problems.append(Problem(message, hint, line, column))

    def _check_names(self, weave: Weave) -> None:
        cords = {c.name for c in weave.cords}
        for end in weave.hang.ends:
            self._check_end(("hang",), end, cords, STRUNG + (LEGS if weave.hang.on in LEGGED else ""))
            cord, _, letter = end.partition(".")
            if letter == STRUNG and (
                any(f"{cord}.{x}" in weave.hang.ends for x in f"ab{LEGS}") or _added(weave, cord)
            ):
                self._say(
                    ("hang",),
                    f"{cord} is strung between two points, so it has no working end",
                    f"Hang {cord}.s alone, or another cord",
                )
            if end[-2:] in (".m", ".n") and f"{end[:-1]}{'ab'['mn'.index(end[-1])]}" not in weave.hang.ends:
                self._say(
                    ("hang",),
                    f"{end} hangs without the end it belongs to",
                    f"Hang {end[:-1]}{'ab'['mn'.index(end[-1])]} too",
                )
        self._check_joins(weave)
        beads = {b.name for b in weave.beads}
        for knot in weave.knots:
            names = {p.name for p in knot.params}
            for i, step in enumerate(knot.steps):
                path: Path = ("knot", knot.name, i)
                self._check_beads(path, step, beads)
                for ref in item_refs(step):
                    if isinstance(ref, int):
                        self._say(path, f"a knot names its places; “{ref}” is a number", nearest("", names))
                    elif ref not in names:
                        self._say(path, f"“{ref}” is not a place of {knot.name}", nearest(ref, names))
        known = set(weave.hang.ends) | {s.over for s in weave.sections if s.over}
        known |= {f"{c.name}.{x}" for c in weave.cords for x in "ab" if _comes_in(weave, c.name)}
        for s, section in enumerate(weave.sections):
            if section.former is not None and not section.former.leads:
                self._say(
                    ("section", s), f"{section.name} has no leads and bights", "Such as: leads 5 bights 8"
                )
            for i, item in enumerate(section.items):
                path = ("section", s, i)
                self._check_beads(path, item, beads)
                if isinstance(item, Add):
                    for end in item.ends:
                        self._check_end(path, end, cords)
                for ref in item_refs(item):
                    if isinstance(ref, str) and ref not in known:
                        self._say(path, f"no end “{ref}” hangs here", nearest(ref, known))

    def _check_joins(self, weave: Weave) -> None:
        """Two cords that are joined hang by one end each; the other ends are one."""
        taken: set[str] = set()
        for i, c in enumerate(weave.cords):
            if not c.joined:
                continue
            path: Path = ("cord", i)
            others = [o.name for o in weave.cords if o.name != c.name]
            if c.joined not in others:
                self._say(
                    path,
                    f"there is no other cord “{c.joined}” to join {c.name} to",
                    nearest(c.joined, others),
                )
            elif {c.name, c.joined} & taken:
                again = c.name if c.name in taken else c.joined
                self._say(path, f"{again} is joined twice", "A cord that is folded has one other end to join")
            else:
                for name in (c.name, c.joined):
                    hung = sum(f"{name}.{x}" in weave.hang.ends for x in "ab")
                    why = f"both ends of {name} are worked" if hung else f"no end of {name} hangs"
                    if hung != 1 or _comes_in(weave, name):
                        self._say(
                            path, f"{why}, so it cannot be joined", f"Hang one of {name}.a and {name}.b"
                        )
            taken |= {c.name, c.joined}

    def _check_end(self, path: Path, end: str, cords: set[str], legs: str = "") -> None:
        cord, _, letter = end.partition(".")
        if cord not in cords:
            self._say(path, f"{end} hangs, but there is no cord “{cord}”", nearest(cord, cords))
        elif letter not in ("a", "b", *legs):
            self._say(path, f"{end} is not an end", f"A cord has two ends: {cord}.a and {cord}.b")

    def _check_beads(self, path: Path, item: Item, beads: set[str]) -> None:
        if isinstance(item, Step):
            for hop in item.hops:
                if isinstance(hop, Thread) and hop.bead not in beads:
                    hint = (
                        nearest(hop.bead, beads)
                        or "Add a part: beads, with a line such as: shell 8 mm #f4f2ec"
                    )
                    self._say(path, f"there is no bead “{hop.bead}”", hint)


def _added(weave: Weave, cord: str) -> bool:
    return any(
        isinstance(i, Add) and any(e.split(".")[0] == cord for e in i.ends)
        for s in weave.sections
        for i in s.items
    )


def _comes_in(weave: Weave, cord: str) -> bool:
    """Whether ends of a cord that do not hang at first come in later: by `add`, or when the work is rotated."""
    for section in weave.sections:
        for item in section.items:
            if isinstance(item, Rotate) and any(e.split(".")[0] == cord for e in weave.hang.ends):
                return True
            if isinstance(item, Add) and any(e.split(".")[0] == cord for e in item.ends):
                return True
    return False
