"""What fits on a length."""

from __future__ import annotations

from collections.abc import Sequence

Pattern = tuple[int, ...]  # how many of every size


def all_patterns(room: int, sizes: Sequence[int], most: Sequence[int], limit: int) -> list[Pattern] | None:
    """Everything that fits, but nothing at all; None where that is more than `limit`. sizes, room : mm. most : of every size."""
    out: list[Pattern] = []

    def fill(k: int, left: int, so_far: Pattern) -> bool:
        if k == len(sizes):
            if any(so_far):
                out.append(so_far)
            return len(out) <= limit
        return all(
            fill(k + 1, left - n * sizes[k], (*so_far, n))
            for n in range(min(left // sizes[k], most[k]), -1, -1)
        )

    return out if fill(0, room, ()) else None


def fullest(room: int, sizes: Sequence[int], most: Sequence[int]) -> int:
    """How much of a room can be filled at all, mm: whatever lies beyond is waste of itself. Sums of sizes as bits of a number."""
    reached, mask = 1, (1 << (room + 1)) - 1
    for size, many in zip(sizes, most, strict=True):
        for _ in range(min(many, room // size)):
            more = (reached | reached << size) & mask
            if more == reached:
                break
            reached = more
    return reached.bit_length() - 1
