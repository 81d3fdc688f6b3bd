"""A piece that nothing opens must pass the hand and sit where it is worn; where no ease does both, it is said."""

from __future__ import annotations

import json

import pytest

from dim_ladder.calibrate import calibrate
from dim_ladder.cli import run
from dim_ladder.library import cord_kind
from dim_ladder.notation import parse_strict
from dim_ladder.scale import Plan, solve
from dim_ladder.scale.closing import closing_of
from dim_ladder.scale.size import LOOSE, slip_on_words, slips_on
from dim_ladder.shelf.workshop import make_demo
from helpers.weaves import TERN

WEAVE = parse_strict(TERN)
STRETCH = cord_kind("nylon-4mm").stretch


def plan(**more) -> Plan:
    return Plan(**{"fastening": "none", "size_mm": 170.0, "ease_mm": 8.0, **more})


def said_of(plan: Plan) -> str:
    return slip_on_words(plan, WEAVE, closing_of(WEAVE, plan))


def test_nothing_is_said_where_nobody_asks_or_something_opens_it():
    assert said_of(plan()) == ""
    assert said_of(plan(fastening="side-buckle", pass_mm=300.0)) == ""
    assert said_of(plan(target="length", pass_mm=300.0)) == ""
    assert slips_on(plan(), closing_of(WEAVE, plan()))


@pytest.mark.parametrize("hand", [178.0, 184.0, 190.0, 230.0])
@pytest.mark.parametrize("ease", [0.0, 8.0, 15.0, 40.0])
def test_it_passes_and_sits_or_says_which_it_does_not(hand, ease):
    said = said_of(plan(ease_mm=ease, pass_mm=hand))
    passes = (170.0 + ease) * (1 + STRETCH) >= hand
    sits = ease <= LOOSE * 170.0
    assert (said == "") == (passes and sits)
    if not passes:
        assert "does not pass" in said
        possible = hand / (1 + STRETCH) - 170.0 <= LOOSE * 170.0
        assert ("no ease does both" in said) == (not possible)
    elif not sits:
        assert "slides off" in said


def test_the_ease_it_names_does():
    said = said_of(plan(ease_mm=0.0, pass_mm=182.0))
    needed = int(said.rpartition("ease of ")[2].split()[0])
    assert said_of(plan(ease_mm=float(needed), pass_mm=182.0)) == ""
    assert said_of(plan(ease_mm=float(needed - 1), pass_mm=182.0)) != ""


def test_the_piece_says_it(tmp_path, capsys):
    piece = solve(WEAVE, calibrate(WEAVE, []), plan(pass_mm=260.0))
    assert "no ease does both" in piece.fit
    make_demo(tmp_path)
    ring = str(tmp_path / "marsh-ring.dimladder")
    assert run(["scale", ring, "--girth", "17cm", "--hand", "26cm", "--json"]) == 0
    assert "does not pass" in json.loads(capsys.readouterr().out)["fit"]
    assert run(["scale", ring, "--girth", "17cm", "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["fit"] == ""
