"""Every reader of the program with inputs that were good once: mutated by their structure, so that they come far in. A reader
answers or refuses in words; anything else is a fault."""

from __future__ import annotations

import json
import random
import re
import tempfile
from collections import Counter
from collections.abc import Callable
from copy import deepcopy
from pathlib import Path

from dim_ladder.base import DimLadderError
from dim_ladder.base.budget import TRACE_WORK, metered
from dim_ladder.base.lengths import read_length
from dim_ladder.calibrate.csvio import read_table
from dim_ladder.commands.calibrating import Cords, load_cords
from dim_ladder.commands.checks import check_section
from dim_ladder.commands.draft import Draft
from dim_ladder.commands.edits import AddItem, SetDraft, SetName, SetScript, read_edit
from dim_ladder.commands.hand import hand_text, read_hand
from dim_ladder.commands.recovery import edit_event, replayed, typed_edit
from dim_ladder.commands.tying import read_tying, start
from dim_ladder.instruments.protocol import Lines
from dim_ladder.notation import parse, parse_strict
from dim_ladder.publish.restore import embed, embedded_document
from dim_ladder.scale import Plan
from dim_ladder.shape.tighten import job_for
from dim_ladder.shelf import Document, document_text, read_document_text
from dim_ladder.shelf.journal import Event, Journal, read_journal, without_last
from dim_ladder.shelf.lock import who_holds
from dim_ladder.shelf.workshop import demo_texts
from dim_ladder.trace import trace
from helpers.ties import tie
from helpers.weaves import TERN

DIGITS = "9" * 5000
VALUES = (
    None, True, False, 0, -1, 1, 1e-300, 5e-324, 1e308, -0.0, 10**30, "", "x", "²", "٣", "\x00", "\u202e", "a" * 3000,
    "<b>x</b>", "=1+1", "../../etc", "/dev/zero", [], {}, [[]], {"a": {}}, ["x"] * 300, float("nan"), float("inf"),
)  # fmt: skip
RAW = (DIGITS, "1e999", "-" + DIGITS, "[" * 3000, '{"a":' * 2000, "NaN", "1.5e-400", '"\\ud800"', '"\\u0000"')
NUMBERS = ("0", "-1", "1", "2", "3", "7", "99", "10000", "1200", "9" * 30, DIGITS, "1.5", "²", "٣")
WORDS = (
    "over", "under", "up", "down", "own", "round", "bight", "follow", "leave", "bead", "to", "gap", "at", "each", "behind",
    "turns", "mirror", "flip", "turn", "rotate", "span", "add", "drop", "raise", "split", "repeat", "fit", "pairs", "same as",
    "layer over", "stitched on", "on former", "leads", "bights", "code", "left", "right", "snug", "tide.a", "buoy.b", "(", ")",
    "|", ":", ",", "..", "+", "@", '"', "--", "half-right", "section", "knot", "hang", "body", "finish", "mm", "every other",
)  # fmt: skip


def mutated_json(text: str, rng: random.Random) -> str:
    """One to three nodes of a JSON text changed: other values and types, gone, doubled, or written as no JSON writer would."""
    data = json.loads(text)
    raw: dict[str, str] = {}
    for _ in range(rng.randint(1, 3)):
        nodes = list(_nodes(data))
        if not nodes:
            break
        holder, key = rng.choice(nodes)
        what = rng.random()
        if what < 0.5:
            holder[key] = deepcopy(rng.choice(VALUES))
        elif what < 0.65:
            mark = f"@raw{len(raw)}@"
            raw[json.dumps(mark)] = rng.choice(RAW)
            holder[key] = mark
        elif what < 0.75:
            del holder[key]
        elif isinstance(holder, dict):
            holder[rng.choice(["x", "", key + "x", "version", "__class__"])] = deepcopy(holder[key])
        elif isinstance(holder, list):
            holder[key:key] = [deepcopy(holder[key])] * rng.choice([1, 2, 300])
        value = holder.get(key) if isinstance(holder, dict) else None
        if isinstance(value, str) and len(value) > 20 and rng.random() < 0.5:
            holder[key] = mutated_script(value, rng)
    out = json.dumps(data, ensure_ascii=rng.random() < 0.5)
    for mark, text_ in raw.items():
        out = out.replace(mark, text_)
    return out


def _nodes(value: object):
    if isinstance(value, dict | list):
        for key in list(value) if isinstance(value, dict) else range(len(value)):
            yield value, key
            yield from _nodes(value[key])


def mutated_script(text: str, rng: random.Random) -> str:
    """Tokens and lines of a script changed for others that could stand there."""
    for _ in range(rng.randint(1, 5)):
        lines = text.split("\n")
        k = rng.randrange(len(lines))
        what = rng.random()
        if what < 0.15:
            lines[k:k] = [lines[rng.randrange(len(lines))]] * rng.choice([1, 1, 2, 40])
        elif what < 0.25:
            del lines[k]
        elif what < 0.6:
            parts = re.split(r"(\s+|[(),:|])", lines[k])
            j = rng.randrange(len(parts))
            parts[j] = rng.choice(NUMBERS if parts[j][:1].isdecimal() or rng.random() < 0.3 else WORDS)
            lines[k] = "".join(parts)
        elif what < 0.8:
            lines[k] = f"{lines[k]} {rng.choice(WORDS)} {rng.choice(NUMBERS)}"
        else:
            lines[k] = (
                f"  {rng.choice(NUMBERS[:6])}: {rng.choice(WORDS[:8])} {rng.choice(NUMBERS[:6])}, up own turns {rng.choice(NUMBERS[:8])}"
            )
        text = "\n".join(lines)
    return text


def mutated_lines(text: str, rng: random.Random, mutate: Callable[[str, random.Random], str]) -> str:
    """Lines of a journal changed, torn, doubled, put elsewhere."""
    lines = text.split("\n")
    for _ in range(rng.randint(1, 3)):
        k = rng.randrange(len(lines))
        what = rng.random()
        if what < 0.6 and lines[k]:
            try:
                lines[k] = mutate(lines[k], rng)
            except (ValueError, RecursionError):
                lines[k] = lines[k][: rng.randrange(len(lines[k]))]
        elif what < 0.7:
            lines[k] = lines[k][: rng.randint(0, len(lines[k]))]
        elif what < 0.8:
            lines[k:k] = [lines[rng.randrange(len(lines))]] * rng.choice([1, 50])
        elif what < 0.9:
            del lines[k]
        lines = lines or [""]
    return "\n".join(lines)


def mutated_table(text: str, rng: random.Random) -> str:
    """Cells of a table changed, doubled, cut by commas."""
    rows = [line.split(",") for line in text.split("\n")]
    for _ in range(rng.randint(1, 4)):
        row = rows[rng.randrange(len(rows))]
        k = rng.randrange(len(row))
        what = rng.random()
        if what < 0.6:
            row[k] = rng.choice(
                [
                    *NUMBERS,
                    "82,5 cm",
                    "1,234 mm",
                    "31/2 in",
                    "bar=²",
                    "nan",
                    "inf",
                    "'",
                    '"',
                    "=1",
                    "x" * 300,
                    ";",
                ]
            )
        elif what < 0.8:
            row[k:k] = [row[k]]
        else:
            del row[k]
        row.extend([""] if not row else [])
    return "\n".join(",".join(r) for r in rows)


def mutated_text(text: str, rng: random.Random) -> str:
    for _ in range(rng.randint(1, 4)):
        i, j = sorted((rng.randint(0, len(text)), rng.randint(0, len(text))))
        text = rng.choice(
            [
                text[:i] + text[j:],
                text[:i] + text[i:j] * 2 + text[j:],
                text[:i] + rng.choice((*NUMBERS, *WORDS[-20:])) + text[i:],
            ]
        )
    return text


def mutated_page(text: str, rng: random.Random) -> str:
    """The page as text, or the document in it."""
    if rng.random() < 0.4:
        return mutated_text(text, rng)
    return text.replace(embed(TEXT), embed(mutated_json(TEXT, rng).encode("utf-8", "replace").decode()))


DOC = Document(parse_strict(TERN), (tie("T1"), tie("T2", 4, note="ö")), Plan(risk=0.01))
TEXT = document_text(DOC)


def _script(text: str) -> None:
    parsed = parse(text)
    if parsed.problems:
        raise DimLadderError(str(parsed.problems[0]))
    with metered(4 * TRACE_WORK):
        if trace(parsed.weave, parsed=parsed).problems:
            raise DimLadderError("it cannot be traced")
        for s in parsed.weave.sections[:4]:
            check_section(parsed.weave, s.name)
            try:
                job_for(parsed.weave, s.name)
            except DimLadderError:
                continue


def _journal_text() -> str:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "j"
        journal = Journal(path, TEXT, of="/w/tern.dimladder")
        for edit in (
            SetName(name="A"),
            SetScript(text=TERN + "-- more\n"),
            AddItem(section="bar", text="1: over 2"),
            SetDraft(text="weave"),
        ):
            journal.append(edit_event(edit))
        for event in (
            Event("undo"), Event("redo"), Event("typed", TERN + "-- m"), Event("form", "{}", "tie"), Event("saved", "x"),
            Event("opening"), Event("typed", "weave"), Event("typed", TERN),
        ):  # fmt: skip
            journal.append(event)
        journal.close()
        return path.read_text("utf-8")


def _read_journal(text: str) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "j"
        path.write_bytes(text.encode("utf-8", "surrogatepass"))
        kept = read_journal(path)
    if kept is None:
        raise DimLadderError("no journal")
    found = replayed(kept, kept.base)
    replayed(without_last(kept), None)
    if found is None:
        raise DimLadderError("it does not fit")
    read_document_text(document_text(found.history.document))


def _file(read: Callable[[Path], object]) -> Callable[[str], None]:
    def run(text: str) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "f"
            path.write_bytes(text.encode("utf-8", "surrogatepass"))
            read(path)

    return run


def _cords(path: Path) -> None:
    cords = load_cords(path)
    if cords == Cords():
        raise DimLadderError("nothing is known")
    cords.others("", ())


def _some(value: object) -> None:
    if value is None:
        raise DimLadderError("it cannot be read")


def _lines(text: str) -> None:
    lines = Lines()
    lines.feed(text.encode("utf-8", "surrogatepass"))
    if lines.glitches:
        raise DimLadderError("glitches")


CORDS_TEXT = json.dumps(
    {"weaves": {"/w/a": {"kinds": {"nylon-4mm": {"mean": 0.1, "sd": 0.05}}, "ties": ["abc"]}, "/w/b": {}}}
)
HAND = hand_text(Draft("tide.a", ("tide.a", "tide.b"), 1).cross(True, ("tide.a", "tide.b")), 0, None)
PAGE = f'<html><script type="application/x-dim-ladder-document">{embed(TEXT)}</script></html>'
TABLE = (
    "tie,date,units,length,minutes,ends,cut,left,grams,note,cords\n"
    "A,2026-01-01,bar=6,12 cm,45,buoy.a,1 m,20 cm,,fine,tide=nylon-4mm\nB,2026-01-02,bar=4,8 cm,30,tide.a,1 m,,12.5,,\n"
)

# name -> (a good input, how it is mutated, the reader)
READERS: dict[str, tuple[str, Callable[[str, random.Random], str], Callable[[str], object]]] = {
    "script": (TERN, mutated_script, _script),
    "script of bars": (
        read_document_text(demo_texts()["sluice-hanging.dimladder"]).script, mutated_script, _script,
    ),
    "document": (TEXT, mutated_json, read_document_text),
    "journal": (_journal_text(), lambda t, r: mutated_lines(t, r, mutated_json), _read_journal),
    "edit": (SetName(name="A").model_dump_json(), mutated_json, read_edit),
    "typing": (TERN, mutated_script, typed_edit),
    "table of ties": (TABLE, mutated_table, read_table),
    "what is known of cords": (CORDS_TEXT, mutated_json, _file(_cords)),
    "place in tying": (
        start(DOC.weave, {"bar": 3}, "2026-01-01").go(4, 60.0).model_dump_json(), mutated_json, lambda t: _some(read_tying(t)),
    ),
    "end in hand": (HAND, mutated_json, lambda t: _some(read_hand(t))),
    "lock": ('{"user": "a", "machine": "b", "process": 1, "since": "2026-01-01 10:00"}', mutated_json, _file(who_holds)),
    "published page": (PAGE, mutated_page, lambda t: read_document_text(embedded_document([t.encode("utf-8", "surrogatepass")]))),
    "length": ("5 ft 3 1/2 in + 12,5 cm", mutated_text, read_length),
    "instrument": ("W1: +6.20 g S\n+12.5 mm U\n", mutated_text, _lines),
}  # fmt: skip


def fuzz(reader: str, count: int, seed: int = 0) -> Counter[str]:
    """read, refused: how many. Raises whatever a reader should not: with the input that did it."""
    good, mutate, read = READERS[reader]
    out: Counter[str] = Counter()
    for n in range(count):
        text = mutate(good, random.Random(f"{reader} {seed} {n}"))
        try:
            read(text)
            out["read"] += 1
        except DimLadderError as e:
            out["refused" if str(e) else "refused without a word"] += 1
        except Exception as e:
            raise AssertionError(f"{reader} {n}: {type(e).__name__} of {text[:2000]!r}") from e
    return out
