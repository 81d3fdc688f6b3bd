"""What is known of a section by a rough rule alone, and has to be said before cord is cut by it."""

from __future__ import annotations

from dim_ladder.calibrate.model import Calibration

FEW = 3  # sections that are named


def guessed(c: Calibration) -> tuple[str, ...]:
    """Sections of which neither the tight shape is known nor any tie was logged, in the order of the weave."""
    prior = c.prior
    return tuple(
        name
        for k, name in enumerate(prior.sections)
        if prior.moves[k]
        and name not in prior.shaped
        and name not in prior.rings
        and not c.data.counts[:, k].any()
    )


def guess_words(c: Calibration) -> str:
    """One sentence for whoever is about to cut; "" where nothing is guessed."""
    names = guessed(c)
    if not names:
        return ""
    said = ", ".join(names[:FEW]) + (f" and {len(names) - FEW} more" if len(names) > FEW else "")
    worst = max(c.prior.spread[c.prior.sections.index(n)] for n in names)
    return (
        f"The size of {said} is taken from a rough rule, which is often {worst:.0%} off, as no tight shape is known: "
        "tie one before you rely on these cuts"
    )
