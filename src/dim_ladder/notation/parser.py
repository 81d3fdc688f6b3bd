"""Script text to a Weave, with every problem of the text at once, each with line, column and remedy."""

from __future__ import annotations

import difflib
from collections.abc import Iterable
from dataclasses import dataclass, field, replace

from dim_ladder.base import InputError, Problem
from dim_ladder.notation.lexer import Token, split_note, tokens
from dim_ladder.notation.values import (
    SECTION_KINDS,
    TENSIONS,
    Call,
    Cord,
    Count,
    Cross,
    Hang,
    Hop,
    Item,
    Knot,
    Loop,
    Param,
    Ref,
    Section,
    Step,
    Through,
    Weave,
)

MAX_CHARACTERS = 2_000_000
MAX_LINES = 120_000
MAX_COUNT = 10_000
HOPS = ("over", "under", "up", "down")
WORDS = {*HOPS, *TENSIONS, "own"}
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


class _Wrong(Exception):
    def __init__(self, message: str, hint: str = "", column: int = 1, length: int = 1) -> None:
        super().__init__(message)
        self.message, self.hint, self.column, self.length = message, hint, column, length


class _Line:
    """A cursor over the tokens of one line."""

    def __init__(self, toks: list[Token], end_column: int) -> None:
        self.toks = toks
        self.i = 0
        self.end_column = end_column

    @property
    def now(self) -> Token | None:
        return self.toks[self.i] if self.i < len(self.toks) else None

    def peek(self, text: str) -> bool:
        return self.now is not None and self.now.text == text

    def take(self, text: str) -> bool:
        if self.peek(text):
            self.i += 1
            return True
        return False

    def wrong(self, expected: str, hint: str = "") -> _Wrong:
        t = self.now
        if t is None:
            return _Wrong(f"the line ends where {expected} was expected", hint, self.end_column)
        return _Wrong(f"expected {expected}, found “{t.text}”", hint, t.column, len(t.text))

    def need(self, text: str, hint: str = "") -> None:
        if not self.take(text):
            raise self.wrong(f"“{text}”", hint)

    def want(self, kind: str, expected: str, hint: str = "") -> Token:
        t = self.now
        if t is None or t.kind != kind:
            raise self.wrong(expected, hint)
        self.i += 1
        return t

    def done(self, after: str) -> None:
        if self.now is not None:
            raise _Wrong(
                f"“{self.now.text}” is left over after {after}", "", self.now.column, len(self.now.text)
            )


def nearest(word: str, known: Iterable[str]) -> str:
    """A remedy naming the closest known word, or listing a few."""
    options = sorted(set(known))
    close = difflib.get_close_matches(word, options, 1, 0.5)
    if close:
        return f"Did you mean “{close[0]}”?"
    return f"Known here: {', '.join(options[:8])}" if options else ""


def parse(text: str) -> Parsed:
    """Read a script. Never raises for a bad script: see Parsed.problems."""
    if len(text) > MAX_CHARACTERS or text.count("\n") > MAX_LINES:
        problem = Problem("The script is too long to be a weave", f"At most {MAX_LINES:,} lines", 1, 1)
        return Parsed(Weave(""), (problem,))
    return _Parser(text).run()


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
            raise _Wrong(
                "this is not a step" if not toks else f"“{body.strip()[bad - 1]}” cannot be read here",
                "",
                bad or 1,
            )
        return _Parser("")._item(_Line(toks, len(body) + 1), note)
    except _Wrong as w:
        raise InputError.of((Problem(w.message, w.hint, 1, w.column, w.length),)) from None


def parse_count(text: str, sections: Iterable[str] = ()) -> Count:
    """A section's count: "repeat 12", "fit", "fit pairs", "fit multiple of 3", "same as bar"."""
    toks, _ = tokens(text.strip())
    parser = _Parser("")
    parser.sections = [Section(name, "body") for name in sections]
    line = _Line(toks, len(text) + 1)
    try:
        count = parser._count(line)
        line.done("the count")
    except _Wrong as w:
        raise InputError(w.message, w.hint) from None
    return count


class _Parser:
    def __init__(self, text: str) -> None:
        self.lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
        self.problems: list[Problem] = []
        self.where: dict[Path, tuple[int, int]] = {}
        self.name: str | None = None
        self.cords: list[Cord] = []
        self.hang: Hang | None = None
        self.knots: list[Knot] = []
        self.sections: list[Section] = []
        self.block = ""
        self.items: list[Item] = []
        self.steps: list[Step] = []
        self.lead: list[str] = []
        self.weave_lead: tuple[str, ...] = ()
        self.number = 0

    def run(self) -> Parsed:
        for number, raw in enumerate(self.lines, 1):
            self.number = number
            body, note = split_note(raw)
            if not body.strip():
                if note or raw.strip().startswith("--"):
                    self.lead.append(note)
                continue
            line = body.rstrip()
            toks, bad = tokens(line)
            try:
                if bad:
                    raise _Wrong(f"“{line[bad - 1]}” cannot be read here", "", bad)
                self._line(_Line(toks, len(line) + 1), line[0].isspace(), note)
            except _Wrong as w:
                self.problems.append(Problem(w.message, w.hint, self.number, w.column, max(1, w.length)))
                self.lead.clear()
        self._close()
        weave = Weave(
            self.name or "Unnamed",
            tuple(self.cords),
            self.hang or Hang(),
            tuple(self.knots),
            tuple(self.sections),
            self.weave_lead,
            tuple(self.lead),
        )
        if self.name is None:
            self.problems.append(Problem("the weave has no name", 'Begin with: weave "A name"', 1, 1))
        self._check_names(weave)
        self.problems.sort(key=lambda p: (p.line, p.column))
        return Parsed(weave, tuple(self.problems), self.where)

    def _take_lead(self) -> tuple[str, ...]:
        lead = tuple(self.lead)
        self.lead.clear()
        return lead

    # -- blocks ---------------------------------------------------------------------------------

    def _line(self, ln: _Line, indented: bool, note: str) -> None:
        first = ln.toks[0]
        if not indented:
            self._close()
            heads = {
                "weave": self._weave,
                "cords": self._cords,
                "hang": self._hang,
                "knot": self._knot,
                "section": self._section,
            }
            head = heads.get(first.text)
            if head is None:
                raise _Wrong(
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
        elif self.block == "hang":
            self._hang_ends(ln, note)
        elif self.block == "knot":
            self.where["knot", self.knots[-1].name, len(self.steps)] = (self.number, first.column)
            self.steps.append(self._step(ln, note))
        elif self.block == "section":
            self.where["section", len(self.sections) - 1, len(self.items)] = (self.number, first.column)
            self.items.append(self._item(ln, note))
        elif self.block != "skip":
            raise _Wrong(
                "this line belongs to nothing",
                "Begin a part first: cords, hang, knot or section",
                first.column,
            )

    def _close(self) -> None:
        if self.block == "knot" and self.knots:
            self.knots[-1] = replace(self.knots[-1], steps=tuple(self.steps))
        if self.block == "section" and self.sections:
            self.sections[-1] = replace(self.sections[-1], items=tuple(self.items))
        self.steps, self.items, self.block = [], [], ""

    def _weave(self, ln: _Line, note: str) -> None:
        t = ln.want("string", "the weave's name in quotes", 'Write it as: weave "Tern Ladder"')
        if self.name is not None:
            raise _Wrong("the weave is named twice", "", t.column, len(t.text))
        self.name = t.text[1:-1].strip() or "Unnamed"
        self.weave_lead = self._take_lead() + ((note,) if note else ())
        ln.done("the name")

    def _cords(self, ln: _Line, note: str) -> None:
        self.block = "cords"
        if note:
            self.lead.append(note)
        ln.done("cords")

    def _cord(self, ln: _Line, note: str) -> None:
        name = ln.want("name", "the cord's name")
        if "." in name.text or name.text in WORDS:
            raise _Wrong(f"“{name.text}” cannot name a cord", "Use a plain word", name.column, len(name.text))
        if any(c.name == name.text for c in self.cords):
            raise _Wrong(
                f"there are two cords called “{name.text}”", "Rename one", name.column, len(name.text)
            )
        kind = ln.want("name", "its kind", "Write it as: tide nylon-4mm #1f6f8b")
        colour = ln.want("colour", "its colour", "Six digits after #, such as #1f6f8b")
        self.where["cord", len(self.cords)] = (self.number, name.column)
        ln.done("the cord's colour")
        self.cords.append(Cord(name.text, kind.text, colour.text.lower(), self._take_lead(), note))

    def _hang(self, ln: _Line, note: str) -> None:
        if self.hang is not None:
            raise _Wrong("the cords are hung twice", "Keep one hang part")
        on = "bar"
        if ln.take("on"):
            on = ln.want("name", "what the cords hang on", "bar, ring, buckle, loop or former").text
        self.block = "hang"
        self.hang = Hang((), on, self._take_lead(), note)
        self.where["hang",] = (self.number, 1)
        ln.done("hang")

    def _hang_ends(self, ln: _Line, note: str) -> None:
        assert self.hang is not None
        ends = list(self.hang.ends)
        while ln.now is not None:
            t = ln.want("name", "a working end such as tide.a")
            if "." not in t.text:
                raise _Wrong(
                    f"“{t.text}” is a cord, not an end",
                    f"Write {t.text}.a or {t.text}.b",
                    t.column,
                    len(t.text),
                )
            if t.text in ends:
                raise _Wrong(f"{t.text} hangs twice", "Each end has one place", t.column, len(t.text))
            ends.append(t.text)
        self.hang = replace(
            self.hang,
            ends=tuple(ends),
            note="; ".join(n for n in (self.hang.note, note) if n),
            lead=self.hang.lead + self._take_lead(),
        )

    def _knot(self, ln: _Line, note: str) -> None:
        name = ln.want("name", "the knot's name")
        if any(k.name == name.text for k in self.knots):
            raise _Wrong(
                f"there are two knots called “{name.text}”", "Rename one", name.column, len(name.text)
            )
        self.where["knot", name.text] = (self.number, name.column)
        if ln.take("="):
            how = ln.want("name", "mirror or flip")
            if how.text not in ("mirror", "flip"):
                raise _Wrong(
                    f"“{how.text}” is not a way to make a knot from another",
                    "mirror exchanges left and right, flip exchanges front and back",
                    how.column,
                    len(how.text),
                )
            source = ln.want("name", "the other knot's name")
            known = {k.name for k in self.knots}
            if source.text not in known:
                raise _Wrong(
                    f"no knot “{source.text}” stands above",
                    nearest(source.text, known),
                    source.column,
                    len(source.text),
                )
            ln.done("the knot")
            self.knots.append(Knot(name.text, (), (), how.text, source.text, self._take_lead(), note))
            return
        params = self._params(ln)
        ln.done("the knot's places")
        self.block = "knot"
        self.knots.append(Knot(name.text, params, (), "", "", self._take_lead(), note))

    def _params(self, ln: _Line) -> tuple[Param, ...]:
        hint = "Write them as: knot half-right (w | c.. | v)"
        ln.need("(", hint)
        out: list[Param] = []
        while True:
            t = ln.want("name", "a name for a place", hint)
            if "." in t.text or t.text in WORDS:
                raise _Wrong(f"“{t.text}” cannot name a place", hint, t.column, len(t.text))
            if any(p.name == t.text for p in out):
                raise _Wrong(f"two places are called “{t.text}”", "", t.column, len(t.text))
            rest = ln.take("..")
            if rest and any(p.rest for p in out):
                raise _Wrong("only one place can take what is left over", "", t.column, len(t.text))
            out.append(Param(t.text, rest))
            if ln.take(")"):
                return tuple(out)
            ln.need("|", hint)

    def _section(self, ln: _Line, note: str) -> None:
        name = ln.want("name", "the section's name")
        if any(s.name == name.text for s in self.sections):
            raise _Wrong(
                f"there are two sections called “{name.text}”", "Rename one", name.column, len(name.text)
            )
        ln.need(":", "Write it as: section bar: body, fit pairs")
        kind = ln.want("name", "start, body or finish")
        if kind.text not in SECTION_KINDS:
            raise _Wrong(
                f"“{kind.text}” is not a kind of section",
                "start, body or finish",
                kind.column,
                len(kind.text),
            )
        count = self._count(ln) if ln.take(",") else Count()
        ln.done("the section's count")
        self.where["section", len(self.sections)] = (self.number, name.column)
        self.block = "section"
        self.sections.append(Section(name.text, kind.text, count, (), self._take_lead(), note))

    def _count(self, ln: _Line) -> Count:
        hint = "repeat 12, fit, fit pairs, fit multiple of 3, or same as another section"
        if ln.take("repeat"):
            return Count("repeat", self._number(ln, "how often"))
        if ln.take("fit"):
            if ln.take("pairs"):
                return Count("fit", 2)
            if ln.take("multiple"):
                ln.need("of", hint)
                return Count("fit", self._number(ln, "the multiple"))
            return Count("fit", 1)
        if ln.take("same"):
            ln.need("as", hint)
            t = ln.want("name", "a section's name", hint)
            known = {s.name for s in self.sections}
            if t.text not in known:
                raise _Wrong(
                    f"no section “{t.text}” stands above", nearest(t.text, known), t.column, len(t.text)
                )
            return Count("same", 1, t.text)
        raise ln.wrong("a count", hint)

    def _number(self, ln: _Line, what: str) -> int:
        t = ln.want("number", what)
        value = int(t.text[:9])
        if not 1 <= value <= MAX_COUNT:
            raise _Wrong(f"{t.text} is out of bounds", f"1 to {MAX_COUNT:,}", t.column, len(t.text))
        return value

    # -- steps ----------------------------------------------------------------------------------

    def _ref(self, ln: _Line, expected: str) -> Ref:
        t = ln.now
        if t is not None and t.kind == "number":
            return self._number(ln, "a place")
        if t is not None and t.kind == "name" and t.text not in WORDS:
            ln.i += 1
            return t.text
        raise ln.wrong(expected)

    def _item(self, ln: _Line, note: str) -> Item:
        if len(ln.toks) > 1 and ln.toks[1].text == "(":
            return self._call(ln, note)
        return self._step(ln, note)

    def _call(self, ln: _Line, note: str) -> Call:
        name = ln.want("name", "a knot's name")
        ln.need("(")
        groups: list[tuple[Ref, ...]] = []
        group: list[Ref] = []
        while True:
            if ln.take(")"):
                groups.append(tuple(group))
                break
            if ln.take("|"):
                groups.append(tuple(group))
                group = []
                continue
            group.append(self._ref(ln, "a place number, an end, “|” or “)”"))
        ln.done("the knot")
        return Call(name.text, tuple(groups), self._take_lead(), note)

    def _step(self, ln: _Line, note: str) -> Step:
        end = self._ref(ln, "the end that moves, such as tide.a or a place number")
        if ln.peek("+"):
            raise ln.wrong("“:”", "Moving several ends as one is not there yet; write a step for each")
        ln.need(":", "A step is written as: v: over c, under w")
        hops: list[Hop] = []
        tension = ""
        while True:
            hops.append(self._hop(ln))
            if ln.now is not None and ln.now.text in TENSIONS:
                tension = ln.now.text
                ln.i += 1
            if ln.now is None:
                break
            if tension or not ln.take(","):
                raise ln.wrong("a comma or the end of the step")
        return Step(end, tuple(hops), tension, note, self._take_lead())

    def _hop(self, ln: _Line) -> Hop:
        t = ln.now
        if t is None or t.text not in HOPS:
            raise ln.wrong("over, under, up or down", nearest(t.text, HOPS) if t else "")
        ln.i += 1
        if t.text in ("over", "under"):
            refs = [self._ref(ln, "the tail it crosses")]
            while (n := ln.now) is not None and (
                n.kind == "number" or (n.kind == "name" and n.text not in WORDS)
            ):
                refs.append(self._ref(ln, "a tail"))
            return Cross(t.text == "over", tuple(refs))
        if ln.take("own"):
            return Through(t.text == "up", Loop(None))
        if ln.peek("gap") or ln.peek("@"):
            raise ln.wrong("own or an end whose loop it is", "Gaps and named loops are not there yet")
        return Through(t.text == "up", Loop(self._ref(ln, "own or the end whose loop it is")))

    # -- names across lines -----------------------------------------------------------------------

    def _say(self, path: Path, message: str, hint: str = "") -> None:
        line, column = self.where.get(path, (1, 1))
        self.problems.append(Problem(message, hint, line, column))

    def _check_names(self, weave: Weave) -> None:
        cords = {c.name for c in weave.cords}
        for end in weave.hang.ends:
            cord, _, letter = end.partition(".")
            if cord not in cords:
                self._say(("hang",), f"{end} hangs, but there is no cord “{cord}”", nearest(cord, cords))
            elif letter not in ("a", "b"):
                self._say(("hang",), f"{end} is not an end", f"A cord has two ends: {cord}.a and {cord}.b")
        for knot in weave.knots:
            names = {p.name for p in knot.params}
            for i, step in enumerate(knot.steps):
                for ref in step_refs(step):
                    if isinstance(ref, int):
                        self._say(
                            ("knot", knot.name, i),
                            f"a knot names its places; “{ref}” is a number",
                            nearest("", names),
                        )
                    elif ref not in names:
                        self._say(
                            ("knot", knot.name, i),
                            f"“{ref}” is not a place of {knot.name}",
                            nearest(ref, names),
                        )
        ends = set(weave.hang.ends)
        for s, section in enumerate(weave.sections):
            for i, item in enumerate(section.items):
                refs = step_refs(item) if isinstance(item, Step) else [r for g in item.groups for r in g]
                for ref in refs:
                    if isinstance(ref, str) and ref not in ends:
                        self._say(("section", s, i), f"no end “{ref}” hangs here", nearest(ref, ends))


def step_refs(step: Step) -> list[Ref]:
    """Every end or place a step speaks of, the moving one first."""
    refs: list[Ref] = [step.end]
    for hop in step.hops:
        if isinstance(hop, Cross):
            refs.extend(hop.refs)
        elif hop.loop.ref is not None:
            refs.append(hop.loop.ref)
    return refs
