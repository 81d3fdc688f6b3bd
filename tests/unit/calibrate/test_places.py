"""Whose cord a knot takes when it comes after so many units: the same as where that many are written down."""

from dataclasses import replace

import numpy as np
import pytest

from dim_ladder.calibrate import Reading, Tie, calibrate, prior_for
from dim_ladder.notation import Count, parse_strict
from dim_ladder.trace import trace
from dim_ladder.trace.exchanged import exchanged

CORDS = ("#1f6f8b", "#e07a1f", "#3f7a4a", "#c9a13b")
HEAD = (
    'weave "Places"\ncords\n'
    + "".join(f"  k{n}  nylon-3mm  {colour}\n" for n, colour in enumerate(CORDS, 1))
    + "hang on ring\n  k1.a k2.a k3.a k4.a\n"
)
AFTER = {
    "a knot at a place": ("round-4 (1 | 2 | 3 | 4)", "section knob: finish\n  stopper (1)"),
    "a knot that is named": ("round-4 (1 | 2 | 3 | 4)", "section knob: finish\n  stopper (k2.a)"),
    "a band of other roles": (
        "plait-4 (1 | 2 | 3 | 4)",
        "section knob: body, repeat 3\n  half-right (1 | 2 3 | 4)",
    ),
    "a loop that stands": (
        "snake (1 | 2)\n  3: over 4",
        "section knob: finish\n  snake (1 | 2)\n  1: over 2, leave 40 mm",
    ),
    "what is laid aside": (
        "plait-3 (1 | 2 | 3)",
        "section less: start\n  drop 2\nsection knob: finish\n  half-knot-right (1 | 2)",
    ),
    "two bodies": (
        "plait-3 (1 | 2 | 3)",
        "section more: body, repeat 2\n  plait-right (2 | 3 | 4)\nsection knob: finish\n  stopper (4)",
    ),
}


def _weave(unit: str, after: str, count: str):
    return parse_strict(f"{HEAD}section part: body, {count}\n  {unit}\n{after}\n")


@pytest.mark.parametrize("what", AFTER)
def test_after_so_many_units_each_end_takes_what_it_takes_where_so_many_are_written(what):
    unit, after = AFTER[what]
    fits = _weave(unit, after, "fit")
    c = calibrate(fits, (), prior_for(fits, shapes={}))
    for n in range(2, 8):
        fixed = _weave(unit, after, f"repeat {n}")
        d = calibrate(fixed, (), prior_for(fixed, shapes={}))
        counts = {s.name: s.count.number if s.count.kind == "repeat" else n for s in fits.sections}
        for e in d.prior.role_of:
            ours, theirs = c.need(e, counts).median, d.need(e, counts).median
            # Roles may be others there, and an overhead is one of each role.
            assert ours == pytest.approx(theirs, rel=0.02), (n, e)


def test_whose_place_it_is_is_whose_it_is_where_the_whole_is_traced():
    weave = _weave(*AFTER["a knot at a place"], "fit")
    for n in range(1, 6):
        found = exchanged(weave, {"part": n, "knob": 1}).get("knob", {})
        default = trace(weave, section="knob", units=1).ends[0]
        whole = trace(weave, counts={"part": n, "knob": 1})
        last = next(s for s in whole.steps if s.op.section == 1)
        assert found.get(default, default) == whole.ends[last.end]


def test_a_tie_is_read_by_the_places_that_its_own_units_left():
    """Twelve units leave another end first than eleven. Ties of both say the same of the knot, and neither is in doubt."""
    weave = _weave(*AFTER["a knot at a place"], "fit")
    prior = prior_for(weave, shapes={})
    c = calibrate(weave, (), prior)
    ends = list(prior.role_of)

    def tie(name: str, units: int) -> Tie:
        counts = {"part": units, "knob": 1}
        fixed = replace(
            weave, sections=(replace(weave.sections[0], count=Count("repeat", units)), weave.sections[1])
        )
        truth = calibrate(fixed, (), prior_for(fixed, shapes={}))
        read = [
            Reading(ends=(e,), cut_mm=1000.0, left_mm=round(1000 - truth.need(e, counts).median))
            for e in ends
        ]
        return Tie(id=name, counts=counts, readings=tuple(read))

    for ties in ([tie("odd", 11)], [tie("even", 12)], [tie("odd", 11), tie("even", 12)]):
        after = calibrate(weave, ties, prior)
        assert not after.doubted
        for units in (11, 12):
            counts = {"part": units, "knob": 1}
            before = np.array([c.need(e, counts).median for e in ends])
            now = np.array([after.need(e, counts).median for e in ends])
            assert now == pytest.approx(before, rel=0.03)


def test_where_every_unit_leaves_its_ends_in_place_nothing_is_another_ends():
    weave = _weave(
        "half-right (1 | 2 3 | 4)\n  half-left (1 | 2 3 | 4)", "section knob: finish\n  stopper (1)", "fit"
    )
    prior = prior_for(weave, shapes={})
    assert exchanged(weave, {"part": 7, "knob": 1}) == {}
    assert (prior.own_in({"part": 7, "knob": 1}) == prior.own).all()
