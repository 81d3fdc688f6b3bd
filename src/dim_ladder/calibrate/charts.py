"""What a calibration says, as charts: cord against units, how readings fit, cut against risk, ties over time.

Every chart is a picture, the points one can ask about, and the table behind it. Roles and tensions differ by mark, so that
all of it reads in black and white.
"""

from __future__ import annotations

import datetime
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dim_ladder.base import format_length
from dim_ladder.base.colours import mix
from dim_ladder.calibrate.drift import Effect, effects
from dim_ladder.calibrate.frame import Frame, mark
from dim_ladder.calibrate.model import Calibration
from dim_ladder.calibrate.sittings import Sitting, sitting
from dim_ladder.calibrate.ties import Tie, usable_readings
from dim_ladder.calibrate.without import predicted, without
from dim_ladder.picture.display import PAPER, Area, Ink, Label, Line, Picture

TENSIONS = ("snug", "tight", "easy", "")
LEAST_CHANCE = 1e-3
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
GAP, MOST_DATES = 0.6, 7  # between two sittings, in ties; dates that have room below
FURTHEST = 6.0  # standard deviations that are drawn


@dataclass(frozen=True, slots=True)
class Spot:
    """A point of a chart that can be asked about: where, what it says, and whose it is (the id of a tie, or "")."""

    x: float
    y: float
    text: str
    tie: str = ""


@dataclass(frozen=True, slots=True)
class Chart:
    picture: Picture
    spots: tuple[Spot, ...]
    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True, slots=True)
class Point:
    """One reading per end: units of the section, cord used per end in mm."""

    role: str
    units: int
    used_mm: float
    tie: str


def points(calibration: Calibration, ties: Sequence[Tie], section: str) -> tuple[Point, ...]:
    """Readings of one role each; a reading over ends of different roles cannot be shown as a point."""
    out = []
    for tie in ties:
        n = tie.counts.get(section, 0)
        for ends, used in usable_readings(tie):
            found = {calibration.prior.role_of.get(e, "") for e in ends}
            if n and len(found) == 1 and "" not in found:
                out.append(Point(found.pop(), n, used / len(ends), tie.id))
    return tuple(out)


def use_chart(calibration: Calibration, ties: Sequence[Tie], section: str, ink: Ink = PAPER) -> Chart:
    """Expected cord per end against units, with the 90 % band of a new tie, for every role."""
    found = points(calibration, ties, section)
    most = max([p.units for p in found] + [10])
    steps = [most * i / 10 for i in range(11)]
    roles = calibration.prior.roles
    sample = {r: next(e for e, x in calibration.prior.role_of.items() if x == r) for r in roles}
    bands = {r: [calibration.roughly((sample[r],), {section: s}) for s in steps] for r in roles}
    top = max([p.used_mm for p in found] + [b[-1].quantile(0.95) for b in bands.values()]) * 1.05
    f = Frame(ink, (0.0, float(most)), (0.0, top), right=96.0)
    f.across(f"units of {section}", [float(i) for i in range(0, most + 1, max(1, most // 5))])
    f.up_lengths("of cord per end")
    labels: list[tuple[float, str, int]] = []
    for role in roles:  # all bands lie under all lines
        upper = [(f.x(s), f.y(b.quantile(0.95))) for s, b in zip(steps, bands[role], strict=True)]
        lower = [(f.x(s), f.y(b.quantile(0.05))) for s, b in zip(steps, bands[role], strict=True)]
        f.shapes.append(Area((*upper, *reversed(lower)), mix(ink.paper, ink.ink, 0.08)))
    for k, role in enumerate(roles):
        tone = mix(ink.ink, ink.paper, 0.22 * k)
        middle = [(s, b.median) for s, b in zip(steps, bands[role], strict=True)]
        f.line(middle, tone, 1.6, (6, 3) if k % 2 else ())
        labels.append((f.y(middle[-1][1]), role, k))
    spots = []
    for p in found:
        f.shapes += mark(roles.index(p.role), f.x(p.units), f.y(p.used_mm), ink)
        text = f"{p.tie}: {p.role} took {format_length(p.used_mm)} in {p.units} units"
        spots.append(Spot(f.x(p.units), f.y(p.used_mm), text, p.tie))
    f.names(labels)
    rows = [(p.tie, p.role, str(p.units), f"{p.used_mm:.0f} mm") for p in found]
    for r in roles:
        for s, b in zip(steps[2::4], bands[r][2::4], strict=True):
            low, high = b.interval(0.9)
            rows.append(("expected", r, f"{s:g}", f"{b.median:.0f} mm ({low:.0f} to {high:.0f})"))
    title = f"Cord used per end against units of {section}, {len(found)} readings"
    return Chart(f.picture(title), tuple(spots), ("tie", "role", "units", "cord of one end"), tuple(rows))


def fit_chart(calibration: Calibration, ties: Sequence[Tie], ink: Ink = PAPER) -> Chart:
    """Every reading against what all other ties say it should be, in standard deviations of a new one."""
    found: list[tuple[str, str, float, float, float, int]] = []
    for tie in ties:
        f0 = calibration.whole
        p = predicted(f0, without(f0, tie), tie)
        if p is None:
            continue
        expected = p.weight @ p.mean
        spread = np.einsum("cii->ci", p.cov) + (p.mean - expected) ** 2
        sd = np.sqrt(p.weight @ spread)
        for row, mean, s in zip(p.data.rows, expected, sd, strict=True):
            kind = row.kind if row.kind else _role_index(calibration, row.ends)
            found.append((tie.id, row.name, row.value, float(mean), float((row.value - mean) / s), kind))
    reach = min(max([3.0, *(abs(z) * 1.1 for *_, z, _ in found)]), FURTHEST)
    ids = list(dict.fromkeys(x[0] for x in found))
    f = Frame(ink, (-0.5, max(len(ids), 1) - 0.5), (-reach, reach), right=96.0)
    band = [(f.x(v), f.y(u)) for v, u in ((f.x0, 1.645), (f.x1, 1.645), (f.x1, -1.645), (f.x0, -1.645))]
    f.shapes.append(Area(tuple(band), mix(ink.paper, ink.ink, 0.08)))
    f.across(
        "ties", [], {float(k): i for k, i in enumerate(ids) if len(ids) < 14 or k % (len(ids) // 10) == 0}
    )
    f.upward("how far off, in standard deviations", [-3.0, -1.5, 0.0, 1.5, 3.0])
    f.shapes.append(Label(f.x(f.x1) + 8, f.y(0.0) + 4, "9 in 10", 11, ink.quiet, "start"))
    spots = []
    for tie_id, name, value, mean, z, kind in found:
        x = f.x(ids.index(tie_id))
        shown = max(-reach, min(reach, z))  # what is further off lies on the edge
        f.shapes += mark(kind, x, f.y(shown), ink)
        text = f"{tie_id}, {name}: {format_length(value)}, expected {format_length(mean)}"
        spots.append(Spot(x, f.y(shown), text, tie_id))
    rows = tuple((a, b, f"{v:.0f} mm", f"{m:.0f} mm", f"{z:+.1f}") for a, b, v, m, z, _ in found)
    title = f"How {len(found)} readings fit what the other ties say"
    return Chart(f.picture(title), tuple(spots), ("tie", "reading", "read", "expected", "off by sd"), rows)


def _role_index(calibration: Calibration, ends: Sequence[float]) -> int:
    roles = {int(r) for r, n in zip(calibration.data.role, ends, strict=True) if n}
    return roles.pop() if len(roles) == 1 else len(calibration.prior.roles)


def risk_chart(
    calibration: Calibration, counts: Mapping[str, float], tails: Mapping[str, float], risk: float, ink: Ink = PAPER
) -> Chart:  # fmt: skip
    """The chance that a cord runs short against how long it is cut, folded where its ends are equally likely to. tails : mm
    of every end that are held and cut off."""
    cords: dict[str, list[str]] = {}
    for e in calibration.prior.role_of:
        cords.setdefault(e.split(".")[0], []).append(e)
    lines: dict[str, list[tuple[float, float]]] = {}
    calibration.foresee([(e,) for e in calibration.prior.role_of], counts)
    for cord, ends in cords.items():
        spreads = {e: calibration.need(e, counts) for e in ends}
        for q in np.geomspace(0.4, LEAST_CHANCE / 3, 12):
            limits = {e: s.quantile(1 - float(q)) for e, s in spreads.items()}
            cut = sum(limits.values()) + sum(tails.get(e, 0.0) for e in ends)
            lines.setdefault(cord, []).append((cut, calibration.chance_short(limits, counts)))
    every = [x for line in lines.values() for x, _ in line]
    f = Frame(ink, (min(every), max(every)), (math.log(LEAST_CHANCE), math.log(0.5)), right=96.0)
    f.across_lengths("of cord cut")
    f.upward("chance of running short", [], {math.log(1 / n): f"1 in {n}" for n in (2, 5, 20, 50, 200, 1000)})
    spots, rows, labels = [], [], []
    for k, (cord, line) in enumerate(lines.items()):
        shown = [(x, math.log(max(c, LEAST_CHANCE))) for x, c in line if c > LEAST_CHANCE * 0.7]
        f.line(shown, ink.ink, 1.8, (6, 3) if k % 2 else ())
        at = float(
            np.interp(-math.log(risk), [-math.log(max(c, 1e-12)) for _, c in line], [x for x, _ in line])
        )
        f.shapes += mark(k, f.x(at), f.y(math.log(risk)), ink)
        spots += [
            Spot(f.x(x), f.y(y), f"{cord}: cut {format_length(x)}, {_odds(math.exp(y))}") for x, y in shown
        ]
        rows += [(cord, f"{x:.0f} mm", f"{c:.2%}") for x, c in line]
        labels.append((40.0, cord, k))
    level = f.y(math.log(risk))
    f.shapes.append(
        Line((("M", (f.x(f.x0), level)), ("L", (f.x(f.x1), level))), 1.2, ink.signal, False, (4, 3))
    )
    f.names(labels)
    title = f"The chance of running short against the cut, {_odds(risk)} marked"
    return Chart(f.picture(title), tuple(spots), ("cord", "cut", "chance"), tuple(rows))


def _odds(chance: float) -> str:
    return f"1 in {1 / chance:.0f}" if chance < 0.4 else f"{chance:.0%}"


def _day(date: str) -> str:
    """As short as it can be read."""
    try:
        day = datetime.date.fromisoformat(date)
    except ValueError:
        return date or "no date"
    return f"{day.day} {MONTHS[day.month - 1]}"


def time_chart(calibration: Calibration, ties: Sequence[Tie], ink: Ink = PAPER) -> Chart:
    """How much more or less cord than the others each tie took, sitting by sitting: ties of one sitting stand together on a band,
    on which a line says where they lie in the mean."""
    by_id = {t.id: t for t in ties}
    found = [e for e in effects(calibration, ties) if e.tie in by_id]
    groups: dict[Sitting, list[Effect]] = {}
    for e in sorted(found, key=lambda e: by_id[e.tie].date):
        groups.setdefault(sitting(by_id[e.tie]), []).append(e)
    reach = max([0.03, *(abs(e.cord) * 1.25 for e in found)])
    wide = len(found) + GAP * max(len(groups) - 1, 0)
    f = Frame(ink, (-0.6, max(wide, 1) - 0.4), (-reach, reach), right=96.0)
    spots, rows, used = [], [], []
    dates: dict[float, str] = {}
    at = 0.0
    for key, mine in groups.items():
        edge = [(f.x(at - 0.5), f.y(-reach)), (f.x(at + len(mine) - 0.5), f.y(-reach))]
        f.shapes.append(
            Area((*edge, *((x, f.y(reach)) for x, _ in reversed(edge))), mix(ink.paper, ink.ink, 0.06))
        )
        mean = float(np.mean([e.cord for e in mine]))
        if len(mine) > 1:
            f.line([(at - 0.4, mean), (at + len(mine) - 0.6, mean)], ink.signal, 1.6)
        dates[at + (len(mine) - 1) / 2] = _day(key[0])
        for k, e in enumerate(mine):
            tie = by_id[e.tie]
            kind = TENSIONS.index(tie.tension)
            used.append(kind)
            x, y = f.x(at + k), f.y(e.cord)
            f.shapes += mark(kind, x, y, ink)
            who = f", {tie.who}" if tie.who else ""
            text = f"{e.tie}: {math.expm1(e.cord):+.1%} cord {tie.tension}{who}"
            spots.append(Spot(x, y, text.rstrip(), e.tie))
            rows.append(
                (
                    e.tie,
                    tie.date,
                    tie.tension,
                    tie.who,
                    tie.lot,
                    f"{math.expm1(e.cord):+.1%}",
                    f"{math.expm1(mean):+.1%}",
                )
            )
        at += len(mine) + GAP
    every = max(1, math.ceil(len(dates) / MOST_DATES))
    f.across("sittings", [], {x: d for k, (x, d) in enumerate(dates.items()) if k % every == 0})
    f.upward(
        "cord against the others",
        [],
        {v: f"{v:+.0%}" if v else "0" for v in (-reach * 0.8, 0.0, reach * 0.8)},
    )
    f.names([(40.0 + 16 * n, TENSIONS[k] or "not said", k) for n, k in enumerate(sorted(set(used)))])
    several = "1 sitting" if len(groups) == 1 else f"{len(groups)} sittings"
    title = f"Cord of {len(found)} ties against each other, in {several}"
    return Chart(
        f.picture(title),
        tuple(spots),
        ("tie", "date", "tension", "who", "lot", "cord", "its sitting"),
        tuple(rows),
    )
