"""The stash of a workshop and its orders on disk: JSON beside the weaves, written whole or not at all."""

from __future__ import annotations

from pathlib import Path

from pydantic import ValidationError

from dim_ladder.base import InputError, WorldError
from dim_ladder.base.disk import read_text, remove, write_whole
from dim_ladder.stash import Order, Stash
from dim_ladder.stash.csvio import stash_from_csv
from dim_ladder.stash.value import StashFile

NAME, ORDER = "stash.json", "order.json"
MAX_BYTES = 20_000_000
LEFT = "Mend it there; the file was left as it is"


def read_stash(path: Path) -> Stash:
    """A stash, or a table of lengths (.csv) as one. Raises InputError with the place, or WorldError."""
    text = read_text(path, MAX_BYTES, "a stash")
    if path.suffix.lower() == ".csv":
        return Stash(lengths=stash_from_csv(text))
    try:
        return StashFile.model_validate_json(text).stash
    except ValidationError as e:
        raise InputError(_where(e, path.name), LEFT) from None


def stash_of(folder: Path) -> Stash:
    """The stash of a workshop; an empty one where it has none yet."""
    path = folder / NAME
    return read_stash(path) if path.is_file() else Stash()


def write_stash(stash: Stash, path: Path) -> None:
    """Raises WorldError."""
    write_whole(
        path, StashFile(stash=stash).model_dump_json(indent=1, exclude_defaults=False) + "\n", follow=True
    )


def read_order(path: Path) -> Order:
    """Raises InputError with the place, or WorldError."""
    try:
        return Order.model_validate_json(read_text(path, MAX_BYTES, "an order"))
    except ValidationError as e:
        raise InputError(_where(e, path.name), LEFT) from None


def write_order(order: Order, path: Path) -> None:
    """Raises WorldError."""
    write_whole(path, order.model_dump_json(indent=1) + "\n", follow=True)


def order_of(folder: Path) -> Order | None:
    """The order of a workshop; None where there is none."""
    path = folder / ORDER
    return read_order(path) if path.is_file() else None


def write_both(
    stash: Stash,
    order: Order | None,
    before: Stash,
    folder: Path,
    *,
    changed: tuple[bool, bool] = (True, True),
) -> None:
    """The stash and the order of a workshop, or neither. before : the stash as it is on disk. changed : which of them is another;
    what is not is not touched. Raises WorldError."""
    book(stash if changed[0] else None, folder / NAME, before, order, folder / ORDER, changed[1])


def book(
    stash: Stash | None,
    path: Path,
    before: Stash,
    order: Order | None,
    order_path: Path,
    order_changed: bool = True,
) -> None:
    """A booking, or what puts it back: the stash and the order, wherever they lie, or neither. Raises WorldError."""
    if stash is not None:
        write_stash(stash, path)
    if not order_changed:
        return
    try:
        if order is not None:
            write_order(order, order_path)
        else:
            remove(order_path)
    except WorldError:
        if stash is not None:
            write_stash(before, path)
        raise


def _where(e: ValidationError, name: str) -> str:
    first = e.errors()[0]
    where = " → ".join(str(p) for p in first["loc"])
    return f"{name}: {where + ': ' if where else ''}{first['msg'].removeprefix('Value error, ').lower()}"
