"""The try strip: a parameter's help and five small results across its range; a click takes one."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QEvent, QObject, QPoint, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QEnterEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QApplication, QFrame, QHBoxLayout, QVBoxLayout, QWidget

from reedloom.desk.look.arrows import ARROWS
from reedloom.desk.look.fitting import paint_fitting
from reedloom.desk.look.theme import small_font, theme
from reedloom.desk.look.words import Words
from reedloom.desk.screen.variants import Variants
from reedloom.desk.screen.workplace import Workplace
from reedloom.kit.parameters import Parameter
from reedloom.weave.document import End
from reedloom.weave.edits import SetParameters

SIDE = 68
"""Pixels across a result."""
SAMPLES = 96
WAIT, LINGER = 550, 350
"""Milliseconds before the strip comes, and after the pointer left before it goes."""


class Try(QWidget):
    """One result with its value; taken by a click."""

    taken = Signal()

    def __init__(self, caption: str, present: bool) -> None:
        super().__init__()
        self.caption, self.present = caption, present
        self.image: QImage | None = None
        self.marked = False
        self.setFixedSize(QSize(SIDE + 4, SIDE + 20))
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"Try {caption}")

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        box = QRectF(2, 2, SIDE, SIDE)
        painter.fillRect(box, t.colour("slot"))
        if self.image is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            paint_fitting(painter, box, self.image)
        if self.marked or self.present:
            painter.setPen(QPen(t.colour("accent" if self.marked else "selection"), 2))
            painter.drawRect(box)
        painter.setFont(small_font())
        painter.setPen(t.colour("text"))
        text = painter.fontMetrics().elidedText(self.caption, Qt.TextElideMode.ElideRight, SIDE)
        painter.drawText(QRectF(0, SIDE + 3, SIDE + 4, 16), int(Qt.AlignmentFlag.AlignCenter), text)

    def set_marked(self, on: bool) -> None:
        """Show whether Enter would take it."""
        self.marked = on
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.taken.emit()


class TryStrip(QFrame):
    """Comes under a row of the settings, and goes when the pointer leaves both."""

    taken = Signal(str, object)

    def __init__(self, workplace: Workplace, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.ToolTip)
        self.workplace = workplace
        self.setObjectName("trystrip")
        self.variants = Variants(workplace, SAMPLES, self)
        self.variants.made.connect(self._take_picture)
        self.help = Words()
        self.help.setWordWrap(True)
        self.help.setFont(small_font(pixels=12))
        self.row = QHBoxLayout()
        self.row.setSpacing(2)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 6, 8, 6)
        layout.addWidget(self.help)
        layout.addLayout(self.row)
        self.tries: list[Try] = []
        self.values: list[Any] = []
        self._name = ""
        self._marked = -1
        self._come, self._go = QTimer(self), QTimer(self)
        for timer, act in ((self._come, self._open_waiting), (self._go, self.close_up)):
            timer.setSingleShot(True)
            timer.timeout.connect(act)
        self._waiting: tuple[Parameter, str, str, QWidget] | None = None

    # -- coming and going -----------------------------------------------------------------------------

    def hover(self, parameter: Parameter, node: str, text: str, row: QWidget) -> None:
        """The pointer is over a row: the strip comes in a while, at once if one is out."""
        self._go.stop()
        if self.isVisible() and self._name == parameter.name:
            return
        self._waiting = (parameter, node, text, row)
        self._come.start(120 if self.isVisible() else WAIT)

    def leave(self) -> None:
        """The pointer left the row: the strip goes, unless the pointer comes to it."""
        self._come.stop()
        if self.isVisible():
            self._go.start(LINGER)

    def _open_waiting(self) -> None:
        if self._waiting is not None and self._waiting[3].isVisible():
            self.open_for(*self._waiting)

    def open_for(self, parameter: Parameter, node: str, text: str, row: QWidget) -> None:
        """Show the strip for a parameter of a node, under its row."""
        document, graph = self.workplace.document, self.workplace.graph
        if node not in graph.nodes:
            return
        present = self.workplace.kinds.value(graph.nodes[node], parameter.name)
        found = parameter.try_values(present, document.folder)
        self._name, self._marked = parameter.name, -1
        self.help.setText(text)
        for old in self.tries:
            self.row.removeWidget(old)
            old.hide()
            old.deleteLater()
        self.tries, self.values = [], [value for _, value in found]
        for number, (caption, value) in enumerate(found):
            one = Try(caption, value == present)
            one.taken.connect(lambda n=number: self._take(n))
            self.row.addWidget(one)
            self.tries.append(one)
        self.help.setFixedWidth(max(220, (SIDE + 6) * len(found)))
        self.adjustSize()
        at = row.mapToGlobal(QPoint(0, row.height() + 2))
        area = row.screen().availableGeometry()
        if at.y() + self.height() > area.bottom():
            at.setY(row.mapToGlobal(QPoint(0, 0)).y() - self.height() - 2)
        at.setX(max(area.left(), min(at.x(), area.right() - self.width())))
        self.move(at)
        self.show()
        port = self.workplace.kinds.of(graph.nodes[node]).outputs[0].name
        edits = [SetParameters(node, {parameter.name: value}) for value in self.values]
        self.variants.ask(End(node=node, port=port), edits)

    def close_up(self) -> None:
        """Put the strip away."""
        self._come.stop()
        self.variants.drop()
        self.hide()
        application = QApplication.instance()
        if application is not None:
            application.removeEventFilter(self)
        self._name = ""

    def enterEvent(self, event: QEnterEvent) -> None:
        self._go.stop()

    def leaveEvent(self, event: object) -> None:
        self._go.start(LINGER)

    # -- what is in it --------------------------------------------------------------------------------

    def _take_picture(self, number: int, image: QImage) -> None:
        if number < len(self.tries):
            self.tries[number].image = image
            self.tries[number].update()

    def _take(self, number: int) -> None:
        name, value = self._name, self.values[number]
        self.close_up()
        self.taken.emit(name, value)

    def take_keys(self) -> None:
        """Let the keyboard choose among the results until the strip goes."""
        QApplication.instance().installEventFilter(self)  # type: ignore[union-attr]

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and self.isVisible():
            assert isinstance(event, QKeyEvent)
            return self.steer(event)
        return False

    def steer(self, event: QKeyEvent) -> bool:
        """Arrows choose, Enter takes, Esc puts away; whether the key was meant for the strip."""
        key = event.key()
        if key == Qt.Key.Key_Escape:
            self.close_up()
            return True
        if key in ARROWS and ARROWS[key][0] and self.tries:
            step = ARROWS[key][0] if self._marked >= 0 or ARROWS[key][0] > 0 else 0
            self._marked = (self._marked + step) % len(self.tries)
            for number, one in enumerate(self.tries):
                one.set_marked(number == self._marked)
            return True
        if key in {Qt.Key.Key_Return, Qt.Key.Key_Enter} and self._marked >= 0:
            self._take(self._marked)
            return True
        return False
