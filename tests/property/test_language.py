"""Properties over random weaves and random rubbish."""

import random

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from dim_ladder.base import InputError, read_length
from dim_ladder.calibrate import ties_from_csv
from dim_ladder.commands import (
    AddItem,
    AddItems,
    AddMirrored,
    AddSection,
    ExtractKnot,
    FlipItems,
    History,
    InlineKnot,
    MirrorItems,
    MoveItem,
    RemoveItem,
    RenameCord,
    RepeatItems,
    SetColour,
    SetCount,
    SetName,
    SwapLeader,
)  # fmt: skip
from dim_ladder.notation import parse, parse_strict, write
from dim_ladder.picture.diagrams import diagram
from dim_ladder.publish import embedded_document
from dim_ladder.shelf import Document, document_text, read_document_text
from dim_ladder.shelf.workshop import demo_texts
from dim_ladder.trace import check_structure, close, euler_characteristic, trace
from helpers.invariants import determinant_signature, link
from helpers.sizes import sized
from helpers.ties import tie
from helpers.weaves import TERN, random_weave

SLOW = settings(
    max_examples=sized(60, 600), deadline=None, derandomize=True, suppress_health_check=list(HealthCheck)
)


@st.composite
def weaves(draw):
    return random_weave(lambda low, high: draw(st.integers(low, high)))


@given(weaves())
@SLOW
def test_random_weaves_trace_to_sound_planar_diagrams(weave):
    assert parse_strict(write(weave)) == weave
    t = trace(weave, units=2)
    assert not t.problems or t.problems[0].step >= 0
    assert check_structure(t) == []
    closed = close(t)
    labels = sorted(label for c in closed.pd for label in c)
    assert labels == sorted(list(range(1, 2 * len(closed.pd) + 1)) * 2)
    if closed.pd:
        characteristic, parts = euler_characteristic(closed.pd)
        assert characteristic == 2 * parts
        assert len(link(closed).link_components) == closed.components - closed.bare
    if t.steps:
        picture = diagram(t, 0, len(t.steps) - 1)
        assert picture.width > 0
        assert picture.height > 0


@given(weaves())
@SLOW
def test_the_mirror_image_has_the_mirrored_invariants(weave):
    document = Document(weave)
    name = weave.sections[0].name
    items = len(weave.sections[0].items)
    if not items:
        return
    both = AddMirrored(section=name).apply(document)
    for _ in range(items):
        both = RemoveItem(section=name, at=0).apply(both)
    a, b = close(trace(weave)), close(trace(both.weave))
    assert len(a.pd) == len(b.pd)
    assert a.components == b.components
    if a.pd and a.components == 1:
        (d1, s1), (d2, s2) = determinant_signature(a), determinant_signature(b)
        assert (d1, s1) == (d2, -s2)


def random_edit(rng, document):
    sections = document.weave.sections
    section = rng.choice(sections)
    at = rng.randrange(0, len(section.items) + 2)
    return rng.choice(
        [
            AddItem(section=section.name, text=f"{rng.randint(1, 5)}: over {rng.randint(1, 5)}", at=at),
            AddItem(section=section.name, text="half-right (1 | 2 3 | 4)"),
            RemoveItem(section=section.name, at=at),
            MoveItem(section=section.name, at=at, to=rng.randrange(0, 3)),
            AddMirrored(section=section.name),
            MirrorItems(section=section.name, at=at),
            FlipItems(section=section.name, at=at, last=rng.randrange(0, 3)),
            SwapLeader(section=section.name, at=at),
            RepeatItems(section=section.name, at=at),
            ExtractKnot(section=section.name, at=at, last=rng.randrange(0, 3), name=f"k{rng.randint(0, 9)}"),
            InlineKnot(section=section.name, at=at),
            AddItems(section=section.name, text="1: over 2\nhalf-right (1 | 2 3 | 4)", at=at),
            RenameCord(cord="tide", to=rng.choice(["creek", "reed"])),
            AddSection(name=f"s{rng.randint(0, 4)}"),
            SetCount(section=section.name, count=rng.choice(["fit", "repeat 3", "fit pairs", "same as bar"])),
            SetColour(cord="tide", colour=f"#{rng.randrange(1 << 24):06x}"),
            SetName(name=f"N{rng.randint(0, 9)}"),
        ]
    )


@pytest.mark.parametrize("seed", range(sized(12, 120)))
def test_undo_and_redo_over_random_edits_are_replay(seed):
    rng = random.Random(seed)
    history = History(Document(parse_strict(TERN)))
    states = [history.document]  # states[:at + 1] can be undone to, the rest redone to
    at = 0
    for _ in range(80):
        what = rng.random()
        if what < 0.25:
            history.undo()
            at = max(0, at - 1)
        elif what < 0.4:
            history.redo()
            at = min(len(states) - 1, at + 1)
        else:
            try:
                after = history.do(random_edit(rng, history.document))
            except InputError:
                after = states[at]
            if after != states[at]:
                states[at + 1 :] = [after]
                at += 1
        assert history.document == states[at]
        assert parse_strict(write(history.document.weave)) == history.document.weave


READERS = {
    "script": parse,
    "script of layers": parse,
    "script of bars": parse,
    "script of a former": parse,
    "document": read_document_text,
    "ties": ties_from_csv,
    "length": read_length,
    "sheet": lambda text: embedded_document([text.encode("utf-8", "replace")]),
}


def script_of(name):
    return write(read_document_text(demo_texts()[f"{name}.dimladder"]).weave)


def rubbish(rng, seed_text):
    """Cut, doubled, shuffled and spoiled pieces of a real input."""
    text = seed_text
    for _ in range(rng.randint(1, 6)):
        i, j = sorted((rng.randint(0, len(text)), rng.randint(0, len(text))))
        text = rng.choice(
            [
                text[:i] + text[j:],
                text[:i] + text[i:j] * 2 + text[j:],
                text[:i] + rng.choice('\0\n\t"|(){}[]:,+@#.-9999999999é\u202e😀=<>') + text[i:],
                text[i:j] or text,
                text[:i] + str(rng.choice([10**30, -1, 1e400, "NaN", "null", "true"])) + text[j:],
            ]
        )
    return text


@pytest.mark.parametrize("reader", READERS)
def test_rubbish_is_refused_never_a_crash(reader):
    rng = random.Random(reader)
    seeds = {
        "script": TERN,
        "script of layers": script_of("double-bar"),
        "script of bars": script_of("sluice-hanging"),
        "script of a former": script_of("marsh-ring"),
        "document": document_text(Document(parse_strict(TERN), (tie("T1"),))),
        "ties": "tie,date,units,length,ends,cut,left\nA,2026-01-01,bar=6,12 cm,buoy.a,1 m,20 cm\n",
        "length": "5 ft 3 1/2 in + 12,5 cm",
        "sheet": '<script type="application/x-dim-ladder-document">eyJhIjogMX0=</script>',
    }
    refused = 0
    for _ in range(600):
        text = rubbish(rng, seeds[reader])
        try:
            result = READERS[reader](text)
            if reader.startswith("script"):
                refused += bool(result.problems)
                if not result.problems:
                    trace(result.weave)
                    assert parse_strict(write(result.weave)) == result.weave
        except InputError:
            refused += 1
    assert refused > 100
