"""Help while a script is typed: what is offered can be read, what is mended has no slip, what is laid out stays so."""

import random

import pytest

from dim_ladder.commands import AddItem, History, MoveItem, RemoveItem, SetColour, SetName, SetScript
from dim_ladder.commands.layout import merged
from dim_ladder.commands.scripting import completions, fixes
from dim_ladder.notation import parse, parse_strict, write
from dim_ladder.shelf import Document, read_document, save_document
from dim_ladder.trace import trace
from helpers.sizes import sized
from helpers.weaves import TERN, weave_of

WEAVE = parse_strict(TERN)


def offered(text, weave=WEAVE):
    """What is offered at the mark | of a text."""
    at = text.index("|")
    start, found = completions(text.replace("|", "", 1), at, weave)
    return text[start:at], [c.text for c in found]


@pytest.mark.parametrize(
    ("text", "word", "among"),
    [
        ("se|", "se", ["section"]),
        ("hang on bu|", "bu", ["buckle"]),
        ("section bar: |", "", ["start", "body", "finish"]),
        ("section bar: body, fit p|", "p", []),
        ("section bar: body, fi|", "fi", ["fit", "fit pairs", "fit multiple of"]),
        ("section edge: body, same as b|", "b", ["bar"]),
        ("knot k = |", "", ["mirror", "flip", "turn"]),
        ("knot k = mirror half|", "half", ["half-right", "half-left"]),
        ("cords\n  tide co|", "co", ["cotton-3mm", "cotton-5mm"]),
        ("hang\n  tide.|", "tide.", ["tide.a", "tide.b"]),
        ("section bar: body\n  snak|", "snak", ["snake (1 ~ 2)"]),
        ("section bar: body\n  tu|", "tu", ["tuck-and-melt", "tuck", "turn over"]),
        ("section bar: body\n  1: ov|", "ov", ["over"]),
        ("section bar: body\n  1: over 2, u|", "u", ["under", "up"]),
        ("section bar: body\n  1: over 2, up ow|", "ow", ["own"]),
        ("section bar: body\n  1: over 2, to r|", "r", ["right"]),
        ("section bar: body\n  1: over ti|", "ti", ["tide.a", "tide.b", "tight"]),
        ("section bar: body\n  1: over 2 -- sn|", "", []),
    ],
)
def test_what_could_stand_here(text, word, among):
    found_word, found = offered(text)
    assert found_word == word
    wanted = [a.replace("~", "|") for a in among]
    assert [f for f in found if f in wanted] == sorted(wanted, key=found.index) if wanted else found == []
    assert set(wanted) <= set(found)
    assert all(f.startswith(word) for f in found)


def test_every_knot_that_is_offered_can_be_read_where_it_is_offered():
    text = TERN.split("section bar")[0] + "section bar: body\n  |"
    _, found = offered(text)
    base = text.replace("|", "")
    for f in found:
        if "(" in f:
            assert not parse(base + f + "\n").problems, f


def fixed(text, n=0):
    parsed = parse(text)
    problems = parsed.problems or trace(parsed.weave, parsed=parsed).problems
    (f, *_) = fixes(text, problems[0])[n:]
    return f, text[: f.start] + f.text + text[f.stop :]


def test_a_slip_of_the_pen_becomes_the_nearest_word():
    for wrong, right in (("half-rigth (1", "half-right (1"), ("mirror half-rihgt", "mirror half-right")):
        text = TERN.replace(right, wrong, 1)
        f, mended = fixed(text)
        assert mended == TERN, f
        assert f.words.startswith("Write ")
    unknown = TERN.replace("v: over c", "v: ovre c")
    assert fixed(unknown)[1] == TERN


def test_tails_in_between_are_crossed_too_in_front_or_behind():
    text = write(weave_of(4, "1: over 3, up own tight -- so"))
    f, mended = fixed(text)
    assert f.words == "Go over k2.a too"
    assert "1: over k2.a k3.a, up own tight  -- so" in mended
    f, mended = fixed(text, 1)
    assert "1: under k2.a, over k3.a, up own tight  -- so" in mended
    for n in (0, 1):
        parsed = parse(fixed(text, n)[1])
        assert not parsed.problems
        assert not trace(parsed.weave).problems


def test_where_nothing_can_be_offered_nothing_is():
    parsed = parse("weave")
    assert fixes("weave", parsed.problems[0]) == ()


OWN = """-- how it began
weave "Tern Ladder"


cords
  tide     nylon-4mm   #1f6f8b
  buoy     nylon-4mm   #e07a1f

hang
    buoy.a   tide.a   tide.b   buoy.b

section bar: body,   fit
    half-right ( 1 | 2 3 | 4 )      -- first

    half-left (1|2 3|4)


section end:finish
  tuck-and-melt (1 | 4)
"""


def test_an_edit_changes_only_the_lines_it_asks_for():
    own = parse_strict(OWN)
    before = write(own)
    renamed = AddItem(section="bar", text="1: over 2").apply(Document(own)).weave
    text = merged(OWN, before, write(renamed))
    assert parse_strict(text) == renamed
    assert [x for x in text.split("\n") if x not in OWN.split("\n")] == ["  1: over 2"]
    assert [x for x in OWN.split("\n") if x not in text.split("\n")] == []
    assert merged(OWN.replace("tide", "reed"), before, before) is None


@pytest.mark.parametrize("seed", range(sized(20, 200)))
def test_through_random_edits_the_layout_stays_and_says_what_the_weave_is(seed):
    rng = random.Random(seed)
    history = History(Document.of_script(OWN, parse_strict(OWN)))
    for _ in range(12):
        many = len(history.document.weave.section("bar").items)
        edit = rng.choice([
            SetName(name=f"N{rng.randint(0, 9)}"), SetColour(cord="tide", colour=f"#{rng.randrange(1 << 24):06x}"),
            AddItem(section="bar", text="1: over 2 -- so", at=rng.randint(0, many)),
            *([RemoveItem(section="bar", at=rng.randrange(many)), MoveItem(section="bar", at=rng.randrange(many), to=0)] if many else []),
            SetScript(text=write(history.document.weave)),
        ])  # fmt: skip
        before = history.document
        after = history.do(edit)
        assert parse_strict(after.script) == after.weave
        if isinstance(edit, SetScript):
            assert after.layout == ""
            history.undo()
            assert history.document == before
    own = history.document.layout
    kept = [x for x in OWN.split("\n") if x.startswith("    buoy.a") or x.startswith("-- how")]
    assert all(k in own.split("\n") for k in kept)


def test_the_layout_is_kept_in_the_file(tmp_path):
    doc = Document.of_script(OWN, parse_strict(OWN))
    for name in ("tern.dimladder", "tern.weave"):
        save_document(doc, tmp_path / name)
        assert read_document(tmp_path / name).script == OWN
    plain = Document.of_script(TERN, parse_strict(TERN))
    assert plain.layout == ""
    assert plain == Document(parse_strict(TERN))


def test_a_long_script_of_like_lines_is_laid_out_at_once():
    text = write(weave_of(2, *["1: over 2"] * 3000)).replace("section", "\n\nsection")
    history = History(Document.of_script(text, parse_strict(text)))
    after = history.do(AddItem(section="s", text="1: under 2", at=1500))
    assert after.layout.count("\n\n\nsection") == 1
    assert parse_strict(after.layout) == after.weave
