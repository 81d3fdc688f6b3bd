"""Kinds of cord of one's own: read, changed and tried in Hang, kept beside the weaves."""

import json

import pytest

from dim_ladder.app.hang.kind import KindDialog
from dim_ladder.library import cord_kind, own_kinds, use_kinds
from dim_ladder.library.kinds import SHIPPED
from dim_ladder.shape import ready
from dim_ladder.shelf.kinds import NAME


@pytest.fixture(autouse=True)
def _none_of_ones_own():
    assert ready(wait=True)
    yield
    use_kinds({})


@pytest.fixture
def dialog(window, settled):
    made = KindDialog(window.session, "nylon-4mm", window)
    made.show()
    settled(window)
    yield made
    made.close()
    made.deleteLater()


def test_a_kind_is_tried_on_half_knots_and_kept_beside_the_weave(window, dialog, settled, qtbot):
    qtbot.waitUntil(lambda: "each 4.9 mm long" in dialog.tried.text())
    assert not dialog.ships.isEnabled()
    dialog.fields["give"].setText("30")
    dialog.fields["soft"].setText("1.5")
    dialog.source.setText("ten half knots on the bench")
    dialog.sheath.setCurrentIndex(dialog.sheath.findData("tracer"))
    dialog.second.setText("#f0d070")
    qtbot.waitUntil(lambda: "4.9 mm" not in dialog.tried.text() and "long" in dialog.tried.text())
    look = window.screen_of("view.look")
    settled(window)
    before = look.shape.pitch
    dialog.keep.click()
    assert "cord-kinds.json beside the weave" in window.message_text.text()
    kept = json.loads((window.session.path.parent / NAME).read_text())
    assert kept["kinds"]["nylon-4mm"]["give"] == 0.3
    assert kept["kinds"]["nylon-4mm"]["source"] == "ten half knots on the bench"
    assert cord_kind("nylon-4mm").soft == 1.5
    assert (cord_kind("nylon-4mm").sheath, cord_kind("nylon-4mm").second) == ("tracer", "#f0d070")
    settled(window)
    qtbot.waitUntil(lambda: look.shape is not None and look.shape.pitch > 1.1 * before)
    # Read again with the next weave of that folder, and let go of.
    use_kinds({})
    window.open_path(window.session.path)
    assert own_kinds()["nylon-4mm"].give == 0.3
    again = KindDialog(window.session, "nylon-4mm", window)
    again.ships.click()
    assert cord_kind("nylon-4mm") == SHIPPED["nylon-4mm"]
    assert json.loads((window.session.path.parent / NAME).read_text())["kinds"] == {}
    again.deleteLater()


def test_what_cannot_be_is_said_and_not_kept(window, dialog):
    dialog.fields["give"].setText("95")
    dialog.keep.click()
    assert "give of 0.95" in dialog.wrong.text()
    dialog.fields["give"].setText("much")
    dialog.keep.click()
    assert "Gives way by" in dialog.wrong.text() or "per cent" in dialog.wrong.text()
    assert not own_kinds()


def test_it_is_asked_for_beside_the_kind_of_a_cord(window, settled, monkeypatch):
    window.stage("view.hang")
    settled(window)
    asked = []
    monkeypatch.setattr(KindDialog, "exec", lambda self: asked.append(self._name))
    row = window.screen_of("view.hang").rows[0]
    next(
        b
        for b in row.controls()
        if "kind of" in b.accessibleName() and b is not row.kind and hasattr(b, "click")
    ).click()
    assert asked == ["nylon-4mm"]


def test_a_spoiled_file_is_said_with_its_place_and_what_ships_stays(window, settled):
    path = window.session.path
    (path.parent / NAME).write_text('{"kinds": {"tarred-2mm": {"words": "tarred"}}}')
    window.open_path(path)
    assert "cord-kinds.json: kinds → tarred-2mm" in window.message_text.text()
    assert not own_kinds()


def test_flat_cord_and_stretch_are_read_and_kept(window, dialog, settled):
    assert dialog.kind().thick == 0
    dialog.fields["thick"].setText("1.2 mm")
    dialog.fields["stretch"].setText("6")
    assert (dialog.kind().thick, dialog.kind().stretch) == (1.2, 0.06)
    dialog.fields["thick"].setText("9 mm")
    settled(window)
    assert "thickness of 9" in dialog.wrong.text()
    dialog.fields["thick"].setText("1.2 mm")
    dialog.keep.click()
    kept = json.loads((window.session.path.parent / NAME).read_text())["kinds"]["nylon-4mm"]
    assert (kept["thick_mm"], kept["stretch"]) == (1.2, 0.06)
    use_kinds({})
    window.open_path(window.session.path)
    assert own_kinds()["nylon-4mm"].thick == 1.2
