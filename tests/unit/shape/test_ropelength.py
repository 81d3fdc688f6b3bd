"""Closed curves against published and exact lengths, and work on formers against a library that is not ours."""

import numpy as np
import pytest
import spherogram

from dim_ladder.notation import Former, Section, Widen
from dim_ladder.shape.closed import closed_curves, former_strands
from dim_ladder.shape.measure import ropelength, thickness
from dim_ladder.shape.relax import PRECISE, settle
from dim_ladder.shape.rope import Curves, rope
from dim_ladder.trace.former import former_work
from helpers.invariants import seifert_numbers
from helpers.ropes import KNOWN
from helpers.space import projected


@pytest.mark.parametrize("name", KNOWN)
def test_within_one_per_mille_of_what_is_published(name):
    strands, known = KNOWN[name]
    *_, last = settle(closed_curves(list(strands)), PRECISE)
    assert last.rest
    assert last.clear > 0
    assert ropelength(last.rope) == pytest.approx(known, rel=0.001)


def test_thickness_is_what_a_ring_and_two_parallel_rings_have():
    t = np.linspace(0, 2 * np.pi, 200)
    ring = np.column_stack([np.cos(t), 0 * t, np.sin(t)])

    def fits(*rings):
        n = len(rings)
        return thickness(rope(Curves(rings, (-2,) * n, 0.0, (1.0,) * n, (1.0,) * n), 0.05))

    assert fits(ring * 3) == 1.0
    assert fits(ring * 3, ring * 3 + np.array([0, 0.8, 0])) == pytest.approx(0.8, abs=0.001)
    # Round a centre 0.4 away a cord 0.8 thick can bend: its chord over an arc, of what one 1 thick would need.
    assert fits(ring * 0.4) == pytest.approx(0.8, abs=0.06)


@pytest.mark.parametrize(
    ("leads", "bights", "times"),
    [(3, 2, 0), (3, 4, 0), (4, 3, 0), (4, 6, 0), (5, 4, 0), (3, 5, 1), (3, 4, 1)],
)
def test_work_on_a_former_is_the_same_link_in_space(leads, bights, times):
    section = Section("s", "body", former=Former(leads, bights), items=(Widen("follow"),) * times)
    work = former_work(section)
    strands, owner = former_strands(work)
    assert sorted(set(owner)) == list(range(work.strands))
    assert len(strands) == work.strands * work.passes
    found = projected([[tuple(map(float, p)) for p in s[:-1]] for s in strands], seed=3)
    assert seifert_numbers(found) == seifert_numbers(spherogram.Link([list(c) for c in work.closed().pd]))
