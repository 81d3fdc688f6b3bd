"""What is called out for work on a former, acted out by somebody who knows how a former goes and nothing else: from which bight, to
which edge, over and under what. Where strands cross is found by walking along them, not asked of the program."""

from __future__ import annotations

import random
import re
from fractions import Fraction

import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shelf import read_document_text
from dim_ladder.shelf.workshop import demo_texts
from dim_ladder.trace.former import former_work
from dim_ladder.words.former import called_out

WORK = """weave "Ring"

cords
  tide  nylon-2mm  #1f6f8b

hang on former
  tide.a

section ring: body, on former, leads {leads} bights {bights}{code}
"""


class Former:
    """leads, bights : as the sheet says. ways : where every half cycle begins and whether it rises; over : by place, whether what
    rises lies in front."""

    def __init__(self, leads: int, bights: int) -> None:
        self.leads, self.around = leads, 2 * bights
        self.ways: list[tuple[int, bool]] = []
        self.over: dict[tuple[int, int], bool] = {}
        self.at = 0

    def follow(self, sentence: str) -> None:
        out = re.match(
            r"(?:From bight (\d+) to the far edge|Back to the near edge)(?:, between the ways [^:]*)?: (.*)\.$",
            sentence,
        )
        assert out, f"cannot be read: {sentence}"
        rises = out[1] is not None
        if rises:
            self.at = 2 * (int(out[1]) - 1)
        told: list[bool] = []
        if not out[2].startswith("free"):
            for part in out[2].split(", "):
                word, many = part.split()
                told += [word == "over"] * int(many)
        met = self.met(self.at, rises)
        assert len(met) == len(told), f"{sentence}: {len(met)} strands are met"
        for place, over in zip(met, told, strict=True):
            assert place not in self.over
            self.over[place] = over == rises
        self.ways.append((self.at, rises))
        self.at = (self.at + self.leads) % self.around

    def met(self, start: int, rises: bool) -> list[tuple[int, int]]:
        """Places (along, up) where a way meets those that are laid, in order: both go one along for one up."""
        found = []
        for other, up in self.ways:
            if up == rises:
                continue
            # One is at (start + t, t), the other at (other + s, leads - s): s = leads - t, and both are at one place along.
            t = Fraction(other + self.leads - start, 2) % Fraction(self.around, 2)
            while t < self.leads:
                if t > 0:
                    found.append(t)
                t += Fraction(self.around, 2)
        assert all(t.denominator == 1 for t in found)
        return [
            ((start + int(t)) % self.around, int(t) if rises else self.leads - int(t)) for t in sorted(found)
        ]


def acted_out(section) -> tuple[Former, int]:
    calls = called_out(section)
    work = former_work(section)
    reader = Former(work.leads, work.bights)
    for c in calls:
        if c.run >= 0:
            reader.follow(c.text)
    return reader, len(calls)


def same(section) -> int:
    """How many crossings came out, every one as in the work."""
    work = former_work(section)
    reader, _ = acted_out(section)
    assert len(reader.over) == (work.leads - 1) * work.bights
    for (x, y), rising in reader.over.items():
        assert rising == work.rising_over(x, y), (x, y)
    return len(reader.over)


def test_the_demo_ring_is_tied_from_its_words():
    weave = read_document_text(demo_texts()["marsh-ring.dimladder"], "marsh-ring").weave
    ring = next(s for s in weave.sections if s.former is not None)
    assert same(ring) == 45


@pytest.mark.parametrize("seed", range(4))
def test_random_rings_are_tied_from_their_words(seed):
    rng = random.Random(seed)
    crossings = 0
    for _ in range(15):
        leads, bights = rng.randint(2, 9), rng.randint(2, 13)
        text = WORK.format(leads=leads, bights=bights, code=rng.choice(["", "", ", code over 1 under 1"]))
        crossings += same(parse_strict(text).sections[0])
    assert crossings > 200


@pytest.mark.parametrize("raised", ["raise", "raise repeat 2", "raise to leads 8"])
def test_raised_rings_are_tied_from_their_words(raised):
    section = parse_strict(WORK.format(leads=4, bights=3, code="") + f"  {raised}\n").sections[0]
    assert same(section) > 9


def test_a_wrong_word_is_noticed():
    weave = read_document_text(demo_texts()["marsh-ring.dimladder"], "marsh-ring").weave
    ring = next(s for s in weave.sections if s.former is not None)
    texts = [c.text for c in called_out(ring)]
    texts[12] = texts[12].replace("over 1, under 2, over 1", "over 2, under 1, over 1")
    work, reader = former_work(ring), Former(6, 9)
    for text in texts:
        reader.follow(text)
    assert any(rising != work.rising_over(x, y) for (x, y), rising in reader.over.items())
