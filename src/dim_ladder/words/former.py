"""Work on a round former as a maker calls it out: over and under per half cycle, raising and following."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dim_ladder.notation import Section, Widen
from dim_ladder.trace.former import FormerWork, HalfCycle, former_work


@dataclass(frozen=True, slots=True)
class Call:
    """One line of what is called out. short : for a narrow place. run : its half cycle, -1 for what is said between."""

    text: str
    short: str
    run: int = -1


def called_out(section: Section) -> tuple[Call, ...]:
    """All that is called out for a section on a former, in order. Raises InputError where it cannot be made."""
    work = former_work(section)
    out: list[Call] = []
    grown = work.first
    for run in work.half_cycles():
        if run.number == grown and grown and (run.number - work.first) // (2 * work.step[1]) < work.raised:
            out.append(_raise_call(work, run))
            grown += 2 * work.step[1]
        out.append(Call(_sentence(work, run), _short(work, run), run.number))
    if work.raised and not work.first:
        text = "With this coding the smaller work is not its beginning: it is laid at its full size."
        out.insert(0, Call(text, "laid at its full size"))
    out += [Call(widen_sentence(i), _widen_short(i)) for i in _followings(section)]
    return tuple(out)


def _followings(section: Section) -> list[Widen]:
    """What is said once all is laid: raising is called out run by run, and with it a following whose pairs are
    split."""
    done = [i for i in section.items if isinstance(i, Widen)]
    after = [*(i.how for i in done[1:]), ""][: len(done)]
    return [i for i, then in zip(done, after, strict=True) if i.how == "follow" and then != "split"]


def _raise_call(work: FormerWork, run: HalfCycle) -> Call:
    """What is said where the smaller work is whole and the end goes on to raise it."""
    bights = run.number // 2
    more_leads, more_bights = work.step
    leads = work.leads - (work.bights - bights) // more_bights * more_leads
    to = f"{leads + more_leads} leads and {bights + more_bights} bights"
    text = (
        f"That is {leads} leads and {bights} bights. To raise it the end goes on, {2 * more_bights} half cycles more, each beside "
        f"one that is there, over and under between the pairs: {to}."
    )
    return Call(text, f"raise to {to.replace(' and', ',')}")


def _sentence(work: FormerWork, run: HalfCycle) -> str:
    """What a maker calls out for a half cycle."""
    called = run_words([m.over for m in work.calls(run.number)])
    begin = f"From bight {_bight(work, run)} " if run.up else "Back "
    beside = ""
    if work.first and run.number >= work.first:
        left, right = _neighbours(work, run)
        if left >= 0 and right >= 0:
            runs = work.half_cycles()
            # A way back is known by the bight from which its strand came up.
            here, there = (_bight(work, runs[n if run.up else n - 1]) for n in (left, right))
            beside = f", between the ways {'up from' if run.up else 'back after'} bights {here} and {there}"
    return f"{begin}to the {'far' if run.up else 'near'} edge{beside}: {called}."


def _short(work: FormerWork, run: HalfCycle) -> str:
    called = run_words([m.over for m in work.calls(run.number)]).split(",")
    text = "free" if called[0] == "free" else ",".join(called).replace(" 1", "")
    return f"bight {_bight(work, run)} up: {text}" if run.up else f"back: {text}"


def _bight(work: FormerWork, run: HalfCycle) -> int:
    return (run.start % (2 * work.bights)) // 2 + 1


def _neighbours(work: FormerWork, run: HalfCycle) -> tuple[int, int]:
    """The half cycles of the same direction that lie next to a run on its left and right when it is laid, as seen
    along its way; -1 for none."""
    around = 2 * work.bights
    found = []
    for turn in (-1, 1) if run.up else (1, -1):
        there = [
            ((r.start - run.start) * turn % around, r.number)
            for r in work.half_cycles()[: run.number]
            if r.up == run.up
        ]
        found.append(min(there)[1] if there else -1)
    return found[0], found[1]


def widen_sentence(item: Widen) -> str:
    """What following is, for people."""
    side = "left" if item.left else "right"
    often = "once more" if item.times == 1 else f"{item.times} times more"
    return f"Follow the whole path {often}, beside it on its {side}, with the same overs and unders."


def _widen_short(item: Widen) -> str:
    return f"follow on the {'left' if item.left else 'right'}" + (
        f", {item.times} times" if item.times > 1 else ""
    )


def run_words(overs: Sequence[bool]) -> str:
    """Overs and unders as they are called: "over 2, under 1"; "free" where nothing is met."""
    if not overs:
        return "free, it crosses nothing yet"
    out: list[str] = []
    i = 0
    while i < len(overs):
        j = i
        while j < len(overs) and overs[j] == overs[i]:
            j += 1
        out.append(f"{'over' if overs[i] else 'under'} {j - i}")
        i = j
    return ", ".join(out)
