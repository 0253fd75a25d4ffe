"""Runs the benchmarks and prints one table."""

from __future__ import annotations

import os

# A workplace may set an old linear algebra kernel for all programs; the peers shall not be slowed by it.
for name in ("OPENBLAS_CORETYPE", "OPENBLAS_L2_SIZE"):
    os.environ.pop(name, None)

from benchmarks import kernels, kinds, weaves, window  # noqa: E402
from benchmarks.timing import Row, show  # noqa: E402


def run_benchmarks(only: str | None = None) -> None:
    """Run every group of benchmarks, or only rows whose work holds a text."""
    found: list[Row] = []
    for group in (kernels, kinds, weaves, window):
        if only is None or only in group.__name__:
            found += list(group.rows())
    show(found)


if __name__ == "__main__":
    run_benchmarks()
