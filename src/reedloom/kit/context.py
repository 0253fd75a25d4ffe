"""What a compute function may know besides its inputs: sizes, the stop flag, the wanted outputs."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import numpy as np
from msgspec import Struct, field

from reedloom.errors import ReedError
from reedloom.kernels.helpers import Helpers
from reedloom.kernels.jit import BAND_ROWS, Stop, run_bands
from reedloom.kernels.maps import empty_like, empty_map

MOST_THINGS = 2**25
"""Elements of a pattern, or points, of which something is kept for each."""
SMALL = 2**15
"""Samples that are worked through in one piece, whatever bands are asked for."""


class Context(Struct):
    """One node's view of the evaluation; nothing in it is global.

    Attributes
    ----------
    width, height : int
        Samples of the tile; row 0 is the top.
    physical : (float, float)
        The tile's width and height in metres.
    depth : float
        Metres between height 0 and height 1.
    split_again : bool
        Whether a kind may compute itself at twice the size, to draw fine lines; not while it does so.
    folder : str
        Where paths of files begin; empty for a weave without a file.
    wanted : frozenset of str
        The outputs asked for; others may be left out.
    """

    width: int
    height: int
    physical: tuple[float, float] = (1.0, 1.0)
    depth: float = 0.05
    folder: str = ""
    wanted: frozenset[str] = frozenset()
    stop: Stop = field(default_factory=Stop)
    progress: Callable[[float], None] | None = None
    threads: int | None = None
    helpers: Helpers | None = None
    split_again: bool = True
    notes: list[str] = field(default_factory=list)

    @property
    def aspect(self) -> float:
        """The tile's height in widths: a length is a share of the width, so that v counts so many times u."""
        return self.physical[1] / self.physical[0]

    @property
    def sample(self) -> float:
        """The longer side of a sample, in widths of the tile."""
        return max(self.spacing)

    @property
    def spacing(self) -> tuple[float, float]:
        """How far samples are from those beside and below them, in widths of the tile."""
        return 1 / self.width, self.aspect / self.height

    def shares(self, length: float) -> tuple[float, float]:
        """A length, in widths, as shares of the tile across and down."""
        return length, length / self.aspect

    def samples(self, length: float) -> tuple[float, float]:
        """A length, in widths, in samples across and down."""
        return length * self.width, length / self.aspect * self.height

    def in_tiles(self, way: np.ndarray) -> np.ndarray:
        """A way in widths as one in shares of the tile each way, in which places are told; (..., 2)."""
        return self._lengthened(way, 1 / self.aspect)

    def in_widths(self, way: np.ndarray) -> np.ndarray:
        """A way in shares of the tile each way as one in widths; (..., 2)."""
        return self._lengthened(way, self.aspect)

    def _lengthened(self, way: np.ndarray, down: float) -> np.ndarray:
        if self.aspect == 1:
            return way
        found = way.copy()
        found[..., 1] *= np.float32(down)
        return found

    def room_for(self, count: int, what: str) -> None:
        """See that a table of so many things, stones or cells, may be made, before any memory is taken.

        Raises
        ------
        ReedError
            If there are more than can be, which are far smaller than samples.
        """
        if count > MOST_THINGS:
            raise ReedError(
                f"These counts make {count / 1e6:.0f} million {what}, more than the "
                f"{MOST_THINGS / 1e6:.0f} million there may be; lower one of them."
            )

    def report(self, note: str) -> None:
        """Tell the maker something about this node, such as a value that was snapped."""
        self.notes.append(note)

    def bands(
        self,
        band: Callable[[int, int], None],
        rows: int | None = None,
        band_rows: int = BAND_ROWS,
        work: float = 1.0,
    ) -> None:
        """Run a band function over all rows, with this evaluation's stop flag and progress.

        Small maps are done in one piece: handing bands to threads would take longer than the work. `work` is
        how many times as long as usual a sample takes; maps where that is long are not small so soon.
        """
        run_bands(
            band,
            self.height if rows is None else rows,
            stop=self.stop,
            progress=self.progress,
            band_rows=max(band_rows, int(SMALL // (self.width * max(work, 1.0)))),
            threads=self.threads,
            helpers=self.helpers,
        )

    def within(self, wanted: Iterable[str] = (), times: int = 1) -> Context:
        """A context for a part of a node's work, `times` as fine, which tells nothing of its progress."""
        return Context(
            times * self.width,
            times * self.height,
            self.physical,
            self.depth,
            wanted=frozenset(wanted),
            stop=self.stop,
            threads=self.threads,
            helpers=self.helpers,
        )

    def empty(self, channels: int = 1) -> np.ndarray:
        """A new uninitialised map: (H, W) float32, or (H, W, channels)."""
        shape = (self.height, self.width) if channels == 1 else (self.height, self.width, channels)
        return empty_map(shape)

    def full(self, value: float) -> np.ndarray:
        """A new grey map of one value."""
        out = self.empty()
        out.fill(value)
        return out

    def map_bands(
        self, function: Callable[..., np.ndarray], *maps: np.ndarray, channels: int | None = None
    ) -> np.ndarray:
        """Apply a NumPy expression band by band, so that its scratch stays in the processor's cache.

        `function` gets the rows of each map. The result has the first map's channels, or `channels`.
        """
        out = empty_like(maps[0]) if channels is None else self.empty(channels)

        def band(y0: int, y1: int) -> None:
            out[y0:y1] = function(*(m[y0:y1] for m in maps))

        rows = max(1, min(BAND_ROWS, 2**16 // max(1, maps[0][0].size)))
        self.bands(band, rows=len(out), band_rows=rows)
        return out
