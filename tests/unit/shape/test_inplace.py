"""Chains of bights, which pass loops made above them, as cells: by a library that is not ours, and by what mirrors must do."""

import numpy as np
import pytest
import spherogram

from dim_ladder.base import InputError
from dim_ladder.calibrate import calibrate, prior_for
from dim_ladder.notation import parse_strict
from dim_ladder.scale import Plan, solve
from dim_ladder.shape import tight
from dim_ladder.shape.inplace import laid_out
from dim_ladder.shape.recurring import placed, rolled
from dim_ladder.trace import trace
from dim_ladder.trace.after import as_few
from helpers.invariants import seifert_numbers
from helpers.space import in_a_ring, projected

HEAD = """weave "Chain Cord"
cords
  line  nylon-3mm  #c22f2b
  core  nylon-3mm  #1f6f8b
  mate  nylon-3mm  #3f7a4a
hang
  {ends}
section begin: start
  {begin}
section links: body, fit
  {link}
"""
CHAIN = HEAD.format(
    ends="line.a", begin="line.a: over own left @k, bight up @k @k", link="line.a: bight up @k @k"
)
RIGHT = CHAIN.replace("own left", "own right")
BEHIND = CHAIN.replace("over own", "under own").replace("bight up", "bight down")
CORED = HEAD.format(
    ends="line.a core.a", begin="line.a: over core.a @k, under core.a\n  line.a: over core.a, bight up @k @k",
    link="line.a: over core.a, under core.a, bight up @k @k",
)  # fmt: skip
TWO = HEAD.format(
    ends="line.a mate.a", begin="line.a: over own left @k\n  mate.a: bight up @k @m",
    link="line.a: bight up @m @k\n  mate.a: bight up @k @m",
)  # fmt: skip
TWO_CORED = HEAD.format(
    ends="line.a core.a mate.a", begin="line.a: over core.a, under core.a @k\n  mate.a: bight up @k @m",
    link="line.a: over core.a, under core.a, bight up @m @k\n  mate.a: bight up @k @m",
)  # fmt: skip
WORKS = {
    "chain": CHAIN,
    "right": RIGHT,
    "behind": BEHIND,
    "cored": CORED,
    "two": TWO,
    "two, cored": TWO_CORED,
}


def unrolled(text):
    weave = parse_strict(text)
    t = placed(weave, "links")
    return t, rolled(t, "links")


def closed_diagram(d, units):
    """So many units of a diagram that repeats, every strand closed from its foot to its top: for the foreign library."""
    label, under, over = 0, {}, {}
    for walk in d.walks:
        passages = [(c, u + off, o) for u in range(units) for c, off, o in walk]
        first = label + 1
        for i, (c, u, o) in enumerate(passages):
            a = first + i
            z = a + 1 if i + 1 < len(passages) else first
            (over if o else under)[c, u % units] = (a, z)
        label += len(passages)
    pd = []
    for key, (a, z) in under.items():
        b, y = over[key]
        pd.append([a, b, z, y] if d.from_right[key[0]] else [a, y, z, b])
    return spherogram.Link(pd)


@pytest.mark.parametrize(
    ("name", "crossings"),
    [("chain", 3), ("right", 3), ("behind", 3), ("cored", 6), ("two", 8), ("two, cored", 10)],
)
def test_a_unit_is_found_among_others_like_it(name, crossings):
    _, d = unrolled(WORKS[name])
    assert len(d.from_right) == crossings
    assert sum(map(len, d.walks)) == 2 * crossings


# A chain of two alone, bent round to a ring, is no link at all: it slips.
@pytest.mark.parametrize("name", [w for w in WORKS if w != "two"])
@pytest.mark.parametrize("units", [2, 3])
def test_laid_out_and_pulled_it_is_the_link_that_was_traced(name, units):
    """A ring of so many units, from the diagram, as it is laid out, and pulled tight: a library that is not ours."""
    t, d = unrolled(WORKS[name])
    known = seifert_numbers(closed_diagram(d, units))
    assert known != (1, 0)
    cell = laid_out(d, (1.0,) * len(t.ends), t.start)
    assert seifert_numbers(projected(in_a_ring(cell.strands, cell.height, units))) == known
    shape = tight(parse_strict(WORKS[name]), "links")
    straight = [_untwisted(line[:: max(1, len(line) // 30)], line[-1], shape) for line in shape.lines]
    assert seifert_numbers(projected(in_a_ring(straight, shape.pitch, units))) == known


def _untwisted(line, last, shape):
    """A strand of a cell that turns, with the turn taken out, so that it goes on in itself straight below."""
    points = np.vstack([line, last])
    at = shape.angle * points[:, 1] / shape.pitch
    c, s = np.cos(at), np.sin(at)
    return np.column_stack(
        [c * points[:, 0] - s * points[:, 2], points[:, 1], s * points[:, 0] + c * points[:, 2]]
    )


@pytest.mark.parametrize("name", WORKS)
def test_it_comes_to_rest_and_nothing_passed(name):
    shape = tight(parse_strict(WORKS[name]), "links")
    assert shape.kind == "cell"
    assert shape.converged
    assert not shape.passed
    assert 1.5 < shape.pitch < 3.5
    assert 9 < shape.per_end["line.a"] < 20
    if name == "two":
        assert shape.per_end["mate.a"] == pytest.approx(shape.per_end["line.a"], rel=0.01)
    if "cored" in name:
        assert shape.per_end["core.a"] == pytest.approx(shape.pitch, rel=0.1)


def test_mirrored_and_seen_from_behind_it_is_as_long_and_lies_as_flat():
    one, other, behind = (tight(parse_strict(w), "links") for w in (CHAIN, RIGHT, BEHIND))
    for image in (other, behind):
        assert image.pitch == pytest.approx(one.pitch, rel=0.03)
        assert image.per_end["line.a"] == pytest.approx(one.per_end["line.a"], rel=0.02)
        assert image.angle == one.angle == 0  # turning would save next to nothing: it lies flat


@pytest.mark.parametrize("many", [2, 3])
def test_bights_of_several_cords_go_through_each_other_untwisted(many):
    """Each through the one before it, in turn, from whichever side its cord comes: every end takes about as much."""
    cords = [f"c{i}" for i in range(many)]
    links = [f"  {c}.a: bight up @{cords[i - 1]} @{c}" for i, c in enumerate(cords)]
    text = "\n".join([
        'weave "Chain"', "cords", *(f"  {c}  nylon-3mm  #1f6f8b" for c in cords), "hang", "  " + " ".join(f"{c}.a" for c in cords),
        "section begin: start", "  c0.a: over own left @c0", *links[1:], "section links: body, fit", *links,
    ])  # fmt: skip
    shape = tight(parse_strict(text + "\n"), "links")
    assert shape.converged
    assert not shape.passed
    each = [shape.per_end[f"{c}.a"] for c in cords]
    assert max(each) < 1.2 * min(each)


def test_it_is_counted_and_cut_like_any_other():
    weave = parse_strict(CHAIN)
    c = calibrate(weave, (), prior_for(weave))
    assert "links" in c.prior.shaped
    piece = solve(weave, c, Plan(target="length", size_mm=300, fastening="none"))
    shape = tight(weave, "links")
    assert piece.counts["links"] == pytest.approx(300 / (shape.pitch * 3), abs=6)
    assert 1500 < piece.cuts[0].cut_mm < 3500


def test_a_few_links_hang_as_many_do():
    """Work that speaks of what lies above it comes round too: more of it than can be followed is counted by a few."""
    for text in (CHAIN, CORED):
        weave = parse_strict(text)
        few = as_few(weave, {"begin": 1, "links": 500})
        assert few["begin"] == 1
        assert few["links"] <= 4
        shown = {n: trace(weave, counts={"begin": 1, "links": n}) for n in (few["links"], few["links"] + 4)}
        ends = [tuple(t.ends[e] for e in t.order) for t in shown.values()]
        assert ends[0] == ends[1]
    assert as_few(parse_strict(CHAIN), {"begin": 1, "links": 2})["links"] == 2


def test_what_differs_from_unit_to_unit_is_refused_in_words():
    """Every bight goes through the first loop of all, which fills up."""
    weave = parse_strict(
        HEAD.format(
            ends="line.a", begin="line.a: over own left @f, bight up @f @k", link="line.a: bight up @f @k"
        )
    )
    with pytest.raises(InputError, match="do not cross alike"):
        tight(weave, "links")


@pytest.mark.parametrize("ends", ["line.a core.a", "core.a line.a"])
def test_what_hangs_idle_beside_a_chain_leaves_it_as_it_is(ends):
    """It hangs beside it, straight, on the side where it hangs."""
    alone = tight(parse_strict(CHAIN), "links")
    shape = tight(parse_strict(CHAIN.replace("  line.a\n", f"  {ends}\n")), "links")
    assert shape.converged
    assert shape.pitch == pytest.approx(alone.pitch, rel=0.01)
    assert shape.per_end["line.a"] == pytest.approx(alone.per_end["line.a"], rel=0.01)
    assert shape.per_end["core.a"] == pytest.approx(shape.pitch, rel=0.01)
    middle = {e: x[:, 0].mean() for e, x in zip(shape.ends, shape.lines, strict=True)}
    assert (middle["core.a"] < middle["line.a"]) == ends.startswith("core")


def test_a_second_chain_beside_a_first_one_is_as_the_first():
    text = CHAIN.replace("  line.a\n", "  line.a core.a\n").replace(
        "section links", "  core.a: over own left @c, bight up @c @c\nsection links"
    )
    text += "section more: body, same as links\n  core.a: bight up @c @c\n"
    one, two = (tight(parse_strict(text), s) for s in ("links", "more"))
    assert two.pitch == pytest.approx(one.pitch, rel=0.03)
    assert two.per_end["core.a"] == pytest.approx(one.per_end["line.a"], rel=0.03)
