"""Speed: one JSON line per measurement with its target. Medians of several runs; nothing here is a test."""

from __future__ import annotations

import gc
import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from hostile import fuzzing, soak, trust
from world_bench import world

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "tests"))
os.environ["QT_QPA_PLATFORM"] = f"offscreen:configfile={ROOT / 'tools' / 'offscreen.json'}"

BAND = """weave "Bench"
cords
  tide  nylon-4mm  #1f6f8b
  buoy  nylon-4mm  #e07a1f
hang
  buoy.a tide.a tide.b buoy.b
section bar: body, {count}
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)
"""

RUNNER = """weave "Runner"
cords
{cords}
hang
  {ends}
section bars: body, fit
  bar-right (1 | 2..8)
  bar-left (1..7 | 8)
"""

START = """
import sys, time
from pathlib import Path
from dim_ladder.app.main import application
from dim_ladder.app.window import MainWindow
app = application()
w = MainWindow()
w.open_path(Path(sys.argv[1]))
w.show()
while not w.windowHandle().isExposed():
    app.processEvents()
w.repaint()
print(time.time())
import os
os._exit(0)
"""


def report(what: str, value: float, unit: str, target: float, note: str = "") -> None:
    line = {"what": what, "value": round(value, 2), "unit": unit, "target": target, "ok": value <= target}
    print(json.dumps(line | ({"note": note} if note else {})), flush=True)


def timed(work: Callable[[], object], runs: int = 9) -> float:
    """Median milliseconds after one warm-up."""
    work()
    out = []
    for _ in range(runs):
        start = time.perf_counter()
        work()
        out.append((time.perf_counter() - start) * 1e3)
    return statistics.median(out)


def tightening() -> None:
    """The tight weave: published lengths, cells of the works everyone knows, pictures."""
    import tracemalloc
    from dataclasses import replace

    from dim_ladder.notation import Former, Section, parse_strict
    from dim_ladder.shape import ready
    from dim_ladder.shape.closed import closed_curves
    from dim_ladder.shape.engine import plain
    from dim_ladder.shape.faces import cords_of, face, strands_of
    from dim_ladder.shape.measure import ropelength
    from dim_ladder.shape.packing import packing
    from dim_ladder.shape.relax import PRECISE, settle
    from dim_ladder.shape.tighten import job_for, pulled, tight, why_not
    from dim_ladder.shape.turning import held
    from helpers.restarts import begun_elsewhere, library_works, row_works
    from helpers.ropes import KNOWN
    from helpers.weaves import PLAIT, SPIRAL, TERN, weave_of

    start = time.perf_counter()
    compiled = ready(wait=True)
    report(
        "compiled loops ready",
        time.perf_counter() - start,
        "s",
        30,
        "once a machine" if compiled else "plain numpy",
    )
    for name, (strands, known) in KNOWN.items():
        start = time.perf_counter()
        *_, last = settle(closed_curves(list(strands)), PRECISE)
        found = ropelength(last.rope)
        note = f"{found:.3f} against {known:.3f}, {last.steps} steps in {time.perf_counter() - start:.1f} s, rest {last.rest}"
        report(f"ropelength of the {name}, off by", abs(found / known - 1) * 100, "%", 0.1, note)
    runner = weave_of(8, "bar-right (1 | 2..8)", "bar-left (1..7 | 8)")
    lattice = weave_of(8, *(f"square ({k} | {k + 1} {k + 2} | {k + 3})" for k in (1, 5, 3)))
    ring = weave_of(1)
    ring = replace(ring, sections=(Section("s", "body", former=Former(5, 8)),))
    works = {
        "flat half-knot cell": (parse_strict(TERN), "bar", 0.5),
        "spiral half-knot cell": (parse_strict(SPIRAL), "bar", 0.5),
        "plait": (parse_strict(PLAIT), "reed", 0.3),
        "snake chain": (weave_of(2, "snake (1 | 2)"), "s", 0.3),
        "Turk's head 5 x 8": (ring, "s", 1.0),
        "rows of bars on eight ends, there and back": (runner, "s", 10.0),  # 5 each
        "lattice unit on eight ends": (lattice, "s", 15.0),
    }
    for name, (weave, section, target) in works.items():
        job = job_for(weave, section)
        start = time.perf_counter()
        shapes = pulled(job)
        shape = next(shapes)
        first = time.perf_counter() - start
        for found_shape in shapes:
            shape = found_shape
        took = time.perf_counter() - start
        tracemalloc.start()
        states = settle(job.curves, stretch=job.stretch)
        for _ in range(3):
            next(states, None)
        memory = tracemalloc.get_traced_memory()[1] / 1e6
        tracemalloc.stop()
        each = " + ".join(f"{v:.1f}" for v in shape.per_end.values())
        note = (
            f"pitch {shape.pitch:.2f}, turns {shape.twist_deg:.0f} degrees, {shape.width:.1f} wide, {shape.thickness:.1f} thick, cord "
            f"{each}, overlap {shape.overlap:.3f}, deepest ever {shape.deepest:.2f}, {shape.steps} steps, {memory:.0f} MB"
        )
        # What is not tight by then has not met the target, however long it took.
        report(f"{name} pulled tight", took if shape.converged else 1e3, "s", target, note)
        if target < 1.0:
            report(f"{name}, first rough shape", first * 1e3, "ms", 150)
    many = parse_strict(SIX)
    os.environ["DIM_LADDER_CACHE"] = tempfile.mkdtemp()
    for what, target in (("from nothing", 10.0), ("from the cache", 0.5)):
        start = time.perf_counter()
        left = [s.name for s in many.sections if not tight(many, s.name).converged]
        took = time.perf_counter() - start
        report(
            f"piece of six sections {what}",
            took if not left else 1e3,
            "s",
            target,
            f"not tight: {left or 'none'}",
        )
    start, elsewhere, refused, every = time.perf_counter(), [], [], library_works()
    for kind in ("nylon-4mm", "cotton-3mm"):
        every |= {f"{name}, {kind}": weave for name, weave in row_works(kind).items()}
    for name, weave in every.items():
        job = job_for(weave, "s")
        *_, one = pulled(job)
        *_, again = pulled(begun_elsewhere(job))
        if (why := why_not(job, one)) and why == why_not(job, again):
            refused.append(name)
            continue
        cord = sum(again.per_end.values()) / sum(one.per_end.values())
        if not (
            one.converged
            and again.converged
            and abs(again.pitch / one.pitch - 1) < 0.03
            and abs(cord - 1) < 0.02
        ):
            elsewhere.append(f"{name} {again.pitch / one.pitch - 1:+.1%} {cord - 1:+.1%}")
    note = f"of {len(every)} knots, in {time.perf_counter() - start:.0f} s: {', '.join(elsewhere) or 'none'}"
    note += f"; refused both times: {', '.join(refused) or 'none'}"
    report("knots that come out otherwise when begun elsewhere", len(elsewhere), "", 0, note)
    for name in ("flat half-knot cell", "plait"):
        weave, section, _ = works[name]
        job = job_for(weave, section)
        start = time.perf_counter()
        *_, quick = pulled(job)
        middle = time.perf_counter()
        *_, slow = pulled(job, by=plain())
        ratio = (time.perf_counter() - middle) / (middle - start)
        apart = max(
            abs(quick.pitch / slow.pitch - 1),
            abs(sum(quick.per_end.values()) / sum(slow.per_end.values()) - 1),
        )
        note = f"plain numpy takes {ratio:.1f} times as long"
        report(f"{name}, compiled against plain numpy, off by", apart * 100, "%", 1.0, note)
    weave, section, _ = works["flat half-knot cell"]
    *_, band = pulled(job_for(weave, section))
    os.environ["DIM_LADDER_CACHE"] = tempfile.mkdtemp()  # what was kept before is not measured
    start = time.perf_counter()
    *_, curve = packing(job_for(weave, section), band)
    report("cord against pitch, nine packings", time.perf_counter() - start, "s", 5, f"{len(curve)} known")
    cords = cords_of(weave, section)
    scale = 760 / (40 * band.pitch)
    gc.collect()
    gc.disable()  # as in the window, which collects on its own time
    made = timed(lambda: face(band, cords, "front", units=40, scale=scale), 9)
    count = len(face(band, cords, "front", units=40, scale=scale).shapes)
    from PySide6.QtGui import QImage, QPainter

    from dim_ladder.app.look.turnview import COARSE
    from dim_ladder.app.main import application
    from dim_ladder.app.painting import paint_shapes

    application()
    picture = face(band, cords, "front", units=40, scale=scale)

    def paint() -> None:
        image = QImage(round(picture.width), round(picture.height), QImage.Format.Format_RGB32)
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_shapes(painter, picture.shapes)
        painter.end()

    painted = timed(paint, 9)
    note = f"{count} shapes; made in {made:.0f} ms, painted in {painted:.0f} ms"
    report("face of 40 units, made and painted", made + painted, "ms", 100, note)
    # Turned by hand: twelve units in a window of 700 pixels, as coarse as while it moves.
    body = held(strands_of(band, cords, 12))
    angles = iter(range(10**9))

    def turn() -> None:
        nonlocal picture
        picture = body.seen(7.0 * next(angles), 20.0, scale=COARSE * 700 / body.tall, quick=True)
        paint()

    report("twelve units turned by hand, one frame", timed(turn, 21), "ms", 40, "25 frames a second")
    gc.enable()


SIX = """weave "Six"
cords
  tide  nylon-4mm  #1f6f8b
  buoy  nylon-4mm  #e07a1f
hang on buckle
  buoy.a tide.a tide.b buoy.b
section head: start
  square (1 | 2 3 | 4)
section bar: body
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)
section turn: body
  half-right (1 | 2 3 | 4)
section round: body
  round-4 (1 | 2 | 3 | 4)
section flat: body
  plait-4 (1 | 2 | 3 | 4)
section foot: finish
  diamond-4 (1 | 2 | 3 | 4)
"""


def tracing() -> None:
    from dim_ladder.notation import Cross, Former, Section, Step, Widen, parse, parse_item, parse_strict
    from dim_ladder.picture.diagrams import diagram
    from dim_ladder.picture.former import flat_picture
    from dim_ladder.trace import Tracer, trace
    from dim_ladder.trace.former import former_work
    from dim_ladder.trace.holds import hold
    from dim_ladder.words.former import called_out

    weave = parse_strict(BAND.format(count="fit"))
    report("trace of 1,000 steps, from scratch", timed(lambda: Tracer().trace(weave, units=250)), "ms", 100)
    tracer = Tracer()
    tracer.trace(weave, units=250)
    steps = [Step(1, (Cross(True, (2,)),)), Step(4, (Cross(False, (3,)),))]
    turn = iter(range(10**9))
    added = timed(lambda: tracer.trace(weave, units=250, draft=(0, steps[next(turn) % 2])), 41)
    report("one step added to 1,000", added, "ms", 5)
    cords = "\n".join(f"  k{i} cotton-3mm #1f6f8b" for i in range(1, 9))
    runner = parse_strict(RUNNER.format(cords=cords, ends=" ".join(f"k{i}.a" for i in range(1, 9))))
    count = len(trace(runner, units=24).steps)
    note = f"{count} steps on 8 ends"
    report(
        "trace of a runner piece, from scratch",
        timed(lambda: Tracer().trace(runner, units=24)),
        "ms",
        100,
        note,
    )
    tracer = Tracer()
    tracer.trace(runner, units=24)
    lines = [f"{a}: over {a + 1}, under {a + 1}, up own" for a in (2, 4)]
    hitch = [s for line in lines if isinstance(s := parse_item(line), Step)]
    added = timed(lambda: tracer.trace(runner, units=24, draft=(0, hitch[next(turn) % 2])), 41)
    report("one hitch added to the runner piece", added, "ms", 5)
    part = trace(runner, units=1)
    report("hold check of one row out and back", timed(lambda: hold(part), 3), "ms", 2000)
    section = Section("s", "body", former=Former(13, 21), items=(Widen("follow"),))
    head = former_work(section)
    note = f"{head.crossings} crossings"
    report("Turk's head 13 x 21, doubled, as a diagram", timed(head.closed, 5), "ms", 100, note)
    calls = timed(lambda: called_out(section), 5)
    report("its half cycles called out", calls, "ms", 100)
    report("its picture, unrolled", timed(lambda: flat_picture(head, ["#1f6f8b"]), 3), "ms", 500)
    long = BAND.format(count="fit") + "  1: over 2\n" * 100_000
    start = time.perf_counter()
    why = str(parse(long).problems[0])
    report("script of 100,000 lines refused", (time.perf_counter() - start) * 1e3, "ms", 50, why)
    most = BAND.format(count="fit") + "  1: over 2\n" * 19_000
    start = time.perf_counter()
    found = trace(parse(most).weave)
    took = time.perf_counter() - start
    report("script of 19,000 steps read and traced", took, "s", 5, f"{len(found.steps)} steps")
    big = trace(weave, units=250)
    report("diagram of the last 8 of 1,000 steps", timed(lambda: diagram(big, 992, 999)), "ms", 50)
    text = BAND.format(count="fit") + "".join(f"  {1 + i % 3}: over {2 + i % 3}\n" for i in range(1000))
    report(
        "script of 1,000 lines read", timed(lambda: parse(f"{text}-- {next(turn)}\n")), "ms", 100
    )  # a text not seen before


def calibrating() -> None:
    from dim_ladder.calibrate import Reading, Tie, calibrate, prior_for
    from dim_ladder.notation import parse_strict

    weave = parse_strict(BAND.format(count="fit"))
    prior = prior_for(weave)

    def tie(i: int) -> Tie:
        n, factor = 4 + i % 9, 1 + 0.02 * (i % 3 - 1)
        rates = {"buoy.a": 66, "buoy.b": 70, "tide.a": 17, "tide.b": 17}
        readings = tuple(
            Reading(ends=(e,), cut_mm=2000, left_mm=2000 - (40 + b * n) * factor) for e, b in rates.items()
        )
        return Tie(id=f"T{i}", counts={"bar": n}, length_mm=16.5 * n * factor + 8, readings=readings)

    for count, target in ((5, 50), (50, 50)):
        ties = tuple(tie(i) for i in range(count))
        report(
            f"refit with {count} ties",
            timed(partial(calibrate, weave, ties, prior), 5),
            "ms",
            target,
        )
    c = calibrate(weave, ties, prior)

    def fresh() -> None:
        c._known.clear()
        c.foresee([(e,) for e in prior.role_of], {"bar": 11.0}, c.length({"bar": 11.0}).median)

    report("exact answer for a new size with 50 ties", timed(fresh, 5), "ms", 100)


def designers() -> None:
    """Two thousand simulated designers: is the uncertainty true, and is it worth having?"""
    import numpy as np
    from joblib import Parallel, delayed

    from dim_ladder.calibrate import prior_for
    from dim_ladder.notation import parse_strict
    from helpers.designers import RECORDS
    from helpers.trials import SLIPS, covered, cuts, detected, followed, waste_ratios

    prior = prior_for(parse_strict(BAND.format(count="fit")))
    work = Parallel(n_jobs=2)

    def many(what: Callable[..., Any], count: int, *more: Any) -> Any:
        """So many trials in parts that are the same whatever the machine."""
        parts = work(delayed(_trials)(what, seed, 50, prior, more) for seed in range(count // 50))
        return np.vstack(parts)

    for ties in (0, 1, 3, 10):
        found = {r: many(covered, 2000, ties, r) for r in RECORDS}
        every = np.vstack(list(found.values()))
        parts = ", ".join(f"{r} {rows[:, 0].mean():.1%}" for r, rows in found.items())
        held = every[:, :3].mean(axis=0)
        note = f"end {held[0]:.1%}, cord {held[1]:.1%}, length {held[2]:.1%}; ends by record: {parts}"
        off = max(float(np.abs(rows[:, :3].mean(axis=0) - 0.9).max()) for rows in found.values()) * 100
        report(
            f"90 % intervals with {ties} ties, 2,000 designers a way of keeping records, off by",
            off,
            "%",
            2,
            note,
        )
        for k, what in ((3, "an end"), (4, "a cord, either end")):
            short = {r: float(rows[:, k].mean()) for r, rows in found.items()}
            note = ", ".join(f"{r} {x:.2%}" for r, x in short.items())
            off = max(abs(x - 0.02) for x in short.values()) * 100
            # Three binomial standard errors of 2,000.
            report(f"{what} ran short at 1 in 50 with {ties} ties, off by", off, "%", 0.94, note)
    for ties in (2, 3, 10):
        rule, line = waste_ratios(many(cuts, 1000, ties))
        note = f"a rule wastes {rule:.1f} times as much, least squares {line:.1f} times"
        report(f"cord wasted at equal chance, {ties} ties, of that by rule", 100 / rule, "%", 100, note)
    alarms = many(detected, 500, "")
    report("sound ties called misfits", float(alarms[:, 0].mean()) * 100, "%", 2)
    for slip in SLIPS:
        rows = many(detected, 200, slip)
        note = f"its cause named in {rows[:, 1].mean():.0%}"
        report(f"slip “{slip}” missed", 100 - float(rows[:, 0].mean()) * 100, "%", 50, note)
    rows = many(followed, 200)
    gain = float(np.log(rows[:, 1] / rows[:, 0]).mean())
    note = f"{gain:.1%} narrower than by ties at random for the same cord"
    report("spread after advised ties, of that after random ones", float(np.exp(-gain)) * 100, "%", 100, note)


def _trials(what: Callable[..., Any], seed: int, count: int, prior: Any, more: tuple[Any, ...]) -> Any:
    import numpy as np

    rng = np.random.default_rng([20261126, seed])
    return np.array([what(rng, prior, *more) for _ in range(count)], np.float64)


def sheets() -> None:
    from dim_ladder.commands.calibrating import calibration_of
    from dim_ladder.commands.sheets import write_sheet
    from dim_ladder.notation import parse_strict
    from dim_ladder.shelf import Document, read_document_text
    from dim_ladder.shelf.workshop import demo_texts

    lines = "  half-right (1 | 2 3 | 4)\n  half-left (1 | 2 3 | 4)\n" * 5
    ties = read_document_text(demo_texts()["tern-ladder.dimladder"], "tern").ties
    for words, doc in (
        ("sheet of 24 steps", Document(parse_strict(BAND.format(count="fit") + lines))),
        ("sheet of a band with four ties", Document(parse_strict(BAND.format(count="fit")), ties)),
    ):
        # As in the window, where the calibration is known and shapes were pulled tight before.
        known = calibration_of(doc)
        with tempfile.TemporaryDirectory() as name:
            for form, goal in (("pdf", 2), ("html", 1)):
                took = timed(partial(write_sheet, doc, Path(name), [form], calibration=known), 3) / 1e3
                report(f"{words} as {form.upper()}", took, "s", goal)


def orders() -> None:
    """Sixty pieces of five sizes, two cords of a colour each, over forty lengths of three lots."""
    import random

    from dim_ladder.stash.cutting import Alike, Shelf, cut_stock

    rng = random.Random(1)
    shelf = [Shelf(f"o{k}", rng.randint(400, 4000), rng.choice("ABC"), False) for k in range(36)]
    shelf += [Shelf(f"s{k}", rng.randint(8000, 40_000), rng.choice("ABC"), True) for k in range(4)]
    pieces = [Alike({mm: 1, int(mm * 0.4) + 100: 1}, 12) for mm in (rng.randint(450, 2200) for _ in range(5))]
    found = []
    took = timed(lambda: found.append(cut_stock(pieces, shelf, seconds=9.0)), 1) / 1e3
    report("order of 60 pieces over 40 lengths", took, "s", 10)
    report("by what a better cut could undercut it at most", found[-1].gap * 100, "%", 2)


def window() -> None:
    from PySide6.QtTest import QTest

    from dim_ladder.app.main import application
    from dim_ladder.app.window import MainWindow
    from dim_ladder.notation import parse_strict
    from dim_ladder.shelf import Document, save_document
    from dim_ladder.shelf.workshop import make_demo

    with tempfile.TemporaryDirectory() as folder:
        demo = make_demo(Path(folder))
        starts = []
        for _ in range(6):
            began = time.time()
            done = subprocess.run(
                [sys.executable, "-c", START, str(demo)], capture_output=True, text=True, check=True
            )
            starts.append(float(done.stdout) - began)
        report("window up, second start and later", statistics.median(starts[1:]), "s", 1.5)
        app = application()
        big = Path(folder) / "big.dimladder"
        save_document(Document(parse_strict(BAND.format(count="repeat 250"))), big)
        for name, path in (("a band", demo), ("1,000 steps recorded", big)):
            w = MainWindow()
            if path == big:
                steps = "".join(f"  {1 + i % 3}: over {2 + i % 3}\n" for i in range(1000))
                save_document(Document(parse_strict(BAND.format(count="fit") + steps)), big)
            w.open_path(path)
            w.resize(1280, 800)
            w.show()
            while w.session.jobs.busy:
                app.processEvents()
            board = w.record.board
            board.setFocus()
            taken = []
            for _ in range(6):
                for key in "4oo":
                    start = time.perf_counter()
                    QTest.keyClicks(board, key)
                    board.repaint()
                    app.processEvents()
                    taken.append((time.perf_counter() - start) * 1e3)
                w.record.board.act("drop")
            report(
                f"key press to diagram, {name}",
                statistics.median(taken),
                "ms",
                50,
                f"slowest {max(taken):.0f} ms",
            )
            kept = []
            for _ in range(6):
                QTest.keyClicks(board, "4o")
                start = time.perf_counter()
                board.act("done")
                board.repaint()
                app.processEvents()
                kept.append((time.perf_counter() - start) * 1e3)
                w.session.undo()
                app.processEvents()
            note = f"slowest {max(kept):.0f} ms, all views in step"
            report(f"step kept to diagram, {name}", statistics.median(kept), "ms", 50, note)
            frames = []
            bar = w.ladder.verticalScrollBar()
            for i in range(40):
                start = time.perf_counter()
                bar.setValue(i * 90)
                w.ladder.viewport().repaint()
                frames.append((time.perf_counter() - start) * 1e3)
            report(
                f"ladder scroll frame, {name}",
                statistics.median(frames),
                "ms",
                16,
                f"slowest {max(frames):.0f} ms",
            )
            w.session.unsaved = False
            w.close()
    sys.stdout.flush()
    os._exit(0)


def main() -> None:
    parts: dict[str, Callable[[], None]] = {
        part.__name__: part for part in (tracing, tightening, calibrating, designers, sheets, orders)
    } | {"trust": lambda: trust(report), "window": window}
    asked = [a for a in sys.argv[1:] if a != "--long"]
    if unknown := [a for a in asked if a not in parts]:
        print(
            "./run bench [--long] [PART ...]   speed, one JSON line per measurement with its target; some ten minutes"
        )
        print(f"Parts: {', '.join(parts)}.")
        sys.exit(0 if set(unknown) <= {"-h", "--help"} else 2)
    if "--long" in sys.argv:
        world(report)
        fuzzing()
        soak()
    for name, work in parts.items():  # the window last: with it the program ends
        if not asked or name in asked:
            work()


if __name__ == "__main__":
    main()
