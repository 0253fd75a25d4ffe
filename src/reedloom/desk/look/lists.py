"""What those who paint rows of lists ask."""

from __future__ import annotations

from PySide6.QtWidgets import QStyleOptionViewItem


def is_chosen(option: QStyleOptionViewItem) -> bool:
    """Whether a row is the one that is chosen."""
    from PySide6.QtWidgets import QStyle  # its many names take 14 ms of a start, before any list is painted

    return bool(option.state & QStyle.StateFlag.State_Selected)
