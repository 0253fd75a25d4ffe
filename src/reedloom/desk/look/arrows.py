"""Where arrow keys point, for all that is moved by them."""

from __future__ import annotations

from PySide6.QtCore import Qt

ARROWS: dict[int, tuple[int, int]] = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}
"""Steps to the right and downwards."""
