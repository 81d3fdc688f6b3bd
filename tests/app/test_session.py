"""The open weave: drafts, traces kept and thrown away, answers of another weave, saving."""

import pytest

from dim_ladder.app.session import Session
from dim_ladder.base import InputError, WorldError
from dim_ladder.commands import AddItem, SetCount, SetName, SetPlan, SetScript
from dim_ladder.commands.draft import begin
from dim_ladder.notation import parse_strict, write
from dim_ladder.scale import Plan, solve
from dim_ladder.shelf import read_document
from dim_ladder.shelf.workshop import make_demo
from dim_ladder.trace import trace
from helpers.weaves import PLAIT, TERN


@pytest.fixture
def session(qtbot, tmp_path):
    s = Session()
    s.open(make_demo(tmp_path / "workshop"))
    qtbot.waitUntil(lambda: not s.jobs.busy)
    yield s
    s.jobs.finish()


def test_a_draft_is_drawn_but_not_recorded(session):
    order = session.board_order()
    session.set_draft(begin(order[0], order).cross(True, order))
    assert len(session.board().steps) == len(
        session.ladder.steps
    )  # the section's four and the draft; the finish is below
    assert session.board().names_shown()[0] == order[1]
    assert session.history.number == 0
    session.set_draft(None)
    assert session.board().names_shown() == order


def test_a_draft_that_cannot_be_traced_is_not_taken(session):
    said = []
    session.said.connect(said.append)
    order = session.board_order()
    good = begin(order[1], order)
    session.set_draft(good)
    session.set_draft(good.through(True, order[1]))
    assert session.draft == good
    assert "no loop of its own yet" in said[-1]


def test_an_edit_under_a_draft_lets_it_go_when_its_tails_moved(session):
    order = session.board_order()
    session.set_draft(begin(order[0], order).cross(True, order))
    session.do(SetName(name="Other"))
    assert session.draft is not None  # the tails hang as before
    session.do(AddItem(section="bar", text="1: over 2"))
    assert session.draft is None


def test_the_same_board_is_not_traced_twice(session):
    assert session.board() is session.board()
    before = session.board()
    session.do(AddItem(section="bar", text="1: over 2"))
    assert session.board() is not before


def test_rates_of_another_weave_are_not_shown(session, qtbot, tmp_path):
    assert session.calibration.ties == 4
    path = tmp_path / "p.weave"
    path.write_text(PLAIT, "utf-8")
    session.open(path)
    assert session.calibration is None
    assert session.turn is None
    qtbot.waitUntil(lambda: session.calibration is not None)
    assert set(session.calibration.prior.role_of) == {"reed.a", "rush.a", "mud.a"}


def test_a_weave_with_a_slip_has_no_rates(session, qtbot):
    session.do(SetScript(text=PLAIT + "  3: over 1\n"))
    qtbot.waitUntil(lambda: not session.jobs.busy)
    assert session.calibration is None
    assert session.ladder.problems


def test_sections_and_rungs_are_chosen_together(session):
    session.choose(4)
    assert session.section == 1
    session.choose(0)
    assert session.section == 0
    session.choose_section(1)
    assert session.chosen == -1
    session.choose_section(9)
    assert session.section == 1
    session.choose(99)
    assert session.chosen == -1


def test_the_count_of_a_section_does_not_lengthen_the_ladder(session):
    before = len(session.ladder.steps)
    session.do(SetCount(section="bar", count="repeat 500"))
    assert len(session.ladder.steps) == before


def test_saving_without_a_file_asks_for_one(session):
    session.new()
    with pytest.raises(InputError, match="no file yet"):
        session.save()


def test_opening_nothing_changes_nothing(session, tmp_path):
    before = session.document
    with pytest.raises(WorldError):
        session.open(tmp_path / "nothing.dimladder")
    assert session.document == before
    assert session.path is not None


def test_closing_writes_what_waits(session):
    path = session.path
    session.do(SetName(name="Late Change"))
    assert read_document(path).weave.name == "Tern Ladder"
    session.close()
    assert read_document(path).weave.name == "Late Change"


def test_a_script_opened_is_not_written_over(session, tmp_path):
    path = tmp_path / "t.weave"
    path.write_text(TERN, "utf-8")
    session.open(path)
    session.do(SetName(name="Changed"))
    session.close()
    assert path.read_text("utf-8") == TERN
    assert session.path is None


def test_below_a_body_all_hangs_as_in_the_chosen_size(session, qtbot):
    weave = parse_strict(
        PLAIT.replace("fit multiple of 3", "fit") + "\nsection knot: finish\n  half-hitch (1 | 2)\n"
    )
    session.do(SetScript(text=write(weave)))
    seen = {}
    for mm in (300, 310, 320, 330, 340):
        session.do(SetPlan(plan=Plan(target="length", size_mm=mm, fastening="none")))
        qtbot.waitUntil(lambda: not session.jobs.busy)
        units = solve(session.weave, session.calibration, session.document.plan).counts
        whole = trace(session.weave, counts=units)
        assert session.ladder.names_shown() == whole.names_shown()
        rungs = [r for r in session.ladder.steps if not r.op.unit]
        seen[session.ladder.names_shown()] = len(rungs)
    assert len(seen) > 1  # the size decides which end is hitched
    assert len(set(seen.values())) == 1  # and the ladder shows one unit in every one


def test_a_chosen_rung_stays_chosen_when_the_size_changes(session, qtbot):
    weave = parse_strict(
        PLAIT.replace("fit multiple of 3", "repeat 1") + "\nsection knot: finish\n  half-hitch (1 | 2)\n"
    )
    session.do(SetScript(text=write(weave)))
    qtbot.waitUntil(lambda: not session.jobs.busy)
    session.choose(len(session.ladder.steps) - 1)
    op = session.ladder.steps[session.chosen].op
    session.do(SetCount(section=weave.sections[0].name, count="repeat 2"))
    qtbot.waitUntil(lambda: not session.jobs.busy)
    assert session.ladder.steps[session.chosen].op.path == op.path
    assert len(session.ladder.steps) > session.chosen


def test_what_only_a_tight_shape_tells_is_said_once_it_is_there(session, qtbot, tmp_path, monkeypatch):
    """A chain of two ends adds turns in every unit, and does not wind up: the check first says what the trace says."""
    monkeypatch.setenv("DIM_LADDER_CACHE", str(tmp_path / "own"))
    kinds = []
    session.traced.connect(lambda: kinds.append(session.turn.kind if session.turn is not None else ""))
    text = (
        write(parse_strict(PLAIT)).split("hang")[0]
        + "hang\n  reed.a rush.a\nsection s: body, fit\n  snake (1 | 2)\n"
    )
    session.do(SetScript(text=text))
    qtbot.waitUntil(lambda: session.turn is not None and session.turn.kind == "straight", timeout=120_000)
    assert "spiral" in kinds
    assert "stays straight" in dict(session.checks.notes)["straight"]
    # One that does wind up stays one that does.
    session.do(SetScript(text=text.replace("snake", "half-hitch")))
    qtbot.waitUntil(lambda: session.turn is not None and session.turn.kind == "spiral", timeout=120_000)
    qtbot.waitUntil(lambda: not session.jobs.busy, timeout=120_000)
    assert session.turn.kind == "spiral"
