"""What a piece should become."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Millimetres = Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)]

Tail = Annotated[float, Field(ge=0, le=2_000, allow_inf_nan=False)]

LEAST_RISK = 1e-9  # no measurement speaks of less


class Plan(BaseModel):
    """A size and how it is met. Lengths in mm.

    target : "girth" (body, worn round) or "length" (taken as it is). fastening : by its key, "" where it follows from the work;
    fastening_mm : what the maker's own one adds, None as usual; open_mm : by how much a sliding one opens, None as usual. risk :
    accepted chance that an end runs short. step_mm : cuts are rounded up to this. chosen : counts that the maker took, by section,
    for this size; kept : which of them stay in every size. tail_mm : of every end, what the finish cannot do without: an end of
    which less is left is short; None as the finish has it. hold_mm : what there should be to hold of an end, where a piece takes as
    much as is likeliest; None as the finish has it. pass_mm : the widest girth that a piece which is slipped on must pass (a hand),
    to sit where it is worn; None where nobody asks.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    target: Literal["girth", "length"] = "girth"
    size_mm: Annotated[float, Field(gt=0, le=20_000, allow_inf_nan=False)] = 170.0
    ease_mm: Annotated[float, Field(ge=-200, le=2_000, allow_inf_nan=False)] = 8.0
    fastening: Annotated[str, Field(max_length=60)] = ""
    fastening_mm: Annotated[float, Field(ge=0, le=1000, allow_inf_nan=False)] | None = None
    open_mm: Annotated[float, Field(ge=0, le=2_000, allow_inf_nan=False)] | None = None
    risk: Annotated[float, Field(ge=LEAST_RISK, lt=0.5)] = 0.02
    step_mm: Annotated[float, Field(gt=0, le=1000)] = 10.0
    tail_mm: Tail | None = None
    hold_mm: Tail | None = None
    pass_mm: Annotated[float, Field(gt=0, le=20_000, allow_inf_nan=False)] | None = None
    chosen: dict[str, Annotated[int, Field(ge=1, le=100_000)]] = {}
    kept: Annotated[tuple[Annotated[str, Field(max_length=200)], ...], Field(max_length=400)] = ()

    @property
    def locked(self) -> dict[str, int]:
        """What is left of the counts that were taken when the piece becomes another size."""
        return {s: n for s, n in self.chosen.items() if s in self.kept}
