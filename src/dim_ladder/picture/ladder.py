"""Rungs: what the ladder shows of every step, as data and as a picture."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass

from dim_ladder.base.colours import lightness, mix
from dim_ladder.notation import (
    Call,
    Cross,
    Curl,
    Follow,
    Leave,
    Pass,
    Past,
    Round,
    Thread,
    Through,
    Twist,
    write_item,
)
from dim_ladder.picture.display import PAPER, Area, Disc, Ink, Label, Line, Picture, Shape
from dim_ladder.trace.ends import end_colours, letter_of
from dim_ladder.trace.value import StepRecord, Trace

RUNG_HEIGHT = 34.0
RAIL_LEFT = 18.0


@dataclass(frozen=True, slots=True)
class Mark:
    """One hop on a rung. kind : over, under, up, down, round, curl, beside, leave, bead, fitting or twist; end : what is crossed or
    gone round, whose loop it is, or beside whom it runs."""

    kind: str
    end: int


@dataclass(frozen=True, slots=True)
class Rung:
    """One step of the ladder. heading : the knot that begins here. side : +1 to the right, -1 to the left.
    deed : what is done to the whole work, as written in the script; "" for a step of an end."""

    step: int
    end: int
    side: int
    marks: tuple[Mark, ...]
    order: tuple[int, ...]
    heading: str
    finish: bool
    ends: tuple[int, ...] = ()
    deed: str = ""


Known = tuple[tuple[StepRecord, ...], tuple[Rung, ...]]  # steps of an earlier trace, and their rungs


def rungs(trace: Trace, known: Known | None = None, *, once: bool = False) -> tuple[Rung, ...]:
    """A rung for every step; work that is only shown again, under a stitching end, has none.

    known : rungs of the trace before; those of steps that are still the very same are taken over. once : of every section the
    first unit alone.
    """
    same = 0
    kept: tuple[Rung, ...] = ()
    if known is not None:
        for a, b in zip(known[0], trace.steps, strict=False):
            if a is not b:
                break
            same += 1
        kept = known[1][: bisect_left(known[1], same, key=lambda r: r.step)]
    more = enumerate(trace.steps[same:], same)
    return (*kept, *(_rung(i, r) for i, r in more if not r.quiet and not (once and r.op.unit)))


def _rung(index: int, r: StepRecord) -> Rung:
    """A rung reads as the work lies: hops are kept as seen from the front, and swap once the back lies up."""
    marks: list[Mark] = []
    side = 0
    for h in r.hops:
        hop = h.hop
        if isinstance(hop, Cross):
            side = side or (-h.side if r.turned else h.side)
            marks += [Mark("over" if hop.over != r.turned else "under", e) for e in h.ends]
        elif isinstance(hop, Past):
            marks.append(Mark("over" if hop.over != r.turned else "under", h.ends[0]))
        elif isinstance(hop, Through):
            marks.append(Mark("up" if hop.up != r.turned else "down", h.ends[0]))
        elif isinstance(hop, Round):
            marks += [Mark("round", e) for e in h.ends]
        elif isinstance(hop, Curl):
            marks.append(Mark("curl", r.end))
        elif isinstance(hop, Follow):
            marks.append(Mark("beside", h.ends[0]))
        elif isinstance(hop, Leave | Thread):
            marks.append(Mark("leave" if isinstance(hop, Leave) else "bead", r.end))
        elif isinstance(hop, Pass | Twist):
            marks.append(Mark("fitting" if isinstance(hop, Pass) else "twist", r.end))
    heading = ""
    if isinstance(r.op.value, Call) and (r.knot_step == 0 or r.finish):
        heading = r.op.value.knot
    deed = "the others wait" if r.waits else write_item(r.deed) if r.deed is not None else ""
    return Rung(index, r.end, side, tuple(marks), r.order_shown, heading, bool(r.finish), r.ends, deed)


def rung_shapes(
    trace: Trace, rung: Rung, y: float, width: float, ink: Ink, *, chosen: bool = False
) -> list[Shape]:
    """A rung between the rails, its middle at y: end, side, marks, and the colours from left to right after it."""
    colours = end_colours(trace)
    own = colours[rung.end] if rung.end >= 0 else ink.ink
    order_width = min(11.0 * len(rung.order), width * 0.34)
    right = width - 14.0 - order_width
    hair = mix(ink.paper, ink.ink, 0.18)
    out: list[Shape] = []
    if chosen:
        out += _wash(y, width, ink)
    if rung.deed:
        out.append(Label(RAIL_LEFT + 8.0, y + 4.0, rung.deed[:40], 12.0, ink.ink, "start"))
        out += _order_marks(rung, y, right, order_width, colours)
        out.append(Line((("M", (0, y + RUNG_HEIGHT / 2)), ("L", (width, y + RUNG_HEIGHT / 2))), 1.0, hair))
        return out
    if rung.finish:
        for i, e in enumerate(rung.ends):
            out += badge(RAIL_LEFT + 22.0 * i, y, 10.0, colours[e], letter_of(trace, e))
        out.append(Label(RAIL_LEFT + 22.0 * len(rung.ends), y + 4.0, "made fast", 12.0, ink.ink, "start"))
        out.append(Line((("M", (0, y + RUNG_HEIGHT / 2)), ("L", (width, y + RUNG_HEIGHT / 2))), 1.0, hair))
        return out
    out.append(Line((("M", (RAIL_LEFT, y)), ("L", (right, y))), 7.0, mix(own, "#000000", 0.35)))
    out.append(Line((("M", (RAIL_LEFT, y)), ("L", (right, y))), 5.0, own))
    start = RAIL_LEFT if rung.side >= 0 else right
    out += badge(start, y, 10.0, own, letter_of(trace, rung.end))
    shown = list(rung.marks)
    room = right - RAIL_LEFT - 34.0
    gap = min(22.0, room / max(len(shown), 1))
    for i, m in enumerate(shown):
        x = RAIL_LEFT + 26.0 + i * gap if rung.side >= 0 else right - 26.0 - i * gap
        out += _mark(m, x, y, colours[m.end], own, ink)
    tip = right + 1 if rung.side >= 0 else RAIL_LEFT - 1
    d = 8.0 if rung.side >= 0 else -8.0
    out.append(Area(((tip, y - 6), (tip + d, y), (tip, y + 6)), mix(own, "#000000", 0.35)))
    out += _order_marks(rung, y, right, order_width, colours)
    out.append(Line((("M", (0, y + RUNG_HEIGHT / 2)), ("L", (width, y + RUNG_HEIGHT / 2))), 1.0, hair))
    return out


def fold_shapes(
    trace: Trace, rung: Rung, text: str, y: float, width: float, ink: Ink, *, chosen: bool = False
) -> list[Shape]:
    """A whole knot as one rung: its name, and the colours from left to right after its last step, `rung`."""
    colours = end_colours(trace)
    order_width = min(11.0 * len(rung.order), width * 0.34)
    right = width - 14.0 - order_width
    out: list[Shape] = _wash(y, width, ink) if chosen else []
    ends = dict.fromkeys(
        e for s in trace.steps if s.op is trace.steps[rung.step].op for e in s.ends if e >= 0
    )
    gap = (right - RAIL_LEFT) / max(len(ends), 1)
    for i, e in enumerate(ends):  # a rail made of the colours that are worked
        a, b = RAIL_LEFT + gap * i, RAIL_LEFT + gap * (i + 1)
        out.append(
            Line((("M", (a, y + 9.0)), ("L", (b, y + 9.0))), 5.0, mix(colours[e], "#000000", 0.35), False)
        )
        out.append(Line((("M", (a, y + 9.0)), ("L", (b, y + 9.0))), 3.4, colours[e], False))
    out.append(Label(RAIL_LEFT + 8.0, y + 1.0, text, 12.5, ink.ink, "start", True))
    out += _order_marks(rung, y, right, order_width, colours)
    hair = mix(ink.paper, ink.ink, 0.18)
    out.append(Line((("M", (0, y + RUNG_HEIGHT / 2)), ("L", (width, y + RUNG_HEIGHT / 2))), 1.0, hair))
    return out


def _wash(y: float, width: float, ink: Ink) -> list[Shape]:
    """What lies under a chosen rung."""
    top, bottom = y - RUNG_HEIGHT / 2 + 1, y + RUNG_HEIGHT / 2 - 1
    return [
        Area(((0, top), (width, top), (width, bottom), (0, bottom)), mix(ink.paper, ink.signal, 0.10)),
        Area(((0, top), (4, top), (4, bottom), (0, bottom)), ink.signal),
    ]


def _order_marks(rung: Rung, y: float, right: float, width: float, colours: list[str]) -> list[Shape]:
    """The colours from left to right after a step, the moved ends taller."""
    step = width / max(len(rung.order), 1)
    out: list[Shape] = []
    for i, e in enumerate(rung.order):
        x = right + 14.0 + i * step
        tall = 8.0 if e in rung.ends else 5.5
        out.append(Line((("M", (x, y - tall)), ("L", (x, y + tall))), min(6.0, step * 0.62), colours[e]))
    return out


def badge(x: float, y: float, r: float, fill: str, text: str) -> list[Shape]:
    """An end's letter on its colour."""
    ink = "#ffffff" if lightness(fill) < 0.62 else "#1c2328"
    return [
        Disc(x, y, r, fill, mix(fill, "#000000", 0.4), 1.2),
        Label(x, y + r * 0.42, text, r * 1.2, ink, "middle", True),
    ]


def _mark(m: Mark, x: float, y: float, other: str, own: str, ink: Ink) -> list[Shape]:
    upright = (("M", (x, y - 11.0)), ("L", (x, y + 11.0)))
    edge = mix(other, "#000000", 0.35)
    if m.kind == "under":  # the other cord in front
        return [Line(upright, 10.0, ink.paper), Line(upright, 7.0, edge), Line(upright, 5.0, other)]
    if m.kind == "over":  # the rung in front
        bit = (("M", (x - 8.0, y)), ("L", (x + 8.0, y)))
        return [
            Line(upright, 7.0, edge), Line(upright, 5.0, other), Line(bit, 10.5, ink.paper),
            Line(bit, 7.0, mix(own, "#000000", 0.35)), Line(bit, 5.0, own),
        ]  # fmt: skip
    if m.kind == "round":  # once about the other cord
        ring = (("M", (x - 8.0, y)), ("Q", (x, y - 11.0, x + 8.0, y)), ("Q", (x, y + 11.0, x - 8.0, y)))
        return [
            Line(upright, 7.0, edge),
            Line(upright, 5.0, other),
            Line(ring, 5.0, ink.paper),
            Line(ring, 3.0, own),
        ]
    if m.kind == "curl":
        return [Disc(x, y - 5.0, 6.0, "", own, 3.4)]
    if m.kind == "beside":
        level = (("M", (x - 8.0, y - 6.0)), ("L", (x + 8.0, y - 6.0)))
        return [Line(level, 6.0, edge), Line(level, 4.0, other)]
    if m.kind == "leave":
        slack = (("M", (x - 7.0, y)), ("Q", (x, y + 20.0, x + 7.0, y)))
        return [Line(slack, 4.5, mix(own, "#000000", 0.35)), Line(slack, 3.0, own)]
    if m.kind == "fitting":  # a bar across, the rung drawn round it
        return [
            Line((("M", (x, y - 9.0)), ("L", (x, y + 9.0))), 6.0, ink.ink),
            Line((("M", (x, y - 8.0)), ("L", (x, y + 8.0))), 3.0, ink.paper),
        ]
    if m.kind == "twist":
        return [Line((("M", (x - 5.0, y - 5.0)), ("L", (x + 5.0, y + 5.0))), 2.0, ink.ink)]
    if m.kind == "bead":
        return [Disc(x, y, 8.0, ink.paper, ink.ink, 1.6), Disc(x, y, 2.6, ink.ink)]
    d = -1.0 if m.kind == "up" else 1.0
    arrow = ((x - 4.5, y - d * 3), (x + 4.5, y - d * 3), (x, y + d * 5.5))
    return [Disc(x, y, 9.0, ink.paper, other, 3.0), Area(arrow, ink.ink)]


def ladder_picture(trace: Trace, ink: Ink = PAPER, width: float = 260.0) -> Picture:
    """The whole ladder, for print and for `draw --what ladder`."""
    rows = rungs(trace)
    height = RUNG_HEIGHT * (len(rows) + 1)
    shapes: list[Shape] = []
    rail = mix(ink.paper, ink.ink, 0.45)
    order_width = min(11.0 * len(trace.ends), width * 0.34)
    for x in (RAIL_LEFT, width - 14.0 - order_width):
        shapes.append(Line((("M", (x, 0)), ("L", (x, height))), 2.0, rail))
    for i, r in enumerate(rows):
        shapes += rung_shapes(trace, r, RUNG_HEIGHT * (i + 1), width, ink)
    return Picture(
        width, height, tuple(shapes), f"The ladder of {trace.weave.name}: {len(rows)} steps", ink.paper
    )
