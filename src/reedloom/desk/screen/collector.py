"""Runs Python's garbage collector in the window's thread only.

The collector otherwise runs in whichever thread happens to allocate, and a worker that takes apart
a cycle of widgets ends the program. So it is switched off, and a timer of the window's thread asks
it to do what it would have done.

Looking at everything takes as long as a few frames, most of it for what was loaded at the start and
stays. So what was looked at is set aside, most times, and nothing old is looked at under a pressed button.
"""

from __future__ import annotations

import gc

from PySide6.QtCore import QObject, Qt, QTimer
from PySide6.QtGui import QGuiApplication

INTERVAL = 500
"""Milliseconds between looks at how much has gathered."""
START = 3000
"""Milliseconds to the first look: what a start loads stays, and the window is waited for."""
EVERYTHING = 10
"""Of so many looks at the oldest generation one is at what was set aside, too."""


class Collector(QObject):
    """Collects garbage in the thread it lives in, generation by generation as thresholds are met."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        self._looks = 0
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.look)
        self._timer.start(START)

    def look(self) -> None:
        """Collect the oldest generation whose threshold is passed."""
        self._timer.setInterval(INTERVAL)
        pressed = QGuiApplication.mouseButtons() != Qt.MouseButton.NoButton
        for generation in (1, 0) if pressed else (2, 1, 0):
            if gc.get_count()[generation] > gc.get_threshold()[generation]:
                if generation == 2:
                    self._look_at_the_oldest()
                else:
                    gc.collect(generation)
                return

    def _look_at_the_oldest(self) -> None:
        if self._looks % EVERYTHING == 0:
            gc.unfreeze()
        self._looks += 1
        gc.collect()
        gc.freeze()
