"""Colours, fonts and the style sheet of the dark and the linen theme."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache

from msgspec import Struct
from msgspec.structs import asdict
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QIcon, QPainter, QPalette, QPixmap
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QApplication, QWidget

from reedloom.data import FOLDER

FAMILY = "IBM Plex Sans"
STYLE = "Fusion"
"""The style of Qt's that the sheet stands on."""


class Theme(Struct, frozen=True):
    """The named colours of a look.

    `accent` (reed gold) marks what is active; `selection` (heron blue) only what is selected.
    """

    name: str
    ground: str
    panel: str
    raised: str
    line: str
    text: str
    dim: str
    accent: str
    on_accent: str
    selection: str
    warning: str
    strand: str
    slot: str

    def colour(self, name: str) -> QColor:
        """A named colour as Qt has it."""
        return QColor(getattr(self, name))


DARK = Theme(
    name="dark",
    ground="#211f1d", panel="#2b2926", raised="#37342f", line="#4b463f", text="#efe6d4",
    dim="#b8ae9c", accent="#d9ad55", on_accent="#241c0c", selection="#7fb2d0", warning="#ee8a72",
    strand="#c9bfae", slot="#1a1917",
)  # fmt: skip
LINEN = Theme(
    name="linen", ground="#ddd5c5", panel="#ece6da", raised="#f8f4eb", line="#bdb19b", text="#2b2721",
    dim="#564e41", accent="#74530c", on_accent="#fff8e8", selection="#245f86", warning="#a3331b",
    strand="#5f574a", slot="#cfc6b4",
)  # fmt: skip
THEMES = {theme.name: theme for theme in (DARK, LINEN)}

TEXT_PAIRS = [
    ("text", "panel"), ("text", "raised"), ("text", "ground"), ("text", "slot"), ("dim", "panel"),
    ("dim", "raised"), ("dim", "ground"), ("dim", "slot"), ("accent", "panel"), ("accent", "ground"),
    ("on_accent", "accent"), ("warning", "panel"), ("warning", "raised"), ("selection", "ground"),
]  # fmt: skip
"""Which colours are read as text on which."""


def contrast(first: str, second: str) -> float:
    """The contrast ratio of two colours (WCAG 2.2), from 1 to 21."""

    def light(code: str) -> float:
        parts = [int(code[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    high, low = sorted((light(first), light(second)), reverse=True)
    return (high + 0.05) / (low + 0.05)


_current: list[Theme] = [DARK]


def theme() -> Theme:
    """The theme in use."""
    return _current[0]


def apply_theme(application: QApplication, chosen: Theme) -> None:
    """Give the whole application a look."""
    _current[0] = chosen
    _picture.cache_clear()
    _load_fonts()
    font = QFont(FAMILY)
    font.setPixelSize(13)
    application.setFont(font)
    if application.styleSheet():  # what it gave to widgets goes with the style under it
        application.setStyle(STYLE)
    application.setPalette(_palette(chosen))
    application.setStyleSheet(_style_sheet(chosen))


@contextmanager
def unstyled() -> Iterator[None]:
    """While a window is put together: with a style sheet, each widget added styles all below it again."""
    application = QApplication.instance()
    assert isinstance(application, QApplication)
    sheet = application.styleSheet()
    application.setStyleSheet("")
    try:
        yield
    finally:
        application.setStyleSheet(sheet)


def restyle(widget: QWidget, name: str, value: str) -> None:
    """Give a widget a property that the style sheet asks for, and the look that goes with it."""
    if (widget.property(name) or "") == value:
        return
    widget.setProperty(name, value)
    if widget.testAttribute(Qt.WidgetAttribute.WA_WState_Polished):  # else it is before it is shown
        widget.style().unpolish(widget)
        widget.style().polish(widget)


@cache
def _load_fonts() -> None:
    for path in sorted((FOLDER / "fonts").glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(path))


def small_font(bold: bool = False, pixels: int = 11) -> QFont:
    """The font of captions."""
    font = QFont(FAMILY)
    font.setPixelSize(pixels)
    if bold:
        font.setWeight(QFont.Weight.DemiBold)
    return font


def _palette(t: Theme) -> QPalette:
    palette = QPalette()
    role = QPalette.ColorRole
    roles = {
        role.Window: t.panel, role.WindowText: t.text, role.Base: t.slot, role.AlternateBase: t.raised,
        role.Text: t.text, role.Button: t.raised, role.ButtonText: t.text, role.Highlight: t.selection,
        role.HighlightedText: t.ground, role.ToolTipBase: t.raised, role.ToolTipText: t.text,
        role.PlaceholderText: t.dim, role.Link: t.accent, role.BrightText: t.warning,
    }  # fmt: skip
    for name, code in roles.items():
        palette.setColor(name, QColor(code))
    for name in (role.Text, role.ButtonText, role.WindowText):
        palette.setColor(QPalette.ColorGroup.Disabled, name, QColor(t.line).lighter(140))
    return palette


def _style_sheet(t: Theme) -> str:
    values = asdict(t)
    sheet = (FOLDER / "workbench.qss").read_text()
    values["icons"] = (FOLDER / "icons").as_posix()
    for name, value in values.items():
        sheet = sheet.replace(f"@{name}@", value)
    return sheet


def icon(name: str, size: int = 18, colour: str = "text") -> QIcon:
    """A shipped icon in one of the theme's colours, dimmed when disabled."""
    result = QIcon(_picture(name, getattr(theme(), colour), size))
    result.addPixmap(_picture(name, theme().line, size), QIcon.Mode.Disabled)
    result.addPixmap(_picture(name, theme().accent, size), QIcon.Mode.Normal, QIcon.State.On)
    return result


@cache
def _picture(name: str, colour: str, size: int) -> QPixmap:
    """An icon in one colour, sharp on fine screens too."""
    pixmap = _outline(name, size).copy()
    painter = QPainter(pixmap)
    painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_SourceIn)
    painter.fillRect(pixmap.rect(), QColor(colour))
    painter.end()
    pixmap.setDevicePixelRatio(2.0)
    return pixmap


@cache
def _outline(name: str, size: int) -> QPixmap:
    """What an icon covers, whatever its colour."""
    pixmap = QPixmap(QSize(size * 2, size * 2))
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    QSvgRenderer(str(FOLDER / "icons" / f"{name}.svg")).render(painter, QRectF(pixmap.rect()))
    painter.end()
    return pixmap
