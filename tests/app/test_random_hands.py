"""Random keys, clicks and actions on the demo's weaves: nothing breaks, and what is there can always be read again."""

import random

import pytest
from PySide6 import QtWidgets
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest

from dim_ladder.commands import ACTIONS
from dim_ladder.notation import parse_strict
from dim_ladder.shelf import document_text, read_document_text

Key, Mod = Qt.Key, Qt.KeyboardModifier
LETTERS = "12345678abcdefghijklmnoprstuw"
KEYS = (Key.Key_Return, Key.Key_Escape, Key.Key_Backspace, Key.Key_Space, Key.Key_Left, Key.Key_Right)
MOVES = (Key.Key_Up, Key.Key_Down, Key.Key_Left, Key.Key_Right, Key.Key_Home, Key.Key_End, Key.Key_Escape)
TYPED = ("snake (1 | 2)", "half-right (1 | 2 3 | 4)", "zz", "", "tide", "1: over 2", "repeat 3", "edge body", "two words", "1: bead shell")  # fmt: skip
ELSEWHERE = {
    "file.quit",
    "tie.along",
    "view.dark",
    "sheet.publish",
    "file.new",
    "file.recent",
    "file.loose",
    "go.search",
    "go.keys",
    "record.book",
}
WEAVES = ("tern-ladder", "double-bar", "sandpiper", "marsh-ring", "sluice-hanging", "reed-plait")


@pytest.fixture
def answers(monkeypatch):
    """Dialogs answer by themselves, at random."""
    rng = random.Random(0)
    for name, answer in {
        "getText": lambda *a, **k: (rng.choice(TYPED), True),
        "getInt": lambda *a, **k: (rng.randint(1, 3), True),
        "getItem": lambda *a, **k: (rng.choice(a[3]), True),
    }.items():
        monkeypatch.setattr(QtWidgets.QInputDialog, name, answer)
    monkeypatch.setattr(
        QtWidgets.QColorDialog, "getColor", lambda *a, **k: QColor(rng.choice(["#112233", "#aabbcc"]))
    )
    for name in ("getSaveFileName", "getOpenFileName"):
        monkeypatch.setattr(QtWidgets.QFileDialog, name, lambda *a, **k: ("", ""))
    return rng


def one(window, rng):
    """One thing that a hand may do."""
    board, ladder = window.record.board, window.ladder
    what = rng.random()
    if what < 0.5:
        QTest.keyClicks(board, rng.choice(LETTERS))
    elif what < 0.6:
        QTest.keyClick(board, rng.choice(KEYS))
    elif what < 0.72:
        QTest.keyClick(ladder, rng.choice(MOVES), rng.choice((Mod.NoModifier, Mod.ShiftModifier)))
    elif what < 0.86:
        window.run(rng.choice([a.id for a in ACTIONS if a.id not in ELSEWHERE]))
    elif what < 0.93:
        at = QPoint(rng.randrange(board.width()), rng.randrange(board.height()))
        QTest.mouseMove(board, at)
        QTest.mouseClick(board, Qt.MouseButton.LeftButton, Mod.NoModifier, at)
    elif what < 0.96:
        view = ladder.viewport()
        at = QPoint(rng.randrange(view.width()), rng.randrange(view.height()))
        QTest.mouseClick(view, Qt.MouseButton.LeftButton, rng.choice((Mod.NoModifier, Mod.ShiftModifier)), at)
    elif what < 0.98:
        (window.session.undo if rng.random() < 0.7 else window.session.redo)()
    else:
        board.player.advance(0.3)


@pytest.mark.parametrize("name", WEAVES)
def test_random_hands_break_nothing(window, settled, answers, name):
    rng = random.Random(name)
    window.open_path(window.session.path.parent / f"{name}.dimladder")
    settled(window)
    session = window.session
    begun = session.document
    for n in range(140):
        one(window, rng)
        if len(session.ladder.steps) > 300:
            session.undo()
        if n % 10 == 0:
            assert not window.grab().isNull()
            document = session.document
            assert parse_strict(document.script) == document.weave
            assert read_document_text(document_text(document)) == document
    # All the way back is where it began; all the way forth is where it ended.
    session.set_draft(None)
    window.record.board.player.leave()
    end = session.document
    back = 0
    while session.history.undo_label:
        session.undo()
        back += 1
    assert session.document == begun
    for _ in range(back):
        session.redo()
    assert session.document == end
    settled(window)
