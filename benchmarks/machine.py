"""What the machine is worth in this run, so that milliseconds of different days can be compared."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from functools import partial

import numpy as np

from benchmarks.timing import BEST, Row, best_of, steps

COUNT = 2**22


def rows() -> Iterator[Row]:
    """The interpreter, arithmetic and memory; of these two also how much a second thread costs the first.

    Where both at once take as long as one, each thread has a core of its own.
    """
    yield Row("the machine: ten million steps of Python", best_of(steps, 2), "at best", BEST)
    angles = [np.linspace(0, 9, COUNT, dtype=np.float32) for _ in range(2)]
    yield _alone_and_beside("4 million sines", [partial(np.sin, part, out=part.copy()) for part in angles])
    wide = [np.ones(4 * COUNT, np.float32) for _ in range(2)]
    yield _alone_and_beside("64 MB copied", [partial(np.copyto, part.copy(), part) for part in wide])


def _alone_and_beside(work: str, both: list[Callable[[], object]]) -> Row:
    """One piece of work alone, and two of them at once."""
    with ThreadPoolExecutor(2) as pool:

        def at_once() -> None:
            for future in [pool.submit(each) for each in both]:
                future.result()

        return Row(f"the machine: {work}", best_of(both[0]), "two at once", best_of(at_once))
