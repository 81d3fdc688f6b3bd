"""Work on a round former against closed braids, by a library that is not ours."""

import math
from itertools import pairwise

import pytest
import spherogram

from dim_ladder.base import InputError
from dim_ladder.calibrate import Reading, Tie, calibrate
from dim_ladder.calibrate.rings import rings_for
from dim_ladder.commands.checks import check_section
from dim_ladder.notation import Former, Section, Widen, parse_strict, write
from dim_ladder.picture.former import flat_picture, round_picture
from dim_ladder.scale import Plan, solve
from dim_ladder.trace import euler_characteristic
from dim_ladder.trace.former import cover, former_diameter, former_work, strand_length
from dim_ladder.words.former import called_out, run_words, widen_sentence
from helpers.invariants import determinant_signature, link, seifert_numbers


def ring(leads, bights, *items, code=(1, 1), **more):
    return Section("s", "body", former=Former(leads, bights, code, **more), items=tuple(items))


def work(*args, **more):
    return former_work(ring(*args, **more))


def called(*args, **more):
    """What is called out: half cycle (from 0, or -1) and words."""
    return [(c.run, c.text) for c in called_out(ring(*args, **more))]


@pytest.mark.parametrize(("leads", "bights", "determinant"), [(3, 2, 5), (3, 3, 16), (3, 4, 45), (3, 5, 121)])
def test_turks_heads_of_three_leads(leads, bights, determinant):
    closed = work(leads, bights).closed()
    assert closed.components == math.gcd(leads, bights) == len(link(closed).link_components)
    assert determinant_signature(closed)[0] == determinant


@pytest.mark.parametrize("leads", range(2, 7))
@pytest.mark.parametrize("bights", range(2, 7))
def test_over_and_under_in_turn_is_the_closed_alternating_braid(leads, bights):
    closed = work(leads, bights).closed()
    word = [(i + 1) * (1 if i % 2 == 0 else -1) for i in range(leads - 1)] * bights
    assert len(closed.pd) == (leads - 1) * bights
    assert euler_characteristic(closed.pd) == (2, 1)
    assert determinant_signature(closed)[0] == seifert_numbers(spherogram.Link(braid_closure=word))[0]


@pytest.mark.parametrize(("leads", "bights"), [(5, 8), (7, 4), (6, 9), (13, 21)])
def test_what_is_called_out_is_what_was_laid_before_and_every_crossing_is_called_once(leads, bights):
    w = work(leads, bights)
    runs = w.half_cycles()
    assert len(runs) == 2 * bights
    assert len({r.strand for r in runs}) == w.strands
    assert sum(len(w.calls(r.number)) for r in runs) == w.crossings
    seen = {}
    for r in runs:
        for m in w.meetings(r):
            seen.setdefault((m.x, m.y), []).append((r.number, m.other, m.over))
    for (a, other_a, over_a), (b, other_b, over_b) in seen.values():
        assert (other_a, other_b) == (b, a)
        assert over_a != over_b
    assert "free" in called(leads, bights)[0][1]


def test_four_leads_three_bights_as_a_maker_calls_it():
    said = called(4, 3)
    assert [said[i][1] for i in (1, 3, 5)] == [
        "Back to the near edge: under 1.",
        "Back to the near edge: over 1, under 1.",
        "Back to the near edge: under 1, over 1, under 1.",
    ]
    assert run_words([True, True, False]) == "over 2, under 1"


@pytest.mark.parametrize("columns", [False, True])
def test_codings_by_rows_and_by_columns_are_planar_and_kept_along_their_line(columns):
    w = work(6, 6, code=(2, 1), columns=columns)
    assert euler_characteristic(w.closed().pd)[0] == 2 * euler_characteristic(w.closed().pd)[1]
    over = {}
    for r in w.half_cycles():
        if r.up:
            for m in w.meetings(r):
                over.setdefault(m.x % 3 if columns else m.y, set()).add(m.over)
    assert all(len(kinds) == 1 for kinds in over.values())
    assert {k for kinds in over.values() for k in kinds} == {True, False}


def test_a_coding_that_does_not_come_round_is_refused_with_the_number_that_would():
    with pytest.raises(InputError, match="does not come round") as e:
        work(5, 4, code=(3, 2), columns=True)
    assert "8 columns" in e.value.hint


def test_following_doubles_every_strand():
    w = work(5, 4, Widen("follow"))
    closed = w.closed()
    assert len(closed.pd) == 4 * 16 == w.crossings
    assert closed.components == 2
    assert euler_characteristic(closed.pd) == (2, 1)
    single = determinant_signature(work(5, 4).closed())[0]
    # Both passes are the same knot; with one taken out, the other is left.
    labels = link(closed)
    assert seifert_numbers(labels.sublink([0]))[0] == single == seifert_numbers(labels.sublink([1]))[0]


def test_raising_by_parting_the_pairs_adds_two_leads_and_two_bights():
    w = work(4, 3, Widen("follow"), Widen("split"))
    assert (w.leads, w.bights, w.passes, w.raised) == (6, 5, 1, 1)
    assert work(4, 3, Widen("raise", times=2)).closed().pd == work(8, 7).closed().pd
    with pytest.raises(InputError, match="no pairs"):
        work(4, 3, Widen("split"))
    with pytest.raises(InputError, match="none of them can raise it"):
        work(3, 9, Widen("raise"))


@pytest.mark.parametrize(
    ("leads", "bights"), [(p, b) for p in range(2, 9) for b in range(2, 20) if math.gcd(p, b) == 1]
)
def test_any_work_of_one_strand_goes_on_from_where_it_is_whole(leads, bights):
    """Not only leads and bights that differ by one: what is laid first is the smaller work, and one strand makes it all."""
    small, large = work(leads, bights), work(leads, bights, Widen("raise"))
    assert large.strands == 1
    assert large.first == 2 * bights
    assert (large.leads - leads, large.bights - bights) == large.step
    for run in small.half_cycles()[:-1]:
        assert [(m.other, m.over) for m in large.calls(run.number)] == [
            (m.other, m.over) for m in small.calls(run.number)
        ]
    said = [text for _, text in called(leads, bights, Widen("raise", times=2))]
    assert sum("To raise it the end goes on" in text for text in said) == 2
    assert f"{leads + 2 * large.step[0]} leads and {bights + 2 * large.step[1]} bights" in " ".join(said)


def test_its_cord_grows_with_the_girth_it_lies_on():
    text = 'weave "R"\ncords\n  a  nylon-2mm  #1f6f8b\nhang on former\n  a.a\nsection r: body, on former, leads 4 bights 13\n'
    weave = parse_strict(text)
    c = calibrate(weave, ())
    cuts = [solve(weave, c, Plan(size_mm=mm, ease_mm=0)).cuts[0] for mm in (60, 120, 180)]
    more = [b.cut_mm - a.cut_mm for a, b in pairwise(cuts)]
    assert more[0] == pytest.approx(more[1], abs=21)
    assert cuts[0].cut_mm > 4 * 60
    # A ring that was tied counts its cord, on the former it was tied on; without its girth it says nothing.
    took = 1.3 * (c.need("a.a", {"r": 1}).median - 30) * rings_for(60, c.prior.rise_mm) + 30
    tied = Tie(id="T1", length_mm=60, readings=(Reading(ends=("a.a",), cut_mm=2000, left_mm=2000 - took),))
    d = calibrate(weave, (tied,))
    assert d.need("a.a", {"r": 1}).median == pytest.approx(1.3 * c.need("a.a", {"r": 1}).median, rel=0.1)
    assert d.need("a.a", {"r": 1}).sd < 0.7 * c.need("a.a", {"r": 1}).sd
    assert (
        "how far round its former"
        in calibrate(weave, (tied.model_copy(update={"length_mm": None}),)).left_out[0]
    )
    assert "roughly" in dict(check_section(parse_strict(text), "r", 170).notes)["former"]


def test_it_is_raised_to_as_many_leads_as_are_asked_for():
    grown = work(4, 13, Widen("raise", leads=6))
    assert (grown.leads, grown.bights, grown.strands) == (6, 19, 1)
    assert grown.closed().pd == work(6, 19).closed().pd
    herringbone = work(4, 13, Widen("raise", leads=6), code=(2, 2))
    assert herringbone.closed().pd == work(6, 19, code=(2, 2)).closed().pd
    assert "full size" in called(4, 13, Widen("raise", leads=6), code=(2, 2))[0][1]
    with pytest.raises(InputError, match="They come to 6 leads and 19 bights, 8 leads and 25 bights"):
        work(4, 13, Widen("raise", leads=7))
    text = 'weave "R"\ncords\n  a  nylon-2mm  #1f6f8b\nhang on former\n  a.a\nsection r: body, on former, leads 4 bights 13\n  raise to leads 6\n'
    weave = parse_strict(text)
    assert parse_strict(write(weave)) == weave
    assert former_work(weave.sections[0]) == grown


@pytest.mark.parametrize("bights", range(2, 9))
@pytest.mark.parametrize("more", [-1, 1])
@pytest.mark.parametrize("times", [1, 2])
def test_raised_work_begins_with_the_work_it_was_raised_from(bights, more, times):
    """The first half cycles are those of the smaller work, crossing for crossing; four more come with every time."""
    small, large = work(bights + more, bights), work(bights + more, bights, Widen("raise", times=times))
    assert large.first == 2 * bights == len(small.half_cycles())
    assert len(large.half_cycles()) == 2 * bights + 4 * times
    for run in small.half_cycles()[:-1]:
        met = {m.other: m.over for m in large.calls(run.number)}
        assert met == {m.other: m.over for m in small.calls(run.number)}
        assert [m.over for m in large.calls(run.number)] == [m.over for m in small.calls(run.number)]
    # The last one passes the beginning, instead of ending in it, and so lies on its other side.
    last = 2 * bights - 1
    extra = {m.other for m in large.calls(last)} - {m.other for m in small.calls(last)}
    assert extra == {0} if more < 0 else not extra


def test_raising_is_called_out_where_it_begins_and_every_new_half_cycle_between_which_it_lies():
    said = called(4, 3, Widen("raise", times=2))
    assert [run for run, _ in said] == [*range(6), -1, *range(6, 10), -1, *range(10, 14)]
    assert said[6][1].startswith("That is 4 leads and 3 bights.")
    assert said[6][1].endswith("6 leads and 5 bights.")
    assert said[11][1].endswith("8 leads and 7 bights.")
    assert "between the ways up from bights 3 and 1: " in said[7][1]
    assert "between the ways back after bights 1 and 3: " in said[8][1]
    # The same in the words of pairs: the following is not said apart from its parting.
    assert called(4, 3, Widen("follow"), Widen("split")) == called(4, 3, Widen("raise"))
    assert called(4, 3, Widen("raise"), Widen("follow"))[-1] == (-1, widen_sentence(Widen("follow")))
    other = called(4, 3, Widen("raise"), code=(2, 2))
    assert "full size" in other[0][1]
    assert [run for run, _ in other] == list(range(-1, 10))


def test_former_and_cover():
    assert former_diameter(math.pi * 50) == pytest.approx(50)
    assert former_diameter(150, 10) == pytest.approx(160 / math.pi)
    # Two strands at 45 degrees cover each other twice over when the band is closed: length from the area.
    ring = work(5, 8)
    assert strand_length(ring, 50, 4) == pytest.approx(5 * math.sqrt(2) * math.pi * 58)
    assert strand_length(work(6, 9), 50, 4) == pytest.approx(6 * math.sqrt(2) * math.pi * 58 / 3)
    thin, thick = (cover(work(5, 8, Widen("follow", times=n)), 30, 2) for n in (1, 2))
    assert thin < thick <= 1
    with pytest.raises(InputError):
        former_diameter(0)


def test_the_script_of_a_former_is_read_and_written():
    text = (
        'weave "Ring"\n\ncords\n  tide  nylon-4mm  #1f6f8b\n\n'
        "section ring: body, on former, leads 5 bights 8, code under 2 over 1\n  follow right repeat 2\n"
    )
    weave = parse_strict(text)
    assert parse_strict(write(weave)) == weave
    w = former_work(weave.sections[0])
    assert (w.passes, w.over_rows) == (3, (False, False, True, False))


def test_pictures_show_every_crossing_and_mark_the_run_in_hand():
    w = work(4, 3)
    whole = flat_picture(w, ["#1f6f8b"])
    gaps = [s for s in whole.shapes if s.tag == "gap"]
    assert len(gaps) >= w.crossings
    part = flat_picture(w, ["#1f6f8b"], 3, focus=True)
    assert sum(s.tag == "arrow" for s in part.shapes) == 1
    assert len([s for s in part.shapes if s.tag == "gap"]) < len(gaps)
    ring = round_picture(w, ["#1f6f8b"])
    assert len([s for s in ring.shapes if s.tag == "gap"]) == w.crossings
