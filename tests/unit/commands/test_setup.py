"""Cords and hangings as edits, and as pictures."""

import itertools

import pytest

from dim_ladder.base import InputError
from dim_ladder.commands import read_edit
from dim_ladder.commands.setup import (
    ARRANGEMENTS,
    STARTS,
    CordSpec,
    SetFinish,
    SetStart,
    SetUp,
    arranged,
    arrangement_of,
    finish_of,
    next_cord,
    start_of,
    start_takes,
)
from dim_ladder.library import HANGINGS
from dim_ladder.notation import parse_strict, write
from dim_ladder.picture.display import Disc, Line
from dim_ladder.picture.hanging import Hung, hanging_picture
from dim_ladder.shelf import Document
from dim_ladder.trace import trace
from helpers.weaves import TERN, weave_of

DOC = Document(parse_strict(TERN))


def test_ends_in_every_arrangement():
    assert arranged(["tide", "buoy"], "around") == ("buoy.a", "tide.a", "tide.b", "buoy.b")
    assert arranged(["tide", "buoy"], "pairs") == ("tide.a", "tide.b", "buoy.a", "buoy.b")
    assert arranged(["tide", "buoy"], "woven") == ("tide.a", "buoy.a", "tide.b", "buoy.b")
    assert arranged(["tide", "buoy"], "single") == ("tide.a", "buoy.a")
    assert arrangement_of(DOC.weave) == "around"
    assert (
        arrangement_of(
            parse_strict(TERN.replace("buoy.a tide.a tide.b buoy.b", "tide.a buoy.a buoy.b tide.b"))
        )
        == ""
    )
    for how in ARRANGEMENTS:
        ends = arranged(["a1", "b1", "c1"], how)
        assert len(set(ends)) == len(ends)


def test_setting_up_keeps_the_notes_of_cords_and_refuses_what_cannot_be():
    weave = parse_strict(TERN.replace("tide  nylon-4mm  #1f6f8b", "tide  nylon-4mm  #1f6f8b  -- fillers"))
    specs = (CordSpec(name="tide", kind="cotton-3mm", colour="#ABCDEF"), CordSpec(name="buoy"))
    edit = SetUp(cords=specs, on="ring", ends=arranged(["tide", "buoy"], "around"))
    assert read_edit(edit.model_dump_json()) == edit
    made = edit.apply(Document(weave)).weave
    assert (made.cords[0].kind, made.cords[0].colour, made.cords[0].note) == (
        "cotton-3mm",
        "#abcdef",
        "fillers",
    )
    assert made.hang.on == "ring"
    assert parse_strict(write(made)) == made
    gone = (CordSpec(name="tide"),)
    with_refs = Document(weave_of(2, "1: over 2"))
    named = Document(parse_strict(write(with_refs.weave).replace("1: over 2", "k2.a: over 1")))
    for doc, cords, on, ends, message in (
        (DOC, specs, "moon", ("tide.a",), "nothing hangs on"),
        (named, (CordSpec(name="k1"),), "bar", ("k1.a",), "does not go with the steps"),
        (DOC, gone, "bar", ("buoy.a",), "does not go with the steps"),
        (DOC, (CordSpec(name="two words"),), "bar", ("two words.a",), "does not go|cannot be written"),
    ):
        with pytest.raises(InputError, match=message):
            SetUp(cords=cords, on=on, ends=ends).apply(doc)


def test_more_cords_have_names_and_colours_of_their_own():
    cords = []
    for _ in range(14):
        cords.append(next_cord(cords))
    assert len({c.name for c in cords}) == 14
    assert len({c.colour for c in cords[:12]}) == 12
    assert parse_strict(write(SetUp(cords=tuple(cords), on="bar", ends=arranged([c.name for c in cords], "pairs")).apply(Document(weave_of(2))).weave))  # fmt: skip


def test_one_finish_takes_the_place_of_another_and_can_go():
    assert finish_of(DOC.weave) == ("tuck-and-melt", (1, 4))
    sewn = SetFinish(finish="sew", places=(1, 4)).apply(DOC).weave
    assert finish_of(sewn) == ("sew", (1, 4))
    assert len(sewn.sections) == len(DOC.weave.sections)
    none = SetFinish(finish="").apply(DOC).weave
    assert finish_of(none) == ("", ())
    assert not trace(none).problems
    bare = Document(weave_of(2, "1: over 2"))
    assert finish_of(SetFinish(finish="glue", places=(1, 2)).apply(bare).weave) == ("glue", (1, 2))
    with pytest.raises(InputError, match="no finish"):
        SetFinish(finish="hope", places=(1,)).apply(bare)
    with pytest.raises(InputError, match="no end"):
        SetFinish(finish="sew").apply(bare)


@pytest.mark.parametrize("on", HANGINGS)
@pytest.mark.parametrize("how", ARRANGEMENTS)
def test_every_end_is_drawn_where_it_hangs_in_its_colour(on, how):
    colours = {"tide": "#1f6f8b", "buoy": "#e07a1f", "reed": "#3f7a4a"}
    ends = arranged(list(colours), how)
    hung = [Hung(list(colours).index(e[:-2]), colours[e[:-2]]) for e in ends]
    picture = hanging_picture(on, hung)
    discs = [s for s in picture.shapes if isinstance(s, Disc) and s.r > 9]
    assert [d.fill for d in discs] == [h.colour for h in hung]
    gaps = [b.x - a.x for a, b in itertools.pairwise(discs)]
    assert all(g == pytest.approx(gaps[0]) for g in gaps)
    assert all(0 < d.x < picture.width and d.y < picture.height for d in discs)
    # Down to every letter comes a cord of its colour.
    feet = {(round(x), s.colour) for s in picture.shapes if isinstance(s, Line) for _, (*_, x, y) in s.path if y > discs[0].y - 20}  # fmt: skip
    assert {(round(d.x), d.fill) for d in discs} <= feet


def test_a_start_of_all_ends_comes_goes_and_says_what_it_takes():
    assert (start_of(DOC.weave), start_takes(DOC.weave)) == ("", 0.0)
    taken = {}
    for knot in STARTS:
        made = SetStart(knot=knot, ends=4).apply(DOC)
        assert start_of(made.weave) == knot
        assert made.weave.sections[0].kind == "start"
        assert made.weave.sections[0].items[0].groups == ((1,), (2, 3, 4))
        assert not trace(made.weave).problems
        taken[knot] = start_takes(made.weave)
        other = SetStart(knot="wrap-3", ends=4).apply(made)
        assert [s.name for s in other.weave.sections] == [s.name for s in made.weave.sections]
        assert SetStart(knot="").apply(made) == DOC
    assert taken["wrap-5"] > taken["wrap-3"] > 20
    with pytest.raises(InputError, match="no start"):
        SetStart(knot="hope", ends=4).apply(DOC)
    with pytest.raises(InputError, match="one end alone"):
        SetStart(knot="wrap-3", ends=1).apply(DOC)
