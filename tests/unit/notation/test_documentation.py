"""Every example of the notation's page is read, written, traced and put into words."""

import re
from pathlib import Path

import pytest

from dim_ladder.library import FINISHES, HANGINGS, library_knots
from dim_ladder.notation import parse, write
from dim_ladder.notation.steps import DEEDS, HOPS
from dim_ladder.trace import check_structure, trace
from dim_ladder.trace.former import former_sections, former_work
from dim_ladder.words.sentences import words_for

PAGE = (Path(__file__).parents[3] / "docs" / "notation.md").read_text("utf-8")
EXAMPLES = re.findall(r"```weave\n(.*?)```", PAGE, re.DOTALL)


@pytest.mark.parametrize("text", EXAMPLES, ids=lambda t: t.split('"')[1])
def test_the_example_works(text):
    parsed = parse(text)
    assert parsed.problems == ()
    assert parse(write(parsed.weave)).weave == parsed.weave
    t = trace(parsed.weave, units=2)
    assert t.problems == ()
    assert check_structure(t) == []
    told = sum(not s.quiet for s in t.steps)
    rows = sum(len(former_work(s).half_cycles()) for s in former_sections(parsed.weave))
    assert len(words_for(t)) == told
    assert told + rows > 0
    assert all(w.sentence.endswith((".", ")")) for w in words_for(t))


def test_the_page_names_all_that_ships():
    assert len(EXAMPLES) >= 8
    for name in (*HOPS, *DEEDS, *(k.name for k in library_knots()), *FINISHES, *HANGINGS):
        assert name in PAGE, name


def test_turning_a_knot_twice_is_the_knot():
    text = next(t for t in EXAMPLES if "Four Ways" in t)
    only = [text.split("section")[0] + f"section s: body\n  {k} (1 | 2)\n" for k in ("hitch", "hitch-again")]
    a, b = (trace(parse(t).weave) for t in only)
    assert a.crossings == b.crossings
