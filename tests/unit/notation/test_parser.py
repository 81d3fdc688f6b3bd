import pytest

from dim_ladder.base import InputError
from dim_ladder.notation import (
    Count,
    Cross,
    Knot,
    Loop,
    Param,
    Step,
    Through,
    parse,
    parse_count,
    parse_item,
    parse_strict,
)
from helpers.weaves import TERN


def test_the_whole_example():
    w = parse_strict(TERN)
    assert w.name == "Tern Ladder"
    assert [(c.name, c.kind, c.colour) for c in w.cords] == [
        ("tide", "nylon-4mm", "#1f6f8b"),
        ("buoy", "nylon-4mm", "#e07a1f"),
    ]
    assert w.hang.ends == ("buoy.a", "tide.a", "tide.b", "buoy.b")
    assert w.knots[0] == Knot(
        "half-right",
        (Param("w"), Param("c", True), Param("v")),
        (
            Step("v", (Cross(True, ("c",)),)),
            Step("w", (Cross(True, ("v",)), Cross(False, ("c",)), Through(True, Loop("v")))),
        ),
    )
    assert (w.knots[1].derive, w.knots[1].source) == ("mirror", "half-right")
    assert w.sections[0].count == Count("fit", 2)
    assert w.sections[0].items[0].groups == ((1,), (2, 3), (4,))
    assert w.sections[1].kind == "finish"


@pytest.mark.parametrize(
    ("text", "count"),
    [
        ("repeat 12", Count("repeat", 12)),
        ("fit", Count("fit", 1)),
        ("fit pairs", Count("fit", 2)),
        ("fit multiple of 3", Count("fit", 3)),
    ],
)
def test_counts(text, count):
    assert parse_count(text) == count


def test_same_as_needs_a_section_that_is_there():
    assert parse_count("same as bar", ["bar"]) == Count("same", 1, "bar")
    with pytest.raises(InputError, match="no section “baz”") as e:
        parse_count("same as baz", ["bar"])
    assert "bar" in e.value.hint


def test_steps_tension_note_and_own():
    step = parse_item("w: over r, under r, down own tight -- keep it straight")
    assert step == Step(
        "w",
        (Cross(True, ("r",)), Cross(False, ("r",)), Through(False, Loop(None))),
        "tight",
        "keep it straight",
    )


def test_names_may_carry_any_letters_and_quotes_protect_dashes():
    w = parse_strict('weave "Möwe -- eins"\ncords\n  größe nylon-4mm #AABBCC\nhang\n  größe.a größe.b\n')
    assert w.name == "Möwe -- eins"
    assert w.cords[0].colour == "#aabbcc"


WRONG = [
    # text replaced in the example, by what, line, column, words of the message, words of the remedy
    ("weave ", "weeve ", 1, 1, "does not begin a part", "weave"),
    ('"Tern Ladder"', "Tern Ladder", 1, 7, "name in quotes", 'weave "Tern Ladder"'),
    ("#e07a1f", "#e07", 5, 20, "cannot be read", ""),
    ("  buoy  nylon-4mm", "  tide  nylon-4mm", 5, 3, "two cords called “tide”", "Rename"),
    ("buoy.a tide.a", "buoi.a tide.a", 7, 1, "no cord “buoi”", "buoy"),
    ("buoy.a tide.a", "buoy tide.a", 8, 3, "is a cord, not an end", "buoy.a"),
    ("buoy.a tide.a", "buoy.b tide.a", 8, 24, "hangs twice", "one place"),
    ("buoy.a tide.a", "buoy.z tide.a", 7, 1, "is not an end", "buoy.a"),
    ("v: over c", "v over c", 11, 5, "expected “:”", "v: over c"),
    ("v: over c", "v: ovr c", 11, 6, "expected over, under, up, down, round or another hop", "over"),
    ("v: over c", "v: over d", 11, 3, "“d” is not a place of half-right", "Known here"),
    ("v: over c", "v: over 3", 11, 3, "a knot names its places", ""),
    ("v: over c", "v: over c tigt", 11, 3, "“tigt” is not a place", ""),
    ("v: over c", "v: over c,", 11, 13, "the line ends where", ""),
    ("v: over c", "v+: over c", 11, 5, "expected an end that moves with it", ""),
    ("v: over c", "v: over c, up gap w", 11, 22, "the other tail beside the gap", ""),
    ("v: over c", "v: over own", 11, 14, "left or right", "As seen"),
    ("v: over c", "v: leave 25", 11, 14, "a unit of length", "mm"),
    ("v: over c", "v: bead pearl", 11, 3, "there is no bead “pearl”", "beads"),
    ("v: over c", "v: round c 900", 11, 14, "900 turns are out of bounds", "1 to 200"),
    ("(w | c.. | v)", "(w | c.. | v..)", 10, 28, "only one place", ""),
    ("(w | c.. | v)", "(w | c.. | w)", 10, 28, "two places are called “w”", ""),
    ("= mirror half-right", "= twist half-right", 14, 18, "not a way to make a knot", "mirror exchanges"),
    ("body, fit pairs", "middle, fit pairs", 16, 14, "not a kind of section", "start, body or finish"),
    ("fit pairs", "fits pairs", 16, 20, "expected a count", "repeat 12"),
    ("fit pairs", "repeat 0", 16, 27, "out of bounds", "1 to"),
    ("half-left (1 |", "half-left [1 |", 18, 13, "cannot be read", ""),
    ("  tuck-and-melt (1", "tuck-and-melt (1", 21, 1, "does not begin a part", "indented"),
]


@pytest.mark.parametrize(("old", "new", "line", "column", "message", "hint"), WRONG)
def test_a_slip_is_told_with_place_and_remedy(old, new, line, column, message, hint):
    assert old in TERN
    problems = parse(TERN.replace(old, new, 1)).problems
    found = [p for p in problems if message in p.message]
    assert found, [str(p) for p in problems]
    assert (found[0].line, found[0].column) == (line, column)
    assert hint in found[0].hint


def test_every_problem_of_a_text_is_told_at_once():
    text = TERN.replace("#e07a1f", "red").replace("v: over c", "v: ovr c").replace("fit pairs", "fitt")
    lines = [p.line for p in parse(text).problems]
    assert {5, 11, 16} <= set(lines)
    assert lines == sorted(lines)


@pytest.mark.parametrize("line", ["back  nylon-4mm  #1f6f8b", "tide  nylon-4mm  blue", "tide"])
def test_a_cord_that_cannot_be_read_is_told_once_and_not_at_every_end_of_it(line):
    text = TERN.replace("tide  nylon-4mm  #1f6f8b", line).replace("tide.", f"{line.split()[0]}.")
    assert [p.line for p in parse(text).problems] == [4]
    missing = TERN.replace("  tide  nylon-4mm  #1f6f8b\n", "")
    assert "no cord “tide”" in parse(missing).problems[0].message


def test_what_can_be_read_is_kept_beside_a_slip():
    parsed = parse(TERN.replace("w: over v", "w: oover v"))
    assert parsed.weave.name == "Tern Ladder"
    assert len(parsed.weave.knots[0].steps) == 1
    assert len(parsed.weave.sections) == 2


def test_a_text_without_end_is_refused_not_read():
    problems = parse("-- x\n" * 200_000).problems
    assert "too long" in problems[0].message


def test_nothing_at_all_asks_for_a_name():
    assert "has no name" in parse("").problems[0].message
    with pytest.raises(InputError):
        parse_strict("")
    with pytest.raises(InputError):
        parse_item("")
