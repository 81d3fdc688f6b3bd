"""Orders over a stash: what is read and refused, what every piece gets, what stays on the shelf, what it costs."""

from __future__ import annotations

import json
import random
from collections import Counter
from dataclasses import replace

import pytest

from dim_ladder.base import InputError
from dim_ladder.cli import run
from dim_ladder.commands.calibrating import calibration_of
from dim_ladder.commands.ordering import read_wanted, weaves_of
from dim_ladder.scale import solve
from dim_ladder.shelf import read_document
from dim_ladder.shelf.sizes import read_tables, write_tables
from dim_ladder.shelf.stash import read_order, read_stash, stash_of, write_order, write_stash
from dim_ladder.shelf.workshop import make_demo
from dim_ladder.stash import Length, Order, OrderLine, Stash, booked, plan_order, unbooked
from dim_ladder.stash.csvio import stash_from_csv, stash_to_csv

TEAL, RED = ("nylon-4mm", "#1f6f8b"), ("nylon-4mm", "#e07a1f")
LINES = (
    OrderLine(weave="tern-ladder.dimladder", count=4, size="15 cm", name="S"),
    OrderLine(weave="tern-ladder.dimladder", count=5, size="17 cm", name="M"),
)
SHELF = (
    Length(id="teal rest", kind=TEAL[0], colour=TEAL[1], mm=1200, count=2, lot="A7", per_metre=0.4),
    Length(id="teal spool", kind=TEAL[0], colour=TEAL[1], mm=40_000, lot="A8", spool=True, per_metre=0.5),
    Length(id="orange rest", kind=RED[0], colour=RED[1], mm=3500, count=2, lot="B1", per_metre=0.4),
    Length(id="orange spool", kind=RED[0], colour=RED[1], mm=40_000, lot="B2", spool=True),
)


@pytest.fixture(scope="module")
def workshop(tmp_path_factory):
    folder = tmp_path_factory.mktemp("workshop")
    make_demo(folder)
    write_order(Order(name="Stall", lines=LINES), folder / "stall.json")
    return folder


@pytest.fixture(scope="module")
def wanted(workshop):
    return read_wanted(workshop / "stall.json")[1]


def test_every_piece_gets_the_cuts_of_its_size(workshop, wanted):
    doc = read_document(workshop / "tern-ladder.dimladder")
    for w, mm in zip(wanted, (150.0, 170.0), strict=True):
        piece = solve(
            doc.weave, calibration_of(doc), doc.plan.model_copy(update={"size_mm": mm, "chosen": {}})
        )
        assert [c.cut_mm for c in w.cuts] == [c.cut_mm for c in piece.cuts]
    plan = plan_order(wanted, Stash(lengths=SHELF))
    got = Counter((c.piece, c.cord, c.mm) for t in plan.taken for c in t.cuts)
    expected = Counter(
        (f"{w.title} {w.size} {n}/{w.count}", c.cord, c.cut_mm)
        for w in wanted
        for n in range(1, w.count + 1)
        for c in w.cuts
    )
    assert got == expected
    assert plan.pieces == 9
    assert not plan.buy
    assert plan.gap == 0


def test_the_shelf_is_booked_as_a_whole_and_put_back(wanted):
    stash = Stash(lengths=SHELF)
    plan = plan_order(wanted, stash)
    after = booked(stash, plan, "Stall", "2026-11-29")
    used = sum(c.mm for t in plan.taken for c in t.cuts)
    lost = sum(t.left_mm for t in plan.taken if not t.kept)
    there = sum(x.mm * x.count for x in after.lengths)
    assert there == pytest.approx(sum(x.mm * x.count for x in SHELF) - used - lost)
    assert all(x.mm >= stash.keep_mm for x in after.lengths)
    assert after.bookings[-1].used_mm == pytest.approx(used)
    assert unbooked(after) == stash
    with pytest.raises(InputError, match="not on the shelf any more"):
        booked(after, plan, "Stall")
    with pytest.raises(InputError, match="nothing was booked"):
        unbooked(stash)


def test_what_is_missing_is_a_shopping_list(wanted):
    plan = plan_order(wanted, Stash(lengths=SHELF[:1]))
    assert {(b.kind, b.colour) for b in plan.buy} == {TEAL, RED}
    for b in plan.buy:
        missing = sum(
            c.mm for t in plan.taken if not t.id and (t.kind, t.colour) == (b.kind, b.colour) for c in t.cuts
        )
        assert b.mm == pytest.approx(missing)
        assert b.metres - 1 < b.mm / 1000 <= b.metres
    assert [b.cost is None for b in sorted(plan.buy, key=lambda b: b.colour)] == [False, True]
    assert plan.cost is None
    assert "orange nylon kernmantle 4 mm, #e07a1f" in plan.unpriced


def test_a_size_may_have_the_name_it_has_in_the_workshops_tables(workshop):
    write_tables(read_tables("wrists, girth\n  chick  131 mm\nstraps, length\n  long  30 cm"), workshop)
    lines = tuple(
        OrderLine(weave="tern-ladder.dimladder", size=s) for s in ("131 mm", "chick", "straps long")
    )
    write_order(Order(name="Named", lines=lines), workshop / "named.json")
    first, same, long = read_wanted(workshop / "named.json")[1]
    assert [c.cut_mm for c in same.cuts] == [c.cut_mm for c in first.cuts]
    assert long.cuts[1].cut_mm > first.cuts[1].cut_mm
    (workshop / "sizes.json").unlink()
    with pytest.raises(InputError, match="line 2 of the order"):
        read_wanted(workshop / "named.json")


def test_what_a_piece_comes_to_goes_with_its_minutes(wanted):
    priced = tuple(x.model_copy(update={"per_metre": 0.5}) for x in SHELF)
    stash = Stash(lengths=priced, prices={"side-buckle": 0.75}, rate=12.0)
    plan = plan_order([replace(w, minutes=(30.0, 20.0, 50.0)) for w in wanted], stash)
    price, low, high = plan.price
    assert price - low == pytest.approx(10 / 60 * 12)
    assert high - price == pytest.approx(20 / 60 * 12)
    assert price == pytest.approx((plan.cost + plan.work) / plan.pieces)
    assert plan_order(wanted, stash.model_copy(update={"rate": None})).price is None


def test_cost_is_cord_fastenings_and_work(wanted):
    priced = tuple(x.model_copy(update={"per_metre": 0.5}) for x in SHELF)
    stash = Stash(lengths=priced, prices={"side-buckle": 0.75}, rate=12.0)
    plan = plan_order(wanted, stash)
    metres = sum(c.cut_mm * w.count for w in wanted for c in w.cuts) / 1000
    assert plan.cost == pytest.approx(0.5 * metres + 9 * 0.75)
    middle, low, high = plan.minutes
    assert low < middle < high
    assert middle == pytest.approx(sum(w.count * w.minutes[0] for w in wanted))
    assert plan.work == pytest.approx(middle / 60 * 12)


def test_cords_of_one_piece_are_of_one_lot_and_unknown_lots_are_not_mixed(wanted):
    """Two cords of a colour in one piece, and lengths nobody knows the lot of: each may be another."""
    (w, *_) = wanted
    twice = replace(w, cuts=(w.cuts[0], w.cuts[0]), cords=(TEAL, TEAL), folds=("", ""), count=1)
    lengths = [
        Length(id=f"rest {k}", kind=TEAL[0], colour=TEAL[1], mm=w.cuts[0].cut_mm + 50) for k in range(2)
    ]
    plan = plan_order([twice], Stash(lengths=tuple(lengths)))
    assert len(plan.buy) == 1
    same = tuple(x.model_copy(update={"lot": "A7"}) for x in lengths)
    assert not plan_order([twice], Stash(lengths=same)).buy


def test_random_orders_never_take_more_than_there_is(wanted):
    rng = random.Random(7)
    for _ in range(12):
        lengths = tuple(
            Length(
                id=f"L{k}",
                kind=TEAL[0],
                colour=rng.choice([TEAL[1], RED[1]]),
                mm=rng.randint(200, 9000),
                count=rng.randint(1, 3),
                lot=rng.choice(["", "A", "B"]),
                spool=rng.random() < 0.3,
            )
            for k in range(rng.randint(0, 9))
        )
        some = [replace(w, count=rng.randint(1, 6)) for w in wanted]
        stash = Stash(lengths=lengths, loss_mm=rng.choice([0, 3]))
        plan = plan_order(some, stash, seconds=3)
        spent = Counter()
        for t in plan.taken:
            if t.id:
                spent[t.id] += 1
                assert sum(c.mm + stash.loss_mm for c in t.cuts) <= t.mm + 1e-6
        assert all(spent[x.id] <= x.count for x in lengths)
        assert sum(len(t.cuts) for t in plan.taken) == sum(w.count * len(w.cuts) for w in some)
        of_piece = {}
        for t in plan.taken:
            for c in t.cuts:
                of_piece.setdefault((c.piece, t.kind, t.colour), set()).add(t.lot or t.id)
        assert all(len(lots) == 1 for lots in of_piece.values())
        booked(stash, plan, "again")


def test_a_large_shelf_keeps_few_bookings_and_can_always_be_read_again(wanted, tmp_path):
    many = tuple(Length(id=f"x{k}", kind="jute", colour="#aa8855", mm=500) for k in range(4000))
    stash = Stash(lengths=(*SHELF, *many))
    for _ in range(8):
        plan = plan_order([replace(wanted[0], count=1)], stash, seconds=2)
        stash = booked(stash, plan, "again")
    assert 1 <= len(stash.bookings) <= 5
    write_stash(stash, tmp_path / "stash.json")
    assert stash_of(tmp_path) == stash


# -- files -------------------------------------------------------------------------------------------


def test_a_stash_comes_back_from_its_table_and_its_file(tmp_path):
    assert stash_from_csv(stash_to_csv(SHELF)) == SHELF
    evil = Length(id="=1+1", kind="nylon-4mm", colour="#1f6f8b", mm=700, note="@SUM(A1)", lot="'7")
    text = stash_to_csv([evil])
    assert "'=1+1" in text
    assert stash_from_csv(text) == (evil,)
    stash = Stash(lengths=SHELF, prices={"ring": 0.2}, currency="sp")
    write_stash(stash, tmp_path / "stash.json")
    assert stash_of(tmp_path) == stash
    assert stash_of(tmp_path / "elsewhere") == Stash()


def test_a_table_of_somebodys_own_is_read_or_refused_with_every_place():
    semicolons = "Kind;Colour;Length;Count\nNylon kernmantle 4 mm;#1F6F8B;82,5 cm;2\n"
    (length,) = stash_from_csv(semicolons)
    assert (length.kind, length.colour, length.mm, length.count) == ("nylon-4mm", "#1f6f8b", 825.0, 2)
    bad = "kind,colour,length,count,spool\nnylon-4mm,teal,1 m,1,no\nnylon-4mm,#1f6f8b,-3 m,1,no\nnylon-4mm,#1f6f8b,1 m,0,maybe\n"
    with pytest.raises(InputError) as e:
        stash_from_csv(bad)
    assert [p.line for p in e.value.problems] == [2, 3, 4]
    assert "not a colour" in e.value.problems[0].message
    for text, why in (
        ("", "empty"), ("a,b\n1,2\n", "no column “kind”"), ("kind,color,length\n", "no column “color”"),
        ("kind,kind,colour,length\n", "two columns"), ("kind,colour,length\nnylon-4mm,#1f6f8b,1,500 mm,9\n", "3 columns"),
    ):  # fmt: skip
        with pytest.raises(InputError, match=why):
            stash_from_csv(text)


@pytest.mark.parametrize(
    ("change", "place"),
    [
        ({"mm": -5}, "lengths → 0 → mm"),
        ({"colour": "teal"}, "lengths → 0 → colour"),
        ({"more": 1}, "lengths → 0 → more"),
    ],
)
def test_a_stash_that_cannot_be_is_refused_with_its_place(tmp_path, change, place):
    path = tmp_path / "stash.json"
    row = {"id": "x", "kind": "nylon-4mm", "colour": "#1f6f8b", "mm": 900, **change}
    path.write_text(json.dumps({"format": "dim-ladder-stash", "version": 1, "stash": {"lengths": [row]}}))
    with pytest.raises(InputError, match=place):
        read_stash(path)
    assert run(["plan", str(path), "--stash", str(path), "--json"]) == 2


def test_orders_within_orders_are_counted_and_circles_are_named(workshop):
    write_order(
        Order(name="Two stalls", lines=(OrderLine(order="stall.json", count=2), LINES[0])),
        workshop / "two.json",
    )
    _, found = read_wanted(workshop / "two.json")
    assert [w.count for w in found] == [8, 10, 4]
    write_order(Order(name="A", lines=(OrderLine(order="b.json"),)), workshop / "a.json")
    write_order(Order(name="B", lines=(OrderLine(order="a.json"),)), workshop / "b.json")
    with pytest.raises(InputError, match=r"contains itself: a\.json → b\.json → a\.json"):
        read_wanted(workshop / "a.json")


@pytest.mark.parametrize(
    ("line", "why"),
    [
        (OrderLine(weave="gone.dimladder"), "gone.dimladder"), (OrderLine(weave="tern-ladder.dimladder", size="17"), "line 1 of the order"),
        (OrderLine(weave="tern-ladder.dimladder", fastening="zip"), "no fastening"),
    ],
)  # fmt: skip
def test_a_line_that_cannot_be_made_is_named(workshop, line, why):
    write_order(Order(name="Bad", lines=(line,)), workshop / "bad.json")
    with pytest.raises(Exception, match=why):
        read_wanted(workshop / "bad.json")


def test_an_order_file_that_is_none_is_refused(tmp_path):
    for text in (
        "",
        "{}",
        '{"format": "dim-ladder-order", "version": 1, "lines": [{"weave": "a", "order": "b"}]}',
    ):
        (tmp_path / "o.json").write_text(text)
        with pytest.raises(InputError, match=r"o\.json"):
            read_order(tmp_path / "o.json")


def test_the_command_line_plans_and_books(workshop, capsys):
    write_stash(Stash(lengths=SHELF), workshop / "stash.json")
    args = ["plan", str(workshop / "stall.json"), "--stash", str(workshop / "stash.json")]
    assert run([*args, "--json"]) == 0
    body = json.loads(capsys.readouterr().out)
    assert body["optimal"] is True
    assert body["pieces"] == 9
    assert body["new_mm"] == 0
    assert body["used_mm"] == sum(c["mm"] for t in body["map"] for c in t["cuts"])
    assert body["cost"] is None
    assert "no price" in body["missing"]["cost"]
    assert run(args) == 0
    assert "there is no better plan" in capsys.readouterr().out
    before = (workshop / "stash.json").read_bytes()
    assert run([*args, "--book"]) == 0
    assert read_stash(workshop / "stash.json").bookings[-1].order == "Stall"
    assert [x.cut for x in read_order(workshop / "stall.json").lines] == [4, 5]
    capsys.readouterr()
    assert run([*args, "--book"]) == 2
    assert "everything in this order is cut" in capsys.readouterr().err
    write_order(Order(name="Stall", lines=LINES), workshop / "stall.json")
    write_stash(Stash(lengths=SHELF[:1]), workshop / "stash.json")
    assert run([*args, "--book"]) == 2
    assert "are missing" in capsys.readouterr().err
    assert read_stash(workshop / "stash.json") == Stash(lengths=SHELF[:1])
    assert before


def test_shapes_of_many_weaves_are_pulled_side_by_side_and_the_plan_is_the_same(
    workshop, tmp_path, capsys, monkeypatch
):
    lines = [OrderLine(weave=f"{w}.dimladder", count=2) for w in ("tern-ladder", "marsh-curl", "reed-plait")]
    order = workshop / "many.json"
    write_order(Order(name="Many", lines=tuple(lines)), order)
    write_stash(Stash(), tmp_path / "stash.json")
    assert [p.stem for p in weaves_of(read_order(order), order)] == [
        "tern-ladder",
        "marsh-curl",
        "reed-plait",
    ]
    args = ["plan", str(order), "--stash", str(tmp_path / "stash.json"), "--json"]
    assert run(args) == 0
    one = json.loads(capsys.readouterr().out)
    assert run([*args, "--jobs", "2"]) == 0
    assert json.loads(capsys.readouterr().out) == one
