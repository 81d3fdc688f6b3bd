"""Pictures of steps where they are printed 50 mm wide, and in grey."""

from __future__ import annotations

import pytest

from dim_ladder.base.colours import lightness
from dim_ladder.commands.sheets import sheet_of
from dim_ladder.picture.display import Label, Line
from dim_ladder.shelf import read_document_text
from dim_ladder.shelf.workshop import demo_texts

MM = 25.4 / 96  # a pixel
WIDE = 50.0
LEAST_LETTER = 1.5  # mm of type: about four and a quarter points
LEAST_CORD = 1.2  # mm across
LEAST_STEP = 0.12  # of lightness, from what moves to what rests


def as_printed(picture) -> float:
    return MM * min(1.0, WIDE / (picture.width * MM))


@pytest.mark.parametrize("name", [n.removesuffix(".dimladder") for n in demo_texts()])
def test_letters_cords_and_what_moves_can_be_told_in_print(name):
    doc = read_document_text(demo_texts()[f"{name}.dimladder"], name)
    steps = [s for part in sheet_of(doc).sections for s in part.steps if s.picture is not None]
    assert steps
    told = 0
    for s in steps:
        scale = as_printed(s.picture)
        sizes = [x.size * scale for x in s.picture.shapes if isinstance(x, Label)]
        assert min(sizes, default=LEAST_LETTER) >= LEAST_LETTER, (s.number, min(sizes))
        cords = [x for x in s.picture.shapes if isinstance(x, Line) and not x.dash and x.tag != "gap"]
        assert max(x.width for x in cords) * scale >= LEAST_CORD, s.number
        # The outline of a cord is its widest line: strong where it moves.
        by_cord: dict[object, Line] = {}
        for x in cords:
            if x.path not in by_cord or x.width > by_cord[x.path].width:
                by_cord[x.path] = x
        grey = sorted(lightness(x.colour) for x in by_cord.values() if x.width * scale > 0.3)
        if len(grey) > 1 and name != "marsh-ring" and not s.sentence.startswith("Push the bead"):
            told += 1
            assert grey[-1] - grey[0] >= LEAST_STEP, (s.number, grey)
    assert told or name == "marsh-ring"
