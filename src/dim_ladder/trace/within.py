"""Into and out of the loops a knot began with: what is seen of an end that is led through them."""

from __future__ import annotations

from typing import NamedTuple

from dim_ladder.notation import Curl
from dim_ladder.trace.diagram import visits
from dim_ladder.trace.led import is_led
from dim_ladder.trace.value import Trace


class Passage(NamedTuple):
    """A hop goes into a loop that `owner` has laid over or under itself, or out of it."""

    owner: int
    into: bool


def passages(trace: Trace, index: int) -> dict[int, Passage]:
    """hop -> the loop whose edge it crosses, for a step that is led: the first that an end of the same knot has made with itself. All
    tails hang outside of it, so every other time that its edge is crossed leads in, and the next one out."""
    r = trace.steps[index]
    if not is_led(r):
        return {}
    first = index
    while first and trace.steps[first - 1].op is r.op:
        first -= 1
    walks = visits(trace)
    eyes: dict[int, tuple[int, set[int]]] = {}  # owner -> where it crosses itself, and what lies on the loop
    met_itself: set[int] = set()
    for s in trace.steps[first : index + 1]:
        for h in s.hops:
            one = h.stop == h.start + 1 and len(s.ends) == 1
            if isinstance(h.hop, Curl) and one and s.end not in met_itself:
                walk = [v.crossing for v in walks[s.end]]
                at = walk.index(h.start)
                eyes[s.end] = h.start, set(walk[at + 1 : walk.index(h.start, at + 1)])
            met_itself |= {c.lane_end for c in trace.crossings[h.start : h.stop] if c.lane_end == c.row_end}
    # Of two visits of an end to one crossing it is led there at the later.
    last = {v.crossing: at for at, v in enumerate(walks[r.end]) if r.start <= v.crossing < r.stop}
    hop_of = {n: k for k, h in enumerate(r.hops) for n in range(h.start, h.stop)}
    out: dict[int, Passage] = {}
    for owner, (own, edge) in eyes.items():
        inside = False
        for n in sorted(last, key=last.__getitem__):
            if n <= own or n not in edge:
                continue
            inside = not inside
            k = hop_of.get(n)  # what the end crosses on its way down after the last hop belongs to none
            if k is not None and r.hops[k].stop == r.hops[k].start + 1:
                out.setdefault(k, Passage(owner, inside))
    return out
