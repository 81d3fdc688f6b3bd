"""Other colours for the same weave."""

import pytest

from dim_ladder.base import InputError
from dim_ladder.commands import SetColourway
from dim_ladder.commands.colourways import PALETTES, colourways
from dim_ladder.notation import parse_strict
from dim_ladder.shelf import Document
from helpers.weaves import TERN, weave_of


def test_each_is_of_all_cords_and_no_two_are_alike():
    for weave in (parse_strict(TERN), weave_of(1, "overhand (1)"), weave_of(6, "bar-right (1 | 2..6)")):
        ways = colourways(weave)
        assert len(ways) >= 6
        assert ways[0].of(weave) == weave
        assert len({w.colours for w in ways}) == len({w.name for w in ways}) == len(ways)
        assert all(len(w.colours) == len(weave.cords) for w in ways)


def test_what_does_the_most_takes_the_first_colour_of_a_palette():
    weave = parse_strict(TERN)
    ways = {
        w.name: dict(zip((c.name for c in weave.cords), w.colours, strict=True)) for w in colourways(weave)
    }
    assert ways["Samphire"]["buoy"] == PALETTES["Samphire"][0]
    assert ways["Samphire"]["tide"] == PALETTES["Samphire"][1]
    assert ways["Colours exchanged"] == {"buoy": ways["As it is"]["tide"], "tide": ways["As it is"]["buoy"]}


def test_cords_of_one_colour_stay_of_one():
    weave = parse_strict(TERN.replace("#e07a1f", "#1f6f8b"))
    assert all(w.colours[0] == w.colours[1] for w in colourways(weave))


def test_one_is_taken_as_one_edit():
    doc = Document(parse_strict(TERN))
    new = SetColourway(name="Avocet", colours=("#1c1c1e", "#F5F4F0")).apply(doc)
    assert [c.colour for c in new.weave.cords] == ["#1c1c1e", "#f5f4f0"]
    with pytest.raises(InputError, match="of 1 cords"):
        SetColourway(name="x", colours=("#1c1c1e",)).apply(doc)
    with pytest.raises(ValueError, match="pattern"):
        SetColourway(name="x", colours=("red", "#1c1c1e"))
