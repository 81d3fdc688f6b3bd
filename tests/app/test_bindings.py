"""The Qt bindings must not lose references to None: one release did in every call without a result, until it aborted."""

import sys

from PySide6.QtGui import QPainterPath
from PySide6.QtWidgets import QWidget


def test_calls_without_a_result_keep_none_alive(qtbot):
    path, widget = QPainterPath(), QWidget()
    qtbot.addWidget(widget)
    before = sys.getrefcount(None)
    for _ in range(500):
        path.moveTo(1.0, 2.0)
        widget.setToolTip("x")
    assert sys.getrefcount(None) > before - 200
