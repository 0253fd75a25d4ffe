"""The application in a real X window, driven by real key and mouse events."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

import reedloom as rl
from reedloom.weave.document import Document

NEEDED = ("Xvfb", "xdotool")
pytestmark = pytest.mark.skipif(
    not all(map(shutil.which, NEEDED)),
    reason=f"needs {' and '.join(NEEDED)}, which ./run installs where it may",
)


@pytest.fixture
def desktop(tmp_path: Path) -> Iterator[dict[str, str]]:
    """The environment of a virtual screen; its server takes a free number, and tells it once it listens."""
    told, tell = os.pipe()
    # Without a reset whenever its last client leaves, in the midst of which the program could not connect.
    words = ["Xvfb", "-noreset", "-displayfd", str(tell), "-screen", "0", "1400x900x24"]
    server = subprocess.Popen(words, stderr=subprocess.DEVNULL, pass_fds=[tell])
    os.close(tell)
    with os.fdopen(told) as answer:
        number = answer.readline().strip()
    assert number, "the virtual screen did not start"
    yield os.environ | {
        "DISPLAY": f":{number}",
        "QT_QPA_PLATFORM": "xcb",
        "XDG_CONFIG_HOME": str(tmp_path / "config"),
        "REEDLOOM_STATE": str(tmp_path / "state"),
    }
    server.terminate()
    server.wait(10)


def wait_for(found, what: str, seconds: float = 60):  # type: ignore[no-untyped-def]
    """Ask again and again until something is there."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        value = found()
        if value:
            return value
        time.sleep(0.1)
    pytest.fail(f"{what} did not come within {seconds:g} s")


def test_keys_and_mouse_make_and_save_a_weave(desktop: dict[str, str], tmp_path: Path) -> None:
    file = tmp_path / "jar.reed"
    rl.save_weave(rl.Weave(), file)
    program = subprocess.Popen([sys.executable, "-m", "reedloom.cli", str(file)], env=desktop)

    def tool(*words: object) -> str:
        return subprocess.run(
            ["xdotool", *map(str, words)], env=desktop, capture_output=True, text=True, check=False
        ).stdout.strip()

    def saved(*kinds: str) -> Document | None:
        """Save by the keys; the document, once these and no others are its nodes."""
        tool("key", "ctrl+s")
        document = rl.open_weave(file).document
        return document if [n.kind for n in document.graph.nodes.values()] == list(kinds) else None

    try:
        window = wait_for(lambda: tool("search", "--name", "Untitled").split("\n")[0], "the window")
        tool("windowmove", window, 0, 0)

        def has_focus() -> bool:
            tool("windowfocus", window)
            return tool("getwindowfocus") == window

        wait_for(has_focus, "the window's focus")
        tool("mousemove", 400, 300, "click", 1)
        tool("type", "--delay", 40, "gradient noise")
        tool("key", "Return")
        wait_for(lambda: saved("gradient_noise"), "the first node in the file", 20)
        tool("mousemove", 420, 560)
        tool("type", "--delay", 40, "blur")
        tool("key", "Return")
        document = wait_for(lambda: saved("gradient_noise", "blur"), "the second node in the file", 20)
        assert str(document.graph.incoming("blur_1")["map"]) == "gradient_noise_1.noise"
        tool("key", "ctrl+z")
        wait_for(lambda: saved("gradient_noise"), "the undone file", 20)
        tool("key", "ctrl+q")
        assert program.wait(20) == 0
    finally:
        program.kill()
        program.wait(10)
