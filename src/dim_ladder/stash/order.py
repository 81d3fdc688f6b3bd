"""An order: so many pieces of which weave in which size, of several at once; and what every piece takes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from dim_ladder.scale import Cut

Text = Annotated[str, Field(max_length=200)]


class OrderLine(BaseModel):
    """weave : a file beside the order, or order : another order, taken so many times. size : a length as makers write it; none for the
    size of the weave's own plan. name : of the size, for labels. cut : of the pieces, how many are cut and booked out of the stash;
    done : how many are tied."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    weave: Text = ""
    order: Text = ""
    count: Annotated[int, Field(ge=1, le=1000)] = 1
    size: Text = ""
    name: Text = ""
    target: Literal["", "girth", "length"] = ""
    ease: Text = ""
    fastening: Annotated[str, Field(max_length=60)] = ""
    cut: Annotated[int, Field(ge=0, le=1000)] = 0
    done: Annotated[int, Field(ge=0, le=1000)] = 0

    @property
    def to_cut(self) -> int:
        """Pieces for which no cord is cut yet; what is tied was."""
        return self.count - max(self.cut, self.done)

    @model_validator(mode="after")
    def _one_of_both(self) -> OrderLine:
        if bool(self.weave) == bool(self.order):
            raise ValueError("a line names either a weave or an order")
        if max(self.cut, self.done) > self.count:
            raise ValueError(f"of {self.count} pieces no more than {self.count} are cut or tied")
        return self


class Order(BaseModel):
    """risk : accepted chance that a cord of a piece runs short; None as each weave's plan has it."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    format: Literal["dim-ladder-order"] = "dim-ladder-order"
    version: Literal[1] = 1
    name: Annotated[str, Field(min_length=1, max_length=80)] = "Order"
    lines: Annotated[tuple[OrderLine, ...], Field(min_length=1, max_length=200)]
    risk: Annotated[float, Field(gt=0, lt=0.5)] | None = None


@dataclass(frozen=True, slots=True)
class Wanted:
    """Pieces that are alike. count : that are to be cut; tie : that are to be tied, with those that are cut already. cords : kind and colour (as on the shelf) of every cut. folds : by cord, for labels; ends : of which letters and roles. minutes : median and
    90 % interval of one piece, None where that is not known."""

    title: str
    size: str
    count: int
    cuts: tuple[Cut, ...]
    cords: tuple[tuple[str, str], ...]
    folds: tuple[str, ...]
    fastening: str
    minutes: tuple[float, float, float] | None = None
    ends: tuple[str, ...] = ()
    tie: int = 0
