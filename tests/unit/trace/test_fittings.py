"""What is no crossing but is done: fittings passed, faces turned up, flat cords stacked, cords joined, tucks under loops."""

import pytest

from dim_ladder.base import InputError
from dim_ladder.calibrate import calibrate, prior_for
from dim_ladder.library import PASS_MM, finish_words
from dim_ladder.notation import flipped, parse, parse_item, parse_strict, write, write_item
from dim_ladder.publish import build_sheet, to_markdown
from dim_ladder.publish.choices import SheetChoices, SizeRow
from dim_ladder.scale import Plan, solve
from dim_ladder.scale.cuts import fold_words, joins, tails
from dim_ladder.trace import check_structure, trace
from dim_ladder.words.sentences import words_for

FAR = """weave "Far Ring"
cords
  tide  nylon-4mm  #1f6f8b
  buoy  nylon-4mm  #e07a1f{joined}
  web   flat-8mm   #3f7a4a
hang on ring
  buoy.a web.a web.b tide.a
section bar: body, fit
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)
section over: start
  2/3: over 4, under 4, up own
  web.a: twist
  web.b: pass far-half, up buoy.a
  web.a: pass far-half behind
section end: finish
  tuck (1 | 4){under}
"""
PLAN = Plan(target="length", size_mm=200, fastening="none")


def far(joined="", under=""):
    return parse_strict(FAR.format(joined=joined, under=under))


def piece(weave):
    c = calibrate(weave, (), prior_for(weave, shapes={}))
    return c, solve(weave, c, PLAN)


def cut(weave, cord):
    return next(x for x in piece(weave)[1].cuts if x.cord == cord)


@pytest.mark.parametrize(
    "line",
    [
        "a.a: pass ring",
        "a.a: over 2, pass far-half behind, up own",
        "a.a: twist",
        "1/2/3: over 4",
        "tuck (1 | 4) under 3",
    ],
)
def test_lines_are_read_and_written(line):
    assert write_item(parse_item(line)) == line


def test_the_whole_script_comes_back_from_its_text():
    weave = far("  joined to tide 40 mm", " under 3")
    assert parse_strict(write(weave)) == weave
    assert flipped(flipped(parse_item("1: pass ring"))) == parse_item("1: pass ring")
    assert flipped(parse_item("1: pass ring")) == parse_item("1: pass ring behind")


def test_nothing_of_it_makes_a_crossing():
    weave = far()
    without = parse_strict(
        write(weave)
        .replace("  web.a: twist\n", "")
        .replace("pass far-half, ", "")
        .replace("  web.a: pass far-half behind\n", "")
    )
    a, b = trace(weave, units=1), trace(without, units=1)
    assert check_structure(a) == []
    assert len(a.crossings) == len(b.crossings)
    assert a.names_shown() == b.names_shown()


def test_it_is_said_as_it_lies_before_the_reader():
    said = " ".join(s.sentence for s in words_for(trace(far(under=" under 3"), units=1)))
    for words in ("B and C beneath it (2nd from the left)", "through the far half, from the front, and back", "through the far half, from behind, and back",
                  "is turned about so that the other face lies up", "tuck back under 3 loops and cut flush"):  # fmt: skip
        assert words in said
    over = parse_strict(write(far()).replace("  web.b: pass", "  turn over\n  web.b: pass"))
    t = trace(over, units=1)
    assert "through the far half, from the front, and back to where it hung, then" in " ".join(
        s.sentence for s in words_for(t)
    )
    (passed,) = (
        h.hop for s in t.steps for h in s.hops if getattr(h.hop, "what", "") and s.step.hops[1:] != ()
    )
    assert passed.behind  # seen from the old front


def test_a_fitting_takes_its_cord_and_is_on_the_list_of_the_sheet():
    weave = far()
    less = parse_strict(write(weave).replace("  web.a: pass far-half behind\n", ""))
    counts = {"bar": 5, "over": 1}
    need = [piece(w)[0].need("web.a", counts).median for w in (weave, less)]
    assert need[0] - need[1] == pytest.approx(PASS_MM)
    c, _ = piece(weave)
    sheet = build_sheet(weave, c, PLAN, SheetChoices(sizes=(SizeRow(name="one", size_mm=200),)))
    assert "a far half to pass" in sheet.tools
    assert "through the far half" in to_markdown(sheet, {})


def test_a_join_lies_where_it_is_said_to():
    plain, at_fold, beyond = far(), far("  joined to tide"), far("  joined to tide 40 mm")
    assert joins(beyond) == {"buoy": ("tide", 40.0), "tide": ("buoy", -40.0)}
    for cord, reach in (("buoy", 40), ("tide", -40)):
        was = cut(plain, cord)
        assert cut(at_fold, cord).cut_mm == was.cut_mm
        moved = cut(beyond, cord)
        assert moved.cut_mm - was.cut_mm == pytest.approx(reach, abs=10)  # to a step of the maker's
        assert moved.chance_short <= 0.0201
    words = {
        x.cord: fold_words(x, ("buoy.a", "web.a", "web.b", "tide.a"), "metric") for x in piece(beyond)[1].cuts
    }
    assert words["buoy"] == "fold 40 mm from where it is joined to tide"
    assert words["tide"] == "not folded: joined to buoy 40 mm from the fold"
    assert "hung where it is joined" in fold_words(cut(at_fold, "buoy"), (), "metric")


@pytest.mark.parametrize(
    ("joined", "message"),
    [("  joined to buoy", "no other cord"), ("  joined to reed", "no other cord “reed”"), ("  joined to web", "both ends of web are worked"), ("  joined tide", "expected")],
)  # fmt: skip
def test_what_cannot_be_joined_says_so_with_its_place(joined, message):
    (problem, *_) = parse(FAR.format(joined=joined, under="")).problems
    assert message in problem.message
    assert problem.line == 4


def test_a_join_beyond_the_cord_is_refused():
    with pytest.raises(InputError, match="before the fold"):
        piece(far("  joined to tide 1900 mm"))


def test_tucks_under_more_loops_need_more_cord_and_knots_have_none():
    assert tails(far(under=" under 9")).need["tide.a"] - tails(far()).need["tide.a"] == pytest.approx(63)
    assert finish_words("glue", 2).startswith("tuck under 2 loops at the back, put a drop")
    assert (
        finish_words("tuck-and-melt", 1)
        == "tuck back under one loop, cut to a short stub, melt the stub and press it with metal"
    )
    bad = parse_strict(
        FAR.format(joined="", under="").replace(
            "half-right (1 | 2 3 | 4)", "half-right (1 | 2 3 | 4) under 2"
        )
    )
    (problem,) = trace(bad).problems
    assert "only ends that are made fast" in problem.message
    assert problem.place == "bar, step 1"


def test_a_cord_of_which_no_end_hangs_cannot_be_joined():
    text = FAR.format(joined="  joined to moss\n  moss  nylon-4mm  #3f7a4a", under="")
    (problem, *_) = parse(text).problems
    assert "no end of moss hangs" in problem.message
    (strung, *_) = parse(
        FAR.format(joined="  joined to tide", under="").replace("web.b tide.a", "web.b tide.s")
    ).problems
    assert "no end of tide hangs" in strung.message
