"""How far an order is: what is cut is not planned again, what is put back is to be cut again, and neither is half done."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from dim_ladder.base import WorldError
from dim_ladder.shelf import stash as on_disk
from dim_ladder.shelf.stash import order_of, stash_of, write_both, write_order, write_stash
from dim_ladder.stash import Booking, Order, OrderLine, Stash
from dim_ladder.stash.progress import cut_now, progress_words, put_back, to_cut

ORDER = Order(
    name="Stall",
    lines=(
        OrderLine(weave="a.dimladder", count=5),
        OrderLine(weave="b.dimladder", count=4, done=1),
        OrderLine(weave="c.dimladder", count=3, cut=2, done=3),
    ),
)


def test_what_is_left_to_cut_is_neither_cut_nor_tied():
    assert to_cut(ORDER) == (5, 3, 0)
    assert progress_words(ORDER) == "12 pieces: 4 cut, 4 tied"
    assert progress_words(Order(lines=(OrderLine(weave="a", count=2),))) == "2 pieces"
    after = cut_now(ORDER)
    assert to_cut(after) == (0, 0, 0)
    assert [x.cut for x in after.lines] == [5, 4, 2]


def test_putting_back_leaves_what_was_there_before():
    booking = Booking(order="Stall", used_mm=1.0, before=(), pieces=to_cut(ORDER))
    assert to_cut(put_back(cut_now(ORDER), booking)) == to_cut(ORDER)
    other = ORDER.model_copy(update={"name": "Fair"})
    assert put_back(other, booking) == other
    longer = cut_now(ORDER)
    longer = longer.model_copy(update={"lines": (*longer.lines, OrderLine(weave="d.dimladder", count=2))})
    assert to_cut(put_back(longer, booking)) == (*to_cut(ORDER), 2)
    shorter = ORDER.model_copy(update={"lines": ORDER.lines[:1]})
    assert put_back(shorter, booking) == shorter


@pytest.mark.parametrize("wrong", [{"cut": 6}, {"done": 6}, {"cut": -1}])
def test_no_more_is_cut_or_tied_than_was_ordered(wrong):
    with pytest.raises(ValidationError):
        OrderLine(weave="a", count=5, **wrong)


def test_stash_and_order_are_written_both_or_neither(tmp_path, monkeypatch):
    before = Stash(rate=1.0)
    write_stash(before, tmp_path / "stash.json")
    write_order(ORDER, tmp_path / "order.json")
    after = before.model_copy(update={"rate": 2.0})

    def fails(order, path):
        raise WorldError("the disk is full", "Make room")

    with monkeypatch.context() as m:
        m.setattr(on_disk, "write_order", fails)
        with pytest.raises(WorldError):
            write_both(after, cut_now(ORDER), before, tmp_path)
    assert stash_of(tmp_path) == before
    assert order_of(tmp_path) == ORDER
    write_both(after, None, before, tmp_path)
    assert stash_of(tmp_path) == after
    assert order_of(tmp_path) is None
