"""How work is taken from loose to tight: the stages of rigid cord, that of cord which gives way, and how much of it is pulled."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from dim_ladder.shape.relax import ROUGH, SOFT, STAGES, Stage
from dim_ladder.shape.rope import Curves
from dim_ladder.shape.value import Job

LARGE = 700.0  # diameters of loose cord, from which nodes stand further apart
APART = 1.28  # by so much
GENTLY = 0.3  # of what draws a heap of cord together, until its slack is out: drawn hard, and evenly, it would come through itself
# Diameters of tail of held work that go on being pulled; of a row, most of whose cord they would be. Measured: with 16 instead of 25 its pitch
# and cord differ by 1 %, with 12 by 3 %.
HELD_TAILS, ROW_TAILS = 25.0, 16.0
ROUND_STEP = 0.25  # diameters between nodes of work on a former, of which there is much
SLIDING = 2.0  # times the change of energy that counts as rest, of what is tied once
HELD = 5.0  # the same of rows, which friction holds
BEGUN = 4.0  # the same of a row that is tied once, as rigid cord from which soft cord begins: it creeps for long with hardly any energy


def stages_of(curves: Curves, once: bool, soft: bool = False, lies: bool = False) -> tuple[Stage, ...]:
    """Of cord that gives way all but the last, which it begins from. lies : whether it does not turn."""
    length = cord_in(curves)
    still = calm(curves, once)
    begun = BEGUN if soft and once and curves.held else 1.0
    wide = APART if length > LARGE else 1.0
    # Held by the bar and the hand, what is tied once does not turn.
    return tuple(
        replace(
            s,
            step=s.step * wide,
            still=s.still * still * (1.0 if s is ROUGH else begun),
            turn=s.turn and not (once or lies),
            press=GENTLY if curves.heap and s is ROUGH else 1.0,
            even=not (curves.heap and s is ROUGH),
        )
        for s in (STAGES[:-1] if soft else STAGES)
        if not ((once or lies) and s.turn and s is not STAGES[-1])
    )


def calm(curves: Curves, once: bool) -> float:
    """How much more may change than in a body and still be rest: what is tied once slides and rolls on its cords for long without getting
    much shorter."""
    return HELD if curves.held else SLIDING if once else 1.0


def more_careful(s: Stage) -> Stage:
    return replace(s, step=s.step * 0.75, stiff=s.stiff * 2, cap=s.cap / 2, most=s.most * 2)


def tails_of(job: Job) -> float:
    """Diameters of the tails of held work that are pulled once it is nearly tight: they are most of its cord, and lie straight. All of them
    where something is said of it by how far along it lies."""
    if job.kind != "held" or job.loops or job.tips or job.standing:
        return np.inf
    return ROW_TAILS if job.curves.held else HELD_TAILS


def cord_in(curves: Curves) -> float:
    """Cord in work that is loose yet, in diameters: what is drawn up takes less."""
    return sum(float(np.linalg.norm(np.diff(s, axis=0), axis=1).sum()) for s in curves.strands)


def softly(job: Job, turned: bool) -> Stage:
    """Of cord that gives way, from rigid cord that is nearly at rest. turned : whether that turned: what did not does not turn now either."""
    once = job.kind in ("knot", "held")
    step = ROUND_STEP if job.kind == "closed" else SOFT.step
    return replace(SOFT, step=step, still=SOFT.still * calm(job.curves, once), turn=not once and turned)
