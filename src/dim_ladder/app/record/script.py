"""The script pane: the same weave as text, in step with the board and the ladder."""

from __future__ import annotations

import re
from functools import partial
from html import escape

from PySide6.QtCore import QEvent, Qt, QTimer, Signal
from PySide6.QtGui import (
    QAction,
    QColor,
    QContextMenuEvent,
    QFont,
    QKeyEvent,
    QKeySequence,
    QSyntaxHighlighter,
    QTextCharFormat,
    QTextCursor,
    QTextDocument,
)
from PySide6.QtWidgets import QPlainTextEdit, QTextEdit, QWidget

from dim_ladder.app.record.choices import Choices
from dim_ladder.app.session import Session
from dim_ladder.app.theme import mono, theme
from dim_ladder.base import Problem
from dim_ladder.base.budget import MOST_LINE
from dim_ladder.base.colours import mix
from dim_ladder.commands import SetDraft, SetScript
from dim_ladder.commands.scripting import Fix, completions, fixes
from dim_ladder.notation import Weave, parse
from dim_ladder.trace import trace

_HOPS = "over|under|up|down|own|round|bight|follow|leave|bead|pass|twist|to|gap|at|each|behind|turns"
_COUNTS = (
    "mirror|flip|turn|rotate|span|add|drop|raise|split|repeat|fit|pairs|multiple of|plus|at least|at most|same as|layer over|stitched on|on former|"
    "leads|bights|code|every other|tight|snug|easy"
)
_WORD = re.compile(
    rf"(?P<note>(?:^|\s)--.*$)|(?P<head>^(?:weave|cords|beads|hang|knot|section)\b)|(?P<hop>\b(?:{_HOPS})\b)"
    rf'|(?P<colour>#[0-9a-fA-F]{{6}}\b)|(?P<string>"[^"]*")|(?P<loop>@[\w-]+)|(?P<count>\b(?:{_COUNTS})\b)'
)


class _Colours(QSyntaxHighlighter):
    def __init__(self, document: QTextDocument) -> None:
        super().__init__(document)

    def highlightBlock(self, text: str) -> None:
        t = theme()
        if len(text) > MOST_LINE:
            return  # it is refused anyway, and would keep the window waiting
        for m in _WORD.finditer(text):
            form = QTextCharFormat()
            kind = m.lastgroup
            if kind == "note":
                form.setForeground(QColor(t.quiet))
                form.setFontItalic(True)
            elif kind == "head":
                form.setFontWeight(QFont.Weight.Bold)
            elif kind == "hop":
                form.setForeground(QColor(t.signal))
            elif kind == "colour":
                form.setForeground(QColor(mix(m.group(), t.ink, 0.5 if t.pen.dark else 0.15)))
                form.setFontWeight(QFont.Weight.Bold)
            else:
                form.setForeground(QColor(mix(t.ink, "#1f6f8b" if not t.pen.dark else "#58b4d6", 0.7)))
            self.setFormat(m.start(), m.end() - m.start(), form)


class ScriptPane(QPlainTextEdit):
    """Typing becomes an edit when it can be read, and is kept as a draft while it cannot."""

    problems_found = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._colours = _Colours(self.document())
        self._theme = theme()
        self._filling = False
        self.problems: tuple[Problem, ...] = ()
        self.setFont(mono(0.95))
        self.setAccessibleName("Script of the weave")
        self.setTabChangesFocus(True)
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.setUndoRedoEnabled(False)  # one undo for every view: the history's
        self.setPlaceholderText('weave "A name"')
        self.choices = Choices(self)
        self.choices.itemClicked.connect(lambda _: self._complete())
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(250)
        self._timer.timeout.connect(self.take)
        self.textChanged.connect(self._typed)
        session.changed.connect(self.refill)
        self.refill()

    def event(self, event: QEvent) -> bool:
        # Undo and redo belong to the history, which knows every view's changes; the editor must not claim the keys.
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            standard = QKeySequence.StandardKey
            if event.matches(standard.Undo) or event.matches(standard.Redo):
                event.ignore()
                return False
        return super().event(event)

    def _typed(self) -> None:
        if not self._filling:
            self._timer.start()
            self._session.custody.keeper.typed(self.toPlainText())

    # -- help while typing ---------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, mods = Qt.Key(event.key()), event.modifiers()
        if self.choices.isVisible():
            if key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
                self.choices.move_by(1 if key == Qt.Key.Key_Down else -1)
                return
            chosen = self.choices.currentRow() >= 0
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and chosen:
                self._complete()
                return
            self.choices.hide()
            if key == Qt.Key.Key_Escape:
                return
        if key == Qt.Key.Key_Space and mods == Qt.KeyboardModifier.ControlModifier:
            self.offer(asked=True)
            return
        super().keyPressEvent(event)
        if event.text().isalpha():
            self.offer(asked=False)

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Tab takes what is offered; else it goes on to the next control."""
        if forward and self.choices.isVisible():
            self._complete()
            return True
        self.choices.hide()
        return super().focusNextPrevChild(forward)

    def offer(self, *, asked: bool) -> None:
        """Show what could stand here; not asked for, only once two letters of it are there."""
        at = self.textCursor().position()
        start, found = completions(self.toPlainText(), at, self._session.weave)
        if not found or (not asked and at - start < 2):
            self.choices.hide()
            return
        self.choices.show_at(start, found, self.cursorRect().bottomLeft())

    def _complete(self) -> None:
        text = self.choices.chosen()
        if text:
            cursor = self.textCursor()
            cursor.setPosition(self.choices.start, QTextCursor.MoveMode.KeepAnchor)
            cursor.insertText(text)
        self.choices.hide()

    def fixes(self) -> tuple[Fix, ...]:
        """Ways to mend the slip at the cursor's line, else the first one there is."""
        text = self.toPlainText()
        line = self.textCursor().blockNumber() + 1
        here = [p for p in self.problems if p.line == line] or list(self.problems)
        return tuple(f for p in here[:1] for f in fixes(text, p))

    def mend(self, fix: Fix | None = None) -> bool:
        """Mend a slip; without a fix, in the likeliest way."""
        found = self.fixes()
        if fix is None and not found:
            self._session.said.emit("There is no mending to offer here: see the hint beside the problem")
            return False
        fix = fix or found[0]
        cursor = self.textCursor()
        cursor.setPosition(fix.start)
        cursor.setPosition(fix.stop, QTextCursor.MoveMode.KeepAnchor)
        cursor.insertText(fix.text)
        self.take()
        return True

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        menu = self.createStandardContextMenu()
        found = self.fixes()
        first = menu.actions()[0] if menu.actions() else None
        for f in found:
            action = QAction(f.words, menu)
            action.triggered.connect(partial(self._mend_with, f))
            if first is not None:
                menu.insertAction(first, action)
        if found and first is not None:
            menu.insertSeparator(first)
        menu.exec(event.globalPos())
        menu.deleteLater()

    def _mend_with(self, fix: Fix, _checked: bool = False) -> None:
        self.mend(fix)

    # -- in step with the weave ------------------------------------------------------------------------

    def take(self) -> None:
        """What is typed so far becomes an edit of the weave, or a draft with its problems shown."""
        self._timer.stop()
        text = self.toPlainText()
        document = self._session.document
        if text == (document.draft or document.script):
            return
        parsed = parse(text)
        if parsed.problems:
            self._session.do(SetDraft(text=text))
            self._mark(parsed.problems)
            return
        self._session.do(SetScript(text=text))
        self._mark(())
        weave = self._session.weave
        # All units of it, which can be many: what breaks only when it is repeated is found here.
        self._session.jobs.ask(
            self,
            "script-marks",
            lambda: trace(weave, parsed=parsed).problems,
            partial(self._traced, weave),
            lambda e: self._session.said.emit(str(e)),
        )

    def _traced(self, weave: Weave, problems: tuple[Problem, ...]) -> None:
        if weave is self._session.weave:
            self._mark(problems)

    def refill(self) -> None:
        """Show the document's text; what is being typed is left alone when it says the same."""
        if self._theme is not theme():
            self._theme = theme()
            self._colours.rehighlight()
        document = self._session.document
        self.setReadOnly(self._session.custody.paper.read_only)
        text = document.draft or document.script
        own = self.toPlainText()
        self._mark(parse(document.draft).problems if document.draft else ())
        if own == text:
            return
        if self.hasFocus() and not document.draft:
            parsed = parse(own)
            if parsed.ok and parsed.weave == document.weave:
                return  # the same weave in the person's own layout
        self._filling = True
        self._replace(own, text)
        self._filling = False

    def _replace(self, old: str, new: str) -> None:
        """Change only the lines that differ: a long script stays where it is, and costs what the change costs."""
        a, b = old.split("\n"), new.split("\n")
        # Every line but the last ends in its own break, so that lines can come and go at either end.
        a, b = [*(x + "\n" for x in a[:-1]), a[-1]], [*(x + "\n" for x in b[:-1]), b[-1]]
        start = 0
        while start < min(len(a), len(b)) and a[start] == b[start]:
            start += 1
        end = 0
        while end < min(len(a), len(b)) - start and a[-1 - end] == b[-1 - end]:
            end += 1
        cursor = QTextCursor(self.document())
        before = sum(map(len, a[:start]))
        cursor.setPosition(before)
        cursor.setPosition(before + sum(map(len, a[start : len(a) - end])), QTextCursor.MoveMode.KeepAnchor)
        cursor.insertText("".join(b[start : len(b) - end]))

    def _mark(self, problems: tuple[Problem, ...]) -> None:
        self.problems = problems
        marks = []
        for p in problems:
            block = self.document().findBlockByLineNumber(max(p.line - 1, 0))
            mark = QTextEdit.ExtraSelection()
            form = QTextCharFormat()
            form.setUnderlineColor(QColor(theme().signal))
            form.setUnderlineStyle(QTextCharFormat.UnderlineStyle.WaveUnderline)
            form.setToolTip(escape(str(p)))  # tool tips may be rich text; a script's words are not
            cursor = QTextCursor(block)
            start = min(
                block.position() + max(p.column - 1, 0), block.position() + max(block.length() - 2, 0)
            )
            cursor.setPosition(start)
            end = min(start + max(p.length, 1), block.position() + block.length() - 1)
            cursor.setPosition(max(end, start), QTextCursor.MoveMode.KeepAnchor)
            if not cursor.hasSelection():
                cursor.select(QTextCursor.SelectionType.LineUnderCursor)
            mark.format = form
            mark.cursor = cursor
            marks.append(mark)
        self.setExtraSelections(marks)
        self.problems_found.emit()
