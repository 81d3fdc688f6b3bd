"""Knots that are tied round their own middle hang below work in a bundle, as the hand holds them, and not in a row."""

from dataclasses import replace

import numpy as np
import pytest

from dim_ladder.shape import tight
from dim_ladder.shape.board import in_bundle
from helpers.weaves import weave_of


def _finish(count, line):
    weave = weave_of(count, line)
    return replace(weave, sections=tuple(replace(s, kind="finish") for s in weave.sections))


@pytest.mark.parametrize(
    ("count", "line", "wide"),
    [
        (4, "crown-wall-4 (1 | 2 | 3 | 4)", 2.3),
        (4, "diamond-4 (1 | 2 | 3 | 4)", 2.3),
        (3, "crown-3 (1 | 2 | 3)", 2.3),
        (6, "wall-3 (1+2 | 3+4 | 5+6)", 3.3),
    ],
)
def test_ends_of_a_knob_come_into_it_side_by_side_all_round(count, line, wide):
    """They came from as far aside as places are apart: a knob hung 10 mm below its plait."""
    shape = tight(_finish(count, line), "s")
    assert shape.converged
    x = np.array([line[0, 0] for line in shape.lines])
    assert np.ptp(x) < wide
    took = np.array(list(shape.per_end.values()))
    assert np.ptp(took) < 0.06 * took.mean()


def test_a_band_and_a_plait_hang_in_their_row():
    assert not in_bundle(((0, 3), (1, 2)), 4)  # half knots over fillers
    assert not in_bundle(((0, 1),), 2)  # two strands have no middle
    assert not in_bundle(((0, 1, 2),), 4)  # not round all of them
    assert in_bundle(((0, 2, 4), (1, 3, 5)), 6)
    plait = tight(_finish(5, "plait-5 (1 | 2 | 3 | 4 | 5)"), "s")
    assert plait.width > 1.5 * plait.thickness
