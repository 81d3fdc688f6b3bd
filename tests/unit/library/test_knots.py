"""Every knot that ships: its known invariant by a foreign library, its words in three schools, its pictures."""

import itertools
import math

import pytest
import spherogram

from dim_ladder.library import VOCABULARIES, library_knots
from dim_ladder.notation import Cross, Former, Section, Step, Weave
from dim_ladder.picture.diagrams import step_picture
from dim_ladder.picture.display import Disc
from dim_ladder.trace import check_structure, close, linking, permutation, solve_knot, trace
from dim_ladder.trace.diagram import Tangle, close_tangle, tangle
from dim_ladder.trace.former import former_work
from dim_ladder.trace.holds import hold
from dim_ladder.trace.reduce import simplified
from dim_ladder.words.holding import hold_sentence
from dim_ladder.words.sentences import words_for
from helpers.invariants import determinant_signature, link, seifert_numbers
from helpers.space import closed_round, projected
from helpers.weaves import weave_of

NAMES = [k.name for k in library_knots()]
BEFORE = {"chain-link": ["chain-begin (1)"], "chain-lock": ["chain-begin (1)", "chain-link (1)"]}


def tied(name, fillers=2, *more, units=1):
    """One of the knot, on ends in order; `fillers` for a place that takes what is left over."""
    groups, at = [], 1
    for p in solve_knot(Weave(""), name).params:
        width = fillers if p.rest else 1
        groups.append(" ".join(str(at + i) for i in range(width)))
        at += width
    call = f"{name} ({' | '.join(groups)})"
    t = trace(weave_of(at - 1, *BEFORE.get(name, []), call, *more), units=units)
    assert t.problems == ()
    assert check_structure(t) == []
    return t


def closed(t, keep=None, how="braid"):
    found = close(t, keep, how)
    return determinant_signature(found) if found.pd else (1, 0)


# Knots of one end, by name: trefoil, cinquefoil, figure-eight, the torus knots of two strands, and the unknot.
ONE_END = {
    "overhand": (3, 2), "stopper": (5, 4), "figure-eight": (5, 0), "coil-3": (7, 6), "coil-5": (11, 10),
    "slip": (1, 0), "butterfly": (1, 0), "chain-begin": (1, 0), "chain-link": (1, 0),
}  # fmt: skip


@pytest.mark.parametrize("name", ONE_END)
def test_knots_of_one_end(name):
    d, s = closed(tied(name))
    assert (d, abs(s)) == ONE_END[name]


def test_a_locked_chain_is_a_knot_that_one_tuck_undoes():
    t = tied("chain-lock")
    assert closed(t)[0] > 1
    assert hold(t).tucks == 1


# Half knots over fillers, the fillers taken out and the workers joined: a trefoil for each, turned the other way for
# the other side. The determinant of a sum is the product, the signature the sum.
@pytest.mark.parametrize(
    ("name", "determinant", "signature"),
    [("half-right", 3, 2), ("half-left", 3, 2), ("square", 9, 0), ("square-lock", 27, 2)],
)
@pytest.mark.parametrize("fillers", [1, 2, 5])
def test_half_knots(name, determinant, signature, fillers):
    d, s = closed(tied(name, fillers), [1, 2 + fillers], "caps")
    assert (d, abs(s)) == (determinant, signature)


# Turns of a worker about a runner, in signed crossings: two a full turn.
@pytest.mark.parametrize(
    ("name", "turns"),
    [
        ("half-hitch", 2), ("half-hitch-behind", 2), ("cow-hitch", 0), ("cow-hitch-behind", 0),
        ("larks-head", 0), ("larks-head-behind", 0), ("wrap-3", 6), ("wrap-5", 10), ("overhand-round", 2),
        ("double-hitch-right", 5), ("double-hitch-left", 5), ("upright-hitch-right", 5), ("upright-hitch-left", 5),
        ("bar-right", 5), ("bar-left", 5),
    ],
)  # fmt: skip
def test_turns_about_a_runner(name, turns):
    t = tied(name)
    found = linking(t)
    runner = t.hung - 1 if name in ("bar-left", "double-hitch-left") else 0
    assert {abs(found.get((min(runner, e), max(runner, e)), 0)) for e in range(t.hung) if e != runner} == {
        turns
    }


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("half-right", "half-left"), ("double-hitch-right", "double-hitch-left"), ("bar-right", "bar-left"),
        ("upright-hitch-right", "upright-hitch-left"), ("wall-3", "crown-3"), ("wall-4", "crown-4"),
        ("half-hitch", "half-hitch-behind"), ("plait-right", "plait-left"),
    ],
)  # fmt: skip
def test_mirror_images_turn_the_other_way(one, other):
    a, b = linking(tied(one)), linking(tied(other))
    assert sorted(a.values()) == sorted(-n for n in b.values())


@pytest.mark.parametrize(
    ("name", "alone", "both", "real"),
    [
        # Each end through the other: closed, the two come apart no more, though they do not turn about each other.
        ("double-connection", [3, 3], 48, 12),
        # One below the other: closed, they are two rings that fall apart.
        ("hitch-chain", [1, 1], 0, 6), ("overhand-chain", [3, 3], 0, 10),
    ],
)  # fmt: skip
def test_chains_of_two_ends(name, alone, both, real):
    t = tied(name)
    assert [closed(t, [e])[0] for e in (1, 2)] == alone
    assert linking(t) == {}
    assert closed(t, [1, 2])[0] == both
    assert simplified(tangle(t)).crossings == real
    assert permutation(t) == (1, 2)


def test_each_end_of_a_snake_passes_through_the_loop_of_the_other_in_turn():
    """Five crossings, over and under by turns, none to spare; the ends change places. One after the other turns, and with
    its mirror image it does not."""
    t = tied("snake")
    assert simplified(tangle(t)).crossings == 5
    assert permutation(t) == (2, 1)
    assert closed(t, None, "caps") == (7, -2)
    assert [closed(tied("snake", units=2), [e])[0] for e in (1, 2)] == [1, 1]
    assert linking(tied("snake", units=2)) == {(0, 1): 10}
    both = trace(weave_of(2, "snake (1 | 2)", "snake-left (1 | 2)"), units=1)
    assert linking(both) == {}


def test_a_double_connection_is_two_overhands_of_the_same_hand():
    assert len({closed(tied("double-connection"), [e]) for e in (1, 2)}) == 1
    assert len({closed(tied("overhand-chain"), [e]) for e in (1, 2)}) == 2


def test_half_knots_round_nothing():
    """One is a trefoil's half, two alike a granny, one of each a reef: by the trefoils in them."""
    assert closed(tied("half-knot-right"), None, "caps") in ((3, 2), (3, -2))
    assert closed(tied("reef"), None, "caps") == (9, 0)
    granny = trace(weave_of(2, "half-knot-right (k1.a | k2.a)", "half-knot-right (k2.a | k1.a)"), units=1)
    d, s = closed(granny, None, "caps")
    assert (d, abs(s)) == (9, 4)


def test_the_flat_mat_is_the_turks_head_of_three_leads_and_four_bights():
    assert closed(tied("carrick-mat"), None, "caps") == (45, 0)
    assert simplified(tangle(tied("carrick-mat"))).crossings == len(tied("carrick-mat").crossings) == 8


def test_a_diamond_whose_loop_is_drawn_in_is_a_button():
    """The two ends joined, and the fold they hang from drawn in: the same knot as the button, found another way."""
    t = tied("diamond-2")
    d, s = closed(t, None, "caps")
    assert (d, abs(s)) == (75, 2)
    assert closed(t, [1]) == closed(t, [2]) == (1, 0)
    found = close_tangle(simplified(tangle(t)), list(t.start), "caps")
    fewest = 99
    for _ in range(12):  # the other library looks for short cuts at random
        same = link(found)
        same.simplify("global")
        fewest = min(fewest, len(same.crossings))
    assert fewest == 9
    assert hold(t).loose == ()


def diamond_in_space(count):
    """A diamond of `count` ends as makers of rope work describe it, with no use of the language: round a rod, every
    end turns up beside its standing part, runs outside the next end and down through the bight of the one after.

    Returns the strands as points in space, and at which place (from 0) each of them leaves."""

    def on_rod(at, r, z):
        turn = (at - (count - 1) / 2) * math.tau / count
        return (r * math.sin(turn), -r * math.cos(turn), z)

    def in_row(at, z):  # opened at the back and laid flat
        return (at * 0.8, -2.0, z)

    strands, leave = [], []
    for i in range(count):
        bight = [
            on_rod(i, 1, 6),
            on_rod(i, 1, -1),
            on_rod(i, 1.5, -1.3),
            on_rod(i + 0.1, 2, -1),
            on_rod(i + 0.1, 2, 3),
        ]
        run = [on_rod(i + 0.1 + k / 10, 3, 3 - k / 10) for k in range(1, 16)]
        tuck = [(1.9, 1), (2.1, 0.8), (2.3, 0.5), (2.5, -3)]
        place = round((i + 2.5) % count - 0.5)
        inside = [on_rod(i + at, 1.5, z) for at, z in tuck]
        strands.append([in_row(i, 9), *bight, *run, *inside, in_row(place, -6)])
        leave.append(place)
    return strands, leave


def test_the_diamond_of_four_is_the_one_that_makers_describe():
    """All fifteen ways to keep some of its ends and to close them give the same link as the cords laid in space."""
    t = tied("diamond-4")
    strands, leave = diamond_in_space(4)
    assert [p - 1 for p in permutation(t)] == leave
    for count in (1, 2, 3, 4):
        for keep in itertools.combinations(range(4), count):
            curves = closed_round(strands, leave, keep)
            assert closed(t, [e + 1 for e in keep]) == seifert_numbers(projected(curves))
    assert closed(t)[0] == 28
    assert hold(t).loose == ()
    assert hold(t).tucks > 0


def test_the_butterfly_is_tied_in_the_middle_of_a_cord_and_is_two_overhands_where_its_loop_is_cut():
    t = tied("butterfly")
    whole = tangle(t)
    assert simplified(whole).crossings == 0  # no tip was needed to tie it
    (loop,) = [p for p in t.steps[0].placed if p.kind == "leave"]
    assert loop.mm == 60
    walk = whole.walks[0]
    cut = len(walk) // 2
    halves = Tangle([walk[:cut], walk[cut:]], whole.from_right, [0, 1], [0, 1], whole.fresh)
    one, other = (determinant_signature(close_tangle(halves, [e])) for e in (0, 1))
    assert one[0] == other[0] == 3
    assert one[1] == -other[1]
    assert "standing loop" in hold_sentence(t, hold(t))


def test_buttons_are_the_flat_weave_of_four_leads_and_three_bights():
    """Nine crossings, woven over and under in turn: the work of 4 leads and 3 bights cut open."""
    ring = former_work(Section("ring", "body", former=Former(4, 3)))
    known = determinant_signature(ring.closed())
    for name, how in (("button", "braid"), ("button-two", "caps")):
        t = tied(name)
        d, s = closed(t, None, how)
        assert (d, abs(s)) == (known[0], abs(known[1])) == (75, 2)
        assert simplified(tangle(t)).crossings == len(t.crossings) == ring.crossings == 9


def test_the_chain_of_two_does_not_turn():
    assert linking(tied("hitch-chain", units=3)) == {}


def test_three_overhands_each_round_the_others():
    t = tied("walker-3")
    assert [closed(t, [e])[0] for e in (1, 2, 3)] == [3, 3, 3]
    assert len(set(linking(t).values())) == 1
    assert len(linking(t)) == 3


@pytest.mark.parametrize(("name", "count"), [("wall-3", 3), ("crown-3", 3), ("wall-4", 4), ("crown-4", 4)])
def test_walls_and_crowns_pass_every_end_on_and_lock_them_with_one_tuck(name, count):
    t = tied(name)
    assert permutation(t) == (*range(2, count + 1), 1)
    assert hold(t).tucks == 1
    assert hold(t).loose == ()


def test_walls_and_crowns_upon_each_other_bring_the_ends_round():
    assert permutation(tied("round-button")) == (1, 2, 3)
    assert permutation(tied("crown-wall-4")) == (3, 4, 1, 2)
    assert hold(tied("round-button")).tucks == 3


def braid_word(name):
    """The plait as a braid word, from its script alone: which neighbours change places, and who is in front."""
    knot = solve_knot(Weave(""), name)
    order = [p.name for p in knot.params]
    word = []
    for step in knot.steps:
        assert isinstance(step, Step)
        for hop in step.hops:
            assert isinstance(hop, Cross)
            for ref in hop.refs:
                i, j = order.index(step.end), order.index(ref)
                assert abs(i - j) == 1
                order[i], order[j] = order[j], order[i]
                # A generator has the strand that goes to the right in front, or behind.
                word.append((min(i, j) + 1) * (1 if (j > i) == hop.over else -1))
    return word


@pytest.mark.parametrize(
    "name", [n for n in NAMES if n.startswith(("plait-", "round-")) and n != "round-button"]
)
def test_plaits_are_the_closed_braids_of_their_crossings(name):
    for units in (2, 3):
        t = tied(name, units=units)
        ours = close(t)
        theirs = spherogram.Link(braid_closure=braid_word(name) * units)
        assert ours.components - ours.bare == len(
            theirs.link_components
        )  # it leaves out what crosses nothing
        if ours.bare == 0:
            d, s = determinant_signature(ours)
            assert (d, abs(s)) == (seifert_numbers(theirs)[0], abs(seifert_numbers(theirs)[1]))


@pytest.mark.parametrize(
    ("name", "cycle"), [("plait-3", 3), ("plait-4", 4), ("round-4", 2), ("round-6", 3), ("round-8", 4)]
)
def test_round_plaits_keep_two_sides_and_flat_ones_take_every_place(name, cycle):
    perm = permutation(tied(name))
    at, n = perm, 1
    while at != tuple(range(1, len(perm) + 1)):
        at, n = tuple(perm[p - 1] for p in at), n + 1
    assert n == cycle


@pytest.mark.parametrize("name", NAMES)
def test_every_knot_has_its_words_and_its_pictures(name):
    t = tied(name)
    for voice in VOCABULARIES:
        said = words_for(t, voice)
        name_said = VOCABULARIES[voice].knot(name).lower()
        assert any(w.heading.lower().split(": ")[0] == name_said for w in said)
        assert all(w.sentence[0].isupper() for w in said)
    plain, macrame = (" ".join(w.sentence for w in words_for(t, v)) for v in ("plain", "macrame"))
    assert plain != macrame
    for i, s in enumerate(t.steps):
        picture = step_picture(t, i)
        labels = [x for x in picture.shapes if isinstance(x, Disc) and x.tag == "label"]
        assert len(labels) == len(s.order)
        for a, b in itertools.combinations(labels, 2):
            assert abs(a.x - b.x) >= a.r + b.r or abs(a.y - b.y) >= a.r + b.r
        assert all(x.x - x.r >= 0 and x.x + x.r <= picture.width for x in labels)
        assert any(x.tag == "arrow" for x in picture.shapes)


def test_about_forty_knots_ship():
    assert len(NAMES) == len(set(NAMES)) >= 40
