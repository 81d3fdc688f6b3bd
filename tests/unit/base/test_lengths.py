import pytest

from dim_ladder.base import InputError, format_length, read_length, read_number, read_whole


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


@pytest.mark.parametrize(
    ("text", "hint"),
    [
        ("1,234 mm", "Write 1234 or 1.234"),
        ("12,345 m", "Write 12345 or 12.345"),
        ("5 ft 1,234", "Write 1234 or 1.234"),
        ("31/2 in", "Write 3 1/2 or 15 1/2"),
        ("9/8 in", "Write 1 1/8"),
        ("112/4 in", "Write 11 2/4 or 28"),
    ],
)
def test_what_can_be_read_in_two_ways_is_asked_about(text, hint):
    with pytest.raises(InputError, match="in two ways") as e:
        read_length(text)
    assert e.value.hint == hint


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("1,234.5 mm", 1234.5), ("1.234,5 mm", 1234.5), ("1,234,567 mm", 1_234_567), ("0,125 m", 125), ("82,5 cm", 825),
        ("12,34 cm", 123.4), ("1,2345 m", 1234.5), ("3 1/2 in", 88.9), ("1/2 in", 12.7), ("1.234 mm", 1.234),
    ],
)  # fmt: skip
def test_what_can_be_read_in_one_way_is_read(text, mm):
    assert read_length(text, maximum=1e7) == pytest.approx(mm)


@pytest.mark.parametrize("text", ["", "x", "nan", "inf", "1e400", "-1", "²", "9" * 5000, "1_0", "1,234"])
def test_numbers_that_are_none_are_refused(text):
    with pytest.raises(InputError):
        read_number(text, "a number", "12", maximum=1e6)
    with pytest.raises(InputError):
        read_whole(text, "a whole number", "12")


def test_numbers_have_a_point_or_a_comma():
    assert (read_number("12,5", "", ""), read_number("12.5", "", ""), read_number("1,234.5", "", "")) == (
        12.5,
        12.5,
        1234.5,
    )
    assert read_whole(" 12 ", "", "") == 12
