"""What a piece hangs on and what closes it, as far as the work itself is not that: drawn for what there is.

What the work hangs on is said in the script. Where nothing is said there, it is what closes the piece. A knot tied last, or cord
laid in to slide on the others, is the fastening by itself: then none is drawn besides.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dim_ladder.library import BUTTONS, FASTENINGS, STOPPERS
from dim_ladder.notation import Add, Call, Weave
from dim_ladder.shape.closing import buckle_half, coil, even, loop, ring, stopper
from dim_ladder.shape.faces import Bead, Strand
from dim_ladder.shape.rope import Array
from dim_ladder.shape.sheath import Look
from dim_ladder.shape.value import TightShape

WOOD = Look("#9a7650", 0, "smooth")
FOLD = 2.6  # diameters from the first section to the middle of what it hangs on
FOLD_AT_BUCKLE = 1.6  # the same, where the work is drawn up against the bar of a buckle
FOOT_AT_BUCKLE = 0.6  # from the last section to the bar of what closes it there
STUB = 1.6  # of the ends, above what is not hung on anything and below the last section
NOWHERE = ("cold-start", "former")
KNOB = 1.2  # times as thick as the body before it: a finish that is a knob
BUCKLES = ("side-buckle", "buckle-and-ring")
STANDING_MM = 15.0  # of the loop that a piece hangs from, where nobody says how long it is


@dataclass(frozen=True, slots=True)
class Fitting:
    """top : "bar", "ring", "buckle", "loop" or nothing. foot : what is drawn below: "buckle", "bar", "stopper", "slide" or nothing.
    standing : a loop of its own above what it hangs on."""

    top: str
    foot: str
    standing: bool


def fitting(weave: Weave, fastening: str, shapes: Mapping[str, TightShape]) -> Fitting:
    """What there is at both ends of the piece. fastening : of the plan."""
    on = weave.hang.on
    closed = ends_in_knob(weave, shapes)
    planned = "buckle" if fastening in BUCKLES else "ring" if fastening == "ring" else "bar"
    if on in NOWHERE:
        top = ""
    elif on in ("ring", "loop"):
        top = on
    elif on in ("buckle", "there-and-back"):
        top = "buckle"
    else:
        top = "bar" if closed else planned
    if fastening in BUCKLES and top == "buckle" and not closed:
        foot = "buckle"
    elif on == "closed-loop":
        foot = "bar"
    elif fastening.startswith("loop-") and not closed:
        foot = "stopper"
    elif fastening == "sliding" and not any(isinstance(i, Add) for s in weave.sections for i in s.items):
        foot = "slide"
    else:
        foot = ""
    return Fitting(top, foot, fastening.startswith("loop-") and top in ("bar", ""))


def added(fastening: str, adds: float | None) -> float:
    """mm that a fastening adds to the length of the work. adds : what it adds in the plan; None as usual."""
    usual = FASTENINGS[fastening].adds_mm if fastening in FASTENINGS else 0.0
    return usual if adds is None else adds


def laps(strands: Sequence[Strand], closed: float) -> float:
    """By how much what is drawn is longer than it is closed."""
    every = [s.line[:, 1] for s in strands]
    return max(0.0, max(map(np.max, every)) - min(map(np.min, every)) - closed) if every else 0.0


def ends_in_knob(weave: Weave, shapes: Mapping[str, TightShape]) -> bool:
    """Whether a finish ties what holds in a loop: a knot that is known for that, or one much thicker than the body."""
    body = [shapes[s.name].thickness for s in weave.sections if s.kind == "body" and s.name in shapes]
    for s in weave.sections:
        if s.kind != "finish":
            continue
        if any(isinstance(i, Call) and i.knot in STOPPERS | BUTTONS for i in s.items):
            return True
        last = shapes.get(s.name)
        if body and last is not None and last.thickness > KNOB * body[-1]:
            return True
    return False


def hung(
    tops: Mapping[str, Array], feet: list[Array], look: Mapping[str, Look], unit_mm: float, fit: Fitting, fastening: str, adds: float | None,
) -> tuple[list[Strand], list[Bead], dict[str, Array]]:  # fmt: skip
    """The fittings, and by end the cord above its work: from the fold over what it hangs on, or as a stub. tops : by end, where it begins; feet : where
    the ends stop; all in diameters. look : by end. adds : of the fastening, mm; None as usual."""
    adds = added(fastening, adds)
    out: list[Strand] = []
    beads: list[Bead] = []
    legs: dict[str, Array] = {}
    first = look.get(next(iter(look), ""), Look("#888888"))
    buckle = (adds if fastening in BUCKLES and adds else FASTENINGS["side-buckle"].adds_mm) / unit_mm / 2
    if tops:
        level = min(0.0, *(float(p[1]) for p in tops.values())) - (
            FOLD_AT_BUCKLE if fit.top == "buckle" else FOLD
        )
        legs = _folds(tops, level, fit.top, (adds or STANDING_MM) / unit_mm)
        xs = [float(p[0]) for p in tops.values()]
        middle, wide = (max(xs) + min(xs)) / 2, max(xs) - min(xs)
        if fit.top == "bar":
            out.append(_bar(middle, level, wide))
        elif fit.top == "buckle":
            out.append(buckle_half(middle, level, wide, unit_mm, buckle, up=True))
        elif fit.top == "ring":
            own = fastening == "ring" and adds > 0
            planned = (adds if own else FASTENINGS["ring"].adds_mm) / unit_mm
            out.append(
                ring(middle, level, planned if fastening == "ring" else max(planned, wide + 1.0), unit_mm)
            )
        if fit.standing:
            out.append(loop(middle, level, adds / unit_mm, first))
    if feet:
        x, below = (
            float(np.mean([f[0] for f in feet])),
            max(float(f[1]) for f in feet) + (FOOT_AT_BUCKLE if fit.foot == "buckle" else STUB),
        )
        wide = float(np.ptp([f[0] for f in feet]))
        if fit.foot == "buckle":
            out.append(buckle_half(x, below, wide, unit_mm, buckle, up=False))
        elif fit.foot == "bar":
            out.append(_bar(x, below, wide))
        elif fit.foot == "stopper":
            beads.append(stopper(x, below, adds / unit_mm, first))
        elif fit.foot == "slide":
            out.append(coil(x, below - 0.5, wide / 2 + 0.6, adds / unit_mm, first))
    return out, beads, legs


def _bar(x: float, y: float, wide: float) -> Strand:
    reach = wide / 2 + 2.2
    return Strand(even(np.array([[x - reach, y, 0.0], [x + reach, y, 0.0]])), WOOD, 1.2, -1)


def _folds(tops: Mapping[str, Array], level: float, top: str, standing: float) -> dict[str, Array]:
    """By end, from the middle of its fold over what it hangs on, or of a loop of the innermost cord, down to where it is led to its work; of an end
    that is not folded a stub."""
    out: dict[str, Array] = {}
    pairs: list[tuple[str, str]] = []
    for e in tops:
        other = next((x for x in tops if x != e and x.partition(".")[0] == e.partition(".")[0]), None)
        if other is not None and top and not any(e in p for p in pairs):
            pairs.append((e, other))
    # From the narrowest to the widest fold: each goes over those that lie between its ends.
    pairs.sort(key=lambda p: abs(float(tops[p[0]][0] - tops[p[1]][0])))
    spans = [sorted(float(tops[e][0]) for e in pair) for pair in pairs]
    for n, (pair, span) in enumerate(zip(pairs, spans, strict=True)):
        left, right = sorted(pair, key=lambda e: float(tops[e][0]))
        p, q = tops[left], tops[right]
        over = 1.1 + sum(span[0] < other[1] and other[0] < span[1] for other in spans[:n])
        if top == "loop" and not n:
            line = loop((p[0] + q[0]) / 2, level, standing, WOOD).line[::-1]  # its left side first
        else:
            # Up behind what it hangs on, over it, and down in front.
            t = np.linspace(0, np.pi, 17)[:, None]
            middle, half = (p + q) / 2, (q - p) / 2
            line = np.hstack([middle[0] - half[0] * np.cos(t), level - over * np.sin(t), -1.1 * np.cos(t)])
        fold = len(line) // 2  # each a little beyond it, or a slit stood open there
        out[left], out[right] = even(line[: fold + 2][::-1]), even(line[fold - 1 :])
    for e, p in tops.items():
        if e not in out:
            up = max(float(p[1]) - level + (FOLD if top else STUB) - FOLD, STUB)
            out[e] = even(np.array([p - [0.0, up, 0.0], p - [0.0, up / 2, 0.0]]))
    return out
