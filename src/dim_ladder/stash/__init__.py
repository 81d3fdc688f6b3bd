"""Orders over a shelf of cord. In: a Stash and the cuts of many pieces (mm). Out: which length is cut into what, what to buy."""

from dim_ladder.stash.order import Order, OrderLine, Wanted
from dim_ladder.stash.plan import StashPlan, booked, plan_order, unbooked
from dim_ladder.stash.value import Booking, Length, Stash

__all__ = [
    "Booking",
    "Length",
    "Order",
    "OrderLine",
    "Stash",
    "StashPlan",
    "Wanted",
    "booked",
    "plan_order",
    "unbooked",
]
