"""Slips are tied by the recorder's own edits and judged by the trace."""

import pytest

from dim_ladder.base import InputError
from dim_ladder.commands.slips import MOST, MOST_ALIKE, slips
from dim_ladder.notation import parse_strict
from dim_ladder.trace import close, trace
from dim_ladder.trace.holds import hold
from dim_ladder.trace.turning import turning
from helpers.invariants import determinant_signature
from helpers.weaves import PLAIT, TERN, weave_of

BAND = parse_strict(TERN)


def by_name(weave, section):
    out = {}
    for s in slips(weave, section):
        out.setdefault(s.name, []).append(s)
    return out


def test_the_same_side_twice_is_the_granny_that_spirals():
    """By a library that is not ours: fillers left out, the granny's determinant is the square's and its signature is not."""
    (slip,) = by_name(BAND, "bar")["the same side twice"]
    assert turning(slip.weave, "bar").kind == "spiral"
    assert slip.tell == "It begins to twist: after a few units the edges wind round."
    assert slip.undo == "Undo the last knot of the unit."
    t = trace(slip.weave, section="bar", units=1)
    determinant, signature = determinant_signature(close(t, (1, 4), "caps"))
    assert (determinant, abs(signature)) == (9, 4)


def test_what_falls_apart_is_found_by_the_hold_check():
    weave = weave_of(2, "1: over 2, under 2, up own")
    found = [s for group in by_name(weave, "s").values() for s in group]
    fallen = [s for s in found if s.falls]
    assert fallen
    for s in fallen:
        assert "falls apart" in s.tell
        assert hold(trace(s.weave, section="s", units=1)).real == 0
    for s in found:
        if not s.falls:
            assert hold(trace(s.weave, section="s", units=1)).real > 0


def test_a_flipped_crossing_is_named_by_its_ends():
    found = by_name(parse_strict(PLAIT), "reed")
    assert (
        "In step 1 of the unit B lies over C, where it should lie under." in found["tied from behind"][0].tell
    )
    assert found["the other end led"][0].tell == "B hangs at place 1, where C should."
    assert found["the other end led"][0].undo == "Undo back to step 1 of the unit, 2 in all."


@pytest.mark.parametrize(
    "weave", [BAND, parse_strict(PLAIT), weave_of(2, "snake (1 | 2)"), weave_of(4, "bar-right (1 | 2..4)")]
)
def test_every_slip_can_be_traced_differs_and_is_one_of_few(weave):
    section = weave.sections[0].name
    right = trace(weave, section=section, units=1)
    found = list(slips(weave, section))
    assert 1 <= len(found) <= MOST
    prints = [(close(right).pd, right.order)]
    for s in found:
        t = trace(s.weave, section=section, units=1)
        assert not t.problems
        assert (close(t).pd, t.order) not in prints
        prints.append((close(t).pd, t.order))
        assert s.tell
        assert s.undo.startswith("Undo")
    assert max(sum(s.name == n.name for s in found) for n in found) <= MOST_ALIKE


def test_what_has_no_slips_has_none():
    assert list(slips(weave_of(2), "s")) == []
    assert list(slips(weave_of(2, *["1: over 2"] * 30), "s")) == []
    with pytest.raises(InputError, match="no section"):
        list(slips(BAND, "nowhere"))
