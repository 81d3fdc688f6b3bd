"""A program that works on a weave in a real window as a seed tells it, saying after every key what it shows: to be killed at
any moment. Run as: python -m helpers.hands SEED FILE; FILE "-" for a weave in no file. What it shows does not depend on
how fast it was."""

from __future__ import annotations

import json
import random
import sys
from pathlib import Path

STEPS = 60
BOARD = "1234oouuorrnd"
TIED = "82.5 cm"


def shown(window) -> dict[str, object]:
    """All that a person would miss: the script as it stands in the pane, the end in hand, the test tie, the size."""
    draft = window.session.draft
    tie = (
        window.screen_of("view.tie").form
        if window.session.custody.keeper.forms or "view.tie" in window._stages
        else None
    )
    return {
        "pane": window.record.script.toPlainText(),
        "hand": repr((draft.end, draft.side, draft.moves)) if draft else "",
        "tie": [f.text() for f in asked(tie)] if tie else [],
        "size": window.session.document.plan.size_mm,
        "name": window.session.weave.name,
    }


def asked(form) -> list:
    """Fields that are there from the first moment: which ends are measured together is known a little later."""
    return [
        *form.counts.values(),
        form.length,
        form.width_field,
        form.thickness,
        form.minutes,
        form.who,
        form.note,
    ]


def one(window, rng: random.Random) -> None:
    """A key, or one thing that is as quick."""
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest

    from dim_ladder.commands import SetName

    what = rng.random()
    pane, board = window.record.script, window.record.board
    if what < 0.4:
        if rng.random() < 0.1:
            pane.moveCursor(
                rng.choice([pane.textCursor().MoveOperation.End, pane.textCursor().MoveOperation.Up])
            )
        if rng.random() < 0.08:
            QTest.keyClick(pane, Qt.Key.Key_Return)
            return
        QTest.keyClicks(pane, rng.choice("-- abcdefgh 12:"))
    elif what < 0.75:
        window.flush()  # as a hand that goes from one to the other does
        if rng.random() < 0.2:
            QTest.keyClick(board, rng.choice([Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Backspace]))
        else:
            QTest.keyClicks(board, rng.choice(BOARD))
    elif what < 0.9:
        form = window.screen_of("view.tie").form
        QTest.keyClicks(rng.choice(asked(form)), rng.choice(TIED))
    else:
        window.flush()
        window.session.do(SetName(name=f"Name {rng.randint(0, 99)}"))


def main() -> None:
    from PySide6.QtTest import QTest

    from dim_ladder.app.main import application
    from dim_ladder.app.window import MainWindow

    rng, pace = random.Random(int(sys.argv[1])), random.Random()
    application()
    window = MainWindow()
    if sys.argv[2] != "-":
        window.open_path(Path(sys.argv[2]))
    window.session.set_up(tight=False)
    window.show()
    window.screen_of("view.tie")
    window.stage("view.record")
    window.record.script.take()
    window.record.script.choices.setDisabled(True)
    for _ in range(STEPS):
        print(json.dumps(shown(window)), flush=True)
        one(window, rng)
        if pace.random() < 0.3:
            QTest.qWait(pace.choice([1, 10, 60, 400]))
    print(json.dumps(shown(window)), flush=True)
    sys.stdin.read()


if __name__ == "__main__":
    main()
