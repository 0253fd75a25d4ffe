"""Times functions against each other in one run and prints what came out."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass

from rich.console import Console
from rich.table import Table


def best_of(function: Callable[[], object], times: int = 5) -> float:
    """The least seconds a call took, after one call to warm up."""
    function()
    seconds = []
    for _ in range(times):
        start = time.perf_counter()
        function()
        seconds.append(time.perf_counter() - start)
    return min(seconds)


@dataclass(frozen=True)
class Row:
    """One line of the table: ours, the peer's or the limit, and whether it is reached."""

    work: str
    ours: float
    peer: str
    theirs: float
    wanted: float
    is_limit: bool = False

    @property
    def ratio(self) -> float:
        """Their time over ours."""
        return self.theirs / self.ours

    @property
    def reached(self) -> bool:
        """Whether the aim is met."""
        return self.ratio >= self.wanted


def show(rows: list[Row]) -> None:
    """Print the table."""
    table = Table(title="Reed Loom beside public libraries, one run, best of several")
    for name in ("work", "ours", "beside", "theirs", "ratio", "aim", ""):
        table.add_column(name, justify="left" if name in {"work", "beside"} else "right")
    for row in rows:
        verdict = "[green]reached[/]" if row.reached else "[bold red]not reached[/]"
        table.add_row(
            row.work, f"{row.ours * 1000:.1f} ms", row.peer, f"{row.theirs * 1000:.1f} ms",
            f"{row.ratio:.2f}×", f"{row.wanted:g}×", verdict,
        )  # fmt: skip
    Console(width=130).print(table)
