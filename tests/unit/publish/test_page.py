"""The page that scales: in a real browser, with the program's own numbers, and without a fault of accessibility."""

from __future__ import annotations

import itertools
import random
import re
from dataclasses import replace

import pytest

from dim_ladder.base import InputError
from dim_ladder.calibrate import calibrate, prior_for
from dim_ladder.calibrate.timing import timing
from dim_ladder.commands.calibrating import calibration_of
from dim_ladder.commands.sheets import write_sheet
from dim_ladder.library import FASTENINGS, VOCABULARIES
from dim_ladder.notation import parse_strict
from dim_ladder.publish import SheetChoices, SizeRow, to_html
from dim_ladder.publish.effort import piece_minutes
from dim_ladder.publish.page import RISKS, build_page, in_kind
from dim_ladder.publish.sheet import cut_rows, glossary, off_words
from dim_ladder.scale import Plan, closing_of, solve
from dim_ladder.scale.cuts import odds
from dim_ladder.shape import rough_shape
from dim_ladder.shelf import Document, read_document_text
from dim_ladder.shelf.workshop import demo_texts
from dim_ladder.trace import trace
from dim_ladder.words.phrases import LIES
from helpers.ties import tie
from helpers.trying import choose, faults, width
from helpers.weaves import PLAIT, SPIRAL, TERN

MOST_BYTES = 1_000_000


def demo(name: str) -> Document:
    return read_document_text(demo_texts()[f"{name}.dimladder"], name)


def page_of(doc: Document, folder):
    (page,) = write_sheet(doc, folder, ["html"])
    return page


def random_choices(doc: Document, count: int, seed: int) -> list[tuple[Plan, dict[str, str]]]:
    """Plans, and the fields of the page that ask for the same."""
    rng = random.Random(seed)
    risks = sorted({*RISKS, doc.plan.risk}, reverse=True)
    out = []
    for _ in range(count):
        size, ease, risk = rng.randint(122, 235), rng.randint(-5, 25), rng.choice(risks)
        own = closing_of(doc.weave, doc.plan)
        # A closure that slides takes cord of the ends: a page offers none but that, or all others.
        closing = own.key if own.of.opens else rng.choice([k for k, f in FASTENINGS.items() if not f.opens])
        units = rng.choice(["metric", "imperial"])
        update = {
            "size_mm": float(size),
            "ease_mm": float(ease),
            "fastening": closing,
            "risk": risk,
            "chosen": {},
        }
        unit = 10 if units == "metric" else 25.4
        fields = {
            "units": units, "size": "own", "own": f"{size / unit:.4f}", "ease": f"{ease / unit:.4f}", "closing": closing,
            "risk": str(risks.index(risk)), "voice": rng.choice(list(VOCABULARIES)), "lie": rng.choice(list(LIES)),
        }  # fmt: skip
        out.append((doc.plan.model_copy(update=update), fields))
    return out


BANDS = {
    "band": demo("tern-ladder"),
    "spiral": Document(parse_strict(SPIRAL), (tie("T1"), tie("T2", 8, 1.02)), Plan()),
    "sliding": Document(parse_strict(TERN), (tie("T1"),), Plan(fastening="sliding", open_mm=44.0)),
}


@pytest.mark.parametrize("name", BANDS)
def test_two_hundred_random_choices_have_the_programs_own_numbers(name, tmp_path):
    doc = BANDS[name]
    calibration = calibration_of(doc)
    choices = random_choices(doc, 100, 3)
    said = choose(page_of(doc, tmp_path), [fields for _, fields in choices])
    assert len(said) == 100
    counted, one = 0, trace(doc.weave)
    for (plan, fields), page in zip(choices, said, strict=True):
        try:
            piece = solve(doc.weave, calibration, plan)
        except InputError:
            assert page["cuts"] == []
            continue
        if not page["cuts"]:
            assert page["made"].startswith("This size cannot be made from this page")
            continue
        counted += 1
        rows = cut_rows(piece, fields["units"])
        assert [c["mm"] for c in page["cuts"]] == [r.cut_mm for r in rows]
        assert [c["cells"] for c in page["cuts"]] == [[r.cord, r.cut, r.fold, r.chance] for r in rows]
        assert page["made"].startswith(", ".join(f"{n} × {s}" for s, n in piece.counts.items()))
        assert page["words"] == [x for pair in glossary(doc.weave, one, fields["voice"]) for x in pair]
        assert f". A piece runs short: {odds(piece.chance_short)}." in page["made"]
        assert page["made"].endswith(
            f"It takes {piece_minutes(timing(calibration.prior, doc.ties), piece.counts)}."
        )
        off = off_words(piece.option.error_mm, plan.target, "metric")
        if fields["units"] == "metric":
            assert f", {off}." in page["made"]
    assert counted > 70


def test_a_reader_ties_it_in_another_cord(tmp_path):
    """The same band in a cord of the designer's list: its own counts and cuts, as the program gives them for it."""
    doc = BANDS["band"]
    doc = replace(doc, sheet=doc.sheet.model_copy(update={"kinds": ("cotton-3mm",)}))
    other = replace(doc, weave=in_kind(doc.weave, "cotton-3mm"))
    said = choose(page_of(doc, tmp_path), [{"size": "M"}, {"cord": "1"}, {"cord": "0"}])
    assert said[0] == said[2]
    for page, of in zip(said, (doc, other), strict=False):
        plan = of.plan.model_copy(update={"size_mm": 170.0, "chosen": {}})
        rows = cut_rows(solve(of.weave, calibration_of(of), plan), "metric")
        assert [c["mm"] for c in page["cuts"]] == [r.cut_mm for r in rows]
    assert said[0]["cuts"] != said[1]["cuts"]


def test_a_ring_takes_the_ease_that_is_set(tmp_path):
    doc = demo("marsh-ring")
    calibration = calibration_of(doc)
    said = choose(page_of(doc, tmp_path), [{"size": "own", "own": "18", "ease": "1.2"}, {"ease": "0.4"}])
    for page, ease in zip(said, (12.0, 4.0), strict=True):
        plan = doc.plan.model_copy(update={"size_mm": 180.0, "ease_mm": ease})
        rows = cut_rows(solve(doc.weave, calibration, plan), "metric")
        assert [c["mm"] for c in page["cuts"]] == [r.cut_mm for r in rows]


@pytest.mark.parametrize("largest", [200.0, 900.0])
def test_where_free_cord_follows_the_girth_every_size_can_be_asked_for(largest):
    """Each is a piece of its own: of a great reach they are further apart, and none is left out."""
    text = TERN.replace("  half-right", "  span 1 of 40 of girth\n  half-right", 1)
    weave = parse_strict(text)
    sizes = tuple(SizeRow(name=n, size_mm=mm) for n, mm in (("S", 150.0), ("L", largest)))
    plan, choices = Plan(target="girth", size_mm=170.0), SheetChoices(sizes=sizes)
    page = build_page(weave, calibrate(weave, (), prior_for(weave, rough_shape(weave))), plan, choices)
    assert page.data is not None, page.why
    (table,) = page.data["tables"]
    assert -1 not in table["index"]
    assert table["low"] <= 150.0 * 0.8
    assert table["low"] + table["step"] * (len(table["index"]) - 1) >= largest * 1.25
    assert table["step"] == 2 or largest > 300


def test_words_and_who_finishes_follow_what_is_chosen(tmp_path):
    """A plait moves its ends: after one count more, other ends are made fast."""
    weave = parse_strict(PLAIT.replace("fit multiple of 3", "fit") + "\nsection end: finish\n  tuck (1)\n")
    doc = Document(weave, (), Plan(target="length", size_mm=200.0, fastening="none"))
    calibration = calibration_of(doc)
    page = build_page(weave, calibration, doc.plan, doc.sheet)
    assert len(set(page.data["tables"][0]["ways"])) == 3
    sizes = [str(s) for s in range(15, 20)]
    choices = [{"size": "own", "own": s, "voice": v, "lie": "table"} for s in sizes for v in VOCABULARIES]
    said = choose(page_of(doc, tmp_path), choices)
    last = {tuple(p["steps"][-1]) for p in said}
    assert len({text.split(":")[0] for _, text in last}) == 3
    for fields, told in zip(choices, said, strict=True):
        plan = doc.plan.model_copy(update={"size_mm": float(fields["own"]) * 10})
        count = solve(weave, calibration, plan).counts["reed"]
        assert told["times"] == [f"{count} times"]
        start = {"plain": "C (", "paracord": "Take C (", "macrame": "Bring C ("}[fields["voice"]]
        assert told["steps"][0][1].startswith(start)
        assert ": from" not in told["steps"][-1][1]


@pytest.mark.parametrize("name", ["tern-ladder", "marsh-ring", "reed-plait"])
def test_axe_finds_nothing_in_light_and_dark_and_while_tying_along(name, tmp_path):
    page = page_of(demo(name), tmp_path)
    assert page.stat().st_size < MOST_BYTES
    assert faults(page) == []
    assert faults(page, "", "--force-dark-mode", "--blink-settings=preferredColorScheme=0") == []
    assert faults(page, "document.getElementById('along').click()") == []


def test_axe_finds_what_is_there(tmp_path):
    page = page_of(demo("tern-ladder"), tmp_path)
    broken = tmp_path / "broken.html"
    broken.write_text(
        page.read_text("utf-8").replace('<html lang="en">', "<html>").replace("<main>", "<div>"), "utf-8"
    )
    assert any(f.startswith("html-has-lang") for f in faults(broken))


@pytest.mark.parametrize("name", ["tern-ladder", "sluice-hanging"])
def test_on_a_hand_held_screen_nothing_is_cut_off(name, tmp_path):
    page = page_of(demo(name), tmp_path)
    whole, *tables = width(page, 390)
    assert whole <= 390
    assert len(tables) == 2
    assert max(tables) <= 1


def test_headings_are_in_order_and_nothing_is_said_twice(tmp_path):
    text = page_of(demo("tern-ladder"), tmp_path).read_text("utf-8")
    levels = [int(n) for n in re.findall(r"<h(\d)", text.split("<dialog")[0])]
    assert levels[0] == 1
    assert all(b <= a + 1 for a, b in itertools.pairwise(levels))
    assert text.count("<main>") == 1
    for step in re.findall(r'<li value="\d+".*?</li>', text, re.S):
        assert 'class="picture" aria-hidden="true"' in step
        assert '<span class="spoken">Step </span>' in step


@pytest.mark.parametrize(("steps", "drawn"), [(100, 10), (200, 4)])
def test_a_one_off_mat_of_hundreds_of_steps_makes_no_page_of_megabytes(steps, drawn):
    """Every step has a picture; drawn as lines they would come to three megabytes and more."""
    rng = random.Random(5)
    lines = [
        'weave "Wild Mat"',
        "",
        "cords",
        *(f"  c{k}  cotton-3mm  #{rng.randrange(0x1000000):06x}" for k in range(9)),
    ]
    lines += ["", "hang on bar", "  " + " ".join(f"c{k}.a" for k in range(9)), "", "section mat: body"]
    for _ in range(steps):
        k = rng.randint(2, 8)
        there = list(range(k - 1, 0, -1)) if rng.random() < 0.5 else list(range(k + 1, 10))
        lines.append(f"  {k}: " + ", ".join(f"{rng.choice(['over', 'under'])} {p}" for p in there))
    weave = parse_strict("\n".join(lines) + "\n")
    plan = Plan(target="length", size_mm=300.0, fastening="none")
    page = build_page(
        weave,
        calibrate(weave, (), prior_for(weave, rough_shape(weave), shapes={})),
        plan,
        SheetChoices(sizes=(SizeRow(name="M", size_mm=300),)),
    )
    assert len(page.sheet.sections[0].steps) > 0.6 * steps
    html = to_html(page.sheet, "{}", page.data, page.why)
    assert len(html) < MOST_BYTES
    assert html.count("data:image/webp") > 20
    assert html.count("<svg") > drawn
