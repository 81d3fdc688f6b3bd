"""How far an order is: pieces cut and booked, pieces tied; what a booking makes of it, and what putting it back does."""

from __future__ import annotations

from dim_ladder.stash.order import Order
from dim_ladder.stash.value import Booking


def to_cut(order: Order) -> tuple[int, ...]:
    """By line, the pieces for which no cord is cut yet."""
    return tuple(line.to_cut for line in order.lines)


def cut_now(order: Order) -> Order:
    """The order when all that was left of it has been cut."""
    return _with(order, to_cut(order))


def put_back(order: Order, booking: Booking) -> Order:
    """The order when a booking has been put back; as it is where the booking is of another order, or lines were taken off it since. Lines
    that came to it since were not cut by it."""
    since = len(order.lines) - len(booking.pieces)
    if booking.order != order.name or since < 0:
        return order
    return _with(order, (*(-n for n in booking.pieces), *(0 for _ in range(since))))


def _with(order: Order, more: tuple[int, ...]) -> Order:
    lines = tuple(
        line.model_copy(
            update={"cut": max(0, min(line.count, max(line.cut, line.done) + n if n > 0 else line.cut + n))}
        )
        for line, n in zip(order.lines, more, strict=True)
    )
    return order.model_copy(update={"lines": lines})


def progress_words(order: Order) -> str:
    """ "19 pieces: 8 cut, 5 tied"."""
    many = sum(line.count for line in order.lines)
    cut = many - sum(to_cut(order))
    done = sum(line.done for line in order.lines)
    said = ", ".join([*([f"{cut} cut"] if cut else []), *([f"{done} tied"] if done else [])])
    return f"{many} piece{'' if many == 1 else 's'}" + (f": {said}" if said else "")
