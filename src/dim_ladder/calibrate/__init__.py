"""Test ties -> rates. In: ties (mm), a weave and its rough shape. Out: cord per unit and per length with spread (mm)."""

from dim_ladder.calibrate.conclude import calibrate
from dim_ladder.calibrate.csvio import ties_from_csv, ties_to_csv
from dim_ladder.calibrate.model import Calibration
from dim_ladder.calibrate.prior import Prior, Softness, fingerprint, prior_for
from dim_ladder.calibrate.spread import Spread
from dim_ladder.calibrate.ties import Reading, Tie, usable_readings

__all__ = [
    "Calibration",
    "Prior",
    "Reading",
    "Softness",
    "Spread",
    "Tie",
    "calibrate",
    "fingerprint",
    "prior_for",
    "ties_from_csv",
    "ties_to_csv",
    "usable_readings",
]
