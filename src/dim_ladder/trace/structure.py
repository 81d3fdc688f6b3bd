"""Checks of the drawing itself, for tests and for `check`: slow, simple, and independent of the builder's bookkeeping."""

from __future__ import annotations

from dim_ladder.trace.value import Trace


def all_crossings(trace: Trace) -> set[tuple[int, int]]:
    """Every meeting of a vertical with a horizontal piece, found by comparing all with all (lane rank, row rank)."""
    vertical: list[tuple[int, float, float]] = []
    horizontal: list[tuple[int, int, int]] = []
    lr, rr = trace.lane_rank, trace.row_rank
    for end, path in enumerate(trace.paths):
        for i, piece in enumerate(path):
            if i % 2 == 0:
                if not i and len(path) > 1 and trace.tops[end] == path[1]:
                    continue  # the fold of a cord that was laid in
                above = path[i - 1] if i else trace.tops[end]
                below = path[i + 1] if i + 1 < len(path) else trace.tips[end]
                a = rr[above] if above >= 0 else -1.0
                b = rr[below] if below >= 0 else float("inf")
                vertical.append((lr[piece], min(a, b), max(a, b)))
            else:
                a, b = lr[path[i - 1]], lr[path[i + 1]]
                horizontal.append((rr[piece], min(a, b), max(a, b)))
    return {
        (x, y)
        for x, top, bottom in vertical
        for y, left, right in horizontal
        if left < x < right and top < y < bottom
    }


def check_structure(trace: Trace) -> list[str]:
    """What is wrong with the drawing; empty when it is sound."""
    out = []
    found = all_crossings(trace)
    noted = [(trace.lane_rank[c.lane], trace.row_rank[c.row]) for c in trace.crossings]
    if len(set(noted)) != len(noted):
        out.append("a crossing is noted twice")
    if set(noted) != found:
        out.append(
            f"crossings differ: {len(found - set(noted))} not noted, {len(set(noted) - found)} not there"
        )
    used_lanes = [p for path in trace.paths for p in path[::2]]
    used_rows = [p for path in trace.paths for p in path[1::2]]
    if len(set(used_lanes)) != len(used_lanes) or len(set(used_rows)) != len(used_rows):
        out.append("a lane or row holds two pieces")
    hanging = [e for e, tip in enumerate(trace.tips) if tip < 0]
    tails = sorted(hanging, key=lambda e: trace.lane_rank[trace.paths[e][-1]])
    if sorted(trace.order) != sorted(tails):
        out.append("the order of tails is not one of those that hang")
    elif tuple(tails) != trace.order:
        out.append("the order of tails is not that of their lanes")
    for e, path in enumerate(trace.paths):
        if len(path) % 2 == 0:
            out.append(f"the path of {trace.ends[e]} ends on a row")
    return out


def euler_characteristic(pd: tuple[tuple[int, int, int, int], ...]) -> tuple[int, int]:
    """(characteristic, connected parts) of the surface a PD code fits; planar where it is 2 for every part."""
    where: dict[int, list[tuple[int, int]]] = {}
    for n, crossing in enumerate(pd):
        for slot, label in enumerate(crossing):
            where.setdefault(label, []).append((n, slot))
    if any(len(v) != 2 for v in where.values()):
        raise ValueError("a label does not occur twice")

    def across(n: int, slot: int) -> tuple[int, int]:
        a, b = where[pd[n][slot]]
        return b if a == (n, slot) else a

    seen: set[tuple[int, int]] = set()
    faces = 0
    for n in range(len(pd)):
        for slot in range(4):
            if (n, slot) in seen:
                continue
            faces += 1
            at = (n, slot)
            while at not in seen:
                seen.add(at)
                m, s = across(*at)
                at = (m, (s + 1) % 4)
    parent = list(range(len(pd)))

    def root(i: int) -> int:
        while parent[i] != i:
            i = parent[i]
        return i

    for (a, _), (b, _) in where.values():
        parent[root(a)] = root(b)
    parts = len({root(i) for i in range(len(pd))})
    return len(pd) - len(where) + faces, parts
