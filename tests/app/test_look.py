"""The section pulled tight, on its own screen: worked out on a thread, kept, stopped, compared, saved, honest."""

from dataclasses import replace

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from dim_ladder.app.look import tightener as module
from dim_ladder.app.look.shown import shown
from dim_ladder.app.look.words import honest_words, kept_words, size_words
from dim_ladder.commands import SetColour, SetScript
from dim_ladder.notation import parse_strict, write
from dim_ladder.picture.display import PAPER
from dim_ladder.shape import TightShape, ready, tight
from dim_ladder.shape.faces import cords_of
from helpers.weaves import SPIRAL, TERN, weave_of

Key = Qt.Key


@pytest.fixture(scope="module", autouse=True)
def _compiled():
    ready(wait=True)


def drawn(view):
    """How much of a view is not paper."""
    image = view.grab().toImage().scaled(60, 60)
    paper = image.pixelColor(1, 58).lightness()
    return sum(abs(image.pixelColor(x, y).lightness() - paper) > 25 for x in range(60) for y in range(60))


def test_front_back_and_edge_with_its_size_in_the_chosen_cord(window, look):
    assert look.shape.converged
    assert "a unit is 9.8 mm long" in look.words.text()
    assert "a test tie counts for more" in look.honest.text()
    assert not look.stop_button.isVisible()
    for side, view in look.views.items():
        assert drawn(view) > 300
        assert side in view.title or (side == "edge" and "on edge" in view.title)
    # Cord of every end as bars in mm, and cord against pitch with the pitch of the person's own ties.
    assert "A 46 mm, B 10 mm" in look.bars.accessibleDescription()
    assert look.chart.isVisible()
    texts = [s.text for s in look.chart._picture.shapes if hasattr(s, "text")]
    assert any(t.startswith("yours ") for t in texts)
    assert "drawn up" in texts


def test_what_is_known_is_not_pulled_again(window, look, settled):
    first = look.shape
    window.session.do(SetColour(cord="tide", colour="#123456"))
    settled(window)
    second = look.shape
    assert second is not first  # colours are in what it is made from
    window.session.undo()
    settled(window)
    assert look.shape is first


def test_it_says_what_cannot_be_pulled(window, look, settled):
    window.session.do(SetScript(text=write(weave_of(2, "1: over 2", "rotate (2 1)", "1: over 2"))))
    settled(window)
    assert look.shape is None
    assert "laid anew" in look.words.text()
    assert not window.actions_by_id["look.keep"].isEnabled()
    window.session.do(SetScript(text=write(weave_of(2))))
    settled(window)
    assert "Record a unit first" in look.words.text()
    window.session.do(SetScript(text=write(weave_of(2, "1: over 7"))))
    settled(window)
    assert "The script has a slip" in look.words.text()
    assert all(drawn(v) == 0 for v in look.views.values())


def test_a_long_one_shows_rough_at_once_and_can_be_stopped(window, look, qtbot, settled):
    window.session.do(SetScript(text=write(weave_of(8, "bar-right (1 | 2..8)", "bar-left (1..7 | 8)"))))
    # Not the shape of the weave before, which stands there until the first one comes.
    qtbot.waitUntil(lambda: look.shape is not None and len(look.shape.lines) == 8)
    assert window.actions_by_id["look.stop"].isEnabled()
    assert "Still being pulled tight" in look.honest.text()
    assert look.stop_button.isVisible()
    window.run("look.stop")
    settled(window)
    assert not look.shape.converged
    assert "Stopped before it was tight" in look.honest.text()
    assert not window.actions_by_id["look.stop"].isEnabled()


def test_leaving_the_screen_leaves_off(window, look, qtbot, settled):
    window.session.do(SetScript(text=write(weave_of(8, "bar-right (1 | 2..8)", "bar-left (1..7 | 8)"))))
    qtbot.waitUntil(lambda: look.tightener.busy)
    window.stage("view.record")
    settled(window)
    assert look.tightener._wanted is None


def test_the_whole_piece_in_its_planned_size_beside_a_ruler(window, look, settled):
    window.run("look.whole")
    settled(window)
    assert look.whole.piece.left_out == ()
    units = round(look.whole.piece.length_mm / 15.8)
    assert 8 <= units <= 12
    assert "of it worked. Sections are pulled tight" in look.honest.text()
    for view in look.whole.faces.values():
        assert drawn(view) > 300
    assert set(look.pictures()) == {"whole"}


def test_slips_stand_next_to_the_right_one(window, look, settled):
    window.run("look.slips")
    settled(window)
    cards = look.gallery.cards
    assert cards[0].slip is None
    by_name = {c.slip.name: c for c in cards[1:]}
    twice = by_name["the same side twice"]
    assert abs(twice.shape.twist_deg) > 20
    assert "It begins to twist" in twice.slip.tell
    assert len(look.gallery.views) == len(cards)
    assert drawn(look.gallery.views[1]) > 150
    # Another weave: other slips, none left of these.
    window.session.do(SetScript(text=write(weave_of(2, "1: over 2"))))
    settled(window)
    assert len(look.gallery.cards) < len(cards)


def test_a_shape_is_kept_beside_what_comes(window, look, settled):
    window.run("look.keep")
    assert look.kept_view.isVisible()
    assert "as much cord now" in look.kept_words.text()
    window.session.do(SetScript(text=write(parse_strict(SPIRAL))))
    settled(window)
    assert "% more cord now" in look.kept_words.text()  # a spiral eats more for its length
    assert drawn(look.kept_view) > 300
    window.run("look.keep")
    assert not look.kept_view.isVisible()


def test_names_zoom_and_moving(window, look, settled):
    view = look.views["front"]
    plain = drawn(view)
    window.run("look.names")
    settled(window)
    assert drawn(view) != plain
    view.setFocus()
    QTest.keyClick(view, Key.Key_Plus)
    QTest.keyClick(view, Key.Key_Plus)
    assert view.zoom > 1.5
    settled(window)
    large = view.grab().toImage()
    QTest.keyClick(view, Key.Key_Right)
    settled(window)
    assert view.grab().toImage() != large
    at = QPointF(view.rect().center())
    wheel = QWheelEvent(at, view.mapToGlobal(at), QPoint(), QPoint(0, -120), Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    QApplication.sendEvent(view, wheel)
    assert view.zoom == pytest.approx(1.25)
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=QPoint(40, 40))
    QTest.mouseMove(view, QPoint(60, 90))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPoint(60, 90))
    QTest.keyClick(view, Key.Key_0)
    assert view.zoom == 1.0
    settled(window)


def test_pictures_are_saved_as_svg(window, look, settled, tmp_path, monkeypatch):
    from dim_ladder.app import looking

    monkeypatch.setattr(looking.QFileDialog, "getExistingDirectory", lambda *a: str(tmp_path))
    window.run("look.save")
    settled(window)
    names = sorted(p.name for p in tmp_path.glob("*.svg"))
    assert names == ["bar-back.svg", "bar-edge.svg", "bar-front.svg"]
    assert "3 pictures are in" in window.message_text.text()
    assert (tmp_path / "bar-front.svg").read_text("utf-8").startswith("<svg")


# -- beside the recorder ---------------------------------------------------------------------------


def test_the_tight_weave_stands_beside_the_recorder(window, settled):
    side = window.record.step.tight
    assert not any(v.isVisible() for v in side.views.values())
    window.run("view.tight")
    settled(window)
    assert all(drawn(v) > 300 for v in side.views.values())
    assert "9.8 mm a unit" in side.words.text()
    assert not side.words.text().endswith("…")
    before = side.tightener.answer.shape
    board = window.record.board
    board.setFocus()
    window.session.do(SetScript(text=write(weave_of(3, "1: over 2, under 2, up own"))))
    for k in "3u":
        QTest.keyClicks(board, k)
    assert side.tightener.answer.shape is before  # not in the middle of a step
    QTest.keyClick(board, Key.Key_Return)
    settled(window)
    assert len(side.tightener.answer.shape.lines) == 3
    QTest.mouseClick(side.wrong, Qt.MouseButton.LeftButton)
    assert window.screen_of("view.look").mode == "look.slips"
    settled(window)
    window.stage("view.record")
    window.run("view.tight")
    assert not window.session.settings.tight
    assert not any(v.isVisible() for v in side.views.values())
    settled(window)


def test_the_last_known_ones_are_kept_in_mind(window, look, settled, monkeypatch):
    monkeypatch.setattr(module, "KEPT", 1)
    window.session.do(SetColour(cord="tide", colour="#123456"))
    settled(window)
    assert len(look.tightener._known) == 1


# -- words -----------------------------------------------------------------------------------------


def test_words_for_every_kind_and_state():
    band = tight(parse_strict(TERN), "bar")
    spiral = tight(parse_strict(SPIRAL), "bar")
    assert "turns by" not in size_words(band)
    assert "It turns by 2" in size_words(spiral)
    assert "by itself: it reaches over" in size_words(replace(band, kind="held"))
    assert "high," in size_words(replace(band, kind="closed"))
    assert "8 % more cord" in kept_words(band, "bar", replace(band, pitch=band.pitch / 1.08))
    loose: TightShape = replace(band, converged=False)
    for answer, words in (
        (module.Answer(loose), "Still being pulled tight"),
        (module.Answer(loose, done=True, stopped=True), "Stopped before it was tight"),
        (module.Answer(replace(loose, passed=True), done=True), "would have to pass each other"),
        (module.Answer(loose, done=True), "Not tight yet"),
    ):
        assert words in honest_words(answer)
    assert honest_words(module.Answer(band, done=True)).startswith("The deepest overlap")
    for rests, words in (
        ((0.25, 0.058), "25 % longer, with 6 % more cord."),
        ((-0.158, 0.0), "16 % shorter, with as much cord."),
    ):
        assert words in honest_words(module.Answer(replace(band, rests=rests), done=True))


def test_a_view_is_as_large_as_what_it_is_given(qtbot, window, settled):
    """The natural size is that of the picture, so that a face just fits."""
    band = tight(parse_strict(TERN), "bar")
    seen = shown(band, cords_of(parse_strict(TERN), "bar"), "front", 4, PAPER)
    picture = seen.make(10.0)
    assert (picture.width, picture.height) == pytest.approx((seen.natural[0] * 10, seen.natural[1] * 10))


def test_a_long_unit_is_not_pulled_beside_the_recorder(window, settled):
    window.run("view.tight")
    window.session.do(SetScript(text=write(weave_of(3, *["1: over 2", "2: over 3"] * 90))))
    settled(window)
    side = window.record.step.tight
    assert "Ctrl+5 pulls it tight" in side.words.text()
    assert not any(v.isVisible() for v in side.views.values())
    assert not side.tightener.busy
