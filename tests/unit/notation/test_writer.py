from dim_ladder.library import library_knots
from dim_ladder.notation import parse_strict, write, write_count, write_item
from dim_ladder.shelf import read_document_text
from dim_ladder.shelf.workshop import demo_texts
from helpers.weaves import PLAIT, SPIRAL, TERN


def test_write_then_parse_gives_the_same_weave():
    texts = [TERN, SPIRAL, PLAIT] + [write(read_document_text(t).weave) for t in demo_texts().values()]
    for text in texts:
        weave = parse_strict(text)
        assert parse_strict(write(weave)) == weave
        assert write(parse_strict(write(weave))) == write(weave)


def test_comments_and_notes_stay_where_they_belong():
    text = """-- at the head
weave "Sluice Bar"  -- after the name

cords
  -- the quiet one
  tide  nylon-4mm  #1f6f8b  -- filler

-- left first
hang on ring
  tide.a tide.b

-- about the knot
knot turn (a | b)
  -- about the step
  a: over b tight  -- not too hard

section s: body, repeat 3  -- three
  turn (1 | 2)  -- once
-- at the end
"""
    weave = parse_strict(text)
    again = write(weave)
    for comment in ("at the head", "after the name", "the quiet one", "filler", "left first", "about the knot",
                    "about the step", "not too hard", "three", "once", "at the end"):  # fmt: skip
        assert again.count(f"-- {comment}") == 1, comment
    assert parse_strict(again) == weave
    assert weave.knots[0].steps[0].lead == ("about the step",)
    assert weave.tail == ("at the end",)


def test_pieces():
    weave = parse_strict(TERN)
    assert write_item(weave.sections[0].items[0]) == "half-right (1 | 2 3 | 4)"
    assert write_item(weave.knots[0].steps[1]) == "w: over v, under c, up v"
    assert write_count(weave.sections[0].count) == "fit pairs"
    assert len(library_knots()) >= 7
