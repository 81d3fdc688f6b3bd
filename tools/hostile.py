"""What the benchmark does with --long: ten thousand mutated inputs for every reader, ten thousand edits in one session. Counts
and figures, one JSON line each."""

from __future__ import annotations

import json
import os
import resource
import tempfile
import time
from collections.abc import Callable
from multiprocessing import Pool
from pathlib import Path

FUZZED = 10_000
EDITS = 10_000


def _fuzz(reader: str) -> dict[str, object]:
    from helpers.fuzz import fuzz

    begun = time.perf_counter()
    try:
        found: dict[str, object] = dict(fuzz(reader, FUZZED, seed=2))
    except AssertionError as e:
        found = {"fault": str(e)[:500]}
    return {
        "what": f"fuzzed: {reader}",
        **found,
        "seconds": round(time.perf_counter() - begun, 1),
        "ok": "fault" not in found,
    }


def fuzzing() -> None:
    """Every reader."""
    from helpers.fuzz import READERS

    with Pool(os.cpu_count()) as pool:
        for line in pool.imap_unordered(_fuzz, READERS):
            print(json.dumps(line), flush=True)


def trust(report: Callable[..., None]) -> None:
    """How soon a key is kept, work that nobody waits for leaves off, and a script that asks for too much is refused."""
    from dim_ladder.app.main import application
    from dim_ladder.app.session import Session
    from dim_ladder.notation import parse, parse_strict
    from dim_ladder.trace import trace

    app = application()
    head = 'weave "x"\ncords\n  a k #112233\n  b k #112233\nhang\n  a.a a.b b.a b.b\nsection s: body, '
    with tempfile.TemporaryDirectory() as folder:
        os.environ["DIM_LADDER_STATE"] = folder
        session = Session()
        long = session.document.script + "-- a remark that makes the script long\n" * 640
        times = []
        for k in range(200):
            begun = time.perf_counter()
            session.custody.keeper.typed(long + "x" * k)
            times.append(time.perf_counter() - begun)
        report(
            "key in a script of 24 kB, in the journal", sorted(times)[len(times) * 95 // 100] * 1000, "ms", 50
        )
        weave = parse_strict(head + "repeat 9500\n  1: over 2\n  3: over 4\n")
        ended: list[float] = []

        def work() -> None:
            try:
                trace(weave)
            finally:
                ended.append(time.perf_counter())

        session.jobs.ask(session, "turning", work, lambda _: None, lambda _: None)
        while time.perf_counter() - begun < 0.4:  # in the midst of it
            app.processEvents()
            time.sleep(0.005)
        begun = time.perf_counter()
        session.jobs.drop("turning")
        while not ended:
            app.processEvents()
            time.sleep(0.001)
        report("work that nobody waits for any more leaves off", (ended[0] - begun) * 1000, "ms", 200)
        session.unsaved = False
        session.close()
        session.jobs.finish()
    worst = 0.0
    for more in (
        "1: over 2, up own turns 80",
        "1: over 2" + ", up own" * 300,
        "1: over 2, up own turns 14\n  2: over 1",
    ):
        for times_ in (1, 9000):
            parsed = parse(f"{head}repeat {times_}\n  {more}\n")
            begun = time.perf_counter()
            trace(parsed.weave, parsed=parsed)
            worst = max(worst, time.perf_counter() - begun)
    report("heaviest script refused, or traced", worst, "s", 20)


def soak() -> None:
    """Memory and time of an edit over a long day: a long script typed in, and a board worked on."""
    from dim_ladder.app.main import application
    from dim_ladder.app.session import Session
    from dim_ladder.commands import SetName, SetScript
    from dim_ladder.shelf.journal import journal_path
    from dim_ladder.shelf.workshop import make_demo

    app = application()
    for kind in ("names", "scripts of 24 kB"):
        with tempfile.TemporaryDirectory() as folder:
            os.environ["DIM_LADDER_STATE"] = f"{folder}/state"
            session = Session()
            path = make_demo(Path(folder) / "w")
            session.open(path)
            long = session.document.script + "".join(
                f"-- a remark that makes the script long, {k}\n" for k in range(500)
            )
            parts = []
            for part in range(10):
                begun = time.perf_counter()
                for k in range(EDITS // 10):
                    n = part * EDITS + k
                    session.do(
                        SetName(name=f"N{n}") if kind == "names" else SetScript(text=f"{long}-- {n}\n")
                    )
                    if k % 20 == 0:
                        app.processEvents()
                parts.append((time.perf_counter() - begun) / (EDITS // 10) * 1000)
                parts.append(_memory())
            size = journal_path(path).stat().st_size / 1e6
            session.close()
            session.jobs.finish()
        ms, mb = parts[::2], parts[1::2]
        print(
            json.dumps(
                {
                    "what": f"{EDITS} edits: {kind}",
                    "ms of an edit, first tenth and last": [round(ms[1], 2), round(ms[-1], 2)],
                    "MB then": [round(mb[1]), round(mb[-1])],
                    "journal MB": round(size, 2),
                    "ok": ms[-1] < 1.5 * ms[1] and mb[-1] < mb[1] + 20 and size < 8,
                }
            ),
            flush=True,
        )


def _memory() -> float:
    """MB that this process holds now."""
    pages = int(Path("/proc/self/statm").read_text("ascii").split()[1])
    return pages * resource.getpagesize() / 1e6
