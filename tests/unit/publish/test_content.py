"""What else stands on a sheet: what the work is held against, materials, time, what is hard, the designer's own words and photo."""

from __future__ import annotations

import io
from dataclasses import replace

import pytest
from PIL import Image
from pypdf import PdfReader

from dim_ladder.base import InputError
from dim_ladder.calibrate.prior import UNKNOWN
from dim_ladder.calibrate.timing import timing
from dim_ladder.commands import seeing
from dim_ladder.commands.calibrating import Shapes, calibration_of, calibrations
from dim_ladder.commands.sheets import sheet_of, travelling, write_sheet
from dim_ladder.notation import parse_strict, write
from dim_ladder.publish import SizeRow, to_html, to_markdown, to_pdf
from dim_ladder.publish.effort import difficulty, piece_minutes
from dim_ladder.publish.photo import KEPT, LONGEST, photo_bytes, photo_jpeg, photo_text
from dim_ladder.publish.reworded import with_words
from dim_ladder.publish.seen import CHECK_MM
from dim_ladder.scale import Plan
from dim_ladder.shelf import Document, document_text, read_document_text
from dim_ladder.shelf.workshop import demo_texts
from dim_ladder.trace import trace
from helpers.weaves import TERN

BEADS = """weave "Bead Row"

cords
  hold  nylon-4mm  #1f6f8b
  work  nylon-4mm  #d98a1f

beads
  drop  8 mm  #8a1c1c

hang
  work.a hold.a hold.b work.b

section head: start
  2: bead drop

section row: body, fit
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)
  2+3: bead drop

section end: finish
  tuck-and-melt (1 4)
"""


def demo(name: str) -> Document:
    return read_document_text(demo_texts()[f"{name}.dimladder"], name)


@pytest.fixture(scope="module")
def tern():
    return demo("tern-ladder")


def test_checkpoints_say_what_the_tape_reads_and_show_it(tern):
    calibration = calibration_of(tern)
    sheet = sheet_of(tern, calibration)
    (part,) = [p for p in sheet.sections if p.checks]
    first = part.checks[0]
    assert len(first.faces) == 2
    reads = calibration.length({part.name: first.units})
    assert abs(reads.median - CHECK_MM) < CHECK_MM / 2
    low, high = reads.interval(0.9)
    assert first.words == f"{reads.median:.0f} mm, 9 in 10 between {low:.0f} mm and {high:.0f} mm"
    most = max(dict(c.counts)[part.name] for c in sheet.sizes)
    assert all(first.units * k == c.units <= most for k, c in enumerate(part.checks, 1))
    html, pdf = to_html(sheet, "{}"), to_pdf(sheet)
    assert f"So it looks after {first.units}." in html
    assert b"%PDF" in pdf


def test_the_two_likeliest_slips_look_otherwise_and_count_no_crossings(tern):
    (part,) = [p for p in sheet_of(tern).sections if p.slips]
    assert len(part.slips) == 2
    first, second = part.slips
    assert first.name == "the same side twice"
    assert "twist" in first.tell
    assert first.name != second.name
    assert first.picture is not None
    assert second.picture is not None
    assert first.picture.shapes != second.picture.shapes
    for s in part.slips:
        assert "crossing" not in s.tell.replace("crossings of it", "")


@pytest.mark.parametrize("name", ["tern-ladder", "double-bar", "marsh-curl", "marsh-ring", "reed-plait", "sandpiper", "sluice-hanging"])  # fmt: skip
def test_every_demo_says_its_time_and_how_far_it_misses(name):
    doc = demo(name)
    calibration = calibration_of(doc)
    sheet = sheet_of(doc, calibration)
    made = [c for c in sheet.sizes if not c.problem]
    assert made
    for c in made:
        assert c.off
        assert c.minutes.startswith("about ")
        assert c.minutes == piece_minutes(timing(calibration.prior, doc.ties), dict(c.counts))
    assert "The time is" in sheet.basis


def test_beads_are_counted_for_every_size():
    doc = Document(parse_strict(BEADS), (), Plan(fastening="side-buckle"))
    sheet = sheet_of(doc)
    counts = {c.name: dict(c.counts)["row"] for c in sheet.sizes}
    said = ", ".join(f"{n + 1} for {name}" for name, n in counts.items())
    assert sheet.materials[0] == f"bead “drop”, 8 mm across: {said}; 2 ends go through each"
    assert sheet.materials[-1].startswith("a side-release buckle")


def test_a_ring_is_seen_from_its_side_and_from_above_as_it_lies_on_its_former():
    text = """weave "Reed Ring"
cords
  reed  nylon-3mm  #1f6f8b
hang on former
  reed.a
section ring: body, on former, leads 3 bights 5
"""
    sheet = sheet_of(Document(parse_strict(text), (), Plan(size_mm=200.0)))
    side, above = sheet.faces
    assert sheet.sides == ("side", "above")
    assert "not shown" not in sheet.basis
    assert sheet.cover is None
    # As wide as the former and the ring on it, whichever way it is seen; a ring is low and has a hole.
    assert side.width == pytest.approx(above.width, rel=0.05)
    assert above.height == pytest.approx(above.width, rel=0.05)
    assert side.height < 0.5 * side.width
    across = above.width / 12 * 3  # mm
    assert 200 / 3.1416 < across < 200 / 3.1416 + 25
    head = to_html(sheet, "{}").split("<main>")[0]
    assert "<figcaption>above</figcaption>" in head
    assert "side" in PdfReader(io.BytesIO(to_pdf(sheet))).pages[0].extract_text()


def test_a_finish_without_a_shape_is_said_not_to_be_drawn():
    text = """weave "Chain Pull"
cords
  line  nylon-3mm  #c22f2b
hang
  line.a
section chain: start
  line.a: over own left @link, bight up @link @link
section links: body, fit
  line.a: bight up @link @link
section lock: finish, repeat 2
  line.a: up @link
"""
    sheet = sheet_of(Document(parse_strict(text), (), Plan(target="length", size_mm=150.0, fastening="none")))
    assert len(sheet.piece) == 2
    assert sheet.piece_sides == ("front", "back; lock not drawn")
    assert "<figcaption>back; lock not drawn</figcaption>" in to_html(sheet, "{}")
    assert "lock not drawn" in PdfReader(io.BytesIO(to_pdf(sheet))).pages[0].extract_text()
    assert "![The finished piece, back; lock not drawn](b.png)" in to_markdown(sheet, {}, ("a.png", "b.png"))
    # One end of the cord hangs: it is not folded.
    assert sheet.hanging.startswith("Hang the cord knotted to a bar by one end. One end hangs: A red")


def test_a_cord_of_one_end_has_an_end_and_not_ends():
    """On paper and in the page too."""
    weave = parse_strict(
        TERN.replace("buoy.a tide.a tide.b buoy.b", "buoy.a tide.a tide.b")
        .replace("(1 | 2 3 | 4)", "(1 | 2 | 3)")
        .replace("(1 | 4)", "(1 | 3)")
    )
    sheet = sheet_of(Document(weave))
    for text in (to_markdown(sheet, {}), to_html(sheet, "")):
        assert "end A" in text
        assert "ends B and C" in text
        assert "ends A<" not in text
        assert "ends A\n" not in text


def test_cords_that_are_joined_are_said_with_their_caution():
    text = TERN.replace("\nhang", "  rear  nylon-4mm  #884422  joined to buoy\n\nhang", 1).replace(
        "buoy.b", "rear.a", 1
    )
    doc = Document(parse_strict(text), (), Plan())
    sheet = sheet_of(doc)
    assert any(m.startswith("rear and buoy are two cords joined end to end") for m in sheet.materials)
    assert any(c.startswith("Open flame") for c in sheet.cautions)


def test_what_is_hard_is_said():
    easy = difficulty(parse_strict(TERN), trace(parse_strict(TERN)), 4)
    assert easy == "easy"
    mat = demo("marsh-ring").weave
    assert difficulty(mat, trace(mat), 20) == "needs attention: it is worked round a former"
    beads = parse_strict(BEADS)
    assert difficulty(beads, trace(beads), 5).endswith("beads stand at their places")
    led = parse_strict(
        'weave "B"\n\ncords\n  w  nylon-4mm  #334455\n\nhang on loop\n  w.a w.b\n\nsection k: body\n  button-two (1 2)\n'
    )
    assert "led through the work itself" in difficulty(led, trace(led), 12)


# -- the designer's own words ------------------------------------------------------------------------


def test_own_words_stand_on_every_page_until_the_step_changes(tern, tmp_path):
    was = sheet_of(tern).sections[0].steps[0].told.text
    choices = with_words(tern.sheet, "bar", 1, was, "Lay the far  right cord\nacross, as a tern flies.")
    flagged_text = choices.reworded[0].text
    doc = replace(tern, sheet=choices)
    sheet = sheet_of(doc)
    assert sheet.sections[0].steps[0].told.text == "Lay the far right cord across, as a tern flies."
    assert sheet.flagged == ()
    html, md = write_sheet(doc, tmp_path, ["html", "md"])[:2]
    for page in (html, md):
        assert "as a tern flies" in page.read_text("utf-8")
    assert was not in sheet_of(doc).sections[0].steps[0].told.text
    # In another vocabulary the program speaks, and the words wait.
    other = replace(doc, sheet=choices.model_copy(update={"vocabulary": "macrame"}))
    assert "tern flies" not in to_html(sheet_of(other), "{}")
    assert sheet_of(other).flagged == ()
    # The step changes: the program's words stand there, and the person's are kept and named.
    changed = replace(doc, weave=parse_strict(TERN.replace("v: over c", "v: under c", 1)))
    sheet = sheet_of(changed)
    now = sheet.sections[0].steps[0].told.text
    assert now not in (was, flagged_text)
    (flag,) = sheet.flagged
    assert (flag.own.text, flag.now) == (flagged_text, now)


def test_own_words_follow_their_step_when_others_come_before_it(tern):
    """Something is glued first now: the step that was the first is the second, and is said as before."""
    was = sheet_of(tern).sections[1].steps[0].told.text
    choices = with_words(tern.sheet, "end", 1, was, "Make the ends fast as you like best.")
    longer = parse_strict(
        write(tern.weave).replace("section end: finish\n", "section end: finish\n  glue (2)\n", 1)
    )
    sheet = sheet_of(replace(tern, sheet=choices, weave=longer))
    said = [s.told.text for s in sheet.sections[1].steps]
    assert len(said) == 2
    assert said[1] == "Make the ends fast as you like best."
    assert sheet.flagged == ()


def test_a_section_that_is_gone_keeps_its_words_named(tern):
    choices = with_words(tern.sheet, "gone", 1, "was", "is")
    (flag,) = sheet_of(replace(tern, sheet=choices)).flagged
    assert (flag.own.section, flag.now) == ("gone", "")


def test_words_are_taken_back_by_saying_what_the_program_says(tern):
    choices = with_words(tern.sheet, "bar", 1, "was", "is")
    assert len(choices.reworded) == 1
    assert with_words(choices, "bar", 1, "was", "was").reworded == ()
    assert with_words(choices, "bar", 1, "was", "  ").reworded == ()
    assert [e.text for e in with_words(choices, "bar", 1, "was", "anew").reworded] == ["anew"]


# -- the photo ---------------------------------------------------------------------------------------


def picture(size=(2400, 1200), form="JPEG", **more) -> bytes:
    out = io.BytesIO()
    image = Image.radial_gradient("L").resize(size).convert("RGB")
    image.paste((200, 30, 30), (0, 0, size[0] // 4, size[1] // 4))
    image.save(out, form, **more)
    return out.getvalue()


def test_a_photo_is_written_anew_upright_and_without_what_it_told():
    exif = Image.Exif()
    exif[0x0112] = 6  # turned a quarter to the right
    exif[0x010E] = "where I live"
    data = picture(exif=exif.tobytes(), comment=b"where I live")
    assert b"where I live" in data
    jpeg = photo_jpeg(data)
    assert b"where I live" not in jpeg
    assert b"Exif" not in jpeg
    image = Image.open(io.BytesIO(jpeg))
    assert image.size == (LONGEST // 2, LONGEST)
    assert (
        image.getpixel((LONGEST // 2 - 20, 20))[0] > 150
    )  # its upper left corner is the upper right one now
    assert len(jpeg) <= KEPT
    assert photo_bytes(photo_text(jpeg)).startswith(b"\xff\xd8")


@pytest.mark.parametrize("data", [b"", b"GIF89a....", b"\xff\xd8\xff\xe0 torn", picture()[:500]])
def test_what_is_no_photo_is_refused(data):
    with pytest.raises(InputError, match="cannot be read as a picture"):
        photo_jpeg(data, "tern.jpg")


def test_a_picture_of_hundreds_of_megapixels_is_not_opened():
    out = io.BytesIO()
    Image.new("1", (20_000, 20_000)).save(out, "PNG")
    with pytest.raises(InputError):
        photo_jpeg(out.getvalue())


def test_a_photo_stands_on_the_sheet_is_kept_and_does_not_travel(tern, tmp_path):
    doc = replace(tern, photo=photo_text(photo_jpeg(picture((400, 300), "PNG"))))
    assert read_document_text(document_text(doc)).photo == doc.photo
    sheet = sheet_of(doc)
    assert sheet.photo.startswith(b"\xff\xd8")
    html = to_html(sheet, document_text(travelling(doc)))
    assert html.count("data:image/jpeg;base64,") == 1
    assert travelling(doc).photo == ""
    assert b"/DCTDecode" in to_pdf(sheet)
    with pytest.raises(InputError, match="photo of the sheet is broken"):
        sheet_of(replace(tern, photo="no base64 !"))


def test_a_body_that_comes_undone_is_said_not_to_be_shown_finished():
    text = """weave "Loose Thing"
cords
  a  nylon-4mm  #1f6f8b
  b  nylon-4mm  #e07a1f
hang
  a.a b.a
section twice-over: body, fit
  {}
  2: over 1
"""
    plan = Plan(target="length", size_mm=150.0, fastening="none")
    loose, holds = (
        sheet_of(Document(parse_strict(text.format(first)), (), plan))
        for first in ("1: over 2", "1: over 2, under 2, up own")
    )
    said = "The finished piece is not shown: how twice over is pulled tight is not known."
    assert loose.piece == ()
    assert said in loose.basis
    assert said in to_html(loose, "{}")
    assert holds.piece
    assert "not shown" not in holds.basis


def test_what_takes_long_is_waited_for_when_a_sheet_is_published(tmp_path, monkeypatch):
    """While it is looked at, work that takes many seconds stands without its finished picture until it is known."""
    monkeypatch.setenv("DIM_LADDER_CACHE", str(tmp_path / "shapes"))
    monkeypatch.setattr(seeing, "MOST_POINTS", 0)
    doc = Document(parse_strict(BEADS), (), Plan(target="length", size_mm=150.0, fastening="none"))
    rough = next(calibrations(doc.weave, (), UNKNOWN, Shapes()))
    assert rough.prior.shaped == ()
    assert sheet_of(doc, rough).piece == ()
    made = write_sheet(doc, tmp_path, ["svg"], calibration=rough)
    assert {f"bead-row-{side}.svg" for side in ("front", "back")} <= {p.name for p in made}


@pytest.mark.parametrize("sizes", range(3, 9))
def test_the_cords_of_a_size_stay_on_its_page(tern, sizes):
    rows = tuple(SizeRow(name=f"Z{k}", size_mm=150.0 + 5 * k) for k in range(sizes))
    sheet = sheet_of(replace(tern, sheet=tern.sheet.model_copy(update={"sizes": rows})))
    pages = ["\n" + p.extract_text() for p in PdfReader(io.BytesIO(to_pdf(sheet))).pages]
    for column in sheet.sizes:
        (at,) = [k for k, text in enumerate(pages) if f"\n{column.name}\n" in text]
        after = pages[at].split(f"\n{column.name}\n")[1]
        own = after.split("\nZ")[0]
        assert all(f"{c.cord}\n{c.cut}" in own for c in column.cuts), own
