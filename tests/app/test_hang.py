"""Setting a weave up from pictures: cords, what they hang on, in which order, how they are made fast."""

import pytest
from PySide6 import QtWidgets
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest

from dim_ladder.commands import RenameCord
from dim_ladder.commands.setup import ARRANGEMENTS, JoinCords
from dim_ladder.library import FINISHES, HANGINGS
from dim_ladder.notation import parse_strict, write
from dim_ladder.picture.palette import seen_alike


@pytest.fixture
def hang(window):
    window.run("file.new")
    return window.screen_of("view.hang")


def test_a_new_weave_begins_here_and_goes_on_to_recording(window, hang):
    assert window.stack.currentWidget() is hang
    hang.record.click()
    assert window.stack.currentWidget() is window.record


def test_everything_it_can_hang_on_is_a_picture(window, hang):
    assert list(hang.on.cards) == list(HANGINGS)
    for key, card in hang.on.cards.items():
        card.click()
        assert window.session.weave.hang.on == key
        assert card.isChecked()
        assert not card.grab().isNull()
        assert HANGINGS[key].words.rpartition(" on the near half")[2] in hang.words.text()
    assert not hang.grab().isNull()


def test_the_order_from_left_to_right_is_a_picture(window, hang):
    first = window.session.weave.hang.ends
    seen = set()
    for key in ARRANGEMENTS:
        hang.order.cards[key].click()
        seen.add(window.session.weave.hang.ends)
        assert hang.order.cards[key].isChecked()
        assert not hang.order.cards[key].grab().isNull()
    assert len(seen) == len(ARRANGEMENTS) - 1  # two that are joined hang as one end of each does
    for _ in ARRANGEMENTS:
        window.session.undo()
    assert window.session.weave.hang.ends == first


def test_cords_come_go_move_and_are_given_names_kinds_and_colours(window, hang, monkeypatch):
    hang.order.cards["around"].click()
    hang.more.click()
    weave = window.session.weave
    assert len(weave.cords) == 3
    assert len({c.colour for c in weave.cords}) == 3
    assert weave.hang.ends[0].startswith(weave.cords[2].name)  # around the others
    hang.rows[2].moved.emit(-1)
    assert window.session.weave.cords[1].name == weave.cords[2].name
    monkeypatch.setattr(QtWidgets.QColorDialog, "getColor", lambda *a, **k: QColor("#123456"))
    hang.rows[0].colour.click()
    assert window.session.weave.cords[0].colour == "#123456"
    row = hang.rows[0]
    row.name.setText("samphire")
    row.name.editingFinished.emit()
    assert window.session.weave.cords[0].name == "samphire"
    assert any(e.startswith("samphire.") for e in window.session.weave.hang.ends)
    row = hang.rows[0]
    assert row.kind.itemText(0) == "nylon kernmantle 4 mm"
    row.kind.setCurrentText("Hemp 2.5 mm")
    row.kind.lineEdit().editingFinished.emit()
    assert window.session.weave.cords[0].kind == "hemp-2.5mm"
    row = hang.rows[0]
    assert row.kind.currentText() == "hemp 2.5 mm"
    row.kind.setCurrentText("?")
    row.kind.lineEdit().editingFinished.emit()
    assert "is not a kind of cord" in window.message_text.text()
    assert row.kind.currentText() == "hemp 2.5 mm"
    row.name.setText("two words")
    row.name.editingFinished.emit()
    assert "cannot be the name" in window.message_text.text()
    assert hang.rows[0].name.text() == "samphire"
    hang.rows[1].removed.emit()
    hang.rows[1].removed.emit()
    hang.rows[0].removed.emit()  # the last one stays
    assert len(window.session.weave.cords) == 1
    assert parse_strict(write(window.session.weave)) == window.session.weave


def test_a_cord_that_is_worked_cannot_be_taken_away(window):
    hang = window.screen_of("view.hang")
    before = window.session.weave
    ends = before.hang.ends
    hang.order.cards["single"].click()  # half of the ends are gone: the knots do not fit any more
    assert window.session.weave.hang.ends != ends
    assert window.session.ladder.problems
    window.session.undo()
    assert window.session.weave == before
    assert not window.session.ladder.problems


def test_the_finish_is_chosen_with_what_it_needs(window, hang):
    window.record.board.setFocus()
    window.stage("view.record")
    for key in "4oo":
        QTest.keyClicks(window.record.board, key)
    window.record.board.act("done")
    window.stage("view.hang")
    for key in FINISHES:
        hang.finish.cards[key].click()
        last = window.session.weave.sections[-1]
        assert last.kind == "finish"
        assert len(last.items) == 1
        assert last.items[0].knot == key
        assert last.items[0].groups == ((1, 2, 3, 4),)
        assert "the finish needs" in hang.words.text()
        assert ("flame" in hang.words.text().lower()) == ("melt" in key)
    hang.finish.cards[""].click()
    assert all(s.kind != "finish" for s in window.session.weave.sections)
    assert not window.session.ladder.problems


def record_a_step(window):
    window.stage("view.record")
    board = window.record.board
    board.setFocus()
    QTest.keyClicks(board, "4oo")
    board.act("done")


def test_one_cord_in_thirds_makes_a_band_of_its_own(window, settled):
    hang = window.screen_of("view.hang")
    window.run("file.new")
    hang.on.cards["thirds"].click()
    weave = window.session.weave
    assert weave.hang.ends == ("second.a", "first.a", "first.m", "first.n", "first.b", "second.b")
    assert not hang.grab().isNull()
    hang.rows[1].removed.emit()
    assert window.session.weave.hang.ends == ("first.a", "first.m", "first.n", "first.b")
    record_a_step(window)
    settled(window)
    assert not window.session.ladder.problems
    ties = window.screen_of("view.tie")
    settled(window)
    assert [line.ends for line in ties.lines] == [("first.a", "first.m", "first.n", "first.b")]
    cut = window.screen_of("view.cut")
    settled(window)
    assert "what lies between is the core" in cut.headline.text()
    assert not cut.grab().isNull()
    window.stage("view.hang")
    hang.order.cards["pairs"].click()
    assert window.session.weave.hang.on == "bar"
    assert window.session.weave.hang.ends == ("first.a", "first.b")


def test_the_start_is_chosen_with_what_it_takes(window, hang):
    hang.start.cards["wrap-3"].click()
    assert window.session.weave.sections[0].kind == "start"
    assert hang.start.cards["wrap-3"].isChecked()
    assert "the start roughly" in hang.words.text()
    hang.start.cards[""].click()
    assert window.session.weave.sections[0].kind == "body"
    assert not window.session.ladder.problems


def test_a_band_is_hung_there_and_back_in_one_cord_or_two_joined(window, settled):
    hang = window.screen_of("view.hang")
    window.run("file.new")
    hang.on.cards["there-and-back"].click()
    assert window.session.weave.hang.ends == ("first.a", "first.m", "second.m", "second.a")
    assert "joined by their ends on the near half" in hang.words.text()
    assert "2 working ends and 2 legs" in hang.words.text()
    assert not hang.grab().isNull()
    record_a_step(window)
    cut = window.screen_of("view.cut")
    settled(window)
    assert "from where it is joined, are its leg" in cut.headline.text()
    hang.rows[1].removed.emit()
    settled(window)
    assert window.session.weave.hang.ends == ("first.a", "first.m", "first.n", "first.b")
    assert "with the fold on the near half" in hang.words.text()
    assert "on either side of the fold are the legs" in cut.headline.text()
    window.run("edit.undo")
    assert len(window.session.weave.cords) == 2


def test_two_cords_are_joined_from_their_picture_and_parted_by_another(window, hang):
    hang.order.cards["joined"].click()
    weave = window.session.weave
    if len(weave.cords) < 2:
        hang.more.click()
        hang.order.cards["joined"].click()
        weave = window.session.weave
    first, second = weave.cords[:2]
    assert weave.hang.ends == (f"{first.name}.a", f"{second.name}.a")
    assert second.joined == first.name
    assert hang.order.cards["joined"].isChecked()
    assert window.session.do(RenameCord(cord=first.name, to="mast"))
    assert window.session.weave.cords[1].joined == "mast"
    assert window.session.do(JoinCords(cord=second.name, to="mast", mm=40))
    assert window.session.weave.cords[1].join_mm == 40
    hang.order.cards["around"].click()
    assert not any(c.joined for c in window.session.weave.cords)
    window.session.undo()
    assert window.session.weave.cords[1].joined == "mast"


def test_a_cord_is_strung_from_its_picture(window, hang):
    if len(window.session.weave.cords) < 2:
        hang.more.click()
    hang.order.cards["strung"].click()
    first, second = window.session.weave.cords[:2]
    assert window.session.weave.hang.ends == (f"{second.name}.a", f"{first.name}.s", f"{second.name}.b")
    assert "strung, fast above and below" in hang.words.text()


def test_cords_that_look_alike_are_named_and_told_apart_in_one_step(window, hang, settled):
    hang._with(0, colour="#1f6f8b")
    hang._with(1, colour="#e07a1f")
    settled(window)
    assert hang.alike.isHidden()
    assert hang.apart.isHidden()
    hang._with(1, colour="#5b7f4b")
    settled(window)
    names = [c.name for c in window.session.weave.cords]
    assert hang.alike.text() == f"{names[0]} and {names[1]} look alike in grey print."
    assert not hang.apart.isHidden()
    before = window.session.weave
    hang.apart.click()
    settled(window)
    after = [c.colour for c in window.session.weave.cords]
    assert seen_alike(after) == ()
    assert len({*after, "#1f6f8b", "#5b7f4b"}) == 3  # one of them stays
    assert hang.alike.isHidden()
    window.session.undo()
    assert window.session.weave == before
