"""A row of hitches that is tied once: its runner is held level, and what is hitched to it hangs down from it."""

import numpy as np
import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.tighten import job_for

HEAD = """weave "Hurdle Head"
cords
  r  nylon-4mm  #3f7a4a
  a  nylon-4mm  #e07a1f
  b  nylon-4mm  #1f6f8b
  c  satin-2mm  #744a9e
hang on bar
  r.a a.a a.b b.a b.b c.a
section row: start
  {}
"""


def row(line):
    return parse_strict(HEAD.format(line))


@pytest.mark.parametrize(
    ("line", "runner", "tied"),
    [
        ("bar-right (1 | 2 3 4 5)", "r.a", ("a.a", "a.b", "b.a", "b.b")),
        ("bar-left (1 2 3 4 | 5)", "b.b", ("r.a", "a.a", "a.b", "b.a")),
        ("bar-right (1 | 2 3)", "r.a", ("a.a", "a.b")),
        ("bar-right (2 | 3 4 5)", "a.a", ("a.b", "b.a", "b.b")),
    ],
)
def test_the_runner_lies_level_and_every_hitch_is_like_the_others(line, runner, tied):
    shape = tight(row(line), "row")
    assert shape.converged
    assert shape.pitch < 4.0
    cord = [shape.per_end[e] for e in tied]
    assert max(cord) < 1.15 * min(cord)
    assert 9 < min(cord) < max(cord) < 18
    led = shape.lines[shape.ends.index(runner)]
    across = led[np.abs(np.gradient(led[:, 0])) > 2 * np.abs(np.gradient(led[:, 1]))]
    assert np.ptp(across[:, 0]) > 1.5 * len(tied)
    assert np.ptp(across[:, 1]) < 0.35 * np.ptp(across[:, 0])
    # It comes from above, and hangs down where it was led to.
    assert led[0, 1] < across[:, 1].min() < across[:, 1].max() < led[-1, 1]
    assert (led[-1, 0] > led[0, 0]) == ("right" in line)


def test_only_a_row_is_laid_so():
    thin = job_for(row("bar-right (1 | 2 3 4 5 6)"), "row")  # thick hitches draw thin ones along the runner
    assert not thin.curves.aside
    for line in ("snake (1 | 2)", "half-right (1 | 2 3 | 4)", "larks-head (1 | 2 3)"):
        assert not job_for(row(line), "row").curves.aside
    body = HEAD.replace("row: start", "row: body").format("bar-right (1 | 2 3 4 5)\n  bar-left (1 2 3 4 | 5)")
    assert not job_for(parse_strict(body), "row").curves.aside


def test_a_long_row_is_drawn_up_as_far_as_a_short_one():
    """Its tails are long while it is loose: nothing pushes them into it."""
    names = "abcdefgh"
    cords = "".join(f"  {n}  cotton-3mm  #3f7a4a\n" for n in names)
    ends = " ".join(f"{n}.a" for n in names)
    text = 'weave "Long Head"\ncords\n{}hang on bar\n  {}\nsection row: finish\n  bar-right (1 | 2..{})\n'
    took = {}
    for many in (4, 8):
        shape = tight(parse_strict(text.format(cords, ends, many)), "row")
        assert shape.converged
        assert shape.pitch < 3.0
        took[many] = [shape.per_end[f"{n}.a"] for n in names[1:many]]
        assert max(took[many]) < 1.05 * min(took[many])
    assert np.mean(took[8]) == pytest.approx(np.mean(took[4]), rel=0.05)
