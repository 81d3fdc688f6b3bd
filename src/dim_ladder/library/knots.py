"""Knots that ship, read once from their script."""

from __future__ import annotations

from functools import cache
from importlib import resources

from dim_ladder.notation import Knot, parse_strict


@cache
def library_knots() -> tuple[Knot, ...]:
    """Every knot that ships, in the order of its file."""
    text = resources.files("dim_ladder.library").joinpath("knots.weave").read_text("utf-8")
    return parse_strict(text).knots


def library_knot(name: str) -> Knot | None:
    return next((k for k in library_knots() if k.name == name), None)
