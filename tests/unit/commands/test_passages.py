"""Passages of a section: moved, copied, mirrored, made into knots and opened again; each by what it does to the cord."""

import random
from dataclasses import replace

import pytest

from dim_ladder.base import InputError
from dim_ladder.commands import (
    AddItem,
    AddItems,
    AddMirrored,
    ExtractKnot,
    FlipCrossing,
    FlipItems,
    InlineKnot,
    MirrorItems,
    MoveItem,
    RemoveItem,
    RenameCord,
    RepeatItems,
    ReplaceItems,
    SetCordKind,
    SwapLeader,
    items_text,
    read_items,
)
from dim_ladder.commands.knots import ends_kept, shared_below, tails_before
from dim_ladder.library import library_knots
from dim_ladder.notation import Call, Step, Weave, parse_strict, write, write_item
from dim_ladder.shelf import Document
from dim_ladder.trace import close, trace
from dim_ladder.trace.solved import solve_knot
from helpers.invariants import determinant_signature
from helpers.sizes import sized
from helpers.ties import tie
from helpers.weaves import TERN, weave_of


def doc_of(places, *lines):
    return Document(weave_of(places, *lines))


def lines(doc, section="s"):
    return [write_item(i) for i in doc.weave.section(section).items]


def drawn(doc):
    """What the cord does: crossings and who lies where."""
    t = trace(doc.weave)
    assert not t.problems, t.problems
    return t.crossings, t.paths, t.order


def invariant(doc):
    found = close(trace(doc.weave))
    return determinant_signature(found) if found.pd else (1, 0)


FOUR = ("4: over 3 2", "1: over 2, under 3 4, up 2", "2: over 3", "3: under 2")


def test_ranges_are_removed_moved_and_repeated():
    doc = doc_of(4, *FOUR)
    assert lines(RemoveItem(section="s", at=1, last=2).apply(doc)) == [FOUR[0], FOUR[3]]
    assert lines(MoveItem(section="s", at=2, last=3, to=0).apply(doc)) == [*FOUR[2:], *FOUR[:2]]
    assert lines(MoveItem(section="s", at=0, to=3).apply(doc)) == [*FOUR[1:], FOUR[0]]
    assert lines(RepeatItems(section="s", at=2, last=3, times=2).apply(doc)) == [*FOUR, *FOUR[2:] * 2]
    with pytest.raises(InputError, match="no step 9"):
        RemoveItem(section="s", at=0, last=8).apply(doc)


def test_what_is_copied_is_script_and_is_pasted_with_its_notes():
    weave = parse_strict(
        write(weave_of(4, *FOUR)).replace("  2: over 3", "  -- the second half\n  2: over 3 -- loosely")
    )
    doc = Document(weave)
    text = items_text(weave.section("s").items[1:3])
    assert text.splitlines()[1] == "-- the second half"
    pasted = AddItems(section="s", text=text, at=0).apply(doc)
    assert len(pasted.weave.section("s").items) == 6
    assert "-- the second half" in write(pasted.weave).split("2: over 3")[0]
    assert parse_strict(write(pasted.weave)) == pasted.weave
    with pytest.raises(InputError, match="line 2 of what is pasted"):
        read_items("1: over 2\n1 over 2")
    with pytest.raises(InputError, match="no step"):
        AddItems(section="s", text="\n").apply(doc)
    assert lines(ReplaceItems(section="s", at=0, last=3, text="1: over 2").apply(doc)) == ["1: over 2"]


@pytest.mark.parametrize("name", ["half-right", "snake", "bar-right", "plait-4", "figure-eight", "button"])
def test_a_mirror_image_has_the_opposite_signature_and_back_again_it_is_the_same(name):
    knot = next(k for k in library_knots() if k.name == name)
    places = {"half-right": "2 | 3 4 | 5", "bar-right": "1 | 2..5"}.get(name) or " | ".join(
        str(i + 2) for i in range(len(knot.params))
    )
    doc = doc_of(6, f"{name} ({places})")
    once = MirrorItems(section="s", at=0).apply(doc)
    (d, s), (d2, s2) = invariant(doc), invariant(once)
    assert (d, s) == (d2, -s2)
    assert drawn(once) != drawn(doc)
    assert drawn(MirrorItems(section="s", at=0).apply(once)) == drawn(doc)
    flipped = FlipItems(section="s", at=0).apply(doc)
    assert invariant(flipped) == (d, -s)
    assert drawn(FlipItems(section="s", at=0).apply(flipped)) == drawn(doc)
    assert parse_strict(write(once.weave)) == once.weave
    assert parse_strict(write(flipped.weave)) == flipped.weave


def test_a_knot_off_the_middle_is_mirrored_to_the_other_side():
    doc = doc_of(6, "half-right (1 | 2 | 3)")
    assert lines(MirrorItems(section="s", at=0).apply(doc)) == ["half-left (4 | 5 | 6)"]
    assert lines(AddMirrored(section="s").apply(doc))[1] == "half-left (4 | 5 | 6)"


def test_the_other_end_leads_in_the_same_places():
    doc = doc_of(6, "half-right (1 | 2 | 3)")
    swapped = SwapLeader(section="s", at=0).apply(doc)
    assert lines(swapped) == ["half-right (3 | 2 | 1)"]
    image = doc_of(6, "half-left (1 | 2 | 3)")
    assert drawn(swapped) == drawn(image)
    bare = doc_of(6, "3: over 2", "1: over 2, under 3, up 2")
    assert drawn(SwapLeader(section="s", at=0, last=1).apply(bare)) == drawn(swapped)
    with pytest.raises(InputError, match="with one end"):
        SwapLeader(section="s", at=0).apply(doc_of(2, "button (1)"))


def test_steps_become_a_knot_and_it_opens_into_the_same_steps():
    doc = doc_of(4, *FOUR)
    made = ExtractKnot(section="s", at=0, last=2, name="crossing-over").apply(doc)
    assert lines(made) == ["crossing-over (1 | 2 | 3 | 4)", FOUR[3]]
    knot = made.weave.knot("crossing-over")
    assert [write_item(s) for s in knot.steps] == ["d: over c b", "a: over d, under b c, up d", "b: over c"]
    assert drawn(made) == drawn(doc)
    assert lines(InlineKnot(section="s", at=0).apply(made)) == list(FOUR)
    for name, message in (("two words", "cannot be the name"), ("snake", "there is a knot")):
        with pytest.raises(InputError, match=message):
            ExtractKnot(section="s", at=0, name=name).apply(doc)
    with pytest.raises(InputError, match="steps and other knots only"):
        ExtractKnot(section="s", at=0, name="n").apply(doc_of(4, "turn over"))
    with pytest.raises(InputError, match="place number"):
        ExtractKnot(section="s", at=0, name="n").apply(doc_of(4, "1: over 2, to 3"))
    with pytest.raises(InputError, match="not a knot"):
        InlineKnot(section="s", at=0).apply(doc)


@pytest.mark.parametrize("name", [k.name for k in library_knots()])
def test_every_knot_that_ships_opens_into_steps_that_do_the_same(name):
    places, at = [], 1
    for p in solve_knot(Weave(""), name).params:
        many = 2 if p.rest else 1
        places.append(" ".join(str(at + i) for i in range(many)))
        at += many
    first = ["chain-begin (1)"] if name in ("chain-link", "chain-lock") else []
    doc = doc_of(at - 1, *first, f"{name} ({' | '.join(places)})")
    opened = InlineKnot(section="s", at=len(first)).apply(doc)
    assert all(isinstance(i, Step) for i in opened.weave.section("s").items[len(first) :])
    assert drawn(opened) == drawn(doc)
    assert parse_strict(write(opened.weave)) == opened.weave


def test_a_repeated_knot_opens_by_the_places_of_each_time():
    doc = doc_of(3, "plait-right (1 | 2 | 3) repeat 3")
    if not isinstance(doc.weave.section("s").items[0], Call) or doc.weave.section("s").items[0].repeat != 3:
        pytest.fail("the script for a knot tied three times is another one")
    assert drawn(InlineKnot(section="s", at=0).apply(doc)) == drawn(doc)


def test_one_crossing_flips_and_back_again():
    doc = doc_of(4, "1: over 2 3 4, under 4 3, up own")
    once = FlipCrossing(section="s", at=0, hop=0, which=1).apply(doc)
    assert lines(once)[0].startswith("1: over 2, under 3, over 4, under 4 3")
    assert [a.lane_over == b.lane_over for a, b in zip(trace(doc.weave).crossings, trace(once.weave).crossings, strict=True)].count(False) == 1  # fmt: skip
    again = FlipCrossing(section="s", at=0, hop=1).apply(once)
    assert drawn(again) == drawn(doc)
    assert lines(FlipCrossing(section="s", at=0, hop=2).apply(doc)) == ["1: over 2 3 4, under 4 3, down own"]
    with pytest.raises(InputError, match="belongs to a knot"):
        FlipCrossing(section="s", at=0, hop=0).apply(doc_of(2, "snake (1 | 2)"))


def test_what_stands_below_an_edit_can_keep_the_ends_it_moved():
    doc = doc_of(4, "2: over 3", "1: over 2", "4: under 3")
    after = AddItem(section="s", text="1: over 2", at=1).apply(doc)
    kept = ends_kept(doc.weave, after.weave, "s", 2)
    assert kept is not None
    before = tails_before(doc.weave, "s")
    mended = replace(after, weave=replace(after.weave, sections=(replace(after.weave.sections[0], items=(*after.weave.sections[0].items[:2], *kept)),)))  # fmt: skip
    now = tails_before(mended.weave, "s")
    for k in (1, 2):
        old, new = doc.weave.section("s").items[k], mended.weave.section("s").items[k + 1]
        assert before[k][old.end - 1] == now[k + 1][new.end - 1]
        assert before[k][old.hops[0].refs[0] - 1] == now[k + 1][new.hops[0].refs[0] - 1]
    assert shared_below(doc.weave, after.weave) == ("s", 2)
    assert shared_below(doc.weave, doc.weave) is None
    assert shared_below(doc.weave, AddItem(section="s", text="1: over 2").apply(doc).weave) is None
    # Nothing moved: nothing to keep.
    same = AddItem(section="s", text="span 20 mm", at=1).apply(doc)
    assert ends_kept(doc.weave, same.weave, "s", 2) is None


def test_tails_before_every_item_as_the_work_lies():
    found = tails_before(weave_of(3, "1: over 2", "turn over", "1: over 2"), "s")
    assert [len(t) for t in found] == [3, 3, 3, 3]
    assert found[2] == found[1][::-1]
    with pytest.raises(InputError, match="Mend"):
        tails_before(weave_of(2, "1: over 3"), "s")


def test_a_cord_is_renamed_wherever_it_stands():
    weave = parse_strict(write(parse_strict(TERN)))
    doc = Document(weave, (tie("T1"),))
    cord = weave.cords[0].name
    renamed = RenameCord(cord=cord, to="samphire").apply(doc)
    assert cord + "." not in write(renamed.weave)
    assert all(not e.startswith(cord + ".") for t in renamed.ties for r in t.readings for e in r.ends)
    assert trace(renamed.weave).crossings == trace(weave).crossings
    assert RenameCord(cord="samphire", to=cord).apply(renamed) == doc
    laid_in = parse_strict(
        write(weave_of(2, "1: over 2"))
        .replace("hang\n", "  moss nylon-2mm #3f7a4a\n\nhang\n", 1)
        .replace("  1: over 2", "  add moss.a at 2\n  moss.a: over k1.a\n  drop moss.a")
    )
    changed = RenameCord(cord="moss", to="reed").apply(Document(laid_in))
    assert "moss" not in write(changed.weave)
    assert trace(changed.weave).crossings == trace(laid_in).crossings != ()
    for to, message in (("buoy", "already"), ("two words", "cannot be"), ("a.b", "cannot be")):
        with pytest.raises(InputError, match=message):
            RenameCord(cord="tide", to=to).apply(doc)
    assert SetCordKind(cord="tide", to="hemp-2mm").apply(doc).weave.cords[0].kind == "hemp-2mm"
    with pytest.raises(InputError, match="cannot be"):
        SetCordKind(cord="tide", to="two words").apply(doc)


@pytest.mark.parametrize("seed", range(sized(25, 250)))
def test_random_passages_become_knots_that_do_the_same(seed):
    rng = random.Random(seed)
    n = rng.randint(2, 5)
    items = []
    for _ in range(rng.randint(2, 6)):
        at = rng.randint(1, n)
        side = rng.choice([d for d in (-1, 1) if 1 <= at + d <= n])
        verb = rng.choice(["over", "under"])
        loop = rng.choice(["", ", up own", f", {rng.choice(['up', 'down'])} {at + side}"])
        items.append(f"{at}: {verb} {at + side}{loop}")
    doc = doc_of(n, *items)
    if trace(doc.weave).problems:  # a loop that is not there yet: keep the runs
        items = [i.split(",")[0] for i in items]
        doc = doc_of(n, *items)
    a = rng.randrange(len(items))
    b = rng.randrange(a, len(items))
    made = ExtractKnot(section="s", at=a, last=b, name="made").apply(doc)
    assert drawn(made) == drawn(doc)
    assert lines(InlineKnot(section="s", at=a).apply(made)) == lines(doc)


def test_what_would_rest_elsewhere_is_not_made_or_opened():
    doc = doc_of(4, "1: over 2, to right")
    with pytest.raises(InputError, match="rest its ends elsewhere"):
        ExtractKnot(section="s", at=0, name="n").apply(doc)
    text = write(weave_of(4, "1: over 2")).replace(
        "section", "knot n (a | b)\n  a: over b, to right\n\nsection", 1
    )
    knotted = Document(parse_strict(text.replace("1: over 2", "n (1 | 2)")))
    opened = InlineKnot(section="s", at=0).apply(knotted)
    assert lines(opened) == ["1: over 2, to 2"]  # the right of the knot's own two ends
    assert drawn(opened) == drawn(knotted)


@pytest.mark.parametrize("how", ["mirror", "flip", "turn"])
@pytest.mark.parametrize("name", ["walker-3", "diamond-2", "round-button", "plait-5"])
def test_a_knot_seen_otherwise_opens_among_other_ends(name, how):
    """Where an end rests is counted among the knot's own, from the other side in a mirror."""
    many = len(solve_knot(Weave(""), name).params)
    places = " | ".join(str(i + 2) for i in range(many))
    text = write(weave_of(many + 2, f"other ({places})", knots=f"knot other = {how} {name}"))
    doc = Document(parse_strict(text))
    opened = InlineKnot(section="s", at=0).apply(doc)
    assert drawn(opened) == drawn(doc)
    assert parse_strict(write(opened.weave)) == opened.weave


def test_an_edit_never_leaves_a_weave_that_could_not_be_read_again():
    doc = doc_of(2, "1: over 2")
    for text in ("1: bead eye", "reed.a: over 1", "1: over reed.a"):
        for edit in (
            AddItem(section="s", text=text),
            AddItems(section="s", text=text),
            ReplaceItems(section="s", at=0, text=text),
        ):
            with pytest.raises(InputError, match=r"no bead|no end"):
                edit.apply(doc)
    with_reed = parse_strict(
        write(doc.weave).replace("hang\n", "  moss nylon-2mm #3f7a4a\n\nhang\n", 1)
        + "  add moss.a at 2\n  moss.a: over 1\n"
    )
    with pytest.raises(InputError, match=r"no end “moss\.a” hangs here"):
        RemoveItem(section="s", at=1).apply(Document(with_reed))
