"""The sheet as data: everything a reader needs to tie the piece with nobody beside them. Renderers only draw it."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from dim_ladder.base import InputError, format_length
from dim_ladder.calibrate import Calibration
from dim_ladder.calibrate.guesses import guess_words
from dim_ladder.calibrate.timing import Timing
from dim_ladder.library import CAUTIONS, FINISHES, VOCABULARIES
from dim_ladder.notation import Call, Weave, working_ends
from dim_ladder.picture.diagrams import diagram
from dim_ladder.picture.display import WHITE, Ink, Picture
from dim_ladder.picture.former import round_picture
from dim_ladder.picture.look import Style
from dim_ladder.picture.palette import palette_words
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.publish.effort import basis_words, difficulty, piece_minutes
from dim_ladder.publish.materials import SheetCord, finishes_of, joined, materials, sheet_cords, tools
from dim_ladder.publish.reworded import Flagged, reword
from dim_ladder.publish.seen import Seen, checkpoints
from dim_ladder.publish.steps import SheetSection, sections_told, ways_of
from dim_ladder.scale import Closing, Piece, Plan, closing_of, solve
from dim_ladder.scale.cuts import finish_needs, fold_words, odds
from dim_ladder.scale.stretch import span_words
from dim_ladder.trace import Trace, trace
from dim_ladder.trace.former import former_work
from dim_ladder.words.phrases import hung_words, listing
from dim_ladder.words.sentences import hang_sentence

NOTHING_SEEN = Seen()


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
    piece is short. off : by how much it misses the size, in words; minutes : how long it takes, "" where that is not known."""

    name: str
    size: str
    counts: tuple[tuple[str, int], ...]
    length: str
    cuts: tuple[CutRow, ...]
    problem: str = ""
    chance_short: float = 0.0
    off: str = ""
    minutes: str = ""


@dataclass(frozen=True, slots=True)
class Sheet:
    """Data for every renderer. materials : what is needed besides cord. fits : how a size becomes a length, in words. flagged : the
    designer's words whose step has changed; they stand on no sheet. photo : a JPEG of the designer's own, or nothing. piece : the whole
    of it, front and back, lying, but for the sections `missing`, for want of which there may be none; faces : some of it near by, seen from `sides`, where that shows more."""

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
    materials: tuple[str, ...] = ()
    fits: str = ""
    flagged: tuple[Flagged, ...] = ()
    photo: bytes = b""
    piece: tuple[Picture, ...] = ()
    sides: tuple[str, str] = ("front", "back")
    missing: tuple[str, ...] = ()

    @property
    def piece_sides(self) -> tuple[str, str]:
        """What the two pictures of the whole piece are called, and what is not in them."""
        names = listing([m.replace("-", " ") for m in self.missing])
        return ("front", f"back; {names} not drawn" if names else "back")

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
    seen: Seen = NOTHING_SEEN,
) -> Sheet:  # fmt: skip
    """Make the sheet of a weave. Raises InputError when its steps cannot be traced.

    calibration : None when there is nothing to count yet; the sheet then has no cut table. seen : the work pulled tight, its
    checkpoints and slips, as far as they are known.
    """
    t, closing = trace(weave), closing_of(weave, plan)
    if t.problems:
        raise InputError.of(t.problems)
    voice = choices.vocabulary
    columns = (
        tuple(
            _column(weave, calibration, plan, choices, row.name, row.size_mm, seen.times)
            for row in choices.sizes
        )
        if calibration
        else ()
    )
    counts = {c.name: dict(c.counts) for c in columns if not c.problem}
    told = sections_told(weave, ways_of(weave, counts), ink, plan, choices)
    sections, flagged = reword(told, choices)
    sections = tuple(with_seen(s, weave, calibration, counts, seen, choices.units) for s in sections)
    steps = sum(len(s.steps) for s in sections)
    own = [r for r in t.steps if not r.quiet and r.op.unit == 0]
    passes = sum(h.edge >= 0 for r in own for h in r.hops)
    finishes = finishes_of(weave)
    return Sheet(
        weave.name,
        f"{_many(steps, 'different step')}, {_many(passes, 'pass', 'es')} through loops, {_many(len(working_ends(weave)), 'end')} in hand: "
        f"{difficulty(weave, t, steps)}",
        choices.purpose,
        choices.designer,
        choices.licence,
        choices.date,
        _basis(calibration)
        + _short(weave, plan, choices, columns)
        + _timed(columns, seen.times)
        + _not_shown(seen),
        sheet_cords(weave),
        hanging_words(weave, t, voice),
        "girth" if plan.target == "girth" else "length",
        columns,
        closing.of.words,
        sections,
        _cautions(weave, finishes, closing),
        tools(weave, finishes, t),
        choices.care,
        glossary(weave, t, voice),
        None if seen.faces or seen.piece else _cover(weave, ink),
        _palette(weave),
        seen.faces,
        materials(weave, t, plan, counts, choices.units),
        _fits(plan, closing, calibration, choices, columns),
        flagged,
        seen.photo,
        seen.piece,
        seen.sides,
        seen.missing,
    )


def with_seen(
    section: SheetSection, weave: Weave, calibration: Calibration | None, counts: Mapping[str, Mapping[str, int]],
    seen: Seen, system: str,
) -> SheetSection:  # fmt: skip
    """A section with its checkpoints and its likeliest slips."""
    found = weave.section(section.name)
    if found is None or found.former is not None:
        return section
    slips = seen.slips.get(section.name, ())
    lies = bool(found.on or found.over) or (calibration is not None and section.name in calibration.lying)
    if found.kind != "body" or lies:  # what lies on other work has no length of its own
        return replace(section, slips=slips)
    fixed = found.count.number if found.count.kind == "repeat" else 0
    most = max((c.get(section.name, fixed) for c in counts.values()), default=fixed)
    return replace(section, slips=slips, checks=checkpoints(calibration, section.name, most, seen, system))


def _timed(columns: Sequence[SizeColumn], times: Timing | None) -> str:
    return f" {basis_words(times)}" if times is not None and any(c.minutes for c in columns) else ""


def _fits(
    plan: Plan,
    closing: Closing,
    calibration: Calibration | None,
    choices: SheetChoices,
    columns: Sequence[SizeColumn],
) -> str:
    """How the length to tie comes from a size."""
    if plan.target != "girth" or calibration is None or not any(c.cuts for c in columns):
        return ""
    ease = format_length(plan.ease_mm, choices.units)
    if calibration.prior.only_rings:
        return f"A ring is worked as large round inside as the girth and {ease} of ease."
    parts = f"the girth, {ease} of ease and what the thickness takes"
    adds = closing.adds_mm
    less = f", less {format_length(adds, choices.units)} of the fastening" if adds else ""
    return f"Tied is {parts}{less}."


def _many(number: int, word: str, plural: str = "s") -> str:
    return f"{number} {word}{'' if number == 1 else plural}"


def _palette(weave: Weave) -> str:
    """Which cords look alike to some eyes or in grey print, and what tells them apart then."""
    said = palette_words([c.name for c in weave.cords], [c.colour for c in weave.cords])
    return f"{said} The stripes along them and the letters tell them apart." if said else ""


def _basis(calibration: Calibration | None) -> str:
    if calibration is None:
        return "Nothing to count yet."
    doubt = "".join(f" {words}." for words in (calibration.in_doubt, guess_words(calibration)) if words)
    if calibration.ties == 0:
        return f"Cord is estimated from the drawing alone; no test tie has been logged, so the cuts are generous.{doubt}"
    word = "tie" if calibration.ties == 1 else "ties"
    return f"Cord is calibrated from {calibration.ties} test {word}.{doubt}"


def _not_shown(seen: Seen) -> str:
    """Why no finished piece is shown, where it is for want of a shape."""
    if seen.piece or not seen.missing:
        return ""
    names = listing([s.replace("-", " ") for s in seen.missing])
    return f" The finished piece is not shown: how {names} {'is' if len(seen.missing) == 1 else 'are'} pulled tight is not known."


def _short(weave: Weave, plan: Plan, choices: SheetChoices, columns: Sequence[SizeColumn]) -> str:
    """What running short means, and how often a piece does."""
    made = [c for c in columns if c.cuts]
    need, _ = finish_needs(weave, plan)
    if not made:
        return ""
    return (
        f" Short is an end of which less than {format_length(need, choices.units)} is left for its finish; "
        f"the chance that a piece has one: {odds(max(c.chance_short for c in made))}."
    )


def hanging_words(weave: Weave, t: Trace, voice: str) -> str:
    """How the work is hung."""
    cords = len({e.split(".")[0] for e in weave.hang.ends})
    how = f"Hang the {'cord' if cords == 1 else 'cords'} {hung_words(weave)}. "
    return how + hang_sentence(t, voice) + (f" {weave.hang.note}." if weave.hang.note else "")


def _column(
    weave: Weave, calibration: Calibration, plan: Plan, choices: SheetChoices, name: str, size_mm: float,
    times: Timing | None,
) -> SizeColumn:  # fmt: skip
    system = choices.units
    size = format_length(size_mm, system)
    chosen = plan.chosen if abs(size_mm - plan.size_mm) < 0.05 else plan.locked
    try:
        piece = solve(weave, calibration, plan.model_copy(update={"size_mm": size_mm, "chosen": chosen}))
    except InputError as e:
        return SizeColumn(name, size, (), "", (), str(e))
    return SizeColumn(
        name,
        size,
        tuple(piece.counts.items()),
        length_words(weave, piece, system),
        cut_rows(piece, system),
        chance_short=piece.chance_short,
        off=off_words(piece.option.error_mm, plan.target, system),
        minutes=piece_minutes(times, piece.counts) if times is not None else "",
    )


def length_words(weave: Weave, piece: Piece, system: str) -> str:
    """How long a piece becomes, and what it leaves free where that follows the size."""
    free = span_words(weave, piece.stretch, system)
    return format_length(piece.option.length_mm, system) + (f", {free}" if free else "")


def off_words(error_mm: float, target: str, system: str) -> str:
    """By how much whole units miss what was asked for."""
    if abs(error_mm) < 0.5:
        return "exact"
    way = ("wider", "tighter") if target == "girth" else ("longer", "shorter")
    return f"{format_length(round(abs(error_mm)), system)} {way[error_mm < 0]}"


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


def _cautions(weave: Weave, finishes: list[str], closing: Closing) -> tuple[str, ...]:
    keys: list[str] = ["flame", "point"] if joined(weave) else []
    if any(s.on for s in weave.sections):
        keys.append("point")
    for f in finishes:
        keys += FINISHES[f].cautions
    keys += closing.of.cautions
    keys += ["neck", "load", "rules"]
    return tuple(CAUTIONS[k] for k in dict.fromkeys(keys))


def glossary(weave: Weave, t: Trace, voice: str) -> tuple[tuple[str, str], ...]:
    """Words of the sheet in a vocabulary, and what they mean."""
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
