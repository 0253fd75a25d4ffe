"""The window, off screen: start, a weave of 300 nodes, lit frames."""

from __future__ import annotations

import os
import random
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from itertools import cycle
from typing import Any

from benchmarks.disturbance import undisturbed
from benchmarks.timing import Row, best_of, limited
from reedloom.data import shipped_weave
from weaving import KINDS  # type: ignore[import-not-found]

PATIENCE = 5000
"""Milliseconds to wait for a picture."""

START = """
import time
start = time.perf_counter()
from pathlib import Path
from reedloom.desk.frame.app import make_application
from reedloom.desk.frame.window import Window
application = make_application()
window = Window()
window.show()
application.processEvents()
application.processEvents()
print(time.perf_counter() - start)
len(window.workplace.kinds)
print(time.perf_counter() - start)
"""


def rows() -> Iterator[Row]:
    """One row for each thing a maker waits for; the peer is the time it may take."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    shown, kinds = warm_start()
    yield limited("window on screen, warm", shown, 0.8)
    yield Row("window with its kinds at hand, warm", kinds, "on screen", shown)
    yield from in_the_window()
    yield from lit_frames()


def warm_start() -> tuple[float, float]:
    """Seconds to the window, and to all kinds, where Python has kept modules compiled at an earlier start."""
    with tempfile.TemporaryDirectory(prefix="reedloom-start-") as folder:
        around = {**os.environ, "PYTHONDONTWRITEBYTECODE": "", "PYTHONPYCACHEPREFIX": folder}
        start = [sys.executable, "-c", START]

        def run() -> list[str]:
            return subprocess.run(
                start, capture_output=True, text=True, check=True, env=around
            ).stdout.split()

        runs = [undisturbed(run) for _ in range(4)]
    shown, kinds = zip(*runs[1:], strict=True)
    return min(map(float, shown)), min(map(float, kinds))


def lit_frames() -> Iterator[Row]:
    """The lit view on whatever OpenGL there is, with the demo's maps on a ball."""
    import reedloom as rl
    from reedloom.lit.renderer import Renderer
    from reedloom.weave.document import LitState

    weave = rl.open_weave(shipped_weave("lakebed-clay"))
    maps = [rl.evaluate_maps(weave, size) for size in (512, 1024)]
    state, surface = LitState(), (1.0, weave.document.surface.depth)
    found: dict[str, Any] = {}
    others = cycle((maps[1], {c: m.copy() for c, m in maps[1].items()}))
    ready = threading.Event()

    def work() -> None:
        renderer = Renderer()
        found["name"] = renderer.context.info["GL_RENDERER"].split(" (")[0]
        renderer.set_maps(maps[0])

        def draw(side: int, fine: bool) -> None:
            renderer.render(state, (side, side), surface=surface, fine=fine)

        draw(64, True)
        ready.set()
        found["rest"] = best_of(lambda: draw(640, True), 12)
        found["moving"] = best_of(lambda: draw(320, False), 12)
        found["upload"] = best_of(lambda: renderer.set_maps(next(others)), 2)
        renderer.release()

    thread = threading.Thread(target=work)
    thread.start()
    ready.wait()
    stall, before = 0.0, time.perf_counter()
    while thread.is_alive():
        time.sleep(0.001)
        now = time.perf_counter()
        stall, before = max(stall, now - before), now
    yield limited(f"lit view, 640², displaced ball at rest, {found['name']}", found["rest"], 0.09)
    yield limited("lit view, coarse frame (320²) while turning", found["moving"], 0.025)
    yield limited("lit view, longest stall of the window meanwhile", stall, 0.03)
    yield limited("lit view, uploading 1024² maps", found["upload"], 0.5)


def rest(milliseconds: int) -> None:
    """Let the window go on for so long."""
    from PySide6.QtCore import QEventLoop, QTimer

    pause = QEventLoop()
    QTimer.singleShot(milliseconds, pause.quit)
    pause.exec()


def settle(w: Any) -> None:
    """Until nothing is computed any more."""
    rest(300)
    while w.busy:
        rest(50)


def seconds_to_pictures(window: Any, edit: Any, last: str = "full") -> dict[str, float]:
    """How long after a previewed edit the flat view shows each stage's picture, up to the last one wanted.

    Nothing is polled, which would cost time. A stage that never comes is left out: the edit changes nothing
    in view.
    """
    from PySide6.QtCore import QEventLoop, QTimer

    w = window.workplace
    seen: dict[str, float] = {}
    loop, patience = QEventLoop(), QTimer(singleShot=True, interval=PATIENCE)
    patience.timeout.connect(loop.quit)

    def note(stage: str) -> None:
        """The picture is in the window; it is painted once more here, so that painting counts anywhere."""
        window.flat.canvas.grab()
        seen.setdefault(stage, time.perf_counter() - start)
        loop.quit()

    told = w.view_ready.connect(note)
    start = time.perf_counter()
    if not w.preview(edit):
        raise AssertionError(f"{edit} was refused")
    patience.start()
    while last not in seen and patience.isActive():
        loop.exec()
    w.view_ready.disconnect(told)
    return seen


def in_the_window() -> Iterator[Row]:
    """What happens in an open window."""
    from PySide6.QtCore import QPoint

    from reedloom.desk.frame.app import make_application
    from reedloom.desk.frame.window import Window

    application = make_application()
    window = Window()
    window.show()
    w = window.workplace

    document = large_weave(300)
    start = time.perf_counter()
    w.replace_document(document, None)
    application.processEvents()
    window.board.grab()
    yield limited("opening a weave of 300 nodes", time.perf_counter() - start, 1.0)
    rest(3000)
    window.board.fit_all()
    start, frames = time.perf_counter(), 30
    for frame in range(frames):
        window.board.pan_by(QPoint(5 if frame % 2 else -5, 3))
        window.board.viewport().grab()
    yield limited("panning 300 nodes, one frame", (time.perf_counter() - start) / frames, 1 / 30)
    w.session.mark_saved()
    window.close()


def large_weave(count: int):  # type: ignore[no-untyped-def]
    """A weave of many nodes in a grid, each tied to an earlier one."""
    from reedloom.weave.document import Document, End
    from reedloom.weave.edits import AddNode, Connect

    chance, document = random.Random(1), Document()
    for number in range(count):
        kind = "gradient_noise" if number < 20 else chance.choice(["levels", "invert", "blur", "curve"])
        document = AddNode(f"n{number}", kind, x=number % 20 * 160.0, y=number // 20 * 190.0).apply(
            document, KINDS
        )
        if number >= 20:
            source = f"n{chance.randrange(number)}"
            port = "noise" if int(source[1:]) < 20 else "map"
            document = Connect(End(node=source, port=port), End(node=f"n{number}", port="map")).apply(
                document, KINDS
            )
    return document
