"""The command line is a contract: names, shapes, streams and statuses."""

import json
import re
import subprocess
import sys
import threading
from pathlib import Path

import pytest
from PIL import Image

from dim_ladder.calibrate import ties_to_csv
from dim_ladder.cli import run
from dim_ladder.instruments import Port
from dim_ladder.library import use_kinds
from dim_ladder.library.kinds import SHIPPED
from dim_ladder.notation import parse_strict
from dim_ladder.shelf import read_document
from dim_ladder.shelf.kinds import save_kinds
from dim_ladder.shelf.lock import Lock, lock_path
from helpers.ties import tie
from helpers.weaves import PLAIT, TERN, stiff


@pytest.fixture
def call(capsys):
    def inner(*args, status=0):
        assert run([str(a) for a in args]) == status
        out, err = capsys.readouterr()
        return out if status in (0, 1) else err

    return inner


def test_check(call, script):
    body = json.loads(call("check", script, "--json"))
    assert body["ok"] is True
    assert body["problems"] == []
    script.write_text(TERN.replace("(1 | 2 3 | 4)", "(1 | 2 9 | 4)", 1), "utf-8")
    body = json.loads(call("check", script, "--json", status=1))
    assert body["ok"] is False
    assert body["problems"][0]["line"] == 17
    assert set(body["problems"][0]) == {"line", "column", "place", "message", "hint"}
    assert "line 17: there is no place 9" in call("check", script, status=1)


def test_check_says_flat_or_spiral(call, tmp_path):
    path = tmp_path / "s.weave"
    path.write_text(TERN.replace("half-left (1", "half-right (1"), "utf-8")
    assert "This will spiral" in call("check", path)


def test_trace(call, script):
    body = json.loads(
        call("trace", script, "--section", "bar", "--units", 1, "--keep", "1,4", "--close", "caps", "--json")
    )
    assert body["start"] == ["buoy.a", "tide.a", "tide.b", "buoy.b"]
    assert body["permutation"] == [1, 2, 3, 4]
    assert body["crossings"] == 14
    assert body["components"] == 1
    assert len(body["pd"]) == 6
    labels = [label for c in body["pd"] for label in c]
    assert sorted(labels) == sorted(list(range(1, 13)) * 2)
    assert set(body) == {"ends", "start", "permutation", "colour_cycle", "crossings", "pd", "components"}


def test_words_and_draw(call, script, tmp_path):
    assert "Take D (orange, far right) left over C and B" in call("words", script, "--vocabulary", "paracord")
    out = tmp_path / "pictures"
    files = json.loads(call("draw", script, "--what", "steps", "--out", out, "--json"))["files"]
    assert [Path(f).name for f in files] == [f"step-0{i}.svg" for i in (1, 2, 3, 4)]
    assert (out / "step-01.svg").read_text("utf-8").startswith("<svg")
    for what in ("ladder", "diagram"):
        call("draw", script, "--what", what, "--out", out)
        assert (out / f"{what}.svg").exists()


def test_shape_is_pulled_tight_or_honest_about_being_rough(call, script, tmp_path):
    body = json.loads(call("shape", script, "--json"))
    assert body["converged"] is True
    assert 2.2 < body["pitch"] < 2.8
    assert set(body["per_end"]) == {"buoy.a", "tide.a", "tide.b", "buoy.b"}
    assert set(body) >= {
        "pitch",
        "width",
        "thickness",
        "twist_deg",
        "per_end",
        "overlap",
        "converged",
        "seconds",
    }
    other = tmp_path / "turned.weave"
    text = Path(script).read_text("utf-8")
    line = "  half-left (1 | 2 3 | 4)\n"
    other.write_text(text.replace(line, line + "  turn over\n"), "utf-8")
    turned = json.loads(call("shape", other, "--json"))
    assert (turned["kind"], turned["converged"]) == ("cell", True)
    assert turned["pitch"] == pytest.approx(
        body["pitch"], rel=0.05
    )  # of one unit, though it goes on after two
    other.write_text(text.replace(line, line + "  add eel.a at 5\n"), "utf-8")
    other.write_text(
        other.read_text("utf-8").replace("hang\n", "  eel  nylon-4mm  #333333\nhang\n", 1), "utf-8"
    )
    laid_in = json.loads(call("shape", other, "--json"))
    assert (laid_in["kind"], set(laid_in["per_end"])) == ("held", {*body["per_end"], "eel.a"})
    assert laid_in["per_end"]["eel.a"] == 0  # nothing is tied with it
    other.write_text(text.replace(line, line + "  rotate (4 3 2 1)\n"), "utf-8")
    rough = json.loads(call("shape", other, "--json"))
    assert rough["converged"] is False
    assert "laid anew" in rough["why"]
    assert rough["overlap"] is None


def test_shapes_of_a_whole_folder_say_how_far_they_are(call, script, tmp_path, capsys):
    folder = tmp_path / "library"
    folder.mkdir()
    for name in ("one", "two"):
        (folder / f"{name}.weave").write_text(Path(script).read_text("utf-8"), "utf-8")
    found = json.loads(call("shape", folder, "--json", "--jobs", "1"))["shapes"]
    assert [(Path(a["file"]).stem, a["section"], a["converged"]) for a in found] == [
        ("one", "bar", True),
        ("two", "bar", True),
    ]
    assert found[0]["pitch"] == found[1]["pitch"]
    (folder / "spoiled.weave").write_text("not a weave", "utf-8")
    assert run(["shape", str(folder), "--jobs", "2"]) == 2
    out = capsys.readouterr()
    assert "pitch 2.4" in out.out or "pitch 2.5" in out.out
    assert "3 of 3" in out.err


def test_faces_are_drawn(call, script, tmp_path):
    for side in ("front", "back", "edge"):
        (name,) = json.loads(call("draw", script, "--what", side, "--out", tmp_path, "--json"))["files"]
        assert name.endswith(f"bar-{side}.svg")
        assert (tmp_path / f"bar-{side}.svg").read_text("utf-8").count("<path") > 100


def test_pictures_as_png_are_the_same_pictures(call, script, tmp_path):
    call("draw", script, "--what", "front", "--out", tmp_path)
    (name,) = json.loads(call("draw", script, "--what", "front", "--out", tmp_path, "--png", "--json"))[
        "files"
    ]
    image = Image.open(name).convert("RGB")
    width = float(re.search(r'viewBox="0 0 ([\d.]+)', (tmp_path / "bar-front.svg").read_text("utf-8"))[1])
    assert image.width == pytest.approx(2 * width, abs=2)
    # The leader's colour is in front: far more of the picture is in it than in that of the other cord.
    tide, buoy = (
        sum(_near(p, c) for p in image.get_flattened_data()) for c in ((31, 111, 139), (217, 130, 43))
    )
    assert buoy > 3 * tide > 1000
    assert run(["draw", str(script), "--what", "motion", "--out", str(tmp_path), "--png"]) == 2


def _near(pixel, colour):
    """Whether a pixel is of a colour, lit or in shade: by its hue, and not paper."""
    (r, g, b), (x, y, z) = pixel, colour
    return (r > b + 40) == (x > z) and abs(r - b) > 30 and max(abs(r - x), abs(g - y), abs(b - z)) < 110


def test_the_whole_piece_is_drawn_to_scale(call, document, tmp_path):
    files = json.loads(call("draw", document, "--what", "whole", "--out", tmp_path, "--json"))["files"]
    assert [Path(f).name for f in files] == [f"whole-{s}.svg" for s in ("front", "back", "edge")]
    text = Path(files[0]).read_text("utf-8")
    worked = int(re.search(r"the whole piece, (\d+) mm", text)[1])
    planned = json.loads(call("scale", document, "--json"))["length_mm"]
    assert worked == pytest.approx(planned, rel=0.15)


def test_ties_in_and_out(call, document, tmp_path):
    table = tmp_path / "ties.csv"
    table.write_text(ties_to_csv((tie("T2", 4), tie("T3"))), "utf-8")
    told = json.loads(call("ties", "import", document, table, "--json", status=2))
    assert "One tie of the table (T2) has a name that other ties have here" in told["error"]
    assert "--same replace" in told["hint"]
    assert len(read_document(document).ties) == 2
    both = tmp_path / "both.dimladder"
    call("ties", "import", document, table, "--same", "both", "--out", both)
    assert [t.id for t in read_document(both).ties] == ["T1", "T2", "T3", "T2 (2)"]
    body = json.loads(call("ties", "import", document, table, "--same", "replace", "--json"))
    assert (body["imported"], body["ties"], body["file"]) == (2, 3, str(document))
    assert [t.id for t in read_document(document).ties] == ["T1", "T2", "T3"]
    assert call("ties", "export", document) == ties_to_csv(read_document(document).ties)


def test_calibrate(call, document):
    body = json.loads(call("calibrate", document, "--json"))
    leader = body["roles"]["leader"]
    assert leader["bar"]["per_unit_mm"] == pytest.approx(70, rel=0.05)
    assert leader["bar"]["per_length"] == pytest.approx(70 / 16.5, rel=0.08)
    assert leader["bar"]["sd"] > 0
    assert leader["overhead_mm"] > 0
    assert body["tie_spread"] > 0
    assert body["pitch_mm"]["bar"] == pytest.approx(16.5, rel=0.05)
    assert (body["shaped"], body["refusal"], body["misfits"]) == (["bar"], "", [])
    # Four ties that agree are enough: it is said what another one would be worth.
    assert body["next"] == []
    assert body["enough"].startswith("Enough tested: another ")
    assert "paid back after" in body["enough"]
    assert body["rules"]["bar"]["interval_90"][0] < body["rules"]["bar"]["all_cord"]
    assert body["softness"]["stiff-4mm"]["sd"] < 0.104
    assert "Enough tested" in call("calibrate", document)
    # Another weave's ties make this one's cord known.
    alone = json.loads(call("calibrate", document, "--json"))["softness"]["stiff-4mm"]["sd"]
    like = json.loads(call("calibrate", document, "--like", document, "--json"))["softness"]["stiff-4mm"][
        "sd"
    ]
    assert like < alone


def test_a_simulated_instrument_speaks_on_its_port(tmp_path):
    command = [sys.executable, "-m", "dim_ladder", "instrument", "scale", "--glitch", "0", "--json"]
    process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
    try:
        port = json.loads(process.stdout.readline())["port"]
        heard = threading.Event()
        values = []

        def hear(measure):
            values.append(measure.value)
            if measure.steady and abs(measure.value - 12.5) < 0.5:
                heard.set()

        listening = Port(port, hear, lambda why: None)
        process.stdin.write("12.5 g\nnonsense\n")
        process.stdin.flush()
        assert heard.wait()
        listening.close()
        process.stdin.write("unplug\n")
        process.stdin.flush()
        assert process.wait() == 0
    finally:
        process.kill()
        process.wait()
        process.stdin.close()
        process.stdout.close()
    assert run(["instrument", "sundial"]) == 2


def test_scale(call, document):
    body = json.loads(
        call("scale", document, "--girth", "17cm", "--risk", 0.02, "--fastening", "side-buckle", "--json")
    )
    assert body["units"] == {"bar": 10}
    assert body["error_mm"] == pytest.approx(body["length_mm"] - body["wanted_mm"])
    assert len(body["alternatives"]) == 2
    cut = body["cuts"][1]
    assert cut["cord"] == "buoy"
    assert set(cut["ends"]["buoy.a"]) == {"need_mm", "sd", "chance_short", "tail_mm", "likely_mm"}
    assert cut["ends"]["buoy.a"]["likely_mm"] < cut["ends"]["buoy.a"]["need_mm"]
    assert "likeliest" in body["derivation"][1]
    assert json.loads(call("scale", document, "--length", "40 cm", "--json"))["units"]["bar"] > 20
    (asked,) = json.loads(call("scale", document, "--girth", "17cm", "--cut", "buoy=1.6 m", "--json"))[
        "asked"
    ]
    assert (asked["cord"], asked["cut_mm"]) == ("buoy", 1600)
    assert cut["chance_short"] < 0.02 < asked["chance_short"] < 1
    assert run(["scale", str(document), "--cut", "buoy"]) == 2


def test_publish_and_restore(call, document, tmp_path):
    out = tmp_path / "sheet"
    files = json.loads(
        call("publish", document, "--out", out, "--formats", "html,pdf", "--size", "kid=13 cm", "--json")
    )["files"]
    assert [Path(f).suffix for f in files] == [".html", ".pdf"]
    assert "kid" in Path(files[0]).read_text("utf-8")
    again = tmp_path / "again.dimladder"
    call("restore", files[0], "--out", again)
    assert read_document(again).weave == stiff(parse_strict(TERN))
    assert len(read_document(again).ties) == 2


WRONG = [
    (["trace", "none.weave"], "no such file"),
    (["trace", "SCRIPT", "--section", "nope"], "no section “nope”"),
    (["trace", "SCRIPT", "--keep", "a"], "does not name places"),
    (["trace", "SCRIPT", "--close", "bow"], "no closure"),
    (["trace", "SCRIPT", "--units", "0"], "--units"),
    (["words", "SCRIPT", "--vocabulary", "latin"], "no vocabulary"),
    (["draw", "SCRIPT", "--what", "sky"], "no picture"),
    (["ties", "import", "SCRIPT", "SCRIPT"], "no column “tie”"),
    (["ties", "import", "DOCUMENT", "SCRIPT"], "no column “tie”"),
    (["scale", "DOCUMENT", "--girth", "3 zz"], "not a unit"),
    (["scale", "DOCUMENT", "--girth", "2 cm", "--length", "2 cm"], "either a girth or a length"),
    (["scale", "DOCUMENT", "--risk", "0.7"], "out of bounds"),
    (["scale", "DOCUMENT", "--girth", "2 mm"], "too short"),
    (["publish", "DOCUMENT", "--out", "OUT", "--formats", "docx"], "no format"),
    (["publish", "DOCUMENT", "--out", "SCRIPT/below"], "Cannot make the folder"),
    (["restore", "SCRIPT", "--out", "OUT"], "carries no Dim Ladder document"),
    (["check"], "Missing argument"),
]


@pytest.mark.parametrize(
    ("args", "message"), WRONG, ids=lambda a: " ".join(a)[:40] if isinstance(a, list) else ""
)
def test_what_is_wrong_is_one_json_object_on_standard_error_with_status_2(
    capsys, script, document, tmp_path, args, message
):
    names = {"SCRIPT": str(script), "DOCUMENT": str(document), "OUT": str(tmp_path / "out")}
    before = document.read_bytes()
    real = [names.get(a, a.replace("SCRIPT", str(script))) for a in args]
    assert run([*real, "--json"]) == 2
    out, err = capsys.readouterr()
    assert out == ""
    body = json.loads(err)
    assert message in body["error"]
    assert document.read_bytes() == before


def test_a_script_with_slips_lists_them_all(capsys, script):
    script.write_text(TERN.replace("over c", "ovr c").replace("fit pairs", "fitt"), "utf-8")
    assert run(["words", str(script), "--json"]) == 2
    body = json.loads(capsys.readouterr().err)
    assert [p["line"] for p in body["problems"]] == [11, 16]


def test_as_a_program(tmp_path):
    path = tmp_path / "p.weave"
    path.write_text(PLAIT, "utf-8")
    done = subprocess.run(
        [sys.executable, "-m", "dim_ladder", "trace", str(path), "--units", "2", "--json"],
        capture_output=True,
        text=True,
        check=True,
    )
    assert json.loads(done.stdout)["crossings"] == 4
    done = subprocess.run(
        [sys.executable, "-m", "dim_ladder", "--version"],
        capture_output=True,
        text=True,
        check=True,
    )
    assert done.stdout.strip()[0].isdigit()


def test_the_answers_for_people(call, document, tmp_path):
    assert "2 ties, 6 readings" in call("calibrate", document)
    assert "leader in bar:" in call("calibrate", document)
    text = call("scale", document, "--girth", "17cm")
    assert text.startswith("bar × 10: ")
    assert "170 girth" in text
    assert "buoy: cut" in text
    assert call("check", document).startswith("ok\nbar: Flat")
    assert "crossings: 14" in call("trace", document, "--section", "bar")
    assert call("words", document).split("\n")[0].startswith("From left to right hang: A orange")
    assert str(tmp_path) in call("publish", document, "--out", tmp_path / "out", "--formats", "csv")


def test_what_is_wrong_for_people(capsys, script):
    script.write_text(TERN.replace("over c", "ovr c"), "utf-8")
    assert run(["words", str(script)]) == 2
    out, err = capsys.readouterr()
    assert out == ""
    assert err.startswith("line 11: expected over, under, up, down, round or another hop, found “ovr”")


def test_a_document_that_a_window_has_open_is_not_written(call, document, tmp_path):
    table = tmp_path / "ties.csv"
    table.write_text(ties_to_csv((tie("T9"),)), "utf-8")
    before = document.read_bytes()
    lock = Lock(lock_path(document))
    assert lock.take()
    assert "is open: another window of yours" in call("ties", "import", document, table, status=2)
    page = json.loads(call("publish", document, "--out", tmp_path / "s", "--formats", "html", "--json"))[
        "files"
    ][0]
    assert "is open" in call("restore", page, "--out", document, "--overwrite", status=2)
    assert document.read_bytes() == before
    lock.leave()
    assert "is there already" in call("restore", page, "--out", document, status=2)
    assert document.read_bytes() == before
    document.write_text("something else", "utf-8")
    call("restore", page, "--out", document, "--overwrite")
    assert read_document(document).weave.name == "Tern Ladder"


def test_more_pictures_than_anybody_looks_at_are_refused_at_once(call, tmp_path):
    path = tmp_path / "long.weave"
    path.write_text(TERN.replace("body, fit pairs", "body, repeat 2000"), "utf-8")
    told = call("draw", path, "--out", tmp_path / "out", status=2)
    assert "these are 8,000 pictures" in told
    assert "At most 3,000" in told
    assert not (tmp_path / "out").exists()


def test_a_solid_is_written_and_a_kind_beside_the_weave_changes_it(call, document, tmp_path):
    out = tmp_path / "solid"
    files = json.loads(call("draw", document, "--what", "solid", "--out", out, "--json"))["files"]
    assert [Path(f).name for f in files] == ["bar.glb"]
    assert Path(files[0]).read_bytes().startswith(b"glTF")
    before = json.loads(call("shape", document, "--json"))["pitch"]
    save_kinds(document.parent, {"stiff-4mm": SHIPPED["nylon-4mm"]})
    try:
        assert json.loads(call("shape", document, "--json"))["pitch"] < 0.8 * before
        (document.parent / "cord-kinds.json").write_text("{", "utf-8")
        assert "cord-kinds.json" in call("shape", document, "--json", status=2)
    finally:
        (document.parent / "cord-kinds.json").unlink()
        use_kinds({})
