"""The Qt workbench; the only place that imports PySide6."""
