"""A real browser without a window."""

from __future__ import annotations

import shutil
import subprocess
import tempfile
from pathlib import Path

FLAGS = (
    "--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--hide-scrollbars", "--virtual-time-budget=2000",
)  # fmt: skip


def browser() -> str:
    """Path of the browser; a missing one is a failure of the set-up, not a reason to skip."""
    for name in ("chromium", "chromium-browser", "google-chrome"):
        found = shutil.which(name)
        if found:
            return found
    raise AssertionError("no browser: run ./run test, which installs one, or: apt-get install -y chromium")


def dom(page: Path, fragment: str = "", *flags: str) -> tuple[str, str]:
    """The page after its scripts ran, and what the browser complained about."""
    with tempfile.TemporaryDirectory() as profile:
        done = subprocess.run(
            [browser(), *FLAGS, f"--user-data-dir={profile}", "--enable-logging=stderr", "--v=0", *flags, "--dump-dom",
             page.as_uri() + (f"#{fragment}" if fragment else "")],
            capture_output=True, text=True, check=True,
        )  # fmt: skip
    complaints = "\n".join(line for line in done.stderr.split("\n") if "CONSOLE" in line)
    return done.stdout, complaints
