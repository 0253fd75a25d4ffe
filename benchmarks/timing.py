"""Times functions against each other in one run; prints what came out, and what the machine was worth."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from rich.console import Console
from rich.table import Table

from benchmarks.disturbance import ENOUGH, GUARD, Watch, undisturbed

BEST = 0.34
"""The fewest seconds that ten million steps of Python took on the kind of machine that aims were set for."""


def steps(count: int = 10_000_000) -> None:
    """So many steps of Python, which take as long as the processor's clock and nothing else says."""
    for _ in range(count):
        pass


def best_of(function: Callable[[], object], times: int = 5) -> float:
    """The least seconds a call took, after one call to warm up."""
    return best_in_turns([function], times)[0]


def best_in_turns(functions: Sequence[Callable[[], object]], times: int = 5) -> list[float]:
    """The least seconds that each took, after one call each to warm up: in turns, so that a machine that
    others slow down for a while slows all of them."""
    for function in functions:
        function()
    taken = undisturbed(lambda: [[once(function) for function in functions] for _ in range(times)])
    return [min(each) for each in zip(*taken, strict=True)]


def once(function: Callable[[], object]) -> float:
    """The seconds a call took."""
    start = time.perf_counter()
    function()
    return time.perf_counter() - start


@dataclass(frozen=True)
class Row:
    """One line of the table: ours, what it is set beside, and what was aimed at.

    Attributes
    ----------
    ours, theirs : float
        Seconds, or another measure of both.
    wanted : float, optional
        The least that theirs over ours is to be; None where nothing was aimed at.
    unit : str
        "s", shown as milliseconds, or what else is measured.
    """

    work: str
    ours: float
    peer: str
    theirs: float
    wanted: float | None = None
    unit: str = "s"

    @property
    def ratio(self) -> float:
        """Their time over ours."""
        return self.theirs / max(self.ours, 1e-9)

    @property
    def verdict(self) -> str:
        """Whether the aim is met, in words."""
        if self.wanted is None:
            return "no aim"
        return "[green]reached[/]" if self.ratio >= self.wanted else "[bold red]not reached[/]"

    def told(self, measure: float) -> str:
        """A measure with its unit."""
        return f"{measure * 1000:.1f} ms" if self.unit == "s" else f"{measure:.2f} {self.unit}"


def limited(work: str, ours: float, limit: float, unit: str = "s") -> Row:
    """A row for what may take so long, or so much, and no more."""
    return Row(work, ours, "limit", limit, 1.0, unit)


def show(rows: Iterable[Row]) -> None:
    """Print the table while the rows are measured.

    "quiet" is the share of the processors that nothing else took while a row was measured: a row well below
    90 % says little, and is measured anew while there is patience. "pace" is how fast steps of Python went
    just before and after it, beside `BEST`: a clock that goes up and down changes milliseconds, and no ratio
    to other work of the same row.
    """
    table = Table(title="Reed Loom beside public libraries and its own aims, one run, best of several")
    for name in ("work", "ours", "beside", "theirs", "ratio", "aim", "quiet", "pace", ""):
        table.add_column(name, justify="left" if name in {"work", "beside"} else "right")
    watch, pace = Watch(), _Pace()
    for row in rows:
        aim = "" if row.wanted is None else f"{row.wanted:.3g}×"
        table.add_row(
            row.work, row.told(row.ours), row.peer, row.told(row.theirs), f"{row.ratio:.2f}×", aim,
            _quiet(GUARD.others(), watch.others()), pace.told(), row.verdict,
        )  # fmt: skip
    table.caption = f"{GUARD.anew} measures done anew, as others took more than {ENOUGH:.0%} of the machine"
    Console(width=150).print(table)


def _quiet(counted: float | None, since: float | None) -> str:
    """What others left, in per cent: while what counted was measured, or else since the last row."""
    others = since if counted is None else counted
    return "?" if others is None else f"{1 - others:.0%}"


class _Pace:
    """How fast steps of Python go, beside `BEST`."""

    def __init__(self) -> None:
        self._before = self._now()

    @staticmethod
    def _now() -> float:
        count = 50_000
        return BEST * count / 1e7 / best_of(lambda: steps(count), 3)

    def told(self) -> str:
        """The mean of how fast they go now and went when last asked, in per cent."""
        before, self._before = self._before, self._now()
        return f"{(before + self._before) / 2:.0%}"
