"""A choice among named things, with its name for the eye and for the screen reader."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtWidgets import QComboBox

from reedloom.desk.look.words import set_tip


def make_choice(tip: str, labels: Mapping[str, str] | None = None) -> QComboBox:
    """A combo box that shows labels and holds their keys as data."""
    combo = QComboBox()
    for key, label in (labels or {}).items():
        combo.addItem(label, key)
    set_tip(combo, tip)
    combo.setAccessibleName(tip)
    combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
    return combo
