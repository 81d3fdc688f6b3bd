"""Which cords look alike to whom, and the nearest colours that do not."""

import pytest

from dim_ladder.base.colours import colour_words, lightness
from dim_ladder.picture.palette import APART, palette_words, seen_alike, told_apart


def test_what_differs_in_hue_alone_is_lost_in_grey_print():
    (pair,) = seen_alike(["#1f6f8b", "#5b7f4b"])
    assert pair.views == ("grey",)
    assert seen_alike(["#1f6f8b", "#e07a1f"]) == ()


def test_red_and_green_of_one_lightness_are_one_to_some_eyes():
    (pair,) = seen_alike(["#b5482a", "#5f7a1f"])
    assert {"deutan"} <= set(pair.views) or {"protan"} <= set(pair.views)
    assert "" not in pair.views


def test_the_very_same_colour_is_meant():
    assert seen_alike(["#1f6f8b", "#1F6F8B", "#e07a1f"]) == ()


@pytest.mark.parametrize(
    "colours",
    [
        ["#1f6f8b", "#5b7f4b"],
        ["#c9a13b", "#5b7f4b", "#7a5236"],
        ["#1f6f8b", "#1f8080", "#3f7a4a", "#7a5236"],
        ["#808080", "#848484", "#e07a1f"],
    ],
)
def test_what_is_proposed_is_told_apart_and_near(colours):
    found = told_apart(colours)
    assert seen_alike(found) == ()
    assert len(found) == len(colours)
    assert any(a == b for a, b in zip(found, colours, strict=True))  # not all are changed


def test_what_is_told_apart_stays_as_it_is():
    assert told_apart(["#1f6f8b", "#e07a1f"]) == ("#1f6f8b", "#e07a1f")


def test_it_is_said_who_and_where():
    assert (
        palette_words(["tide", "reed"], ["#1f6f8b", "#5b7f4b"]) == "tide and reed look alike in grey print."
    )
    assert palette_words(["a", "b"], ["#808080", "#828282"]) == "a and b look alike."
    assert palette_words(["a", "b"], ["#1f6f8b", "#e07a1f"]) == ""
    assert APART > 2  # what is just seen on flat patches is too little on cords


def test_two_teals_have_words_of_their_own():
    words = colour_words(["#1f8080", "#176565", "#e07a1f"])
    assert words == {"#1f8080": "light teal", "#176565": "dark teal", "#e07a1f": "orange"}
    assert lightness("#1f8080") > lightness("#176565")
    assert len(set(colour_words([f"#{k:02x}8080" for k in range(10, 50, 8)]).values())) == 5
