"""An order over a stash: which length is cut into what, what is to be bought, what it costs; and the shelf as it is afterwards."""

from __future__ import annotations

import math
import time
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from dim_ladder.base import InputError, format_length
from dim_ladder.base.colours import colour_word
from dim_ladder.library import FASTENINGS, cord_kind
from dim_ladder.stash.cutting import NEW, Alike, Cutting, Shelf, cut_stock
from dim_ladder.stash.order import Wanted
from dim_ladder.stash.value import Booking, Length, Stash, free_id, price_of

Tell = Callable[[float, str], None]

MOST_PIECES = 2000
SECONDS = 10.0
MOST_BOOKINGS = 50
MOST_KEPT = 20_000  # lengths in all shelves that are kept to go back to


@dataclass(frozen=True, slots=True)
class Label:
    """One cut: of which piece, which cord, which of its ends and what they do, how long, where it is folded."""

    piece: str
    cord: str
    ends: str
    mm: float
    fold: str


@dataclass(frozen=True, slots=True)
class Taken:
    """One length off the shelf. id : "" where it is to be bought. left_mm : what stays of it; kept : whether that is worth keeping."""

    id: str
    nth: int
    kind: str
    colour: str
    lot: str
    mm: float
    spool: bool
    cuts: tuple[Label, ...]
    left_mm: float
    kept: bool


@dataclass(frozen=True, slots=True)
class ToBuy:
    """Cord that is missing, mm; whole metres for the shop, and what they cost, None without a price."""

    kind: str
    colour: str
    mm: float
    metres: int
    cost: float | None


@dataclass(frozen=True, slots=True)
class StashPlan:
    """gap : by what part a better plan could undercut this one at most, 0 where there is none. cost, price : of the cords and
    fastenings of the order, and of all of it with work; None where a price is missing, `unpriced` says which. minutes : of what is
    planned; left : of all that is still to be tied, with what was cut before."""

    taken: tuple[Taken, ...]
    buy: tuple[ToBuy, ...]
    pieces: int
    used_mm: float
    waste_mm: float
    gap: float
    cost: float | None
    unpriced: tuple[str, ...]
    minutes: tuple[float, float, float] | None
    work: float | None
    left: tuple[float, float, float] | None = None
    rate: float | None = None

    @property
    def price(self) -> tuple[float, float, float] | None:
        """What a piece comes to, cord, fastening and work; median and 90 % interval, as the minutes are. None where a part is not known."""
        if self.cost is None or self.minutes is None or self.rate is None or not self.pieces:
            return None
        middle, low, high = ((self.cost + m / 60 * self.rate) / self.pieces for m in self.minutes)
        return middle, low, high


def plan_order(
    wanted: Sequence[Wanted], stash: Stash, *, seconds: float = SECONDS, stop: Callable[[], bool] = lambda: False,
    tell: Tell = lambda _part, _words: None,
) -> StashPlan:  # fmt: skip
    """Plan the cuts of an order. tell : how far it is and what it is at. Raises InputError where it asks for too many pieces."""
    pieces = sum(w.count for w in wanted)
    if pieces > MOST_PIECES:
        raise InputError(f"an order of {pieces} pieces is too large for one table", f"At most {MOST_PIECES}")
    left_over, wanted = wanted, [w for w in wanted if w.count]
    cords = sorted({c for w in wanted for c in w.cords})
    end = time.monotonic() + seconds
    taken: list[Taken] = []
    buy: list[ToBuy] = []
    gaps: list[tuple[float, float]] = []
    for k, cord in enumerate(cords):
        left = (end - time.monotonic()) / (len(cords) - k)
        kind, colour = cord
        tell(
            k / len(cords),
            f"cutting {cord_kind(kind).words}, {colour_word(colour)}, for at most {max(left, 1):.0f} s",
        )
        found, aim = _of_cord(wanted, stash, cord, max(left, 0.2), stop)
        taken += found
        gaps.append((aim.gap, float(aim.new_mm + aim.spool_mm)))
        missing = sum(label.mm for t in found if not t.id for label in t.cuts)
        if missing:
            price = price_of(stash, *cord)
            metres = math.ceil(missing / 1000 - 1e-9)
            buy.append(ToBuy(*cord, missing, metres, None if price is None else price * metres))
    total = sum(mm for _, mm in gaps)
    used = sum(label.mm for t in taken for label in t.cuts)
    cost, unpriced = _cost(wanted, stash, taken)
    minutes = _minutes([(w.count, w.minutes) for w in wanted])
    return StashPlan(
        tuple(taken), tuple(buy), pieces, used,
        sum(t.left_mm for t in taken if t.id and not t.kept),
        sum(g * mm for g, mm in gaps) / total if total else 0.0,
        cost, unpriced, minutes,
        None if minutes is None or stash.rate is None else minutes[0] / 60 * stash.rate,
        _minutes([(w.tie, w.minutes) for w in left_over if w.tie]),
        stash.rate,
    )  # fmt: skip


def _of_cord(
    wanted: Sequence[Wanted], stash: Stash, cord: tuple[str, str], seconds: float, stop: Callable[[], bool]
) -> tuple[list[Taken], Cutting]:
    """Every length that is cut for the pieces of one cord, and how good that is."""
    mine = [w for w in wanted if cord in w.cords]
    needs = [
        [k for k, c in enumerate(w.cords) if c == cord] for w in mine
    ]  # which cuts of a piece are of this cord
    alike = [
        Alike(Counter(_mm(w.cuts[k].cut_mm) for k in ks), w.count) for w, ks in zip(mine, needs, strict=True)
    ]
    lengths = [x for x in stash.lengths if (x.kind, x.colour) == cord]
    # Lengths of no known lot may each be of another: they are never put together in one piece.
    shelf = [
        Shelf(x.id, math.floor(x.mm + 1e-6), f"lot {x.lot}" if x.lot else f"length {x.id}", x.spool, x.count)
        for x in lengths
    ]
    found = cut_stock(
        alike,
        shelf,
        keep_mm=round(stash.keep_mm),
        loss_mm=math.ceil(stash.loss_mm - 1e-9),
        seconds=seconds,
        stop=stop,
    )
    by_id = {x.id: x for x in lengths}
    # Pieces in the order of their lots, so that the cuts of one piece are of one lot.
    numbers: dict[tuple[int, str, int], list[int]] = {}
    for p, (w, ks) in enumerate(zip(mine, needs, strict=True)):
        next_one = 0
        for lot, many in found.lots[p].items():
            for k in ks:
                numbers.setdefault((p, lot, _mm(w.cuts[k].cut_mm)), [])
            for n in range(next_one, next_one + many):
                for k in ks:
                    numbers[p, lot, _mm(w.cuts[k].cut_mm)].append(n * len(w.cuts) + k)
            next_one += many
    out = []
    for used in found.used:
        labels = []
        for p, mm in used.cuts:
            n, k = divmod(numbers[p, used.lot, mm].pop(0), len(mine[p].cuts))
            labels.append(_label(mine[p], n, k))
        length = by_id.get(used.key)
        spent = sum(label.mm + stash.loss_mm for label in labels)
        left = max(0.0, length.mm - spent) if length else 0.0
        out.append(
            Taken(
                used.key,
                used.nth,
                *cord,
                length.lot if length else "",
                length.mm if length else spent,
                bool(length and length.spool),
                tuple(labels),
                left,
                left >= stash.keep_mm,
            )
        )
    return out, found


def _mm(mm: float) -> int:
    return math.ceil(mm - 1e-6)


def _label(w: Wanted, n: int, k: int) -> Label:
    cut = w.cuts[k]
    piece = f"{w.title} {w.size}".strip() + (f" {n + 1}/{w.count}" if w.count > 1 else "")
    return Label(piece, cut.cord, w.ends[k] if w.ends else "", cut.cut_mm, w.folds[k])


def _cost(
    wanted: Sequence[Wanted], stash: Stash, taken: Sequence[Taken]
) -> tuple[float | None, tuple[str, ...]]:
    prices = {x.id: x.per_metre for x in stash.lengths}
    total, missing = 0.0, []
    for t in taken:
        price = prices.get(t.id)
        price = price_of(stash, t.kind, t.colour) if price is None else price
        if price is None:
            missing.append(cord_words(t.kind, t.colour))
        else:
            total += price * sum(label.mm for label in t.cuts) / 1000
    for w in wanted:
        if w.fastening in ("", "none"):
            continue
        if w.fastening in stash.prices:
            total += stash.prices[w.fastening] * w.count
        else:
            missing.append(FASTENINGS[w.fastening].words if w.fastening in FASTENINGS else w.fastening)
    return (None if missing else total), tuple(dict.fromkeys(missing))


Minutes = tuple[float, float, float] | None


def _minutes(pieces: Sequence[tuple[int, Minutes]]) -> Minutes:
    """Median and 90 % interval of the whole order. Pieces of one weave are tied by one hand: they are slow or quick together, so
    their spreads add up and do not even out."""
    found = [(n, m) for n, m in pieces if m is not None]
    if len(found) < max(len(pieces), 1):
        return None
    low, middle, high = (sum(n * m[k] for n, m in found) for k in (1, 0, 2))
    return middle, low, high


def booked(stash: Stash, plan: StashPlan, order: str, date: str = "", pieces: Sequence[int] = ()) -> Stash:
    """The shelf after an order was cut: what is left of a length stays if it is worth keeping. Raises InputError where the plan was
    made of another shelf; the shelf is booked as a whole or not at all."""
    left = {x.id: x for x in stash.lengths}
    new: list[Length] = []
    taken: Counter[str] = Counter()
    names = set(left)
    for t in plan.taken:
        if not t.id:
            continue
        length = left.get(t.id)
        if length is None or abs(length.mm - t.mm) > 0.5 or taken[t.id] >= length.count:
            raise InputError(f"{t.id} is not on the shelf any more as it was planned", "Plan the order again")
        taken[t.id] += 1
        if not t.kept:
            continue
        name = t.id if length.count == 1 else free_id(names, f"{t.id} rest")
        names.add(name)
        new.append(length.model_copy(update={"id": name, "mm": t.left_mm, "count": 1}))
    rest = {
        x.id: x.model_copy(update={"count": x.count - taken[x.id]}) if taken[x.id] else x
        for x in stash.lengths
        if x.count > taken[x.id]
    }
    used = sum(label.mm for t in plan.taken if t.id for label in t.cuts)
    booking = Booking(
        order=order[:80] or "Order", date=date, used_mm=used, before=stash.lengths, pieces=tuple(pieces)
    )
    bookings = (*stash.bookings, booking)[-MOST_BOOKINGS:]
    while len(bookings) > 1 and sum(len(b.before) for b in bookings) > MOST_KEPT:
        bookings = bookings[1:]
    fresh = {x.id: x for x in new}
    # What was cut stays where it lay.
    lengths = []
    for x in stash.lengths:
        lengths += [found for found in (fresh.pop(x.id, None), rest.get(x.id)) if found is not None]
    return stash.model_copy(update={"lengths": (*lengths, *fresh.values()), "bookings": bookings})


def unbooked(stash: Stash) -> Stash:
    """The shelf as it was before the last booking. Raises InputError where there is none."""
    if not stash.bookings:
        raise InputError("nothing was booked out of this stash", "")
    return stash.model_copy(update={"lengths": stash.bookings[-1].before, "bookings": stash.bookings[:-1]})


def cord_words(kind: str, colour: str) -> str:
    """A cord on the shelf, for people: its colour, its kind, and the colour as it is written, since two may share a word."""
    return f"{colour_word(colour)} {cord_kind(kind).words}, {colour}"


def shopping_words(buy: Sequence[ToBuy], system: str = "metric") -> tuple[str, ...]:
    """What to buy, a line a cord."""
    return tuple(
        f"{b.metres} m of {cord_words(b.kind, b.colour)} ({format_length(b.mm, system)} are missing)"
        for b in buy
    )


__all__ = ["NEW", "StashPlan", "booked", "plan_order", "shopping_words", "unbooked"]
