"""Where on a picture every region can be clicked, each place with its address."""

from __future__ import annotations

import itertools

from dim_ladder.picture.display import Anchor, Ink
from dim_ladder.picture.look import Style
from dim_ladder.picture.painter import Painter
from dim_ladder.trace.value import Trace


def region_anchors(trace: Trace, first: int, step: int, ink: Ink, style: Style) -> tuple[Anchor, ...]:
    """Every region of a diagram(trace, first, step, ...) that can be clicked, beside the strand to come out over."""
    return _regions(Painter(trace, first, step, ink, style, step, False))


def _regions(p: Painter) -> tuple[Anchor, ...]:
    out: list[Anchor] = []
    by_piece: dict[tuple[bool, int], list[int]] = {}
    for n, c in enumerate(p.t.crossings):
        by_piece.setdefault((True, c.lane), []).append(n)
        by_piece.setdefault((False, c.row), []).append(n)
    off = p.s.unit * 0.36
    for end in p.now:
        path = p.t.paths[end][: p.lengths[end]]
        count = 0
        for i in range(len(path) - 1, -1, -1):
            lane = i % 2 == 0
            met = by_piece.get((lane, path[i]), [])
            parts = _parts(p, end, i, met)
            for k, (x, y, going) in enumerate(parts):
                if y is not None:
                    for left in (True, False):
                        d = (
                            (-off if left == (going > 0) else off)
                            if lane
                            else (off if left == (going > 0) else -off)
                        )
                        at = (x + d, y) if lane else (x, y + d)
                        out.append(Anchor("region", end, *at, count + k, left != p.back))
            count += len(met)
    return tuple(out)


def _parts(p: Painter, end: int, i: int, met: list[int]) -> list[tuple[float, float | None, int]]:
    """Middles of the parts of piece i between its crossings, from the tail up, with the way the end goes there;
    y None for what is not to be seen or too short to click."""
    t, path = p.t, p.t.paths[end]
    if i % 2 == 0:
        lane = path[i]
        top = p.py(path[i - 1]) if i else p._top_y(end)
        bottom = p.py(path[i + 1]) if i + 1 < p.lengths[end] else p.floor - p.s.unit * 0.95
        stops = [bottom, *(p.py(t.crossings[n].row) for n in met), top]
        down = bottom >= top
        stops.sort(reverse=down)
        out: list[tuple[float, float | None, int]] = []
        for a, b in itertools.pairwise(stops):
            y = (a + b) / 2
            seen = abs(a - b) > p.s.row * 0.4 and 0 < y < p.height
            out.append((p.px(lane, y), y if seen else None, 1 if down else -1))
        return out
    row = path[i]
    y = p.py(row)
    xs = [
        p.px(path[i + 1], y),
        *(p.px(t.crossings[n].lane, y) for n in met),
        p.px(path[i - 1], y),
    ]
    right = xs[0] >= xs[-1]
    xs.sort(reverse=right)
    shown = p.shows(row)
    return [
        ((a + b) / 2, y if shown and abs(a - b) > p.s.unit * 0.4 else None, 1 if right else -1)
        for a, b in itertools.pairwise(xs)
    ]
