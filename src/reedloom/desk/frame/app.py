"""Starts the application: display, fonts, theme, window."""

from __future__ import annotations

import ctypes
import os
import socket
import sys
from functools import cache
from pathlib import Path

from PySide6.QtCore import QSettings, QTimer
from PySide6.QtWidgets import QApplication

from reedloom.desk.look.theme import DARK, STYLE, THEMES, apply_theme
from reedloom.desk.screen.collector import Collector
from reedloom.errors import ReedError
from reedloom.logs import begin_log
from reedloom.loom.memory import keep_freed_memory

SWITCH_INTERVAL = 0.0002
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
    if not (_reaches_x() or _reaches_wayland()):
        places = {name: os.environ.get(name) for name in ("WAYLAND_DISPLAY", "DISPLAY")}
        named = " or ".join(f"{name}={place}" for name, place in places.items() if place)
        raise ReedError(f"The display cannot be reached ({named}); is it running, and may you use it?")


def _reaches_x() -> bool:
    """Whether a connection to the X server can be made; Qt would end the program where it cannot."""
    if not os.environ.get("DISPLAY"):
        return False
    try:
        xcb = ctypes.CDLL("libxcb.so.1")
    except OSError:
        return True  # it cannot be tried; Qt says what is missing
    xcb.xcb_connect.restype = ctypes.c_void_p
    for function in (xcb.xcb_connection_has_error, xcb.xcb_disconnect):
        function.argtypes = [ctypes.c_void_p]
    connection = xcb.xcb_connect(None, None)
    trouble = xcb.xcb_connection_has_error(connection)
    xcb.xcb_disconnect(connection)
    return not trouble


def _reaches_wayland() -> bool:
    """Whether there is a socket for a Wayland display; Qt falls back to X where it does not answer."""
    name, folder = os.environ.get("WAYLAND_DISPLAY", ""), os.environ.get("XDG_RUNTIME_DIR", "")
    if not name:
        return False
    with socket.socket(socket.AF_UNIX) as trial:
        try:
            trial.connect(str(Path(folder) / name))
        except OSError:
            return False
    return True


def make_application() -> QApplication:
    """The application object with the chosen theme."""
    # Named here, for a style that is set later comes back as an object with hundreds of names of its own.
    application = QApplication.instance() or QApplication([*sys.argv[:1], "-style", STYLE])
    assert isinstance(application, QApplication)
    sys.setswitchinterval(SWITCH_INTERVAL)
    keep_freed_memory()
    application.setApplicationName("reedloom")
    application.setOrganizationName("reedloom")
    application.setApplicationDisplayName("Reed Loom")
    _collect_in_its_thread(application)
    apply_theme(application, THEMES.get(str(QSettings().value("theme", "dark")), DARK))
    return application


@cache
def _collect_in_its_thread(application: QApplication) -> Collector:
    return Collector(application)


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
