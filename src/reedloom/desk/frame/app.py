"""Starts the application: display, fonts, theme, window."""

from __future__ import annotations

import os
import sys
from pathlib import Path

from PySide6.QtCore import QSettings, QTimer
from PySide6.QtWidgets import QApplication

from reedloom.desk.look.theme import DARK, THEMES, apply_theme
from reedloom.desk.screen.collector import Collector
from reedloom.errors import ReedError
from reedloom.logs import begin_log

SWITCH_INTERVAL = 0.001
"""Seconds a thread may keep the interpreter: short, so that painting and computing do not wait long."""


def check_display() -> None:
    """Raise a `ReedError` that says what to do where there is no display."""
    chosen = os.environ.get("QT_QPA_PLATFORM", "")
    if chosen and not chosen.startswith(("xcb", "wayland")):
        return
    if not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        raise ReedError(
            "There is no display; run it under a virtual one (xvfb-run -a ./run demo), "
            "or render the pictures with ./run pictures."
        )


def make_application() -> QApplication:
    """The application object with the chosen theme."""
    application = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(application, QApplication)
    sys.setswitchinterval(SWITCH_INTERVAL)
    application.setApplicationName("reedloom")
    application.setOrganizationName("reedloom")
    application.setApplicationDisplayName("Reed Loom")
    if application.findChild(Collector) is None:
        Collector(application)
    apply_theme(application, THEMES.get(str(QSettings().value("theme", "dark")), DARK))
    return application


def run_workbench(file: Path | None, as_copy: bool = False) -> int:
    """Show the window, with a weave if one is given, until it is closed; returns the exit status."""
    check_display()
    begin_log()
    application = make_application()
    from reedloom.desk.frame.window import Window

    window = Window()
    window.show()
    if file is not None:
        QTimer.singleShot(0, lambda: window.documents.open_now(file, as_copy))
    QTimer.singleShot(0, window.documents.offer_recovery)
    return application.exec()
