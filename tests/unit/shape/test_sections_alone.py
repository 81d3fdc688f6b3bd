"""A section's shape is its own: what is knotted elsewhere, a bead, an end nobody touches, does not change it."""

import math

import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.cache import key
from dim_ladder.shape.lift import lift
from dim_ladder.shape.tighten import job_for
from dim_ladder.trace import trace
from helpers.weaves import SPIRAL, TERN, weave_of

BAND = TERN.replace("section end: finish\n  tuck-and-melt (1 | 4)\n", "")


@pytest.mark.parametrize(
    "finish", ["overhand (1)", "snake (2 | 3)", "button-two (2 | 3)", "diamond-2 (2 | 3)", "snake (1 | 4)", "1: over 2", "drop 2 3"]
)  # fmt: skip
def test_a_body_is_pulled_the_same_whatever_finishes_it(finish):
    weave = parse_strict(f"{BAND}\nsection end: finish\n  {finish}\n")
    assert key(job_for(weave, "bar")) == key(job_for(parse_strict(BAND), "bar"))


def test_ends_that_a_knot_does_not_touch_take_what_lies_beside_it():
    weave = parse_strict(f"{BAND}\nsection end: finish\n  overhand (1)\n")
    shape = tight(weave, "end")
    assert all(math.isfinite(n) for n in shape.per_end.values())
    assert shape.per_end["buoy.a"] > 5
    assert all(0 <= shape.per_end[e] < 1.5 * shape.pitch for e in ("tide.a", "tide.b", "buoy.b"))


def test_cord_laid_in_after_free_cord_can_be_lifted():
    for add in ("add k2.b at 2", "add k2.b at 3", "add k1.b at 1"):
        t = trace(weave_of(2, "span 30 mm", add, "1: over 2"))
        assert t.problems == ()
        lifted = lift(t, held=True)
        assert len(lifted.strands) == 3
        assert all(math.isfinite(float(s.sum())) for s in lifted.strands)


def test_every_other_mirrored_unit_is_pulled_as_a_pair():
    pair = tight(parse_strict(SPIRAL.replace("fit pairs", "fit pairs, mirror every other")), "bar")
    flat = tight(parse_strict(TERN), "bar")
    assert pair.period == 2
    assert flat.period == 1
    assert pair.pitch == pytest.approx(flat.pitch, rel=0.02)
    assert abs(pair.twist_deg) < 2
