"""What must lie on the table before one begins: cords, beads, what closes the piece, how cords are joined, tools."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dim_ladder.base import format_length
from dim_ladder.library import FINISHES, cord_kind
from dim_ladder.notation import Call, Weave, working_ends
from dim_ladder.scale import Plan, closing_of
from dim_ladder.scale.closing import laid_over
from dim_ladder.trace import Trace
from dim_ladder.trace.ends import letter
from dim_ladder.words.phrases import cord_colour, listing

CLOSURE_MM = 400.0  # four turns round two ends of 4 mm, and two hands' hold of it


@dataclass(frozen=True, slots=True)
class SheetCord:
    """A cord on the sheet. letters : of its ends, one or listed."""

    name: str
    words: str
    colour: str
    colour_word: str
    letters: str

    @property
    def ends(self) -> str:
        """As it is said: end A, ends B and C."""
        return f"ends {self.letters}" if " " in self.letters else f"end {self.letters}"


def sheet_cords(weave: Weave) -> tuple[SheetCord, ...]:
    """The cords that have ends, with their letters."""
    out = []
    for c in weave.cords:
        letters = [letter(i) for i, e in enumerate(working_ends(weave)) if e.split(".")[0] == c.name]
        if letters:
            kind = cord_kind(c.kind).words
            out.append(SheetCord(c.name, kind, c.colour, cord_colour(weave, c), listing(letters)))
    return tuple(out)


def materials(
    weave: Weave, t: Trace, plan: Plan, counts: Mapping[str, Mapping[str, int]], system: str
) -> tuple[str, ...]:
    """What is needed besides cord. t : one unit of every section. counts : units by section, of every size."""
    out = []
    for b in weave.beads:
        many = beads_needed(weave, t, b.name, counts)
        if many:
            out.append(
                f"bead “{b.name}”, {format_length(b.diameter, system)} across: {many}{_hole(weave, t, b.name)}"
            )
    out += [
        f"{c.name} and {c.joined} are two cords joined end to end: sewn, spliced or melted together before you hang them"
        for c in weave.cords
        if c.joined
    ]
    closing = closing_of(weave, plan).of
    if closing.item:
        out.append(closing.item)
    if closing.opens and not laid_over(weave):
        out.append(
            f"about {format_length(CLOSURE_MM, system)} more cord, to tie the sliding closure with over the ends"
        )
    return tuple(out)


def _hole(weave: Weave, t: Trace, bead: str) -> str:
    """What must go through a bead, where that is more than one end."""
    most = max(
        (len(p.ends) for r in t.steps for p in r.placed if p.kind == "bead" and p.text == bead), default=1
    )
    return f"; {most} ends go through each" if most > 1 else ""


def beads_needed(weave: Weave, t: Trace, bead: str, counts: Mapping[str, Mapping[str, int]]) -> str:
    """How many of a bead a piece takes, for every size where that differs; "" for none."""
    each: dict[int, int] = {}
    for r in t.steps:
        if not r.quiet and r.op.unit == 0:
            each[r.op.section] = each.get(r.op.section, 0) + sum(
                p.kind == "bead" and p.text == bead for p in r.placed
            )

    def of(units: Mapping[str, int]) -> int:
        return sum(n * units.get(weave.sections[i].name, _fixed(weave, i)) for i, n in each.items())

    if not any(each.values()):
        return ""
    many = {name: of(units) for name, units in counts.items()}
    if not many:
        return f"{of({})} a unit" if any(s.count.kind != "repeat" for s in weave.sections) else str(of({}))
    if len(set(many.values())) == 1:
        return str(next(iter(many.values())))
    return ", ".join(f"{n} for {name}" for name, n in many.items())


def _fixed(weave: Weave, index: int) -> int:
    count = weave.sections[index].count
    return count.number if count.kind == "repeat" else 1


def joined(weave: Weave) -> bool:
    """Whether cords are made one with each other."""
    return any(c.joined for c in weave.cords)


def finishes_of(weave: Weave) -> list[str]:
    """The finishes that are called, in order."""
    return [i.knot for s in weave.sections for i in s.items if isinstance(i, Call) and i.knot in FINISHES]


HANG_TOOLS = {
    "there-and-back": "a buckle, or two bars, to work between",
    "thirds": "a bar to hang the work on",
    "closed-loop": "two bars to hang the loop between",
    "cold-start": "a clip or a board to hold the ends",
    "former": "a round former and a clip",
    "loop": "a hook for the loop",
}


def tools(weave: Weave, finishes: Sequence[str], t: Trace) -> tuple[str, ...]:
    """Tools for the work as it is hung, tied and made fast."""
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
    if any(s.on for s in weave.sections):
        out.append("a blunt needle for the stitching")
    for f in finishes:
        if "flame" in FINISHES[f].cautions:
            out += ["a flame or hot knife, and a piece of metal to press with"]
        if "glue" in FINISHES[f].cautions:
            out.append("glue")
        if "point" in FINISHES[f].cautions:
            out.append("needle and thread")
    return tuple(dict.fromkeys(out))
