"""Diagram -> size. In: a Weave. Out: lengths in cord diameters: pitch, width, thickness, cord per end and unit.

Until the tightened shape exists this is a rough rule from the traced path, with a wide spread that says so.
"""

from dim_ladder.shape.rough import RoughSection, RoughShape, rough_shape

__all__ = ["RoughSection", "RoughShape", "rough_shape"]
