"""Icons of actions, drawn with the pen of the day: strokes on a field of 20 by 20, and a few filled shapes."""

from __future__ import annotations

import re

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPainterPath, QPen, QPixmap

from dim_ladder.app.theme import theme

SIZE = 20
# Strokes as in an SVG path (M, L, Q, upper case); "f" before one fills it, "o x y r" is a ring, "d x y r" a disc. A part
# that begins with "-" is drawn quiet: what is there already.
ICONS: dict[str, str] = {
    "file.new": "M5 2 L5 18|-M10 2 L10 18|-M15 2 L15 18",
    "file.open": "M2 16 L2 5 L7 5 L9 7 L16 7 L16 9|M2 16 L5 9 L19 9 L16 16 L2 16",
    "file.save": "M10 2 L10 12|M6 8 L10 12 L14 8|M3 14 L3 17 L17 17 L17 14",
    "edit.undo": "M8 4 L3 9 L8 14|M3 9 L12 9 Q17 9 17 13 Q17 17 12 17",
    "edit.redo": "M12 4 L17 9 L12 14|M17 9 L8 9 Q3 9 3 13 Q3 17 8 17",
    "edit.cut": "o 5 15 2.5|o 15 15 2.5|M6.5 13 L14 3|M13.5 13 L6 3",
    "edit.copy": "M7 7 L17 7 L17 17 L7 17 L7 7|-M3 13 L3 3 L13 3",
    "edit.paste": "M4 4 L16 4 L16 18 L4 18 L4 4|M8 2 L12 2 L12 5 L8 5 L8 2",
    "view.hang": "M2 3 L18 3|M6 3 L6 18|M14 3 L14 18",
    "view.record": "d 10 10 6",
    "view.look": "M2 10 Q10 1 18 10 Q10 19 2 10|d 10 10 2.6",
    "view.tie": "M3 17 Q10 2 17 17|M3 7 Q10 20 17 7",
    "view.cut": "o 5 15 2.5|o 15 15 2.5|M6.5 13 L14 3|M13.5 13 L6 3",
    "view.sheet": "M4 2 L16 2 L16 18 L4 18 L4 2|-M7 7 L13 7|-M7 11 L13 11",
    "view.stash": "o 10 10 8|o 10 10 3|M18 10 L18 17",
    "view.orders": "M3 4 L17 4|M3 10 L17 10|M3 16 L11 16|d 15 16 2",
    "view.dark": "o 10 10 7|fM10 3 Q17 3 17 10 Q17 17 10 17 L10 3",
    "go.search": "o 8 8 5|M12 12 L18 18",
    "go.keys": "M2 5 L18 5 L18 15 L2 15 L2 5|-M6 11 L14 11|d 6 8 0.8|d 10 8 0.8|d 14 8 0.8",
    "record.mirror": "-M10 2 L10 18|M8 5 L3 15 L8 15 L8 5|M12 5 L17 15 L12 15 L12 5",
    "record.mirror-here": "-M10 2 L10 18|M8 5 L3 15 L8 15 L8 5|M12 5 L17 15 L12 15 L12 5",
    "record.flip-here": "-M2 10 L18 10|M4 8 L10 2 L16 8|M4 12 L10 18 L16 12",
    "record.repeat": "M4 8 Q4 4 8 4 L16 4|M13 1 L16 4 L13 7|M16 12 Q16 16 12 16 L4 16|M7 13 L4 16 L7 19",
    "record.knot": "M2 14 Q10 14 10 8 Q10 3 14 6 Q18 10 8 10 Q2 10 2 14",
    "record.open-knot": "M2 10 L18 10|M12 5 L18 10 L12 15|-M2 4 L2 16",
    "record.insert": "-M2 5 L18 5|-M2 15 L18 15|M2 10 L14 10|M11 7 L14 10 L11 13",
    "record.remove": "M4 10 L16 10",
    "record.section": "M3 3 L3 17 L7 17|M3 3 L7 3|M13 7 L13 13|M10 10 L16 10",
    "play.run": "fM5 3 L17 10 L5 17 L5 3",
    "play.back": "fM15 3 L3 10 L15 17 L15 3",
    "play.next": "fM4 4 L12 10 L4 16 L4 4|M15 4 L15 16",
    "play.previous": "fM16 4 L8 10 L16 16 L16 4|M5 4 L5 16",
    "tie.along": "M2 4 L18 4 L18 14 L2 14 L2 4|M7 18 L13 18|fM8 6.5 L13 9 L8 11.5 L8 6.5",
    "tie.log": "M3 10 L8 15 L17 4",
    "sheet.publish": "M10 12 L10 2|M6 6 L10 2 L14 6|M3 10 L3 17 L17 17 L17 10",
    "board.over": "-M10 2 L10 6|-M10 14 L10 18|M2 10 L18 10",
    "board.under": "-M10 2 L10 18|M2 10 L7 10|M13 10 L18 10",
    "board.turn": "M3 5 L12 5 Q17 5 17 10 Q17 15 12 15 L5 15|M8 12 L5 15 L8 18",
    "board.up": "-M3 12 Q10 22 17 12|M10 17 L10 3|M6 7 L10 3 L14 7",
    "board.down": "-M3 8 Q10 -2 17 8|M10 3 L10 17|M6 13 L10 17 L14 13",
    "board.round": "-M10 2 L10 18|M3 10 Q3 5 10 5 Q17 5 17 10 Q17 15 10 15",
    "board.curl": "M10 18 L10 10 Q10 3 15 5 Q19 9 12 12 L2 12",
    "board.hitch": "-M2 6 L18 6|M14 2 L14 12 Q14 16 10 14 Q6 11 10 8 L18 8",
    "board.beside": "-M4 3 L4 17|M9 3 L9 17|M6.5 14 L9 17 L11.5 14",
    "board.leave": "M3 3 L3 8 Q3 17 10 17 Q17 17 17 8 L17 3",
    "board.bead": "M2 10 L6 10|o 10 10 4|M14 10 L18 10",
    "board.pass": "-M2 10 L18 10|M8 2 L8 14 Q8 18 12 18 Q15 18 15 13|M12 2 L12 6",
    "board.twist": "M6 2 L14 10 L6 18|M14 2 L11 5|M9 15 L14 18",
    "board.stacked": "M3 7 L17 7|M3 13 L17 13|-M3 10 L17 10",
    "board.flip": "M4 4 L16 16|M16 4 L12 8|M8 12 L4 16",
    "board.back": "M9 4 L3 10 L9 16|M3 10 L17 10",
    "board.done": "M3 10 L8 15 L17 4",
    "board.drop": "M5 5 L15 15|M15 5 L5 15",
}  # fmt: skip


def icon(action_id: str, *, room: bool = False) -> QIcon:
    """The icon of an action; none where it has none. room : an empty one then, so that words stand in one line."""
    text = ICONS.get(action_id, "")
    if not text and not room:
        return QIcon()
    out = QIcon()
    for scale in (1, 2):
        picture = QPixmap(SIZE * scale, SIZE * scale)
        picture.setDevicePixelRatio(scale)
        picture.fill(Qt.GlobalColor.transparent)
        p = QPainter(picture)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        for part in filter(None, text.split("|")):
            _draw(p, part)
        p.end()
        out.addPixmap(picture)
    return out


def _draw(p: QPainter, part: str) -> None:
    t = theme()
    quiet = part.startswith("-")
    part = part.removeprefix("-")
    colour = QColor(t.quiet if quiet else t.ink)
    filled = part.startswith("f") or part.startswith("d")
    pen = QPen(colour, 1.8, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin)
    p.setPen(Qt.PenStyle.NoPen if filled else pen)
    p.setBrush(colour if filled else Qt.BrushStyle.NoBrush)
    numbers = [float(n) for n in re.findall(r"-?\d+(?:\.\d+)?", part)]
    if part[0] in "od":
        x, y, r = numbers
        p.drawEllipse(QRectF(x - r, y - r, 2 * r, 2 * r))
        return
    path = QPainterPath()
    for op, rest in re.findall(r"([MLQ])([^MLQ]*)", part):
        at = [float(n) for n in rest.split()]
        if op == "M":
            path.moveTo(*at)
        elif op == "L":
            path.lineTo(*at)
        else:
            path.quadTo(*at)
    p.drawPath(path)
