"""The sheet as data: everything a reader needs to tie the piece with nobody beside them. Renderers only draw it."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, replace

from dim_ladder.base import InputError, format_length
from dim_ladder.calibrate import Calibration
from dim_ladder.library import CAUTIONS, FASTENINGS, FINISHES, VOCABULARIES, cord_kind
from dim_ladder.notation import Call, Weave, working_ends
from dim_ladder.picture.diagrams import diagram
from dim_ladder.picture.display import WHITE, Ink, Picture
from dim_ladder.picture.former import round_picture
from dim_ladder.picture.look import Style
from dim_ladder.picture.palette import palette_words
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.publish.steps import SheetSection, sections_told, ways_of
from dim_ladder.scale import Piece, Plan, solve
from dim_ladder.scale.cuts import fold_words, odds, tails
from dim_ladder.trace import Trace, trace
from dim_ladder.trace.ends import letter
from dim_ladder.trace.former import former_work
from dim_ladder.words.phrases import cord_colour, hung_words, listing
from dim_ladder.words.sentences import hang_sentence


@dataclass(frozen=True, slots=True)
class SheetCord:
    """A cord on the sheet. letters : its ends."""

    name: str
    words: str
    colour: str
    colour_word: str
    letters: str


@dataclass(frozen=True, slots=True)
class CutRow:
    """One cord in one size. cut, fold : for people. chance : of running short, in words."""

    cord: str
    colour: str
    cut: str
    fold: str
    chance: str
    cut_mm: float
    fold_offset_mm: float


@dataclass(frozen=True, slots=True)
class SizeColumn:
    """One size: counts by section, tied length, cuts; problem : why it cannot be made, if so. chance_short : that any end of a
    piece is short."""

    name: str
    size: str
    counts: tuple[tuple[str, int], ...]
    length: str
    cuts: tuple[CutRow, ...]
    problem: str = ""
    chance_short: float = 0.0


@dataclass(frozen=True, slots=True)
class Sheet:
    title: str
    summary: str
    purpose: str
    designer: str
    licence: str
    date: str
    basis: str
    cords: tuple[SheetCord, ...]
    hanging: str
    target: str
    sizes: tuple[SizeColumn, ...]
    fastening: str
    sections: tuple[SheetSection, ...]
    cautions: tuple[str, ...]
    tools: tuple[str, ...]
    care: str
    glossary: tuple[tuple[str, str], ...]
    cover: Picture | None
    palette: str = ""
    faces: tuple[Picture, ...] = ()

    @property
    def version(self) -> str:
        """Eight signs that differ where anything differs that is said or cut."""
        said = [s.sentence for part in self.sections for s in part.steps]
        text = "\n".join([self.title, *said, cuts_text(self), self.date])
        return hashlib.sha256(text.encode("utf-8")).hexdigest()[:8]


def cuts_text(sheet: Sheet) -> str:
    """The cuts of all sizes as plain text, a line a size."""
    lines = []
    for s in sheet.sizes:
        cuts = ", ".join(f"{c.cord} {c.cut}" for c in s.cuts)
        lines.append(f"{s.name} {s.size}: {s.problem or cuts}")
    return "\n".join(lines)


def build_sheet(
    weave: Weave, calibration: Calibration | None, plan: Plan, choices: SheetChoices, *, ink: Ink = WHITE,
    faces: tuple[Picture, ...] = (),
) -> Sheet:  # fmt: skip
    """Make the sheet of a weave. Raises InputError when its steps cannot be traced.

    calibration : None when there is nothing to count yet; the sheet then has no cut table. faces : the work pulled tight, front and
    back; none where it is not known.
    """
    t = trace(weave)
    if t.problems:
        raise InputError.of(t.problems)
    voice = choices.vocabulary
    columns = (
        tuple(_column(weave, calibration, plan, choices, row.name, row.size_mm) for row in choices.sizes)
        if calibration
        else ()
    )
    counts = {c.name: dict(c.counts) for c in columns if not c.problem}
    sections = sections_told(weave, ways_of(weave, counts), ink, plan, choices)
    steps = sum(len(s.steps) for s in sections)
    passes = sum(h.edge >= 0 for r in t.steps for h in r.hops)
    finishes = _finishes(weave)
    return Sheet(
        weave.name,
        f"{steps} different steps, {passes} passes through loops, {len(working_ends(weave))} ends in hand: "
        f"{_difficulty(steps, passes, len(working_ends(weave)))}",
        choices.purpose,
        choices.designer,
        choices.licence,
        choices.date,
        _basis(calibration) + _short(weave, plan, choices, columns),
        sheet_cords(weave),
        hanging_words(weave, t, voice),
        "girth" if plan.target == "girth" else "length",
        columns,
        _fastening(weave, plan),
        sections,
        _cautions(finishes, plan),
        _tools(weave, finishes, t),
        choices.care,
        _glossary(weave, t, voice),
        None if faces else _cover(weave, ink),
        _palette(weave),
        faces,
    )


def _palette(weave: Weave) -> str:
    """Which cords look alike to some eyes or in grey print, and what tells them apart then."""
    said = palette_words([c.name for c in weave.cords], [c.colour for c in weave.cords])
    return f"{said} The stripes along them and the letters tell them apart." if said else ""


def _difficulty(steps: int, passes: int, ends: int) -> str:
    score = steps / 4 + passes / 2 + ends / 4
    return "easy" if score < 3.2 else "needs attention" if score < 8 else "for the practised hand"


def _basis(calibration: Calibration | None) -> str:
    if calibration is None:
        return "Nothing to count yet."
    if calibration.ties == 0:
        return (
            "Cord is estimated from the drawing alone; no test tie has been logged, so the cuts are generous."
        )
    word = "tie" if calibration.ties == 1 else "ties"
    doubt = f" {calibration.in_doubt}." if calibration.in_doubt else ""
    return f"Cord is calibrated from {calibration.ties} test {word}.{doubt}"


def _fastening(weave: Weave, plan: Plan) -> str:
    if weave.sections and all(s.former is not None for s in weave.sections):
        return "none, it slips on"
    return FASTENINGS[plan.fastening].words if plan.fastening in FASTENINGS else "no fastening"


def _short(weave: Weave, plan: Plan, choices: SheetChoices, columns: Sequence[SizeColumn]) -> str:
    """What running short means, and how often a piece does."""
    made = [c for c in columns if c.cuts]
    need = max(tails(weave, plan).need.values(), default=0.0)
    if not made:
        return ""
    return (
        f" Short is an end of which less than {format_length(need, choices.units)} is left for its finish; "
        f"the chance that a piece has one: {odds(max(c.chance_short for c in made))}."
    )


def sheet_cords(weave: Weave) -> tuple[SheetCord, ...]:
    """The cords that have ends, with their letters."""
    out = []
    for c in weave.cords:
        letters = [letter(i) for i, e in enumerate(working_ends(weave)) if e.split(".")[0] == c.name]
        if letters:
            kind = cord_kind(c.kind).words
            out.append(SheetCord(c.name, kind, c.colour, cord_colour(weave, c), listing(letters)))
    return tuple(out)


def hanging_words(weave: Weave, t: Trace, voice: str) -> str:
    """How the work is hung."""
    how = f"Hang the cords {hung_words(weave)}. "
    return how + hang_sentence(t, voice) + (f" {weave.hang.note}." if weave.hang.note else "")


def _finishes(weave: Weave) -> list[str]:
    return [i.knot for s in weave.sections for i in s.items if isinstance(i, Call) and i.knot in FINISHES]


def _column(
    weave: Weave, calibration: Calibration, plan: Plan, choices: SheetChoices, name: str, size_mm: float
) -> SizeColumn:
    system = choices.units
    size = format_length(size_mm, system)
    chosen = plan.chosen if abs(size_mm - plan.size_mm) < 0.05 else {}
    try:
        piece = solve(weave, calibration, plan.model_copy(update={"size_mm": size_mm, "chosen": chosen}))
    except InputError as e:
        return SizeColumn(name, size, (), "", (), str(e))
    return SizeColumn(
        name,
        size,
        tuple(piece.counts.items()),
        format_length(piece.option.length_mm, system),
        cut_rows(piece, system),
        chance_short=piece.chance_short,
    )


def cut_rows(piece: Piece, system: str) -> tuple[CutRow, ...]:
    """A piece's cuts for people."""
    out = []
    for c in piece.cuts:
        fold = fold_words(c, piece.order, system)
        out.append(
            CutRow(
                c.cord,
                c.colour,
                format_length(c.cut_mm, system),
                fold,
                odds(c.chance_short),
                c.cut_mm,
                c.fold_offset_mm,
            )
        )
    return tuple(out)


def _cautions(finishes: list[str], plan: Plan) -> tuple[str, ...]:
    keys: list[str] = []
    for f in finishes:
        keys += FINISHES[f].cautions
    if plan.fastening in FASTENINGS:
        keys += FASTENINGS[plan.fastening].cautions
    keys += ["neck", "load", "rules"]
    return tuple(CAUTIONS[k] for k in dict.fromkeys(keys))


HANG_TOOLS = {
    "there-and-back": "a buckle, or two bars, to work between",
    "thirds": "a bar to hang the work on",
    "closed-loop": "two bars to hang the loop between",
    "cold-start": "a clip or a board to hold the ends",
    "former": "a round former and a clip",
    "loop": "a hook for the loop",
}


def _tools(weave: Weave, finishes: list[str], t: Trace) -> tuple[str, ...]:
    out = ["tape measure", "sharp scissors"]
    out.append(
        HANG_TOOLS.get(weave.hang.on, "something to hang the work on: " + weave.hang.on.replace("-", " "))
    )
    out += [
        f"a {p.text.replace('-', ' ')} to pass"
        for r in t.steps
        for p in r.placed
        if p.kind == "pass" and p.text != weave.hang.on
    ]
    for f in finishes:
        if "flame" in FINISHES[f].cautions:
            out += ["a flame or hot knife, and a piece of metal to press with"]
        if "glue" in FINISHES[f].cautions:
            out.append("glue")
        if "point" in FINISHES[f].cautions:
            out.append("needle and thread")
    return tuple(dict.fromkeys(out))


def _glossary(weave: Weave, t: Trace, voice: str) -> tuple[tuple[str, str], ...]:
    words = VOCABULARIES[voice]
    out = [
        ("Over, under", "crossing in front of, or behind, what hangs there"),
        (
            words.end.capitalize(),
            "a hanging cord that is worked with; each has a letter by its place at the start",
        ),
    ]
    if any(h.edge >= 0 for r in t.steps for h in r.hops):
        out.append(
            (
                "Loop",
                "the bend that an end made in its last step; the ring in the picture shows where to pass",
            )
        )
    knots = dict.fromkeys(
        i.knot for s in weave.sections for i in s.items if isinstance(i, Call) and i.knot not in FINISHES
    )
    for k in knots:
        others = sorted({v.knot(k) for v in VOCABULARIES.values()} - {words.knot(k)})
        if others:
            out.append((words.knot(k).capitalize(), "also said: " + ", ".join(others)))
    return tuple(out)


def _cover(weave: Weave, ink: Ink) -> Picture | None:
    body = next((s for s in weave.sections if s.kind == "body"), None)
    if body is None:
        return None
    if body.former is not None:
        colours = [c.colour for c in weave.cords] or ["#888888"]
        picture = round_picture(former_work(body), colours, None, ink, 260.0)
        return replace(picture, title=f"{weave.name}, seen along the former")
    t = trace(weave, section=body.name, units=3)
    if t.problems or not t.crossings:
        return None
    picture = diagram(t, 0, len(t.steps) - 1, ink, Style(unit=22.0, row=24.0, cord=10.5, labels=False))
    return replace(picture, title=f"{weave.name}, three units of {body.name}")
