import errno
import json
import os
from dataclasses import replace
from pathlib import Path

import pytest

from dim_ladder.base import InputError, WorldError
from dim_ladder.base.disk import write_whole
from dim_ladder.calibrate import Reading, Tie
from dim_ladder.notation import parse_strict
from dim_ladder.scale import Plan
from dim_ladder.shelf import (
    Document,
    document_text,
    read_document,
    read_document_text,
    save_document,
)
from dim_ladder.shelf.workshop import demo_texts, make_demo, weaves_in
from dim_ladder.trace import trace
from helpers.ties import tie
from helpers.weaves import TERN

DOC = Document(parse_strict(TERN), (tie("T1", note="ö"),), Plan(risk=0.01), draft="weave half typed")
OLD = Path(__file__).parents[2] / "documents"


def test_out_and_in_again_is_the_same(tmp_path):
    path = tmp_path / "a.dimladder"
    save_document(DOC, path)
    assert read_document(path) == DOC
    text = path.read_text("utf-8")
    assert text == document_text(DOC)
    assert list(json.loads(text))[:3] == ["format", "version", "script"]
    assert "ö" in text


def test_a_script_is_a_new_document_and_saves_as_a_script(tmp_path):
    path = tmp_path / "a.weave"
    path.write_text(TERN, "utf-8")
    assert read_document(path) == Document(parse_strict(TERN))
    save_document(DOC, path)
    assert parse_strict(path.read_text("utf-8")) == DOC.weave


@pytest.mark.parametrize("path", sorted(OLD.glob("*.dimladder")), ids=lambda p: p.name)
def test_documents_of_every_past_version_open(path):
    doc = read_document(path)
    assert doc.weave.name
    assert doc.ties


def test_knots_of_the_book_that_were_renamed_stay_what_they_were():
    doc = read_document(OLD / "v4.dimladder")
    calls = [i.knot for s in doc.weave.sections for i in s.items]
    assert calls == ["hitch-chain", "other-way", "overhand-chain", "snake-end", "cut-and-melt"]
    assert doc.weave.knot("other-way").source == "hitch-chain"
    assert [s.knot for s in doc.weave.knot("snake-end").steps] == ["hitch-chain"]
    assert doc.weave.section("chain").items[0].note == "a snake (as it was)"
    assert "hitch-chain (1 | 2)  -- a snake (as it was)" in doc.draft
    assert "the snake (a chain) seen in a mirror" in doc.script
    # Both ends are hitched round each other, as they were: six crossings of a unit are real, two of them of an end with itself.
    assert len(trace(doc.weave, section="chain", units=1).crossings) == 16
    own = json.loads((OLD / "v4.dimladder").read_text("utf-8"))
    own["script"] = own["script"].replace(
        "section chain", "knot snake (a | b)\n  a: over b, under b\n\nsection chain"
    )
    kept = read_document_text(json.dumps(own))
    assert kept.weave.section("chain").items[0].knot == "snake"
    assert kept.weave.section("last").items[0].knot == "overhand-chain"


def test_what_a_tie_says_is_kept(tmp_path):
    full = Tie(
        id="T7", kinds={"tide": "cotton-3mm"}, lot="spool 3", versions={"bar": "16238e4f4594"}, photos=("a.jpg",),
        readings=(Reading(ends=("tide.a", "tide.b"), cut_mm=800, left_g=2.5),),
    )  # fmt: skip
    path = tmp_path / "a.dimladder"
    save_document(replace(DOC, ties=(full,)), path)
    assert read_document(path).ties == (full,)


def changed(**fields):
    data = json.loads(document_text(DOC))
    data.update(fields)
    return json.dumps({k: v for k, v in data.items() if v is not ...})


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("", "is broken: line 1"),
        ('{"format": ', "is broken: line 1"),
        ("[" * 100_000, "is broken"),
        ("[]", "is not a Dim Ladder weave"),
        ('{"format": "other"}', "is not a Dim Ladder weave"),
        (changed(version=...), "does not say its version"),
        (changed(version=True), "does not say its version"),
        (changed(version=6), "written by a newer Dim Ladder (format 6, this one reads 5)"),
        (changed(version=2, ties=[{"id": "T1", "lot": "A"}]), "ties.lot is not known in format 2"),
        (changed(extra=1), "extra: Extra inputs are not permitted"),
        (changed(plan={"risk": 7}), "plan.risk: Input should be less than 0.5"),
        (changed(plan={"size_mm": float("nan")}), "plan.size_mm"),
        (changed(ties=[{"id": "T1", "readings": [{"ends": []}]}]), "ties.0.readings.0.ends"),
        (
            changed(script=TERN.replace("over c", "ovr c")),
            "expected over, under, up, down, round or another hop",
        ),
    ],
)
def test_what_it_does_not_know_is_refused_with_the_field(text, message):
    with pytest.raises(InputError) as e:
        read_document_text(text, "a.dimladder")
    assert message in str(e.value.problems[0])
    assert e.value.problems[0].hint


def test_a_refused_file_is_left_as_it_is(tmp_path):
    path = tmp_path / "new.dimladder"
    path.write_text(changed(version=9), "utf-8")
    before = path.read_bytes()
    with pytest.raises(InputError):
        read_document(path)
    assert path.read_bytes() == before


def test_files_that_are_not_text_or_not_there(tmp_path):
    (tmp_path / "bin.dimladder").write_bytes(b"\xff\xfe\x00")
    with pytest.raises(InputError, match="not UTF-8"):
        read_document(tmp_path / "bin.dimladder")
    with pytest.raises(WorldError, match="no such file"):
        read_document(tmp_path / "none.dimladder")
    with pytest.raises(InputError, match="is a folder"):
        read_document(tmp_path)


@pytest.mark.parametrize(
    ("code", "words"),
    [
        (errno.ENOSPC, "the disk is full"),
        (errno.EROFS, "read-only"),
        (errno.EACCES, "no permission"),
        (errno.EIO, "Input/output"),
    ],
)
@pytest.mark.parametrize("where", ["fsync", "replace"])
def test_a_failing_write_leaves_the_old_file_and_no_litter(tmp_path, monkeypatch, code, words, where):
    path = tmp_path / "a.dimladder"
    path.write_text("old", "utf-8")

    def fail(*args, **kwargs):
        raise OSError(code, os.strerror(code))

    monkeypatch.setattr(os, where, fail)
    with pytest.raises(WorldError, match=words) as e:
        write_whole(path, "new")
    assert e.value.hint
    monkeypatch.undo()
    assert path.read_text("utf-8") == "old"
    assert [p.name for p in tmp_path.iterdir() if p.is_file()] == ["a.dimladder"]


def test_writing_into_nothing_says_so(tmp_path):
    with pytest.raises(WorldError, match="no such file or folder"):
        write_whole(tmp_path / "no" / "a.dimladder", "x")


def test_the_demo_workshop_is_made_and_kept(tmp_path):
    first = make_demo(tmp_path / "demo")
    assert first.name == "tern-ladder.dimladder"
    assert [p.name for p in weaves_in(tmp_path / "demo")] == sorted(demo_texts())
    assert len(demo_texts()) >= 3
    first.write_text("mine", "utf-8")
    make_demo(tmp_path / "demo")
    assert first.read_text("utf-8") == "mine"
    make_demo(tmp_path / "demo", fresh=True)
    assert read_document(first).ties
    assert weaves_in(tmp_path / "nowhere") == ()
    (tmp_path / "file").write_text("", "utf-8")
    with pytest.raises(WorldError):
        make_demo(tmp_path / "file" / "below")
