"""The status line: what is computed, what is muted, and what just happened."""

from __future__ import annotations

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QProgressBar, QStatusBar

from reedloom.desk.look.theme import restyle
from reedloom.desk.look.words import Words, set_tip
from reedloom.desk.screen.workplace import Workplace

SHOWN_FOR = 9000
"""Milliseconds a message stays."""
BUSY_AFTER = 250
"""Milliseconds of work before progress is shown, so that quick work does not flicker."""


class StatusLine(QStatusBar):
    """Messages on the left; on the right work, muted nodes and counts."""

    def __init__(self, workplace: Workplace) -> None:
        super().__init__()
        self.workplace = workplace
        self.setSizeGripEnabled(False)
        self.message = Words("Ready")
        self.work = QProgressBar()
        self.work.setFixedSize(110, 10)
        self.work.setRange(0, 1000)
        self.work.setTextVisible(False)
        self.work.hide()
        self.counts = Words()
        self.addWidget(self.message, 1)
        self.addPermanentWidget(self.work)
        self.addPermanentWidget(self.counts)
        self._fade = QTimer(self)
        self._fade.setSingleShot(True)
        self._fade.timeout.connect(lambda: self._say("Ready", False))
        self._busy = QTimer(self)
        self._busy.setSingleShot(True)
        self._busy.setInterval(BUSY_AFTER)
        self._busy.timeout.connect(self.work.show)
        workplace.message.connect(self._say)
        workplace.work_changed.connect(lambda _name, share: self.work.setValue(round(share * 1000)))
        workplace.idle_changed.connect(self._on_idle)
        workplace.looks_changed.connect(lambda _: self.refresh())
        workplace.document_changed.connect(lambda _: self.refresh())
        workplace.document_replaced.connect(self.refresh)
        workplace.place_changed.connect(self.refresh)
        self.refresh()

    def _say(self, text: str, warning: bool) -> None:
        self.message.setText(text)
        set_tip(self.message, text)
        restyle(self.message, "role", "warning" if warning else "dim")
        if text != "Ready":
            self._fade.start(SHOWN_FOR)

    def _on_idle(self, idle: bool) -> None:
        if idle:
            self._busy.stop()
            self.work.hide()
        elif not self.work.isVisible():
            self._busy.start()

    def refresh(self) -> None:
        """Count nodes, muted ones and failed ones, and sum the time."""
        w = self.workplace
        nodes = w.graph.nodes
        ids = [w.flat_id(node) for node in nodes]
        muted = sum(node.muted for node in nodes.values())
        failed = len(w.failures.keys() & ids)
        seconds = sum(w.seconds.get(flat_id, 0.0) for flat_id in ids)
        parts = [f"{len(nodes)} nodes"]
        parts += [f"{muted} muted"] if muted else []
        parts += [f"{failed} waiting or failed"] if failed else []
        parts += [f"{seconds * 1000:.0f} ms in all"] if seconds else []
        self.counts.setText("  ·  ".join(parts))
