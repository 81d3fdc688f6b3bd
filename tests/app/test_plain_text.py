"""Words of a document are shown as they are: no label, tool tip or question takes them for rich text."""

import re
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QTextDocument
from PySide6.QtWidgets import QLabel, QMessageBox, QWidget

from dim_ladder.calibrate import Reading, Tie
from dim_ladder.commands import AddTie, SetName
from dim_ladder.commands.table import ACTIONS

NASTY = "<img src='file:///etc/hostname'><b>bold</b>"
APP = Path(__file__).parents[2] / "src" / "dim_ladder" / "app"


def rich(window):
    """Whatever shows the nasty words as rich text."""
    found = []
    for widget in window.findChildren(QWidget):
        if (
            isinstance(widget, QLabel)
            and NASTY in widget.text()
            and widget.textFormat() != Qt.TextFormat.PlainText
        ):
            found.append(widget.text())
        tip = widget.toolTip()
        if NASTY in tip and Qt.mightBeRichText(tip):
            found.append(tip)
    return found


def test_nothing_of_a_document_is_rich_text_on_any_screen(window, settled):
    window.session.do(SetName(name=NASTY))
    readings = (
        Reading(ends=("buoy.a",), cut_mm=1800, left_mm=100),
        Reading(ends=("tide.a", "tide.b"), cut_mm=900, left_mm=600),
    )
    window.session.do(
        AddTie(tie=Tie(id=NASTY, counts={"bar": 6}, length_mm=100, who=NASTY, note=NASTY, readings=readings))
    )
    shown = 0
    for stage in [
        a.id
        for a in ACTIONS
        if a.id in ("view.hang", "view.record", "view.look", "view.tie", "view.cut", "view.sheet")
    ]:
        window.stage(stage)
        settled(window)
        assert rich(window) == [], stage
        shown += sum(NASTY in label.text() for label in window.findChildren(QLabel))
    window.screen_of("view.tie").form.change(window.session.document.ties[-1])
    settled(window)
    assert any(label.text() == f"Change {NASTY}" for label in window.findChildren(QLabel))
    assert rich(window) == []
    window.say(NASTY)
    assert rich(window) == []
    assert shown


def test_a_question_shows_a_name_letter_by_letter(window, monkeypatch):
    window.session.new()
    window.session.do(SetName(name=NASTY))
    asked = []
    monkeypatch.setattr(QMessageBox, "exec", lambda self: (asked.append(self), 0)[1])
    assert not window.filing.may_switch()
    (box,) = asked
    assert NASTY in box.text()
    assert box.textFormat() == Qt.TextFormat.PlainText


def test_rich_text_is_where_it_is_meant_alone():
    """A label that takes rich text by itself is made nowhere; where it is asked for, every word in it is escaped."""
    for path in APP.rglob("*.py"):
        if path.name != "labels.py":
            assert not re.search(r"(?<!\w)QLabel\(", path.read_text("utf-8")), path
    document = QTextDocument()
    document.setHtml(NASTY)
    assert (
        NASTY not in document.toPlainText()
    )  # what the test above would let through, were it not for plain text
