import pytest

from dim_ladder.base import InputError
from dim_ladder.commands import (
    ACTIONS,
    AddItem,
    AddItems,
    AddMirrored,
    AddSection,
    AddTie,
    ExtractKnot,
    FlipItems,
    History,
    InlineKnot,
    MirrorItems,
    MoveItem,
    RemoveItem,
    RemoveTie,
    RenameCord,
    RepeatItems,
    ReplaceItem,
    ReplaceItems,
    ReplaceTie,
    SetColour,
    SetCordKind,
    SetCount,
    SetDraft,
    SetHow,
    SetName,
    SetPlan,
    SetScript,
    SetSheet,
    SwapLeader,
    read_edit,
)  # fmt: skip
from dim_ladder.commands.draft import begin
from dim_ladder.notation import Step, parse_item, parse_strict, write, write_item
from dim_ladder.publish import SheetChoices
from dim_ladder.scale import Plan
from dim_ladder.shelf import Document
from dim_ladder.trace import trace
from dim_ladder.trace.turning import turning
from helpers.ties import tie
from helpers.weaves import SPIRAL, TERN, weave_of

DOC = Document(parse_strict(TERN), (tie("T1"),))

EVERY = [
    SetScript(text=SPIRAL),
    SetDraft(text="weave half"),
    AddItem(section="bar", text="4: over 3 2"),
    AddItem(section="bar", text="half-hitch (1 | 2)", at=0),
    RemoveItem(section="bar", at=1),
    ReplaceItem(section="bar", at=0, text="1: over 2, up own tight -- so"),
    MoveItem(section="bar", at=0, to=1),
    AddMirrored(section="bar"),
    AddSection(name="edge", part="start", count="repeat 2"),
    SetCount(section="bar", count="fit multiple of 3"),
    SetHow(section="bar", how="repeat 3, mirror every other, spiral"),
    SetColour(cord="tide", colour="#AABBCC"),
    SetName(name="Sluice Bar"),
    AddTie(tie=tie("T2")),
    ReplaceTie(id="T1", tie=tie("T1", 9)),
    RemoveTie(id="T1"),
    SetPlan(plan=Plan(size_mm=190)),
    SetSheet(sheet=SheetChoices(vocabulary="macrame")),
    AddItems(section="bar", text="-- again\n1: over 2\n2: over 1", at=1),
    ReplaceItems(section="bar", at=0, last=1, text="1: over 2", why="Keep the ends"),
    RepeatItems(section="bar", at=0, last=1, times=3),
    MirrorItems(section="bar", at=0),
    FlipItems(section="bar", at=0),
    SwapLeader(section="bar", at=0),
    ExtractKnot(section="bar", at=0, last=1, name="flat-unit"),
    InlineKnot(section="bar", at=0),
    RenameCord(cord="tide", to="creek"),
    SetCordKind(cord="tide", to="nylon-3mm"),
]


@pytest.mark.parametrize("edit", EVERY, ids=lambda e: e.kind)
def test_every_edit_changes_is_named_is_data_and_is_undone(edit):
    history = History(DOC)
    after = history.do(edit)
    assert after != DOC
    assert history.undo_label == edit.label() != ""
    assert read_edit(edit.model_dump_json()) == edit
    assert history.undo() == DOC
    assert history.redo_label == edit.label()
    assert history.redo() == after
    assert parse_strict(write(after.weave)) == after.weave


WRONG = [
    (AddItem(section="nope", text="1: over 2"), "no section “nope”"),
    (AddItem(section="bar", text="1 over 2"), "expected “:”"),
    (AddItem(section="bar", text="1: over 2", at=9), "no step 10"),
    (RemoveItem(section="bar", at=7), "no step 8: the section has 2"),
    (MoveItem(section="bar", at=0, to=-1), "no step 0"),
    (AddSection(name="bar"), "already"),
    (AddSection(name="two words"), "expected"),
    (SetCount(section="bar", count="often"), "expected a count"),
    (SetHow(section="bar", how="fit, layer over end"), "expected a count"),
    (SetHow(section="bar", how="fit pairs extra"), "extra"),
    (SetHow(section="bar", how="same as end"), "no section"),
    (SetColour(cord="moss", colour="#112233"), "no cord “moss”"),
    (SetScript(text="weave"), "has no name"),
    (AddTie(tie=tie("T1")), "already"),
    (RemoveTie(id="T9"), "no tie “T9”"),
    (AddMirrored(section="end"), "has no mirror image"),
]


@pytest.mark.parametrize(("edit", "message"), WRONG, ids=lambda e: getattr(e, "kind", ""))
def test_an_edit_that_cannot_be_made_changes_nothing(edit, message):
    history = History(DOC)
    with pytest.raises(InputError, match=message):
        history.do(edit)
    assert history.document is DOC
    assert history.number == 0
    assert history.undo_label == ""


def test_unknown_edits_are_refused():
    with pytest.raises(InputError):
        read_edit('{"kind": "format-disk"}')
    with pytest.raises(InputError):
        read_edit("nonsense")


def test_the_stream_tells_every_event_in_order():
    history = History(DOC)
    heard = []
    history.listen(lambda doc, entry: heard.append((entry.number, entry.what, entry.edit.kind)))
    history.do(SetName(name="A"))
    history.do(SetName(name="A"))  # nothing new: no event
    history.undo()
    history.undo()
    history.redo()
    history.do(SetName(name="B"))
    history.redo()
    assert heard == [
        (1, "do", "set-name"),
        (2, "undo", "set-name"),
        (3, "redo", "set-name"),
        (4, "do", "set-name"),
    ]


def test_typing_is_one_undo():
    history = History(DOC)
    for text in ("weave", "weave ", 'weave "'):
        history.do(SetDraft(text=text))
    history.undo()
    assert history.document == DOC


def test_the_mirror_image_of_a_spiral_unit_makes_it_flat():
    for weave in (parse_strict(SPIRAL), weave_of(4, "4: over 3 2", "1: over 2, under 3 4, up 2")):
        name = weave.sections[0].name
        assert turning(weave, name).kind == "spiral"
        after = AddMirrored(section=name).apply(Document(weave)).weave
        assert turning(after, name).kind == "flat"


def test_removing_keeps_comments_of_the_others():
    doc = Document(parse_strict(TERN.replace("  half-left", "  -- the other side\n  half-left")))
    after = RemoveItem(section="bar", at=0).apply(doc)
    assert "-- the other side" in write(after.weave)


def test_replacing_keeps_the_comment_above():
    doc = Document(parse_strict(TERN.replace("  half-left", "  -- the other side\n  half-left")))
    after = ReplaceItem(section="bar", at=1, text="1: over 2").apply(doc)
    assert after.weave.sections[0].items[1].lead == ("the other side",)


class TestDraft:
    ORDER = ("a.a", "b.a", "c.a", "d.a")

    def test_a_half_knot_by_single_moves(self):
        d = begin("d.a", self.ORDER)
        assert d.side == -1
        d = d.cross(True, self.ORDER).cross(True, ("a.a", "b.a", "d.a", "c.a"))
        assert write_item(d.step()) == "4: over 3 2"
        now = ("a.a", "d.a", "b.a", "c.a")
        w = begin("a.a", now)
        for over, order in (
            (True, now),
            (False, ("d.a", "a.a", "b.a", "c.a")),
            (False, ("d.a", "b.a", "a.a", "c.a")),
        ):
            w = w.cross(over, order)
        assert write_item(w.through(True, "d.a").step()) == "1: over 2, under 3 4, up 2"
        assert write_item(w.through(False, "a.a").step()) == "1: over 2, under 3 4, down own"

    def test_the_step_traces_to_what_was_drawn(self):
        d = begin("d.a", self.ORDER).cross(True, self.ORDER).cross(False, ("a.a", "b.a", "d.a", "c.a"))
        t = trace(weave_of(4, write_item(d.step())))
        assert [c.over_end for c in t.crossings] == [3, 1]

    def test_turning_round_starts_a_new_run(self):
        d = begin("a.a", ("a.a", "b.a")).cross(True, ("a.a", "b.a")).turn().cross(True, ("b.a", "a.a"))
        assert write_item(d.step()) == "1: over 2, over 2"

    def test_back_flip_and_the_edge(self):
        d = begin("a.a", self.ORDER).cross(True, self.ORDER)
        assert d.flip().moves[0].kind == "under"
        assert d.turn().back() == begin("a.a", self.ORDER)
        assert begin("a.a", self.ORDER).back() is None
        with pytest.raises(InputError, match="nothing hangs further left"):
            begin("a.a", self.ORDER).turn().cross(True, self.ORDER)
        with pytest.raises(InputError, match="no crossing yet"):
            begin("a.a", self.ORDER).flip()


def test_the_command_table_is_sound():
    ids = [a.id for a in ACTIONS]
    assert len(set(ids)) == len(ids)
    shortcuts = [a.shortcut for a in ACTIONS if a.shortcut]
    assert len({s.lower() for s in shortcuts}) == len(shortcuts)  # no clash
    assert all(a.text and a.does and not a.does.endswith(".") for a in ACTIONS)
    assert all(a.menu for a in ACTIONS if not a.id.startswith("board."))
    assert isinstance(parse_item("1: over 2"), Step)
