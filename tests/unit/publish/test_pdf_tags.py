"""A PDF says of its parts what they are, read back with a reader of other people's making."""

from __future__ import annotations

import io
import re
from dataclasses import replace
from itertools import pairwise

import pytest
from pypdf import PdfReader
from pypdf.generic import ContentStream

from dim_ladder.commands.sheets import sheet_of, write_sheet
from dim_ladder.notation import parse_strict
from dim_ladder.publish import to_pdf
from dim_ladder.publish.choices import SheetChoices, SizeRow
from dim_ladder.scale import Plan
from dim_ladder.shelf import Document, read_document_text
from dim_ladder.shelf.workshop import demo_texts

SHOWS = (b"Tj", b"TJ", b"'", b'"', b"S", b"f", b"B", b"Do")


def reader_of(name: str, **changes) -> PdfReader:
    sheet = sheet_of(read_document_text(demo_texts()[f"{name}.dimladder"], name))
    return PdfReader(io.BytesIO(to_pdf(replace(sheet, **changes))))


def walk(node, depth=0):
    """Elements in reading order: kind, alternative words, (page, number) of what is drawn for it, depth."""
    kids = node.get("/K", [])
    drawn = [(k["/Pg"].get_object(), k["/MCID"]) for k in (x.get_object() for x in kids) if "/MCID" in k]
    yield str(node["/S"]), str(node.get("/Alt", "")), drawn, depth
    for k in (x.get_object() for x in kids):
        if "/S" in k:
            assert k["/P"].get_object() == node
            yield from walk(k, depth + 1)


def parts_of(reader: PdfReader):
    root = reader.trailer["/Root"]
    assert root["/MarkInfo"]["/Marked"]
    (top,) = root["/StructTreeRoot"]["/K"]
    return list(walk(top.get_object()))


@pytest.mark.parametrize("name", ["tern-ladder", "sluice-hanging"])
def test_headings_lists_tables_and_pictures_are_told(name):
    parts = parts_of(reader_of(name))
    kinds = [k for k, *_ in parts]
    assert kinds[0] == "/Document"
    assert kinds[1] == "/H1"
    assert kinds.count("/H1") == 1
    levels = [int(k[2]) for k in kinds if re.fullmatch(r"/H[1-6]", k)]
    assert all(b <= a + 1 for a, b in pairwise(levels))
    assert kinds.count("/Table") == 1
    assert kinds.count("/TH") == 8
    assert kinds.count("/LI") == kinds.count("/Lbl") >= 4
    figures = [alt for k, alt, *_ in parts if k == "/Figure"]
    assert len(figures) > 5
    assert all(figures)


@pytest.mark.parametrize("name", ["tern-ladder", "sluice-hanging"])
def test_nothing_is_shown_that_is_not_told_or_an_artifact(name):
    reader = reader_of(name)
    told = {
        (p.indirect_reference.idnum, n)
        for *_, drawn, _ in parts_of(reader)
        for p, n in ((p, n) for p, n in drawn)
    }
    drawn = set()
    parents = reader.trailer["/Root"]["/StructTreeRoot"]["/ParentTree"]["/Nums"]
    for number, page in enumerate(reader.pages):
        assert page["/StructParents"] == number == parents[2 * number]
        inside = []
        for operands, operator in ContentStream(page.get_contents(), reader).operations:
            if operator in (b"BDC", b"BMC"):
                inside.append(operands)
                if operator == b"BDC":
                    drawn.add((page.indirect_reference.idnum, operands[1]["/MCID"]))
            elif operator == b"EMC":
                inside.pop()
            elif operator in SHOWS:
                assert len(inside) == 1, (number, operator, operands)
        assert not inside
        count = sum(p == page.indirect_reference.idnum for p, _ in drawn)
        assert len(parents[2 * number + 1].get_object()) == count
    assert told == drawn


def test_a_paragraph_over_two_pages_is_one():
    reader = reader_of("tern-ladder", hanging="Hang them up. " * 900)
    long = [drawn for k, _, drawn, _ in parts_of(reader) if k == "/P" and len(drawn) > 1]
    (one,) = long
    assert len({p.indirect_reference.idnum for p, _ in one}) == len(one) >= 2


HALVES = """weave "Two Halves"
cords
  a  cotton-3mm  #744a9e
  b  cotton-3mm  #888a8c
hang on cold-start
  a.a b.a
section centre: start
  double-connection (1 | 2)
section right: body, fit
  span 20 mm to 45 mm
  double-connection (1 | 2)
section turnabout: start
  rotate
section left: body, same as right
  span 20 mm to 45 mm
  double-connection (1 | 2)
"""


@pytest.mark.parametrize("paper", ["A4", "Letter"])
@pytest.mark.parametrize("sizes", [1, 3, 6, 9])
def test_no_heading_is_parted_from_its_first_step(paper, sizes, tmp_path):
    """However long the table of sizes is, so wherever on the page a section begins."""
    weave = parse_strict(HALVES)
    rows = tuple(SizeRow(name=f"S{k}", size_mm=200.0 + 20 * k) for k in range(sizes))
    doc = Document(weave, (), Plan(target="length", size_mm=300), SheetChoices(sizes=rows))
    (path,) = write_sheet(doc, tmp_path, ["pdf"], paper)
    headings = ("Start: ", "Unit: ", "Finish: ", "Work these steps")
    seen = 0
    for page in PdfReader(path).pages:
        lines = [line for line in page.extract_text().split("\n") if line.strip()]
        seen += sum(line.startswith(headings) for line in lines)
        assert lines[-3] != "Hang"
        assert not lines[-3].startswith(headings), lines[-4:]  # above the foot: title and number
    assert seen >= 6
