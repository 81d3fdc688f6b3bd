"""Small weaves for tests, and random ones."""

from __future__ import annotations

from dataclasses import replace

from dim_ladder.base import InputError
from dim_ladder.commands.draft import begin
from dim_ladder.notation import Section, Weave, parse_strict
from dim_ladder.trace import Tracer

COLOURS = ("#1f6f8b", "#e07a1f", "#3f7a4a", "#d8c39a", "#7a5236", "#744a9e", "#c22f2b", "#888a8c")

TERN = """weave "Tern Ladder"

cords
  tide  nylon-4mm  #1f6f8b
  buoy  nylon-4mm  #e07a1f

hang
  buoy.a tide.a tide.b buoy.b

knot half-right (w | c.. | v)
  v: over c
  w: over v, under c, up v

knot half-left = mirror half-right

section bar: body, fit pairs
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)

section end: finish
  tuck-and-melt (1 | 4)
"""

SPIRAL = TERN.replace("  half-left (1 | 2 3 | 4)\n", "")
PLAIT = """weave "Reed Plait"

cords
  reed  cotton-5mm  #c9a13b
  rush  cotton-5mm  #5b7f4b
  mud   cotton-5mm  #7a5236

hang
  reed.a rush.a mud.a

section reed: body, fit multiple of 3
  3: over 2
  1: over 2
"""


def weave_of(count: int, *lines: str, knots: str = "") -> Weave:
    """`count` separate cords and one body section with these lines."""
    cords = "\n".join(f"  k{i} nylon-4mm {COLOURS[i % 8]}" for i in range(1, count + 1))
    ends = " ".join(f"k{i}.a" for i in range(1, count + 1))
    body = "\n".join("  " + line for line in lines)
    return parse_strict(
        f'weave "Test"\ncords\n{cords}\nhang\n  {ends}\n{knots}\nsection s: body, fit\n{body}\n'
    )


def stiff(weave: Weave) -> Weave:
    """The same in rigid cord, of which ideal shapes are known."""
    return replace(weave, cords=tuple(replace(c, kind="stiff-4mm") for c in weave.cords))


def random_weave(choose, most_ends: int = 6, most_steps: int = 6) -> Weave:
    """A valid weave made by random moves. choose(low, high) gives a whole number from low to high."""
    count = choose(2, most_ends)
    weave = weave_of(count, "1: over 2")
    steps = []
    tracer = Tracer()

    def with_steps(items):
        section = weave.sections[0]
        return Weave(
            weave.name,
            weave.cords,
            weave.hang,
            (),
            (Section(section.name, section.kind, section.count, tuple(items)),),
        )

    moved: set[str] = set()
    for _ in range(choose(1, most_steps)):
        order = tracer.trace(with_steps(steps)).names_shown()
        draft = begin(order[choose(0, count - 1)], order)
        now = order
        for _ in range(choose(1, 5)):
            kind = choose(0, 9)
            if kind == 9 and draft.moves:
                owners = sorted(moved | {draft.end})
                trial = draft.through(choose(0, 1) == 1, owners[choose(0, len(owners) - 1)])
            elif kind == 8:
                draft = draft.turn()
                continue
            else:
                try:
                    trial = draft.cross(kind % 2 == 0, now)
                except InputError:
                    draft = draft.turn()
                    continue
            traced = tracer.trace(with_steps([*steps, trial.step()]))
            if traced.problems:
                continue
            draft, now = trial, traced.names_shown()
        if draft.moves:
            steps.append(draft.step())
            moved.add(draft.end)
    return with_steps(steps)


# Two cords made one by their other ends, over a third that is strung.
JOINED = """weave "Joined"
cords
  main  nylon-3mm  #d8c39a
  tide  nylon-3mm  #1f6f8b
  buoy  nylon-3mm  #e07a1f  joined to tide
hang on bar
  buoy.a main.s tide.a
section bar: body, fit pairs
  half-right (1 | 2 | 3)
  half-left (1 | 2 | 3)
"""
