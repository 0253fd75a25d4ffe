"""Over the board, while one is in a motif: the way one came, and how often the motif is used."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QToolButton, QWidget

from reedloom.desk.look.shortcuts import PRESENT
from reedloom.desk.look.words import Words, action_text, set_tip
from reedloom.desk.screen.workplace import Workplace
from reedloom.weave.motifs import uses_of


class PathBar(QWidget):
    """A button for each step of the way in; a click goes back there."""

    def __init__(self, workplace: Workplace) -> None:
        super().__init__()
        self.workplace = workplace
        self.setObjectName("pathbar")
        self.steps: list[QToolButton] = []
        self.told = Words()
        self.told.setProperty("role", "dim")
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(10, 3, 12, 3)
        self._row.setSpacing(2)
        self._row.addStretch()
        self._row.addWidget(self.told)
        self._shown: tuple[str, ...] = ()
        for signal in (workplace.place_changed, workplace.document_replaced):
            signal.connect(self.refresh)
        workplace.document_changed.connect(lambda _: self.refresh())
        self.refresh()

    def _titles(self) -> tuple[str, ...]:
        w = self.workplace
        path = w.session.path
        names = [w.document.name]
        for count in range(1, len(path) + 1):
            use = w.flat.uses.get(".".join(path[:count]))
            names.append(use.kind.label if use is not None else path[count - 1])
        return tuple(names)

    def refresh(self) -> None:
        """Show where the board stands."""
        w = self.workplace
        self.setVisible(bool(w.session.path))
        if not w.session.path:
            return
        titles = self._titles()
        if titles != self._shown:
            self._shown = titles
            self._rebuild(titles)
        count = len(list(uses_of(w.document, w.session.motif)))
        others = f"used {count} times; all of them change" if count > 1 else "used once"
        keys = PRESENT.get("go_out")
        self.told.setText(f"{others}  ·  {keys} goes out" if keys else others)

    def _rebuild(self, titles: tuple[str, ...]) -> None:
        for old in self.steps:
            self._row.removeWidget(old)
            old.hide()
            old.deleteLater()
        self.steps = []
        for number, title in enumerate(titles):
            button = QToolButton()
            last = number == len(titles) - 1
            button.setText(action_text(title if last else f"{title}  ›"))
            button.setProperty("quiet", "true")
            button.setEnabled(not last)
            set_tip(button, "You are here" if last else f"Back to {title}")
            button.clicked.connect(partial(self._go, number))
            self._row.insertWidget(number, button)
            self.steps.append(button)

    def _go(self, number: int) -> None:
        self.workplace.go(self.workplace.session.path[:number])
