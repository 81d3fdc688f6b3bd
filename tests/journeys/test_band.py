"""From an empty window to a sheet somebody else can tie from, in the maker's own moves."""

import io

from pypdf import PdfReader
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from dim_ladder.app.window import MainWindow
from dim_ladder.notation import write_item
from dim_ladder.publish import embedded_document
from dim_ladder.shelf import read_document, read_document_text
from dim_ladder.trace import close, trace
from helpers.browser import dom
from helpers.invariants import determinant_signature


def keys(widget, text):
    special = {"~": Qt.Key.Key_Return}
    for key in text:
        if key in special:
            QTest.keyClick(widget, special[key])
        else:
            QTest.keyClicks(widget, key)


def enter(field, text):
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Tab)


def test_a_flat_band_from_nothing_to_the_sheet_and_back(window, settled, tmp_path, qtbot):
    # A new weave; four ends hang; the board has the keys.
    QTest.keyClick(window, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    settled(window)
    board = window.record.board
    board.setFocus()

    # One half knot, looking at the cord: 11 keys. The window says that it will spiral.
    keys(board, "4oo~1ouuid~")
    settled(window)
    assert [write_item(i) for i in window.session.weave.sections[0].items] == [
        "4: over 3 2",
        "1: over 2, under 3 4, up 2",
    ]
    assert "This will spiral" in window.record.step.turning.text()

    # So the other side every other time: now it lies flat, and by the invariants it does.
    QTest.keyClick(window, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    settled(window)
    assert window.record.step.turning.text().startswith("Flat")
    assert determinant_signature(close(trace(window.session.weave), [1, 4], "caps")) == (9, 0)

    # A finish, typed into the script.
    script = window.record.script
    script.setFocus()
    script.moveCursor(script.textCursor().MoveOperation.End)
    keys(script, "~section end: finish~  cut-and-melt (1 | 4)~")
    script.take()
    assert [s.name for s in window.session.weave.sections] == ["unit", "end"]

    # Into a file; from here on it saves itself.
    path = tmp_path / "sluice.dimladder"
    window.session.save(path)

    # Six units tied: cut, left over, counted, measured.
    ties = window.screen_of("view.tie")
    settled(window)
    wide = window.session.calibration.need("second.a", {"unit": 11}).interval(0.9)
    enter(ties.counts["unit"], "6")
    enter(ties.length, "6.8 cm")
    assert [line.ends for line in ties.lines] == [("first.a", "first.b"), ("second.a",), ("second.b",)]
    for line, (cut, left) in zip(
        ties.lines, (("70 cm", "48.8 cm"), ("1 m", "68.4 cm"), ("1 m", "67.6 cm")), strict=True
    ):
        enter(line.cut, cut)
        enter(line.left, left)
    qtbot.mouseClick(ties.log, Qt.MouseButton.LeftButton)
    settled(window)
    narrow = window.session.calibration.need("second.a", {"unit": 11}).interval(0.9)
    assert len(window.session.document.ties) == 1
    assert narrow[1] / narrow[0] < 0.9 * wide[1] / wide[0]

    # A size: the cut, the fold and the chance are read out.
    cut = window.screen_of("view.cut")
    settled(window)
    enter(cut.form.size_field, "18 cm")
    settled(window)
    assert "fold" in cut.headline.text()
    assert "of running short" in cut.headline.text()
    piece = cut.piece
    assert piece.plan.size_mm == 180

    # The sheet, published.
    sheet = window.screen_of("view.sheet")
    enter(sheet.sizes, "mine 18 cm")
    settled(window)
    folder = tmp_path / "sheet"
    folder.mkdir()
    sheet.publish(folder)
    settled(window)
    html, pdf = folder / "new-weave.html", folder / "new-weave.pdf"
    shown, complaints = dom(html)
    assert complaints == ""
    for c in piece.cuts:
        assert f'data-mm="{c.cut_mm}"' in shown  # the same numbers as the window, to the millimetre
    text = " ".join(p.extract_text() for p in PdfReader(io.BytesIO(pdf.read_bytes())).pages)
    assert "then up through D’s loop" in text.replace("\n", " ")
    assert "Open flame" in text

    # Closed and opened again: everything is there, and the sheet holds it too.
    document = window.session.document
    assert window.close()
    assert read_document(path) == document
    assert read_document_text(embedded_document([html.read_bytes()])) == document
    again = MainWindow()
    again.open_path(path)
    again.show()
    settled(again)
    assert again.session.document == document
    assert len([r for r in again.ladder.rows if r.kind == "rung"]) == 5
    again.close()
    again.deleteLater()


def test_a_plait_by_mouse_and_a_spiral_by_script(window, settled, qtbot):
    from app.test_record import drag

    script = window.record.script
    script.setPlainText(
        'weave "Reed Hurdle"\ncords\n  a cotton-3mm #c9a13b\n  b cotton-3mm #5b7f4b\n  c cotton-3mm #7a5236\n'
        "hang on cold-start\n  a.a b.a c.a\nsection plait: body, fit multiple of 3\n"
    )
    script.take()
    settled(window)
    board = window.record.board
    drag(board.window(), 2, (1,))
    keys(board, "~")
    drag(board.window(), 0, (2,))
    keys(board, "~")
    settled(window)
    assert [write_item(i) for i in window.session.weave.sections[0].items] == ["3: over 2", "1: over 2"]
    assert determinant_signature(close(trace(window.session.weave, units=4)))[0] == 45
    assert "colours repeat after 3 units" in window.unit_words.text()

    script.setPlainText(
        script.toPlainText().split("section")[0] + "section turn: body, fit\n  plait-right (1 | 2 | 3)\n"
    )
    script.take()
    settled(window)
    assert "same side again" in window.record.step.turning.text()
