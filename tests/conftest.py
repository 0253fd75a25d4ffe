"""What all tests share: an own place for settings and recovery, and no display."""

from __future__ import annotations

import os
import shutil
import tempfile

_home = tempfile.mkdtemp(prefix="reedloom-tests-")
os.environ["REEDLOOM_STATE"] = _home
os.environ["XDG_CONFIG_HOME"] = _home
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from hypothesis import settings  # noqa: E402 - the places above must be set before anything is imported

# A busy machine must not fail a property: timings are benchmarks, never assertions.
settings.register_profile("house", deadline=None)
settings.load_profile("house")


def pytest_unconfigure() -> None:
    """Leave nothing behind."""
    shutil.rmtree(_home, ignore_errors=True)
