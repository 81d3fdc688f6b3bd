"""What ships: sound tables, knots in every vocabulary, cautions that exist, cords that can be told apart."""

import itertools

import pytest

from dim_ladder.base import InputError
from dim_ladder.base.colours import lightness
from dim_ladder.library import (
    CAUTIONS,
    FASTENINGS,
    FINISHES,
    HANGINGS,
    VOCABULARIES,
    all_kinds,
    cord_kind,
    kind_named,
    library_knot,
    library_knots,
)  # fmt: skip
from dim_ladder.notation import parse_strict
from dim_ladder.picture.display import PAPER, STRIPES, WHITE, Ink, cord_lines


def test_every_shipped_knot_has_its_words_in_every_vocabulary():
    for knot in library_knots():
        for voice in VOCABULARIES.values():
            assert knot.name in voice.knots, (knot.name, voice.name)
    assert VOCABULARIES["plain"].knot("some-new-knot") == "some new knot"
    assert library_knot("half-right").params[1].rest
    assert library_knot("nope") is None


def test_cautions_name_what_can_hurt_and_defer_to_others():
    assert "burns" in CAUTIONS["flame"]
    assert "ventilate" in CAUTIONS["flame"]
    assert "strangle" in CAUTIONS["neck"]
    assert "climbing" in CAUTIONS["load"]
    assert "trained" in CAUTIONS["rules"]
    for table in (FINISHES, FASTENINGS):
        for entry in table.values():
            assert set(entry.cautions) <= set(CAUTIONS)


@pytest.mark.parametrize("name", FINISHES)
def test_finishes_that_burn_or_cut_say_so(name):
    finish = FINISHES[name]
    assert finish.tail_mm > 0
    assert ("melt" in finish.words) == ("flame" in finish.cautions)
    assert "blade" in finish.cautions
    assert finish.instead


def test_lengths_and_diameters_are_plausible():
    assert all(0 < h.per_cord_mm < 100 for h in HANGINGS.values())
    assert FASTENINGS["none"].adds_mm == 0
    for name, kind in all_kinds().items():
        assert f"{kind.diameter:g}mm" in name


@pytest.mark.parametrize(
    ("name", "diameter"), [("hemp-3mm", 3), ("hemp", 4), ("hemp-0mm", 4), ("hemp-99mm", 4), ("nylon-2mm", 2)]
)
def test_unknown_cords_take_their_diameter_from_their_name(name, diameter):
    assert cord_kind(name).diameter == diameter


def test_cords_of_one_colour_are_told_apart_by_their_stripes_in_grey():
    path = (("M", (0.0, 0.0)), ("L", (10.0, 0.0)))
    for colour, ink in itertools.product(
        ("#1f6f8b", "#e07a1f", "#f4f2ec", "#1c1c1e"), (PAPER, WHITE, Ink("#1a2228", "#ece6da"))
    ):
        seen = set()
        for pattern in range(len(STRIPES)):
            lines = cord_lines(path, colour, 12, ink, pattern=pattern)
            seen.add(tuple((round(line.width, 1), round(lightness(line.colour), 2)) for line in lines))
        assert len(seen) == len(STRIPES)


@pytest.mark.parametrize(
    ("said", "name"),
    [("nylon-4mm", "nylon-4mm"), ("Nylon kernmantle 4 mm", "nylon-4mm"), ("hemp 3 mm", "hemp-3mm"), ("Satin 1,2 mm", "satin-1.2mm"),
     ("  flat   coreless 4mm", "flat-coreless-4mm"), ("waxed polyester 1 mm", "polyester-1mm"), ("rope", "rope")],
)  # fmt: skip
def test_a_kind_is_understood_in_words(said, name):
    assert kind_named(said) == name
    text = f'weave "x"\ncords\n  a  {name}  #112233\nhang\n  a.a\n'
    assert parse_strict(text).cords[0].kind == name
    assert kind_named(cord_kind(name).words) == name


@pytest.mark.parametrize("said", ["?", "4 mm", "", "–"])
def test_what_names_no_kind_is_refused(said):
    with pytest.raises(InputError, match="not a kind of cord"):
        kind_named(said)


def test_a_kind_with_a_decimal_has_its_diameter():
    assert cord_kind("satin-1.2mm").diameter == 1.2
    assert cord_kind("satin-1.2mm").words == "satin 1.2 mm"
