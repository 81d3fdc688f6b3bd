"""Closed curves: work on a round former, and any others."""

from __future__ import annotations

import numpy as np

from dim_ladder.shape.lift import HEIGHT
from dim_ladder.shape.rope import Array, Curves
from dim_ladder.trace.former import FormerWork

LOOSE = 1.5  # diameters between strands that lie side by side, before anything is tight
SHAKE = 0.05  # diameters: what is wholly symmetrical can rest where it is not tight, so closed curves are shaken once


def closed_curves(
    strands: list[Array], core: float = 0.0, give: tuple[float, ...] = (), soft: float = 0.0
) -> Curves:
    """Closed curves, (n, 3) each with the first point once more at the end, as what can be pulled tight.

    core : radius about the y axis, in diameters, that centre lines keep clear of. give, soft : as of Curves.
    """
    rng = np.random.default_rng(7)
    shaken = []
    for s in strands:
        moved = s + rng.normal(size=s.shape) * SHAKE
        moved[-1] = moved[0]
        shaken.append(moved)
    n = len(strands)
    return Curves(tuple(shaken), (-2,) * n, 0.0, (1.0,) * n, (1.0,) * n, core=core, give=give, soft=soft)


def former_strands(work: FormerWork, core: float = 0.0) -> tuple[list[Array], list[int]]:
    """The work in space, loosely round its axis, every pass closed on itself; and by curve the strand it is a pass of.

    Seen unrolled, a pass is its strand moved towards the far edge by its place among the passes: so the passes lie side
    by side, to the left of their way, and never meet. core : radius that centre lines keep clear of, in diameters.
    """
    p, b, n = work.leads, work.bights, work.passes
    unit = n * LOOSE / np.sqrt(2)  # of the unrolled lattice, in diameters
    beside = np.sqrt(2) * LOOSE / unit
    shift = [(t - (n - 1) / 2) * beside for t in range(n)]
    radius = max(b * unit / np.pi, core + HEIGHT + 0.5, 2.0)
    strands: list[Array] = []
    owner: list[int] = []
    runs = work.half_cycles()
    for strand in range(work.strands):
        for t in range(n):
            points: list[tuple[float, float, float]] = []
            for r in (r for r in runs if r.strand == strand):
                points.append((r.start, (0.0 if r.up else p) + shift[t], 0.0))
                found = []
                for k, m in enumerate(work.meetings(r)):
                    for u in range(n):
                        back = (shift[u] - shift[t]) / 2 * (1 if r.up else -1)
                        found.append(
                            (k + 1 + back, m.y + (shift[t] + shift[u]) / 2, HEIGHT if m.over else -HEIGHT)
                        )
                points += [(r.start + along, y, z) for along, y, z in sorted(found)]
            points.append(points[0])
            a = np.array(points)
            # The way round goes on past the seam: only its place on the circle counts.
            turn, out = a[:, 0] * np.pi / b, radius + a[:, 2]
            strands.append(
                np.column_stack([out * np.sin(turn), unit * (a[:, 1] - p / 2), out * np.cos(turn)])
            )
            owner.append(strand)
    return strands, owner
