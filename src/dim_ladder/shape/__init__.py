"""Diagram -> size and look. In: a Weave. Out: lengths in cord diameters: pitch, width, thickness, cord per end and unit.

`tight` pulls one unit of a section tight in space. `rough_shape` is a rule from the traced path, with a wide spread that
says so; for now the calibration begins from it.
"""

from dim_ladder.shape.rough import RoughSection, RoughShape, rough_shape
from dim_ladder.shape.tighten import TightShape, tight, tighten

__all__ = ["RoughSection", "RoughShape", "TightShape", "rough_shape", "tight", "tighten"]
