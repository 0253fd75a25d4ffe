"""Runs the benchmarks and prints one table."""

from __future__ import annotations

import os
from collections.abc import Iterator

# A workplace may set an old linear algebra kernel for all programs; the peers shall not be slowed by it.
for name in ("OPENBLAS_CORETYPE", "OPENBLAS_L2_SIZE"):
    os.environ.pop(name, None)

from benchmarks import drags, kernels, kinds, machine, noises, ranges, reuse, weaves, window  # noqa: E402
from benchmarks.timing import Row, show  # noqa: E402

GROUPS = (kernels, noises, kinds, ranges, weaves, drags, window, reuse)


def run_benchmarks(only: str | None = None) -> None:
    """Run every group of benchmarks, or only those whose name holds a text; after a look at the machine."""
    show(_rows(only))


def _rows(only: str | None) -> Iterator[Row]:
    yield from machine.rows()
    for group in GROUPS:
        if only is None or only in group.__name__:
            yield from group.rows()


if __name__ == "__main__":
    run_benchmarks()
