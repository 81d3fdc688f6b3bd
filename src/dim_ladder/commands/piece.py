"""The whole piece in the planned size, section by section."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator

from dim_ladder.base import InputError
from dim_ladder.calibrate import Calibration
from dim_ladder.notation import NOMINAL_GIRTH, Section, Weave
from dim_ladder.scale import Plan, closing_of, units_for
from dim_ladder.scale.closing import NOTHING
from dim_ladder.scale.girth import at_girth, sized_weave
from dim_ladder.shape import TightShape, tighten
from dim_ladder.shape.joined import whole
from dim_ladder.shape.parted import free_between
from dim_ladder.shape.whole import Whole

TEST_UNITS = 12  # of a section that grows with the size, where no size can be solved


def pieces(
    weave: Weave, calibration: Calibration | None, plan: Plan, stop: Callable[[], bool] = lambda: False
) -> Iterator[Whole]:
    """The piece with more of its sections as they come tight; without strands where none can."""
    join = _joiner(weave, calibration, plan)
    shapes: dict[str, TightShape] = {}
    for s in weave.sections:
        try:
            for shape in tighten(weave, s.name, stop=stop):
                shapes[s.name] = shape
                if stop():
                    return
        except InputError:
            shapes.pop(s.name, None)  # what comes undone is not drawn as it was before
            continue
        yield join(shapes)
    if not shapes:
        yield join({})


def piece_of(
    weave: Weave, calibration: Calibration | None, plan: Plan, shapes: dict[str, TightShape]
) -> Whole:
    """The piece from sections that are tight already."""
    return _joiner(weave, calibration, plan)(shapes)


def _joiner(
    weave: Weave, calibration: Calibration | None, plan: Plan
) -> Callable[[dict[str, TightShape]], Whole]:
    counts: dict[str, int] = {}
    for s in weave.sections:  # none is as often as one that comes later
        counts[s.name] = counts.get(s.count.other, TEST_UNITS) if s.count.kind == "same" else _units(s)
    if calibration is not None:
        with contextlib.suppress(InputError):  # no size that can be met: as many units as a test tie has
            counts |= units_for(weave, calibration, plan)
    free, closing = _free(weave, calibration, plan), NOTHING
    with contextlib.suppress(InputError):  # a fastening that is not there: said where the size is asked for
        closing = closing_of(weave, plan)
    return lambda shapes: whole(weave, shapes, counts, closing.key, free, closing.adds_mm)


def _units(s: Section) -> int:
    return s.count.number if s.count.kind == "repeat" else TEST_UNITS


def _free(weave: Weave, calibration: Calibration | None, plan: Plan) -> dict[str, tuple[float, ...]]:
    """mm of free cord in a unit of each section, above, between and below its knots, in the planned size."""
    sized = weave
    with contextlib.suppress(InputError):  # said where the size is asked for
        if calibration is not None:
            sized = sized_weave(weave, calibration, plan)
        else:
            sized = at_girth(weave, plan.size_mm if plan.target == "girth" else NOMINAL_GIRTH)
    return {s.name: free_between(sized, s.name) for s in sized.sections}
