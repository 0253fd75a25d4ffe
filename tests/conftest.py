"""What all tests share: an own place for settings and recovery, and no display."""

from __future__ import annotations

import os
import tempfile

_home = tempfile.mkdtemp(prefix="reedloom-tests-")
os.environ["REEDLOOM_STATE"] = _home
os.environ["XDG_CONFIG_HOME"] = _home
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
