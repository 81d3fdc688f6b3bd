"""What is half filled in belongs to its weave: it stays there when another is opened, and is there again afterwards."""

import pytest
from PySide6.QtTest import QTest

from dim_ladder.app.tie.state import FormState, read_state
from dim_ladder.commands.hand import read_hand
from helpers.crash import crashed


def form_of(window):
    return window.screen_of("view.tie").form


def type_in(field, text):
    field.setFocus()
    QTest.keyClicks(field, text)


def fill(window):
    form = form_of(window)
    type_in(form.lines[0].cut, "1.2 m")
    type_in(form.lines[0].left, "2x")  # wrong as yet: kept all the same
    type_in(form.counts["bar"], "6")
    type_in(form.who, "the warden")
    form.name_photos([window.session.path.parent / "one.jpg"])
    return form


def filled(form):
    return (
        form.lines[0].cut.text(), form.lines[0].left.text(), form.counts["bar"].text(), form.who.text(), form.photos,
    )  # fmt: skip


def ended(window):
    """As a crash would leave it: nothing is saved, asked or taken any more."""
    crashed(window.session)
    window.filing.may_switch = lambda: True


FILLED = ("1.2 m", "2x", "6", "the warden", ("one.jpg",))


def test_a_half_filled_tie_stays_with_its_weave(window, settled):
    form = fill(window)
    tern = window.session.path
    window.open_path(tern.parent / "double-bar.dimladder")
    settled(window)
    other = form_of(window)
    assert all(f.text() == "" for f in other.fields())
    assert (other.who.text(), other.photos) == ("", ())
    type_in(other.length, "12 cm")
    window.open_path(tern)
    settled(window)
    assert filled(form_of(window)) == FILLED
    assert form_of(window).length.text() == ""
    window.open_path(tern.parent / "double-bar.dimladder")
    assert form_of(window).length.text() == "12 cm"
    assert form is form_of(window)


def test_it_is_there_again_after_the_program_ended(window, settled, qtbot):
    from dim_ladder.app.window import MainWindow

    form = fill(window)
    form.change(window.session.document.ties[0])
    type_in(form.note, "twisted")
    path = window.session.path
    ended(window)
    again = MainWindow()
    again.open_path(path)
    other = form_of(again)
    assert other.changing == again.session.document.ties[0]
    assert other.note.text() == "twisted"
    assert other.log.text() == f"Keep the change to {again.session.document.ties[0].id}"
    again.session.unsaved = False
    again.close()
    again.session.jobs.finish()
    again.deleteLater()


def test_what_was_logged_is_not_asked_again(window, settled):
    screen = window.screen_of("view.tie")
    form = screen.form
    for line in form.lines:
        type_in(line.cut, "1.8 m")
        type_in(line.left, "50 cm")
    type_in(form.counts["bar"], "6")
    type_in(form.length, "60 mm")
    many = len(window.session.document.ties)
    assert screen.log_tie()
    assert len(window.session.document.ties) == many + 1
    kept = read_state(window.session.custody.keeper.forms["tie"])
    assert kept.readings[" ".join(form.lines[0].ends)] == ("1.8 m", "")
    assert "tied length" not in {k for k, v in kept.texts.items() if v}


def test_typing_in_a_field_of_the_sheet_goes_to_its_own_weave(window, settled):
    sheet = window.screen_of("view.sheet")
    tern = window.session.path
    type_in(sheet.texts["designer"], "The hide keepers")
    window.open_path(tern.parent / "double-bar.dimladder")
    assert "The hide keepers" not in sheet.texts["designer"].text()
    window.open_path(tern)
    assert window.session.document.sheet.designer.endswith("The hide keepers")


def test_typing_in_a_field_that_was_not_left_is_taken_when_the_weave_is_open_again(window, settled, qtbot):
    from dim_ladder.app.session import Session
    from dim_ladder.app.sheet.screen import SheetScreen

    sheet = window.screen_of("view.sheet")
    type_in(sheet.texts["designer"], "The hide keepers")
    path = window.session.path
    ended(window)
    session = Session()
    session.open(path)
    sheet = SheetScreen(session)
    qtbot.waitUntil(lambda: session.document.sheet.designer.endswith("The hide keepers"))
    sheet.deleteLater()
    session.close()
    session.jobs.finish()


@pytest.mark.parametrize(
    "text", ["", "x", "[]", '{"readings": 3}', '{"texts": {"a": "' + "x" * 5000 + '"}}', "9" * 5000]
)
def test_a_state_that_cannot_be_read_is_an_empty_form(text):
    assert read_state(text) == FormState()
    assert read_hand(text) is None


def test_the_end_in_hand_is_there_again(window, settled, qtbot):
    from dim_ladder.app.session import Session

    board = window.record.board
    window.record.board.setFocus()
    QTest.keyClicks(board, "1oou")
    draft = window.session.draft
    assert len(draft.moves) == 3
    path = window.session.path
    ended(window)
    session = Session()
    session.open(path)
    assert session.draft == draft
    assert session.section == window.session.section
    session.undo()
    session.close()
    session.jobs.finish()


def test_a_cords_name_that_was_being_typed_is_taken_when_the_weave_is_open_again(window, settled, qtbot):
    from dim_ladder.app.hang.screen import HangScreen
    from dim_ladder.app.session import Session

    hang = window.screen_of("view.hang")
    type_in(hang.rows[0].name, "s")
    path = window.session.path
    ended(window)
    session = Session()
    session.open(path)
    assert session.custody.keeper.forms == {"typing name of tide": "tides"}
    again = HangScreen(session)
    qtbot.waitUntil(lambda: session.weave.cords[0].name == "tides")
    assert session.custody.keeper.forms == {"typing name of tide": ""}
    session.undo()
    assert session.weave.cords[0].name == "tide"
    session.switched.emit()  # fields of before are gone, and nothing of them is asked
    again.deleteLater()
    session.close()
    session.jobs.finish()
