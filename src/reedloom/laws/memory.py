"""What a kind takes of the machine's memory, measured: within bounds at every end of its ranges."""

from __future__ import annotations

import ctypes
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from reedloom.errors import Cancelled, ReedError
from reedloom.kernels.jit import Stop
from reedloom.kernels.maps import let_go
from reedloom.kit.kind import SCRATCH, Kind
from reedloom.kit.parameters import Count, Number
from reedloom.laws.breach import require
from reedloom.laws.draws import make_inputs, run_as_it_flows

MOST = 768 * 2**20
"""Bytes that counts alone may take, whatever the map's size."""
TINY, USUAL = (16, 16), (1024, 1024)
LONG_ENOUGH = 0.5
"""Seconds after which a run at the end of its ranges is stopped: what it takes it has by then."""


def peak_of(work: Callable[[], Any]) -> int:
    """Bytes of memory this process held at most during some work, more than before it."""
    status = Path("/proc/self/status")

    def told(name: str) -> int:
        line = next(line for line in status.read_text().splitlines() if line.startswith(name))
        return int(line.split()[1]) * 1024

    let_go()  # else what was freed before would hide what is taken now
    ctypes.CDLL(None).malloc_trim(0)
    Path("/proc/self/clear_refs").write_text("5")
    before = told("VmRSS")
    work()
    return told("VmHWM") - before


def _ends(kind: Kind) -> Iterator[dict[str, Any]]:
    """All numbers at their largest, all counts, and that with every word of a choice."""
    numbers = [p for p in kind.parameters if isinstance(p, Number)]
    largest = {p.name: p.check(p.hard[1]) for p in numbers}
    counts = {p.name: largest[p.name] for p in numbers if isinstance(p, Count)}
    base = kind.defaults() | dict(kind.sample)
    yield base | largest
    if counts:
        yield base | counts
        for parameter in kind.parameters:
            yield from (base | counts | {parameter.name: word} for word in parameter.words)


def bounds_what_its_counts_take(kind: Kind) -> None:
    """At the ends of its ranges it takes no more memory than it may, or refuses before it takes any."""
    inputs = make_inputs(kind, *TINY)
    for values in _ends(kind):
        stop = Stop()

        def work(values: dict[str, Any] = values, stop: Stop = stop) -> None:
            timer = threading.Timer(LONG_ENOUGH, stop.set)
            timer.start()
            try:
                run_as_it_flows(kind, inputs, values, TINY, stop=stop)
            except Cancelled:
                pass
            except ReedError as error:
                require(str(error).endswith("."), values, error)
            finally:
                timer.cancel()

        taken = peak_of(work)
        require(taken <= MOST, f"{taken / 2**20:.0f} MB at {TINY}", values)


def takes_what_it_declares(kind: Kind) -> None:
    """For each sample of a map it takes no more bytes than it declares."""
    inputs, values = make_inputs(kind, *USUAL), kind.defaults() | dict(kind.sample)
    run_as_it_flows(kind, make_inputs(kind, *TINY), values, TINY)  # compiled, and its tables made
    taken, samples = peak_of(lambda: run_as_it_flows(kind, inputs, values, USUAL)), USUAL[0] * USUAL[1]
    require(taken <= kind.memory * samples + SCRATCH, f"{(taken - SCRATCH) / samples:.0f} bytes a sample")


MEMORY = (bounds_what_its_counts_take, takes_what_it_declares)
