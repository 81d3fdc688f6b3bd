"""What is held straight while something is tied round it, told from the steps."""

import pytest

from dim_ladder.trace import trace
from dim_ladder.trace.cores import cores
from helpers.weaves import weave_of


def held(count, *lines, units=1):
    """Pairs (core, what goes round it) by name, each once."""
    t = trace(weave_of(count, *lines), section="s", units=units)
    return sorted({(t.ends[c.end][:2], t.ends[c.other][:2]) for c in cores(t).values()})


@pytest.mark.parametrize(
    ("count", "lines", "pairs"),
    [
        (2, ["larks-head (1 | 2)"], [("k2", "k1")]),
        (4, ["larks-head (1 | 2)", "larks-head (4 | 3)", "2: over 3"], [("k2", "k1"), ("k3", "k4")]),
        (4, ["bar-right (1 | 2..4)"], [("k1", "k2"), ("k1", "k3"), ("k1", "k4")]),
        (3, ["half-hitch (1 | 2)", "half-hitch (2 | 3)"], [("k2", "k1"), ("k3", "k2")]),
    ],
    ids=["lark's head", "core that crosses", "runner", "in turn"],
)
def test_what_a_hitch_goes_round_is_its_core(count, lines, pairs):
    assert held(count, *lines) == pairs


@pytest.mark.parametrize(
    ("count", "line"),
    [
        (4, "half-right (1 | 2 3 | 4)"),
        (3, "plait-3 (1|2|3)"),
        (4, "round-4 (1|2|3|4)"),
        (4, "crown-4 (1|2|3|4)"),
        (2, "snake (1 | 2)"),
        (2, "double-connection (1 | 2)"),
        (2, "diamond-2 (1 | 2)"),
    ],
)
def test_what_is_drawn_up_together_holds_nothing(count, line):
    assert held(count, line) == []


def test_two_hitched_round_each_other_hold_nothing_however_that_was_recorded():
    assert held(2, "1: over 2, under 2, up own", "2: over 1, under 1, up own") == []
    assert held(2, "half-hitch (1 | 2)", "half-hitch (2 | 1)") == []
    assert held(2, "hitch-chain (1 | 2)") == []


def test_every_row_is_a_run_of_its_own():
    t = trace(weave_of(4, "bar-right (1 | 2..4)", "bar-left (1..3 | 4)"), section="s", units=1)
    found = cores(t)
    assert {(t.ends[c.end], c.run) for c in found.values()} == {("k1.a", 0), ("k1.a", 1)}
    assert [sum(c.run == k for c in found.values()) for k in (0, 1)] == [12, 12]  # two turns on each of three
