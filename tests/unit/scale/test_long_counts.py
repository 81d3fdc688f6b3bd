"""Counts given by a length, or by the length of another section."""

import pytest

from dim_ladder.calibrate import calibrate, prior_for
from dim_ladder.notation import Count, parse, parse_count, parse_strict, write
from dim_ladder.notation.writer import write_count
from dim_ladder.publish import build_sheet
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.scale import Plan, solve
from dim_ladder.trace import trace
from helpers.weaves import TERN

BAR = "\n  half-right (1 | 2 3 | 4)\n  half-left (1 | 2 3 | 4)\n"
COAT = "\n  half-right (1 | 2 bar 4 | 5)\n  half-left (1 | 2 bar 4 | 5)\n"
HEAD = TERN[: TERN.index("section")]


@pytest.mark.parametrize(
    ("text", "count"),
    [
        ("for 60 mm", Count("long", mm=60)),
        ("as long as bar", Count("long", 1, "bar")),
        ("as long as 3 of 4 of bar", Count("long", 1, "bar", 0.0, (3, 4))),
        ("as long as bar less 25.4 mm", Count("long", 1, "bar", 25.4)),
        ("as long as 1 of 2 of bar less 5 mm", Count("long", 1, "bar", 5, (1, 2))),
    ],
)
def test_they_are_read_and_written(text, count):
    assert parse_count(text, ["bar"]) == count
    assert write_count(count) == text
    weave = parse_strict(f"{HEAD}section bar: body, fit{BAR}\nsection more: body, {text}{BAR}")
    assert weave.section("more").count == count
    assert parse_strict(write(weave)) == weave
    assert trace(weave).problems == ()


@pytest.mark.parametrize(
    ("text", "message"),
    [("for 60", "a unit of length"), ("as long as rope", "no section “rope”"), ("as long as 3 of bar", "of how many parts"), ("as long bar", "“as”")],
)  # fmt: skip
def test_what_cannot_be_read_has_its_place(text, message):
    found = parse(f"{HEAD}section bar: body, fit{BAR}\nsection more: body, {text}{BAR}").problems
    assert found
    assert message in str(found[0])


def solved(text, mm=300.0):
    weave = parse_strict(HEAD + text)
    c = calibrate(weave, (), prior_for(weave, shapes={}))
    piece = solve(weave, c, Plan(target="length", size_mm=mm, fastening="none"))
    return piece, {s: c.pitch(s).median for s in c.prior.sections}, c, weave


@pytest.mark.parametrize("mm", [12, 20, 33.3, 80])
def test_for_a_length_takes_the_nearest_whole_units(mm):
    piece, pitch, _, _ = solved(f"section neck: start, for {mm} mm{BAR}\nsection bar: body, fit{BAR}")
    n = piece.counts["neck"]
    assert n >= 1
    assert abs(n * pitch["neck"] - mm) <= pitch["neck"] / 2 or n == 1
    assert abs(piece.option.error_mm) <= pitch["bar"] / 2 + 0.01


@pytest.mark.parametrize(
    ("share", "less"), [((1, 1), 0), ((3, 4), 0), ((1, 2), 10), ((1, 1), 25), ((2, 1), 0)]
)
@pytest.mark.parametrize("mm", [200, 523, 1400])
def test_a_share_of_another_section_grows_with_it_and_the_piece_is_still_met(share, less, mm):
    words = f"as long as {share[0]} of {share[1]} of bar" + (f" less {less} mm" if less else "")
    piece, pitch, c, _ = solved(f"section bar: body, fit{BAR}\nsection edge: body, {words}{BAR}", mm)
    wanted = piece.counts["bar"] * pitch["bar"] * share[0] / share[1] - less
    assert (
        abs(piece.counts["edge"] * pitch["edge"] - wanted) <= pitch["edge"] / 2 + 0.01
        or piece.counts["edge"] == 1
    )
    length = c.fixed_mm + sum(n * pitch[s] for s, n in piece.counts.items())
    assert piece.option.length_mm == pytest.approx(length)
    assert abs(piece.option.error_mm) <= pitch["bar"] * (1 + share[0] / share[1]) / 2 + pitch["edge"] / 2


def test_a_coat_over_three_quarters_adds_no_length_and_says_how_far_it_goes():
    text = f"section bar: body, fit{BAR}\nsection coat: body, layer over bar, as long as 3 of 4 of bar{COAT}"
    piece, pitch, c, weave = solved(text)
    assert c.lying == {"coat"}
    assert piece.counts["coat"] * pitch["coat"] == pytest.approx(
        0.75 * piece.counts["bar"] * pitch["bar"], abs=pitch["coat"] / 2 + 0.01
    )
    assert piece.option.length_mm == pytest.approx(c.fixed_mm + piece.counts["bar"] * pitch["bar"])
    sheet = build_sheet(weave, c, Plan(target="length", size_mm=300, fastening="none"), SheetChoices())
    assert [s.repeat for s in sheet.sections] == [
        "as often as your size needs (see the table)",
        "until it is as long as 3 of 4 parts of bar",
    ]
