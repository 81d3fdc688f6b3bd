"""What a script that calls the command line can count on: paths, strict JSON, sizes, documents, and no traceback ever."""

import csv
import json
import math
import subprocess
from pathlib import Path

import pytest

from dim_ladder.calibrate import ties_to_csv
from dim_ladder.cli import main, run
from dim_ladder.cli.answers import strict
from dim_ladder.cli.sizes import read_ease
from dim_ladder.shelf import read_document
from helpers.ties import tie
from helpers.weaves import TERN

ROOT = Path(__file__).resolve().parents[3]
HEAD = """section head: start
  2: over 3

section bar"""


@pytest.fixture
def said(capsys):
    def inner(*args):
        status = run([*map(str, args), "--json"])
        out, err = capsys.readouterr()
        return status, json.loads(out or err)

    return inner


def test_files_are_named_from_where_the_caller_stands(script, tmp_path):
    done = subprocess.run(
        [ROOT / "run", "cli", "check", script.name, "--json"],
        cwd=tmp_path,
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout)["ok"] is True


# -- strict JSON -----------------------------------------------------------------------------------


def test_what_does_not_exist_is_null_with_its_reason():
    body = {"a": 1.5, "b": math.nan, "c": [{"d": None, "why": "because"}, {"e": math.inf}], "f": None}
    assert strict(body, {"b": "no tie", "e": "too many", "f": "gone"}) == {
        "a": 1.5, "b": None, "c": [{"d": None, "why": "because"}, {"e": None}], "f": None,
        "missing": {"b": "no tie", "c[1].e": "too many", "f": "gone"},
    }  # fmt: skip


@pytest.mark.parametrize(
    "body", [{"a": math.nan}, {"a": {"b": [-math.inf]}}, {"a": None}, {"a": math.nan, "why": "of another"}]
)
def test_what_has_no_reason_is_refused(body):
    with pytest.raises(ValueError, match="nothing says why"):
        strict(body)


def test_orders_that_do_not_come_back_say_so(said, script):
    script.write_text(
        TERN.replace("section end", "section gone: body, repeat 1\n  drop 1\n\nsection end").replace(
            "(1 | 4)\n", "(1 | 3)\n"
        ),
        "utf-8",
    )
    status, body = said("trace", script, "--keep", "2,3")
    assert status == 0, body
    assert body["permutation"] is None
    assert "ends come or go" in body["missing"]["permutation"]


# -- faults of ours --------------------------------------------------------------------------------


def test_a_fault_of_ours_is_a_report_and_no_traceback(capsys, script, monkeypatch, tmp_path):
    monkeypatch.setenv("DIM_LADDER_STATE", str(tmp_path / "state"))

    def broken(path):
        raise ZeroDivisionError("a fault")

    monkeypatch.setattr(main, "opened", broken)
    assert run(["words", str(script)]) == 70
    out, err = capsys.readouterr()
    assert out == ""
    assert "Traceback" not in err
    assert "not yours: ZeroDivisionError (a fault)" in err
    (report,) = (tmp_path / "state" / "crashes").glob("*.txt")
    assert str(report) in err
    text = report.read_text("utf-8")
    assert "while: dim-ladder words" in text
    assert "ZeroDivisionError: a fault" in text
    assert str(Path.home()) not in text
    assert run(["words", str(script), "--json"]) == 70
    assert "fault of Dim Ladder" in json.loads(capsys.readouterr().err)["error"]
    # Where nothing can be written it is said all the same.
    (tmp_path / "file").write_text("", "utf-8")
    monkeypatch.setenv("DIM_LADDER_STATE", str(tmp_path / "file"))
    assert run(["words", str(script)]) == 70
    assert "No report could be written" in capsys.readouterr().err


# -- lengths, sizes --------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "args",
    [["scale", "--girth", "17"], ["scale", "--length", "30 + 12"], ["scale", "--ease", "8"], ["scale", "--cut", "buoy=190"], ["shape", "--former", "57"],
     ["publish", "--out", "OUT", "--size", "M=17"], ["publish", "--out", "OUT", "--girth", "17"]],
    ids=" ".join,
)  # fmt: skip
def test_a_bare_number_is_asked_about(said, script, tmp_path, args):
    real = [a.replace("OUT", str(tmp_path / "out")) for a in args]
    status, body = said(real[0], script, *real[1:])
    assert status == 2
    assert "of what?" in body["error"]
    assert " cm" in body["hint"]
    assert " in" in body["hint"]
    assert not (tmp_path / "out").exists()


def test_ease_may_be_less_than_nothing():
    assert read_ease("8 mm") == 8
    assert read_ease("-5mm") == read_ease("−5 mm") == -5
    assert read_ease("0 cm") == 0


def test_scale_knows_ease_and_fastening(said, script):
    _, loose = said("scale", script, "--girth", "17cm", "--ease", "3cm", "--fastening", "none")
    _, close = said("scale", script, "--girth", "17cm", "--ease", "-5mm", "--fastening", "none")
    assert loose["wanted_mm"] - close["wanted_mm"] == pytest.approx(35)
    status, body = said("scale", script, "--fastening", "side-bucle")
    assert status == 2
    assert "there is no fastening" in body["error"]
    assert "side-buckle" in body["hint"]


def test_a_sheet_for_one_size_says_what_scale_says(said, script, tmp_path):
    size = ["--length", "42cm", "--fastening", "none", "--risk", "0.05"]
    status, body = said("publish", script, "--out", tmp_path / "out", "--formats", "csv", *size)
    assert status == 0
    _, scaled = said("scale", script, *size)
    (table,) = body["files"]
    text = Path(table).read_text("utf-8")
    assert "42 cm" in text
    assert {row["size"] for row in csv.DictReader(text.splitlines())} == {"42 cm"}
    for cut in scaled["cuts"]:
        assert f"{cut['cut_mm']:.0f}" in text


# -- documents -------------------------------------------------------------------------------------


def test_a_script_becomes_a_document(said, script, tmp_path):
    status, body = said("document", script, "--out", tmp_path / "made.dimladder")
    assert status == 0
    assert read_document(Path(body["file"])).script == TERN
    status, again = said("document", script, "--out", tmp_path / "made.dimladder")
    assert status == 2
    assert "is there already" in again["error"]
    _, beside = said("document", script)
    assert Path(beside["file"]) == script.with_suffix(".dimladder")


def test_ties_go_into_a_document_made_of_a_script(said, script, tmp_path):
    table = tmp_path / "ties.csv"
    table.write_text(ties_to_csv((tie("T2", 4), tie("T3"))), "utf-8")
    status, body = said("ties", "import", script, table)
    assert status == 0
    made = Path(body["file"])
    assert [t.id for t in read_document(made).ties] == ["T2", "T3"]
    assert script.read_text("utf-8") == TERN
    status, body = said("ties", "import", script, table)
    assert status == 2
    assert made.name in body["error"]
    _, body = said("ties", "import", made, table, "--out", tmp_path / "copy.dimladder")
    assert len(read_document(tmp_path / "copy.dimladder").ties) == body["ties"] == 2


# -- pictures of one section ------------------------------------------------------------------------


def test_starts_and_finishes_are_drawn_and_one_section_alone(said, script, tmp_path):
    script.write_text(TERN.replace("section bar", HEAD, 1), "utf-8")
    _, body = said("draw", script, "--what", "front", "--out", tmp_path)
    assert [Path(f).name for f in body["files"]] == [
        "head-front.svg",
        "bar-front.svg",
    ]  # the end is only melted
    for what, names in (
        ("front", ["bar-front.svg"]),
        ("steps", ["step-02.svg", "step-03.svg", "step-04.svg", "step-05.svg"]),
        ("ladder", ["ladder.svg"]),
        ("diagram", ["diagram.svg"]),
        ("motion", ["motion.svg"]),
    ):
        _, body = said("draw", script, "--what", what, "--section", "bar", "--out", tmp_path)
        assert [Path(f).name for f in body["files"]] == names
    status, body = said("draw", script, "--what", "front", "--section", "bare", "--out", tmp_path)
    assert status == 2
    assert "there is no section “bare”" in body["error"]
    status, body = said("draw", script, "--what", "steps", "--section", "end", "--out", tmp_path)
    assert status == 2
    assert "no step to draw" in body["error"]
