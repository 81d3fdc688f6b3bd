"""What the command line reads of a size, and what it says of the piece that becomes of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from dim_ladder.base import InputError, format_length, read_length
from dim_ladder.cli.answers import Answer
from dim_ladder.library import FASTENINGS, nearest_fastening
from dim_ladder.publish.choices import SizeRow
from dim_ladder.scale import Piece, Plan
from dim_ladder.scale.cuts import Given, fold_words, given_words, odds, why_words
from dim_ladder.scale.plan import LEAST_RISK
from dim_ladder.shelf import Document

MOST_MM = 20_000.0


def sized(
    plan: Plan, girth: str | None, length: str | None, ease: str | None, risk: float | None, fastening: str | None,
    hand: str | None = None, opens: str | None = None,
) -> Plan:  # fmt: skip
    """A plan with what was said on the command line. A length always has its unit there. Raises InputError."""
    if girth and length:
        raise InputError("a piece has either a girth or a length", "Give one of the two")
    changes: dict[str, object] = {}
    if girth or length:
        text = girth or length or ""
        changes = {
            "target": "girth" if girth else "length",
            "size_mm": read_length(text, None, minimum=1, maximum=MOST_MM),
            "chosen": plan.locked,
        }
    if ease is not None:
        changes["ease_mm"] = read_ease(ease)
    if risk is not None:
        if not LEAST_RISK <= risk < 0.5:
            raise InputError(
                f"a risk of {risk} is out of bounds", "Between 0 and 0.5, such as 0.02 for 1 in 50"
            )
        changes["risk"] = risk
    if fastening is not None:
        changes |= read_fastening(fastening)
    if opens is not None:
        changes["open_mm"] = read_length(opens, None, maximum=2000)
    if hand is not None:
        changes["pass_mm"] = read_length(hand, None, minimum=1, maximum=MOST_MM)
    return plan.model_copy(update=changes)


def read_fastening(text: str) -> dict[str, object]:
    """What closes it, and what it adds where that is said: NAME or NAME=LENGTH. Raises InputError."""
    name, eq, length = text.partition("=")
    name = name.strip()
    if name not in FASTENINGS:
        raise InputError(f"there is no fastening “{name}”", nearest_fastening(name))
    return {"fastening": name, "fastening_mm": read_length(length, None, maximum=1000) if eq else None}


def read_ease(text: str) -> float:
    """mm; less than nothing where it is to sit tight, as "-5 mm". Raises InputError."""
    tight = text.strip().startswith(("-", "−"))
    mm = read_length(text.strip().lstrip("-−"), None, maximum=200 if tight else 2000)
    return -mm if tight else mm


def of_size(doc: Document, plan: Plan, named: Sequence[str] | None) -> Document:
    """The document with this plan, and these sizes on its sheet: NAME=LENGTH, or LENGTH alone. A plan that is not the
    document's own is the one size of the sheet where none is named."""
    rows = tuple(_row(text) for text in named or ())
    same = (plan.target, plan.size_mm) == (doc.plan.target, doc.plan.size_mm)
    if not rows and not same:
        rows = (SizeRow(name=format_length(plan.size_mm), size_mm=plan.size_mm),)
    sheet = doc.sheet.model_copy(update={"sizes": rows}) if rows else doc.sheet
    return replace(doc, plan=plan, sheet=sheet)


def _row(text: str) -> SizeRow:
    name, eq, length = text.partition("=")
    if not eq:
        name, length = text, text
    return SizeRow(
        name=name.strip()[:40] or "size", size_mm=read_length(length, None, minimum=1, maximum=MOST_MM)
    )


def named_cut(text: str) -> tuple[str, float]:
    """CORD=LENGTH."""
    name, eq, length = text.partition("=")
    if not eq:
        raise InputError(f"“{text}” is not a cord and a length", "Write it as buoy=1.9m")
    return name.strip(), read_length(length, None, minimum=1, maximum=1_000_000)


def piece_answer(piece: Piece, asked: Sequence[Given]) -> tuple[Answer, list[str]]:
    """The answer as data and as lines for people."""
    body: Answer = {
        "derivation": [why_words(c, piece.order, piece.plan, "metric") for c in piece.cuts],
        "units": piece.counts,
        "length_mm": piece.option.length_mm,
        "error_mm": piece.option.error_mm,
        "wanted_mm": piece.wanted_mm,
        "why": piece.why,
        "fit": piece.fit,
        "fastening": piece.closing.key,
        "fastening_mm": piece.closing.adds_mm,
        "fastening_why": piece.closing.why,
        "alternatives": [
            {"units": o.counts, "length_mm": o.length_mm, "error_mm": o.error_mm} for o in piece.alternatives
        ],
        "cuts": [
            {
                "cord": c.cord,
                "cut_mm": c.cut_mm,
                "fold_offset_mm": c.fold_offset_mm,
                "long_end": c.long_end,
                "chance_short": c.chance_short,
                "ends": {
                    e.end: {
                        "need_mm": e.need_mm,
                        "sd": e.sd,
                        "chance_short": e.chance_short,
                        "tail_mm": e.tail_mm,
                        "likely_mm": e.likely_mm,
                    }
                    for e in c.ends
                },
            }
            for c in piece.cuts
        ],
        "tied_to_mm": piece.tied_to_mm,
        "chance_short": piece.chance_short,
        "doubt": piece.doubt,
        "asked": [
            {
                "cord": g.cord,
                "cut_mm": g.cut_mm,
                "chance_short": g.chance_short,
                "fold_offset_mm": g.fold_offset_mm,
            }
            for g in asked
        ],
    }
    lines = [
        ", ".join(f"{n} × {k}" for n, k in piece.counts.items()) + f": {piece.option.length_mm:.0f} mm",
        piece.why,
    ]
    lines += [f"{c.cord}: cut {c.cut_mm:.0f} mm, {fold_words(c, piece.order, 'metric')}" for c in piece.cuts]
    lines += [f"{odds(piece.chance_short)} that any end of the piece is short"]
    lines += [piece.doubt] if piece.doubt else []
    lines += [given_words(g, piece.order, "metric") for g in asked]
    return body, lines
