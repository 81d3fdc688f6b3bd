"""The pattern's own rule, "so much cord for a length of band", beside the one that is handed down."""

from __future__ import annotations

from dataclasses import dataclass

from dim_ladder.calibrate.model import Calibration

FOOT_AN_INCH = 12.0  # all cord together for a length of knotted band
FOUR_TIMES = 4.0  # every end, of knotted work that hangs


@dataclass(frozen=True, slots=True)
class Rule:
    """all_cord : cord of all ends together for a length of band, as a ratio, with the 90 % interval. longest : of the
    hungriest end. role : whose."""

    section: str
    all_cord: float
    low: float
    high: float
    longest: float
    role: str

    @property
    def words(self) -> str:
        off = self.all_cord / FOOT_AN_INCH - 1
        kind = "too little" if off > 0 else "too much"
        return (
            f"{self.section} eats {self.all_cord:.1f} times its length in cord, {self.low:.1f} to {self.high:.1f}; its {self.role} "
            f"{self.longest:.1f} times. A foot of cord for an inch of band is {abs(off):.0%} {kind} for it."
        )


def rule(calibration: Calibration, section: str) -> Rule:
    """What a section says of itself."""
    prior = calibration.prior
    ends = {r: sum(x == r for x in prior.role_of.values()) for r in prior.roles}
    each = {r: calibration.per_length(r, section) for r in prior.roles}
    low = sum(n * each[r].quantile(0.05) for r, n in ends.items())
    high = sum(n * each[r].quantile(0.95) for r, n in ends.items())
    middle = sum(n * each[r].median for r, n in ends.items())
    role = max(prior.roles, key=lambda r: each[r].median)
    return Rule(section, middle, low, high, each[role].median, role)
