"""A workshop: a folder of weaves. The made-up one ships, so that everything can be tried at once."""

from __future__ import annotations

import contextlib
from importlib import resources
from pathlib import Path

from dim_ladder.base.disk import write_whole
from dim_ladder.shelf.files import SUFFIX

FIRST = "tern-ladder"


def weaves_in(folder: Path) -> tuple[Path, ...]:
    """Documents of a folder, by name; none when it cannot be read."""
    try:
        return tuple(sorted(p for p in folder.iterdir() if p.suffix == SUFFIX and p.is_file()))
    except OSError:
        return ()


def demo_texts() -> dict[str, str]:
    """File name -> text of every weave of the made-up workshop."""
    folder = resources.files("dim_ladder.shelf").joinpath("demo")
    return {
        f.name: f.read_text("utf-8")
        for f in sorted(folder.iterdir(), key=lambda f: f.name)
        if f.name.endswith(SUFFIX)
    }


def demo_extras() -> dict[str, str]:
    """File name -> text of what else lies in the made-up workshop: its stash, and an order."""
    folder = resources.files("dim_ladder.shelf").joinpath("demo")
    return {name: folder.joinpath(name).read_text("utf-8") for name in ("stash.json", "order.json")}


def make_demo(folder: Path, *, fresh: bool = False) -> Path:
    """Put the made-up workshop into a folder; what is there already is kept unless `fresh`. Gives the first weave."""
    with contextlib.suppress(OSError):  # the write below says what is wrong, with a remedy
        folder.mkdir(parents=True, exist_ok=True)
    for name, text in {**demo_texts(), **demo_extras()}.items():
        path = folder / name
        if fresh or not path.exists():
            write_whole(path, text)
    return folder / f"{FIRST}{SUFFIX}"
