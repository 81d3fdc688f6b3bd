"""Ties that may be slips: each is left out of as much of the answer as it is likelier to be one.

A tie that hardly goes with the others was tied otherwise, or it is wrong; where two contradict each other, either may be. So
the answer is a mixture: all ties are as they were read, or one of them is not, and what the others say then is judged in the same
way again. How likely each is follows from how well the tie goes with the others, against how well a slip would explain it.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

import numpy as np

from dim_ladder.calibrate.belief import Fitted, fitted
from dim_ladder.calibrate.prior import Prior
from dim_ladder.calibrate.ties import Tie
from dim_ladder.calibrate.without import Predicted, chances, predicted, without

RARE = 0.01  # a tie that fits worse than this part of all does not fit
WORTH_A_LOOK = 0.03  # by the short way
SLIP = 0.04  # of all ties, about, have one
ANYTHING = -float(np.log(400.0))  # a reading somewhere within 40 cm
DEPTH, BREADTH = 3, 2  # ties that may be left out at once, and instead of each other
SLIGHT = 0.02  # of the answer, less than which is left away
Part = tuple[float, Fitted]


def parts(prior: Prior, ties: Sequence[Tie]) -> tuple[Fitted, list[Part]]:
    """The fit of all ties, and fits of all or fewer with their weights, which sum to 1."""
    whole = fitted(prior, ties)
    found: dict[frozenset[str], Part] = {}
    _branch(whole, 1.0, DEPTH, found)
    total = sum(w for w, _ in found.values())
    return whole, [(w / total, f) for w, f in found.values()]


def _branch(f: Fitted, weight: float, depth: int, found: dict[frozenset[str], Part]) -> None:
    ids = frozenset(f.data.ids)
    suspects = doubted(f)[:BREADTH] if depth and f.data.ties > 1 else []
    odds = np.array([0.0, *(log for _, log in suspects)])
    share = np.exp(odds - odds.max())
    share /= share.sum()
    if share[0] > SLIGHT and (ids not in found or found[ids][0] < weight * share[0]):
        found[ids] = (weight * float(share[0]), f)
    for (tie, _), part in zip(suspects, share[1:].tolist(), strict=True):
        left = ids - {tie.id}
        if part > SLIGHT and left not in found:
            rest = fitted(f.prior, [t for t in f.ties if t.id != tie.id], f.known)
            _branch(rest, weight * part, depth - 1, found)


def doubted(f: Fitted) -> list[tuple[Tie, float]]:
    """Ties that hardly go with the others, the worst first, and the logarithm of how much likelier than not each is a slip."""
    by_id = {t.id: t for t in f.ties}
    short = chances(f)
    out = []
    for k in np.argsort(short)[: 2 * BREADTH].tolist():
        if short[k] < WORTH_A_LOOK:
            tie = by_id[f.data.ids[k]]
            p = predicted(f, without(f, tie), tie)
            if p is not None and (chance := p.chance()) < RARE:
                log = float(np.log(SLIP)) + slipped(p) - p.log_density()
                out.append((chance, tie, log))
    out.sort(key=lambda x: x[0])
    return [(tie, log) for _, tie, log in out]


def slipped(p: Predicted) -> float:
    """Log density of a tie's rows where one, two or all of them say nothing."""
    n = len(p.data.value)
    some = [(k,) for k in range(n)] + list(combinations(range(n), 2))[: 4 * n]
    every = [*some, tuple(range(n))]
    log = np.array([p.but(rows) + len(rows) * ANYTHING for rows in every])
    top = float(log.max())
    return top + float(np.log(np.exp(log - top).mean()))
