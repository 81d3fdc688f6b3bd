"""What the check says shows in the front centre and the back centre is what the tight shape shows there."""

import pytest

from dim_ladder.shape import tight
from dim_ladder.shape.centre import centre, known_shape
from dim_ladder.trace import trace
from dim_ladder.trace.faces import faces
from dim_ladder.words.faces import faces_sentence
from helpers.weaves import weave_of

WORKS = [
    (4, "half-right (1 | 2 3 | 4)", "half-left (1 | 2 3 | 4)"), (3, "half-right (1 | 2 | 3)", "half-left (1 | 2 | 3)"),
    (5, "half-left (1 | 2 3 4 | 5)", "half-right (1 | 2 3 4 | 5)"), (6, "square (1 | 2 3 4 5 | 6)"),
    (2, "half-hitch (1 | 2)", "half-hitch-behind (1 | 2)"), (2, "larks-head (1 | 2)"), (2, "hitch-chain (1 | 2)"),
    (3, "plait-3 (1 | 2 | 3)"), (4, "square (1 | 2 3 | 4)", "turn over", "square (1 | 2 3 | 4)", "turn over"),
]  # fmt: skip


@pytest.mark.parametrize("work", WORKS, ids=lambda w: w[1])
def test_trace_and_tight_shape_name_the_same_ends(work):
    weave = weave_of(work[0], *work[1:])
    one = trace(weave, section="s", units=1)
    shape = tight(weave, "s")
    said, seen = faces(one), centre(shape, one)
    assert seen is not None
    assert seen.front
    for a, b in ((said.front, seen.front), (said.back, seen.back)) if said else ():
        assert set(a) <= set(b) or not b
    assert known_shape(weave, "s") is not None  # from now on, at once


def test_what_turns_has_no_centre_and_what_moves_on_shows_in_turn():
    spiral = weave_of(4, "half-right (1 | 2 3 | 4)")
    one = trace(spiral, section="s", units=1)
    assert centre(tight(spiral, "s"), one) is None
    assert "in turn in the front centre" in faces_sentence(one, faces(one))
    plait = weave_of(3, "plait-3 (1 | 2 | 3)")
    one = trace(plait, section="s", units=1)
    assert faces(one) is None  # nothing stands still: the trace does not say
    assert "Every cord in turn in the front centre" in faces_sentence(one, centre(tight(plait, "s"), one))


def test_a_shape_that_was_never_asked_for_is_not_waited_for(monkeypatch, tmp_path):
    monkeypatch.setenv("DIM_LADDER_CACHE", str(tmp_path))
    assert known_shape(weave_of(3, "plait-3 (1 | 2 | 3)"), "s") is None
