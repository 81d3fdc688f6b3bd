"""The sheet as data: everything a reader needs to tie the piece with nobody beside them. Renderers only draw it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from dim_ladder.base import InputError, format_length
from dim_ladder.base.colours import colour_word
from dim_ladder.base.lengths import mm_words
from dim_ladder.calibrate import Calibration
from dim_ladder.library import CAUTIONS, FASTENINGS, FINISHES, VOCABULARIES, cord_kind
from dim_ladder.notation import Call, Section, Weave, working_ends
from dim_ladder.picture.diagrams import diagram, step_picture
from dim_ladder.picture.display import WHITE, Ink, Picture
from dim_ladder.picture.former import flat_picture, round_picture
from dim_ladder.picture.look import Style
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.scale import Piece, Plan, solve
from dim_ladder.scale.cuts import fold_words, odds, tails
from dim_ladder.trace import Trace, trace
from dim_ladder.trace.after import as_few
from dim_ladder.trace.ends import letter
from dim_ladder.trace.former import former_diameter, former_work
from dim_ladder.trace.turning import turning
from dim_ladder.words.former import called_out
from dim_ladder.words.gather import gathered
from dim_ladder.words.phrases import hung_words, listing
from dim_ladder.words.sentences import hang_sentence
from dim_ladder.words.turning import turning_reason

KIND_WORDS = {"start": "Start", "body": "Unit", "finish": "Finish"}
PICTURE = Style(unit=22.0, row=24.0, cord=10.5)


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
class SheetStep:
    number: int
    heading: str
    sentence: str
    picture: Picture | None
    caution: str = ""


@dataclass(frozen=True, slots=True)
class SheetSection:
    """steps : of one unit. repeat : how often, in words; look : the unit finished, when it has a picture."""

    name: str
    title: str
    repeat: str
    steps: tuple[SheetStep, ...]
    note: str
    look: Picture | None


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


def build_sheet(
    weave: Weave, calibration: Calibration | None, plan: Plan, choices: SheetChoices, *, ink: Ink = WHITE
) -> Sheet:
    """Make the sheet of a weave. Raises InputError when its steps cannot be traced.

    calibration : None when there is nothing to count yet; the sheet then has no cut table.
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
    sections = _sections(weave, t, _ways(weave, columns), voice, ink, plan, choices)
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
        _cords(weave),
        _hanging(weave, t, voice),
        "girth" if plan.target == "girth" else "length",
        columns,
        _fastening(weave, plan),
        sections,
        _cautions(finishes, plan),
        _tools(weave, finishes, t),
        choices.care,
        _glossary(weave, t, voice),
        _cover(weave, ink),
    )


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


def _cords(weave: Weave) -> tuple[SheetCord, ...]:
    out = []
    for c in weave.cords:
        letters = [letter(i) for i, e in enumerate(working_ends(weave)) if e.split(".")[0] == c.name]
        if letters:
            kind = cord_kind(c.kind).words
            out.append(SheetCord(c.name, kind, c.colour, colour_word(c.colour), " and ".join(letters)))
    return tuple(out)


def _hanging(weave: Weave, t: Trace, voice: str) -> str:
    how = f"Hang the cords {hung_words(weave)}. "
    return how + hang_sentence(t, voice) + (f" {weave.hang.note}." if weave.hang.note else "")


def _finishes(weave: Weave) -> list[str]:
    return [i.knot for s in weave.sections for i in s.items if isinstance(i, Call) and i.knot in FINISHES]


def _repeat_words(section: Section) -> str:
    c = section.count
    if c.kind == "repeat":
        return "" if c.number == 1 else f"{c.number} times"
    if c.kind == "same":
        return f"as often as {c.other}"
    if c.kind == "long" and not c.other:
        return f"as often as comes nearest to {mm_words(c.mm)}"
    if c.kind == "long":
        share = "" if c.share == (1, 1) else f"{c.share[0]} of {c.share[1]} parts of "
        less = f", less {mm_words(c.mm)}" if c.mm else ""
        return f"until it is as long as {share}{c.other}{less}"
    multiple = {1: "", 2: ", always an even number", 3: ", always a multiple of 3"}
    return "as often as your size needs (see the table)" + multiple.get(
        c.number, f", always a multiple of {c.number}"
    )


@dataclass(frozen=True, slots=True)
class _Way:
    """Sizes in which the same ends hang in the same order after the units: what is said below holds for all of them."""

    sizes: tuple[str, ...]
    trace: Trace


def _ways(weave: Weave, columns: Sequence[SizeColumn]) -> tuple[_Way, ...]:
    """The weave with the counts of its sizes, traced. What is tied after the units names the ends that hang there then."""
    found: dict[tuple[tuple[str, ...], ...], tuple[list[str], Trace]] = {}
    for c in columns:
        if c.problem:
            continue
        t = trace(weave, counts=as_few(weave, dict(c.counts)))
        if t.problems:
            raise InputError.of(t.problems)
        begins: dict[int, tuple[str, ...]] = {}
        for i, r in enumerate(t.steps):
            begins.setdefault(r.op.section, t.shown(t.order_before(i), r.turned))
        found.setdefault(tuple(begins.values()), ([], t))[0].append(c.name)
    return tuple(_Way(tuple(names), t) for names, t in found.values())


def _sections(
    weave: Weave, one: Trace, ways: Sequence[_Way], voice: str, ink: Ink, plan: Plan, choices: SheetChoices
) -> tuple[SheetSection, ...]:
    out: list[SheetSection] = []
    number = 0
    counted = False  # whether units that follow the size stand above
    for index, section in enumerate(weave.sections):
        if section.former is not None:
            made = _former_steps(weave, section, number, ink)
            number += len(made)
            out.append(_former_section(weave, section, made, ink, plan, choices))
            continue
        own = _own(one, index)
        steps: list[SheetStep] = []
        for way in ways if counted and ways else (_Way((), one),):
            of = f"{listing(list(way.sizes))}: " if counted and len(ways) > 1 else ""
            said = _steps(way.trace, index, number, voice, ink, choices, of)
            number += len(said)
            steps += said
        counted = counted or section.count.kind != "repeat"
        turn = turning(weave, section.name) if section.kind == "body" else None
        note = turning_reason(turn, meant=section.spiral) if turn and turn.kind != "plain" else ""
        look = None
        if section.kind == "body" and own and any(one.steps[i].hops for i in own):
            two = trace(weave, section=section.name, units=max(2, min(4, 12 // max(len(own), 1))))
            look = replace(
                diagram(two, 0, len(two.steps) - 1, ink, PICTURE),
                title=f"{len(two.steps)} steps of {section.name}",
            )
        title = f"{KIND_WORDS[section.kind]}: {section.name.replace('-', ' ')}"
        out.append(SheetSection(section.name, title, _repeat_words(section), tuple(steps), note, look))
    return tuple(out)


def _own(t: Trace, section: int) -> list[int]:
    """Steps of the first unit of a section."""
    return [i for i, r in enumerate(t.steps) if r.op.section == section and r.op.unit == 0 and not r.quiet]


def _steps(
    t: Trace, section: int, number: int, voice: str, ink: Ink, choices: SheetChoices, of: str
) -> list[SheetStep]:
    """One unit of a section as it is tied. of : the sizes it is said for, where they differ."""
    steps = []
    for line in gathered(t, voice, choices.lie, _own(t, section), number):
        i = line.step
        picture = None
        if t.steps[i].hops:
            picture = replace(
                step_picture(t, line.last, ink, PICTURE), title=f"Step {line.number}: {line.sentence}"
            )
        finish = FINISHES.get(t.steps[i].finish)
        caution = " ".join(CAUTIONS[k] for k in finish.cautions) if finish else ""
        sentence = of + line.sentence
        if finish:
            sentence += f" Or {finish.instead}."
        steps.append(SheetStep(line.number, line.heading, sentence, picture, caution))
    return steps


def _former_steps(weave: Weave, section: Section, number: int, ink: Ink) -> tuple[SheetStep, ...]:
    """Half cycle by half cycle as it is called out, then what is done to the laid work."""
    work = former_work(section)
    colours = [c.colour for c in weave.cords] or ["#888888"]
    out: list[SheetStep] = []
    for c in called_out(section):
        picture = None
        if c.run >= 0:
            picture = flat_picture(work, colours, c.run + 1, ink, 18.0, focus=True)
            picture = replace(picture, title=f"Half cycle {c.run + 1}: {c.text}")
        out.append(SheetStep(number + len(out) + 1, "", c.text, picture))
    return tuple(out)


def _former_section(
    weave: Weave, section: Section, steps: tuple[SheetStep, ...], ink: Ink, plan: Plan, choices: SheetChoices
) -> SheetSection:
    work = former_work(section)
    colours = [c.colour for c in weave.cords] or ["#888888"]
    note = f"{work.leads} leads, {work.bights} bights, {work.strands} {'cord' if work.strands == 1 else 'cords'}."
    sizes = choices.sizes if plan.target == "girth" else ()
    for size in sizes:
        across = former_diameter(size.size_mm, plan.ease_mm)
        note += (
            f" {size.name} ({format_length(size.size_mm, choices.units)}): a former "
            f"{format_length(round(across), choices.units)} across."
        )
    title = f"{KIND_WORDS[section.kind]}: {section.name.replace('-', ' ')}"
    return SheetSection(section.name, title, "", steps, note, round_picture(work, colours, None, ink, 260.0))


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
