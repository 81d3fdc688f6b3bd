"""One visual identity: warm paper or dark slate, ink, quiet hairlines, one signal colour."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QByteArray
from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

from dim_ladder.picture.display import Ink
from dim_ladder.publish.typeface import FAMILY, FILES, MONO_FAMILY, font_bytes


@dataclass(frozen=True, slots=True)
class Theme:
    paper: str
    raised: str
    ink: str
    quiet: str
    hair: str
    signal: str
    wash: str

    @property
    def pen(self) -> Ink:
        return Ink(self.paper, self.ink, self.quiet, self.signal)


LIGHT = Theme("#fbf7ef", "#fffdf8", "#22303a", "#667278", "#ddd5c5", "#bf3f2b", "#f6ebe0")
DARK = Theme("#1a2228", "#222c33", "#ece6da", "#98a5ab", "#3a474f", "#ff8366", "#2c353b")

_current = LIGHT


def theme() -> Theme:
    return _current


def load_fonts(app: QApplication) -> None:
    """Register the shipped fonts; the size stays the system's."""
    known = set(QFontDatabase.families())
    if FAMILY not in known:
        for which in FILES:
            QFontDatabase.addApplicationFontFromData(QByteArray(font_bytes(which)))
    if app.font().family() == FAMILY:
        return  # once is enough: the size must not grow
    font = QFont(FAMILY)
    size = app.font().pointSizeF()
    font.setPointSizeF(max(size, 9.0) + 1.0 if size > 0 else 10.5)
    app.setFont(font)


def mono(scale: float = 1.0, bold: bool = False) -> QFont:
    """The font of lengths and scripts."""
    font = QFont(MONO_FAMILY)
    font.setPointSizeF(QApplication.font().pointSizeF() * scale)
    font.setBold(bold)
    return font


def sized(scale: float, bold: bool = False) -> QFont:
    font = QFont(QApplication.font())
    font.setPointSizeF(font.pointSizeF() * scale)
    font.setBold(bold)
    return font


def apply_theme(app: QApplication, *, dark: bool) -> None:
    global _current
    _current = DARK if dark else LIGHT
    t = _current
    palette = QPalette()
    roles = QPalette.ColorRole
    for role, colour in (
        (roles.Window, t.paper),
        (roles.Base, t.raised),
        (roles.AlternateBase, t.wash),
        (roles.WindowText, t.ink),
        (roles.Text, t.ink),
        (roles.ButtonText, t.ink),
        (roles.Button, t.raised),
        (roles.Highlight, t.signal),
        (roles.HighlightedText, "#ffffff" if not dark else "#1a2228"),
        (roles.ToolTipBase, t.ink),
        (roles.ToolTipText, t.paper),
        (roles.PlaceholderText, t.quiet),
        (roles.Mid, t.hair),
        (roles.Dark, t.wash),  # behind the pages of the preview
    ):
        palette.setColor(role, QColor(colour))
    app.setPalette(palette)
    app.setStyleSheet(_STYLE % vars_of(t))


def vars_of(t: Theme) -> dict[str, str]:
    return {name: getattr(t, name) for name in ("paper", "raised", "ink", "quiet", "hair", "signal", "wash")}


_STYLE = """
QMainWindow, QDialog { background: %(paper)s; }
QWidget { color: %(ink)s; }
QToolTip { background: %(ink)s; color: %(paper)s; border: 0; padding: 4px 6px; }
QMenuBar { background: %(paper)s; } QMenuBar::item { padding: 4px 10px; background: transparent; }
QMenuBar::item:selected { background: %(wash)s; }
QMenu { background: %(raised)s; border: 1px solid %(hair)s; padding: 4px; }
QMenu::item { padding: 5px 28px 5px 14px; } QMenu::item:selected { background: %(wash)s; }
QMenu::item:disabled { color: %(quiet)s; }
QMenu::separator { height: 1px; background: %(hair)s; margin: 4px 8px; }
QPushButton { background: transparent; border: 1px solid %(hair)s; border-radius: 13px; padding: 4px 12px; min-height: 16px; }
QPushButton:hover { border-color: %(ink)s; } QPushButton:focus { border: 2px solid %(signal)s; padding: 3px 11px; }
QPushButton:checked { background: %(ink)s; color: %(paper)s; border-color: %(ink)s; }
QPushButton:disabled { color: %(quiet)s; border-color: %(hair)s; }
QPushButton#next { background: %(signal)s; color: %(raised)s; border-color: %(signal)s; font-weight: bold; }
QPushButton#next:focus { border-color: %(ink)s; }
QPushButton#next:disabled { background: %(hair)s; color: %(quiet)s; border-color: %(hair)s; }
QPushButton#title { border: 0; font-weight: bold; text-align: left; padding: 2px 4px; }
QPushButton#plain { border: 0; padding: 2px 4px; color: %(quiet)s; } QPushButton#plain:hover { color: %(signal)s; }
QLineEdit { background: transparent; border: 0; border-bottom: 1px solid %(quiet)s; padding: 2px 2px 1px 2px; selection-background-color: %(signal)s; }
QLineEdit:focus { border-bottom: 2px solid %(signal)s; padding-bottom: 0; }
QLineEdit[wrong="true"] { border-bottom: 2px solid %(signal)s; color: %(signal)s; }
QPlainTextEdit { background: %(raised)s; border: 0; border-top: 1px solid %(hair)s; }
QComboBox { background: transparent; border: 0; border-bottom: 1px solid %(quiet)s; padding: 2px 4px; }
QComboBox:focus { border-bottom: 2px solid %(signal)s; }
QComboBox QAbstractItemView { background: %(raised)s; border: 1px solid %(hair)s; selection-background-color: %(wash)s; selection-color: %(ink)s; }
QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: 0; }
QScrollBar:vertical { background: transparent; width: 10px; } QScrollBar::handle:vertical { background: %(hair)s; border-radius: 4px; min-height: 30px; margin: 1px; }
QScrollBar:horizontal { background: transparent; height: 10px; } QScrollBar::handle:horizontal { background: %(hair)s; border-radius: 4px; min-width: 30px; margin: 1px; }
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page { background: transparent; border: 0; height: 0; width: 0; }
QSpinBox { background: transparent; border: 0; border-bottom: 1px solid %(quiet)s; padding: 2px 4px; selection-background-color: %(signal)s; }
QSpinBox:focus { border-bottom: 2px solid %(signal)s; }
QPushButton#large, QPushButton#largenext { min-height: 34px; border-radius: 21px; padding: 4px 24px; font-weight: bold; }
QPushButton#largenext { background: %(signal)s; color: %(raised)s; border-color: %(signal)s; } QPushButton#largenext:focus { border: 2px solid %(ink)s; padding: 3px 23px; }
QSplitter::handle { background: %(hair)s; }
QStatusBar { background: %(paper)s; border-top: 1px solid %(hair)s; } QStatusBar::item { border: 0; }
QLabel#quiet { color: %(quiet)s; } QLabel#problem { color: %(signal)s; }
QFrame#say { background: %(wash)s; border-left: 4px solid %(signal)s; }
QFrame#side { border-left: 1px solid %(hair)s; }
QTableWidget { background: transparent; border: 0; gridline-color: %(hair)s; }
QHeaderView::section { background: transparent; border: 0; border-bottom: 1px solid %(hair)s; color: %(quiet)s; padding: 3px; }
QListWidget { background: %(raised)s; border: 0; } QListWidget#choices { border: 1px solid %(quiet)s; } QListWidget#choices::item { padding: 2px 6px; } QListWidget::item { padding: 5px 8px; } QListWidget::item:selected { background: %(wash)s; color: %(ink)s; }
"""
