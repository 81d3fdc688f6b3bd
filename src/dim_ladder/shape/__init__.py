"""Diagram -> size and look. In: a Weave. Out: lengths in cord diameters: pitch, width, thickness, cord per end and unit.

`tighten` pulls a section tight in space, as a generator of frozen shapes; `tight` waits for the last one. `rough_shape`
is a rule from the traced path, with a wide spread that says so; for now the calibration begins from it.
"""

from dim_ladder.shape.engine import ready
from dim_ladder.shape.rough import RoughSection, RoughShape, rough_shape
from dim_ladder.shape.tighten import tight, tighten
from dim_ladder.shape.value import TightShape

__all__ = ["RoughSection", "RoughShape", "TightShape", "ready", "rough_shape", "tight", "tighten"]
