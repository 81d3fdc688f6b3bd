"""The book of knots: every knot has a name, a picture, and a line that ties it where it fits."""

import pytest

from dim_ladder.base import InputError
from dim_ladder.commands.knotbook import call_at, knot_book, sample
from dim_ladder.library import library_knots
from dim_ladder.notation import parse_strict, write
from dim_ladder.trace import trace
from helpers.weaves import TERN, weave_of

WEAVE = parse_strict(TERN)
ENTRIES = knot_book(WEAVE, "macrame")


def test_the_weaves_own_knots_come_first_and_once():
    names = [e.name for e in ENTRIES]
    assert names[:2] == ["half-right", "half-left"]
    assert len(set(names)) == len(names) == len(library_knots())  # it has two by the same names
    assert [e.own for e in ENTRIES[:3]] == [True, True, False]
    square = next(e for e in ENTRIES if e.name == "square")
    assert (square.title, square.ends, square.rest) == ("square knot", 3, True)
    assert "band knot" in square.also


@pytest.mark.parametrize("entry", ENTRIES, ids=lambda e: e.name)
def test_it_is_tied_as_it_is_written_and_its_picture_is_that_knot(entry):
    many = entry.ends + (1 if entry.rest else 0)
    weave = weave_of(many + 1, *(["chain-begin (2)"] if entry.name in ("chain-link", "chain-lock") else []))
    line = call_at(weave, entry.name, many + 1, 2)
    whole = parse_strict(write(weave) + f"  {line}\n")
    # Beside other tails it is the same knot as alone.
    tied, alone = trace(whole), sample(WEAVE, entry.name)
    assert not tied.problems
    assert not alone.problems
    assert len(tied.crossings) == len(alone.crossings)
    assert [(c.lane_over, c.lane_end - 1, c.row_end - 1) for c in tied.crossings] == [
        (c.lane_over, c.lane_end, c.row_end) for c in alone.crossings
    ]
    with pytest.raises(InputError, match="ends, and from place"):
        call_at(weave, entry.name, many, many - entry.ends + 2)


def test_it_reaches_to_the_last_tail_where_it_takes_what_is_left():
    assert call_at(WEAVE, "square", 6, 2) == "square (2 | 3..5 | 6)"
    assert call_at(WEAVE, "snake", 6, 3) == "snake (3 | 4)"
    assert call_at(WEAVE, "snake", 6, 3, True) == "snake (3+4 | 5+6)"
    assert call_at(WEAVE, "square", 6, 1, True) == "square (1+2 | 3 4 | 5+6)"
    with pytest.raises(InputError, match="two for each place"):
        call_at(WEAVE, "crown-4", 6, 1, True)
    with pytest.raises(InputError, match="no knot"):
        call_at(WEAVE, "hope", 4, 1)
    with pytest.raises(InputError, match="no knot"):
        sample(WEAVE, "hope")
