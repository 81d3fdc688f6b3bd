import base64
import csv
import io
import random
import re
from dataclasses import replace

import pytest
from pypdf import PdfReader

from dim_ladder.base import InputError
from dim_ladder.calibrate import calibrate
from dim_ladder.commands.calibrating import calibration_of
from dim_ladder.commands.sheets import file_stem, read_sheet, sheet_of, travelling, write_sheet
from dim_ladder.library import CAUTIONS
from dim_ladder.notation import parse_strict
from dim_ladder.publish import (
    SheetChoices,
    build_sheet,
    embedded_document,
    to_csv,
    to_html,
    to_markdown,
    to_pdf,
)
from dim_ladder.publish.choices import SizeRow
from dim_ladder.publish.page import build_page
from dim_ladder.publish.sheet import cuts_text
from dim_ladder.scale import Plan, solve
from dim_ladder.shelf import Document, document_text, read_document_text
from dim_ladder.shelf.workshop import demo_texts
from helpers.browser import dom
from helpers.ties import tie
from helpers.weaves import TERN

NASTY = '<script>alert(1)</script> & "quotes" =1+1 </style> `md` | [x](y)'


@pytest.fixture(scope="module")
def document():
    return Document(
        parse_strict(TERN),
        (tie("T1"), tie("T2", 8, 1.02)),
        Plan(),
        SheetChoices(designer="The volunteers", purpose="Strap for field glasses"),
    )


def test_the_sheet_holds_what_a_reader_needs(document):
    sheet = sheet_of(document)
    assert sheet.title == "Tern Ladder"
    assert [c.letters for c in sheet.cords] == ["B and C", "A and D"]
    assert [s.name for s in sheet.sizes] == ["S", "M", "L"]
    assert [len(p.steps) for p in sheet.sections] == [3, 1]
    assert [s.number for p in sheet.sections for s in p.steps] == [1, 2, 3, 4]
    assert sheet.sections[0].steps[2].sentence == "Repeat 1 and 2 with left and right exchanged."
    assert all(step.picture for step in sheet.sections[0].steps)
    assert "even number" in sheet.sections[0].repeat
    assert sheet.sections[0].note.startswith("Flat")
    assert "2 test ties" in sheet.basis
    assert sheet.sections[1].steps[0].caution == f"{CAUTIONS['flame']} {CAUTIONS['blade']}"


def test_cautions_of_finish_and_use_cannot_be_left_out(document):
    sheet = sheet_of(document)
    for key in ("flame", "blade", "neck", "load", "rules"):
        assert CAUTIONS[key] in sheet.cautions
    bare = build_sheet(parse_strict(TERN.replace("tuck-and-melt", "leave")), None, Plan(), SheetChoices())
    assert CAUTIONS["flame"] not in bare.cautions
    assert CAUTIONS["load"] in bare.cautions


def test_the_numbers_are_those_of_the_piece(document):
    sheet = sheet_of(document)
    for column, row in zip(sheet.sizes, document.sheet.sizes, strict=True):
        piece = solve(
            document.weave,
            calibration_of(document),
            document.plan.model_copy(update={"size_mm": row.size_mm}),
        )
        assert [c.cut_mm for c in column.cuts] == [c.cut_mm for c in piece.cuts]
        assert dict(column.counts) == piece.counts


def test_a_size_that_cannot_be_made_says_why(document):
    small = replace(
        document,
        plan=document.plan.model_copy(update={"fastening": "side-buckle"}),
        sheet=document.sheet.model_copy(
            update={"sizes": (document.sheet.sizes[0].model_copy(update={"size_mm": 5}),)}
        ),
    )
    assert (
        "too short" in sheet_of(small).sizes[0].problem
        or "nothing is left" in sheet_of(small).sizes[0].problem
    )


def test_a_weave_that_cannot_be_traced_has_no_sheet(document):
    with pytest.raises(InputError, match="cannot go over"):
        sheet_of(replace(document, weave=parse_strict(TERN + "section x: body\n  4: over 1\n")))


def test_words_and_units_by_choice(document):
    other = replace(
        document, sheet=document.sheet.model_copy(update={"vocabulary": "paracord", "units": "imperial"})
    )
    sheet = sheet_of(other)
    assert sheet.sections[0].steps[0].heading == "Right-hand half of the band knot"
    assert " in" in sheet.sizes[0].cuts[0].cut


# -- HTML in a real browser -----------------------------------------------------------------------


@pytest.fixture(scope="module")
def page(document, tmp_path_factory):
    path = tmp_path_factory.mktemp("sheet") / "sheet.html"
    built = build_page(document.weave, calibration_of(document), document.plan, document.sheet)
    path.write_text(to_html(built.sheet, document_text(document), built.data, built.why), "utf-8")
    return path


def test_the_browser_shows_the_size_that_is_asked_for(page, document):
    html, complaints = dom(page, "M")
    assert complaints == ""
    assert re.search(r'<form id="set">', html)  # the choice appears once the script has run
    (yours,) = re.findall(r'<table id="yours">.*?</table>', html, re.S)
    sizes = {s.name: s for s in sheet_of(document).sizes}
    assert [float(mm) for mm in re.findall(r'data-mm="([\d.]+)"', yours)] == [
        c.cut_mm for c in sizes["M"].cuts
    ]
    (all_sizes,) = re.findall(r'<table id="sizes">.*?</table>', html, re.S)
    shown = [float(mm) for mm in re.findall(r'data-mm="([\d.]+)"', all_sizes)]
    assert shown == [c.cut_mm for s in sizes.values() for c in s.cuts]


def test_a_changed_script_is_refused_by_the_page_and_all_sizes_stand_there(page, tmp_path):
    """What a reader with scripts off sees; the page's own policy is what turns the changed script off."""
    other = tmp_path / "other.html"
    other.write_text(page.read_text("utf-8").replace('"use strict";', '"use strict"; 1;'), "utf-8")
    html, complaints = dom(other, "M")
    assert "Content Security Policy" in complaints
    assert re.search(r'<form id="set" hidden="">', html)
    assert html.count("<tbody data-size=") == 3


def test_the_page_refers_to_nothing_outside_itself(page):
    text = page.read_text("utf-8")
    assert "default-src 'none'" in text
    assert not re.search(r'(?:src|href)="(?!data:|#)', text)
    assert not re.search(r"url\((?!data:)", text)
    assert "http:" not in text.replace("http://www.w3.org/2000/svg", "")


def test_the_document_comes_out_of_the_page_unchanged(page, document):
    assert read_document_text(embedded_document([page.read_bytes()])) == document
    with pytest.raises(InputError, match="carries no Dim Ladder document"):
        embedded_document([b"<html></html>"])
    with pytest.raises(InputError, match="damaged"):
        embedded_document([b'<script type="application/x-dim-ladder-document">abc</script>'])


@pytest.fixture(scope="module")
def nasty(document):
    choices = document.sheet.model_copy(
        update={"designer": NASTY, "purpose": NASTY, "care": NASTY, "licence": NASTY}
    )
    weave = replace(document.weave, name=NASTY.replace('"', "”"))
    return replace(document, weave=weave, sheet=choices)


def test_texts_are_data_in_html(nasty, tmp_path):
    path = tmp_path / "nasty.html"
    path.write_text(to_html(sheet_of(nasty), document_text(nasty)), "utf-8")
    html, complaints = dom(path)
    assert complaints == ""
    assert html.count("<script") == 2  # the document and the sheet's own
    assert "&lt;script&gt;alert(1)" in html


def test_texts_are_data_in_csv_and_markdown(nasty):
    sheet = sheet_of(nasty)
    rows = list(csv.reader(io.StringIO(to_csv(sheet))))
    assert all(cell[:1] not in ("=", "+", "-", "@") for row in rows for cell in row)
    assert len(rows) == 1 + 6
    md = to_markdown(sheet, {1: "one.svg"})
    assert "<script>" not in md
    assert "![Step 1](one.svg)" in md


# -- PDF in a PDF reader --------------------------------------------------------------------------


def test_the_pdf_reads_back(document):
    data = to_pdf(sheet_of(document))
    reader = PdfReader(io.BytesIO(data))
    text = "\n".join(p.extract_text() for p in reader.pages)
    for wanted in (
        "Tern Ladder",
        "fold in the middle",
        "Half knot led from the right",
        "Open flame",
        "Local rules",
        "D (orange, far right)",
    ):
        assert wanted in text.replace("\n", " "), wanted
    for column in sheet_of(document).sizes:
        for cut in column.cuts:
            assert cut.cut in text
    assert reader.metadata.title == "Tern Ladder"
    assert [o.title for o in reader.outline] == [
        "Tern Ladder",
        "Materials and tools",
        "Sizes and cuts",
        "Hang",
        "Unit: bar",
        "Finish: end",
        "Words",
    ]
    box = reader.pages[0].mediabox
    assert (round(box.width), round(box.height)) == (595, 842)
    fonts = {f for p in reader.pages for f in p["/Resources"]["/Font"]}
    for p in reader.pages:
        for font in p["/Resources"]["/Font"].values():
            assert "/FontFile2" in font.get_object()["/FontDescriptor"], fonts


def test_the_same_sheet_gives_the_same_bytes(document):
    assert to_pdf(sheet_of(document)) == to_pdf(sheet_of(document))


def test_letter_paper_and_strange_signs(nasty):
    reader = PdfReader(io.BytesIO(to_pdf(sheet_of(nasty), paper="Letter")))
    assert round(reader.pages[0].mediabox.height) == 792
    assert "<script>alert(1)" in reader.pages[0].extract_text()


def test_the_weave_comes_out_of_its_pdf_and_never_a_damaged_one(document, tmp_path):
    (pdf,) = write_sheet(document, tmp_path, ["pdf"])
    assert read_sheet(pdf) == travelling(document)
    before = pdf.read_bytes()
    assert write_sheet(document, tmp_path, ["pdf"])[0].read_bytes() == before
    plain = tmp_path / "plain.pdf"
    plain.write_bytes(to_pdf(sheet_of(document)))
    with pytest.raises(InputError, match="carries no Dim Ladder document"):
        read_sheet(plain)
    torn = tmp_path / "torn.pdf"
    torn.write_bytes(b"%PDF-1.4\n" + bytes(200))
    with pytest.raises(InputError, match="no PDF that can be read"):
        read_sheet(torn)


def test_a_changed_letter_in_a_carried_document_is_noticed(page):
    text = page.read_text("utf-8")
    (carried,) = re.findall(r'dim-ladder-document">([0-9a-f]{64}):([A-Za-z0-9+/=]+)<', text)
    data = base64.b64decode(carried[1]).replace(b"Tern", b"Turn")
    changed = text.replace(carried[1], base64.b64encode(data).decode("ascii"))
    with pytest.raises(InputError, match="damaged"):
        embedded_document([changed.encode("utf-8")])
    before = text.replace(f"{carried[0]}:", "")  # as it was written before there were checksums
    assert "Tern" in embedded_document([before.encode("utf-8")])


@pytest.mark.parametrize("name", ["Λάρος", "Чайка", "Ængi → 3′"])
def test_letters_of_other_scripts_are_printed(document, name):
    sheet = sheet_of(replace(document, weave=replace(document.weave, name=name)))
    assert name in PdfReader(io.BytesIO(to_pdf(sheet))).pages[0].extract_text()


def test_letters_that_cannot_be_printed_are_refused_by_name(document):
    sheet = sheet_of(replace(document, weave=replace(document.weave, name="鴎の梯子")))
    with pytest.raises(InputError, match="the fonts have no 鴎"):
        to_pdf(sheet)
    assert "鴎の梯子" in to_html(sheet, "{}")


def test_version_and_cuts_stand_in_a_code(document):
    sheet = sheet_of(document)
    other = replace(sheet, date="2026-11-29")
    assert sheet.version != other.version
    assert cuts_text(sheet).startswith("S 15 cm: tide ")
    text = PdfReader(io.BytesIO(to_pdf(sheet))).pages[0].extract_text()
    assert f"Version {sheet.version}." in text
    assert "version and cuts, as text" in text


def test_the_whole_finished_piece_stands_at_the_head_front_and_back(document):
    sheet = sheet_of(document)
    front, back = sheet.piece
    assert front.shapes != back.shapes
    assert back.width > 2 * back.height  # lying across the page
    assert sheet.faces == ()  # its cords are seen well
    assert sheet.cover is None
    html = to_html(sheet, "{}")
    head = html[: html.index("Before you start")]
    assert head.count('<img src="data:image/webp;base64,') == 2
    assert f'alt="{front.title}, back"' in head
    pages = PdfReader(io.BytesIO(to_pdf(sheet))).pages
    assert "front" in pages[0].extract_text()
    assert "![The finished piece, back](b.svg)" in to_markdown(sheet, {}, ("a.svg", "b.svg"))


def test_of_a_long_thin_piece_some_units_stand_beside_it(document):
    """Where the whole of it shows little, some of it is shown near by; where it would be a line, that alone."""

    def long(mm):
        return sheet_of(replace(document, plan=Plan(target="length", size_mm=mm, fastening="none")))

    sheet = long(700.0)
    assert len(sheet.piece) == 2
    assert len(sheet.faces) == 2
    head = to_html(sheet, "{}").split("<main>")[0]
    assert head.count('<img src="data:image/webp;base64,') == 2
    longer = long(3000.0)
    assert longer.piece == ()
    assert len(longer.faces) == 2


def test_a_long_sheet_breaks_into_pages_and_loses_nothing(document):
    rng = random.Random(5)
    lines = "\n".join(f"  {k}: {rng.choice(['over', 'under'])} {k + 1}" for k in rng.choices([1, 2, 3], k=60))
    long = replace(
        document,
        weave=parse_strict(TERN.replace("section end", f"section long: body\n{lines}\n\nsection end")),
    )
    sheet = sheet_of(long)
    reader = PdfReader(io.BytesIO(to_pdf(sheet)))
    last = sheet.sections[-1].steps[-1].number
    assert last > 40
    text = " ".join(p.extract_text() for p in reader.pages)
    assert len(reader.pages) >= 4
    assert all(f" {n} " in f" {text} ".replace("\n", " ") for n in range(1, last + 1))


# -- files ----------------------------------------------------------------------------------------


def test_writing_all_formats(document, tmp_path):
    folder = tmp_path / "out"
    folder.mkdir()
    files = write_sheet(document, folder, ["html", "pdf", "md", "svg", "csv"])
    names = sorted(f.name for f in files)
    assert names == sorted(p.name for p in folder.iterdir())
    assert "tern-ladder.html" in names
    assert {"tern-ladder-step-03.svg", "tern-ladder-front.png", "tern-ladder-back.svg"} <= set(names)
    with pytest.raises(InputError, match="no format “docx”"):
        write_sheet(document, folder, ["docx"])


def test_names_stay_inside_the_folder():
    assert file_stem("../../etc/passwd") == "etc-passwd"
    assert file_stem("///") == "weave"
    assert len(file_stem("x" * 500)) == 80


def test_every_weave_of_the_demo_has_its_sheet():
    for text in demo_texts().values():
        sheet = sheet_of(read_document_text(text))
        former = any(s.former for s in read_document_text(text).weave.sections)
        assert sheet.sizes or former
        if former:
            assert "a former" in sheet.sections[0].note
            assert all(step.picture for step in sheet.sections[0].steps)
        assert not any(s.problem for s in sheet.sizes)
        assert to_pdf(sheet)[:5] == b"%PDF-"


def test_what_is_tied_after_the_units_names_the_ends_that_hang_there_then():
    text = TERN.replace("fit pairs", "fit").replace("  half-left (1 | 2 3 | 4)\n", "")
    weave = parse_strict(text.replace("  tuck-and-melt (1 | 4)\n", "  overhand (1)\n"))
    c = calibrate(weave, ())
    plan = Plan(target="length", fastening="none")
    pitch = c.pitch("bar").median
    even, odd = (c.fixed_mm + n * pitch + c.pitch("end").median for n in (10, 11))
    sizes = (SizeRow(name="even", size_mm=even), SizeRow(name="odd", size_mm=odd))
    sheet = build_sheet(weave, c, plan, SheetChoices(sizes=sizes))
    assert [dict(s.counts)["bar"] for s in sheet.sizes] == [10, 11]
    said = [s.sentence for s in sheet.sections[-1].steps]
    assert said[0].startswith("even: A (")  # after an even number every end is back in its place
    assert said[1].startswith("odd: D (")
    assert all("far left" in text for text in said)
    one = build_sheet(weave, c, plan, SheetChoices(sizes=sizes[1:]))
    assert [s.sentence for s in one.sections[-1].steps] == [said[1].removeprefix("odd: ")]
