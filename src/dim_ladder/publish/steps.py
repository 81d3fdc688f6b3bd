"""The steps of a sheet: said and drawn line by line, section by section, for every size as its ends hang there."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from dim_ladder.base import InputError, format_length
from dim_ladder.base.lengths import mm_words
from dim_ladder.library import CAUTIONS, FINISHES
from dim_ladder.notation import Section, Weave
from dim_ladder.picture.diagrams import diagram
from dim_ladder.picture.display import Ink, Picture
from dim_ladder.picture.former import flat_picture, round_picture
from dim_ladder.picture.look import Style
from dim_ladder.picture.passages import line_picture
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.publish.seen import Checkpoint, SlipTold
from dim_ladder.scale import Plan
from dim_ladder.shape.centre import as_it_turns
from dim_ladder.trace import Trace, trace
from dim_ladder.trace.after import as_few
from dim_ladder.trace.former import former_diameter, former_work
from dim_ladder.trace.led import is_led
from dim_ladder.trace.turning import turning
from dim_ladder.words.former import called_out
from dim_ladder.words.gather import gathered
from dim_ladder.words.phrases import listing, ordinal
from dim_ladder.words.turning import turning_reason
from dim_ladder.words.units import Units, begin_words, steps_of, units_told

KIND_WORDS = {"start": "Start", "body": "Unit", "finish": "Finish"}
PICTURE = Style(unit=22.0, row=24.0, cord=10.5, letter=0.44)  # legible where it is printed 50 mm wide
MOST_DRAWN = 6  # ways to hang, beyond which only those of the sheet's own sizes are drawn
MOST_TOLD = 12  # units told in full besides the first
AGAIN = "Who plays which part in the units after the first:"


@dataclass(frozen=True, slots=True)
class Told:
    """Something that is said. of : for which sizes, in words, where that is not all of them; ways : in which ways of hanging,
    by number; () for all. other : no size of the sheet hangs so; told all the same where a page scales."""

    text: str
    of: str = ""
    ways: tuple[int, ...] = ()
    other: bool = False

    @property
    def whole(self) -> str:
        return self.of + self.text


@dataclass(frozen=True, slots=True)
class SheetStep:
    number: int
    heading: str
    told: Told
    picture: Picture | None
    caution: str = ""
    said: str = ""  # what the program says, where the designer's own words stand

    @property
    def sentence(self) -> str:
        return self.told.whole


@dataclass(frozen=True, slots=True)
class SheetSection:
    """steps : of one unit. repeat : how often, in words; look : the unit finished, when it has a picture. begin : how the work is
    laid first; again : who plays which part in the units after the first, a line each. checks, slips : see seen.py."""

    name: str
    title: str
    repeat: str
    steps: tuple[SheetStep, ...]
    note: str
    look: Picture | None
    begin: tuple[Told, ...] = ()
    again: tuple[Told, ...] = ()
    checks: tuple[Checkpoint, ...] = ()
    slips: tuple[SlipTold, ...] = ()


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
    multiple = {1: "", 2: ", always an even number"}.get(c.number, f", always a multiple of {c.number}")
    if c.plus:
        multiple = f", always a multiple of {c.number} and {c.plus} more"
    least = f", at least {c.least} times" if c.least else ""
    most = f", at most {c.most} times" if c.most else ""
    return f"as often as your size needs (see the table){multiple}{least}{most}"


@dataclass(frozen=True, slots=True)
class Way:
    """Sizes in which the same ends hang in the same order after the units: what is said below holds for all of them."""

    sizes: tuple[str, ...]
    trace: Trace
    counts: Mapping[str, int] = field(default_factory=dict)
    known: dict[int, Units] = field(default_factory=dict, repr=False, compare=False)

    def units(self, weave: Weave, index: int) -> Units:
        """What changes from unit to unit of a section; found once, however often it is told."""
        if index not in self.known:
            self.known[index] = units_told(weave, index, self.counts)
        return self.known[index]


def ways_of(weave: Weave, counts: Mapping[str, Mapping[str, int]]) -> tuple[Way, ...]:
    """The weave with the counts of its sizes, traced. What is tied after the units names the ends that hang there then."""
    found: dict[tuple[tuple[str, ...], ...], tuple[list[str], Trace, dict[str, int]]] = {}
    known: dict[tuple[tuple[str, int], ...], tuple[tuple[str, ...], ...]] = {}
    for name, of in counts.items():
        few = as_few(weave, dict(of))
        key = tuple(few.items())
        if key in known:
            found[known[key]][0].append(name)
            continue
        t = trace(weave, counts=few)
        if t.problems and name.startswith(OTHER):
            continue  # more than can be followed: it is not offered
        if t.problems:
            raise InputError.of(t.problems)
        begins: dict[int, tuple[str, ...]] = {}
        for i, r in enumerate(t.steps):
            begins.setdefault(r.op.section, t.shown(t.order_before(i), r.turned))
        known[key] = tuple(begins.values())
        found.setdefault(known[key], ([], t, few))[0].append(name)
    return tuple(Way(tuple(names), t, few) for names, t, few in found.values())


OTHER = "#"  # begins the name of a size that is not on the sheet, but may be chosen on a page that scales


def sections_told(
    weave: Weave, ways: Sequence[Way], ink: Ink, plan: Plan, choices: SheetChoices, *, pictures: bool = True
) -> tuple[SheetSection, ...]:
    """What is done, section by section. ways : of the sizes; none where nothing is counted yet."""
    teller = _Sections(weave, ways, ink, plan, choices, pictures)
    return tuple(teller.section(i, s) for i, s in enumerate(weave.sections))


class _Sections:
    """Tells section after section, its lines numbered through."""

    def __init__(
        self, weave: Weave, ways: Sequence[Way], ink: Ink, plan: Plan, choices: SheetChoices, pictures: bool
    ) -> None:
        self.weave, self.ink, self.plan, self.choices, self.pictures = weave, ink, plan, choices, pictures
        self.one = trace(weave)
        self.ways = tuple(ways) or (Way((), self.one),)
        self.number = 0
        self.counted = False  # whether units that follow the size stand above

    def section(self, index: int, section: Section) -> SheetSection:
        if section.former is not None:
            made = _former_steps(self.weave, section, self.number, self.ink, pictures=self.pictures)
            self.number += len(made)
            return _former_section(self.weave, section, made, self.ink, self.plan, self.choices)
        steps: list[SheetStep] = []
        begins: list[Told] = []
        rows: list[Told] = []
        groups = self._alike(index, section)
        for ways, of in groups:
            draws = len(groups) <= MOST_DRAWN or not self._other(ways)
            begin, told, again = self._way(index, section, self.ways[ways[0]], pictures=draws)
            for_whom = Told(
                "", of or "", ways if of is not None else (), of is not None and self._other(ways)
            )
            begins += [replace(for_whom, text=t) for t in begin]
            steps += [replace(s, told=replace(for_whom, text=s.told.text)) for s in told]
            rows += [replace(for_whom, text=t) for t in again]
        self.counted = self.counted or section.count.kind != "repeat"
        turn = turning(self.weave, section.name) if section.kind == "body" else None
        turn = as_it_turns(self.weave, section.name, turn)
        note = turning_reason(turn, meant=section.spiral) if turn and turn.kind != "plain" else ""
        title = f"{KIND_WORDS[section.kind]}: {section.name.replace('-', ' ')}"
        return SheetSection(
            section.name, title, _repeat_words(section), tuple(steps), note, self._look(index, section),
            tuple(begins), tuple(rows),
        )  # fmt: skip

    def _other(self, ways: Sequence[int]) -> bool:
        return all(n.startswith(OTHER) for k in ways for n in self.ways[k].sizes)

    def _alike(self, index: int, section: Section) -> list[tuple[tuple[int, ...], str | None]]:
        """Ways in which the same is said of a section, and the sizes they are, in words; None for all there are."""
        if not self.counted or len(self.ways) < 2:
            return [((0,), None)]
        same: dict[tuple[str, ...], list[int]] = {}
        for k, way in enumerate(self.ways):
            number = self.number
            begin, told, again = self._way(index, section, way, pictures=False)
            self.number = number
            same.setdefault((*begin, *(s.told.text for s in told), *again), []).append(k)
        if len(same) == 1:
            return [((0,), None)]
        shown = [
            [n for k in ks for n in self.ways[k].sizes if not n.startswith(OTHER)] for ks in same.values()
        ]
        several = sum(map(bool, shown)) > 1
        return [
            (tuple(ks), f"{listing(names)}: " if names and several else "")
            for ks, names in zip(same.values(), shown, strict=True)
        ]

    def _way(
        self, index: int, section: Section, way: Way, *, pictures: bool = True
    ) -> tuple[list[str], list[SheetStep], list[str]]:
        """How the work is laid first, the steps of a unit, and who plays which part in the others."""
        draws = pictures and self.pictures
        units = way.units(self.weave, index)
        first = _own(way.trace, index)
        begin = self.number
        told = self._steps(way.trace, first, "", draws)
        rows = []
        if units.once and told:
            last = begin + sum(i in first[: units.once] for i in first)
            which = f"Step {begin + 1}" if units.once == 1 else f"Steps {begin + 1} to {last}"
            rows.append(f"{which}: only once, at the head.")
        # A unit that is not the first one again is told in full.
        for u in units.told[:MOST_TOLD]:
            again = steps_of(units.trace, index, u)
            told += self._steps(units.trace, again, f"{ordinal(u + 1)} time: ", draws)
        laid = begin_words(self.weave, section, way.trace, first[0]) if first else ""
        return [laid] if laid else [], told, [*rows, *units.rows]

    def _steps(self, t: Trace, own: Sequence[int], label: str, draws: bool) -> list[SheetStep]:
        """One unit of a section as it is tied. label : said before every sentence."""
        steps = []
        for line in gathered(t, self.choices.vocabulary, self.choices.lie, own, self.number):
            i = line.step
            picture = None
            if t.steps[i].hops and draws:
                picture = line_picture(t, line.last, line.hops, self.ink, PICTURE)
                picture = replace(picture, title=f"Step {line.number}: {line.sentence}")
            finish = FINISHES.get(t.steps[i].finish)
            caution = " ".join(CAUTIONS[k] for k in finish.cautions) if finish else ""
            sentence = label + line.sentence + (f" Or {finish.instead}." if finish else "")
            steps.append(SheetStep(line.number, line.heading, Told(sentence), picture, caution))
        self.number += len(steps)
        return steps

    def _look(self, index: int, section: Section) -> Picture | None:
        """The unit as it lies when it is opened out."""
        own = _own(self.one, index)
        if not self.pictures or section.kind != "body" or not any(self.one.steps[i].hops for i in own):
            return None
        # What is led lies flat by itself, unit for unit the same: one says it, and several take seconds to lay.
        led = any(is_led(self.one.steps[i]) for i in own)
        units = 1 if led else max(2, min(4, 12 // max(len(own), 1)))
        two = trace(self.weave, section=section.name, units=units)
        return replace(
            diagram(two, 0, len(two.steps) - 1, self.ink, PICTURE),
            title=f"{len(two.steps)} steps of {section.name}",
        )


def _own(t: Trace, section: int) -> list[int]:
    """Steps of the first unit of a section."""
    return [i for i, r in enumerate(t.steps) if r.op.section == section and r.op.unit == 0 and not r.quiet]


def _former_steps(
    weave: Weave, section: Section, number: int, ink: Ink, *, pictures: bool
) -> tuple[SheetStep, ...]:
    """Half cycle by half cycle as it is called out, then what is done to the laid work."""
    work = former_work(section)
    colours = [c.colour for c in weave.cords] or ["#888888"]
    out: list[SheetStep] = []
    for c in called_out(section):
        picture = None
        if c.run >= 0 and pictures:
            picture = flat_picture(work, colours, c.run + 1, ink, 18.0, focus=True)
            picture = replace(picture, title=f"Half cycle {c.run + 1}: {c.text}")
        out.append(SheetStep(number + len(out) + 1, "", Told(c.text), picture))
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
