"""The weave as an immutable value: what a script says, apart from the text that says it."""

from __future__ import annotations

from dataclasses import dataclass, replace

TENSIONS = ("tight", "snug", "easy")
SECTION_KINDS = ("start", "body", "finish")
Ref = int | str  # a place (1 from the left, at that moment) or a name


@dataclass(frozen=True, slots=True)
class Cord:
    """One piece of cord with two ends, `name.a` and `name.b`."""

    name: str
    kind: str
    colour: str
    lead: tuple[str, ...] = ()
    note: str = ""


@dataclass(frozen=True, slots=True)
class Hang:
    """How the cords hang: on what, and the working ends from left to right."""

    ends: tuple[str, ...] = ()
    on: str = "bar"
    lead: tuple[str, ...] = ()
    note: str = ""


@dataclass(frozen=True, slots=True)
class Param:
    """A name in a knot's brackets; `rest` takes every place that is left over."""

    name: str
    rest: bool = False


@dataclass(frozen=True, slots=True)
class Cross:
    """Cross neighbouring tails in order, in front (`over`) or behind."""

    over: bool
    refs: tuple[Ref, ...]


@dataclass(frozen=True, slots=True)
class Loop:
    """A loop to pass through: the first bend of `ref`'s latest step, or of this step itself (ref None)."""

    ref: Ref | None = None


@dataclass(frozen=True, slots=True)
class Through:
    """Pass behind everything into a loop, out in front over its outer edge (`up`), or the same seen from behind."""

    up: bool
    loop: Loop


Hop = Cross | Through


@dataclass(frozen=True, slots=True)
class Step:
    """The hops one end makes before it rests."""

    end: Ref
    hops: tuple[Hop, ...]
    tension: str = ""
    note: str = ""
    lead: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Knot:
    """A named list of steps over places, or another knot seen in a mirror or from behind."""

    name: str
    params: tuple[Param, ...] = ()
    steps: tuple[Step, ...] = ()
    derive: str = ""  # "", "mirror" or "flip"
    source: str = ""
    lead: tuple[str, ...] = ()
    note: str = ""


@dataclass(frozen=True, slots=True)
class Call:
    """A knot tied over places: one group of references for each bar-separated slot."""

    knot: str
    groups: tuple[tuple[Ref, ...], ...]
    lead: tuple[str, ...] = ()
    note: str = ""


Item = Call | Step


@dataclass(frozen=True, slots=True)
class Count:
    """How often a section is worked.

    kind : "repeat" (exactly `number` times), "fit" (scales with the size, in multiples of `number`),
        or "same" (as often as the section `other`).
    """

    kind: str = "repeat"
    number: int = 1
    other: str = ""


@dataclass(frozen=True, slots=True)
class Section:
    """Knots and steps with a count."""

    name: str
    kind: str
    count: Count = Count()
    items: tuple[Item, ...] = ()
    lead: tuple[str, ...] = ()
    note: str = ""


@dataclass(frozen=True, slots=True)
class Weave:
    """Cords, how they hang, knots and sections: everything a script holds."""

    name: str
    cords: tuple[Cord, ...] = ()
    hang: Hang = Hang()
    knots: tuple[Knot, ...] = ()
    sections: tuple[Section, ...] = ()
    lead: tuple[str, ...] = ()
    tail: tuple[str, ...] = ()

    def cord_of(self, end: str) -> Cord | None:
        """The cord an end such as `tide.a` belongs to."""
        name = end.split(".", 1)[0]
        return next((c for c in self.cords if c.name == name), None)

    def knot(self, name: str) -> Knot | None:
        return next((k for k in self.knots if k.name == name), None)

    def section(self, name: str) -> Section | None:
        return next((s for s in self.sections if s.name == name), None)


def flipped(step: Step) -> Step:
    """The same step with front and back exchanged."""
    hops: list[Hop] = []
    for hop in step.hops:
        if isinstance(hop, Cross):
            hops.append(replace(hop, over=not hop.over))
        else:
            hops.append(replace(hop, up=not hop.up))
    return replace(step, hops=tuple(hops))
