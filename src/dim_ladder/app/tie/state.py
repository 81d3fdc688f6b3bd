"""What a half-filled form of a test tie holds: it belongs to its weave, and outlives window and program."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, ValidationError

NAME = "tie"  # among the forms of a journal
Text = Annotated[str, Field(max_length=4000)]


class FormState(BaseModel):
    """everything : all ends in one reading. apart : by cord, "apart" or "together". readings : cut and left over, as typed, by
    ends. texts : the other fields by name. changing : the tie that is being changed, "" for a new one."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    everything: bool = False
    apart: Annotated[dict[str, str], Field(max_length=60)] = {}
    readings: Annotated[dict[str, tuple[Text, Text]], Field(max_length=200)] = {}
    texts: Annotated[dict[str, Text], Field(max_length=400)] = {}
    tension: str = "snug"
    changing: str = ""
    photos: Annotated[tuple[Text, ...], Field(max_length=40)] = ()

    @property
    def empty(self) -> bool:
        """Whether there is nothing in it that would be missed."""
        typed = [*self.texts.values(), *(t for pair in self.readings.values() for t in pair)]
        return not (any(typed) or self.changing or self.photos)


def read_state(text: str) -> FormState:
    """An empty one where there is none, or it cannot be read."""
    try:
        return FormState.model_validate_json(text) if text else FormState()
    except ValidationError:
        return FormState()
