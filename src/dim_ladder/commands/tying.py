"""Tying along: one step after the other, counted, timed, found again after a crash; at the end a test tie.

Knows nothing of windows or clocks: time comes in as seconds that were worked, without the pauses.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from statistics import median
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from dim_ladder.base import InputError, format_length
from dim_ladder.base.budget import MOST_SECTIONS
from dim_ladder.calibrate import Calibration, Tie
from dim_ladder.library import CAUTIONS, FINISHES
from dim_ladder.notation import Weave, write
from dim_ladder.publish.seen import check_units
from dim_ladder.trace import Trace, Tracer
from dim_ladder.trace.solved import MAX_STEPS
from dim_ladder.words.former import called_out
from dim_ladder.words.headings import step_heading
from dim_ladder.words.sentences import step_sentence


@dataclass(frozen=True, slots=True)
class Beat:
    """One step to make. unit, step : counted from 1, of so many. at : the step of the trace, -1 on a round former,
    where `call` is what is called out."""

    section: str
    unit: int
    units: int
    step: int
    steps: int
    at: int = -1
    call: str = ""
    laid: int = 0  # half cycles that lie on the former once it is done

    @property
    def last_of_unit(self) -> bool:
        return self.step == self.steps


def begun(weave: Weave, counts: dict[str, int]) -> tuple[Trace, tuple[Beat, ...]]:
    """The whole piece traced, and everything to do, in order.

    counts : units by section; a section that is not named is worked as often as the weave says, or once. Raises
    InputError where the weave cannot be traced or nothing is to be done.
    """
    trace = Tracer().trace(weave, counts=counts)
    if trace.problems:
        raise InputError(str(trace.problems[0]), "Mend the weave first; then tie along")
    out: list[Beat] = []
    for index, section in enumerate(weave.sections):
        if section.former is not None:
            calls = called_out(section)
            laid = 0
            for k, c in enumerate(calls, 1):
                laid = max(laid, c.run + 1)
                text = c.text if c.run < 0 else f"{c.run + 1}. {c.text}"
                out.append(Beat(section.name, 1, 1, k, len(calls), call=text, laid=laid))
            continue
        own = [(i, r) for i, r in enumerate(trace.steps) if r.op.section == index and not r.quiet]
        units = max((r.op.unit for _, r in own), default=-1) + 1
        for u in range(units):
            steps = [(i, r) for i, r in own if r.op.unit == u]
            out += [Beat(section.name, u + 1, units, k, len(steps), i) for k, (i, _) in enumerate(steps, 1)]
    if not out:
        raise InputError("there is no step to tie yet", "Record one first")
    return trace, tuple(out)


def heading(trace: Trace, beat: Beat, vocabulary: str) -> str:
    """The knot that a beat belongs to, as the reader calls it; "" for a bare step."""
    if beat.at < 0:
        return ""
    op = trace.steps[beat.at].op
    for i in range(beat.at, -1, -1):
        if trace.steps[i].op is not op:
            return ""
        found = step_heading(trace, i, vocabulary)
        if found:
            return found
    return ""


def sentence(trace: Trace, beat: Beat, vocabulary: str, lie: str) -> str:
    return beat.call or step_sentence(trace, beat.at, vocabulary, lie)


def cautions(trace: Trace, beat: Beat) -> tuple[str, ...]:
    """What can hurt in the step in hand: flame, hot cord, blades."""
    finish = FINISHES.get(trace.steps[beat.at].finish) if beat.at >= 0 else None
    return tuple(CAUTIONS[k] for k in finish.cautions) if finish else ()


def side_due(trace: Trace, beat: Beat) -> str:
    """Which side the end in question comes from: left, right or middle; "" where no end moves."""
    if beat.at < 0:
        return ""
    r = trace.steps[beat.at]
    before = r.before[::-1] if r.turned else r.before
    if not r.hops or r.end not in before:
        return ""
    at, last = before.index(r.end), len(before) - 1
    return "left" if at * 2 < last else "right" if at * 2 > last else "middle"


Seconds = Annotated[float, Field(ge=0, le=1e9, allow_inf_nan=False)]


class Tying(BaseModel):
    """How far it is. at : beats that are done. seconds : worked so far. log : seconds at which each beat was done;
    going back takes its beats from the log."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    version: Literal[1] = 1
    weave: Annotated[str, Field(max_length=200)]
    name: Annotated[str, Field(max_length=200)]
    counts: Annotated[dict[str, Annotated[int, Field(ge=0, le=100_000)]], Field(max_length=MOST_SECTIONS)]
    started: Annotated[str, Field(max_length=32)]
    at: Annotated[int, Field(ge=0, le=MAX_STEPS)] = 0
    seconds: Seconds = 0.0
    log: Annotated[tuple[Seconds, ...], Field(max_length=MAX_STEPS)] = ()

    @model_validator(mode="after")
    def _a_time_for_every_beat(self) -> Tying:
        if len(self.log) != self.at:
            raise ValueError("the times do not fit the place")
        return self

    def next(self, beats: tuple[Beat, ...], seconds: float) -> Tying:
        """The beat in hand is done."""
        if self.at >= len(beats):
            return self.model_copy(update={"seconds": seconds})
        return self.model_copy(
            update={"at": self.at + 1, "seconds": seconds, "log": (*self.log[: self.at], seconds)}
        )

    def back(self, seconds: float) -> Tying:
        """The beat before is to be done again."""
        return self.go(self.at - 1, seconds)

    def go(self, at: int, seconds: float) -> Tying:
        """To another beat: a lost maker has found the place. What was skipped has no times of its own."""
        at = max(at, 0)
        log = self.log[:at]
        log += (seconds,) * (at - len(log))
        return self.model_copy(update={"at": at, "seconds": seconds, "log": log})

    def done(self, beats: tuple[Beat, ...]) -> dict[str, int]:
        """Whole units made so far, by section."""
        out: dict[str, int] = dict.fromkeys((b.section for b in beats), 0)
        for b in beats[: self.at]:
            if b.last_of_unit:
                out[b.section] += 1
        return out


def start(weave: Weave, counts: dict[str, int], today: str) -> Tying:
    return Tying(weave=digest(weave), name=weave.name[:200], counts=counts, started=today)


def digest(weave: Weave) -> str:
    """Tells whether a weave is still the one that was being tied."""
    return hashlib.sha256(write(weave).encode()).hexdigest()


def read_tying(text: str) -> Tying | None:
    """What was kept; None where it cannot be read: then there is nothing to go on with."""
    try:
        return Tying.model_validate_json(text)
    except ValidationError:
        return None


# -- what is said by the way -------------------------------------------------------------------------


def tape(calibration: Calibration | None, done: dict[str, int]) -> str:
    """What a tape should read by now; "" where nothing is known or tied."""
    if calibration is None or not any(done.values()):
        return ""
    known = {s: n for s, n in done.items() if s in calibration.prior.sections}
    if not known:
        return ""
    spread = calibration.length(known)
    lo, hi = spread.interval(0.9)
    return f"about {format_length(round(spread.median))} ({round(lo)} to {round(hi)} mm)"


def checkpoint(tying: Tying, beats: tuple[Beat, ...], calibration: Calibration | None) -> str:
    """What to check right after the beat just done; "" where there is nothing to."""
    if not tying.at:
        return ""
    beat = beats[tying.at - 1]
    if not beat.last_of_unit or beat.units < 2:
        return ""
    every = check_units(calibration, beat.section)  # as on the sheet
    if beat.unit % every and beat.unit != beat.units:
        return ""
    reads = tape(calibration, tying.done(beats))
    return f"{beat.unit} units of {beat.section} made" + (f": the tape should read {reads}" if reads else "")


def unit_seconds(tying: Tying, beats: tuple[Beat, ...]) -> float | None:
    """How long a unit of the section in hand takes, as a median; None before two are made, or where keys were only tapped."""
    section = beats[min(tying.at, len(beats) - 1)].section
    ends = [k for k, b in enumerate(beats[: tying.at]) if b.section == section and b.last_of_unit]
    times = []
    for k in ends:
        first = k - beats[k].steps
        times.append(tying.log[k] - (tying.log[first] if first >= 0 else 0.0))
    times = [t for t in times if t > 0]
    return median(times) if len(times) >= 2 and median(times) >= 1 else None


def seconds_left(tying: Tying, beats: tuple[Beat, ...]) -> float | None:
    """About how long the section in hand still takes."""
    each = unit_seconds(tying, beats)
    if each is None or tying.at >= len(beats):
        return None
    section = beats[tying.at].section
    left = sum(1 / b.steps for b in beats[tying.at :] if b.section == section)
    return each * left


def as_tie(tying: Tying, beats: tuple[Beat, ...]) -> Tie:
    """A test tie with what is known by now: counts, minutes, the day. The name is given when it is logged."""
    return Tie(
        id="tied along",
        date=tying.started,
        counts={s: n for s, n in tying.done(beats).items() if n},
        minutes=round(tying.seconds / 60, 1) or None,
        note="tied along",
    )
