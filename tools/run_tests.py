"""Every check, in the order in which failures are cheapest to hear of. `./run test [pytest arguments]`."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
BIN = Path(sys.executable).parent
OFFSCREEN = f"offscreen:configfile={ROOT / 'tools' / 'offscreen.json'}"
QT = ["-o", "qt_log_level_fail=WARNING", "-o", "qt_log_ignore=propagateSizeHints"]


def step(name: str, command: list[str], **environment: str) -> bool:
    print(f"== {name}", flush=True)
    start = time.monotonic()
    env = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "QT_QPA_PLATFORM")}
    code = subprocess.call(command, cwd=ROOT, env={**env, **environment})
    print(
        f"== {name}: {'ok' if code == 0 else f'FAILED ({code})'} in {time.monotonic() - start:.0f} s",
        flush=True,
    )
    return code == 0


def main() -> int:
    pytest = [sys.executable, "-m", "pytest"]
    if sys.argv[1:]:
        return subprocess.call(
            [*pytest, *sys.argv[1:]], cwd=ROOT, env={**os.environ, "DIM_LADDER_OFFSCREEN": "1"}
        )
    core = ["tests/unit", "tests/property", "tests/statistics"]
    results = [
        step("style", [str(BIN / "ruff"), "check", "src", "tests", "tools"]),
        step("layout", [str(BIN / "ruff"), "format", "--check", "-q", "src", "tests", "tools"]),
        step("imports", [str(BIN / "lint-imports"), "--no-logo"]),
        step("types", [str(BIN / "mypy")]),
        step("core without Qt", [*pytest, "-p", "no:pytest-qt", "-n", "2", *core], DIM_LADDER_NO_QT="1"),
        step(
            "windows",
            [*pytest, *QT, "-n", "2", "tests/app", "tests/journeys"],
            QT_QPA_PLATFORM=OFFSCREEN,
            DIM_LADDER_OFFSCREEN="1",
        ),
        step(
            "journeys in an X window",
            ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24", *pytest, *QT, "tests/journeys"],
            QT_QPA_PLATFORM="xcb",
        ),
    ]
    print(f"{sum(results)} of {len(results)} checks passed", flush=True)
    return 0 if all(results) else 1


if __name__ == "__main__":
    sys.exit(main())
