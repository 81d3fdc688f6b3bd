"""Stash and orders in the window: put on the shelf, taken off, undone; an order planned, booked out and put back."""

import pytest
from pypdf import PdfReader

from dim_ladder.app.stash.prices import Prices
from dim_ladder.commands import SetPlan
from dim_ladder.shelf.stash import order_of, stash_of
from dim_ladder.stash import Length, Stash


@pytest.fixture
def stash(window, settled):
    window.run("view.stash")
    settled(window)
    return window.screen_of("view.stash")


@pytest.fixture
def orders(window, settled):
    window.run("view.orders")
    settled(window)
    return window.screen_of("view.orders")


def folder_of(window):
    return window.session.path.parent


def test_a_length_is_put_on_the_shelf_and_undone(window, stash):
    before = stash.shelf.stash
    stash.cord.setCurrentIndex(0)
    stash.length.setText("2,4 m")
    stash.count.setText("3")
    stash.lot.setText("T9")
    stash.add.click()
    new = stash.shelf.stash.lengths[-1]
    assert (new.mm, new.count, new.lot, new.spool) == (2400, 3, "T9", False)
    assert new.colour == window.session.weave.cords[0].colour
    assert stash_of(folder_of(window)) == stash.shelf.stash
    assert stash.table.rowCount() == len(stash.shelf.stash.lengths)
    assert stash.length.text() == ""
    stash.undo.click()
    assert stash.shelf.stash == before
    assert stash_of(folder_of(window)) == before


def test_what_is_no_length_is_said_and_nothing_is_put(window, stash):
    said = []
    window.session.said.connect(said.append)
    before = stash.shelf.stash
    for length, count in (("-2 m", ""), ("two", ""), ("2 m", "0"), ("", "")):
        stash.length.setText(length)
        stash.count.setText(count)
        stash.add.click()
    assert len(said) == 4
    assert stash.shelf.stash == before


def test_tables_come_and_go(window, stash, tmp_path):
    before = stash.shelf.stash
    stash.export_csv(tmp_path / "out.csv")
    (tmp_path / "in.csv").write_text("kind,colour,length,lot\nnylon-4mm,#1f6f8b,1.2 m,T1\n")
    stash.import_csv(tmp_path / "in.csv")
    assert len(stash.shelf.stash.lengths) == len(before.lengths) + 1
    said = []
    window.session.said.connect(said.append)
    stash.import_csv(tmp_path / "out.csv")  # the same names again
    assert "already" in said[-1]
    assert len(stash.shelf.stash.lengths) == len(before.lengths) + 1
    stash.table.selectRow(stash.table.rowCount() - 1)
    stash.remove.click()
    assert stash.shelf.stash == before


def test_a_shelf_that_was_changed_elsewhere_is_not_written_over(window, stash):
    from dim_ladder.shelf.stash import write_stash

    path = folder_of(window) / "stash.json"
    other = Stash(lengths=(Length(id="theirs", kind="nylon-4mm", colour="#1f6f8b", mm=900),))
    write_stash(other, path)
    said = []
    window.session.said.connect(said.append)
    stash.length.setText("2 m")
    stash.add.click()
    assert "changed elsewhere" in said[-1]
    assert stash_of(folder_of(window)) == other == stash.shelf.stash


def test_an_order_is_planned_booked_out_and_put_back(window, orders, settled, tmp_path):
    while orders.order is not None:
        orders.take_off(0)
    assert not orders.run.isEnabled()
    for size, many in (("15 cm", 2), ("M", 3)):
        orders.weave.setCurrentText(window.session.path.name)
        orders.size_field.setText(size)
        orders.count.setValue(many)
        orders.add.click()
    assert [(x.size, x.count) for x in orders.order.lines] == [("15 cm", 2), ("17 cm", 3)]
    assert (orders.order.lines[1].name, orders.order.lines[1].target) == ("M", "girth")
    assert orders.title.text() == "An order of 5 pieces"
    before = orders.shelf.stash
    orders.run.click()
    settled(window)
    plan = orders.plan
    assert plan is not None
    assert plan.pieces == 5
    assert not plan.buy
    assert "There is no better plan." in orders.list.text()
    assert "A piece comes to" in orders.list.text()
    # The cuts are those of the screen Cut.
    window.session.do(
        SetPlan(plan=window.session.document.plan.model_copy(update={"size_mm": 170.0, "chosen": {}}))
    )
    window.run("view.cut")
    settled(window)
    cut = window.screen_of("view.cut")
    mine = {(c.cord, c.mm) for t in plan.taken for c in t.cuts if c.piece.startswith("Tern Ladder M 1/")}
    assert mine == {(c.cord, c.cut_mm) for c in cut.piece.cuts}
    window.run("view.orders")
    settled(window)
    orders.run.click()
    settled(window)
    plan = orders.plan
    orders.print_labels(tmp_path / "labels.pdf")
    text = PdfReader(tmp_path / "labels.pdf").pages[0].extract_text()
    assert text.count("Tern Ladder") == 10  # two cords a piece
    orders.book.click()
    assert orders.shelf.stash.bookings[-1].order == orders.order.name
    assert orders.plan is None  # of a shelf that is another now
    assert stash_of(folder_of(window)) == orders.shelf.stash
    # What is cut is not planned again; what is tied is counted.
    assert orders.title.text() == "An order of 5 pieces: 5 cut"
    assert order_of(folder_of(window)) == orders.order
    orders.done[1].setValue(2)
    assert orders.done[1].value() == 2
    assert orders.title.text() == "An order of 5 pieces: 5 cut, 2 tied"
    orders.run.click()
    settled(window)
    assert orders.plan.pieces == 0
    assert not orders.book.isEnabled()
    assert "All of it is cut." in orders.list.text()
    assert "hours are left to tie" in orders.list.text()
    window.run("edit.undo")  # of the shelf, on this screen
    assert orders.title.text() == "An order of 5 pieces: 5 cut"
    orders.back.click()
    assert orders.shelf.stash.lengths == before.lengths
    assert orders.title.text() == "An order of 5 pieces"


def test_planning_says_how_far_it_is(window, orders, settled):
    said = []
    orders.far.connect(lambda part, words: said.append((part, words)))
    orders.run.click()
    assert not orders.bar.isHidden()
    settled(window)
    parts = [p for p, _ in said]
    assert parts == sorted(parts)
    assert parts[0] == 0
    assert any("solving tern ladder" in w for _, w in said)
    assert any("cutting nylon" in w for _, w in said)
    assert orders.bar.isHidden()


def test_prices_are_asked_kept_and_undone(window, stash, monkeypatch):
    before = stash.shelf.stash
    asked = Prices(before, stash)
    asked.rate.setText("zwölf")
    asked.accept()
    assert "an hour of work" in asked.trouble.text()
    assert asked.result_stash is None
    asked.rate.setText("12,5")
    asked.prices["side-buckle"].setText("")
    asked.prices["sliding"].setText("0.1")
    asked.keep.setText("25 cm")
    asked.accept()
    found = asked.result_stash
    assert (found.rate, found.keep_mm, found.prices["sliding"]) == (12.5, 250, 0.1)
    assert "side-buckle" not in found.prices  # not known is not nothing
    assert found.lengths == before.lengths
    monkeypatch.setattr(Prices, "exec", lambda self: setattr(self, "result_stash", found) or 1)
    stash.prices.click()
    assert stash_of(folder_of(window)) == found
    window.run("edit.undo")
    assert stash_of(folder_of(window)) == before


def test_an_order_that_cannot_be_made_says_why(window, orders, settled):
    while orders.order is not None:
        orders.take_off(0)
    orders.size_field.setText("17 parsecs")
    said = []
    window.session.said.connect(said.append)
    orders.add.click()
    assert said
    assert orders.order is None
    (folder_of(window) / "order.json").write_text("{}")
    window.run("view.record")
    window.run("view.orders")
    settled(window)
    assert "order.json" in orders.words.text()
    assert not orders.run.isEnabled()
    assert (folder_of(window) / "order.json").read_text() == "{}"


def test_a_weave_in_no_file_has_no_shelf_yet(window, settled):
    window.run("file.new")
    window.run("view.stash")
    settled(window)
    screen = window.screen_of("view.stash")
    assert "save this weave first" in screen.words.text()
    assert not screen.add.isEnabled()
    assert screen.title.text() == "The shelf cannot be shown"


def test_cut_says_what_a_unit_more_costs_and_what_a_remnant_becomes(window, settled, qtbot):
    window.run("view.cut")
    settled(window)
    cut = window.screen_of("view.cut")
    qtbot.waitUntil(lambda: cut.more.text().startswith("One more bar costs "))
    field, said = cut.asks.given["buoy"]
    field.setText("2.1 m")
    settled(window)
    qtbot.waitUntil(lambda: "can become a girth of up to" in said.text())
    assert "of running short; it can become" in said.text()
    field.setText("5 cm")
    settled(window)
    qtbot.waitUntil(lambda: "does for no size" in said.text())


def test_cut_asks_what_a_ring_must_pass_and_says_where_it_cannot(window, settled):
    window.run("view.cut")
    settled(window)
    cut = window.screen_of("view.cut")
    assert cut.form.hand.isHidden()
    window.session.do(SetPlan(plan=window.session.document.plan.model_copy(update={"fastening": "none"})))
    settled(window)
    assert not cut.form.hand.isHidden()
    cut.form.hand.setText("26 cm")
    cut.form.hand.setModified(True)
    cut.form.hand.editingFinished.emit()
    settled(window)
    assert window.session.document.plan.pass_mm == 260
    assert "no ease does both" in cut.doubt.text()
    window.run("edit.undo")
    settled(window)
    assert window.session.document.plan.pass_mm is None
    assert "does both" not in cut.doubt.text()
    assert cut.form.hand.text() == ""
