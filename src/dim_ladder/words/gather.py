"""Instructions with what repeats said once: "Repeat 3 and 4 with left and right exchanged: A in the place of D", "Repeat 1 to 3
with C in the place of B, then D"; and what is led strand by strand told over several lines."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dim_ladder.trace.again import Again, again
from dim_ladder.trace.led import led_parts
from dim_ladder.trace.signature import runs
from dim_ladder.trace.value import Trace
from dim_ladder.words.headings import step_heading
from dim_ladder.words.phrases import end_name, listing, times
from dim_ladder.words.sentences import step_sentence

LONGEST = 12  # runs in a block that repeats
FEW = 3  # of them, beyond which it is said in short
MOST_CHANGES = 8  # ends that take another's place, beyond which all is said anew


@dataclass(frozen=True, slots=True)
class Line:
    """A line of instructions, as numbered for the reader. step : the traced step it says, or with which the repetition
    that it says begins (repeats), and `last` with which it ends. hops : of a step that is told over several lines, which of its
    hops; None for all."""

    number: int
    heading: str
    sentence: str
    step: int
    repeats: bool = False
    last: int = -1
    hops: range | None = None


def gathered(
    trace: Trace,
    voice: str = "plain",
    lie: str = "hanging",
    only: Sequence[int] | None = None,
    after: int = 0,
) -> tuple[Line, ...]:
    """The steps of a trace (or only these of it) with what repeats said once.

    after : the number of the line before the first.
    """
    chosen = None if only is None else set(only)
    every = [(a, b) for a, b in runs(trace) if chosen is None or a in chosen]
    teller = _Teller(trace, voice, lie, after)
    i = 0
    while i < len(every):
        length, often = _block(trace, every, i)
        for first, stop in every[i : i + length]:
            teller.tell(first, stop)
        if often > 1:
            teller.again(every[i : i + length * often], length)
        i += length * often
    return tuple(teller.lines)


def _block(trace: Trace, every: Sequence[tuple[int, int]], i: int) -> tuple[int, int]:
    """How many runs from here on make a motif that repeats, and how often it stands there; (1, 1) where none does."""
    for length in range(1, min(LONGEST, (len(every) - i) // 2) + 1):
        first, stop = every[i][0], every[i + length - 1][1]
        if stop - first < 2:  # one step is as soon said as repeated
            continue
        often = 1
        while i + (often + 1) * length <= len(every):
            there = every[i + often * length]
            end = every[i + (often + 1) * length - 1][1]
            if trace.steps[end - 1].op.section != trace.steps[first].op.section:
                break
            found = again(trace, range(first, stop), range(there[0], end), ways=("",))
            if found is None or len(changed(found)) > MOST_CHANGES:
                break
            often += 1
        if often > 2 or (often > 1 and length > 1):
            return length, often
    return 1, 1


class _Teller:
    """Says run after run, and knows what was said."""

    def __init__(self, trace: Trace, voice: str, lie: str, number: int) -> None:
        self.t, self.voice, self.lie, self.number = trace, voice, lie, number
        self.lines: list[Line] = []
        self.known: list[tuple[tuple[int, int], int, int]] = []  # runs that were said, and their lines
        self.begun: dict[int, int] = {}  # step -> number of its first line

    def tell(self, first: int, stop: int) -> None:
        t = self.t
        heading = step_heading(t, first, self.voice)
        said = self._as_before(first, stop) if stop - first > 1 else ""
        if said:
            self.begun[first] = self.number + 1
            self._line(heading, said, first, stop - 1)
            return
        begin = self.number + 1
        period = _period(t, first, stop)
        for i in range(first, first + period):
            self._step(i, heading if i == first else step_heading(t, i, self.voice))
        if period < stop - first:
            parts = _repetitions(t, first, stop, period)
            said = f"Repeat {_lines(begin, self.number)}{_each(t, parts)}."
            self._line("", said, first + period, stop - 1)
        self.known.append(((first, stop), begin, self.number))

    def again(self, whole: Sequence[tuple[int, int]], length: int) -> None:
        """A motif that stands several times."""
        t, begin = self.t, self.begun[whole[0][0]]
        first, steps = whole[0][0], whole[length - 1][1] - whole[0][0]
        starts = [whole[k][0] for k in range(length, len(whole), length)]
        parts = [p for s in starts if (p := again(t, range(first, first + steps), range(s, s + steps)))]
        more = f"{times(len(starts))} more"
        said = f"Repeat {_lines(begin, self.number)} {more}{_each(t, parts)}."
        self._line("", said, starts[0], whole[-1][1] - 1)

    def _step(self, i: int, heading: str) -> None:
        r = self.t.steps[i]
        self.begun[i] = self.number + 1
        for k, part in enumerate(led_parts(r)):
            self.number += 1
            said = step_sentence(self.t, i, self.voice, self.lie, part)
            self.lines.append(Line(self.number, heading if not k else "", said, i, False, i, part))

    def _line(self, heading: str, said: str, first: int, last: int) -> None:
        self.number += 1
        self.lines.append(Line(self.number, heading, said, first, True, last))

    def _as_before(self, first: int, stop: int) -> str:
        for (a, b), begin, end in reversed(self.known):
            if b - a != stop - first:
                continue
            found = again(self.t, range(a, b), range(first, stop))
            if found is not None and len(changed(found)) <= MOST_CHANGES:
                return f"Repeat {_lines(begin, end)}{again_words(self.t, found)}."
        return ""


def _lines(a: int, b: int) -> str:
    return f"{a}" if a == b else f"{a} and {b}" if b == a + 1 else f"{a} to {b}"


def _repetitions(trace: Trace, first: int, stop: int, period: int) -> list[Again]:
    """What the steps after the first `period` of a run are of those; [] where they are not the same."""
    out = []
    for i in range(first + period, stop, period):
        found = again(trace, range(first, first + period), range(i, i + period), ways=("",))
        if found is None or len(changed(found)) > 1:
            return []
        out.append(found)
    return out


def _period(trace: Trace, first: int, stop: int) -> int:
    """After how many steps of a run it does the same again with one other end: a bar of hitches has three."""
    count = stop - first
    for period in range(1, count // 2 + 1):
        if count % period == 0 and _repetitions(trace, first, stop, period):
            return period
    return count


def changed(found: Again) -> dict[int, int]:
    """Ends whose part another takes -> who does."""
    return {a: b for a, b in found.parts if a != b}


HOW_WORDS = {
    "": "",
    "mirror": "left and right exchanged",
    "flip": "from behind, so that over becomes under and up becomes down",
    "turn": "left and right exchanged and from behind, so that over becomes under and up becomes down",
}


def again_words(trace: Trace, found: Again) -> str:
    """How something is repeated: which way, and by whom; begins with a space, "" where all is as it was."""
    how, who = HOW_WORDS[found.how], _who(trace, changed(found))
    if how.startswith("left"):
        how = "with " + how
    if how and who:
        return f" {how}, {who}"
    return f" {how}" if how else f" with {who}" if who else ""


def _who(trace: Trace, parts: dict[int, int]) -> str:
    """Who takes whose place."""
    if len(parts) > FEW:
        return ", ".join(f"{end_name(trace, b)} as {end_name(trace, a)}" for a, b in sorted(parts.items()))
    said: list[str] = []
    done: set[int] = set()
    for a, b in sorted(parts.items()):
        if a in done:
            continue
        if parts.get(b) == a:
            said.append(f"{end_name(trace, a)} and {end_name(trace, b)} changing parts")
            done.add(b)
        else:
            said.append(f"{end_name(trace, b)} in the place of {end_name(trace, a)}")
    return listing(said)


def _each(trace: Trace, found: Sequence[Again]) -> str:
    """Of repetitions one after the other, who takes whose place in each."""
    parts = [changed(f) for f in found]
    if not any(parts):
        return ""
    one = {a for p in parts for a in p}
    if len(one) == 1 and all(parts):
        (a,) = one
        names = [end_name(trace, p[a]) for p in parts]
        return f" with {names[0]} in the place of {end_name(trace, a)}" + (
            f", then {listing(names[1:])}" if len(names) > 1 else ""
        )
    said = [f"with {_who(trace, p)}" if p else "as they stand" for p in parts]
    return f", first {said[0]}" + "".join(f"; then {s}" for s in said[1:]) if len(said) > 1 else f" {said[0]}"
