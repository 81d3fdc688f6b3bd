"""Waiting in tests ends when what is waited for has come, however slow the machine is: no bound in seconds stands in a test.
What hangs is ended by the one guard of the whole suite (`faulthandler_timeout` in pyproject.toml), with every stack shown."""

from __future__ import annotations

from pytestqt.qtbot import QtBot

EVER_MS = 2_000_000_000


class PatientBot(QtBot):
    def waitUntil(self, callback, *, timeout=EVER_MS):
        super().waitUntil(callback, timeout=timeout)

    def waitSignal(self, signal, *, timeout=EVER_MS, **more):
        return super().waitSignal(signal, timeout=timeout, **more)

    def waitExposed(self, widget, *, timeout=EVER_MS):
        return super().waitExposed(widget, timeout=timeout)
