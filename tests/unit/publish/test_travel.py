"""What goes along in a published page: what a reader needs, and what the designer chose; nothing private by itself."""

import base64
import re
from dataclasses import replace

import pytest

from dim_ladder.calibrate import Reading, Tie
from dim_ladder.commands.sheets import read_sheet, travelling, write_sheet
from dim_ladder.notation import parse_strict
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.shelf import Document, document_text
from helpers.browser import dom
from helpers.weaves import TERN

PRIVATE = (
    "warden",
    "spool-7",
    "left-handed",
    "/home/warden/photos/one.jpg",
    "half typed",
    "do not tell",
    "my-tie",
)
SCRIPT = TERN.replace("half-right (1 | 2 3 | 4)", "half-right (1 | 2 3 | 4)  -- do not tell", 1)


def document(carry=("ties",)):
    readings = (Reading(ends=("tide.a", "tide.b"), cut_mm=1800, left_mm=900),)
    tie = Tie(
        id="my-tie", who="warden", lot="spool-7", note="left-handed", photos=("/home/warden/photos/one.jpg",),
        counts={"bar": 6}, length_mm=100, readings=readings,
    )  # fmt: skip
    doc = Document.of_script(SCRIPT, parse_strict(SCRIPT))
    return replace(doc, ties=(tie,), draft="weave half typed", sheet=SheetChoices(carry=carry))


def whole_text(path):
    """The page, with what is packed up in it."""
    raw = path.read_bytes().decode("utf-8", "replace")
    packed = re.findall(r"[A-Za-z0-9+/=]{200,}", raw)
    return raw + "".join(base64.b64decode(p + "=" * (-len(p) % 4)).decode("utf-8", "replace") for p in packed)


@pytest.mark.parametrize("carry", [(), ("ties",)])
def test_nothing_private_travels_by_itself(tmp_path, carry):
    for path in write_sheet(document(carry), tmp_path, ["html", "md", "csv", "svg"]):
        text = whole_text(path)
        assert not [word for word in PRIVATE if word in text], path.name
        assert str(tmp_path) not in text


def test_a_reader_gets_the_weave_and_the_same_cuts(tmp_path):
    doc = document()
    (page,) = write_sheet(doc, tmp_path, ["html"])
    found = read_sheet(page)
    assert found.weave.sections[0].items[0].knot == "half-right"
    assert found.ties[0].readings == doc.ties[0].readings
    assert found.ties[0].id == "T1"
    assert (found.plan, found.sheet, found.draft, found.layout) == (doc.plan, doc.sheet, "", "")
    assert document_text(travelling(found)) == document_text(found)  # once more, and nothing more goes


@pytest.mark.parametrize(
    ("carry", "there"),
    [
        (("ties", "names"), {"warden", "spool-7", "left-handed", "my-tie"}),
        (("remarks",), {"do not tell"}),
        (("names",), set()),  # of ties that do not go
        (("ties", "names", "remarks"), {"warden", "spool-7", "left-handed", "my-tie", "do not tell"}),
    ],
)
def test_what_is_chosen_travels_and_paths_never(tmp_path, carry, there):
    (page,) = write_sheet(document(carry), tmp_path, ["html"])
    text = whole_text(page)
    assert {word for word in PRIVATE if word in text} == there


def test_line_breaks_in_a_name_keep_the_table_whole(tmp_path):
    sizes = SheetChoices.model_validate({"sizes": [{"name": "S\n| x |\r\nM", "size_mm": 150}]})
    (page,) = [
        p for p in write_sheet(replace(document(), sheet=sizes), tmp_path, ["md"]) if p.suffix == ".md"
    ]
    lines = page.read_text("utf-8").split("\n")
    at = next(i for i, line in enumerate(lines) if line.startswith("| Size"))
    rows = lines[at : lines.index("", at)]
    assert len(rows) == 2 + 2  # a row a cord
    assert {len(re.findall(r"(?<!\\)\|", row)) for row in rows} == {11}


@pytest.mark.parametrize("fragment", ["%", "%zz", "%E0%A4%A"])
def test_an_address_that_is_none_leaves_the_size_picker_there(tmp_path, fragment):
    (page,) = write_sheet(document(), tmp_path, ["html"])
    shown, complaints = dom(page, fragment)
    assert complaints == ""
    assert re.search(r'<form id="set">', shown)
