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
    MOST_LINE,
    MOST_NAME,
    MOST_PROBLEMS,
    MOST_REFS,
    MOST_SECTIONS,
    MOST_TAILS,
)
from dim_ladder.notation.clauses import CLAUSES, COUNTS, read_clause, read_count, read_params
from dim_ladder.notation.cursor import Cursor, Wrong, nearest
from dim_ladder.notation.lexer import Token, split_note, tokens
from dim_ladder.notation.names import Path, check_names
from dim_ladder.notation.refs import item_refs
from dim_ladder.notation.steps import WORDS, read_call, read_item, read_step
from dim_ladder.notation.values import (
    SECTION_KINDS,
    Bead,
    Call,
    Cord,
    Count,
    Hang,
    Item,
    Knot,
    Section,
    Step,
    Weave,
)

MAX_CHARACTERS = 2_000_000
MAX_LINES = 25_000


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
    check_names(weave, p._say)
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
    line = Cursor(toks, len(text) + 1)
    try:
        count = read_count(line, set(sections))
        line.done("the count")
    except Wrong as w:
        raise InputError(w.message, w.hint) from None
    return count


HOW = ("repeat", "fit", "same", "for", "as", "mirror", "flip", "end", "spiral")


def parse_how(text: str, sections: Iterable[str] = ()) -> Section:
    """How often a section is worked, and how its units take turns: "fit pairs", "fit, mirror every other", "repeat 12, spiral".
    A section of no name and no items. Raises InputError."""
    toks, bad = tokens(text.strip())
    line, section, above = Cursor(toks, len(text) + 1), Section("", "body"), set(sections)
    try:
        if bad:
            raise Wrong(f"“{text.strip()[bad - 1]}” cannot be read here", COUNTS, bad)
        more = True
        while more:
            if not any(line.peek(word) for word in HOW):
                raise line.wrong("a count", COUNTS)
            section = read_clause(line, section, above, {})
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
        self.misread: set[str] = set()  # cords whose own line cannot be read: that is said once
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
        check_names(weave, self._say, self.misread - {c.name for c in self.cords})
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
        self.misread.add(name.text)
        if "." in name.text or name.text in WORDS:
            why = f"“{name.text}” is a word of the script" if name.text in WORDS else "it has a dot in it"
            remedy = f"Name it otherwise: {why}"
            raise Wrong(f"“{name.text}” cannot name a cord", remedy, name.column, len(name.text))
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
        params = read_params(ln)
        ln.done("the knot's places")
        self.block = "knot"
        self.knots.append(Knot(name.text, params, (), "", "", self._take_lead(), note))

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
            section = read_clause(ln, section, {s.name for s in self.sections}, self.layers)
            if ln.now is not None and not ln.peek("code"):
                ln.need(",")
        ln.done("the section")
        self.where["section", len(self.sections)] = (self.number, name.column)
        self.block = "section"
        self.sections.append(replace(section, lead=self._take_lead(), note=note))

    # -- names across lines -----------------------------------------------------------------------

    def _say(self, path: Path, message: str, hint: str = "") -> None:
        if len(self.problems) >= MOST_PROBLEMS:
            return
        line, column = self.where.get(path, (1, 1))
        self.problems.append(Problem(message, hint, line, column))
