"""The demo weaves: all maps, growth with size, delivery, and the longest wait for a stop."""

from __future__ import annotations

import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from statistics import mean, median

import reedloom as rl
from benchmarks.disturbance import undisturbed
from benchmarks.timing import Row, limited, once
from reedloom.data import shipped_weaves
from reedloom.errors import Cancelled
from reedloom.kernels.jit import Stop
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.loom.cache import Cache
from reedloom.weave.document import Document, End
from weaving import KINDS, evaluate, sample  # type: ignore[import-not-found]

DEMO = "lakebed-clay"


LIMITS = {DEMO: 0.8}
"""Seconds for all maps at 1024², where it is not `LIMIT`."""
LIMIT = 1.5
HEAVIEST = "shoreline-pebbles"
"""The demo weave whose maps take longest."""
SMALL_ONES = 8
"""Runs of 1024² beside one of 4096²."""
GROWTH = 16.0
"""How many times longer 4096² may take than 1024²: as many as it has samples."""


def rows() -> Iterator[Row]:
    """One row for each piece of work."""
    for name, path in shipped_weaves().items():
        document = rl.open_weave(path).document
        ends = tuple(document.graph.ends.values())
        cold, growth = cold_and_growth(*(partial(all_maps, document, ends, size) for size in (1024, 4096)))
        yield limited(f"{name}, all maps, cold, 1024²", cold, LIMITS.get(name, LIMIT))
        yield limited(f"{name}, 4096² against 1024²", growth, GROWTH, "times")
    for name, limit in ((DEMO, 12.0), (HEAVIEST, 25.0)):
        yield from deliver_large(name, limit)
    yield longest_wait_for_a_stop()


def cold_and_growth(small: Callable[[], None], large: Callable[[], None]) -> tuple[float, float]:
    """The least seconds that the small work took, and how many times longer the large one takes.

    Each large one is set beside the mean of small ones that together take about half as long, just before it,
    so that a machine that others slow down for a while slows both; of three turns the middle one counts.
    """
    small()

    def turn() -> tuple[list[float], float]:
        return [once(small) for _ in range(SMALL_ONES)], once(large)

    taken = [undisturbed(turn) for _ in range(3)]
    cold = min(min(each) for each, _ in taken)
    return cold, median(seconds / mean(each) for each, seconds in taken)


def all_maps(document: Document, ends: Sequence[End], size: int) -> None:
    """Compute outputs with nothing kept from before."""
    evaluate(document, ends, size, cache=Cache(0))


DELIVERY = """
import sys, time, tempfile
import reedloom as rl
from reedloom.data import shipped_weave
weave = rl.open_weave(shipped_weave(sys.argv[1]))
rl.evaluate_maps(weave, 8)
with tempfile.TemporaryDirectory() as folder:
    start = time.perf_counter()
    rl.deliver(weave, folder, 4096, format="png16")
    taken = time.perf_counter() - start
    peak = next(line for line in open("/proc/self/status") if line.startswith("VmHWM"))
    print(taken, peak.split()[1])
"""


def deliver_large(name: str, limit: float) -> Iterator[Row]:
    """All maps at 4096² as 16-bit PNG, in a process of its own for its peak memory."""
    start = [sys.executable, "-c", DELIVERY, name]
    done = undisturbed(lambda: subprocess.run(start, capture_output=True, text=True, check=True).stdout)
    seconds, kilobytes = (float(word) for word in done.split())
    yield limited(f"{name}, delivery, 4096², 16-bit PNG", seconds, limit)
    yield limited(f"{name}, delivery, peak", kilobytes / 2**20, 1.5, "GB")


def longest_wait_for_a_stop() -> Row:
    """The longest time from asking to having stopped, over all kinds at 2048².

    Each is the better of two tries, since whatever else the machine does only adds to it.
    """
    longest, slowest = 0.0, ""
    for declared in built_in_kinds():
        for delay in (0.004, 0.03, 0.12):
            waited = min(wait_for_a_stop(declared.id, delay) for _ in range(2))
            if waited > longest:
                longest, slowest = waited, declared.id
    return limited(f"longest wait for a stop, all kinds, 2048² ({slowest})", longest, 0.05)


def wait_for_a_stop(kind_id: str, delay: float) -> float:
    """Seconds from asking, so long after the start, to having stopped; 0 if it was done before."""
    document, _ = sample(kind_id)
    ends = [End(node="shown", port=p.name) for p in KINDS.of(document.graph.nodes["shown"]).outputs]
    stop, asked = Stop(), [0.0]

    def ask() -> None:
        asked[0] = time.perf_counter()
        stop.set()

    timer = threading.Timer(delay, ask)
    timer.start()
    try:
        evaluate(document, ends, 2048, cache=Cache(0), stop=stop)
    except Cancelled:
        return time.perf_counter() - asked[0]
    timer.cancel()
    return 0.0
