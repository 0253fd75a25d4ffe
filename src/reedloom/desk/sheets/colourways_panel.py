"""The colourways of the weave as small pictures: kept, put on, compared, blended."""

from __future__ import annotations

from functools import partial
from typing import Any

from PySide6.QtCore import QPoint, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QKeyEvent, QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QInputDialog,
    QMenu,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from reedloom.desk.look.words import Words, set_tip
from reedloom.desk.screen.small_pictures import SmallPictures
from reedloom.desk.screen.workplace import Workplace
from reedloom.desk.settings.slider import Slider
from reedloom.desk.sheets.picture_tile import PictureTile
from reedloom.kit.parameters import Float
from reedloom.weave.dials import blend_settings, free_dial_id
from reedloom.weave.document import Document
from reedloom.weave.edits import (
    OrderParts,
    PutColourway,
    PutOn,
    RemoveColourway,
    RenameColourway,
    TurnAll,
)
from reedloom.weave.resolve import resolve

SIDE = 88
SETTLE = 200
"""Milliseconds without a change before pictures are made again."""
PLAIN = ""
"""The name of what all dials at their defaults look like."""
NO_DIALS = "Colourways are kept settings of dials. Make a dial first: at the end of a row of the settings."
NO_WAYS = "Turn some dials until a variant is good, then keep it here under a name."
HOW_FAR = Float("share", 0.0, (0, 1), (0, 1), help="How far along the way from the first to the second.")


class ColourwaysPanel(QScrollArea):
    """A strip of tiles; a click puts one on."""

    asked_try_out = Signal()

    def __init__(self, workplace: Workplace, side: int = SIDE, blends: bool = True) -> None:
        super().__init__()
        self.side = side
        self.workplace = workplace
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.tiles: dict[str, PictureTile] = {}
        self.images: dict[str, QImage] = {}
        self.pictures = SmallPictures(workplace, SIDE * 2, self)
        self.pictures.made.connect(self._take_picture)
        self.pictures.failed.connect(self._take_trouble)
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.timeout.connect(self._ask)
        self._asked: tuple[Any, ...] = ()
        self._build(blends)
        workplace.document_replaced.connect(self._on_other)
        workplace.document_changed.connect(lambda _: self.refresh() if self.isVisible() else None)
        self.refresh()

    # -- building -------------------------------------------------------------------------------------

    def _build(self, blends: bool) -> None:
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(10, 8, 12, 12)
        column.setSpacing(8)
        self.hint = Words()
        self.hint.setWordWrap(True)
        self.hint.setProperty("role", "dim")
        column.addWidget(self.hint)
        self.strip = QGridLayout()
        self.strip.setHorizontalSpacing(4)
        self.strip.setVerticalSpacing(4)
        self.strip.setAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop)
        column.addLayout(self.strip)
        foot = QHBoxLayout()
        self.keep = QPushButton("Keep as a colourway…")
        set_tip(self.keep, "Keep the dials as they are turned, under a name")
        self.keep.clicked.connect(partial(self.keep_new, None))
        self.update_ = QPushButton("Keep the changes")
        self.update_.clicked.connect(self._keep_changes)
        for button in (self.keep, self.update_):
            foot.addWidget(button)
        foot.addStretch()
        column.addLayout(foot)
        self.blend = BlendRow(self) if blends else None
        if self.blend is not None:
            column.addWidget(self.blend)
        column.addStretch()
        self.setWidget(body)

    @property
    def document(self) -> Document:
        """The weave as shown."""
        return self.workplace.document

    def _on_other(self) -> None:
        self.images.clear()
        self._asked = ()
        self.refresh()

    def refresh(self) -> None:
        """Show the newest state; pictures follow when nothing has changed for a moment."""
        document = self.document
        ways = document.colourways
        if list(self.tiles) != ([PLAIN, *ways] if document.dials else []):
            self._rebuild()
        changed = self._has_changed()
        for key, tile in self.tiles.items():
            name = ways[key].label or key if key else "Defaults"
            worn = key == document.colourway if key else not document.colourway and not document.settings
            if tile.name != name:
                tile.name = name
                tile.setAccessibleName(name)
            tile.set_chosen(worn, "changed since" if worn and key and changed else "")
        self.hint.setText(NO_DIALS if not document.dials else NO_WAYS)
        self.hint.setVisible(not ways)
        self.keep.setEnabled(bool(document.dials))
        self.update_.setVisible(changed)
        if changed:
            set_tip(self.update_, f"Let “{ways[document.colourway].label}” be as the dials are turned now")
        if self.blend is not None:
            self.blend.refresh()
        self._settle.start(SETTLE if self.images else 0)

    def _has_changed(self) -> bool:
        """Whether the dials were turned since the colourway was put on."""
        worn = self.document.colourways.get(self.document.colourway)
        return worn is not None and worn.values != self.document.settings

    def _rebuild(self) -> None:
        for tile in self.tiles.values():
            self.strip.removeWidget(tile)
            tile.hide()
            tile.deleteLater()
        self.tiles = {}
        if not self.document.dials:
            return
        for key in (PLAIN, *self.document.colourways):
            name = self.document.colourways[key].label or key if key else "Defaults"
            tile = PictureTile(self.side, name)
            tile.show_image(self.images.get(key))
            tile.taken.connect(partial(self.put_on, key))
            tile.opened.connect(partial(self.put_on, key))
            tile.menu_asked.connect(partial(self._open_menu, key))
            tile.moved.connect(partial(self._drop, key))
            self.tiles[key] = tile
        self._lay_tiles()

    def _lay_tiles(self) -> None:
        across = max(1, (self.viewport().width() - 24) // (self.side + 12))
        for number, tile in enumerate(self.tiles.values()):
            self.strip.addWidget(tile, number // across, number % across)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay_tiles()

    # -- pictures -------------------------------------------------------------------------------------

    def _ask(self) -> None:
        document, kinds = self.document, self.workplace.kinds
        asked = (document.graph, document.motifs, document.dials, document.colourways, document.surface)
        if not self.isVisible() or not document.graph.ends or not document.dials:
            return
        if len(asked) == len(self._asked) and all(a is b for a, b in zip(asked, self._asked, strict=True)):
            return
        self._asked = asked
        keys = [PLAIN, *document.colourways]

        def flat_of(key: str) -> Any:
            values = document.colourways[key].values if key else {}
            return resolve(document, kinds, None, _all_turned(document, values))

        self.pictures.ask([(key, partial(flat_of, key)) for key in keys])

    def showEvent(self, event: object) -> None:
        self.refresh()
        self._lay_tiles()
        self._settle.start(0)

    def _take_picture(self, key: str, image: QImage) -> None:
        self.images[key] = image
        if key in self.tiles:
            self.tiles[key].show_image(image)

    def _take_trouble(self, key: str, trouble: str) -> None:
        if key in self.tiles:
            self.tiles[key].show_image(None, trouble)

    # -- what is done with them -----------------------------------------------------------------------

    def put_on(self, key: str) -> None:
        """Turn all dials as a colourway has them."""
        self.workplace.submit(PutOn(key))

    def step(self, by: int) -> None:
        """Put the next colourway on, or the one before."""
        keys = list(self.tiles)
        if keys:
            here = keys.index(self.document.colourway) if self.document.colourway in keys else 0
            self.put_on(keys[(here + by) % len(keys)])

    def keep_new(self, values: dict[str, Any] | None = None) -> None:
        """Keep the dials under a name that is asked for."""
        number = len(self.document.colourways) + 1
        text, done = QInputDialog.getText(
            self.window(), "Keep as a colourway", "Name of the colourway:", text=f"Variant {number}"
        )
        if done and text.strip():
            key = free_dial_id(text, self.document.colourways)
            self.workplace.submit(PutColourway(key, text.strip(), values))

    def _keep_changes(self) -> None:
        key = self.document.colourway
        if key in self.document.colourways:
            name = self.document.colourways[key].label
            self.workplace.submit(PutColourway(key, name, label="Keep changes of colourway"))

    def _open_menu(self, key: str, at: QPoint) -> None:
        menu = QMenu(self)
        menu.addAction("Put on", partial(self.put_on, key))
        if key:
            menu.addAction("Look at it on pin A", partial(self.workplace.pin_colourway, "A", key))
            menu.addAction("Look at it on pin B", partial(self.workplace.pin_colourway, "B", key))
            menu.addSeparator()
            menu.addAction("Rename…", partial(self.rename, key))
            menu.addAction("Move left", partial(self._move, key, -1))
            menu.addAction("Move right", partial(self._move, key, 1))
            menu.addSeparator()
            menu.addAction("Leave out", partial(self._leave_out, key))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(at)

    def rename(self, key: str) -> None:
        """Ask for another name."""
        old = self.document.colourways[key].label
        text, done = QInputDialog.getText(self.window(), "Colourway", "Name of the colourway:", text=old)
        if done and text.strip():
            self.workplace.submit(RenameColourway(key, text.strip()))

    def _leave_out(self, key: str) -> None:
        place = list(self.tiles).index(key)
        if self.workplace.submit(RemoveColourway(key)):  # the keyboard stays where it was
            list(self.tiles.values())[min(place, len(self.tiles) - 1)].setFocus()

    def _move(self, key: str, by: int) -> None:
        keys = [k for k in self.document.colourways if k != key]
        place = list(self.document.colourways).index(key) + by
        place = min(max(place, 0), len(keys))
        order = (*keys[:place], key, *keys[place:])
        self.workplace.submit(OrderParts("colourways", order, label="Reorder colourways"))

    def _drop(self, key: str, at: QPoint) -> None:
        """Put a dragged tile before the one that it was let go on."""
        for other, tile in self.tiles.items():
            if key and other and other != key and tile.rect().contains(tile.mapFromGlobal(at)):
                keys = list(self.document.colourways)
                self._move(key, keys.index(other) - keys.index(key))
                return

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows go from tile to tile; F2 renames and Delete leaves out."""
        held = next((k for k, tile in self.tiles.items() if tile.hasFocus()), None)
        keys = list(self.tiles)
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if held is not None and event.key() in steps:
            step = steps[Qt.Key(event.key())]
            if event.modifiers() & Qt.KeyboardModifier.AltModifier and held:
                self._move(held, step)
                self.tiles[held].setFocus()
            else:
                self.tiles[keys[(keys.index(held) + step) % len(keys)]].setFocus()
        elif held and event.key() == Qt.Key.Key_F2:
            self.rename(held)
        elif held and event.key() == Qt.Key.Key_Delete:
            self._leave_out(held)
        else:
            super().keyPressEvent(event)

    def focus_first(self) -> None:
        """Put the keyboard on the colourway that is put on, or on the button that keeps one."""
        worn = self.tiles.get(self.document.colourway)
        (worn or self.keep).setFocus()

    def close_down(self) -> None:
        """End the thread that looks for kept pictures."""
        self._settle.stop()
        self.pictures.close()


def _all_turned(document: Document, values: dict[str, Any]) -> dict[str, Any]:
    """Every dial's value in a colourway, whatever is set at present."""
    return {key: values.get(key, dial.default) for key, dial in document.dials.items()}


class BlendRow(QWidget):
    """Two colourways and a slider between them; what lies between can be kept as a third."""

    def __init__(self, panel: ColourwaysPanel) -> None:
        super().__init__()
        self.panel = panel
        self.slider = Slider(HOW_FAR)
        self.first, self.second = QComboBox(), QComboBox()
        for combo, tip in ((self.first, "Blend from"), (self.second, "Blend to")):
            set_tip(combo, tip)
            combo.setAccessibleName(tip)
            combo.activated.connect(lambda _: self._go(self.slider.value, True))
        self.slider.setAccessibleName("Blend of two colourways")
        self.slider.changing.connect(lambda value: self._go(value, False))
        self.slider.changed.connect(lambda value: self._go(value, True))
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(self.first, 2)
        row.addWidget(self.slider, 3)
        row.addWidget(self.second, 2)
        heading = Words("Between two")
        heading.setProperty("role", "heading")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        column.setSpacing(4)
        column.addWidget(heading)
        column.addLayout(row)

    def refresh(self) -> None:
        """Offer the colourways there are; with less than two there is nothing to blend."""
        document = self.panel.document
        offered = [(PLAIN, "Defaults"), *((k, way.label) for k, way in document.colourways.items())]
        self.setVisible(bool(document.colourways))
        if [(self.first.itemData(i), self.first.itemText(i)) for i in range(self.first.count())] == offered:
            return
        for number, combo in enumerate((self.first, self.second)):
            before = combo.currentData()
            combo.clear()
            for key, label in offered:
                combo.addItem(label, key)
            known = combo.findData(before) if before is not None else -1
            combo.setCurrentIndex(known if known >= 0 else min(number, combo.count() - 1))
        if self.first.currentIndex() == self.second.currentIndex():
            self.second.setCurrentIndex((self.first.currentIndex() + 1) % self.second.count())

    def _go(self, share: float, done: bool) -> None:
        document = self.panel.document
        first, second = (
            document.colourways[key].values if key else {}
            for key in (self.first.currentData(), self.second.currentData())
        )
        self.slider.show_value(share)
        edit = TurnAll(blend_settings(document.dials, first, second, share), "Blend colourways")
        if done:
            self.panel.workplace.submit(edit)
        else:
            self.panel.workplace.preview(edit)
