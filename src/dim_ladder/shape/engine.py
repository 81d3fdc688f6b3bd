"""Which of the two engines works: the compiled one once it is there, plain numpy until then and where it cannot be."""

from __future__ import annotations

import contextlib
import hashlib
import subprocess
import sys
import threading
import types
from pathlib import Path
from types import ModuleType

import numpy as np

from dim_ladder.shape import contact, pull
from dim_ladder.shape.cache import compiled

_lock = threading.Lock()
_begun: threading.Thread | None = None
_fast: ModuleType | None = None


def plain() -> ModuleType:
    """The reference."""
    both = types.ModuleType("plain")
    both.near, both.softened, both.run = contact.near, contact.softened, pull.run  # type: ignore[attr-defined]
    return both


_PLAIN = plain()


def engine() -> ModuleType:
    """The best there is at this moment; the first call begins to compile, beside what else goes on."""
    ready()
    return _fast or _PLAIN


def ready(*, wait: bool = False) -> bool:
    """Whether the compiled engine can be had; wait : until that is known, some ten seconds on its first use."""
    global _begun
    with _lock:
        if _begun is None:
            _begun = threading.Thread(target=_compile, name="compile", daemon=True)
            _begun.start()
    if wait:
        _begun.join()
    return _fast is not None


def _compile() -> None:
    """Have both loops compiled, or read from where they were kept, by using them once.

    Compiling holds the interpreter's lock for some ten seconds: where it was not done before, another process does it
    and leaves the result where this one finds it.
    """
    global _fast
    try:
        mark = _mark()
        if not mark.exists() and not getattr(sys, "frozen", False):
            command = [sys.executable, "-m", "dim_ladder.shape.engine"]
            subprocess.run(command, capture_output=True, timeout=300, check=False)
        _use()
    except (
        Exception
    ):  # no compiler here, or no folder to keep what is compiled: the reference does it, slowly
        return
    from dim_ladder.shape import fast

    _fast = fast
    with contextlib.suppress(OSError):
        mark.parent.mkdir(parents=True, exist_ok=True)
        mark.touch()


def _use() -> None:
    from dim_ladder.shape import fast
    from dim_ladder.shape.rope import Curves, rope

    line = np.array([[0.0, -2.0, 0.0], [0.0, 2.0, 0.0]])
    r = rope(Curves((line,), (-1,), 0.0, (1.0,), (1.0,)), 0.5)
    fast.run(r, fast.softened(r, fast.near(r)), 1.0, 0.01, 1, (False, False), 1.0)


def _mark() -> Path:
    """A file that says that these very loops were compiled before, by this very Python."""
    return compiled() / f"{hashlib.sha256(sys.version.encode()).hexdigest()[:16]}.ready"


if __name__ == "__main__":
    _use()
