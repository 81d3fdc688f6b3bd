"""Pictures on the screen are those of the files."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPainter

from dim_ladder.app.painting import paint_shapes
from dim_ladder.picture.display import Line


@pytest.mark.parametrize("width", [4.0, 10.0])
def test_a_cord_that_turns_back_on_itself_ends_in_no_spike(qtbot, width):
    """Down and back up again beside itself: nothing is painted below the turn but half a width and what a corner may have."""
    image = QImage(80, 120, QImage.Format.Format_ARGB32)
    image.fill(Qt.GlobalColor.white)
    painter = QPainter(image)
    paint_shapes(
        painter, [Line((("M", (30.0, 5.0)), ("L", (32.0, 50.0)), ("L", (34.0, 5.0))), width, "#000000")]
    )
    painter.end()
    inked = [y for y in range(120) if any(image.pixelColor(x, y).lightness() < 128 for x in range(80))]
    assert min(inked) <= 6
    assert max(inked) < 50 + width
