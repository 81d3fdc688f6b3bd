"""Properties over the whole language: what is written reads back, every trace is a sound planar diagram."""

import itertools
import math
import random
from dataclasses import replace

import pytest

from dim_ladder.notation import parse_strict, write
from dim_ladder.picture.diagrams import diagram, step_picture
from dim_ladder.picture.display import Disc
from dim_ladder.trace import check_structure, close, euler_characteristic, trace
from dim_ladder.trace.solved import Solved, derived
from dim_ladder.words.gather import gathered
from dim_ladder.words.sentences import step_sentence, words_for
from helpers.sizes import sized
from helpers.weaves import weave_of
from helpers.wild import wild_weave


@pytest.mark.parametrize("seed", range(sized(120, 1200)))
def test_every_step_leaves_a_sound_diagram_and_reads_back(seed):
    weave = wild_weave(random.Random(seed).randint)
    assert parse_strict(write(weave)) == weave
    section = weave.sections[0]
    for n in range(len(section.items) + 1):
        t = trace(replace(weave, sections=(replace(section, items=section.items[:n]),)))
        assert t.problems == ()
        assert check_structure(t) == []
    for i, s in enumerate(t.steps):
        assert step_sentence(t, i).strip()
        if s.hops:
            picture = step_picture(t, i)
            assert picture.width > 0
            assert picture.height > 0
            labels = [x for x in picture.shapes if isinstance(x, Disc) and x.tag == "label"]
            assert len(labels) == len(s.order)
            for a, b in itertools.combinations(labels, 2):
                assert math.hypot(a.x - b.x, a.y - b.y) >= a.r + b.r - 1e-6  # some hang lower than others
    assert len(words_for(t)) == len(t.steps)
    # What is led is told over several lines; all else is said once or less.
    told = gathered(t)
    assert len({line.step for line in told}) <= len(t.steps)
    assert all(line.hops is not None for line in told if line.step in [x.step for x in told if x is not line])


@pytest.mark.parametrize("seed", range(1000, 1120))
def test_work_of_the_same_ends_closes_to_a_planar_diagram(seed):
    weave = wild_weave(random.Random(seed).randint, whole=False)
    t = trace(weave)
    closed = close(t)
    if closed.pd:
        characteristic, parts = euler_characteristic(closed.pd)
        assert characteristic == 2 * parts
        labels = sorted(label for c in closed.pd for label in c)
        assert labels == sorted(list(range(1, 2 * len(closed.pd) + 1)) * 2)
    if t.steps:
        picture = diagram(t, 0, len(t.steps) - 1)
        assert sum(isinstance(x, Disc) and x.tag == "label" for x in picture.shapes) == len(t.order)


@pytest.mark.parametrize("seed", range(2000, 2060))
@pytest.mark.parametrize("how", ["mirror", "flip", "turn"])
def test_a_knot_turned_twice_is_the_knot(seed, how):
    weave = wild_weave(random.Random(seed).randint, whole=False)
    steps = tuple(i for i in weave.sections[0].items)
    knot = Solved("k", (), steps)
    assert derived(derived(knot, how), how) == knot


@pytest.mark.parametrize("count", [3, 4, 6])
def test_many_units_of_wild_work_stay_sound(count):
    tried = 0
    for seed in range(30):
        weave = wild_weave(random.Random(seed + 5000 * count).randint, whole=False)
        t = trace(weave, counts={"s": count}) if weave.sections[0].items else None
        if t is not None:
            assert check_structure(t) == []
            tried += not t.problems
    assert tried > 5


def test_a_step_that_fails_leaves_nothing_behind():
    """Every refusal on the way takes back all it had drawn: what follows is as if it had not been tried."""
    for seed in range(60):
        rng = random.Random(seed + 777)
        weave = wild_weave(rng.randint, whole=False)
        bad = weave_of(2, "1: over 2, up @nowhere")
        item = bad.sections[0].items[0]
        section = weave.sections[0]
        spoiled = replace(section, items=(*section.items, item))
        both = trace(replace(weave, sections=(spoiled,)))
        alone = trace(weave)
        assert both.problems
        assert (both.crossings, both.paths, both.order) == (alone.crossings, alone.paths, alone.order)
