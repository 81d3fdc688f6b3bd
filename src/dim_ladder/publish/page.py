"""A sheet that scales: what the page carries so that its reader can set size, ease, fastening, chance, units and words, with no
program at hand. Every number on it was worked out here, by the same functions as in the window; the page only looks up."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from dim_ladder.base import InputError, format_length
from dim_ladder.calibrate import Calibration
from dim_ladder.calibrate.timing import Timing
from dim_ladder.library import FASTENINGS, VOCABULARIES, cord_kind
from dim_ladder.notation import Weave, working_ends
from dim_ladder.picture.display import WHITE
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.publish.effort import piece_minutes
from dim_ladder.publish.reworded import reword
from dim_ladder.publish.seen import Seen
from dim_ladder.publish.sheet import (
    NOTHING_SEEN,
    Sheet,
    build_sheet,
    cut_rows,
    glossary,
    hanging_words,
    length_words,
    with_seen,
)
from dim_ladder.publish.steps import OTHER, Way, sections_told, ways_of
from dim_ladder.scale import (
    Option,
    Piece,
    Plan,
    closing_of,
    cut_list,
    follows_size,
    option_at,
    ring_units,
    solve,
    worked_length,
)
from dim_ladder.scale.cuts import odds, whole_chance
from dim_ladder.scale.girth import free_for_size
from dim_ladder.trace import trace
from dim_ladder.words.phrases import LIES, listing

RISKS = (0.1, 0.05, 0.02, 0.01)
BELOW, ABOVE = 0.8, 1.25  # of the smallest and the largest size on the sheet: so far a page scales
COARSE = 2  # mm from size to size, of work whose every size is cut otherwise; more, where that would be too many pieces
MOST_PIECES = 120
SYSTEMS = ("metric", "imperial")


@dataclass(frozen=True, slots=True)
class Page:
    """sheet : with the steps of every way in which a chosen size may hang. data : what the page looks up, ready for JSON; None where
    it cannot scale, for the reason `why`."""

    sheet: Sheet
    data: dict[str, object] | None
    why: str = ""


def build_page(
    weave: Weave,
    calibration: Calibration | None,
    plan: Plan,
    choices: SheetChoices,
    seen: Seen = NOTHING_SEEN,
    made: Sheet | None = None,
    others: Sequence[Otherwise] = (),
) -> Page:
    """The sheet as a page. made : its sheet, where there is one already. others : the same in other cord, which a reader may choose.
    Raises InputError when its steps cannot be traced."""
    sheet = made or build_sheet(weave, calibration, plan, choices, seen=seen)
    why = _why_not(calibration, choices, sheet)
    if not why and not trace(weave).settled and any(s.count.kind == "fit" for s in weave.sections):
        why = "ends come and go in it, and each size would have to be followed to its end"
    if why or calibration is None:
        return Page(sheet, None, why)
    sizes = _Sizes(weave, calibration, plan, choices, seen.times)
    if not sizes.pieces:
        return Page(sheet, None, sizes.trouble or "no size near those of the sheet can be made")
    tables = [(cord_words(weave), sizes)]
    for o in others:
        found = _Sizes(o.weave, o.calibration, plan, choices, seen.times)
        if found.pieces:
            tables.append((o.words, found))
    counts: dict[str, Mapping[str, int]] = {c.name: dict(c.counts) for c in sheet.sizes if not c.problem}
    counts |= {
        f"{OTHER}{n}.{k}": p.counts for n, (_, of) in enumerate(tables) for k, p in enumerate(of.pieces)
    }
    ways = ways_of(weave, counts)
    way = {name: k for k, w in enumerate(ways) for name in w.sizes}
    for n, (_, of) in enumerate(tables):
        # A size whose ends cannot be followed to where it is made fast is not offered.
        of.index = [-1 if f"{OTHER}{n}.{k}" not in way else k for k in of.index]
    sections, _ = reword(sections_told(weave, ways, WHITE, plan, choices), choices)
    sections = tuple(with_seen(s, weave, calibration, counts, seen, choices.units) for s in sections)
    data = {
        **sizes.told(),
        "tables": [
            {
                "cord": words,
                **of.table(),
                "ways": [way.get(f"{OTHER}{n}.{k}", 0) for k in range(len(of.pieces))],
            }
            for n, (words, of) in enumerate(tables)
        ],
        "words": _words(weave, ways, plan, choices),
        "voice": choices.vocabulary,
        "lie": choices.lie,
        "units": choices.units,
    }
    return Page(replace(sheet, sections=sections), data)


def _why_not(calibration: Calibration | None, choices: SheetChoices, sheet: Sheet) -> str:
    if calibration is None or not choices.sizes:
        return "nothing is counted on it yet"
    if calibration.refusal:
        return calibration.refusal
    made = [c for c in sheet.sizes if not c.problem]
    return "" if made else sheet.sizes[0].problem


@dataclass(frozen=True, slots=True)
class Otherwise:
    """The weave in other cord. words : which, for people."""

    words: str
    weave: Weave
    calibration: Calibration


def cord_words(weave: Weave) -> str:
    """The kinds of cord of a weave."""
    return listing(list(dict.fromkeys(cord_kind(c.kind).words for c in weave.cords)))


def in_kind(weave: Weave, kind: str) -> Weave:
    """A weave with its commonest cord of another kind; cords of other kinds stay."""
    kinds = [c.kind for c in weave.cords]
    common = max(dict.fromkeys(kinds), key=kinds.count, default="")
    cords = tuple(replace(c, kind=kind) if c.kind == common else c for c in weave.cords)
    return replace(weave, cords=cords)


@dataclass(frozen=True, slots=True)
class _Made:
    """One piece: its counts, how long it is tied, that in words of every system, and by risk its cuts and its chance."""

    counts: dict[str, int]
    length_mm: float
    risks: tuple[dict[str, object], ...]
    words: tuple[str, ...]


class _Sizes:
    """Pieces for every whole millimetre from below the smallest size to above the largest."""

    def __init__(
        self, weave: Weave, calibration: Calibration, plan: Plan, choices: SheetChoices, times: Timing | None
    ) -> None:
        self.times = times
        self.weave, self.calibration, self.plan, self.choices = weave, calibration, plan, choices
        self.rings = calibration.prior.only_rings
        self.each = self.rings or follows_size(weave)  # whether every size is a piece of its own
        self.risks = tuple(sorted({*RISKS, plan.risk}, reverse=True))
        self.trouble = ""
        self.pieces: list[_Made] = []
        self.index: list[int] = []
        self.closing = closing_of(weave, plan)
        adds = 0.0 if self.rings else self.closing.adds_mm
        ease = plan.ease_mm if plan.target == "girth" else 0.0
        # What is looked up: size and ease less the fastening, but for work that follows the girth itself.
        self.eases = plan.target == "girth" and (self.rings or not self.each)
        self.shift = (ease if self.eases else 0.0) - (0.0 if self.each else adds)
        low = min(r.size_mm for r in choices.sizes) * BELOW + self.shift
        high = max(r.size_mm for r in choices.sizes) * ABOVE + self.shift
        self.step = max(COARSE, math.ceil((high - low) / (MOST_PIECES - 2))) if self.each else 1
        self.low = max(self.step, math.floor(low / self.step) * self.step)
        self.high = max(self.low, math.ceil(high / self.step) * self.step)
        self._make()

    def plan_at(self, total: int, risk: float) -> Plan:
        """A plan that asks for a total of size, ease and fastening."""
        if self.each:
            own = {"ease_mm": 0.0} if self.rings else {}
            return self.plan.model_copy(
                update={"size_mm": float(total), "chosen": self.plan.locked, "risk": risk, **own}
            )
        # What a closure takes of the ends is in their cuts, what it adds to the length is not in what is looked up.
        closed: dict[str, object] = {"fastening": self.closing.key, "fastening_mm": 0.0}
        return self.plan.model_copy(
            update={
                "size_mm": float(total),
                "ease_mm": 0.0,
                "chosen": self.plan.locked,
                "risk": risk,
                **closed,
            }
        )

    def _make(self) -> None:
        found: dict[tuple[object, ...], tuple[int, Option]] = {}
        keys: list[tuple[object, ...] | None] = []
        for total in range(self.low, self.high + 1, self.step):
            try:
                option = option_at(self.weave, self.calibration, self.plan_at(total, self.risks[0]))
            except InputError as e:
                self.trouble = str(e)
                keys.append(None)
                continue
            key = (*option.counts.items(), *((total,) if self.each else ()))
            if key in found or len(found) < MOST_PIECES:
                found.setdefault(key, (total, option))
            keys.append(key)
        ends = [(e,) for e in working_ends(self.weave)]
        if self.rings:  # all side by side takes a fraction of one after the other
            around = [ring_units(self.calibration, float(total)) for total, _ in found.values()]
            self.calibration.foresee_all([(ends, units, 0.0) for units in around])
        else:
            plans = [self.plan_at(total, self.risks[0]) for total, _ in found.values()]
            self.calibration.foresee_all(
                [(ends, o.counts, o.length_mm) for _, o in found.values()], map(self._sized, plans)
            )
        known: dict[tuple[object, ...], int] = {}
        for key, (total, _) in found.items():
            try:
                self.pieces.append(self._piece(total))
                known[key] = len(self.pieces) - 1
            except InputError as e:
                self.trouble = str(e)
        self.index = [-1 if key is None else known.get(key, -1) for key in keys]

    def _sized(self, plan: Plan) -> Calibration:
        """The calibration with what is left free in a size."""
        return free_for_size(self.weave, self.calibration, plan)[0] if self.each else self.calibration

    def _piece(self, total: int) -> _Made:
        first = solve(self.weave, self.calibration, self.plan_at(total, self.risks[0]))
        risks = [_at_risk(first)]
        for risk in self.risks[1:]:
            plan = self.plan_at(total, risk)
            if self.rings:
                risks.append(_at_risk(solve(self.weave, self.calibration, plan)))
                continue
            # The same piece with other cuts: only they hang on the chance.
            mm, sized = first.tied_to_mm, self._sized(plan)
            cuts = cut_list(self.weave, sized, first.counts, plan, mm=mm)
            chance = whole_chance(sized, cuts, first.counts, mm)
            risks.append(_at_risk(replace(first, plan=plan, cuts=cuts, chance_short=chance)))
        words = tuple(length_words(self.weave, first, s) for s in SYSTEMS)
        return _Made(first.counts, first.option.length_mm, tuple(risks), words)

    def told(self) -> dict[str, object]:
        fits = self.plan.target == "girth"
        mine = self.closing
        # A closure that slides takes cord of the ends, so none can be changed for it, nor it for another.
        closings = [] if self.each else [
            {"key": k, "words": f.words, "mm": mine.adds_mm if k == mine.key else f.adds_mm}
            for k, f in FASTENINGS.items()
            if k == mine.key or not (f.opens or mine.of.opens)
        ]  # fmt: skip
        return {
            "target": self.plan.target,
            "ease": self.plan.ease_mm if fits else 0.0,
            "eases": self.eases,
            "misses": not self.each,
            "fastening": mine.key,
            "fastenings": closings,
            "risks": [{"risk": r, "words": odds(r)} for r in self.risks],
            "risk": self.risks.index(self.plan.risk),
            "sizes": [
                {"name": r.name, "mm": r.size_mm, "words": [format_length(r.size_mm, s) for s in SYSTEMS]}
                for r in self.choices.sizes
            ],
        }

    def table(self) -> dict[str, object]:
        """What is looked up for one kind of cord."""
        shown = self.closing.adds_mm
        plan, thick = self.plan_at(self.high, self.risks[0]), self.calibration.thickness_mm
        more = worked_length(plan, thick, closing_of(self.weave, plan)) - self.high
        return {
            "low": self.low,
            "step": self.step,
            "index": self.index,
            "around": 0.0 if self.rings else more + (shown if self.each else 0.0),
            "pieces": [
                {
                    "counts": p.counts,
                    "mm": round(p.length_mm, 3),
                    "length": list(p.words),
                    "minutes": piece_minutes(self.times, p.counts) if self.times is not None else "",
                    "risks": p.risks,
                }
                for p in self.pieces
            ],
        }


def _at_risk(piece: Piece) -> dict[str, object]:
    rows = {system: cut_rows(piece, system) for system in SYSTEMS}
    cuts = [
        {
            "cord": m.cord, "mm": m.cut_mm, "fold_mm": round(m.fold_offset_mm, 3), "chance": m.chance,
            "cut": [m.cut, i.cut], "fold": [m.fold, i.fold],
        }
        for m, i in zip(rows["metric"], rows["imperial"], strict=True)
    ]  # fmt: skip
    return {"cuts": cuts, "chance": odds(piece.chance_short)}


def _words(weave: Weave, ways: Sequence[Way], plan: Plan, choices: SheetChoices) -> dict[str, object]:
    """Everything that is said, in every school and lie: the same lines in the same order; 0 where a line is as in the sheet's own."""
    one = trace(weave)

    def said(voice: str, lie: str) -> list[list[list[str]]]:
        """Of every section the steps, then how it is begun and who plays which part, which have no heading."""
        own = choices.model_copy(update={"vocabulary": voice, "lie": lie})
        told, _ = reword(sections_told(weave, ways, WHITE, plan, own, pictures=False), own)
        return [
            [[s.heading, s.told.text] for s in part.steps]
            + [["", x.text] for x in (*part.begin, *part.again)]
            for part in told
        ]

    base = said(choices.vocabulary, choices.lie)
    out: dict[str, object] = {}
    for voice in VOCABULARIES:
        for lie in LIES:
            parts: list[list[object]] = []
            own = base if (voice, lie) == (choices.vocabulary, choices.lie) else said(voice, lie)
            for mine, first in zip(own, base, strict=True):
                parts.append([x if own is base or x != y else 0 for x, y in zip(mine, first, strict=True)])
            out[f"{voice} {lie}"] = {
                "hang": hanging_words(weave, one, voice),
                "words": glossary(weave, one, voice),
                "parts": parts,
            }
    return out
