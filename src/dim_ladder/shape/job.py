"""What is to be pulled tight: the loose cord of a section in space, with what pulls on it and where.

Which cord is core, what is drawn apart, what lies on a board, what is alike: all of it is told from the trace, none of it from the weave's name.
"""

from __future__ import annotations

import contextlib
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from dim_ladder.base import InputError
from dim_ladder.library import CordKind, cord_kind
from dim_ladder.notation import Call, Section, Weave
from dim_ladder.shape.apart import side_by_side
from dim_ladder.shape.aside import held_out, level, slips
from dim_ladder.shape.beaded import beads_alone
from dim_ladder.shape.begun import as_it_lies, as_one_cord, by_strand, each_half, treated_alike
from dim_ladder.shape.board import BUNDLED, FLAT, ROWS, in_bundle, on_board, plaited
from dim_ladder.shape.chained import Run, among, run_of
from dim_ladder.shape.closed import closed_curves, former_strands
from dim_ladder.shape.inplace import laid_out
from dim_ladder.shape.levelled import levelled
from dim_ladder.shape.lift import lift, repeats
from dim_ladder.shape.parted import free_between, knot_by_knot, knots_apart, on_and_on, strung
from dim_ladder.shape.recurring import placed, rolled
from dim_ladder.shape.rope import Aside, Curves, OnCord
from dim_ladder.shape.several import part_of
from dim_ladder.shape.spaced import in_rows
from dim_ladder.shape.thick import Tight, as_thick, thick, thick_again
from dim_ladder.shape.tied import goes_across, gone_round, half_knotted, in_rows_across, tied_on, wound
from dim_ladder.shape.twice import rests_twice, second_ways, wider
from dim_ladder.shape.value import Job, Part
from dim_ladder.trace import Trace, trace
from dim_ladder.trace.alike import alike_ends, least
from dim_ladder.trace.former import former_work
from dim_ladder.trace.knotted import is_net, knots
from dim_ladder.trace.roles import period_of, roles
from dim_ladder.trace.screw import wound_as_one
from dim_ladder.trace.turning import moved_as_one, turning

FILLER, RUNNER = 2.0, 3.0  # tension against that of what is tied on to them
TAUTER = 1.5  # tension more where it is held straight for what is tied round it
PUSHED_UP = 0.6  # of the tension of cords that rows are tied or woven across: so hard hands push row to row
DRAWN = 0.5  # of the tension of what is worked, along the work
PRESS = 0.03  # on every diameter of held cord, towards the middle: knots are drawn up to each other
DRAWN_UP = 25.0  # diameters over which it is: on longer tails it would come to more than their tension, and push them in
BALLED = 0.1  # the same of a knot that is drawn up by its own tails
WITHIN = 5.0  # diameters about its middle, on which it is; twice as far where several knots make a heap
BELOW_ALL = 0.02  # the same, of a chain with its begin and its lock, which would lean between its tails
IN_LINE = 0.08  # towards the line that it is in, of a knot of which a loop is held aside
MOST_CROSSINGS = 600  # in one unit
LAYER = CordKind("finished work", 0.0, 0.0, 0.3, 1.2, 0.8)  # as one tail: it gives less than cord
SNUG = 10.0  # times as little as other work are chains of bights drawn up: the next one has to pass
GUESSED = "Its size is guessed from the drawing"
PACKED = 1.0  # how hard hands push turns against each other that are wound round a core, of the tension of what is wound
UNDONE = "nothing in it holds: drawn up, it comes undone"


def made(
    weave: Weave, section: str, core_mm: float, tight: Tight, *, by_tails: bool = False, hangs: bool = False
) -> Job:
    """What to pull tight. core_mm : diameter of a round former. tight : gives the tight shape of finished work that is tied over. by_tails :
    a knot of ends that are all alike, drawn up by its own tails and not between others like it. hangs : a chain with its begin and its lock, held
    by its ends. Raises InputError where it cannot be made."""
    s = weave.section(section)
    if s is None:
        raise InputError(f"there is no section “{section}”", ", ".join(x.name for x in weave.sections))
    if s.former is not None:
        return _round(weave, s, core_mm)
    weave = as_it_lies(weave, s)
    s = weave.section(section) or s
    with contextlib.suppress(
        InputError
    ):  # knots that do not hold by themselves, or reach up into each other, are one piece of work
        # Beads part what is tied once; where a unit goes on in the next one knots lie close about them.
        apart = knots_apart(weave, section, by_beads=s.kind != "body") or strung(weave, section)
        if apart := apart or (on_and_on(weave, section) if s.kind != "body" else ()):
            return in_rows(weave, section, _each_alone(apart, section, core_mm, tight), s.kind == "body")
    one = trace(weave, section=section, units=period_of(weave, section))
    period = period_of(weave, section)
    times = thick_again(one, weave)
    if s.kind == "body" and times > 1:
        period *= times
        one = trace(weave, section=section, units=period)
    if one.problems and s.kind == "finish" and (run := run_of(weave, s)) is not None:
        return _with_lock(run, core_mm, tight)
    below = placed(weave, section) if one.problems and s.kind == "body" else None
    one, as_one = (below, 1) if below else _as_hands_wind(one)
    _bound(len(one.crossings), "Make a body section of what repeats")
    once = s.kind != "body"
    beaded = once and any(p.kind == "bead" for x in one.steps for p in x.placed)
    open_ended = hangs or (below is None and (not repeats(one) or beaded))
    held = open_ended or (below is None and once and times > 1)  # ends of different thickness change places
    real = least(one) if below is None and not held and one.crossings else None
    loops = slips(one, least(one) if hangs else real) if below is None else frozenset()
    if hangs and loops:
        raise InputError(UNDONE, GUESSED)
    core = wound(one) if below is None and not held else frozenset()
    if real is not None and not real.crossings and not loops and not core:
        if s.kind == "start" and (run := run_of(weave, s)) is not None and not run.stands:
            return _with_lock(run, core_mm, tight)
        raise InputError(UNDONE, GUESSED)
    together = any(isinstance(call := step.op.value, Call) and call.as_one for step in one.steps)
    if loops and together:
        raise InputError("a loop that two ends make as one is not drawn up", GUESSED)
    held = held or bool(loops)
    unit = max((cord_kind(c.kind).across for e in one.ends if (c := weave.cord_of(e))), default=4.0)
    mm = [thick(weave, e, unit, tight) for e in one.ends]
    sizes = [d / unit for d in mm]
    role = roles(weave, section).role_of  # what an end is here, not elsewhere
    leaders = [e for e in one.ends if role.get(e) == "leader"]
    # What meets nothing here is no core of it: it hangs beside the work and only has to stay straight.
    round_again = rolled(below, section) if below is not None else None
    met = {one.ends[e] for c in one.crossings for e in (c.lane_end, c.row_end)}
    if round_again is not None:
        met = {e for e, walk in zip(one.ends, round_again.walks, strict=True) if walk}
    idle = [e for e in one.ends if e not in met]
    round_them = gone_round(one)
    fillers = [
        e
        for k, e in enumerate(one.ends)
        if k in core
        or (e in round_them and (role.get(e, "").startswith("filler") or weave.cord_of(e) is None))
    ]
    same = () if below or hangs else as_thick(treated_alike(weave, s, one, not (once or held)), mm)
    # Of all that is knotted here, beside each other too, each end is like another.
    others = once and not held and not fillers and sum(map(len, same)) == len(met)
    by_tails = others and by_tails
    bonds = () if held or below or as_one > 1 else moved_as_one(one)
    found = turning(weave, section) if not held else None
    # Turned, what lies outside on one side lies inside on the other.
    coiled = not once and found is not None and found.kind == "spiral"
    same = (as_one_cord if coiled else each_half)(same, bonds) if bonds else same
    twins = {one.ends[e] for group in same for e in group}
    # Where ends come and go nothing tells a runner from an end that is led first.
    tells = len(leaders) == 1 and not fillers and leaders[0] not in twins and one.settled
    runner = leaders[0] if tells else None
    # A row that is tied once the hand lays level, its runner held out to both sides; with beads on its ends, too.
    level_row = (
        once
        and (not open_ended or (beaded and not hangs and repeats(one)))
        and not loops
        and not fillers
        and not bonds
    )
    across = goes_across(one) if level_row else -1
    held = held or by_tails or across >= 0
    lifted = (
        lift(one, sizes, held=held, across=across)
        if round_again is None
        else laid_out(round_again, sizes, one.start)
    )
    if across >= 0:
        lifted = levelled(lifted, across)
    names = tuple("+".join(one.ends[e] for e in ends) for ends in lifted.ends)
    lifted, pairs, aside, tips = held_out(lifted, loops, unit)
    # A bead on one of two holds them apart.
    alone = [{b for k, _, _, b in lifted.beads if k == e} for e in range(len(lifted.strands))]
    bonds = tuple((a, b) for a, b in bonds if alone[a] == alone[b])
    first = [ends[0] for ends in lifted.ends]
    # A runner that hitches are tied on to is held straight in each row, like any other core; what else leads is pulled.
    in_row = {one.ends[first[h.strand]] for h in lifted.held_straight}
    taut = FILLER * as_one  # several wound on as one draw on their core as several
    pull = [taut if e in fillers else RUNNER if e == runner and e not in in_row else 1.0 for e in one.ends]
    kinds = [cord_kind(c.kind) if (c := weave.cord_of(e)) else LAYER for e in one.ends]
    middle = np.mean(np.vstack(lifted.strands), axis=0)
    if across >= 0:
        aside += (Aside(across, True, True, True),)
    laid_in = [k for k, ends in enumerate(lifted.ends) if len(ends) > 1]
    aside += tuple(Aside(k, True, True) for k in laid_in)
    # A row that is tied once hangs on its runner as one of many does, and the hand lays it level. Rows on several runners hold each other, as in a body.
    rows = once and len({h.strand for h in lifted.held_straight}) == 1
    turns = dict(found.pairs) if found is not None else {}
    tied = [k.ends for k in knots(one)]
    lies = bool(core) or (found is not None and found.kind in ("flat", "woven", "net"))
    meeting = [k for k, e in enumerate(one.ends) if e in met]
    still = [k for k in meeting if one.ends[k] in fillers]
    coat = any(weave.cord_of(e) is None for e in one.ends)  # round finished work, which is round enough
    drawn_out = () if by_tails or core else _apart(one, first, kinds, fillers)
    led = Counter(e for step in one.steps if step.leads for e in step.ends)
    flat = any(kinds[e].thick for e in first)
    heap = (
        bool(bonds) and not flat and max(led.values(), default=0) > 1
    )  # several knots, which would stay apart
    alike = by_strand(same, lifted.ends)
    bundle = (
        (once or by_tails) and not (lifted.beads or plaited(one, meeting)) and in_bundle(alike, len(first))
    )
    curves = Curves(
        tuple(
            level(x - middle) if k in laid_in or k == across else x - middle
            for k, x in enumerate(lifted.strands)
        ),
        lifted.follow,
        0.0 if held else lifted.height,
        tuple(mm[e] / unit for e in first),
        tuple(pull[e] for e in first),
        () if heap and by_tails else bonds,  # where each of a pair lies in it nothing says
        press=BALLED if by_tails else PRESS if held or rows else 0.0,
        near=WITHIN * (1 + heap) if by_tails else WITHIN if across >= 0 else DRAWN_UP,
        in_line=IN_LINE if tips else BUNDLED * bundle,
        flat=FLAT
        if lifted.beads
        else BUNDLED
        if bundle
        else on_board(
            meeting,
            () if held or coat else still,
            turns,
            bool(lifted.held_straight),
            tied,
            plaited(one, meeting),
        ),
        laid=side_by_side([pull[e] for e in meeting], drawn_out),
        alike=alike,
        give=tuple(kinds[e].presses for e in first),
        soft=sum(kinds[e].soft for e in first) / len(first) * (SNUG if below else 1.0),
        apart=drawn_out,
        held=tuple(h for h in lifted.held_straight if pull[lifted.ends[h.strand][0]] == 1.0),
        tauter=TAUTER,
        beads=_beads(weave, lifted.beads, [mm[e] / unit / 2 for e in first], unit),
        beside=lifted.beside,
        heap=heap and by_tails,
        spread=tuple(kinds[e].spreads for e in first) if flat else (),
        stacked=tuple(b for b in bonds if b in _stacked(one)),
        aside=aside,
    )
    pushed = PUSHED_UP * len(in_rows_across(one).intersection(fillers))
    stretch = 0.0 if held else taut * (len(fillers) - pushed) + len(idle)
    wraps = frozenset(k for k, e in enumerate(first) if e in core)
    stretch -= PACKED * bool(core)
    if not held and not fillers and not rows and (once or not set(leaders) - twins):
        # Hands draw what is worked along the work, so plaits stay plaits and knots in a row stand one below the other. What is
        # tied once is drawn up between two others like it: what is knotted apart in it comes together, and nothing slips
        # over its ends. Fillers keep a body long by themselves, and bars hang on their runner.
        stretch += DRAWN * sum(p for e, p in enumerate(pull) if one.ends[e] not in idle)
    job = Job(
        "held" if held else "knot" if once else "cell", names, curves, stretch, unit, lifted.beads, lifted.loose if held else (),
        period, tuple(one.ends[e] in idle for e in first), lifted.standing, loops=pairs, tips=tips, lies=lies,
    )  # fmt: skip
    on = [across] if across >= 0 else [one.ends.index(e) for e in leaders if e in in_row and e not in twins]
    hitched = [tied_on(one, e) for e in on] if one.settled and len(set(mm)) == 1 else []
    twice = bool(loops or curves.beads) or (
        not held and rests_twice(one, same, once=once, in_rows=bool(in_row) and len(met) >= ROWS)
    )
    doubled = (as_one > 1 or together or bool(bonds)) and not flat
    if others and not by_tails:
        balled = made(weave, section, core_mm, tight, by_tails=True)
        if together and (heap or not bonds):
            # What is doubled lies askew between others like it, its pairs at different heights: it is not tied so.
            wide = replace(balled, curves=wider(balled.curves, held=True))
            return replace(balled, otherwise=wide) if heap else replace(wide, otherwise=balled)
        return replace(second_ways(job, twice, hitched, doubled), otherwise=balled)
    if job.kind != "cell":
        return second_ways(job, twice, hitched, doubled)
    drawn = not set(leaders) - twins
    job = replace(job, free=tuple(mm * times for mm in free_between(weave, section)))
    job = second_ways(
        replace(job, parts=_parts(job, drawn, turns, wraps, tied, one)), twice, hitched, doubled
    )
    return (
        job if job.otherwise or job.parts or in_row else _or_knot_by_knot(job, weave, section, core_mm, tight)
    )


def _as_hands_wind(t: Trace) -> tuple[Trace, int]:
    """The same with what is wound on as one side by side, and how many ends that is, at most; 1 where nothing is. Halves of flat cord, which are
    bound to each other, go as they are drawn, unless nothing but their turns holds them."""
    flat = any((c := t.weave.cord_of(e)) and cord_kind(c.kind).thick for e in t.ends)
    found = wound_as_one(t) if not flat or wound(t) else t
    many = max((len(s.ends) for s in found.steps if s.hops), default=1)
    return found, many if len(found.crossings) > len(t.crossings) else 1


def _each_alone(each: Sequence[Weave], section: str, core_mm: float, tight: Tight) -> list[Job]:
    """The jobs of knots that are drawn up by themselves, each as often as it is tied."""
    return [
        replace(beads_alone(w, section) or made(w, section, core_mm, tight), times=_often(w)) for w in each
    ]


def _or_knot_by_knot(job: Job, weave: Weave, section: str, core_mm: float, tight: Tight) -> Job:
    """The job, and where it comes out wrong each knot drawn up by itself: friction keeps in a knot what was drawn up, though in all of the unit
    together cord would slide from one to the other. Those that beads part stand apart by them."""
    each = knot_by_knot(weave, section)
    in_each = [t for w in each if (t := trace(w, section=section, units=1)).ok]
    twins = [tuple(job.ends.index(t.ends[e]) for e in g) for t in in_each for g in alike_ends(t)]
    job = replace(job, twins=tuple(twins))
    with contextlib.suppress(InputError):
        if each := knots_apart(weave, section) or each:
            rows = _each_alone(each, section, core_mm, tight)
            return replace(job, otherwise=in_rows(weave, section, rows, True))
    return job


def _with_lock(run: Run, core_mm: float, tight: Tight) -> Job:
    """The lock of a chain, or its begin where that holds by it alone, drawn up with the begin and some units: it hangs by its ends, and lies flat."""
    begin = tight(run.of, run.begin) if run.stands else None
    cell = tight(run.of, run.body)
    job = made(run.whole, run.lock, core_mm, tight, hangs=True)
    curves = replace(job.curves, press=0.0, in_line=BELOW_ALL, flat=FLAT, soft=job.curves.soft * SNUG)
    return replace(job, curves=curves, also=None, among=among(run, begin, cell, job.ends))


def _often(weave: Weave) -> int:
    """How often the only section of it is tied."""
    return weave.sections[0].count.number


def _parts(
    job: Job,
    drawn: bool,
    turns: Mapping[tuple[int, int], int],
    core: frozenset[int],
    tied: Sequence[frozenset[int]],
    one: Trace,
) -> tuple[Part, ...]:
    """What hangs beside other work in a cell, each by itself; none where it is all one. drawn : whether hands draw along the work what has no
    fillers. core : what is wound round."""
    c = job.curves
    groups: dict[int, list[int]] = {}
    for k, of in enumerate(c.beside):
        groups.setdefault(of, []).append(k)
    if len(groups) < 2:
        return ()
    out = []
    for strands in groups.values():
        if all(job.idle[k] for k in strands):
            continue
        fillers = [k for k in strands if c.pull[k] not in (1.0, RUNNER)]
        stretch = sum(c.pull[k] for k in fillers) + (
            DRAWN * sum(c.pull[k] for k in strands) if drawn and not fillers else 0.0
        )
        packed = not core.isdisjoint(strands)
        stretch -= PACKED * packed
        in_rows = any(h.strand in strands for h in c.held)
        beaded = any(k in strands for k, *_ in job.beads)
        board = FLAT if beaded else on_board(strands, fillers, turns, in_rows, tied, plaited(one, strands))
        own = [n for pair, n in turns.items() if set(pair) <= set(strands)]
        flat = packed or not own or (job.lies and (not sum(own) or is_net(strands, tied)))
        out.append(part_of(job, strands, stretch, board, flat))
    return tuple(out)


def _apart(
    t: Trace, first: Sequence[int], kinds: Sequence[CordKind], core: Sequence[str]
) -> tuple[float, ...]:
    """What hands draw out to both sides: two and more ends that are worked round a core that they cross, or round each other."""
    across = {(t.ends[c.lane_end], t.ends[c.row_end]) for c in t.crossings}
    led = {t.ends[e] for s in t.steps if s.leads for e in s.ends if e >= 0}
    round_it = {e for at, e in across if at in core and e in led and e not in core}
    drawn = round_it if core else {t.ends[e] for e in half_knotted(t)}
    out = tuple(kinds[e].grip * (t.ends[e] in drawn) for e in first)
    return out if sum(p > 0 for p in out) > 1 else ()


def _beads(
    weave: Weave, threaded: Sequence[tuple[int, float, str, int]], radius: Sequence[float], unit: float
) -> tuple[OnCord, ...]:
    """Beads that are thicker than their cord. threaded : strand, part and name. radius : of every strand."""
    size = {b.name: b.diameter / 2 / unit for b in weave.beads}
    many = Counter(of for *_, of in threaded)
    return tuple(
        # About each of several ends it is a little smaller: its middle is between them.
        OnCord(
            number,
            strand,
            part,
            max(size[name] - (0.25 * radius[strand] if many[of] > 1 else 0.0), radius[strand]),
            radius[strand],
            of,
        )
        for number, (strand, part, name, of) in enumerate(threaded)
        if size.get(name, 0.0) > radius[strand]
    )


def _bound(crossings: int, remedy: str) -> None:
    """Refuse what would take minutes."""
    if crossings > MOST_CROSSINGS:
        raise InputError(
            f"one unit of it has {crossings} crossings, more than the {MOST_CROSSINGS} that can be pulled at once",
            remedy,
        )


def _round(weave: Weave, s: Section, core_mm: float) -> Job:
    unit = max((cord_kind(c.kind).across for c in weave.cords), default=4.0)
    core = core_mm / 2 / unit + 0.5 if core_mm > 0 else 0.0
    work = former_work(s)
    _bound(work.crossings, "Look at it with fewer passes")
    strands, owner = former_strands(work, core)
    cords = [c.name for c in weave.cords] or ["strand"]
    kinds = [cord_kind(c.kind) for c in weave.cords] or [CordKind("cord", unit, 1.0)]
    of = [kinds[k % len(kinds)] for k in owner]
    curves = closed_curves(strands, core, tuple(k.presses for k in of), sum(k.soft for k in of) / len(of))
    return Job("closed", tuple(f"{cords[k % len(cords)]}.a" for k in owner), curves, 0.0, unit)


def _stacked(t: Trace) -> set[tuple[int, int]]:
    """Flat cords that are led one on the other."""
    led = [s.ends for s in t.steps if s.step is not None and s.step.stacked]
    return {(min(a, b), max(a, b)) for ends in led for a, b in pairwise(ends) if min(a, b) >= 0}
