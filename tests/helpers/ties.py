"""Test ties of the example weave, without noise."""

from __future__ import annotations

from dim_ladder.calibrate import Reading, Tie


def tie(name, units=6, factor=1.0, b=(66.0, 70.0, 17.0), a=40.0, pitch=16.5, together=True, **more):
    """A tie without noise: used = (a + b N) factor. The number in its name is its day."""

    def used(i):
        return (a + b[i] * units) * factor

    fillers = (Reading(ends=("tide.a", "tide.b"), cut_mm=900, left_mm=900 - 2 * used(2)),)
    if not together:
        fillers = tuple(Reading(ends=(e,), cut_mm=900, left_mm=900 - used(2)) for e in ("tide.a", "tide.b"))
    number = int("0" + "".join(c for c in name if c.isdigit()))
    more.setdefault(
        "date", f"2026-{1 + number // 28:02d}-{1 + number % 28:02d}"
    )  # each in a sitting of its own
    return Tie(
        id=name,
        counts={"bar": units},
        length_mm=pitch * units * factor + 8,
        readings=(
            Reading(ends=("buoy.a",), cut_mm=2000, left_mm=2000 - used(0)),
            Reading(ends=("buoy.b",), cut_mm=2000, left_mm=2000 - used(1)),
            *fillers,
        ),
        **more,
    )
