"""Knot invariants by a library that is not ours."""

from __future__ import annotations

import numpy as np
import spherogram

from dim_ladder.trace import Closed


def link(closed: Closed) -> spherogram.Link:
    return spherogram.Link([list(c) for c in closed.pd])


def determinant_signature(closed: Closed) -> tuple[int, int]:
    """|det(V + V^T)| and the signature of V + V^T for a Seifert matrix V."""
    return seifert_numbers(link(closed))


def seifert_numbers(diagram: spherogram.Link) -> tuple[int, int]:
    """The same of any diagram the foreign library holds."""
    v = np.array(diagram.seifert_matrix(), dtype=float)
    if v.size == 0:
        return 1, 0
    form = v + v.T
    values = np.linalg.eigvalsh(form)
    return round(abs(np.linalg.det(form))), int((values > 1e-9).sum() - (values < -1e-9).sum())
