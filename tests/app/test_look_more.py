"""The tight weave turned by hand, in other colours, and as a solid."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog
from tests.app.test_look import drawn

Button, Key = Qt.MouseButton, Qt.Key


def test_it_is_turned_with_the_mouse_and_the_keys(window, look, settled):
    window.run("look.turn")
    settled(window)
    view = look.turned
    assert drawn(view) > 100
    before = view.grab().toImage()
    QTest.mousePress(view, Button.LeftButton, pos=QPoint(100, 100))
    QTest.mouseMove(view, QPoint(200, 130))
    settled(window)
    assert view.coarse < 1
    QTest.mouseRelease(view, Button.LeftButton, pos=QPoint(200, 130))
    settled(window)
    assert view.coarse == 1
    assert (view.turn, view.tip) == (pytest.approx(-60), pytest.approx(18))
    assert view.grab().toImage() != before
    assert "turned by -60° and tipped by 18°" in view.title
    QTest.keyClick(view, Key.Key_Left)
    QTest.keyClick(view, Key.Key_Down)
    assert (view.turn, view.tip) == (pytest.approx(-45), pytest.approx(33))
    for _ in range(5):
        QTest.keyClick(view, Key.Key_Down)
    assert view.tip == 80
    QTest.keyClick(view, Key.Key_0)
    settled(window)
    assert (view.turn, view.tip) == (0, 0)


def test_one_click_takes_a_colourway_and_undo_gives_the_old_one_back(window, look, settled, qtbot):
    window.run("look.colours")
    settled(window)
    ways, buttons = look.colours.ways, look.colours.buttons
    assert len(ways) == len(buttons) == 8
    qtbot.waitUntil(lambda: all(drawn(v) > 100 for v in look.colours.views))
    assert [b.isChecked() for b in buttons].index(True) == 0
    buttons[5].click()
    settled(window)
    assert tuple(c.colour for c in window.session.weave.cords) == ways[5].colours
    assert window.session.history.undo_label == f"Colourway {ways[5].name}"
    assert look.colours.ways == ways  # the same cards, another one marked
    assert [b.isChecked() for b in look.colours.buttons].index(True) == 5
    window.run("edit.undo")
    settled(window)
    assert tuple(c.colour for c in window.session.weave.cords) == ways[0].colours
    assert look.colours.buttons[0].isChecked()


def test_colourways_are_saved_as_svg_and_png_and_the_weave_as_a_solid(
    window, look, settled, tmp_path, monkeypatch
):
    window.run("look.colours")
    settled(window)
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(tmp_path))
    window.run("look.save")
    settled(window)
    names = {p.name for p in tmp_path.iterdir()}
    assert {"bar-samphire-front.svg", "bar-samphire-back.png", "bar-as-it-is-front.png"} <= names
    assert (tmp_path / "bar-samphire-back.png").read_bytes().startswith(b"\x89PNG")
    to = tmp_path / "band.glb"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(to), ""))
    window.run("look.solid")
    settled(window)
    assert to.read_bytes().startswith(b"glTF")
    assert "band.glb" in window.message_text.text()


def test_a_weave_that_cannot_be_pulled_is_not_turned_or_coloured(window, look, settled):
    from dim_ladder.commands import SetScript
    from dim_ladder.notation import write
    from helpers.weaves import weave_of

    window.run("look.turn")
    settled(window)
    window.session.do(SetScript(text=write(weave_of(2, "1: over 2", "rotate (2 1)", "1: over 2"))))
    settled(window)
    assert drawn(look.turned) == 0
    assert look.solid() is None
    assert not window.actions_by_id["look.solid"].isEnabled()


def test_the_piece_is_seen_closed_round_and_saved_so(window, look, settled, tmp_path, monkeypatch):
    window.run("look.closed")
    settled(window)
    view = look.whole.closed
    assert drawn(view) > 400
    assert "closed round" in view.title
    before = view.turn, view.tip
    QTest.keyClick(view, Key.Key_Left)
    settled(window)
    assert (view.turn, view.tip) == (pytest.approx(before[0] + 15), before[1])
    QTest.keyClick(view, Key.Key_0)
    assert (view.turn, view.tip) == before
    assert "of it worked" in look.honest.text()
    assert set(look.pictures()) == {"closed"}
    to = tmp_path / "round.glb"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(to), ""))
    window.run("look.solid")
    settled(window)
    import trimesh

    scene = trimesh.load(to)
    wide, deep = sorted(scene.extents)[1:]
    assert wide > 0.8 * deep  # round, and no strip
    window.run("look.whole")
    settled(window)
    assert set(look.pictures()) == {"whole"}


def test_what_is_planned_by_its_length_is_not_closed_and_says_why(window, look, settled):

    from dim_ladder.commands import SetPlan

    window.run("look.closed")
    settled(window)
    plan = window.session.document.plan
    window.session.do(SetPlan(plan=plan.model_copy(update={"target": "length", "size_mm": 300.0})))
    settled(window)
    assert drawn(look.whole.closed) == 0
    assert "planned by its length" in look.honest.text()
    window.session.undo()
    settled(window)
    assert drawn(look.whole.closed) > 400
