import pytest

from dim_ladder.base import InputError, format_length, read_length


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("17 cm", 170),
        ("17cm", 170),
        ("82,5 cm", 825),
        ("1.2 m", 1200),
        ("9 1/8 in", 231.775),
        ("3 1/4 in", 82.55),
        ("1/2 in", 12.7),
        ("9⅛ in", 231.775),
        ("5 ft 3", 1600.2),
        ("5' 3 1/2\"", 1612.9),
        ("5 ft", 1524),
        ("30 + 12.5 cm", 425),
        ("30 mm + 1 cm", 40),
        ("1 m + 20", 21000),  # a bare number takes the last unit that is named
        ("2 yd", 1828.8),
        ("44", 44),
        ("  7 MM ", 7),
    ],
)
def test_reads_what_makers_write(text, mm):
    assert read_length(text) == pytest.approx(mm)


def test_a_bare_number_is_in_the_default_unit():
    assert read_length("17", "cm") == 170


@pytest.mark.parametrize(
    "text", ["", "cm", "3 zz", "3 4", "1/0 in", "three", "+ 3 cm", "3 cm +", "-3 cm", "3 cm !", "9" * 300]
)
def test_refuses_with_a_remedy(text):
    with pytest.raises(InputError) as e:
        read_length(text)
    assert e.value.message
    assert e.value.hint


def test_bounds_are_named_in_the_message():
    with pytest.raises(InputError, match="outside 10 cm to 30 cm"):
        read_length("3 m", minimum=100, maximum=300)


@pytest.mark.parametrize(
    ("mm", "metric", "imperial"),
    [
        (8, "8 mm", "3/8 in"),
        (13.4, "13 mm", "1/2 in"),
        (2.5, "2.5 mm", "1/8 in"),
        (170, "17 cm", "6 3/4 in"),
        (186, "18.6 cm", "7 3/8 in"),
        (1850, "1.85 m", "6 ft 7/8 in"),
        (914.4, "91.4 cm", "3 ft"),
        (-30, "-30 mm", "-1 1/8 in"),
        (0, "0 mm", "0 in"),
    ],
)
def test_writes_lengths_for_people(mm, metric, imperial):
    assert format_length(mm) == metric
    assert format_length(mm, "imperial") == imperial


def test_what_is_written_can_be_read_again():
    for mm in (3, 47, 99.2, 150, 994, 1234, 20_000):
        for system in ("metric", "imperial"):
            assert read_length(format_length(mm, system)) == pytest.approx(mm, abs=max(1.7, mm * 0.005))
