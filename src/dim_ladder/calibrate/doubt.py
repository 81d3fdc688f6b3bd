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
from dim_ladder.calibrate.without import Predicted, chances, predicted, with_sitting, without

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
    rests = [fitted(f.prior, [t for t in f.ties if t.id != tie.id], f.known) for tie in suspects]
    odds = [f.evidence]
    for tie, rest in zip(suspects, rests, strict=True):
        p = predicted(rest, with_sitting(rest, tie), tie)
        odds.append(rest.evidence + float(np.log(SLIP)) + slipped(p) if p is not None else -np.inf)
    share = np.exp(np.array(odds) - max(odds))
    share /= share.sum()
    if share[0] > SLIGHT and (ids not in found or found[ids][0] < weight * share[0]):
        found[ids] = (weight * float(share[0]), f)
    for rest, part in zip(rests, share[1:].tolist(), strict=True):
        if part > SLIGHT and frozenset(rest.data.ids) not in found:
            _branch(rest, weight * part, depth - 1, found)


def doubted(f: Fitted) -> list[Tie]:
    """Ties that hardly go with the others, the worst first."""
    by_id = {t.id: t for t in f.ties}
    short = chances(f)
    out = []
    for k in np.argsort(short)[: 2 * BREADTH].tolist():
        if short[k] < WORTH_A_LOOK:
            tie = by_id[f.data.ids[k]]
            p = predicted(f, without(f, tie), tie)
            if p is not None and (chance := p.chance()) < RARE:
                out.append((chance, tie))
    return [tie for _, tie in sorted(out, key=lambda x: x[0])]


def slipped(p: Predicted) -> float:
    """Log density of a tie's rows where one, two or all of them say nothing."""
    n = len(p.data.value)
    some = [(k,) for k in range(n)] + list(combinations(range(n), 2))[: 4 * n]
    every = [*some, tuple(range(n))]
    log = np.array([p.but(rows) + len(rows) * ANYTHING for rows in every])
    top = float(log.max())
    return top + float(np.log(np.exp(log - top).mean()))
