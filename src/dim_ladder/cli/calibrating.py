"""What the command line says of a calibration."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from dim_ladder.base import InputError
from dim_ladder.calibrate import Calibration, calibrate
from dim_ladder.calibrate.advice import advice, enough
from dim_ladder.calibrate.drift import drifts
from dim_ladder.calibrate.misfit import misfits
from dim_ladder.calibrate.prior import UNKNOWN, Softness
from dim_ladder.calibrate.rings import BASE_MM
from dim_ladder.calibrate.rule import rule
from dim_ladder.calibrate.softness import learned, together
from dim_ladder.calibrate.timing import timing
from dim_ladder.cli.opening import opened
from dim_ladder.commands.lessons import planned
from dim_ladder.shelf import Document
from dim_ladder.trace import trace

Answer = dict[str, Any]


def fitted(doc: Document, softness: Softness = UNKNOWN) -> Calibration:
    """Raises InputError where the weave has problems or nothing in it can be counted."""
    t = trace(doc.weave)
    if t.problems:
        raise InputError.of(t.problems)
    return calibrate(doc.weave, doc.ties, softness=softness)


def softness_from(paths: Sequence[Path]) -> Softness:
    """What the ties of other documents say of their cord."""
    return together(learned(fitted(opened(p))) for p in paths)


def calibration_answer(doc: Document, softness: Softness = UNKNOWN) -> tuple[Answer, list[str]]:
    """The answer as data and as lines for people."""
    c = fitted(doc, softness)
    prior = c.prior
    roles: Answer = {}
    for role in prior.roles:
        entry: Answer = {}
        for s in prior.sections:
            spread, per = c.per_unit(role, s), c.per_length(role, s)
            entry[s] = {
                "per_unit_mm": spread.median,
                "sd": spread.sd,
                "interval_50": list(spread.interval(0.5)),
                "interval_90": list(spread.interval(0.9)),
            }
            if s not in prior.rings:
                entry[s] |= {"per_length": per.median, "per_length_90": list(per.interval(0.9))}
        entry["overhead_mm"] = c.overhead(role).median
        roles[role] = entry
    times = timing(prior, doc.ties)
    odd = misfits(c)
    counts = planned(doc.weave, c, doc.plan)
    next_ties, stop = advice(c, counts), enough(c, counts)
    changes = drifts(c, doc.ties)
    rules = [rule(c, s) for s in prior.sections if s in prior.fits]
    body = {
        "roles": roles,
        "role_of": prior.role_of,
        "tie_spread": c.tie_spread,
        "sitting_spread": c.sitting_spread,
        "pitch_mm": {s: c.pitch(s).median for s in prior.sections if s not in prior.rings},
        "pitch_90": {s: list(c.pitch(s).interval(0.9)) for s in prior.sections if s not in prior.rings},
        "thickness_mm": c.thickness_mm,
        "thickness_90": list(c.thickness.interval(0.9)),
        "sittings": len(c.data.sittings),
        "doubted": list(c.doubted),
        "ties": c.ties,
        "readings": c.readings,
        "left_out": list(c.left_out),
        "refusal": c.refusal,
        "shaped": list(prior.shaped),
        "softness": {k: {"factor_log": m, "sd": sd} for k in c.data.kinds for m, sd in [c.softness(k)]},
        "minutes": {s: {"median": u.median, "sd": u.sd} for s in prior.sections for u in [times.unit(s)]},
        "misfits": [
            {"tie": m.tie, "chance": m.chance, "reading": m.reading, "read_mm": m.read_mm, "expected_mm": m.expected_mm, "cause": m.cause, "drop": m.drop}
            for m in odd
        ],
        "next": [
            {"section": a.section, "units": a.units, "apart": a.apart, "cord_mm": a.cord_mm, "before_mm": a.before_mm, "after_mm": a.after_mm, "saves_mm": a.saves_mm, "pays_after": a.pays_after}
            for a in next_ties
        ],
        "enough": stop,
        "drift": [{"by": d.by, "part": d.part, "sure": d.sure, "words": d.words} for d in changes],
        "rules": {r.section: {"all_cord": r.all_cord, "interval_90": [r.low, r.high]} for r in rules},
    }  # fmt: skip
    lines = [
        f"{c.ties} ties, {c.readings} readings, {len(c.data.sittings)} sittings, from piece to piece {c.tie_spread:.1%}"
    ]
    for role, entry in roles.items():
        for s in prior.sections:
            e = entry[s]
            long = (
                f", {e['per_length']:.2f} per length"
                if s not in prior.rings
                else f" of {BASE_MM:.0f} mm girth"
            )
            lines.append(f"{role} in {s}: {e['per_unit_mm']:.1f} mm a unit (sd {e['sd']:.1f}){long}")
    lines += [f"a unit of {s} takes {times.unit(s).median:.1f} minutes" for s in prior.sections if times.ties]
    lines += [r.words for r in rules]
    lines += [m.words for m in odd] + [d.words for d in changes if d.sure]
    lines += [a.words for a in next_ties] + ([stop] if stop else [])
    lines += [f"left out: {why}" for why in c.left_out]
    if c.refusal:
        lines.append(f"Not to be relied on: {c.refusal}")
    return body, lines
