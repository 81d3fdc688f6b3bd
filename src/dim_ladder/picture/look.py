"""Sizes that a drawing is made in."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Style:
    """Sizes in pixels. unit : spacing of cords; row : of rows; cord : drawn width of a cord. behind : seen from the
    other side than the one that lies up. letter : radius of the discs with letters, in parts of the spacing; below 0.5 they do not
    touch."""

    unit: float = 26.0
    row: float = 28.0
    cord: float = 12.0
    quiet: float = 0.42
    labels: bool = True
    behind: bool = False
    letter: float = 0.33

    @property
    def margin(self) -> float:
        return self.unit * 0.8
