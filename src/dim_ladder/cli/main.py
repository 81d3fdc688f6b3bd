"""The command line: a stable contract for scripts. Every number's unit is in its name or in the guide."""

from __future__ import annotations

import json
import sys
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Annotated, Any

import typer

from dim_ladder import __version__
from dim_ladder.base import DimLadderError, InputError, Problem, WorldError, read_length
from dim_ladder.calibrate import ties_from_csv, ties_to_csv
from dim_ladder.cli.calibrating import calibration_answer, fitted, softness_from
from dim_ladder.cli.instrument import run_instrument
from dim_ladder.cli.pictures import KINDS, drawn
from dim_ladder.cli.shapes import shape_answer, shape_batch
from dim_ladder.commands.checks import check_section
from dim_ladder.commands.sheets import write_sheet
from dim_ladder.notation import Weave, parse
from dim_ladder.publish import embedded_document
from dim_ladder.publish.choices import SizeRow
from dim_ladder.scale import Plan, solve
from dim_ladder.scale.cuts import given_cut, given_words, thirds_words
from dim_ladder.shelf import (
    read_document,
    read_document_text,
    save_document,
    write_atomic,
)
from dim_ladder.shelf.files import read_text
from dim_ladder.trace import Trace, close, colour_cycle, permutation, trace
from dim_ladder.trace.former import FormerWork, former_sections, former_work
from dim_ladder.words.former import called_out
from dim_ladder.words.gather import gathered
from dim_ladder.words.sentences import hang_sentence, words_for

app = typer.Typer(add_completion=False, no_args_is_help=True, help="Dim Ladder without its window.")
ties_app = typer.Typer(no_args_is_help=True, help="Test ties as CSV.")
app.add_typer(ties_app, name="ties")

File = Annotated[Path, typer.Argument(help="A script (.weave) or a document.", show_default=False)]
Json = Annotated[bool, typer.Option("--json", help="Answer with one JSON object.")]


def run(args: Sequence[str]) -> int:
    """Run one command line. Status 0: done; 2: the input or the world is wrong, said on standard error."""
    if list(args) == ["--version"]:
        print(__version__)
        return 0
    try:
        result = app(args=list(args), prog_name="dim-ladder", standalone_mode=False)
    except DimLadderError as e:
        _report(e, "--json" in args)
        return 2
    except Exception as e:
        show = getattr(e, "format_message", None)  # typer's usage errors
        if show is None:
            raise
        _report(InputError(show(), "See dim-ladder --help"), "--json" in args)
        return 2
    return result if isinstance(result, int) else 0


def _report(e: DimLadderError, as_json: bool) -> None:
    problems = e.problems if isinstance(e, InputError) else ()
    if as_json:
        body = {"error": e.message, "hint": e.hint, "problems": [p.as_json() for p in problems]}
        print(json.dumps(body, ensure_ascii=False), file=sys.stderr)
        return
    if problems:
        for p in problems:
            print(p, file=sys.stderr)
    else:
        print(e, file=sys.stderr)


def _answer(body: dict[str, Any], as_json: bool, text: str = "") -> None:
    if as_json:
        print(json.dumps(body, ensure_ascii=False))
    else:
        print(text or "\n".join(f"{k}: {v}" for k, v in body.items()))


def _traced(weave: Weave, **options: Any) -> Trace:
    t = trace(weave, **options)
    if t.problems:
        raise InputError.of(t.problems)
    return t


def _problems(path: Path) -> tuple[Weave | None, list[Problem]]:
    """Everything wrong with a script or a document's script, traced as far as it goes."""
    if path.suffix == ".weave":
        parsed = parse(read_text(path))
        if parsed.problems:
            return None, list(parsed.problems)
        return parsed.weave, list(trace(parsed.weave, parsed=parsed).problems)
    try:
        doc = read_document(path)
    except InputError as e:
        return None, list(e.problems)
    return doc.weave, list(trace(doc.weave).problems)


@app.command()
def check(file: File, as_json: Json = False) -> int:
    """Say what is wrong with a weave, and whether it lies flat."""
    weave, problems = _problems(file)
    notes = []
    if weave is not None and not problems:
        notes = [
            (s.name, kind, text)
            for s in weave.sections
            if s.kind == "body" or s.former is not None
            for kind, text in check_section(weave, s.name).notes
        ]
    body = {
        "ok": not problems,
        "problems": [p.as_json() for p in problems],
        "notes": [{"section": s, "kind": k, "message": m} for s, k, m in notes],
    }
    text = "\n".join([*map(str, problems), *(f"{s}: {m}" for s, _, m in notes)]) or "nothing to check"
    _answer(body, as_json, text if problems else f"ok\n{text}")
    return 0 if not problems else 1


@app.command("trace")
def trace_command(
    file: File,
    section: Annotated[str | None, typer.Option(help="Trace this section alone.")] = None,
    units: Annotated[
        int | None, typer.Option(min=1, max=100_000, help="How often to work what fits to size.")
    ] = None,
    keep: Annotated[str, typer.Option(help="Places at the top whose ends are kept, such as 1,4.")] = "",
    closing: Annotated[str, typer.Option("--close", help="braid or caps.")] = "braid",
    as_json: Json = False,
) -> int:
    """The exact diagram: orders, permutation, PD code [incoming under, then counter-clockwise]."""
    doc = read_document(file)
    round_work = next((s for s in former_sections(doc.weave) if s.name == section), None)
    if round_work is not None:
        _answer(_former_body(former_work(round_work)), as_json)
        return 0
    t = _traced(doc.weave, section=section, units=units)
    places: list[int] | None = None
    if keep:
        try:
            places = [int(k) for k in keep.split(",")]
        except ValueError:
            raise InputError(f"“{keep}” does not name places", "Write it as --keep 1,4") from None
    closed = close(t, places, closing)
    body = {
        "ends": list(t.names_shown()),
        "start": [t.ends[e] for e in t.start],
        "permutation": list(permutation(t)) if t.settled else None,
        "colour_cycle": colour_cycle(t) if t.settled else None,
        "crossings": len(t.crossings),
        "pd": [list(c) for c in closed.pd],
        "components": closed.components,
    }
    _answer(body, as_json)
    return 0


def _former_body(work: FormerWork) -> dict[str, Any]:
    closed = work.closed()
    return {
        "leads": work.leads,
        "bights": work.bights,
        "passes": work.passes,
        "strands": work.strands,
        "crossings": work.crossings,
        "half_cycles": [
            {"strand": r.strand + 1, "up": r.up, "over": [m.over for m in work.calls(r.number)]}
            for r in work.half_cycles()
        ],
        "pd": [list(c) for c in closed.pd],
        "components": closed.components,
    }


@app.command()
def words(
    file: File,
    vocabulary: Annotated[str, typer.Option(help="plain, paracord or macrame.")] = "plain",
    lie: Annotated[str, typer.Option(help="How the work lies: hanging or table.")] = "hanging",
    gather: Annotated[bool, typer.Option("--gather", help="Say repeated steps once.")] = False,
    as_json: Json = False,
) -> int:
    """Every step as a sentence."""
    weave = read_document(file).weave
    t = _traced(weave)
    if gather:
        said = gathered(t, vocabulary, lie)
        body = {
            "hang": hang_sentence(t, vocabulary),
            "steps": [{"number": n.number, "heading": n.heading, "sentence": n.sentence} for n in said],
        }
        text = [f"{n.number:3}. " + (f"{n.heading}: " if n.heading else "") + n.sentence for n in said]
        _answer(body, as_json, "\n".join([str(body["hang"]), *text]))
        return 0
    texts = words_for(t, vocabulary, lie)
    body = {
        "hang": hang_sentence(t, vocabulary),
        "steps": [{"section": w.section, "heading": w.heading, "sentence": w.sentence} for w in texts],
    }
    lines = [body["hang"]]
    section = None
    for i, w in enumerate(texts, 1):
        if w.section != section:
            section = w.section
            lines.append(f"\n{section}")
        lines.append(f"{i:3}. " + (f"{w.heading}: " if w.heading else "") + w.sentence)
    for s in former_sections(weave):
        calls = [c.text for c in called_out(s)]
        lines.append(f"\n{s.name}")
        lines += [f"{i:3}. {call}" for i, call in enumerate(calls, 1)]
        steps: Any = body["steps"]
        steps += [{"section": s.name, "heading": "", "sentence": call} for call in calls]
    _answer(body, as_json, "\n".join(map(str, lines)))
    return 0


@app.command()
def draw(
    file: File,
    what: Annotated[str, typer.Option(help=KINDS + ".")] = "steps",
    out: Annotated[Path, typer.Option(help="Folder for the pictures.")] = Path(),
    frames: Annotated[
        int, typer.Option(min=0, max=120, help="With motion: so many still pictures a step.")
    ] = 0,
    png: Annotated[bool, typer.Option("--png", help="PNG instead of SVG.")] = False,
    as_json: Json = False,
) -> int:
    """Pictures as SVG files, or as PNG."""
    doc = read_document(file)
    made = drawn(doc, _traced(doc.weave), what, frames, png=png)
    folder = _folder(out)
    for name, data in made.items():
        write_atomic(folder / name, data)
    _answer({"files": [str(folder / n) for n in made]}, as_json, "\n".join(str(folder / n) for n in made))
    return 0


def _folder(path: Path) -> Path:
    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as e:
        raise WorldError(
            f"Cannot make the folder {path}: {e.strerror}", "Choose a folder that is yours"
        ) from None
    return path


@app.command()
def shape(
    files: Annotated[list[Path], typer.Argument(metavar="FILE...", help="Scripts, documents or folders of them.")],
    section: Annotated[str | None, typer.Option(help="A section; the first body by default.")] = None,
    former: Annotated[float, typer.Option(help="Of a section on a round former: its diameter in mm.")] = 0.0,
    jobs: Annotated[int, typer.Option(help="How many at a time, of more than one file; -1: all cores.")] = 1,
    as_json: Json = False,
) -> int:  # fmt: skip
    """Size in cord diameters, of the section pulled tight. Where it cannot be (it does not repeat as it is), a rough rule
    from the traced path, said so by "converged": false and "why". Of several files or a folder: every body of each."""
    if len(files) == 1 and not files[0].is_dir():
        _answer(shape_answer(read_document(files[0]).weave, section, former), as_json)
        return 0
    answers, failed = shape_batch(files, jobs, lambda text: print(text, file=sys.stderr))
    lines = [
        f"{a['file']}  {a['section']}  "
        + (a["why"] or f"pitch {a['pitch']:.2f}  width {a['width']:.2f}  twist {a['twist_deg']:.0f}")
        for a in answers
    ]
    _answer({"shapes": answers}, as_json, "\n".join(lines))
    return 2 if failed else 0


@ties_app.command("import")
def ties_import(
    file: File, table: Annotated[Path, typer.Argument(metavar="CSV")], as_json: Json = False
) -> int:
    """Add test ties from a CSV table to a document; a tie of the same name is replaced."""
    if file.suffix == ".weave":
        raise InputError(
            "a script holds no ties", "Import into a document; open the script and save it as one"
        )
    doc = read_document(file)
    new = ties_from_csv(read_text(table))
    names = {t.id for t in new}
    kept = tuple(t for t in doc.ties if t.id not in names)
    save_document(replace(doc, ties=(*kept, *new)), file)
    body = {"imported": len(new), "ties": len(kept) + len(new)}
    _answer(body, as_json, f"{len(new)} ties imported, {body['ties']} in all")
    return 0


@ties_app.command("export")
def ties_export(file: File) -> int:
    """All test ties as CSV on standard output."""
    print(ties_to_csv(read_document(file).ties), end="")
    return 0


@app.command("calibrate")
def calibrate_command(
    file: File,
    like: Annotated[
        list[Path] | None, typer.Option(help="Other weaves in the same cord, whose ties say how soft it is.")
    ] = None,
    as_json: Json = False,
) -> int:
    """Cord per unit and per length for every role, from the ties there are; what does not fit, and what to tie next."""
    body, lines = calibration_answer(read_document(file), softness_from(like or []))
    _answer(body, as_json, "\n".join(lines))
    return 0


@app.command()
def scale(
    file: File,
    girth: Annotated[str | None, typer.Option(help="Girth of the body, such as 17cm.")] = None,
    length: Annotated[str | None, typer.Option(help="Length of the piece, such as 40cm.")] = None,
    risk: Annotated[float | None, typer.Option(help="Accepted chance that an end runs short.")] = None,
    fastening: Annotated[str | None, typer.Option(help="Its fastening.")] = None,
    cut: Annotated[list[str] | None, typer.Option(help="What another cut would do, as CORD=LENGTH.")] = None,
    as_json: Json = False,
) -> int:
    """Whole units and cuts for a size."""
    doc = read_document(file)
    c = fitted(doc)
    piece = solve(doc.weave, c, _plan(doc.plan, girth, length, risk, fastening))
    asked = [given_cut(doc.weave, c, piece.counts, *_named_cut(text)) for text in cut or ()]
    body = {
        "units": piece.counts,
        "length_mm": piece.option.length_mm,
        "error_mm": piece.option.error_mm,
        "wanted_mm": piece.wanted_mm,
        "why": piece.why,
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
                    e.end: {"need_mm": e.need_mm, "sd": e.sd, "chance_short": e.chance_short} for e in c.ends
                },
            }
            for c in piece.cuts
        ],
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
    lines += [
        f"{c.cord}: cut {c.cut_mm:.0f} mm, fold "
        + (
            thirds_words(c, piece.order, "metric")
            if c.folds_mm
            else f"{c.fold_offset_mm:.0f} mm off the middle"
        )
        for c in piece.cuts
    ]
    lines += [given_words(g, piece.order, "metric") for g in asked]
    _answer(body, as_json, "\n".join(lines))
    return 0


def _named_cut(text: str) -> tuple[str, float]:
    name, eq, length = text.partition("=")
    if not eq:
        raise InputError(f"“{text}” is not a cord and a length", "Write it as buoy=1.9m")
    return name.strip(), read_length(length, minimum=1, maximum=1_000_000)


def _plan(
    plan: Plan, girth: str | None, length: str | None, risk: float | None, fastening: str | None
) -> Plan:
    if girth and length:
        raise InputError("a piece has either a girth or a length", "Give one of the two")
    changes: dict[str, object] = {}
    if girth:
        changes = {"target": "girth", "size_mm": read_length(girth, minimum=1, maximum=20_000), "chosen": {}}
    if length:
        changes = {
            "target": "length",
            "size_mm": read_length(length, minimum=1, maximum=20_000),
            "chosen": {},
        }
    if risk is not None:
        if not 0 < risk < 0.5:
            raise InputError(
                f"a risk of {risk} is out of bounds", "Between 0 and 0.5, such as 0.02 for 1 in 50"
            )
        changes["risk"] = risk
    if fastening is not None:
        changes["fastening"] = fastening
    return plan.model_copy(update=changes)


@app.command()
def publish(
    file: File,
    out: Annotated[Path, typer.Option(help="Folder for the sheet.")],
    formats: Annotated[str, typer.Option(help="Of html,pdf,md,svg,png,csv.")] = "html,pdf",
    size: Annotated[list[str] | None, typer.Option(help="A size as NAME=LENGTH; may be given again.")] = None,
    paper: Annotated[str, typer.Option(help="A4 or Letter.")] = "A4",
    as_json: Json = False,
) -> int:
    """The instruction sheet."""
    doc = read_document(file)
    wanted = [f.strip() for f in formats.split(",") if f.strip()]
    if paper.lower() not in ("a4", "letter"):
        raise InputError(f"there is no paper “{paper}”", "A4 or Letter")
    if size:
        doc = replace(doc, sheet=doc.sheet.model_copy(update={"sizes": tuple(_size(s) for s in size)}))
    files = write_sheet(doc, _folder(out), wanted, paper)
    _answer({"files": [str(f) for f in files]}, as_json, "\n".join(map(str, files)))
    return 0


def _size(text: str) -> SizeRow:
    name, eq, length = text.partition("=")
    if not eq:
        name, length = text, text
    return SizeRow(name=name.strip()[:40] or "size", size_mm=read_length(length, minimum=1, maximum=20_000))


@app.command()
def instrument(
    kind: Annotated[str, typer.Argument(help="wheel, calliper or scale.")],
    seed: Annotated[int, typer.Option(help="Of its noise.")] = 1,
    glitch: Annotated[float, typer.Option(min=0.0, max=1.0, help="How often it says nonsense.")] = 0.03,
    as_json: Json = False,
) -> int:
    """A simulated instrument: says its port, and speaks there until it is stopped. Lines on standard input: a length or mass
    that is put on it, zero, unit, unplug."""
    run_instrument(kind, seed, glitch, lambda port: _answer({"port": port}, as_json, port))
    return 0


@app.command()
def restore(
    sheet: Annotated[Path, typer.Argument(help="A published HTML sheet.")],
    out: Annotated[Path, typer.Option(help="Where the document goes.")],
    as_json: Json = False,
) -> int:
    """The weave out of a published sheet."""
    doc = read_document_text(embedded_document(read_text(sheet)), sheet.name)
    save_document(doc, out)
    _answer({"file": str(out), "name": doc.weave.name}, as_json, f"{doc.weave.name}: {out}")
    return 0
