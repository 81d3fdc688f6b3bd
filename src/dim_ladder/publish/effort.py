"""How hard a work is, by what is hard in it, and how long it takes."""

from __future__ import annotations

from collections.abc import Sequence

from dim_ladder.calibrate.timing import Timing
from dim_ladder.notation import Follow, Thread, Through, Weave, working_ends
from dim_ladder.trace import Trace
from dim_ladder.trace.led import is_led, marks
from dim_ladder.words.phrases import listing

# What one of each adds; a beginner's band of four ends with two different steps comes to about 2.
STEP, PASS, END, LED, SHORT = 0.25, 0.5, 0.25, 0.6, 0.6
EASY, HARD = 3.2, 8.0
MANY_ENDS = 6


def difficulty(weave: Weave, t: Trace, steps: int) -> str:
    """A word for how hard it is, and what makes it so. t : one unit of every section. steps : different ones on the sheet."""
    own = [r for r in t.steps if not r.quiet and r.op.unit == 0]
    ends = len(working_ends(weave))
    loops = sum(isinstance(h.hop, Through) and h.edge >= 0 for r in own for h in r.hops)
    led = sum(len(marks(r)) for r in own if is_led(r))
    score = steps * STEP + loops * PASS + ends * END + led * LED
    hard: list[str] = []
    if led:
        hard.append(f"ends are led through the work itself, {led} passages by picture")
    elif loops > 2:
        hard.append(f"{loops} passes through loops made before")
    if ends > MANY_ENDS:
        hard.append(f"{ends} ends in hand")
    more = (
        (any(isinstance(h.hop, Follow) for r in own for h in r.hops), "ends follow others all the way"),
        (any(isinstance(h.hop, Thread) for r in own for h in r.hops), "beads stand at their places"),
        (any(r.turned for r in own), "the work is turned over"),
        (any(s.over for s in weave.sections), "a second layer lies over the first"),
        (any(s.on for s in weave.sections), "it is stitched with a needle"),
        (any(s.former is not None for s in weave.sections), "it is worked round a former"),
        (len(weave.sections) > 4, f"{len(weave.sections)} sections"),
    )
    for there, words in more:
        if there:
            hard.append(words)
            score += SHORT
    word = "easy" if score < EASY else "needs attention" if score < HARD else "for the practised hand"
    return f"{word}: {listing(hard)}" if hard else word


def minutes_words(low: float, middle: float, high: float) -> str:
    """About how long, as a maker would say it."""
    return f"about {_time(middle)}, 9 in 10 between {_time(low)} and {_time(high)}"


def piece_minutes(times: Timing, counts: dict[str, int]) -> str:
    """How long a piece takes; "" where nothing in it is worked in steps."""
    spread = times.piece(counts)
    if spread.median <= 0:
        return ""
    low, high = spread.interval(0.9)
    return minutes_words(low, spread.median, high)


def basis_words(times: Timing) -> str:
    """What the minutes are known from."""
    if not times.ties:
        return "The time is guessed from the number of steps: nobody has timed one yet."
    return f"The time is that of {times.ties} timed {'tie' if times.ties == 1 else 'ties'}."


NICE_MINUTES: Sequence[tuple[float, float]] = ((10, 1), (60, 5), (180, 10), (float("inf"), 30))


def _time(minutes: float) -> str:
    step = next(s for below, s in NICE_MINUTES if minutes < below)
    whole = max(1, round(minutes / step) * step)
    if whole < 90:
        return f"{whole:.0f} min"
    hours, rest = divmod(round(whole), 60)
    return f"{hours} h {rest} min" if rest else f"{hours} h"
