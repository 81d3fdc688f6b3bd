import pytest

from dim_ladder.base.colours import colour_word, lightness, mix


@pytest.mark.parametrize(
    ("colour", "word"),
    [("#e07a1f", "orange"), ("#000000", "black"), ("#ffffff", "white"), ("#5b7f4b", "green")],
)
def test_words(colour, word):
    assert colour_word(colour) == word


def test_mix_and_lightness():
    assert mix("#000000", "#ffffff", 0.5) == "#808080"
    assert mix("#102030", "#ffffff", 0) == "#102030"
    assert lightness("#000000") == pytest.approx(0)
    assert lightness("#ffffff") == pytest.approx(1)
    assert lightness("#777777") == pytest.approx(0.5, abs=0.01)  # mid grey is L* 50
