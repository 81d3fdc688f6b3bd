"""The open weave: history, traces of it, the chosen step, and saving. One owner of "unsaved"."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, Signal

from dim_ladder.app.calibrator import Calibrator
from dim_ladder.app.custody import Custody
from dim_ladder.app.kinds import take_up
from dim_ladder.app.offers import OFFER, ask_offer
from dim_ladder.app.settings import RECENT, keep_settings, load_settings
from dim_ladder.app.tracing import Traces
from dim_ladder.app.workers import Jobs
from dim_ladder.base import InputError
from dim_ladder.calibrate import Calibration
from dim_ladder.commands import Edit, History, ReplaceItems, SetScript, StreamEntry
from dim_ladder.commands.checks import Checks, check_section
from dim_ladder.commands.draft import Draft
from dim_ladder.commands.hand import HAND, hand_text, read_hand
from dim_ladder.commands.keys import Keys, read_keys
from dim_ladder.commands.left import Leftover
from dim_ladder.commands.shown import place_again, place_of, shown_counts
from dim_ladder.notation import Weave
from dim_ladder.shelf import Document
from dim_ladder.trace import Trace
from dim_ladder.trace.turning import Turning

SHAPE_MS = 700  # until what only a tight shape tells is asked
QUIET_MS = 90  # how long after an edit the slower answers begin to be worked out

LET_GO = "The step in hand was let go: the tails hang otherwise now"


class Session(QObject):
    """What every screen looks at. Signals are sent on the interface thread."""

    changed = Signal()  # the document is another one
    traced = Signal()  # the trace, the chosen step or the draft is another one
    calibrated = Signal()
    said = Signal(str)  # a message for the person; "" clears it
    saved = Signal()  # saved, or what stands in the way of it, is another thing than before
    switched = Signal()  # another weave is open: forms hold what belongs to it
    closing = Signal()  # this weave is left: what is connected is let go
    keys_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.jobs = Jobs(self)
        self.chosen = -1
        self.anchor = -1  # where the passage of rungs begins that ends at the chosen one
        self.section = 0
        self.cursor: int | None = None  # steps go in before this item of the section; None: at its end
        self.offer: ReplaceItems | None = None  # an edit that would mend what an edit left below it
        self._draft: Draft | None = None
        self._after_units: dict[str, int] = {}  # how often sections are worked for what comes after them
        self._faced: tuple[Weave, str] | None = (
            None  # the section whose check was asked again once its shape was known
        )
        self._lost = ""  # what to say of hops that an edit let go
        self.calibrator = Calibrator(self.jobs, self)
        self._numbers_shown = False
        self.calibrator.fitted.connect(self.calibrated)
        self.calibrator.fitted.connect(self._ask_counts)
        self.calibrator.said.connect(self.said)
        self.turn: Turning | None = None
        self.checks: Checks | None = None
        self.settings = load_settings()
        self.keys = read_keys(self.settings.keys)
        self.traces = Traces(self)
        self.traces.grown.connect(self._grown)
        self.custody = Custody(self.jobs, self)
        self.custody.said.connect(self.said)
        self.custody.told.connect(self.saved)
        self.custody.leaving.connect(self.closing)
        self.custody.adopted.connect(self._adopted)
        self._adopted()

    def set_up(self, **fields: object) -> None:
        """Change what a person has set; it is kept at once."""
        self.settings = self.settings.model_copy(update=fields)
        trouble = keep_settings(self.settings)
        if trouble:
            self.said.emit(trouble)

    def set_keys(self, keys: Keys) -> None:
        self.keys = keys
        self.set_up(keys=dict(keys.changed))
        self.keys_changed.emit()

    @property
    def calibration(self) -> Calibration | None:
        """What the ties say by now; None while nothing can be counted."""
        return self.calibrator.calibration

    # -- documents ---------------------------------------------------------------------------------

    @property
    def history(self) -> History:
        return self.custody.history

    @property
    def document(self) -> Document:
        return self.history.document

    @property
    def weave(self) -> Weave:
        return self.history.document.weave

    @property
    def path(self) -> Path | None:
        return self.custody.path

    @property
    def unsaved(self) -> bool:
        return self.custody.unsaved

    @unsaved.setter
    def unsaved(self, value: bool) -> None:
        self.custody.unsaved = value

    def _adopted(self) -> None:
        self.history.listen(self._after)
        self._draft = self.cursor = self.offer = None
        self.chosen = self.anchor = -1
        self.calibrator.clear()  # that of another weave says nothing here
        self.turn = self.checks = None
        self._after_units = shown_counts(self.weave, None, self.document.plan)
        self.section = self._first_section()
        self._refresh()

    def _first_section(self) -> int:
        return next((i for i, s in enumerate(self.weave.sections) if s.kind == "body"), 0)

    def new(self) -> None:
        """An empty weave without a file."""
        self.custody.new()
        self.switched.emit()

    def open(self, path: Path) -> None:
        """Open a document, script or published sheet. Raises InputError or WorldError and changes nothing when it cannot be
        read."""
        path = path.absolute()
        self.custody.open(path)
        self._remember(path)
        self._take_up()

    def recover(self, leftover: Leftover | None = None) -> bool:
        """A weave that was in no file when the program ended, if there is one: the newest, unless it is said which."""
        found = self.custody.leftovers() if leftover is None else [leftover]
        if not found:
            return False
        if not self.custody.recover(found[0]):
            return False
        self._take_up()
        if len(found) > 1:
            more = "One more weave" if len(found) == 2 else f"{len(found) - 1} more weaves"
            self.said.emit(
                f"“{self.weave.name}” is back; Ctrl+S keeps it. {more} found: Weave › Weaves in no file"
            )
        return True

    def take_over(self) -> bool:
        """Change the weave here, where the window that had it is gone."""
        done = self.custody.take_over()
        if done:
            self._take_up()
        return done

    def _take_up(self) -> None:
        """What was in the middle of being done in the weave that is opened."""
        self.switched.emit()
        hand = read_hand(self.custody.keeper.forms.get(HAND, ""))
        if hand is None or not 0 <= hand.section < len(self.weave.sections):
            return
        self.section, self.cursor = hand.section, hand.cursor
        if hand.draft.before == self.board_order() and self.possible(hand.draft):
            self._draft = hand.draft
        self._refresh()

    def save(self, path: Path | None = None, *, over_read_only: bool = False) -> None:
        """Save, to `path` if given. Raises DimLadderError; the work stays as it is."""
        self.custody.save(path, over_read_only=over_read_only)
        if path is not None and path.suffix != ".weave":
            self._remember(path)
            self.changed.emit()  # what could only be looked at may be changed now

    def settle(self) -> None:
        """Write what is not written yet."""
        self.custody.settle()

    def close(self) -> None:
        """Settle, and leave this weave."""
        self.custody.close()

    def _remember(self, path: Path) -> None:
        """Among the recent ones; its folder is the workshop from now on."""
        here = str(path.absolute())
        self.set_up(recent=(here, *(p for p in self.settings.recent if p != here))[:RECENT])
        if wrong := take_up(path.parent):
            self.said.emit(wrong)

    def kinds_changed(self) -> None:
        """Cord is another: shapes and counts are made anew."""
        self._refresh()
        self.changed.emit()
        self.recalibrate()

    @property
    def workshop(self) -> Path | None:
        """The folder whose weaves are at hand: of this one, or of the last one that was in a file."""
        if self.path is not None:
            return self.path.parent
        return Path(self.settings.recent[0]).parent if self.settings.recent else None

    # -- the end in hand --------------------------------------------------------------------------

    @property
    def draft(self) -> Draft | None:
        return self._draft

    @draft.setter
    def draft(self, draft: Draft | None) -> None:
        """Kept at once: hops are work too."""
        self._draft = draft
        self.custody.keeper.form(HAND, hand_text(draft, self.section, self.cursor))

    def rest(self, edit: Edit) -> bool:
        """The step in hand becomes an edit; where it cannot, it stays in hand."""
        held, self._draft = self._draft, None
        with self.custody.keeper.done_with(HAND):
            done = self.do(edit)
        if not done:
            self._draft = held
        return done

    # -- edits -------------------------------------------------------------------------------------

    def do(self, edit: Edit) -> bool:
        """Carry out an edit; says why when it cannot be."""
        if not self.custody.may_change():
            return False
        before = self.weave
        try:
            self.history.do(edit)
        except InputError as e:
            self.said.emit(str(e))
            return False
        lost, self._lost = self._lost, ""
        self.said.emit(lost)
        if not isinstance(edit, SetScript):  # whoever types sees what stands below
            ask_offer(self.jobs, self, before, lambda: self.weave, self._offered)
        return True

    def take_offer(self) -> None:
        offer, self.offer = self.offer, None
        if offer is not None:
            self.do(offer)

    def _offered(self, offer: ReplaceItems) -> None:
        self.offer = offer
        self.said.emit(OFFER)
        self.traced.emit()

    def undo(self) -> None:
        if self.custody.may_change():
            self.history.undo()

    def redo(self) -> None:
        if self.custody.may_change():
            self.history.redo()

    def _after(self, document: Document, entry: StreamEntry) -> None:
        self.offer = None
        self.custody.note(entry)
        if self.draft is not None and entry.what != "do":
            self._let_go()
        self._refresh()
        if entry.what != "do" and self._lost:
            lost, self._lost = self._lost, ""
            self.said.emit(lost)

    def _let_go(self) -> None:
        """The end in hand can be held no longer; hops that are lost with it are not lost without a word."""
        if self.draft is not None and self.draft.begun:
            self._lost = LET_GO
        self.draft = None

    def _refresh(self) -> None:
        if self.section >= len(self.weave.sections):
            self.section = self._first_section()
        if self.cursor is not None and (
            not self.weave.sections or self.cursor > len(self.weave.sections[self.section].items)
        ):
            self.cursor = None
        self.traces.follow(self.weave, self._after_units)
        if self.draft is not None and self.draft.before != self.board_order():
            self._let_go()
        self.chosen = min(self.chosen, len(self.ladder.steps) - 1)
        self.anchor = min(self.anchor, len(self.ladder.steps) - 1)
        self._ask_turning()
        self.changed.emit()
        self.traced.emit()
        self.recalibrate()

    # -- traces ------------------------------------------------------------------------------------

    @property
    def ladder(self) -> Trace:
        """Every section once; as far as it is traced by now."""
        return self.traces.ladder

    def _grown(self) -> None:
        """More is traced: what waited for it is asked again."""
        self._ask_turning()
        self.traced.emit()
        self.recalibrate()

    def board_order(self) -> tuple[str, ...]:
        """Tails at the end of the section that is being recorded, before the draft, as the work lies."""
        return self._board(None).names_shown()

    def board(self) -> Trace:
        """The weave up to the section that is being recorded, with the draft as its last step."""
        return self._board(self.draft)

    def _board(self, draft: Draft | None) -> Trace:
        return self.traces.board(self.weave, self.section, self.cursor, draft, draft is self.draft)

    def traces_of(self, draft: Draft) -> Trace:
        """The board with another draft than the one in hand."""
        return self._board(draft)

    def possible(self, draft: Draft) -> bool:
        """Whether a draft can be traced; nothing is said and nothing is kept."""
        return not self._board(draft).problems

    def _ask_turning(self) -> None:
        """Flat or spiral, what holds, colours and slips: worked out on a thread."""
        weave, index = self.weave, self.section
        if not weave.sections or self.ladder.problems:
            self.turn = self.checks = None
            return
        name = weave.sections[index].name
        plan = self.document.plan
        girth = plan.size_mm + plan.ease_mm if plan.target == "girth" else 0.0
        self.jobs.ask(
            self,
            "turning",
            lambda: check_section(weave, name, girth),
            lambda found: self._turned(found, weave, girth),
            lambda e: self.said.emit(str(e)),
            after_ms=QUIET_MS,
        )

    def not_counted(self, otherwise: str) -> str:
        """Why cord is not counted: the slip, said with its place, or (otherwise) that there is nothing yet."""
        problems = self.ladder.problems
        return str(problems[0]) if problems else otherwise

    def _turned(self, found: Checks, weave: Weave, girth: float) -> None:
        self.checks, self.turn = found, found.turn
        self.traced.emit()
        if found.turn is not None and found.turn.kind == "spiral":
            # Its tight shape may say otherwise; that takes a while, and others ask for it, too.
            self.jobs.ask(
                self, "turning-tight", lambda: check_section(weave, found.section, girth, wait=True),
                lambda tight: self._turned_tight(tight, weave), lambda e: None, after_ms=SHAPE_MS,
            )  # fmt: skip

    def _turned_tight(self, found: Checks, weave: Weave) -> None:
        current = self.weave is weave and weave.sections[self.section].name == found.section
        if current and found != self.checks:
            self.checks, self.turn = found, found.turn
            self.traced.emit()

    def _ask_counts(self) -> None:
        """What comes after units that grow with the size hangs as it will in that size; worked out on a thread."""
        weave, calibration, plan = self.weave, self.calibration, self.document.plan
        if calibration is not None:
            self.jobs.ask(
                self, "shown-counts", lambda: shown_counts(weave, calibration, plan), self._counted,
                lambda e: self.said.emit(str(e)),
            )  # fmt: skip

    def _counted(self, counts: dict[str, int]) -> None:
        """The end in hand stays in hand: until it rests, all hangs as it did when it was taken."""
        if counts == self._after_units or self.draft is not None or self.traces.busy:
            return
        was = [place_of(self.ladder, n) for n in (self.chosen, self.anchor)]
        self._after_units = counts
        self.traces.follow(self.weave, counts)
        self.chosen, self.anchor = (place_again(self.ladder, p) for p in was)
        self.traced.emit()

    def choose_made(self, trace: Trace, crossing: int) -> None:
        """Choose the rung of the step that made a crossing; of any unit, that of the first."""
        made = next((i for i, r in enumerate(trace.steps) if r.start <= crossing < r.stop), -1)
        place = place_of(trace, made)
        self.choose(place_again(self.ladder, place and (place[0], 0, *place[2:])))

    def choose(self, step: int, *, extend: bool = False) -> None:
        """Choose a rung (-1: none); its section becomes the one that is recorded.

        extend : the passage from where choosing began to this rung.
        """
        self.chosen = step if 0 <= step < len(self.ladder.steps) else -1
        if not extend or self.chosen < 0 or self.anchor < 0:
            self.anchor = self.chosen
        if self.chosen >= 0:
            section = self.ladder.steps[self.chosen].op.section
            if section != self.section and self.draft is None:
                self.section = section
                self.cursor = None
                self._ask_turning()
        self.traced.emit()

    def passage(self) -> tuple[str, int, int] | None:
        """The section and the first and last item of the chosen rungs; None when none is chosen."""
        steps = self.ladder.steps
        if not 0 <= self.chosen < len(steps) or steps[self.chosen].op.item < 0:
            return None
        here = steps[self.chosen].op
        other = steps[self.anchor].op if 0 <= self.anchor < len(steps) else here
        if other.section != here.section or other.item < 0:
            other = here
        return (
            self.weave.sections[here.section].name,
            min(here.item, other.item),
            max(here.item, other.item),
        )

    def choose_items(self, section: str, first: int, last: int) -> None:
        """Choose the rungs of these items, as after moving them."""
        index = next((i for i, s in enumerate(self.weave.sections) if s.name == section), -1)
        at = [
            i for i, r in enumerate(self.ladder.steps)
            if r.op.section == index and first <= r.op.item <= last and not r.quiet
        ]  # fmt: skip
        self.choose(at[0] if at else -1)
        if at:
            self.choose(at[-1], extend=True)

    def record_before(self, item: int | None) -> None:
        """From now on steps go into the section before this item; None: at its end."""
        if self.draft is None:
            self.cursor = item
            self.chosen = self.anchor = -1
            self.traced.emit()

    def choose_section(self, index: int) -> None:
        if 0 <= index < len(self.weave.sections) and self.draft is None:
            self.section = index
            self.cursor = None
            self.chosen = self.anchor = -1
            self._ask_turning()
            self.traced.emit()

    def set_draft(self, draft: Draft | None) -> bool:
        """Try a draft: kept when it can be traced, else the reason is said. None lets the end go."""
        if draft is not None and self.traces.busy:
            self.said.emit("This weave is not traced to its end yet: wait for it, then lead an end on")
            return False
        if draft is not None and not self.custody.may_change():
            return False
        before = self._draft
        self._draft = draft
        if draft is not None:
            self.chosen = -1
            problems = self.board().problems
            if problems:
                self._draft = before
                self.said.emit(str(problems[0]))
                self.traced.emit()
                return False
        self.draft = draft
        self.said.emit("")
        self.traced.emit()
        return True

    # -- calibration -------------------------------------------------------------------------------

    def recalibrate(self) -> None:
        """Refit on a thread, from a snapshot."""
        if self.ladder.problems:
            self.calibrator.clear()
            return
        self.calibrator.ask(self.weave, self.document.ties, self.path, QUIET_MS, self._numbers_shown)

    def show_numbers(self, shown: bool) -> None:
        """Whether a stage is lit that says what cord is needed. Large work is pulled tight for it, which elsewhere would only keep the
        pictures waiting."""
        before, self._numbers_shown = self._numbers_shown, shown
        c = self.calibration
        if shown and not before and c is not None and set(c.prior.sections) - set(c.prior.shaped):
            self.recalibrate()

    def shape_known(self, section: str) -> None:
        """A section was pulled tight on a screen: the calibration begins from that, and the check sees its faces."""
        if self._faced is None or self._faced[0] is not self.weave or self._faced[1] != section:
            self._faced = (
                self.weave,
                section,
            )  # once: what is answered is shown, and screens that show it ask again
            self._ask_turning()
        c = self.calibration
        if c is not None and section in c.prior.sections and section not in c.prior.shaped:
            self.recalibrate()
