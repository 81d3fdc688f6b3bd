"""The command line: a stable contract for scripts. Every number's unit is in its name or in the guide."""

from __future__ import annotations

import os
import sys
from collections.abc import Sequence
from datetime import date
from pathlib import Path
from typing import Annotated, Any

import typer

from dim_ladder import __version__
from dim_ladder.base import DimLadderError, InputError, Problem, WorldError, read_length
from dim_ladder.base.budget import COMMAND_WORK, NO_END, metered
from dim_ladder.base.crash import STATUS, crash_report, crash_words
from dim_ladder.base.disk import write_whole
from dim_ladder.calibrate import ties_to_csv
from dim_ladder.calibrate.csvio import read_table
from dim_ladder.cli.answers import answer, complain
from dim_ladder.cli.calibrating import calibration_answer, fitted, softness_from
from dim_ladder.cli.importing import import_ties
from dim_ladder.cli.instrument import run_instrument
from dim_ladder.cli.opening import opened
from dim_ladder.cli.pictures import KINDS, drawn
from dim_ladder.cli.planning import plan_answer, shapes_ahead
from dim_ladder.cli.shapes import shape_answer, shape_batch
from dim_ladder.cli.sizes import named_cut, of_size, piece_answer, sized
from dim_ladder.commands.checks import check_section
from dim_ladder.commands.ordering import read_wanted
from dim_ladder.commands.sheets import read_sheet, write_sheet
from dim_ladder.notation import Weave, parse
from dim_ladder.scale import solve
from dim_ladder.scale.cuts import given_cut
from dim_ladder.scale.girth import for_size
from dim_ladder.scale.reach import largest_size, more_words, one_more, reach_words
from dim_ladder.scale.stretch import free_spans, span_words
from dim_ladder.shelf import (
    SUFFIX,
    save_document,
)
from dim_ladder.shelf.files import read_script
from dim_ladder.shelf.lock import held
from dim_ladder.shelf.stash import book as book_both
from dim_ladder.shelf.stash import read_stash
from dim_ladder.stash import booked, plan_order
from dim_ladder.stash.progress import cut_now, to_cut
from dim_ladder.trace import Trace, close, colour_cycle, permutation, trace
from dim_ladder.trace.expand import least_units
from dim_ladder.trace.former import FormerWork, former_sections, former_work
from dim_ladder.trace.unmade import unmade
from dim_ladder.words.former import called_out
from dim_ladder.words.gather import gathered
from dim_ladder.words.sentences import hang_sentence, words_for
from dim_ladder.words.units import after_the_first

app = typer.Typer(add_completion=False, no_args_is_help=True, help="Dim Ladder without its window.")
ties_app = typer.Typer(no_args_is_help=True, help="Test ties as CSV.")
app.add_typer(ties_app, name="ties")

File = Annotated[Path, typer.Argument(help="A script (.weave) or a document.", show_default=False)]
Json = Annotated[bool, typer.Option("--json", help="Answer with one JSON object.")]


def run(args: Sequence[str]) -> int:
    """Run one command line. Status 0: done; 2: the input or the world is wrong, said on standard error; 70: a fault of
    ours, with a report."""
    if list(args) == ["--version"]:
        print(__version__)
        return 0
    try:
        most = NO_END if args and args[0] in ("instrument", "shape") else COMMAND_WORK
        with metered(most, what="This"):
            result = app(args=list(args), prog_name="dim-ladder", standalone_mode=False)
    except DimLadderError as e:
        complain(e, "--json" in args)
        return 2
    except Exception as e:
        show = getattr(e, "format_message", None)  # typer's usage errors
        if show is not None:
            complain(InputError(show(), "See dim-ladder --help"), "--json" in args)
            return 2
        told = crash_words(e, crash_report(e, f"dim-ladder {args[0] if args else ''}"))
        complain(DimLadderError(*told), "--json" in args)
        return STATUS
    return result if isinstance(result, int) else 0


def _traced(weave: Weave, **options: Any) -> Trace:
    t = trace(weave, **options)
    if t.problems:
        raise InputError.of(t.problems)
    return t


def _problems(path: Path) -> tuple[Weave | None, list[Problem]]:
    """Everything wrong with a script or a document's script, traced as far as it goes."""
    if path.suffix == ".weave":
        parsed = parse(read_script(path))
        if parsed.problems:
            return None, list(parsed.problems)
        return parsed.weave, list(unmade(parsed.weave, parsed))
    try:
        doc = opened(path)
    except InputError as e:
        return None, list(e.problems)
    return doc.weave, list(unmade(doc.weave))


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
            for kind, text in check_section(weave, s.name, wait=True).notes
        ]
    body = {
        "ok": not problems,
        "problems": [p.as_json() for p in problems],
        "notes": [{"section": s, "kind": k, "message": m} for s, k, m in notes],
    }
    text = "\n".join([*map(str, problems), *(f"{s}: {m}" for s, _, m in notes)]) or "nothing to check"
    answer(body, as_json, text if problems else f"ok\n{text}")
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
    doc = opened(file)
    round_work = next((s for s in former_sections(doc.weave) if s.name == section), None)
    if round_work is not None:
        answer(_former_body(former_work(round_work)), as_json)
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
    gone = "ends come or go, or hang anew: what hangs at the end is not what hung at the start"
    answer(body, as_json, missing={"permutation": gone, "colour_cycle": gone})
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
    weave = opened(file).weave
    # Every unit of a multiple is the same; what comes after it hangs as after all of them.
    least = least_units(weave)
    t = _traced(weave, counts=least or None)
    if gather:
        said = gathered(t, vocabulary, lie)
        body: dict[str, Any] = {
            "hang": hang_sentence(t, vocabulary),
            "steps": [{"number": n.number, "heading": n.heading, "sentence": n.sentence} for n in said],
        }
        text = [f"{n.number:3}. " + (f"{n.heading}: " if n.heading else "") + n.sentence for n in said]
        answer(body, as_json, "\n".join([str(body["hang"]), *text]))
        return 0
    texts = [w for w in words_for(t, vocabulary, lie) if not w.unit or w.section not in least]
    body = {
        "hang": hang_sentence(t, vocabulary),
        "steps": [{"section": w.section, "heading": w.heading, "sentence": w.sentence} for w in texts],
    }
    later = {
        s.name: list(found)
        for k, s in enumerate(weave.sections)
        if s.former is None
        and s.count.kind != "repeat"
        and (found := after_the_first(weave, k, least, vocabulary, lie))
    }
    body["units"] = later
    lines = [body["hang"]]
    section = None
    for i, w in enumerate(texts, 1):
        if w.section != section:
            lines += [f"     {text}" for text in later.get(section or "", ())]
            section = w.section
            lines.append(f"\n{section}")
        lines.append(f"{i:3}. " + (f"{w.heading}: " if w.heading else "") + w.sentence)
    lines += [f"     {text}" for text in later.get(section or "", ())]
    for s in former_sections(weave):
        calls = [c.text for c in called_out(s)]
        lines.append(f"\n{s.name}")
        lines += [f"{i:3}. {call}" for i, call in enumerate(calls, 1)]
        steps = body["steps"]
        steps += [{"section": s.name, "heading": "", "sentence": call} for call in calls]
    answer(body, as_json, "\n".join(map(str, lines)))
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
    section: Annotated[str | None, typer.Option(help="Of this section alone.")] = None,
    as_json: Json = False,
) -> int:
    """Pictures as SVG files, or as PNG. Faces are those of every section that can be pulled tight, starts and finishes too."""
    doc = opened(file)
    made, left_out = drawn(doc, _traced(doc.weave), what, frames, png=png, section=section)
    folder = _folder(out)
    for name, data in made.items():
        write_whole(folder / name, data)
    for why in left_out:
        print(f"left out: {why}", file=sys.stderr)
    body = {"files": [str(folder / n) for n in made], "left_out": left_out}
    answer(body, as_json, "\n".join(str(folder / n) for n in made))
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
    former: Annotated[str | None, typer.Option(help="Of a section on a round former: its diameter, such as 57mm; by default that of the size that is planned.")] = None,
    jobs: Annotated[int, typer.Option(help="How many at a time, of more than one file; -1: all cores.")] = 1,
    as_json: Json = False,
) -> int:  # fmt: skip
    """Size in cord diameters, of the section pulled tight. Where it cannot be (it does not repeat as it is), a rough rule
    from the traced path, said so by "converged": false and "why". Of several files or a folder: every body of each."""
    if len(files) == 1 and not files[0].is_dir():
        document = opened(files[0])
        across = read_length(former, None, maximum=2000) if former else None
        answer(shape_answer(document.weave, section, document.plan, across), as_json)
        return 0
    answers, failed = shape_batch(files, jobs, lambda text: print(text, file=sys.stderr))
    lines = [
        f"{a['file']}  {a['section']}  "
        + (a["why"] or f"pitch {a['pitch']:.2f}  width {a['width']:.2f}  twist {a['twist_deg']:.0f}")
        for a in answers
    ]
    answer({"shapes": answers}, as_json, "\n".join(lines))
    return 2 if failed else 0


Out = Annotated[Path | None, typer.Option(help="Where the document goes; must not be there yet.")]


@app.command()
def document(file: File, out: Out = None, as_json: Json = False) -> int:
    """Make a document of a script: steps as they are, with room for ties, sizes and the sheet."""
    path = _new_document(file, out)
    doc = opened(file)
    save_document(doc, path)
    answer({"file": str(path), "name": doc.weave.name}, as_json, f"{doc.weave.name}: {path}")
    return 0


def _new_document(file: Path, out: Path | None) -> Path:
    """Where the document of a script goes: beside it under its name, unless told otherwise; never over another."""
    path = out or file.with_suffix(SUFFIX)
    if path.exists():
        raise InputError(
            f"{path.name} is there already", "Use it, or name another with --out; nothing was written"
        )
    return path


@ties_app.command("import")
def ties_import(
    file: File,
    table: Annotated[Path, typer.Argument(metavar="CSV")],
    out: Out = None,
    same: Annotated[
        str, typer.Option(help="Where other ties have the same names: replace, keep or both.")
    ] = "",
    as_json: Json = False,
) -> int:
    """Add test ties from a CSV table. Where other ties have the same names, --same says what is to become of them. A script
    holds no ties: a document is made of it, beside it, and they go there."""
    read = read_table(read_script(table))
    path = _new_document(file, out) if file.suffix == ".weave" else out or file
    with held(path):
        body = import_ties(file, read, path, same)
    for column in body["left_out"]:
        print(f"left out: the column “{column}” is not known", file=sys.stderr)
    answer(body, as_json, f"{body['imported']} ties imported, {body['ties']} in all: {path}")
    return 0


@ties_app.command("export")
def ties_export(file: File) -> int:
    """All test ties as CSV on standard output."""
    print(ties_to_csv(opened(file).ties), end="")
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
    body, lines = calibration_answer(opened(file), softness_from(like or []))
    answer(body, as_json, "\n".join(lines))
    return 0


Girth = Annotated[str | None, typer.Option(help="Girth of the body, such as 17cm.")]
Length = Annotated[str | None, typer.Option(help="Length of the piece, such as 40cm.")]
Ease = Annotated[str | None, typer.Option(help="How loose it sits, such as 8mm; -5mm for tight.")]
Risk = Annotated[float | None, typer.Option(help="Accepted chance that a cord runs short, such as 0.02.")]
Fastening = Annotated[
    str | None,
    typer.Option(
        help="What closes it, such as side-buckle, side-buckle=28mm or none; else as the work says."
    ),
]


@app.command()
def scale(
    file: File,
    girth: Girth = None,
    length: Length = None,
    ease: Ease = None,
    risk: Risk = None,
    fastening: Fastening = None,
    cut: Annotated[list[str] | None, typer.Option(help="What another cut would do, as CORD=LENGTH.")] = None,
    hand: Annotated[
        str | None, typer.Option(help="The widest girth that a piece without a fastening must pass.")
    ] = None,
    opens: Annotated[
        str | None, typer.Option(help="By how much a sliding closure opens, such as 6cm.")
    ] = None,
    have: Annotated[
        list[str] | None, typer.Option(help="What is at hand, as CORD=LENGTH: for which size it does.")
    ] = None,
    as_json: Json = False,
) -> int:
    """Whole units and cuts for a size."""
    doc = opened(file)
    plan = sized(doc.plan, girth, length, ease, risk, fastening, hand, opens)
    others = [named_cut(text) for text in cut or ()]
    c = for_size(doc.weave, fitted(doc), plan)
    piece = solve(doc.weave, c, plan)
    body, lines = piece_answer(
        piece, [given_cut(doc.weave, c, piece.counts, *other, plan, piece.tied_to_mm) for other in others]
    )
    more = one_more(doc.weave, c, piece)
    body["one_more"] = more
    body["free_mm"] = free_spans(doc.weave, piece.stretch)
    free = span_words(doc.weave, piece.stretch, "metric")
    lines += [f"Leave {free}."] if free else []
    lines += [f"{piece.fit}."] if piece.fit else []
    lines += [f"{more_words(more, 'metric')}."] if more_words(more, "metric") else []
    if have:
        there = dict(named_cut(text) for text in have)
        reach = largest_size(doc.weave, fitted(doc), plan, there)
        body["reach"] = {
            "size_mm": reach.size_mm,
            "units": reach.piece.counts if reach.piece else {},
            "why": reach.why,
        }
        lines.append(reach_words(reach, there, plan, "metric"))
    answer(body, as_json, "\n".join(lines))
    return 0


@app.command()
def plan(
    order: Annotated[Path, typer.Argument(help="An order, as JSON.", show_default=False)],
    stash: Annotated[Path, typer.Option(help="The stash it is cut from: JSON, or a table (.csv).")],
    seconds: Annotated[
        float, typer.Option(help="How long to look for a better plan.", min=0.1, max=3600)
    ] = 10.0,
    book: Annotated[bool, typer.Option(help="Book it out of the stash, which must be JSON.")] = False,
    jobs: Annotated[int, typer.Option(help="So many weaves at a time; -1 for all processors.")] = 1,
    as_json: Json = False,
) -> int:
    """Cut an order from a stash: which length into what, what to buy, what it costs."""
    shelf = read_stash(stash)
    if book and stash.suffix.lower() == ".csv":
        raise InputError("a table is not booked into", "Give the stash as JSON")
    shapes_ahead(order, jobs)
    asked, wanted = read_wanted(order, read=opened)
    found = plan_order(wanted, shelf, seconds=seconds)
    if book:
        if found.buy:
            raise InputError(
                f"{found.buy[0].metres} m of {found.buy[0].kind} {found.buy[0].colour} are missing",
                "Buy them first; nothing was booked",
            )
        if not found.pieces:
            raise InputError("everything in this order is cut", "Nothing was booked")
        after = booked(shelf, found, asked.name, date.today().isoformat(), to_cut(asked))
        book_both(after, stash, shelf, cut_now(asked), order)
    body, missing, lines = plan_answer(asked, found, shelf)
    answer(body, as_json, "\n".join(lines), missing)
    return 0


@app.command()
def publish(
    file: File,
    out: Annotated[Path, typer.Option(help="Folder for the sheet.")],
    formats: Annotated[str, typer.Option(help="Of html,pdf,md,svg,png,csv.")] = "html,pdf",
    size: Annotated[list[str] | None, typer.Option(help="A size as NAME=LENGTH; may be given again.")] = None,
    girth: Girth = None,
    length: Length = None,
    ease: Ease = None,
    risk: Risk = None,
    fastening: Fastening = None,
    paper: Annotated[str, typer.Option(help="A4 or Letter.")] = "A4",
    as_json: Json = False,
) -> int:
    """The instruction sheet; with --girth or --length for that one size."""
    doc = opened(file)
    wanted = [f.strip() for f in formats.split(",") if f.strip()]
    if paper.lower() not in ("a4", "letter"):
        raise InputError(f"there is no paper “{paper}”", "A4 or Letter")
    doc = of_size(doc, sized(doc.plan, girth, length, ease, risk, fastening), size)
    files = write_sheet(doc, _folder(out), wanted, paper)
    answer({"files": [str(f) for f in files]}, as_json, "\n".join(map(str, files)))
    return 0


@app.command()
def instrument(
    kind: Annotated[str, typer.Argument(help="wheel, calliper or scale.")],
    seed: Annotated[int, typer.Option(help="Of its noise.")] = 1,
    glitch: Annotated[float, typer.Option(min=0.0, max=1.0, help="How often it says nonsense.")] = 0.03,
    as_json: Json = False,
) -> int:
    """A simulated instrument: says its port, and speaks there until it is stopped. Lines on standard input: a length or mass
    that is put on it, zero, unit, unplug."""
    run_instrument(kind, seed, glitch, lambda port: answer({"port": port}, as_json, port))
    return 0


@app.command()
def restore(
    sheet: Annotated[Path, typer.Argument(help="A published HTML sheet.")],
    out: Annotated[Path, typer.Option(help="Where the document goes.")],
    overwrite: Annotated[bool, typer.Option("--overwrite", help="Also over what is there.")] = False,
    as_json: Json = False,
) -> int:
    """The weave out of a published sheet."""
    doc = read_sheet(sheet)
    if not overwrite and os.path.lexists(out):
        raise InputError(
            f"{out} is there already", "Name another file, or say --overwrite; nothing was written"
        )
    with held(out):
        save_document(doc, out)
    answer({"file": str(out), "name": doc.weave.name}, as_json, f"{doc.weave.name}: {out}")
    return 0
