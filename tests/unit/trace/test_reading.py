"""What is read off a trace: colours, roles, letters."""

from dim_ladder.notation import parse_strict
from dim_ladder.trace import colour_cycle, trace
from dim_ladder.trace.ends import letter
from dim_ladder.trace.roles import roles, section_work
from dim_ladder.trace.turning import turning
from helpers.weaves import PLAIT, SPIRAL, TERN, weave_of


def test_turning_of_what_cannot_be_traced_is_unknown():
    assert turning(weave_of(3, "1: over 3"), "s") is None


def test_colours_come_round_before_the_ends_do():
    assert colour_cycle(trace(parse_strict(SPIRAL), section="bar")) == 1  # both workers are one colour
    assert colour_cycle(trace(parse_strict(PLAIT))) == 3


def test_roles_follow_the_work_not_the_cord():
    assert roles(parse_strict(TERN)).role_of == {
        "buoy.a": "wrapper",
        "tide.a": "filler",
        "tide.b": "filler",
        "buoy.b": "leader",
    }
    assert set(roles(parse_strict(SPIRAL)).role_of.values()) == {"worker", "filler"}
    assert set(roles(parse_strict(PLAIT)).role_of.values()) == {"strand"}
    work = section_work(parse_strict(SPIRAL), "bar")
    assert work.cycle == 2
    assert work.visits["tide.a"] == 2
    assert work.cord["tide.a"] < work.cord["buoy.a"]


def test_letters_go_on_after_z():
    assert [letter(i) for i in (0, 25, 26, 27, 52)] == ["A", "Z", "AA", "AB", "BA"]
