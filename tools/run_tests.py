"""Every check, in the order in which failures are cheapest to hear of. `./run test [--long] [--coverage] [pytest arguments]`."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
BIN = Path(sys.executable).parent
OFFSCREEN = f"offscreen:configfile={ROOT / 'tools' / 'offscreen.json'}"
# Any warning of Qt fails a test. What the offscreen platform says of itself (it has no window manager: every menu and
# tool tip that comes up is "raised") is no fault of the program; in an X window nothing is let pass.
QT = ["-o", "qt_log_level_fail=WARNING"]
OFFSCREEN_ITSELF = [
    "-o",
    "qt_log_ignore=propagateSizeHints\nThis plugin does not support (raise\\(\\)|grabbing the keyboard)",
]
CORE = ["tests/unit", "tests/property", "tests/statistics"]
WINDOWS = ["tests/app", "tests/journeys"]
# Loops are compiled once for all runs of the suite, not once for every private home and every worker.
COMPILED = {"NUMBA_CACHE_DIR": str(ROOT / ".pytest_cache" / "compiled")}
LEAST = 90  # per cent of the lines of src that the short run must come by
SHORT = """This was the short run. Only ./run test --long shows: coverage and chance to within two per cent (2,000 simulated makers
for each number of ties; here 200), rates of found slips and false alarms within a few per cent, ten times as many random
weaves, edits and scripts, and the benchmark's figures against their targets."""


class Step:
    """A command, its output kept until it is over where it runs beside others."""

    def __init__(self, name: str, command: list[str], *, quiet: bool = False, **environment: str) -> None:
        self.name, self.command, self.quiet, self.environment = name, command, quiet, environment

    def run(self, more: Mapping[str, str] | None = None) -> bool:
        if not self.quiet:
            print(f"== {self.name}", flush=True)
        start = time.monotonic()
        kept = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "QT_QPA_PLATFORM")}
        out = subprocess.PIPE if self.quiet else None
        done = subprocess.run(
            self.command, cwd=ROOT, env={**kept, **COMPILED, **(more or {}), **self.environment}, stdout=out,
            stderr=subprocess.STDOUT if self.quiet else None, text=True, check=False,
        )  # fmt: skip
        if self.quiet and done.returncode:
            print(f"== {self.name}\n{done.stdout}", flush=True)
        how = "ok" if done.returncode == 0 else f"FAILED ({done.returncode})"
        print(f"== {self.name}: {how} in {time.monotonic() - start:.0f} s", flush=True)
        return done.returncode == 0


def quick() -> list[Step]:
    """Checks that take one processor each, run two at a time."""
    python = sys.executable
    return [
        Step("types", [str(BIN / "mypy")], quiet=True),
        Step("style", [str(BIN / "ruff"), "check", "src", "tests", "tools"], quiet=True),
        Step("layout", [str(BIN / "ruff"), "format", "--check", "-q", "src", "tests", "tools"], quiet=True),
        Step("imports", [str(BIN / "lint-imports"), "--no-logo"], quiet=True),
        Step("loops compiled", [python, "-m", "dim_ladder.shape.engine"], quiet=True),
    ]


def suites(pytest: list[str]) -> list[Step]:
    return [
        Step("core without Qt", [*pytest, "-p", "no:pytest-qt", "-n", "2", *CORE], DIM_LADDER_NO_QT="1"),
        # One more than there are processors: windows wait for pauses half of their time.
        Step(
            "windows", [*pytest, *QT, *OFFSCREEN_ITSELF, "-n", "3", *WINDOWS],
            QT_QPA_PLATFORM=OFFSCREEN, DIM_LADDER_OFFSCREEN="1",
        ),
        Step(
            "journeys in an X window",
            ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24", *pytest, *QT, "tests/journeys"],
            QT_QPA_PLATFORM="xcb",
        ),
    ]  # fmt: skip


def main() -> int:
    args = sys.argv[1:]
    long, coverage = "--long" in args, "--coverage" in args
    more = [a for a in args if a not in ("--long", "--coverage")]
    environment = {"DIM_LADDER_LONG": "1"} if long else {}
    pytest = [sys.executable, "-m", "pytest"]
    if coverage:
        (ROOT / ".coverage").unlink(missing_ok=True)
        pytest += ["--cov=dim_ladder", "--cov-append", "--cov-report="]
    if more:
        env = {**os.environ, **COMPILED, **environment, "DIM_LADDER_OFFSCREEN": "1"}
        return subprocess.call([*pytest, *more], cwd=ROOT, env=env)
    with ThreadPoolExecutor(2) as two:
        results = list(two.map(Step.run, quick()))
    results += [s.run(environment) for s in suites(pytest)]
    if long:
        bench = [sys.executable, "tools/bench.py", "--long"]
        results.append(Step("benchmark", bench).run(environment))
    if coverage:
        results.append(Step("coverage", [sys.executable, "tools/coverage_table.py", str(LEAST)]).run())
    elif not long:
        print(SHORT)
    print(f"{sum(results)} of {len(results)} checks passed", flush=True)
    return 0 if all(results) else 1


if __name__ == "__main__":
    sys.exit(main())
