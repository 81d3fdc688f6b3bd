"""The calibration of a document as its shapes come, and what weaves say of their cord."""

import pytest

from dim_ladder.base import WorldError
from dim_ladder.calibrate import calibrate
from dim_ladder.calibrate.prior import UNKNOWN, soft_spread
from dim_ladder.commands import calibrating
from dim_ladder.commands.calibrating import (
    Cords,
    Shapes,
    calibration_of,
    calibrations,
    digest,
    keep_cords,
    load_cords,
)
from dim_ladder.commands.lessons import VIEWS, lesson
from dim_ladder.notation import parse_strict
from dim_ladder.picture.display import PAPER
from dim_ladder.scale import Plan
from dim_ladder.shelf import Document
from helpers.ties import tie
from helpers.weaves import TERN, weave_of

W = parse_strict(TERN)
TIES = tuple(tie(f"T{i}", 6 + i) for i in range(3))


@pytest.fixture(autouse=True)
def _own_shapes(tmp_path, monkeypatch):
    monkeypatch.setenv("DIM_LADDER_CACHE", str(tmp_path / "shapes"))


def test_it_is_rough_at_once_and_shaped_a_moment_later():
    shapes = Shapes()
    first, last = calibrations(W, TIES, UNKNOWN, shapes)
    assert (first.prior.shaped, last.prior.shaped) == ((), ("bar",))
    (again,) = calibrations(W, TIES, UNKNOWN, shapes)
    assert again.prior.shaped == ("bar",)
    assert again.need("buoy.a", {"bar": 9}) == calibration_of(Document(W, TIES)).need("buoy.a", {"bar": 9})
    assert list(calibrations(weave_of(2), (), UNKNOWN, shapes)) == []


def test_a_stop_leaves_off_and_so_does_what_does_not_come_to_rest(monkeypatch):
    assert len(list(calibrations(W, TIES, UNKNOWN, Shapes(), lambda: True))) == 1
    shapes = Shapes()
    with monkeypatch.context() as hurried:
        hurried.setattr(calibrating, "MOST_STEPS", 10)
        (only,) = calibrations(W, TIES, UNKNOWN, shapes)
    assert only.prior.shaped == ()
    (again,) = calibrations(W, TIES, UNKNOWN, shapes)  # it was tried, and is not tried again
    assert again.prior.shaped == ()


def test_large_work_comes_after_small_and_is_not_left_to_who_looks(tmp_path, monkeypatch):
    monkeypatch.setenv("DIM_LADDER_CACHE", str(tmp_path / "others"))
    text = 'weave "x"\ncords\n' + "".join(f"  k{i} nylon-4mm #445566\n" for i in range(5))
    text += "hang\n  k0.a k1.a k2.a k3.a k4.a\nsection rows: body\n  bar-right (1 | 2..5)\n  bar-left (1..4 | 5)\n"
    weave = parse_strict(text + "section plait: body\n  plait-3 (1 2 3)\n")
    monkeypatch.setattr(calibrating, "MOST_CORNERS", 60)
    made = [c.prior.shaped for c in calibrations(weave, (), UNKNOWN, Shapes())]
    assert made == [(), ("plait",), ("rows", "plait")]


def test_cords_are_known_from_other_weaves_once_each(tmp_path):
    told = Cords().told("a", calibrate(W, TIES), TIES)
    more = tuple(tie(f"T{i}", 7 + i, 1.03) for i in range(3))
    assert told.others("a", TIES).kind("nylon-4mm")[1] == soft_spread("nylon-4mm")  # not from itself
    known = told.others("b", more).kind("nylon-4mm")
    assert known[1] < soft_spread("nylon-4mm")
    # A copy under another name says nothing new, neither to others nor to the weave it was copied from.
    copied = told.told("copy of a", calibrate(W, TIES), TIES)
    assert copied.others("b", more).kind("nylon-4mm") == known
    assert copied.others("a", TIES).kind("nylon-4mm")[1] == soft_spread("nylon-4mm")
    assert (
        digest(TIES[0]) == digest(TIES[0].model_copy(update={"id": "other", "note": "x"})) != digest(TIES[1])
    )
    path = tmp_path / "state" / "cords.json"
    keep_cords(copied, path)
    assert load_cords(path) == copied
    path.write_text("nonsense", "utf-8")
    assert load_cords(path) == Cords() == load_cords(tmp_path / "nothing")
    with pytest.raises((WorldError, OSError)):
        keep_cords(copied, path / "below a file")
    assert told.told("a", calibrate(W, ()), ()).weaves == {}


@pytest.mark.parametrize("view", VIEWS)
def test_a_lesson_has_its_chart_with_its_table(view):
    c = calibrate(W, TIES)
    found = lesson(W, c, TIES, Plan(), view, PAPER)
    assert found.calibration is c
    assert found.misfits == ()
    assert len(found.chart.columns) == len(found.chart.rows[0])
    assert found.chart.spots
    assert {s.tie for s in found.chart.spots} <= {"T0", "T1", "T2", ""}
    width, height = found.chart.picture.width, found.chart.picture.height
    assert all(0 <= s.x <= width and 0 <= s.y <= height for s in found.chart.spots)
