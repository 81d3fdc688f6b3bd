"""A sheet given to a stranger, and what came of it beside the weave."""

from __future__ import annotations

from collections.abc import Mapping

from dim_ladder.notation import Weave, working_ends
from dim_ladder.picture.display import WHITE
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.publish.sheet import hanging_words, sheet_cords
from dim_ladder.publish.steps import sections_told, ways_of
from dim_ladder.scale import Plan
from dim_ladder.trace import Trace, trace
from dim_ladder.trace.ends import letter
from helpers.stranger import Stranger, likeness


def read(
    weave: Weave, counts: Mapping[str, int], voice: str = "plain", lie: str = "hanging"
) -> tuple[Trace, Trace, Stranger]:
    """counts : units of the sections that fit. The weave as it is, and as a stranger ties it."""
    choices = SheetChoices(vocabulary=voice, lie=lie)
    whole = {s.name: _units(weave, s.name, counts) for s in weave.sections}
    fits = {s.name: whole[s.name] for s in weave.sections if s.count.kind != "repeat"}
    t = trace(weave, counts=fits)
    assert not t.problems, t.problems
    told = sections_told(
        weave, ways_of(weave, {"M": whole}), WHITE, Plan(target="length", size_mm=200), choices
    )
    stranger = Stranger(
        [(c.name, c.letters) for c in sheet_cords(weave)], hanging_words(weave, trace(weave), voice)
    )
    for part in told:
        steps = [(s.sentence, s.picture) for s in part.steps]
        begin = " ".join(b.whole for b in part.begin)
        stranger.section(part.name, begin, steps, [row.whole for row in part.again], whole[part.name])
    return t, stranger.traced(), stranger


def compare(weave: Weave, counts: Mapping[str, int], voice: str = "plain", lie: str = "hanging") -> None:
    """Raises AssertionError where what a stranger ties is not the weave."""
    meant, tied, stranger = read(weave, counts, voice, lie)
    mine = {e: letter(k) for k, e in enumerate(working_ends(weave))}
    its = {e: x for x, e in stranger.end.items()}
    assert likeness(tied, its) == likeness(meant, mine), stranger.script()


def _units(weave: Weave, name: str, counts: Mapping[str, int]) -> int:
    s = weave.section(name)
    assert s is not None
    if s.count.kind == "repeat":
        return s.count.number
    if s.count.kind == "same":
        return _units(weave, s.count.other, counts)
    n = counts.get(name, counts.get("*", 2))
    return max(1, -(-n // s.count.number)) * s.count.number if s.count.kind == "fit" else n
