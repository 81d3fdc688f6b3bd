"""What the person is asked when a file was changed by something else. Texts out of documents are shown as they are: they are
never read as rich text."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QSyntaxHighlighter, QTextCharFormat
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QMessageBox,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.labels import Label
from dim_ladder.app.paper import Other
from dim_ladder.app.theme import mono, sized, theme
from dim_ladder.base.colours import mix

LATER, MINE, THEIRS = 0, 2, 3


def plain_box(parent: QWidget, text: str) -> QMessageBox:
    """A question whose text is taken letter by letter."""
    box = QMessageBox(parent)
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(text)
    return box


class _Sides(QSyntaxHighlighter):
    """Lines of this window and of the file, each in a colour of its own besides their sign."""

    def highlightBlock(self, text: str) -> None:
        colour = {"-": theme().signal, "+": mix(theme().ink, "#1f6f8b", 0.8)}.get(text[:1])
        if colour is not None:
            form = QTextCharFormat()
            form.setForeground(QColor(colour))
            self.setFormat(0, len(text), form)


class CompareDialog(QDialog):
    """Its result is LATER, MINE or THEIRS."""

    def __init__(self, path: Path, other: Other, apart: str, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("This weave and its file")
        self.resize(760, 520)
        layout = QVBoxLayout(self)
        layout.setSpacing(12)
        head = Label(f"{path.name} was changed by something else")
        head.setFont(sized(1.3, True))
        layout.addWidget(head)
        if other.document is None:
            why = f"It cannot be read here: {other.why}. You can keep this window’s; the file is then kept beside it."
        else:
            why = (
                "Lines that begin with - stand only in this window, lines that begin with + only in the file."
            )
        words = Label(why)
        words.setWordWrap(True)
        layout.addWidget(words)
        lines = QPlainTextEdit(apart)
        lines.setReadOnly(True)
        lines.setFont(mono(0.95))
        lines.setAccessibleName("What is different")
        self._colours = _Sides(lines.document())
        layout.addWidget(lines, 1)
        row = QHBoxLayout()
        for text, tip, result in (
            ("Keep this window’s", "It is saved; what stands in the file now is kept beside it", MINE),
            ("Take the file’s", "It takes this one’s place here; Ctrl+Z brings this one back", THEIRS),
            ("Decide later", "Nothing is written until then", LATER),
        ):
            button = QPushButton(text)
            button.setToolTip(tip)
            button.setEnabled(result != THEIRS or other.document is not None)
            button.clicked.connect(lambda _=False, r=result: self.done(r))
            row.addWidget(button)
        row.addStretch(1)
        layout.addLayout(row)
