"""The screens after recording: a tie is logged and teaches, a size gives cuts, the sheet is previewed and published."""

import io
import json
import re

import pytest
from pypdf import PdfReader
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton

from dim_ladder.app.sheet.screen import read_sizes
from dim_ladder.app.sizes import SizesDialog
from dim_ladder.base import InputError
from dim_ladder.calibrate import ties_to_csv
from dim_ladder.commands import RemoveItem, SetPlan, SetScript, SetSheet
from dim_ladder.commands.sheets import sheet_of
from dim_ladder.notation import write
from dim_ladder.scale import Plan
from dim_ladder.scale.cuts import odds
from dim_ladder.shelf.sizes import USUAL, tables_of
from helpers.ties import tie
from helpers.weaves import JOINED, PLAIT


@pytest.fixture
def ties(window, settled):
    screen = window.screen_of("view.tie")
    settled(window)
    return screen


def fill(
    screen, units="6", length="10,5 cm", readings=(("80 cm", "44 cm"), ("1 m", "56.5 cm"), ("1 m", "54 cm"))
):
    screen.counts["bar"].setText(units)
    screen.length.setText(length)
    for line, (cut, left) in zip(screen.lines, readings, strict=True):
        line.cut.setText(cut)
        line.left.setText(left)


def test_the_form_asks_for_what_this_weave_has(ties):
    assert list(ties.counts) == ["bar"]
    # Both fillers do the same work and are measured together, leader and wrapper apart.
    assert [line.ends for line in ties.lines] == [("tide.a", "tide.b"), ("buoy.a",), ("buoy.b",)]


def test_a_tie_is_logged_and_shows_at_once_what_it_does(window, ties, settled, qtbot):
    before = window.session.calibration.ties
    fill(ties)
    qtbot.waitUntil(lambda: ties.preview is not None)
    assert ties.headline.text().startswith("With this tie (5 test ties")
    assert len(window.session.document.ties) == before  # only looked at so far
    assert ties.log_tie()
    settled(window)
    logged = window.session.document.ties[-1]
    assert logged.id == "T5"
    assert logged.counts == {"bar": 6}
    assert logged.length_mm == 105
    assert [r.used_mm for r in logged.readings] == pytest.approx([360, 435, 460])
    assert logged.tension == "snug"
    assert ties.headline.text().startswith("From 5 test ties")
    assert ties.lines[0].left.text() == ""
    assert ties.lines[0].cut.text() == "80 cm"  # the next tie is usually cut the same
    window.run("edit.undo")
    assert len(window.session.document.ties) == before


def test_partial_records_are_taken(window, ties):
    fill(ties, length="", readings=(("", ""), ("1 m", "56.5 cm"), ("1 m", "")))
    assert ties.log_tie()
    logged = window.session.document.ties[-1]
    assert logged.length_mm is None
    assert [r.ends for r in logged.readings] == [("buoy.a",), ("buoy.b",)]
    assert logged.readings[1].used_mm is None


@pytest.mark.parametrize(
    ("changes", "message"),
    [
        ({"units": "", "length": ""}, "how many units"),
        ({"units": "six"}, "not a whole number"),
        ({"length": "10 parsecs"}, "not a unit of length"),
        ({"readings": (("", ""), ("1 m", "2 m"), ("", ""))}, "more is left over than was cut"),
        ({"length": "", "readings": (("", ""),) * 3}, "Nothing is measured yet"),
        ({"length": "99999 km"}, "not a unit"),
    ],
)
def test_what_cannot_be_is_refused_and_the_form_stays(window, ties, changes, message):
    fill(ties, **changes)
    assert not ties.log_tie()
    assert message in window.message_text.text()
    assert len(window.session.document.ties) == 4
    assert ties.counts["bar"].text() == changes.get("units", "6")


def test_measuring_together_or_apart(window, ties):
    next(b for b in ties.findChildren(QPushButton) if b.text() == "apart").click()
    assert [line.ends for line in ties.lines][:2] == [("tide.a",), ("tide.b",)]
    next(b for b in ties.findChildren(QPushButton) if b.accessibleName() == "Measure tide together").click()
    assert ties.lines[0].ends == ("tide.a", "tide.b")


def test_ties_are_removed_imported_and_exported(window, ties, tmp_path, monkeypatch):
    monkeypatch.setattr(window.filing, "choose_how", lambda found: "keep")
    next(b for b in ties.findChildren(QPushButton) if b.accessibleName() == "Remove tie T2").click()
    assert [t.id for t in window.session.document.ties] == ["T1", "T3", "T4"]
    table = tmp_path / "ties.csv"
    table.write_text(ties_to_csv((tie("T1", 12), tie("X1"))), "utf-8")
    window.filing.import_ties(table)
    assert [t.id for t in window.session.document.ties] == ["T1", "T3", "T4", "X1"]
    assert window.session.document.ties[0].counts != {"bar": 12}  # what is there is not overwritten
    table.write_text("nonsense", "utf-8")
    with pytest.raises(InputError, match="no column"):
        window.filing.import_ties(table)


def test_another_weave_gets_its_own_form(window, ties, settled):
    window.session.do(SetScript(text=PLAIT))
    settled(window)
    assert list(ties.counts) == ["reed"]
    assert len(ties.lines) == 3


def test_the_form_asks_anew_when_the_roles_of_a_new_weave_are_known(window, ties, settled, tmp_path):
    plait = next(p for p in window.session.path.parent.iterdir() if p.name.startswith("reed"))
    tern = window.session.path
    window.open_path(plait)
    window.open_path(tern)  # before the plait's rates arrive
    settled(window)
    assert [line.ends for line in ties.lines] == [("tide.a", "tide.b"), ("buoy.a",), ("buoy.b",)]


# -- cut ------------------------------------------------------------------------------------------


@pytest.fixture
def cut(window, settled):
    screen = window.screen_of("view.cut")
    settled(window)
    return screen


def enter(field, text):
    field.setFocus()
    field.setText(text)
    field.setModified(True)
    field.editingFinished.emit()


def test_the_size_gives_units_and_cuts_to_read_out(window, cut, settled):
    assert "cut" in cut.headline.text()
    assert "off the middle, D longer than A" in cut.headline.text()
    assert "of running short" in cut.headline.text()
    before = cut.piece
    enter(cut.form.size_field, "7 1/2 in")
    assert window.session.document.plan.size_mm == pytest.approx(190.5)
    settled(window)
    assert cut.piece.counts["bar"] > before.counts["bar"]
    assert cut.piece.cuts[1].cut_mm > before.cuts[1].cut_mm
    assert "190 girth" in cut.why.text() or "191 girth" in cut.why.text()
    assert cut.drawing.accessibleDescription().count("cut") == 2
    window.run("edit.undo")
    assert window.session.document.plan.size_mm == 170
    assert cut.form.size_field.text() == "17 cm"


def test_an_alternative_is_kept_until_the_size_changes(window, cut, settled):
    other = cut.piece.alternatives[0]
    cut.units.options.itemAt(1).widget().click()
    settled(window)
    assert cut.piece.counts == other.counts
    assert window.session.document.plan.chosen == other.counts
    enter(cut.form.size_field, "18 cm")
    assert window.session.document.plan.chosen == {}


def test_plain_length_fastening_ease_and_risk(window, cut, settled):
    cut.form.length.click()
    assert window.session.document.plan.target == "length"
    assert not cut.form.ease.isVisible()
    cut.form.girth.click()
    enter(cut.form.ease, "1.5 cm")
    assert window.session.document.plan.ease_mm == 15
    cut.form.fastening.setCurrentIndex(cut.form.fastening.findData("none"))
    cut.form.fastening.activated.emit(0)
    assert window.session.document.plan.fastening == "none"
    settled(window)
    long_cut = cut.piece.cuts[1].cut_mm
    cut.form.risk.slider.setValue(1)
    assert window.session.document.plan.risk == 0.1
    settled(window)
    assert cut.piece.cuts[1].cut_mm < long_cut


def test_what_counts_as_short_is_the_makers_number(window, cut, settled):
    """Shown where cuts are, changed there, undone, and counted: for a small piece what is held is most of the cut."""
    assert (cut.form.tail.text(), cut.form.hold.text()) == ("30 mm", "60 mm")
    before = cut.piece
    assert f"{odds(before.chance_short)} that any end of the piece is short" in cut.why.text()
    assert before.chance_short >= max(c.chance_short for c in before.cuts)
    enter(cut.form.tail, "8 cm")
    settled(window)
    assert window.session.document.plan.tail_mm == 80
    assert cut.piece.cuts[1].ends[0].tail_mm == 80
    more = cut.piece.cuts[1].cut_mm - before.cuts[1].cut_mm
    assert more == pytest.approx(2 * 50, abs=11)
    window.run("edit.undo")
    settled(window)
    assert cut.piece.cuts[1].cut_mm == before.cuts[1].cut_mm
    enter(cut.form.hold, "3 m")
    assert "Check the unit" in window.message_text.text()
    assert window.session.document.plan.hold_mm is None
    assert cut.form.hold.text() == "60 mm"


def test_impossible_sizes_are_explained(window, cut, settled):
    enter(cut.form.size_field, "3 zz")
    assert "not a unit" in window.message_text.text()
    enter(cut.form.size_field, "30 m")
    assert "cannot be tied" in window.message_text.text()
    assert window.session.document.plan.size_mm == 170
    window.session.do(SetPlan(plan=Plan(target="length", size_mm=35)))
    settled(window)
    assert "too short" in cut.headline.text()
    assert cut.piece is None


# -- sheet ----------------------------------------------------------------------------------------


@pytest.fixture
def sheet(window, settled):
    screen = window.screen_of("view.sheet")
    settled(window)
    return screen


def text_of(pdf: bytes) -> str:
    return " ".join(" ".join(p.extract_text().split()) for p in PdfReader(io.BytesIO(pdf)).pages)


def test_the_preview_is_the_sheet_itself(window, sheet):
    import io

    assert sheet.pdf.startswith(b"%PDF-")
    assert sheet.view.pages == len(PdfReader(io.BytesIO(sheet.pdf)).pages) >= 2
    image = sheet.view.viewport().grab().toImage()
    colours = {
        image.pixelColor(x, y).name() for x in range(40, image.width() - 40, 7) for y in range(40, 300, 5)
    }
    assert len(colours) > 10  # a page with ink on it, not a blank


def test_choices_change_the_preview_and_are_undone(window, sheet, settled):
    before = sheet.pdf
    next(b for b in sheet.voices.buttons() if b.property("value") == "macrame").click()
    settled(window)
    assert sheet.pdf != before
    sheet.texts["designer"].setText("The hide keepers")
    sheet.texts["designer"].editingFinished.emit()
    sheet.sizes.setText("kid 13 cm, adult 7 in")
    sheet.sizes.editingFinished.emit()
    assert [(r.name, round(r.size_mm)) for r in window.session.document.sheet.sizes] == [
        ("kid", 130),
        ("adult", 178),
    ]
    for _ in range(3):
        window.run("edit.undo")
    settled(window)
    assert sheet.pdf == before
    sheet.sizes.setText("enormous")
    sheet.sizes.editingFinished.emit()
    assert "is not a size" in window.message_text.text()


def test_sizes_as_typed():
    assert [(r.name, r.size_mm) for r in read_sizes("S 15 cm, M 82,5 cm")] == [("S", 150), ("M", 825)]
    with pytest.raises(InputError):
        read_sizes("S")


def test_publishing_writes_the_files_and_says_where(window, sheet, settled, tmp_path):
    folder = tmp_path / "out"
    folder.mkdir()
    sheet.publish(folder)
    settled(window)
    assert sorted(p.name for p in folder.iterdir()) == [
        "tern-ladder-cuts.csv",
        "tern-ladder.html",
        "tern-ladder.pdf",
    ]
    assert "Published in" in window.message_text.text()


def test_publishing_into_nothing_is_explained(window, sheet, settled, tmp_path):
    sheet.publish(tmp_path / "nowhere")
    settled(window)
    assert "Cannot write" in window.message_text.text()
    assert "no such file or folder" in window.message_text.text()


def test_a_weave_with_a_slip_has_no_sheet_and_says_why(window, sheet, settled):
    window.session.do(RemoveItem(section="bar", at=0))
    window.session.do(SetScript(text=PLAIT + "  3: over 1\n"))
    settled(window)
    assert sheet.trouble.isVisible()
    assert "between them hangs" in sheet.trouble.text()
    assert not sheet.publish_button.isEnabled()
    window.run("edit.undo")
    settled(window)
    assert not sheet.trouble.isVisible()
    assert sheet.publish_button.isEnabled()


def test_fields_mark_what_cannot_be_read(ties, qtbot):
    field = ties.length
    field.setFocus()
    qtbot.keyClicks(field, "12 foos")
    qtbot.keyClick(field, Qt.Key.Key_Tab)
    assert field.property("wrong") is True
    assert "not a unit" in field.toolTip()
    field.clear()
    assert field.property("wrong") is False


def test_what_cannot_be_counted_says_why_on_every_screen(window, qtbot):
    session = window.session
    assert session.do(
        SetScript(text=write(session.weave).replace("tuck-and-melt (1 | 4)", "tuck-and-melt (1 | 9)"))
    )
    qtbot.waitUntil(lambda: not session.jobs.busy)
    cut, tie = window.screen_of("view.cut"), window.screen_of("view.tie")
    for said in (cut.headline.text(), tie.lessons.headline.text()):
        assert "there is no place 9" in said
    ring = 'weave "Ring"\ncords\n  a  polyester-1mm  #1f6f8b\nhang on former\n  a.a\nsection r: body, on former, leads 4 bights 13\n  raise to leads 6\n'
    assert session.do(SetScript(text=ring))
    qtbot.waitUntil(lambda: not session.jobs.busy)
    qtbot.waitUntil(lambda: session.calibration is not None and session.calibration.prior.only_rings)
    qtbot.waitUntil(lambda: cut.headline.text().startswith("A: cut "))
    assert "round the former" in cut.why.text()
    assert tie.form.length_label.text() == "girth of the former"
    assert session.do(SetScript(text=ring.partition("section")[0]))
    qtbot.waitUntil(lambda: "Record a unit first" in cut.headline.text())


# -- what a designer adds to the sheet ------------------------------------------------------------------


def test_a_step_is_put_in_own_words_flagged_when_it_changes_and_undone(window, sheet, settled):
    settled(window)
    sheet.extras.words.click()
    dialog = sheet.extras.sentences
    field = dialog.fields["bar", 1]
    program = field.toPlainText()
    field.setPlainText("As the tern flies: far right over all.")
    field.take()
    settled(window)
    assert window.session.document.sheet.reworded[0].was == program
    assert "As the tern flies" in text_of(sheet.pdf)
    assert not dialog.flags
    window.run("edit.undo")
    settled(window)
    assert "As the tern flies" not in text_of(sheet.pdf)
    window.run("edit.redo")
    # The step changes under the words: they are named, and the program speaks until the maker has decided.
    script = write(window.session.weave).replace("v: over c", "v: under c", 1)
    window.session.do(SetScript(text=script))
    settled(window)
    assert "As the tern flies" not in text_of(sheet.pdf)
    assert sheet.extras.flagged.text().startswith("1 step has changed under your words")
    keep, _drop = dialog.flags
    keep.click()
    settled(window)
    assert "As the tern flies" in text_of(sheet.pdf)
    assert not dialog.flags
    assert sheet.extras.flagged.isHidden()


def test_a_photo_is_put_on_the_sheet_and_taken_off(window, sheet, settled, tmp_path):
    settled(window)
    before = len(sheet.pdf)
    from PIL import Image

    Image.radial_gradient("L").resize((600, 400)).convert("RGB").save(
        tmp_path / "tern.jpg", comment=b"secret"
    )
    sheet.extras.take_photo(tmp_path / "tern.jpg")
    settled(window)
    assert window.session.document.photo
    assert len(sheet.pdf) > before + 2000
    assert b"secret" not in sheet.pdf
    sheet.extras.photo.click()
    assert window.session.document.photo == ""
    window.run("edit.undo")
    assert window.session.document.photo
    (tmp_path / "none.jpg").write_text("no picture")
    said = []
    window.session.said.connect(said.append)
    sheet.extras.take_photo(tmp_path / "none.jpg")
    settled(window)
    assert any("none.jpg cannot be read as a picture" in s for s in said)


def test_other_cords_are_offered_to_the_reader_of_the_page(window, sheet, settled, tmp_path):
    settled(window)
    sheet.extras._fill()
    names = [a.text() for a in sheet.extras.menu.actions()]
    assert len(names) > 3
    sheet.extras.choose_kind("cotton-3mm")
    assert window.session.document.sheet.kinds == ("cotton-3mm",)
    assert sheet.extras.cords.text() == "Other cords: 1"
    sheet.publish(tmp_path)
    settled(window)
    html = next(p for p in sheet.published if p.suffix == ".html").read_text("utf-8")
    data = json.loads(re.search(r'id="data">(.*?)</script>', html, re.S)[1])
    assert [t["cord"] for t in data["tables"]] == ["nylon kernmantle 4 mm", "cotton cord 3 mm"]
    sheet.extras.choose_kind("cotton-3mm")
    assert window.session.document.sheet.kinds == ()


def test_the_fastening_is_asked_once_where_nothing_says_it(window, cut, settled):
    assert window.session.document.plan.fastening == ""
    assert cut.piece.closing.key == "side-buckle"  # it hangs on one
    assert "since it hangs on a buckle" in cut.why.text()
    assert cut._doubt_card.isHidden()
    window.session.do(SetScript(text=write(window.session.weave).replace("hang on buckle", "hang on bar")))
    settled(window)
    assert "Choose a fastening" in cut.doubt.text()
    assert not cut._closings.isHidden()
    before = cut.piece.wanted_mm
    cut.closings["loop-and-button"].click()
    settled(window)
    assert window.session.document.plan.fastening == "loop-and-button"
    assert cut.piece.wanted_mm == pytest.approx(before - 15)
    assert "Choose" not in cut.doubt.text()
    window.run("edit.undo")
    settled(window)
    assert "Choose a fastening" in cut.doubt.text()


def test_ones_own_buckle_a_closure_that_opens_and_the_slider(window, cut, settled):
    def plan():
        return window.session.document.plan

    wanted = cut.piece.wanted_mm
    enter(cut.form.adds, "25 mm")
    settled(window)
    assert plan().fastening_mm == 25
    assert cut.piece.wanted_mm == pytest.approx(wanted + 7)
    assert cut.form.opens.isHidden()
    cut.form.fastening.setCurrentIndex(cut.form.fastening.findData("sliding"))
    cut.form.fastening.activated.emit(0)
    assert plan().fastening_mm is None  # the length was the buckle's
    assert not cut.form.opens.isHidden()
    enter(cut.form.opens, "9 cm")
    settled(window)
    assert plan().open_mm == 90
    longer = cut.piece.cuts[0].cut_mm
    enter(cut.form.opens, "")
    settled(window)
    assert plan().open_mm is None
    assert cut.piece.cuts[0].cut_mm < longer
    edits = len(window.session.history.past()[0])
    cut.form.risk.slider.setSliderDown(True)
    for value in (4, 5, 6):
        cut.form.risk.slider.setValue(value)
    assert plan().risk == 0.02  # while it is dragged only its words follow
    assert cut.form.risk.words.text() == "1 in 500"
    cut.form.risk.slider.setSliderDown(False)
    assert plan().risk == 0.002
    assert len(window.session.history.past()[0]) == edits + 1


def test_a_count_is_kept_and_free_again(window, cut, settled):
    number, keep = cut.units.counts["bar"]
    first = cut.piece.counts["bar"]
    number.setValue(first - 4)
    settled(window)
    assert window.session.document.plan.chosen == {"bar": first - 4}
    assert cut.piece.counts["bar"] == first - 4
    assert keep.isChecked()
    assert window.session.document.plan.kept == ("bar",)
    assert "tighter" in cut.why.text() or "its ease becomes" in cut.why.text()
    assert f"{first - 4} × bar" in cut.tape.accessibleDescription()
    assert "under" in cut.tape.accessibleDescription()
    enter(cut.form.size_field, "18 cm")  # what is kept stays in every size, on the sheet as well
    settled(window)
    assert cut.piece.counts["bar"] == first - 4
    sheet = sheet_of(window.session.document)
    assert {dict(c.counts)["bar"] for c in sheet.sizes} == {first - 4}
    enter(cut.form.size_field, "17 cm")
    settled(window)
    keep.click()
    settled(window)
    assert window.session.document.plan.kept == ()
    assert window.session.document.plan.chosen == {}
    assert cut.piece.counts["bar"] == first


def test_sizes_come_from_the_workshops_tables(window, cut, settled, monkeypatch):
    cut.form.sizes.fill()
    wrists = cut.form.sizes.menu_of.actions()[0].menu()
    [large] = [a for a in wrists.actions() if a.text().startswith("L ")]
    large.trigger()
    settled(window)
    assert window.session.document.plan.size_mm == 190
    window.run("edit.undo")
    folder = window.session.path.parent

    def typed(dialog):
        dialog.text.setPlainText("legs, girth\n heron 4 parsecs")
        dialog.accept()
        assert "line 2" in dialog.trouble.text()
        assert dialog.tables is None
        dialog.text.setPlainText("legs, girth\n heron 41 mm\n stork 44 mm")
        dialog.accept()
        return 1

    monkeypatch.setattr(SizesDialog, "exec", typed)
    cut.form.sizes.edit()
    assert [t.name for t in tables_of(folder)] == ["legs"]
    sheet = window.screen_of("view.sheet")
    settled(window)
    sheet.tables.fill()
    sheet.tables.menu_of.actions()[0].trigger()
    assert [(r.name, r.size_mm) for r in window.session.document.sheet.sizes] == [
        ("heron", 41),
        ("stork", 44),
    ]
    window.run("edit.undo")
    assert [r.name for r in window.session.document.sheet.sizes] == ["S", "M", "L"]
    cut.form.sizes.fill()
    cut.form.sizes.menu_of.actions()[-1].trigger()  # the last change of the tables back
    assert tables_of(folder) == USUAL


def test_leaving_a_field_is_no_edit_however_it_is_rounded(window, cut, settled):
    window.session.do(SetPlan(plan=window.session.document.plan.model_copy(update={"size_mm": 1114.0})))
    sheet = window.session.document.sheet.model_copy(update={"units": "imperial"})
    window.session.do(SetSheet(sheet=sheet))
    settled(window)
    plan = window.session.document.plan
    for field in (cut.form.size_field, cut.form.ease, cut.form.tail, cut.form.hold, cut.form.adds):
        field.editingFinished.emit()
    assert window.session.document.plan == plan


def test_a_join_is_hidden_behind_the_unit_one_chooses(window, cut, settled):
    window.session.do(SetScript(text=JOINED))
    settled(window)
    number = cut.asks.joins["buoy"]
    assert number.text() == "the start"
    number.setValue(4)
    settled(window)
    moved = next(c for c in window.session.weave.cords if c.name == "buoy")
    assert moved.join_mm > 50
    assert cut.asks.joins["buoy"].value() == 4
    assert "joined to tide" in cut.headline.text() or "joined to buoy" in cut.headline.text()
    window.run("edit.undo")
    settled(window)
    assert cut.asks.joins["buoy"].value() == 0


def test_where_the_numbers_come_from_is_said_on_request(window, cut, settled):
    assert cut.derived.isHidden()
    cut.derive.click()
    assert not cut.derived.isHidden()
    said = cut.derived.text()
    assert "170 girth + 8 ease" in said
    assert f"{cut.piece.counts['bar']} × bar of " in said
    for c in cut.piece.cuts:
        assert f"{c.cord}: " in said
        assert f"{c.cut_mm:.0f} mm." in said


def test_a_section_is_worked_in_whole_colour_cycles_by_one_click(window, cut, settled):
    window.session.do(SetScript(text=PLAIT.replace("fit multiple of 3", "fit")))
    settled(window)
    whole = cut.units.cycles["reed"]
    assert not whole.isHidden()
    assert whole.text() == "in whole 3s"
    assert not whole.isChecked()
    whole.click()
    settled(window)
    assert window.session.weave.sections[0].count.number == 3
    assert cut.piece.counts["reed"] % 3 == 0
    window.run("edit.undo")
    settled(window)
    assert window.session.weave.sections[0].count.number == 1
    assert not whole.isChecked()
