"""From an order to what every piece of it takes: weaves read, calibrated, solved in their sizes, each once."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from dim_ladder.base import InputError, format_length, read_length
from dim_ladder.calibrate import Calibration, Softness
from dim_ladder.calibrate.prior import UNKNOWN
from dim_ladder.calibrate.timing import timing
from dim_ladder.commands.calibrating import calibration_of
from dim_ladder.library import FASTENINGS, nearest_fastening
from dim_ladder.notation import is_leg
from dim_ladder.scale import Cut, Plan, solve
from dim_ladder.scale.cuts import fold_words
from dim_ladder.shelf import Document, read_document
from dim_ladder.shelf.sizes import SizeTable, size_named, tables_of
from dim_ladder.shelf.stash import read_order
from dim_ladder.stash import Order, OrderLine, Wanted
from dim_ladder.stash.plan import Tell
from dim_ladder.trace.ends import letter
from dim_ladder.words.phrases import listing

DEEPEST = 8  # orders within orders
MOST_LINES = 400
MOST_MM = 20_000.0


@dataclass(frozen=True, slots=True)
class _Line:
    line: OrderLine
    path: Path
    count: int
    tie: int
    risk: float | None


def read_wanted(
    path: Path, *, read: Callable[[Path], Document] = read_document, stop: Callable[[], bool] = lambda: False
) -> tuple[Order, tuple[Wanted, ...]]:
    """An order and what it takes. Raises InputError or WorldError, with the line of the order that is wrong."""
    order = read_order(path)
    return order, wanted_of(order, path, read=read, stop=stop)


def wanted_of(
    order: Order,
    path: Path,
    *,
    read: Callable[[Path], Document] = read_document,
    softness: Callable[[Path, Document], Softness] = lambda _path, _doc: UNKNOWN,
    stop: Callable[[], bool] = lambda: False,
    tell: Tell = lambda _part, _words: None,
) -> tuple[Wanted, ...]:
    """What the pieces of an order take. path : of the order, from where its weaves are named. read : how a weave is opened. softness :
    what other weaves say of the cord of one. tell : how far it is and what it is at."""
    lines = _lines(order, path, 1, (path.resolve(),), order.risk)
    known: dict[Path, tuple[Document, Calibration]] = {}
    out: list[Wanted] = []
    for n, entry in enumerate(lines, 1):
        if stop():
            break
        if not entry.tie:
            continue
        tell(
            (n - 1) / len(lines),
            f"solving {entry.line.weave.partition('.')[0].replace('-', ' ')} {entry.line.size}",
        )
        try:
            if entry.path not in known:
                doc = read(entry.path)
                found = calibration_of(doc, softness(entry.path, doc))
                if found is None:
                    raise InputError("nothing in it can be counted yet", "Record a unit first")
                known[entry.path] = doc, found
            out.append(_wanted(*known[entry.path], entry))
        except InputError as e:
            raise InputError(f"line {n} of the order ({entry.line.weave}): {e.message}", e.hint) from None
    return tuple(out)


def weaves_of(order: Order, path: Path) -> tuple[Path, ...]:
    """The weaves of which an order still wants something, each once. Raises InputError or WorldError."""
    lines = _lines(order, path, 1, (path.resolve(),), order.risk)
    return tuple(dict.fromkeys(entry.path for entry in lines if entry.tie))


def _lines(order: Order, path: Path, times: int, inside: tuple[Path, ...], risk: float | None) -> list[_Line]:
    out: list[_Line] = []
    for line in order.lines:
        if line.weave:
            rest = line.count - line.done
            out.append(_Line(line, path.parent / line.weave, line.to_cut * times, rest * times, risk))
        else:
            other = path.parent / line.order
            if other.resolve() in inside:
                names = " → ".join(p.name for p in (*inside, other.resolve()))
                raise InputError(
                    f"the order contains itself: {names}", f"Take “{line.order}” out of one of them"
                )
            if len(inside) >= DEEPEST:
                raise InputError("orders lie too deep in each other", f"At most {DEEPEST}")
            found = read_order(other)
            out += _lines(found, other, line.to_cut * times, (*inside, other.resolve()), risk or found.risk)
        if len(out) > MOST_LINES:
            raise InputError("the order has too many lines", f"At most {MOST_LINES}")
    return out


def plan_for(doc: Document, line: OrderLine, risk: float | None, tables: Sequence[SizeTable] = ()) -> Plan:
    """The plan of a line: the weave's own, with what the line says. tables : in which a size may have a name. Raises InputError."""
    update: dict[str, object] = {}
    named = size_named(tables, line.size)
    if named is not None:
        update |= {"size_mm": named[1].size_mm, "target": named[0].of, "chosen": doc.plan.locked}
    elif line.size:
        update |= {
            "size_mm": read_length(line.size, None, minimum=1, maximum=MOST_MM),
            "chosen": doc.plan.locked,
        }
    if line.target:
        update["target"] = line.target
    if line.ease:
        update["ease_mm"] = read_length(line.ease, None, maximum=2000)
    if line.fastening:
        if line.fastening not in FASTENINGS:
            raise InputError(f"there is no fastening “{line.fastening}”", nearest_fastening(line.fastening))
        update["fastening"] = line.fastening
    if risk is not None:
        update["risk"] = risk
    return doc.plan.model_copy(update=update)


def _ends_words(cut: Cut, order: tuple[str, ...]) -> str:
    """ "A and D: worker"."""
    roles: dict[str, list[str]] = {}
    for e in cut.ends:
        if e.end in order and not is_leg(e.end):
            roles.setdefault(e.role, []).append(letter(order.index(e.end)))
    return "; ".join(f"{listing(letters)}: {role}" for role, letters in roles.items())


def _wanted(doc: Document, calibration: Calibration, entry: _Line) -> Wanted:
    plan = plan_for(doc, entry.line, entry.risk, tables_of(entry.path.parent))
    piece = solve(doc.weave, calibration, plan)
    kinds = {c.name: (c.kind, c.colour.lower()) for c in doc.weave.cords}
    spread = timing(calibration.prior, doc.ties).piece(piece.counts)
    minutes = None
    if spread.median > 0:
        low, high = spread.interval(0.9)
        minutes = (spread.median, low, high)
    size = entry.line.name or format_length(plan.size_mm)
    return Wanted(
        doc.weave.name, size, entry.count, piece.cuts, tuple(kinds[c.cord] for c in piece.cuts),
        tuple(fold_words(c, piece.order, "metric") for c in piece.cuts),
        "" if piece.closing.of.shut else piece.closing.key, minutes, tuple(_ends_words(c, piece.order) for c in piece.cuts), entry.tie,
    )  # fmt: skip
