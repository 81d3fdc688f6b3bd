"""Shared set-up: private folders, no leftovers of the person's own settings, and a core that must not see Qt."""

from __future__ import annotations

import importlib.abc
import os
import sys
from pathlib import Path

import pytest

HERE = Path(__file__).resolve().parent
sys.path.insert(0, str(HERE))

if os.environ.get("DIM_LADDER_NO_QT"):

    class _NoQt(importlib.abc.MetaPathFinder):
        """With this in place any import of Qt fails: the core must not need it."""

        def find_spec(self, name, path=None, target=None):
            if name.split(".")[0] in ("PySide6", "shiboken6"):
                raise ImportError(f"{name} must not be imported by the core")
            return None

    sys.meta_path.insert(0, _NoQt())
elif "DISPLAY" not in os.environ or os.environ.get("DIM_LADDER_OFFSCREEN"):
    os.environ["QT_QPA_PLATFORM"] = f"offscreen:configfile={HERE.parent / 'tools' / 'offscreen.json'}"


# Loops are compiled once for all runs of the suite, not once for every private home.
os.environ.setdefault("NUMBA_CACHE_DIR", str(HERE.parent / ".pytest_cache" / "compiled"))


@pytest.fixture(autouse=True)
def _private_home(tmp_path, monkeypatch):
    """Nothing is read from or written to the person's own folders."""
    for name in ("HOME", "XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME"):
        folder = tmp_path / "home" / name.lower()
        folder.mkdir(parents=True)
        monkeypatch.setenv(name, str(folder))
