"""The Qt workbench; the only place that imports PySide6.

What it stands on is imported first: Qt's binding reads the source of each module that is imported after it.
"""

import reedloom.loom.background  # noqa: F401
import reedloom.weave.session  # noqa: F401
