"""The strips of the ladder, from top to bottom: sections, headings of knots, rungs, problems."""

from __future__ import annotations

from dataclasses import dataclass

from dim_ladder.base import InputError
from dim_ladder.notation import Call, Count, Section, Weave
from dim_ladder.picture.ladder import RUNG_HEIGHT, Rung
from dim_ladder.trace import Trace
from dim_ladder.words.former import called_out

SECTION_HEIGHT = 44.0
HEADING_HEIGHT = 22.0
PROBLEM_HEIGHT = 46.0
Folded = frozenset[tuple[str, int]]  # knots that are folded: section and item


@dataclass(frozen=True, slots=True)
class Row:
    """A strip of the ladder. kind : section, heading, rung, fold (a whole knot as one rung), empty or problem.
    rung : that of a rung, or the last one of a folded knot. item : of the section; -1 for none."""

    kind: str
    y: float
    height: float
    text: str = ""
    section: int = -1
    rung: Rung | None = None
    item: int = -1


@dataclass(frozen=True, slots=True)
class Bracket:
    """A section that is worked more than once: from where to where, and how often."""

    top: float
    bottom: float
    text: str


def ladder_rows(
    trace: Trace, weave: Weave, folded: Folded, all_rungs: tuple[Rung, ...]
) -> tuple[tuple[Row, ...], tuple[Bracket, ...], float]:
    """All strips, brackets about what is repeated, and the height of it all."""
    rows: list[Row] = []
    brackets: list[Bracket] = []
    y = 6.0
    by_section: dict[int, list[Rung]] = {}
    for rung in all_rungs:
        by_section.setdefault(trace.steps[rung.step].op.section, []).append(rung)
    slip = _slip(trace, weave)
    for index, section in enumerate(weave.sections):
        rows.append(Row("section", y, SECTION_HEIGHT, section.name, index))
        y += SECTION_HEIGHT
        top = y
        for row in _rungs(trace, section, index, by_section.get(index, []), folded):
            rows.append(Row(row.kind, y, row.height, row.text, index, row.rung, row.item))
            y += row.height
        if index == slip:  # a trace ends where it cannot go on: right below the last rung it made
            for problem in trace.problems:
                rows.append(Row("problem", y, PROBLEM_HEIGHT, str(problem), index))
                y += PROBLEM_HEIGHT
        if section.count != Count() and section.items:
            brackets.append(Bracket(top + 4, y - 4, ""))
        y += 8
    if slip < 0:
        for problem in trace.problems:
            rows.append(Row("problem", y, PROBLEM_HEIGHT, str(problem)))
            y += PROBLEM_HEIGHT
    return tuple(rows), tuple(brackets), y


def _slip(trace: Trace, weave: Weave) -> int:
    """The section that the first problem belongs to; -1 where there is none."""
    if not trace.problems:
        return -1
    last = trace.steps[-1].op if trace.steps else None
    section = last.section if last is not None else 0
    if last is not None and last.item + 1 >= len(weave.sections[section].items):
        section += 1  # that one was made to its end
    while section < len(weave.sections) and not weave.sections[section].items:
        section += 1
    return section if section < len(weave.sections) else -1


def _rungs(trace: Trace, section: Section, index: int, found: list[Rung], folded: Folded) -> list[Row]:
    """The strips of one section, without their places."""
    if section.former is not None:
        try:
            calls = [f"{c.run + 1}. {c.short}" if c.run >= 0 else c.short for c in called_out(section)]
        except InputError as e:
            calls = [str(e)]
        return [Row("empty", 0, HEADING_HEIGHT, call) for call in calls]
    if not section.items:
        return [Row("empty", 0, HEADING_HEIGHT, "no step yet")]
    out: list[Row] = []
    for k, rung in enumerate(found):
        item = trace.steps[rung.step].op.item
        value = section.items[item] if 0 <= item < len(section.items) else None
        if isinstance(value, Call) and (section.name, item) in folded:
            if k + 1 == len(found) or trace.steps[found[k + 1].step].op.item != item:
                many = sum(1 for r in found if trace.steps[r.step].op.item == item)
                steps = f"{many} step{'s' if many > 1 else ''}"
                text = f"{_name(value)} · {steps}"
                out.append(Row("fold", 0, RUNG_HEIGHT, text, index, rung, item))
            continue
        if rung.heading:
            text = _name(value) if isinstance(value, Call) else rung.heading.replace("-", " ")
            out.append(Row("heading", 0, HEADING_HEIGHT, text, index, None, item))
        out.append(Row("rung", 0, RUNG_HEIGHT, "", index, rung, item))
    return out


def _name(call: Call) -> str:
    return call.knot.replace("-", " ") + (f" × {call.repeat}" if call.repeat > 1 else "")
