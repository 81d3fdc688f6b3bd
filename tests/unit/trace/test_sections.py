"""What a section is by itself, whatever stands before, after, on or beside it."""

import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.trace import Tracer, close, trace
from dim_ladder.trace.roles import on_or_beside, period_of, roles, section_work
from dim_ladder.trace.structure import check_structure
from dim_ladder.trace.turning import turning
from dim_ladder.words.turning import turning_reason
from helpers.invariants import determinant_signature
from helpers.weaves import PLAIT, SPIRAL, TERN, weave_of

FINISHES = [
    "overhand (1)",
    "overhand (4)",
    "snake (2 | 3)",
    "button-two (2 | 3)",
    "2: over 3",
    "half-right (1 | 2 3 | 4)",
]


@pytest.mark.parametrize("item", FINISHES)
@pytest.mark.parametrize("where", ["start", "finish"])
def test_what_is_knotted_before_or_after_does_not_change_what_an_end_is(item, where):
    section = f"section more: {where}\n  {item}\n"
    text = TERN.replace("section end: finish\n  tuck-and-melt (1 | 4)\n", "")
    text = (
        text.replace("section bar", f"{section}\nsection bar") if where == "start" else f"{text}\n{section}"
    )
    found, plain = roles(parse_strict(text)).role_of, roles(parse_strict(TERN)).role_of
    if where == "start" and item.startswith("half"):  # after it the two workers hang at each other's places
        plain = {**plain, "buoy.a": plain["buoy.b"], "buoy.b": plain["buoy.a"]}
    assert found == plain


def test_without_a_body_ends_are_what_they_do():
    weave = parse_strict(TERN.replace("section bar: body, fit pairs", "section bar: start"))
    assert roles(weave).role_of == roles(parse_strict(TERN)).role_of


def test_in_a_section_of_its_own_an_end_is_what_it_does_there():
    weave = parse_strict(f"{TERN}\nsection knob: finish\n  button-two (2 | 3)\n")
    there = roles(weave, "knob").role_of
    assert "filler" not in (there["tide.a"], there["tide.b"])
    assert there["buoy.a"] == there["buoy.b"] == "filler"
    assert roles(weave).role_of["tide.a"] == "filler"


# -- every other unit -------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("every", "both"),
    [
        (["half-right (1 | 2 3 | 4)"], ["half-right (1 | 2 3 | 4)", "half-left (1 | 2 3 | 4)"]),
        (["4: over 3 2", "1: over 2, under 3 4, up 2"], ["4: over 3 2", "1: over 2, under 3 4, up 2", "1: over 2 3", "4: over 3, under 2 1, up 3"]),
        (["half-hitch (1 | 2)"], ["half-hitch (1 | 2)", "half-hitch-left (3 | 4)"]),
    ],
)  # fmt: skip
def test_mirrored_every_other_unit_is_the_mirror_image_at_the_mirrored_places(every, both):
    knots = "knot half-hitch-left = mirror half-hitch\n"
    one = weave_of(4, *every)
    mirrored = parse_strict(
        _text(one).replace("section s: body, fit", "section s: body, fit, mirror every other")
    )
    said = weave_of(4, *both, knots=knots)
    a, b = trace(mirrored, units=2), trace(said, units=1)
    assert a.problems == b.problems == ()
    assert a.names_shown() == b.names_shown()
    assert close(a, [1, 4], "caps").pd == close(b, [1, 4], "caps").pd
    assert determinant_signature(close(a, [1, 4], "caps")) == determinant_signature(close(b, [1, 4], "caps"))


def _text(weave):
    from dim_ladder.notation import write

    return write(weave)


def test_cord_laid_in_is_laid_in_at_the_mirrored_place():
    for count in (2, 3):
        text = _text(weave_of(count, "add k1.b at 1", "drop 1")).replace(
            "body, fit", "body, fit, mirror every other"
        )
        t = trace(parse_strict(text), units=2)
        assert t.problems == ()
        orders = [t.shown(s.order, s.turned) for s in t.steps if s.deed is not None]
        assert orders[0][0] == orders[2][-1] == "k1.b"


def test_two_units_are_one_where_a_unit_leaves_the_work_turned_over():
    once = parse_strict(SPIRAL.replace("(1 | 2 3 | 4)\n", "(1 | 2 3 | 4)\n  turn over\n"))
    assert period_of(once, "bar") == 2
    assert turning(once, "bar").kind == "spiral"  # turned over, a half knot is the same
    twice = parse_strict(SPIRAL.replace("(1 | 2 3 | 4)\n", "(1 | 2 3 | 4)\n  turn over\n  turn over\n"))
    assert period_of(twice, "bar") == 1


def test_two_units_are_one_where_every_other_one_is_mirrored():
    text = SPIRAL.replace("fit pairs", "fit pairs, mirror every other")
    weave = parse_strict(text)
    assert period_of(weave, "bar") == 2
    assert turning(weave, "bar").kind == "flat"
    both, work = section_work(parse_strict(TERN), "bar"), section_work(weave, "bar")
    assert work.period == 2
    assert {e: 2 * n for e, n in work.visits.items()} == pytest.approx(both.visits)
    assert 2 * work.layers == pytest.approx(both.layers)


# -- turning ---------------------------------------------------------------------------------------


def test_turns_that_are_each_others_mirror_image_cancel():
    """Single hitches of two workers, one on either side of a core."""
    knots = "knot hitch-left = mirror half-hitch\n"
    weave = weave_of(3, "half-hitch (1 | 2)", "hitch-left (2 | 3)", knots=knots)
    found = turning(weave, "s")
    assert found.pairs
    assert sum(n for _, n in found.pairs) == 0
    assert found.kind == "flat"
    assert "mirror image" in turning_reason(found)
    # Turns of one hand add up.
    one, twice = (turning(weave_of(3, *["half-hitch (1 | 2)"] * n), "s") for n in (1, 2))
    assert (one.kind, twice.kind) == ("spiral", "spiral")
    assert twice.pairs[0][1] == 2 * one.pairs[0][1] != 0


@pytest.mark.parametrize("many", [4, 6, 8])
def test_a_plait_of_an_even_number_lies_flat_though_its_ends_link(many):
    weave = weave_of(many, f"plait-{many} ({' | '.join(str(k + 1) for k in range(many))})")
    found = turning(weave, "s")
    assert sum(n for _, n in found.pairs) != 0
    assert (found.kind, found.short) == ("woven", "flat")
    assert "every wide plait" in turning_reason(found)


def test_crowns_of_one_hand_make_no_band():
    crown = turning_reason(turning(weave_of(4, "crown-4 (1 | 2 | 3 | 4)"), "s"))
    assert "for a column that does not turn tie the mirrored knot" in crown
    assert "for a flat band tie the mirrored knot" in turning_reason(
        turning(weave_of(4, "half-right (1 | 2 3 | 4)"), "s")
    )


@pytest.mark.parametrize(
    ("many", "lines"),
    [
        (3, ("3: over 2 1",)),  # a rope
        (4, ("4: over 3 2 1", "4: over 3 2 1")),
        (4, ("1: over 2 3 4", "3: under 2 1")),  # two ends wound about a core without a tuck
        (3, ("1: over 2, under 2", "1: over 2, under 2")),
    ],
)
def test_what_is_laid_over_the_same_way_round_all_the_time_turns(many, lines):
    assert turning(weave_of(many, *lines), "s").kind == "spiral"


def test_what_is_led_across_the_width_over_and_under_lies_flat():
    there = "1: over 2, under 3, over 4, under 5, over 6"
    assert turning(weave_of(6, there, "5: over 4, under 3, over 2, under 1"), "s").kind == "woven"
    assert turning(weave_of(5, "1: over 2 3", "5: over 4 3"), "s").kind == "flat"


@pytest.mark.parametrize(
    ("many", "lines"),
    [
        (4, ("snake (1 | 2)", "snake (3 | 4)", "snake (2 | 3)")),
        (
            6,
            (
                "half-hitch (1 | 2)",
                "half-hitch (3 | 4)",
                "half-hitch (5 | 6)",
                "half-hitch (2 | 3)",
                "half-hitch (4 | 5)",
            ),
        ),
        (8, ("half-right (1 | 2 3 | 4)", "half-right (5 | 6 7 | 8)", "half-right (3 | 4 5 | 6)")),
        (4, ("1: over 2, under 2, up own", "3: over 4, under 4, up own", "2: over 3, under 3, up own")),
    ],
)
def test_knots_of_one_hand_that_others_tie_together_are_a_net_and_lie_flat(many, lines):
    found = turning(weave_of(many, *lines), "s")
    assert sum(n for _, n in found.pairs) != 0
    assert (found.kind, found.short) == ("net", "flat")
    assert "net" in turning_reason(found)
    # What hangs beside a net and turns is told to.
    column = f"half-right ({many + 1} | {many + 2} | {many + 3})"
    beside = turning(weave_of(many + 3, *lines, column), "s")
    assert beside.kind == "spiral"
    # Beside each other, and never tied together, each turns.
    assert turning(weave_of(many, *lines[:2]), "s").kind == "spiral"


# -- beside, on, and through what stands above -------------------------------------------------------


def test_layers_and_works_on_other_ends_add_no_length():
    layered = parse_strict(
        TERN.replace("section end: finish\n  tuck-and-melt (1 | 4)\n", "")
        + "section coat: body, layer over bar, same as bar\n  half-right (1 | 2 bar 4 | 5)\n"
    )
    works = roles(layered).sections
    assert on_or_beside(layered, works) == {"coat"}
    two = parse_strict(
        'weave "Two"\ncords\n' + "".join(f"  k{i}  nylon-4mm  #1f6f8b\n" for i in range(6))
        + "hang\n  " + " ".join(f"k{i}.a" for i in range(6))
        + "\nsection left: body, fit\n  plait-3 (1 | 2 | 3)\nsection right: body, same as left\n  plait-3 (4 | 5 | 6)\n"
        + "section all: body, fit\n  1: over 2 3 4 5 6\n"
    )  # fmt: skip
    assert on_or_beside(two, roles(two).sections) == {"right"}
    assert on_or_beside(parse_strict(PLAIT), roles(parse_strict(PLAIT)).sections) == frozenset()


CHAIN = """weave "Gull Chain"
cords
  line  cotton-3mm  #c49a36
hang
  line.a
section begin: start
  1: over own left @link
section links: body, fit
  1: bight up @link @link
section lock: finish
  1: up @link
"""


def test_work_through_a_loop_made_before_it_is_counted_in_its_place():
    weave = parse_strict(CHAIN)
    assert trace(weave, section="links", units=1).problems  # not by itself
    work = section_work(weave, "links")
    assert work.moves == {"line.a": 1.0}
    assert work.visits["line.a"] > 0
    assert work.layers > 0
    # The same however much of it there is.
    more = section_work(parse_strict(CHAIN.replace("body, fit", "body, repeat 9")), "links")
    assert more.visits == work.visits


def test_a_section_of_free_cord_alone_takes_cord_and_length():
    weave = parse_strict(f"{TERN}\nsection gap: body\n  span 500 mm\n")
    work = section_work(weave, "gap")
    assert work.span == 500
    assert set(work.slack.values()) == {500.0}
    assert not any(work.visits.values())


def test_the_second_of_a_pair_has_loops_of_its_own():
    both = [trace(weave_of(4, "3+4: over 2", f"1: over 2 3, under 4, up {k}")) for k in (2, 3)]
    assert [t.problems for t in both] == [(), ()]
    # Through the loop of one or of the other is another way: not the same crossings.
    assert both[0].crossings != both[1].crossings
    assert all(check_structure(t) == [] for t in both)


def test_work_that_is_turned_at_the_head_of_a_section_is_turned_once():
    """Units after the first go on where the first one was tied, at the same end of the work."""
    text = """weave "Two Halves"
cords
  a  cotton-3mm  #744a9e
  b  cotton-3mm  #888a8c
hang on cold-start
  a.a b.a
section right: body, fit
  half-hitch (1 | 2)
section left: body, same as right
  {head}
  half-hitch (1 | 2)
"""

    def led(head):
        t = Tracer().trace(parse_strict(text.format(head=head)), counts={"right": 3, "left": 3})
        assert not t.problems
        return [t.ends[s.end] for s in t.steps if s.hops and s.op.section == 1]

    assert led("rotate") == 3 * ["b.b"]
    assert led("rotate\n  span 20 mm") == 3 * ["b.b"]
    # Said again after the knot, it is meant every time.
    assert led("rotate\n  half-hitch (1 | 2)\n  rotate") == 3 * ["b.b", "a.a"]
