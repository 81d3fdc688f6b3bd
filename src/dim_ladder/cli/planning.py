"""`plan`: an order over a stash, as data and for people."""

from __future__ import annotations

import contextlib
from pathlib import Path

from dim_ladder.base import DimLadderError, format_length
from dim_ladder.cli.answers import Answer
from dim_ladder.cli.opening import opened
from dim_ladder.commands.calibrating import calibration_of
from dim_ladder.commands.ordering import weaves_of
from dim_ladder.shelf.stash import read_order
from dim_ladder.stash import Order, Stash, StashPlan
from dim_ladder.stash.plan import cord_words, shopping_words


def shapes_ahead(order: Path, jobs: int) -> None:
    """Pull what an order wants tight, several weaves at a time by joblib: what is found lies in the cache of shapes when the
    pieces are solved. What cannot be read is said there."""
    from joblib import Parallel, delayed

    paths = weaves_of(read_order(order), order)
    if jobs != 1 and len(paths) > 1:
        Parallel(n_jobs=jobs)(delayed(_ahead)(str(p)) for p in paths)


def _ahead(path: str) -> None:
    with contextlib.suppress(DimLadderError):
        calibration_of(opened(Path(path)))


def plan_answer(order: Order, plan: StashPlan, stash: Stash) -> tuple[Answer, dict[str, str], list[str]]:
    """The answer as data, why values are absent, and lines for people."""
    missing = {"cost": f"no price for {', '.join(plan.unpriced) or 'what is to be bought'}"}
    if plan.work is None:
        missing["work"] = "no rate for an hour, or nobody knows how long it takes"
    if plan.minutes is None:
        missing["minutes"] = "nobody knows how long it takes"
    if plan.left is None:
        missing["minutes_left"] = "nobody knows how long it takes, or nothing is left to tie"
    price = None if plan.price is None else plan.price[0]
    if price is None:
        missing["price_per_piece"] = missing["price_between"] = "the cost or the work is not known"
    body: Answer = {
        "order": order.name,
        "pieces": plan.pieces,
        "used_mm": plan.used_mm,
        "new_mm": sum(b.mm for b in plan.buy),
        "spool_mm": sum(c.mm for t in plan.taken if t.spool for c in t.cuts),
        "offcut_mm": sum(c.mm for t in plan.taken if t.id and not t.spool for c in t.cuts),
        "waste_mm": plan.waste_mm,
        "optimal": plan.gap == 0.0,
        "gap": plan.gap,
        "map": [
            {
                "id": t.id, "nth": t.nth, "kind": t.kind, "colour": t.colour, "lot": t.lot, "length_mm": t.mm, "spool": t.spool,
                "cuts": [{"piece": c.piece, "cord": c.cord, "ends": c.ends, "mm": c.mm, "fold": c.fold} for c in t.cuts],
                "left_mm": t.left_mm, "kept": t.kept,
            }
            for t in plan.taken
        ],
        "buy": [
            {"kind": b.kind, "colour": b.colour, "mm": b.mm, "metres": b.metres, "cost": b.cost} for b in plan.buy
        ],
        "cost": plan.cost,
        "work": plan.work,
        "price_per_piece": price,
        "price_between": None if plan.price is None else list(plan.price[1:]),
        "minutes_left": None if plan.left is None else {"median": plan.left[0], "low": plan.left[1], "high": plan.left[2]},
        "minutes": None if plan.minutes is None else {"median": plan.minutes[0], "low": plan.minutes[1], "high": plan.minutes[2]},
    }  # fmt: skip
    lines = []
    for t in plan.taken:
        if t.id:
            which = f"{t.id}{f' ({t.nth + 1})' if t.nth else ''}, {format_length(t.mm)}"
            rest = f"{format_length(t.left_mm)} {'stay' if t.kept else 'are waste'}"
        else:
            which, rest = f"to buy: {cord_words(t.kind, t.colour)}", ""
        cuts = "; ".join(f"{c.piece} {c.cord} {format_length(c.mm)}, {c.fold}" for c in t.cuts)
        lines.append(f"{which}: {cuts}{f'; {rest}' if rest else ''}")
    lines += [f"buy {line}" for line in shopping_words(plan.buy)]
    lines.append(
        "there is no better plan" if plan.gap == 0.0 else f"a better plan could save {plan.gap:.1%} at most"
    )
    if plan.cost is not None:
        lines.append(f"cords and fastenings cost {plan.cost:.2f} {stash.currency}".strip())
    return body, missing, lines
