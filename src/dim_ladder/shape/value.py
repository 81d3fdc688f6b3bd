"""What is asked of the shape, and what comes out, as frozen values."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple, TypeVar

import numpy as np

from dim_ladder.shape.rope import Array, Curves, Held

T = TypeVar("T")


class Standing(NamedTuple):
    """Slack that is left standing. strand, part : the turn it stands in, how far along its strand as a part of its length. mm : how
    much. side : 1 where that turn lies to the right of its work, -1 to the left. here : whether it stands just there, and not in a turn nearby."""

    strand: int
    part: float
    mm: float
    side: int
    here: bool = False


class Tip(NamedTuple):
    """Where a loop is held while the knot that it comes out of is drawn up. strand, part : how far along it, as a part of its length. mm :
    left standing there, 0 where nothing is said."""

    strand: int
    part: float
    mm: float


class Part(NamedTuple):
    """One of several works that hang beside each other: its strands, by their number in all of it, and the job of it alone."""

    strands: tuple[int, ...]
    job: Job


class Among(NamedTuple):
    """What else is in a shape than its section: so many units of the body above it, and the begin of that. pitch, cord : of a unit, by strand.
    reach, above : of the begin. share : of what is left, which is its own. width, thickness : of the body."""

    cells: int
    pitch: float
    cord: tuple[float, ...]
    reach: float
    above: tuple[float, ...]
    share: float
    width: float
    thickness: float


class Place(NamedTuple):
    """How the next unit of a strand goes on, where not all do alike: turned by `angle` about the y axis at x = axis, and moved down by
    pitch."""

    angle: float
    pitch: float
    axis: float


@dataclass(frozen=True, slots=True)
class Job:
    """What is pulled tight. ends : by strand, whose it is; wing.a+wing.b where a cord was laid in by
    its fold. kind : "cell", "knot" (tied once, worked out between two others like it), "held", "closed" or "beads" (nothing but those). stretch : pull on the
    pitch that keeps fillers straight and draws what is worked along the work. unit_mm : a diameter of the thickest cord. beads : strand, how
    far along it as a part of its length, name, and which bead of the unit it is, on every end that runs through it. loose : by strand of held work, whether it was laid in here by itself,
    and whether it was dropped here. period : how many units of the section it is. idle : by strand, whether it crosses nothing. loops, tips : pairs of strands
    that are one cord, held aside between them, and where. otherwise : how else it can be drawn up, where this comes out wrong. lies : whether it lies flat, as its ends' linking says,
    and hands let it not turn. rows : of knots that stand apart in a unit, the jobs of each.
    free : see TightShape. times : how often one of those is tied, one after the other, where that is so often that it is drawn up as a body.
    also : the same begun from another loose shape, and so on; of all the one that takes least counts. among : see Among. hitched :
    strands that are tied on to one runner, each alike, and to nothing else. twins : strands that one knot of several in the unit treats alike.
    knots_first : whether its knots are drawn up, as far apart as they are laid, before they are drawn up to each other. single : the same work
    tied with single ends, where that tells whether it turns."""

    kind: str
    ends: tuple[str, ...]
    curves: Curves
    stretch: float
    unit_mm: float
    beads: tuple[tuple[int, float, str, int], ...] = ()
    loose: tuple[tuple[bool, bool], ...] = ()
    period: int = 1
    idle: tuple[bool, ...] = ()
    standing: tuple[Standing, ...] = ()
    parts: tuple[Part, ...] = ()
    loops: tuple[tuple[int, int], ...] = ()
    tips: tuple[Tip, ...] = ()
    otherwise: Job | None = None
    lies: bool = False
    rows: tuple[Job, ...] = ()
    free: tuple[float, ...] = ()
    times: int = 1
    also: Job | None = None
    among: Among | None = None
    hitched: tuple[int, ...] = ()
    twins: tuple[tuple[int, ...], ...] = ()
    knots_first: bool = False
    single: Job | None = None


LIKE = (0.03, 0.02)  # of the pitch and of the cord, by which two answers may differ and still be the same


def widest(shapes: Sequence[TightShape]) -> tuple[float, float]:
    """How else works came to rest that are one: as the one of them that differs most."""
    return max((s.rests for s in shapes), key=lambda r: max(map(abs, r)))


@dataclass(frozen=True, slots=True)
class TightShape:
    """In diameters of the thickest cord. kind : "cell" repeats, "held" is one knot with its ends held, "closed" goes
    round. pitch : of one unit, of a held knot its reach, of closed work its height. angle : turn of a unit, radians.
    per_end : cord that each end takes in a unit, the mean over the units until it is back in its place; of a held knot
    what it takes beyond its straight tails. overlap : the deepest that is left. deepest : that was ever there, of a
    contact's distance. passed : whether cords may have passed through each other at any step. lines : centre lines,
    (n, 3), by strand; each goes on in the next unit in the strand `follow`. touching : strands that press on each other
    and how far. converged : at rest, nothing in anything, nothing passed, nothing amiss. amiss : what is
    wrong with it otherwise, in words. held : where it is held straight. period : how many units
    of the section it is: two where every other one is mirrored or flipped. seams : by strand, the points of its line at which each knot
    but the first begins, where the knots of a unit stand apart. free : mm
    of free cord above, between and below its knots, no matter of the shape: it is drawn, and counted, beside it. cells : of the lock of a chain, or
    its begin, units of the body that its lines are of, with begin and lock; pitch and cord are its own. rests : how much longer it came to
    rest from another beginning, and with how much more cord, as parts of the pitch and of all cord here; what is less than LIKE counts for nothing."""

    kind: str
    ends: tuple[str, ...]
    pitch: float
    angle: float
    width: float
    thickness: float
    per_end: dict[str, float]
    overlap: float
    deepest: float
    passed: bool
    converged: bool
    steps: int
    lines: tuple[Array, ...]
    follow: tuple[int, ...]
    diameter: tuple[float, ...]
    touching: tuple[tuple[int, int, float], ...]
    unit_mm: float
    beads: tuple[tuple[int, float, str, int], ...] = ()
    period: int = 1
    amiss: str = ""
    held: tuple[Held, ...] = ()
    spread: tuple[float, ...] = ()
    standing: tuple[Standing, ...] = ()
    places: tuple[Place, ...] = ()
    seams: tuple[tuple[int, ...], ...] = ()
    free: tuple[float, ...] = ()
    cells: int = 0
    rests: tuple[float, float] = (0.0, 0.0)

    def taken_mm(self) -> dict[str, float]:
        """Cord that each end takes in a unit, in mm, with what it leaves standing."""
        out = {e: v * self.unit_mm for e, v in self.per_end.items()}
        for s in self.standing:
            both = self.ends[s.strand].split("+")
            for e in both:
                out[e] += s.mm / len(both)
        return out

    def handed_on(self, holder: Sequence[T]) -> list[T]:
        """Whose each strand is in the next unit. holder : in this one."""
        after = list(holder)
        for k, f in enumerate(self.follow):
            if f >= 0:
                after[f] = holder[k]
        return after

    def or_rests(self, others: Sequence[TightShape]) -> TightShape:
        """The same, with how else it came to rest: as the one of the others that differs most."""
        cord = sum(self.per_end.values())
        away = [(s.pitch / self.pitch - 1, sum(s.per_end.values()) / cord - 1) for s in others]
        unlike = [a for a in away if any(abs(by) > like for by, like in zip(a, LIKE, strict=True))]
        return replace(self, rests=max(unlike, key=lambda a: max(map(abs, a)))) if unlike else self

    @property
    def twist_deg(self) -> float:
        return float(np.degrees(self.angle))
