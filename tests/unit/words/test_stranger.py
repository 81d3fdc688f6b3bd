"""A stranger who has only the sheet ties what was meant: the same diagram, the same cord in front, the same order of ends."""

from __future__ import annotations

import math
import random
import re
from pathlib import Path

import pytest

from dim_ladder.base import InputError
from dim_ladder.library import library_knots
from dim_ladder.notation import Weave, parse_strict
from dim_ladder.picture.display import Label
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.publish.sheet import build_sheet
from dim_ladder.scale import Plan
from dim_ladder.shelf import read_document_text
from dim_ladder.shelf.workshop import demo_texts
from dim_ladder.trace import trace
from dim_ladder.trace.solved import solve_knot
from dim_ladder.words.sentences import words_for
from helpers.looking import courses, tags
from helpers.reading import compare, read
from helpers.stranger import Stranger, Unread, likeness
from helpers.weaves import random_weave, weave_of
from helpers.wild import wild_weave

NOTATION = Path(__file__).parents[3] / "docs" / "notation.md"
VOICES = (("plain", "hanging"), ("paracord", "table"), ("macrame", "hanging"))
GOES_ON = ("chain-link", "chain-lock")


def knot_weave(name: str) -> Weave:
    """A knot of the book on as many ends as it asks for."""
    solved = solve_knot(weave_of(1, "overhand (1)"), name)
    assert solved is not None
    groups, n = [], 0
    for p in solved.params:
        many = 2 if p.rest else 1
        groups.append(" ".join(str(i) for i in range(n + 1, n + many + 1)))
        n += many
    before = ["chain-begin (1)"] if name in GOES_ON else []
    return weave_of(n, *before, f"{name} ({' | '.join(groups)})")


@pytest.mark.parametrize("voice", range(3))
@pytest.mark.parametrize("knot", [k.name for k in library_knots()])
def test_every_knot_that_ships(knot: str, voice: int) -> None:
    compare(knot_weave(knot), {"*": 2}, *VOICES[voice])


@pytest.mark.parametrize("units", [1, 4, 5])
def test_every_demo_weave(units: int) -> None:
    tied = 0
    for name, text in demo_texts().items():
        doc = read_document_text(text, name)
        if not any(s.former for s in doc.weave.sections):
            compare(doc.weave, {"*": units}, *VOICES[units % 3])
            tied += 1
    assert tied >= 6


@pytest.mark.parametrize("voice", range(3))
@pytest.mark.parametrize("far", range(1, 6))
def test_an_end_that_runs_back_beside_another_for_a_part(far: int, voice: int) -> None:
    """What it passes is named; nobody has to count."""
    steps = ("1: over 2 3 4", "4: under 3 2", f"1: follow 2 left back {far}")
    weave = weave_of(4, *steps)
    said = words_for(trace(weave))[-1].sentence
    passed = ["under C", "under D", "over D", "over C", "over its own cord"]
    assert f"with it {', '.join(passed[:far])}, and leaves it there" in said
    assert "crossing" not in said
    compare(weave, {"*": 2}, *VOICES[voice])
    # Also of what it has only just passed itself.
    compare(weave_of(4, *steps[:2], f"1: under 2, follow 2 right back {far + 1}"), {"*": 1}, *VOICES[voice])
    compare(weave_of(4, *steps[:2], "turn over", f"4: follow 3 right back {far}"), {"*": 1}, *VOICES[voice])


@pytest.mark.parametrize("voice", range(3))
@pytest.mark.parametrize(
    ("knot", "goes_on"),
    [
        ("carrick-mat", "1: follow 2 left back 3"), ("carrick-mat", "2: follow 1 right back 5"),
        ("button-two", "2: follow 1 right back 4"), ("diamond-2", "2: follow 1 right back 3"),
    ],
)  # fmt: skip
def test_an_end_that_goes_on_from_a_knot_that_was_led(knot: str, goes_on: str, voice: int) -> None:
    """While the knot is tied its tip is seen beyond what it last passed: whose letter is whose is read from the pictures."""
    compare(weave_of(2, f"{knot} (1 | 2)", goes_on), {"*": 1}, *VOICES[voice])


def test_every_letter_stands_at_its_own_tip_and_on_no_other_cord() -> None:
    weave = weave_of(2, "carrick-mat (1 | 2)", "1: follow 2 left back 3")
    sheet = build_sheet(weave, None, Plan(target="length", size_mm=100), SheetChoices())
    pictures = [s.picture for part in sheet.sections for s in part.steps if s.picture is not None]
    assert len(pictures) >= 5
    for picture in pictures:
        drawn, _ = courses(picture)
        named = tags(picture, {"A": 0, "B": 1})
        assert sorted(named.values()) == [0, 1]
        for s in picture.shapes:
            if isinstance(s, Label) and s.tag == "label":
                away = [math.dist(p, (s.x, s.y)) for p in drawn[1 - named[s.text]]]
                assert min(away) > s.size * 0.4


def test_every_example_of_the_notation() -> None:
    tied = 0
    for text in re.findall(r"```weave\n(.*?)```", NOTATION.read_text("utf-8"), re.S):
        weave = parse_strict(text)
        if not any(s.former for s in weave.sections):
            compare(weave, {"*": 3}, *VOICES[tied % 3])
            tied += 1
    assert tied >= 30


def random_weaves(kind: str) -> list[tuple[int, Weave]]:
    out = []
    for seed in range(400):
        rng = random.Random(seed)
        weave = random_weave(rng.randint) if kind == "random" else wild_weave(rng.randint)
        try:
            sound = not trace(weave, counts={"s": 1 + seed % 3}).problems
        except InputError:
            sound = False
        if sound:
            out.append((seed, weave))
    return out[:200]


@pytest.mark.parametrize("kind", ["random", "wild"])
def test_random_weaves(kind: str) -> None:
    weaves = random_weaves(kind)
    assert len(weaves) == 200
    for seed, weave in weaves:
        compare(weave, {"*": 1 + seed % 3}, *VOICES[seed % 3])


def test_a_stranger_is_not_easily_pleased() -> None:
    """One word changed, and what is tied is another knot."""
    _, tied, stranger = read(knot_weave("plait-3"), {"*": 1})
    said = words_for(trace(knot_weave("plait-3")))[0].sentence
    made = []
    for sentence in (said, said.replace(" over ", " under ")):
        again = Stranger(
            [("k1", "A"), ("k2", "B"), ("k3", "C")], "From left to right hang: A red, B red, C red (3 ends)."
        )
        again.section("s", "", [(sentence, None)], (), 1)
        made.append(likeness(again.traced(), {}))
    assert made[0] != made[1]
    assert len(tied.crossings) == 2
    assert stranger.open


@pytest.mark.parametrize(
    "said",
    [
        "A (teal, far left) goes somewhere.",
        "A (teal, far left) goes right over B, then about; it rests far right.",
        "Repeat 1 backwards.",
    ],
)
def test_what_says_nothing_is_not_read(said: str) -> None:
    _, _, stranger = read(knot_weave("half-hitch"), {"*": 1})
    first = words_for(trace(knot_weave("half-hitch")))[0].sentence
    stranger.number = 0
    with pytest.raises(Unread):
        stranger.section("more", "", [(first, None), (said, None)], (), 1)
