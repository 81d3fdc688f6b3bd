"""Every picture in docs/screenshots/, made from the made-up workshop at 1280 x 800."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
OUT = ROOT / "docs" / "screenshots"
os.environ["QT_QPA_PLATFORM"] = f"offscreen:configfile={ROOT / 'tools' / 'offscreen.json'}"
sys.path.insert(0, str(ROOT / "tests"))

from PySide6.QtCore import QEventLoop, Qt, QTimer  # noqa: E402
from PySide6.QtTest import QTest  # noqa: E402

from dim_ladder.app.hang.screen import HangScreen  # noqa: E402
from dim_ladder.app.main import application  # noqa: E402
from dim_ladder.app.stash.orders import OrdersScreen  # noqa: E402
from dim_ladder.app.window import MainWindow  # noqa: E402
from dim_ladder.commands.lessons import VIEWS, chart_of, planned  # noqa: E402
from dim_ladder.commands.sheets import write_sheet  # noqa: E402
from dim_ladder.picture.display import PAPER  # noqa: E402
from dim_ladder.publish.svg import to_svg  # noqa: E402
from dim_ladder.shelf import read_document  # noqa: E402
from dim_ladder.shelf.workshop import make_demo  # noqa: E402


def pause(ms: int) -> None:
    """An event loop of its own: unlike QTest's, it leaves the interpreter to the threads that are waited for."""
    loop = QEventLoop()
    QTimer.singleShot(ms, loop.quit)
    loop.exec()


def settle(window: MainWindow) -> None:
    pause(600)
    while window.session.jobs.busy:
        pause(40)
    pause(80)


def guide_pictures(window: MainWindow) -> None:
    """The charts of the guide, from the same ties."""
    settle(window)
    calibration, document = window.session.calibration, window.session.document
    folder = ROOT / "docs" / "guide" / "pictures"
    folder.mkdir(parents=True, exist_ok=True)
    assert calibration is not None
    counts = planned(document.weave, calibration, document.plan)
    for view in VIEWS:
        chart = chart_of(document.weave, calibration, document.ties, counts, document.plan, view, PAPER)
        (folder / f"{view}.svg").write_text(to_svg(chart.picture), encoding="utf-8")


def main() -> None:
    from helpers.browser import FLAGS, browser

    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        tern = make_demo(folder)
        os.environ["DIM_LADDER_STATE"] = str(folder / "state")  # nothing of who makes the pictures is in them
        application()
        w = MainWindow()
        w.resize(1280, 800)

        def shot(title: str, weave: str = "", stage: str = "", step: int | None = None) -> None:
            if weave:
                w.open_path(folder / f"{weave}.dimladder")
            if stage:
                w.stage(stage)
            if step is not None:
                w.session.choose(step)
            settle(w)
            w.session.custody.saved_at = w.session.custody.saved_at - 3600  # "saved", whatever the clock
            w._show_saved()
            w.grab().save(str(OUT / f"{title}.png"))

        w.show()
        shot("record", tern.stem, "view.record")
        guide_pictures(w)
        w.run("look.names")
        shot("look")
        w.run("look.slips")
        shot("look-slips")
        w.run("look.whole")
        shot("look-whole")
        w.run("look.names")
        w.run("look.closed")
        shot("look-closed")
        w.run("look.colours")
        pause(1500)
        shot("look-colours")
        w.run("look.band")
        w.run("file.new")
        w.run("view.hang")
        hang = w.screen_of("view.hang")
        assert isinstance(hang, HangScreen)
        hang.order.cards["around"].click()
        hang.on.cards["buckle"].click()
        hang.finish.cards["tuck-and-melt"].click()
        shot("hang")
        w.session.undo()
        w.session.undo()
        w.stage("view.record")
        board = w.record.board
        board.setFocus()
        for key in "4oo":
            QTest.keyClicks(board, key)
        QTest.keyClick(board, Qt.Key.Key_Return)
        QTest.keyClicks(board, "1ouui")
        board.act("drop")
        w.session.unsaved = False  # the unfinished weave is not kept
        w.open_path(tern)
        board.setFocus()
        board.player.seek(1.62)
        shot("record-playback")
        board.player.leave()
        from dim_ladder.app.along.screen import Along
        from dim_ladder.app.record.knots import KnotBook

        book = KnotBook(w.session, lambda _: None, w)
        book.resize(980, 640)
        book.show()
        book.search.setText("button")
        QTest.qWait(1500)
        settle(w)
        book.grab().save(str(OUT / "knot-book.png"))
        book.close()

        os.environ["DIM_LADDER_STATE"] = str(folder / "state")
        along = Along(w.session)
        along.resize(1280, 800)
        along.show()
        along.begin.counts["bar"].setValue(24)
        along.begin.begin_button.click()
        for _ in range(25):
            along.next()
        QTest.qWait(150)
        along.grab().save(str(OUT / "tie-along.png"))
        along.close()
        shot("record-runner-bars", "sluice-hanging", step=20)
        shot("record-round-former", "marsh-ring")
        shot("tie", tern.stem, "view.tie")
        shot("cut", stage="view.cut")
        shot("sheet", stage="view.sheet")
        shot("stash", stage="view.stash")
        w.stage("view.orders")
        orders = w.screen_of("view.orders")
        assert isinstance(orders, OrdersScreen)
        orders.make()
        shot("orders")
        w.run("view.dark")
        shot("record-dark", tern.stem, "view.record", 1)
        w.session.unsaved = False
        w.close()
        (page,) = write_sheet(read_document(tern), folder, ["html"])
        subprocess.run(
            [browser(), *FLAGS, "--window-size=1280,1600", f"--user-data-dir={folder / 'profile'}",
             f"--screenshot={OUT / 'published-sheet.png'}", page.as_uri()],
            check=True, capture_output=True, timeout=120,
        )  # fmt: skip
    for p in sorted(OUT.glob("*.png")):
        print(p.relative_to(ROOT))
    sys.stdout.flush()
    os._exit(0)


if __name__ == "__main__":
    main()
