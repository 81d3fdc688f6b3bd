"""Hops that need one thing more: which loop, beside whom, how much, where. Asked for in the prompt, typed at once."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, Qt

from dim_ladder.app.record.view import BoardView
from dim_ladder.base import InputError
from dim_ladder.commands.draft import Draft
from dim_ladder.notation import Loop, working_ends
from dim_ladder.trace.ends import letter

# Actions that ask. "most" follows the answer to "along".
QUESTIONS = ("up", "down", "beside", "along", "leave", "place", "name")
OF_ENDS = ("up", "down", "beside", "along")
ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


class Answers(BoardView):
    """The board while something is asked, and the strands an end can go over one by one."""

    def ask(self, what: str) -> None:
        """Begin a question; InputError where there is nothing it could be about."""
        d = self._session.draft
        assert d is not None
        if what == "leave":
            d.leave(1.0)
        elif what == "name":
            d.call_loop("x")
        self._asking, self._typed = what, ""
        self._session.traced.emit()

    def unasked(self) -> None:
        self._asking = self._typed = ""
        self._session.traced.emit()

    # -- answers -----------------------------------------------------------------------------------

    def answer(self, key: Qt.Key, text: str) -> bool:
        """One key while something is asked."""
        s = self._session
        if key == Qt.Key.Key_Escape or (key == Qt.Key.Key_Backspace and not self._typed):
            self.unasked()
        elif key == Qt.Key.Key_Backspace:
            self._typed = self._typed[:-1]
            self.redraw()
        elif self._asking in OF_ENDS:
            if self.asks_loop and text == "@":
                self._named_loop()
                return True
            end = self.named(text)
            if end is not None:
                self.through(end)
            elif text:
                loop = "whose loop it is" if self.asks_loop else "it runs beside"
                s.said.emit(f"Press the letter of the end {loop}")
        elif self._asking == "at":
            names = self.named_loops()
            if text.isdecimal() and 1 <= int(text) <= len(names):
                self._pass_named(names[int(text) - 1])
        elif key in ENTER:
            self._typed_done()
        elif self._fits(text):
            self._typed += text.replace(",", ".") if self._asking == "leave" else text
            if self._asking == "place" and self._places() <= 9:
                self._typed_done()
            else:
                self.redraw()
        return True

    def _fits(self, text: str) -> bool:
        if self._asking == "leave":
            return bool(text) and text in "0123456789.,"
        if self._asking == "name":
            return text.isalpha() or bool(self._typed and text and (text.isdecimal() or text == "-"))
        return len(text) == 1 and text in "0123456789"

    def _typed_done(self) -> None:
        s = self._session
        d = s.draft
        assert d is not None
        if self._asking == "leave":
            try:
                mm = float(self._typed)
            except ValueError:
                mm = 0.0
            if mm <= 0:
                s.said.emit("Type how many mm are left standing, such as 25")
                return
            self._try(lambda: d.leave(mm))
        elif self._asking == "name":
            if not self._typed:
                s.said.emit("Type a name for the loop, such as eye")
                return
            name = self._typed.lower()
            self._try(lambda: d.call_loop(name))
        elif self._asking == "place":
            place = int(self._typed or 0)
            self._try(lambda: d.to_place(place))
        else:
            most, owner = int(self._typed or 0), self._along
            if most:
                self._try(lambda: d.back_along(owner, most), lambda: d.turn().back_along(owner, most))
            else:
                self._all_the_way(d, owner)

    def _all_the_way(self, d: Draft, owner: str) -> None:
        """Back to the top of another end, and down beside the cord's other half: the two are one movement."""
        up = (d.back_along(owner), d.turn().back_along(owner))
        ways = [way for one in up for way in (one.turn().down_itself(), one.down_itself())]
        best = next((way for way in ways if self._session.possible(way)), ways[0])
        self._try(lambda: best)

    def _try(self, *made: Callable[[], Draft]) -> None:
        """The first of these that can be traced; what was asked is answered."""
        self._asking = self._typed = ""
        try:
            for make in made:
                if self._session.set_draft(make()):
                    return
        except InputError as e:
            self._session.said.emit(str(e))
            self._session.traced.emit()

    def through(self, owner: str) -> None:
        """Through the loop of an end, or beside it, whichever was asked for."""
        d = self._session.draft
        if d is None or not self._asking:
            return
        asked = self._asking
        # Beside it on the side it is going; where it cannot lie there, on the other.
        if asked == "beside":
            self._try(lambda: d.beside(owner), lambda: d.turn().beside(owner))
        elif asked == "along" and owner == d.end:
            self._session.said.emit("An end cannot go back along itself: press the letter of another end")
        elif asked == "along":
            self._along = owner
            self._asking = "most"
            self.redraw()
        else:
            self._try(lambda: d.through(asked == "up", owner))

    def through_region(self, at: QPointF) -> None:
        """Through the region beside whose dot was clicked."""
        s = self._session
        near = self._near_region(at)
        d = s.draft
        if near is None or d is None:
            s.said.emit("Click a loop’s letter, or a dot beside the cord to come out over")
            return
        up = self._asking == "up"
        loop = Loop(s.board().ends[near.which], near.count, "beside", "", None, near.left)
        self._try(lambda: d.into(up, loop))

    # -- loops with names --------------------------------------------------------------------------

    def _named_loop(self) -> None:
        """The only one there is, or the one whose number comes next."""
        names = self.named_loops()
        if not names:
            key = self._session.keys.of("board.name")
            self._session.said.emit(f"No loop has a name yet: {key} names one when it is made")
        elif len(names) == 1:
            self._pass_named(names[0])
        else:
            self._upward = self._asking == "up"
            self._asking = "at"
            self.redraw()

    def _pass_named(self, name: str) -> None:
        d = self._session.draft
        assert d is not None
        up = self._upward if self._asking == "at" else self._asking == "up"
        self._try(lambda: d.into(up, Loop(None, 1, "name", name)))

    # -- strand by strand --------------------------------------------------------------------------

    def strand(self, over: bool) -> None:
        """Over (under) a strand that lies beside the end; asked for again at once, the next one instead."""
        s = self._session
        d = s.draft
        assert d is not None
        last = d.moves[-1] if d.moves else None
        begin = d
        after: tuple[str, int] | None = None
        if last is not None and self._strand == d and last.kind == ("past over" if over else "past under"):
            found = d.back()
            assert found is not None
            begin, after = found, (last.other, last.count)
        tries = self._strands(begin)
        at = tries.index(after) + 1 if after in tries else 0
        for owner, count in [*tries[at:], *tries[:at]]:
            made = begin.past(over, owner, count)
            if s.possible(made) and s.set_draft(made):
                self._strand = made
                return
        s.said.emit(
            "No strand lies beside the end here: cross a tail with O or U, or make a loop with C first"
        )

    def _strands(self, d: Draft) -> list[tuple[str, int]]:
        """Every strand there is, its own first, by its end ("" its own) and the crossings between it and the tail."""
        trace = self._session.traces_of(d)
        many = dict.fromkeys(range(len(trace.ends)), 0)
        for c in trace.crossings:
            many[c.lane_end] += 1
            many[c.row_end] += 1
        names = sorted(range(len(trace.ends)), key=lambda e: trace.ends[e] != d.end)
        return [
            ("" if trace.ends[e] == d.end else trace.ends[e], n)
            for e in names
            for n in range(1 if trace.ends[e] == d.end else 0, many[e] + 1)
        ]

    def named(self, text: str) -> str | None:
        """The end that a letter (by start) or a digit (by place now) means."""
        names = working_ends(self._session.weave)
        if len(text) == 1 and text.isdecimal():
            order = self._session.board().names_shown()
            return order[int(text) - 1] if 1 <= int(text) <= len(order) else None
        found = [e for i, e in enumerate(names) if letter(i) == text.upper()]
        here = self._session.board().ends
        return found[0] if found and found[0] in here else None
