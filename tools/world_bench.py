"""What the calibration is worth to makers who were not drawn from its model: coverage, chance met, cord over what somebody would
cut who knows the maker, a rule of thumb and least squares at equal chance; slips named, sound ties accused."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

MAKERS, PART = 1000, 25  # of fewer the chance met is not known to a quarter of itself
JUDGED = 300  # makers with a slip
OVER = {0: 450, 1: 230, 3: 150, 10: 80}  # mm of a cord of 1.9 m
NAMED = {"exchanged": 90, "inch": 90, "tie inches": 80, "all leftovers inches": 80, "duplicate": 80}
Report = Callable[..., None]


def world(report: Report) -> None:
    from joblib import Parallel, delayed

    from dim_ladder.calibrate import prior_for
    from dim_ladder.notation import parse_strict
    from helpers.world import DEPARTURES
    from helpers.worldly import LEVELS, SLIPS, WEAVES, row, table_of

    work = Parallel(n_jobs=2)
    parts = range(MAKERS // PART)
    known = {}
    for name, (text, section) in WEAVES.items():
        prior = prior_for(parse_strict(text))
        known[name] = prior, table_of(prior, section)
    for name, (prior, table) in known.items():
        for ties, sittings in LEVELS:
            found = [
                x
                for part in work(delayed(_trials)(prior, table, ties, sittings, k, DEPARTURES) for k in parts)
                for x in part
            ]
            r = row(found)
            a, b, c = (f"{v:.0%}" for v in r.covered)
            note = (
                f"covered: cord {a}, a unit's cord {b}, its length {c}; {r.short:.2%} ± {r.sure:.2%} short at 1 in 50, {r.worst:.1%} of makers "
                f"more than 1 in 10; rule of thumb {r.rule:.0f}, least squares {r.line:.0f} mm over at equal chance"
            )
            report(
                f"world, {name}, {ties} ties in {sittings}: cord over who knows the maker",
                r.over,
                "mm",
                OVER[ties],
                note,
            )
    prior, table = known["band"]
    for departure in DEPARTURES:
        found = [
            x
            for part in work(delayed(_trials)(prior, table, 10, 1, k, (departure,)) for k in parts)
            for x in part
        ]
        r = row(found)
        report(
            f"world, only {departure}, 10 ties in 1: short at 1 in 50",
            r.short * 100,
            "%",
            2.5,
            f"covered {r.covered[0]:.0%}",
        )
    for slip in ("", *SLIPS):
        for sittings in (1, 4):
            found = [
                x
                for part in work(
                    delayed(_judged)(prior, table, slip, sittings, k) for k in range(JUDGED // PART)
                )
                for x in part
            ]
            sound = (
                sum(f.accused for f in found) / (len(found) * (4 if slip in ("", "duplicate") else 3)) * 100
            )
            note = (
                f"sound ties accused {sound:.1f} %, repairs that cannot be {sum(f.impossible for f in found)}"
            )
            if slip:
                missed = 100 * (1 - sum(f.named for f in found) / len(found))
                report(
                    f"world, “{slip}” among 4 ties in {sittings}, cause not named",
                    missed,
                    "%",
                    100 - NAMED[slip],
                    note,
                )
            else:
                report(f"world, sound ties accused, 4 ties in {sittings}", sound, "%", 2, "")


def _trials(prior: Any, table: Any, ties: int, sittings: int, part: int, on: tuple[str, ...]) -> list[Any]:
    import numpy as np

    from helpers.worldly import trial

    rng = np.random.default_rng([20261128, ties, sittings, part])
    return [trial(rng, prior, table, ties, sittings, on) for _ in range(PART)]


def _judged(prior: Any, table: Any, slip: str, sittings: int, part: int) -> list[Any]:
    import numpy as np

    from helpers.worldly import judged

    rng = np.random.default_rng([20261129, len(slip), sittings, part])
    return [judged(rng, prior, table, slip, 4, sittings) for _ in range(PART)]
