"""The log: what was unforeseen, with its traceback, in a small rotating file; and a report made of it."""

from __future__ import annotations

import logging
import os
import platform
import re
import sys
import threading
from collections.abc import Iterable
from logging.handlers import RotatingFileHandler
from pathlib import Path
from types import TracebackType

from reedloom import __version__
from reedloom.files import explain

NAME = "reedloom"
LARGEST, KEPT = 512 * 1024, 2
"""Bytes of a log file, and how many earlier ones are kept."""
TAIL = 120
"""Lines of the log in a report."""
PARTS = ("numpy", "scipy", "numba", "msgspec", "OpenImageIO", "moderngl", "PySide6_Essentials")
PRIVATE = re.compile(r"(?<![\w.])(?:~|[A-Za-z]:)?(?:[/\\\\][^\s/\\\\'\":]+)+[/\\\\]([^\s/\\\\'\":]+)")
QUOTED = re.compile(r"""(['"])(?:~|[A-Za-z]:)?[/\\][^'"\n]*[/\\]([^'"/\\\n]+)\1""")
"""Paths as tracebacks and sentences hold them: in quotes, with whatever lies between."""
log = logging.getLogger(NAME)


def state_folder() -> Path:
    """Where the log and unsaved work are kept."""
    given = os.environ.get("REEDLOOM_STATE")
    if given:
        return Path(given)
    import platformdirs

    return Path(platformdirs.user_state_dir("reedloom"))


def log_file() -> Path:
    """The log's newest file."""
    return state_folder() / "reedloom.log"


def begin_log() -> None:
    """Write warnings and what is worse to the log from now on, unforeseen exceptions of all threads too.

    Where the file cannot be written the program goes on without it.
    """
    end_log()
    try:
        log_file().parent.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(log_file(), maxBytes=LARGEST, backupCount=KEPT, encoding="utf-8")
    except OSError as error:
        log.warning("There is no log: %s", explain(error, log_file().parent, "write to"))
        return
    logging.raiseExceptions = False  # a full disk under the log is no reason to end, or for a traceback
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    log.addHandler(handler)
    log.setLevel(logging.INFO)
    log.info("Reed Loom %s began", __version__)
    sys.excepthook = _log_exception
    threading.excepthook = lambda told: _log_exception(told.exc_type, told.exc_value, told.exc_traceback)


def end_log() -> None:
    """Close the log's file, if there is one."""
    for handler in tuple(log.handlers):
        log.removeHandler(handler)
        handler.close()


def _log_exception(
    kind: type[BaseException], error: BaseException | None, trace: TracebackType | None
) -> None:
    if issubclass(kind, KeyboardInterrupt):
        sys.__excepthook__(kind, error or kind(), trace)
        return
    log.error("Something unforeseen", exc_info=(kind, error or kind(), trace))


def report(failures: Iterable[tuple[str, str]] = ()) -> str:
    """Versions, failing nodes and the end of the log, without anybody's paths.

    failures : the kind of each failing node and its reason.
    """
    lines = [f"Reed Loom {__version__}", f"Python {platform.python_version()} on {platform.system()}"]
    lines += [f"{part} {_version(part)}" for part in PARTS]
    failing = [f"- {kind}: {reason}" for kind, reason in failures]
    lines += ["", "Failing nodes:", *(failing or ["none"]), "", "The end of the log:"]
    try:
        lines += log_file().read_text(encoding="utf-8", errors="replace").splitlines()[-TAIL:]
    except OSError:
        lines.append("there is none")
    return without_paths("\n".join(lines)) + "\n"


def without_paths(text: str) -> str:
    """A text in which every path is cut down to its last part."""
    return PRIVATE.sub(r"…/\1", QUOTED.sub(r"\1…/\2\1", text))


def _version(part: str) -> str:
    from importlib import metadata  # only a report asks; its import would hold the window up

    try:
        return metadata.version(part)
    except metadata.PackageNotFoundError:
        return "not installed"
