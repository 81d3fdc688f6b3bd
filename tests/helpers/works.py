"""Random works of several sections, from the grammar and the book of knots: starts, bodies, layers, stitching, finishes, and all that
can be done between knots."""

from __future__ import annotations

import itertools
import random
from dataclasses import replace

from dim_ladder.library import library_knots
from dim_ladder.notation import Weave, parse
from dim_ladder.trace import trace
from helpers.weaves import COLOURS
from helpers.wild import wild_weave

KINDS = ("nylon-4mm", "cotton-3mm", "satin-1.2mm", "flat-8mm")
COUNTS = ("fit", "fit pairs", "fit multiple of 3", "repeat 4", "fit, mirror every other", "fit, spiral")
FOLLOWING = ("same as part0", "for 50 mm", "as long as 1 of 2 of part0", "as long as part0 less 30 mm")


def random_work(seed: int) -> Weave:
    """A weave that can be traced; the first of a row of tries."""
    return next(w for k in itertools.count() if (w := _tried(random.Random(f"{seed} {k}"), seed)) is not None)


def call(rng: random.Random, tails: int) -> str:
    """A knot of the book at some places, now and then with doubled ends."""
    fitting = [k for k in library_knots() if sum(not p.rest for p in k.params) <= tails]
    knot = rng.choice(fitting)
    fixed = [p for p in knot.params if not p.rest]
    more = rng.randint(1, 2) if len(fixed) < len(knot.params) else 0
    spare = tails - len(fixed) - more
    if spare < 0:
        return ""
    doubled = set()
    if spare and rng.random() < 0.2:
        doubled = {p.name for p in rng.sample(fixed, min(len(fixed), rng.randint(1, spare)))}
    at = rng.randint(1, spare - len(doubled) + 1)
    groups = []
    for p in knot.params:
        many = more if p.rest else 2 if p.name in doubled else 1
        groups.append(("+" if p.name in doubled else " ").join(str(at + i) for i in range(many)))
        at += many
    return f"  {knot.name} ({' | '.join(groups)})\n"


def _tried(rng: random.Random, seed: int) -> Weave | None:
    """A random work, or None where its steps cannot be traced."""
    if seed % 5 == 0:
        weave = wild_weave(rng.randint)
        section = replace(weave.sections[0], count=replace(weave.sections[0].count, kind="fit", number=1))
        return replace(weave, sections=(section,))
    tails = rng.randint(2, 6)
    beads = rng.random() < 0.3
    text = _head(rng, tails, beads)
    if rng.random() < 0.4:
        text += f"section head: start\n{call(rng, tails)}"
    for b in range(rng.randint(1, 2)):
        count = rng.choice(FOLLOWING) if b and rng.random() < 0.6 else rng.choice(COUNTS)
        text += f"section part{b}: body, {count}\n" + _body(rng, tails, beads)
    if rng.random() < 0.25:
        text += _over(rng, tails)
    if rng.random() < 0.6:
        text += f"section last: finish\n{call(rng, tails)}"
        if rng.random() < 0.5:
            text += rng.choice(
                [f"  cut-and-melt (1 | {tails})\n", f"  tuck (1 | {tails}) under {rng.randint(1, 5)}\n"]
            )
    parsed = parse(text)
    if parsed.problems or trace(parsed.weave).problems:
        return None
    return parsed.weave


def _head(rng: random.Random, tails: int, beads: bool) -> str:
    """Cords, some joined; beads; how they hang, one strung now and then."""
    joined = rng.random() < 0.1
    strung = rng.randint(1, tails) if rng.random() < 0.1 and tails > 2 and not joined else 0
    text = 'weave "Random"\ncords\n'
    for i in range(1, tails + 1):
        join = f"  joined to k1 {rng.randint(1, 60)} mm" if joined and i == 2 else ""
        text += f"  k{i}  {rng.choices(KINDS, (4, 3, 2, 1))[0]}  {COLOURS[i % 8]}{join}\n"
    text += f"  extra  nylon-2mm  {COLOURS[7]}\n"
    if beads:
        text += f"beads\n  pearl  {rng.choice([4, 6.5, 9])} mm  #f4f2ec\n"
    ends = " ".join(f"k{i}.{'s' if i == strung else 'a'}" for i in range(1, tails + 1))
    return text + f"hang\n  {ends}\n"


def _body(rng: random.Random, tails: int, beads: bool) -> str:
    text = "".join(call(rng, tails) for _ in range(rng.randint(1, 2)))
    if rng.random() < 0.3:
        text += rng.choice(
            [f"  span {rng.randint(3, 40)} mm\n", f"  span 1 of {rng.randint(6, 20)} of girth\n"]
        )
    if beads and rng.random() < 0.7:
        text += f"  {rng.randint(1, tails)}: bead pearl\n"
    if rng.random() < 0.15:
        text += f"  {rng.randint(1, tails)}: {rng.choice(['pass ring', 'pass far-half behind', 'twist'])}\n"
    if rng.random() < 0.1 and tails > 2:
        text += f"  1/2: {rng.choice(['over', 'under'])} 3\n"
    if rng.random() < 0.2:  # an end that comes in and is laid aside again, within the unit
        text += f"  add extra.a at {rng.randint(1, tails + 1)}\n{call(rng, tails + 1)}  drop extra.a\n"
    elif rng.random() < 0.1:  # a cord that is laid across by its middle, and stays
        text += f"  add extra.a extra.b under {rng.randint(1, tails)}\n"
    return text


def _over(rng: random.Random, tails: int) -> str:
    """A layer over the first body, or stitching on it."""
    if rng.random() < 0.5:
        count = rng.choice(["fit", "repeat 3", "same as part0"])
        return f"section coat: body, layer over part0, {count}\n{call(rng, tails + 1)}"
    every = rng.randint(1, 3)
    count = rng.choice(["fit", "repeat 3"] + ["same as part0"] * (every == 1))
    each = f" every {every}" if every > 1 else ""
    if rng.random() < 0.5:
        turned = ", end for end every other" if rng.random() < 0.5 else ""
        steps = "".join(
            f"  extra.b: {rng.choice(['up', 'down'])} {rng.choice(['left', 'right'])} loop {rng.randint(1, 2)}, to left\n"
            for _ in range(rng.randint(1, 3))
        )
        return f"section line: body, stitched on part0{each}, {count}{turned}\n  add extra.b at 1\n{steps}"
    return f"section line: body, stitched on part0{each}, {count}\n  add extra.b at 1\n  extra.b: over 2, under 3, to left\n"
