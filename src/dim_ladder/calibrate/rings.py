"""Work on a round former, as the calibration counts it.

How much cord a ring takes follows the girth it lies on: its strands go round one cord above the former, so cord grows with the
girth and twice pi cords. A unit is the ring on a former of BASE_MM girth; on another one it counts for so many of these.
"""

from __future__ import annotations

import math

from dim_ladder.library import cord_kind
from dim_ladder.notation import Weave, working_ends
from dim_ladder.trace.former import former_diameter, former_sections, former_work, strand_length

BASE_MM = 170.0  # girth of the former of a unit
# Strands that lie open run at 45 degrees, drawn together tight they go round with hardly more than the girth (the tight shape
# says 0.72 of that rule): how far a maker draws a ring together is the maker's own, so a prior lies between, and is wide.
LAID, RING_SPREAD = 0.85, 0.17


def ring_cords(weave: Weave, section: str) -> dict[str, float]:
    """mm of cord that every end takes in a ring of BASE_MM, by the path of its strand: the cords lay a strand each, in turn."""
    s = next(x for x in former_sections(weave) if x.name == section)
    work = former_work(s)
    out = dict.fromkeys(working_ends(weave), 0.0)
    for k in range(work.strands if weave.cords else 0):
        cord = weave.cords[k % len(weave.cords)]
        own = [e for e in out if e.split(".")[0] == cord.name]
        if own:
            out[own[0]] += LAID * strand_length(work, former_diameter(BASE_MM), cord_kind(cord.kind).across)
    return out


def ring_rise(weave: Weave) -> float:
    """mm of girth that the strands lie beyond the former."""
    across = [cord_kind(c.kind).across for c in weave.cords]
    return 2 * math.pi * (sum(across) / len(across) if across else 4.0)


def ring_moves(weave: Weave, section: str) -> float:
    """Crossings, as steps that take time."""
    s = next(x for x in former_sections(weave) if x.name == section)
    return float(former_work(s).crossings)


def rings_for(girth_mm: float, rise_mm: float) -> float:
    """For how many rings of BASE_MM a ring of that girth counts."""
    return (girth_mm + rise_mm) / (BASE_MM + rise_mm)
