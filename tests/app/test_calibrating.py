"""Test ties in the window: partial records, slips that are pointed out, charts, changes, and instruments."""

from functools import partial

import pytest
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QLabel, QPushButton

from dim_ladder.app.tie.reading import read_left
from dim_ladder.base import InputError
from dim_ladder.calibrate.prior import soft_spread
from dim_ladder.commands import AddItem, AddTie, RemoveTie, ReplaceTie, SetScript, calibrating
from dim_ladder.scale.cuts import given_cut
from helpers.ties import tie


@pytest.fixture
def ties(window, settled):
    window.stage("view.tie")
    settled(window)
    return window.screen_of("view.tie")


def texts(widget):
    return "\n".join(label.text() for label in widget.findChildren(QLabel))


def button(widget, name):
    return next(b for b in widget.findChildren(QPushButton) if b.accessibleName() == name or b.text() == name)


def type_in(screen, readings, units="6", length="6.8 cm"):
    screen.counts["bar"].setText(units)
    screen.length.setText(length)
    for line, (cut, left) in zip(screen.lines, readings, strict=True):
        line.cut.setText(cut)
        line.left.setText(left)


# -- records ---------------------------------------------------------------------------------------


def test_leftovers_may_be_weighed(window, ties):
    type_in(ties, (("80 cm", "2.9 g"), ("", ""), ("", "")), length="")
    assert ties.log_tie()
    (reading,) = window.session.document.ties[-1].readings
    assert (reading.left_g, reading.left_mm, reading.cut_mm) == (2.9, None, 800)
    assert read_left("12,5 g") == 12.5
    assert read_left("30 + 2.5 cm") == 325
    with pytest.raises(InputError, match="not a mass"):
        read_left("heavy g")
    with pytest.raises(InputError, match="out of bounds"):
        read_left("-3 g")


def test_all_cord_in_one_reading_and_no_count(window, ties, settled):
    button(ties, "all in one").click()
    (line,) = ties.lines
    assert set(line.ends) == {"buoy.a", "buoy.b", "tide.a", "tide.b"}
    line.cut.setText("3 m")
    line.left.setText("175 cm")
    ties.length.setText("10,4 cm")
    assert ties.log_tie()  # its units follow from its length
    settled(window)
    logged = window.session.document.ties[-1]
    assert (logged.counts, logged.length_mm) == ({}, 104)
    assert window.session.calibration.left_out == ()
    assert window.session.calibration.ties == 5
    button(ties, "each cord").click()
    assert len(ties.lines) == 3


def test_a_tie_knows_its_cord_and_its_version(window, ties):
    type_in(ties, (("80 cm", "44 cm"), ("1 m", "56.5 cm"), ("1 m", "54 cm")))
    ties.form.who.setText("Wren")
    ties.form.lot.setText("spool 3")
    ties.form.name_photos([window.session.path.parent / "one.jpg"])
    assert ties.log_tie()
    logged = window.session.document.ties[-1]
    assert logged.kinds == {"tide": "nylon-4mm", "buoy": "nylon-4mm"}
    assert set(logged.versions) == {"bar"}
    assert (logged.who, logged.lot, logged.photos) == ("Wren", "spool 3", ("one.jpg",))
    assert ties.form.photos == ()


def test_a_logged_tie_is_changed_and_taken_back(window, ties, settled):
    button(ties, "Change tie T2").click()
    assert button(ties, "Keep the change to T2")
    before = window.session.document.ties[1]
    shown = ties.form.tie()
    assert {r.ends: r for r in shown.readings} == {r.ends: r for r in before.readings}
    assert shown.model_copy(update={"readings": before.readings}) == before
    ties.counts["bar"].setText("9")
    assert ties.log_tie()
    changed = window.session.document.ties[1]
    assert changed.counts == {"bar": 9}
    assert changed.readings == shown.readings
    assert len(window.session.document.ties) == 4
    assert ties.form.changing is None
    window.run("edit.undo")
    assert window.session.document.ties[1] == before
    button(ties, "Change tie T1").click()
    button(ties, "Leave it as it was").click()
    assert ties.form.changing is None
    assert ties.lines[0].cut.text() == ""


def test_ties_of_another_version_are_left_out_until_they_are_said_to_be_right(window, ties, settled):
    type_in(ties, (("80 cm", "44 cm"), ("1 m", "56.5 cm"), ("1 m", "54 cm")))
    assert ties.log_tie()
    window.session.do(AddItem(section="bar", text="half-right (1 | 2 3 | 4)"))
    settled(window)
    assert window.session.calibration.data.outdated == ("T5",)
    assert "T5: tied on another version of bar" in texts(ties.lessons)
    button(ties.lessons, "They are still right: count them").click()
    settled(window)
    assert window.session.calibration.data.outdated == ()
    assert "T5" in window.session.calibration.data.ids
    window.run("edit.undo")
    settled(window)
    assert window.session.calibration.data.outdated == ("T5",)


# -- judgement -------------------------------------------------------------------------------------


def test_a_slip_is_pointed_out_while_it_is_typed_and_mended_by_one_click(window, ties, settled):
    type_in(ties, (("80 cm", "58.8 cm"), ("1 m", "26.9 cm"), ("1 m", "67.6 cm")))
    settled(window)
    QTest.qWait(200)
    settled(window)
    assert "T5 does not fit: buoy A took" in texts(ties.lessons)
    assert "read in inches" in texts(ties.lessons)
    button(ties.lessons, "Change it so").click()
    assert ties.lines[1].left.value == pytest.approx(269 * 2.54, abs=0.1)
    QTest.qWait(200)
    settled(window)
    assert "does not fit" not in texts(ties.lessons)
    assert len(window.session.document.ties) == 4  # nothing is logged by itself


def test_a_logged_slip_is_mended_and_undone(window, ties, settled):
    doubled = tie("T9", 6, b=(46.0, 47.5, 10.0), pitch=9.9, kinds={}).model_copy(
        update={"counts": {"bar": 12}}
    )
    window.session.do(AddTie(tie=doubled))
    settled(window)
    assert "miscounted: 6 units, not 12" in texts(ties.lessons)
    button(ties.lessons, "Change it so").click()
    settled(window)
    assert window.session.document.ties[-1].counts == {"bar": 6}
    assert "does not fit" not in texts(ties.lessons)
    window.run("edit.undo")
    assert window.session.document.ties[-1].counts == {"bar": 12}


def test_ties_that_contradict_each_other_give_no_cut(window, ties, settled):
    for k in range(8):
        window.session.do(AddTie(tie=tie(f"X{k}", 8, 1.0 + 0.8 * (k % 2))))
    settled(window)
    assert "Not to be relied on" in texts(ties.lessons)
    window.stage("view.cut")
    settled(window)
    assert "contradict each other" in texts(window.screen_of("view.cut")) + window.message_text.text()


def test_what_to_tie_next_and_the_rule_are_said(window, ties, settled):
    for t in window.session.document.ties[1:]:
        window.session.do(ReplaceTie(id=t.id, tie=t.model_copy(update={"readings": (), "length_mm": None})))
    settled(window)
    assert "Next: Tie" in ties.lessons.advice.text()
    assert "of every piece after it" in ties.lessons.advice.text()
    assert "A foot of cord for an inch of band" in ties.lessons.notes.text()
    assert "nothing in it was measured" in texts(ties.lessons)


def test_another_cut_is_asked_about_where_cuts_are(window, settled):
    window.stage("view.cut")
    settled(window)
    screen = window.screen_of("view.cut")
    field, said = screen.asks.given["buoy"]
    field.setText("1.6 m")
    assert said.text().startswith("1.60 m of buoy, folded 1")
    assert "mm off the middle with D longer" in said.text()
    assert "% of running short" in said.text()
    field.setText("2.2 m")
    assert "1 in " in said.text()
    field.setText("2 parsecs")
    assert said.text() == ""
    field.setText("")
    assert said.text() == ""


# -- charts ----------------------------------------------------------------------------------------


def test_charts_can_be_asked_stepped_through_read_and_saved(window, ties, settled, tmp_path, monkeypatch):
    box = ties.lessons.chart
    for pill, words in zip(
        ties.lessons.pills.buttons(),
        ("Cord used", "readings fit", "running short", "ties against"),
        strict=True,
    ):
        pill.click()
        settled(window)
        assert words in box.view.accessibleDescription()
        assert box.view.accessibleDescription()
        box.view.setFocus()
        QTest.keyClick(box.view, Qt.Key.Key_Right)
        spot = box.view.spot
        assert box.words.text() == ties._named(spot.text)
        # The pointer finds the same point.
        QTest.keyClick(box.view, Qt.Key.Key_Left)
        at = box.view._origin + QPointF(spot.x, spot.y) * box.view._scale
        QTest.mouseMove(box.view, at.toPoint())
        assert box.view.spot is not None
        assert box.table.rowCount() >= 2
    button(box, "table").click()
    assert box.stack.currentWidget() is box.table
    button(box, "chart").click()
    for suffix in ("svg", "png"):
        path = tmp_path / f"chart.{suffix}"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a, path=path: (str(path), ""))
        button(box, "save picture…").click()
        assert path.exists()
    with Image.open(tmp_path / "chart.png") as image:
        assert image.width > 800
    assert "<svg" in (tmp_path / "chart.svg").read_text("utf-8")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: ("/nowhere/at/all.svg", ""))
    button(box, "save picture…").click()
    assert "no such file or folder" in window.message_text.text()


def test_a_point_leads_to_its_tie(window, ties, settled):
    view = ties.lessons.chart.view
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_Right)
    QTest.keyClick(view, Qt.Key.Key_Return)
    assert ties.form.changing.id == "T1"


# -- instruments -----------------------------------------------------------------------------------


def steady(qtbot, known, value):
    def said():
        m = known.measure
        return m is not None and m.steady and abs(m.value - value) < 6 * known.simulated.kind.noise + 0.1

    qtbot.waitUntil(said)


def test_readings_are_taken_by_a_key_and_nothing_waits(window, ties, settled, qtbot):
    panel = ties.instruments
    panel.choice.setCurrentIndex(panel.choice.findData("simulated:wheel"))
    button(panel, "Connect").click()
    (wheel,) = panel.known
    wheel.simulated.put(800.0)
    steady(qtbot, wheel, 800.0)
    ties.lines[0].cut.setFocus()
    window.run("tie.take")
    assert ties.lines[0].cut.value == pytest.approx(800, abs=8)
    assert window.focusWidget() is ties.lines[0].left  # on to the next
    assert panel.connect_to("simulated:scale")
    scale = panel.known[1]
    scale.simulated.put(3.1)
    steady(qtbot, scale, 3.1)
    window.run("tie.take")  # the scale is in hand now, and a leftover may be weighed
    assert ties.form.tie().readings[0].left_g == pytest.approx(3.1, abs=0.2)
    scale.simulated.put(9.0)
    steady(qtbot, scale, 9.0)
    settled(window)  # what is typed is looked at meanwhile
    ties.length.setFocus()
    assert not panel.take()
    assert "says grams; tied length is something else" in window.message_text.text()
    assert ties.length.text() == ""
    ties.counts["bar"].setFocus()
    assert not panel.take()
    scale.simulated.unplug()
    qtbot.waitUntil(lambda: len(panel.known) == 1)
    assert "unplugged" in window.message_text.text()
    assert ties.lines[0].left.text()  # what was taken stays
    panel.close_all()
    assert not panel.take()
    assert "No instrument says anything" in window.message_text.text()


def test_a_port_that_cannot_be_opened_is_said(window, ties):
    assert not ties.instruments.connect_to("/dev/nothing-here")
    assert "cannot be opened" in window.message_text.text()


def test_leaving_lets_instruments_go(window, ties):
    assert ties.instruments.connect_to("simulated:calliper")
    window.session.close()
    assert ties.instruments.known == []


def test_what_one_weave_says_of_its_cord_is_known_to_the_next(window, settled):
    first = window.session
    assert first.calibrator.softness().kind("nylon-4mm")[1] == soft_spread(
        "nylon-4mm"
    )  # nothing was tied before
    other = next(p for p in first.path.parent.iterdir() if p.name.startswith("double-bar"))
    window.open_path(other)
    settled(window)
    assert window.session.calibrator.softness().kind("nylon-4mm")[1] < soft_spread("nylon-4mm")
    assert window.session.calibration.prior.softness.kind("nylon-4mm")[1] < soft_spread("nylon-4mm")


def test_cords_measured_whole_still_meet_the_chance_that_is_accepted(window, ties, settled):
    """Typed with keys: cut and leftover of every cord as a whole. A reading in no unit is refused in between."""
    session = window.session
    for old in session.document.ties:
        session.do(RemoveTie(id=old.id))
    settled(window)
    button(ties, "together").click()
    for units, tide, buoy in (("6", "70 cm", "110 cm"), ("10", "57 cm", "56 cm"), ("8", "63.5 cm", "83 cm")):
        enter(ties.counts["bar"], units)
        for line, left in zip(ties.lines, (tide, buoy), strict=True):
            enter(line.cut, "1 m" if left == tide else "2 m")
            enter(line.left, "10 parsecs")
        assert not ties.log_tie()  # there is no such unit, and nothing of the tie is lost
        for line, left in zip(ties.lines, (tide, buoy), strict=True):
            enter(line.left, left)
        assert ties.log_tie()
        settled(window)
    assert len(session.document.ties) == 3
    window.stage("view.cut")
    settled(window)
    cut = window.screen_of("view.cut")
    buoy = next(c for c in cut.piece.cuts if c.cord == "buoy")
    assert 0.01 < buoy.chance_short <= 0.0202  # rounded up to the next centimetre, so rather less
    assert buoy.ends[0].chance_short + buoy.ends[1].chance_short >= buoy.chance_short
    # Asked about the same length, it says the same.
    asked = partial(given_cut, session.weave, session.calibration, cut.piece.counts, "buoy")
    about = {"plan": cut.piece.plan, "mm": cut.piece.tied_to_mm}
    given = asked(buoy.cut_mm, **about)
    assert given.chance_short == pytest.approx(buoy.chance_short, rel=0.05)
    shorter = asked(buoy.cut_mm - 40, **about)
    # Nothing says how long a unit is, so how many of them the length will take is rather uncertain.
    assert shorter.chance_short > 1.1 * given.chance_short


def enter(field, text):
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Tab)


def test_large_work_is_pulled_tight_where_cord_is_counted(window, settled, monkeypatch):
    """On Record and Look it would only keep the pictures waiting; cuts would go by a rough rule until somebody had looked."""
    monkeypatch.setattr(calibrating, "MOST_CORNERS", 60)
    head = "".join(f"  k{i} nylon-4mm #44556{i}\n" for i in range(4))
    head = f'weave "Rows"\ncords\n{head}hang\n  k0.a k1.a k2.a k3.a\nsection plait: body\n  plait-3 (1 2 3)\n'
    window.session.do(
        SetScript(text=head + "section rows: body\n  bar-right (1 | 2..4)\n  bar-left (1..3 | 4)\n")
    )
    settled(window)
    assert window.session.calibration.prior.shaped == ("plait",)
    window.stage("view.cut")
    settled(window)
    assert window.session.calibration.prior.shaped == ("plait", "rows")
