"""What the screen Look says of a shape."""

from __future__ import annotations

from dim_ladder.app.look.tightener import Answer
from dim_ladder.base import format_length
from dim_ladder.shape import TightShape


def size_words(shape: TightShape) -> str:
    """How large it is, in the cord that was chosen."""
    d = shape.unit_mm
    size = f"{format_length(shape.width * d)} wide and {format_length(shape.thickness * d)} thick"
    if shape.kind == "held":
        return f"In {d:g} mm cord, drawn up, by itself: it reaches over {format_length(shape.pitch * d)}, {size}."
    if shape.kind == "closed":
        return f"In {d:g} mm cord, drawn up: {format_length(shape.pitch * d)} high, {size}."
    unit, units = (
        ("a unit is", "in every unit") if shape.period == 1 else ("two units are", "in every two units")
    )
    turns = f" It turns by {abs(shape.twist_deg):.0f}° {units}." if shape.angle else ""
    free = f", with {format_length(sum(shape.free))} of free cord besides" if sum(shape.free) > 0 else ""
    return f"In {d:g} mm cord, drawn up: {unit} {format_length(shape.pitch * d)} long{free}, the band {size}.{turns}"


def kept_words(was: TightShape, name: str, shape: TightShape) -> str:
    """A shape that was kept, against the one that is shown: size, and cord for the same length."""

    def per_length(s: TightShape) -> float:
        return sum(s.per_end.values()) / max(s.pitch, 1e-9)

    more = round((per_length(shape) / per_length(was) - 1) * 100)
    cord = "as much cord" if not more else f"{abs(more)} % {'more' if more > 0 else 'less'} cord"
    return (
        f"Kept beside ({name}): a unit {format_length(was.pitch * was.unit_mm)} long, "
        f"{format_length(was.width * was.unit_mm)} wide. For the same length it takes {cord} now."
    )


def rests_words(shape: TightShape) -> str:
    """How else it can come to rest; nothing where it always comes to the same."""
    if not any(shape.rests):
        return ""
    long, cord = (round(100 * by) for by in shape.rests)
    longer = f"{abs(long)} % {'longer' if long > 0 else 'shorter'}" if long else "as long"
    more = f"{abs(cord)} % {'more' if cord > 0 else 'less'} cord" if cord else "as much cord"
    return f"By how it lay before it was drawn up it can also come to rest {longer}, with {more}. "


def honest_words(answer: Answer) -> str:
    """How far it can be believed."""
    shape = answer.shape
    assert shape is not None
    state = ""
    if not shape.converged:
        if not answer.done:
            state = "Still being pulled tight. "
        elif answer.stopped:
            state = "Stopped before it was tight. "
        elif shape.passed:
            state = "Not tight: cords would have to pass each other. "
        elif shape.amiss:
            state = f"Not to be believed: {shape.amiss}. "
        else:
            state = "Not tight yet: it would come out shorter. "
    return (
        state
        + rests_words(shape)
        + f"The deepest overlap left is {shape.overlap:.0%} of a cord. How far cord gives way is known of its kind, not of yours: a "
        "test tie counts for more."
    )
