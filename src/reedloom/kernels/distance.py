"""Exact Euclidean distance around the tile, with the nearest place, in time that does not grow with it.

Columns are scanned first and rows then take the lower envelope of the parabolas over them (A. Meijster and
others, *A general algorithm for computing distance transforms in linear time*, 2000). A row is begun at
its column nearest to a seed: nothing beyond that column can be nearer to what lies on this side, so that
one turn around the tile is enough.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from msgspec import Struct

from reedloom.kernels.jit import kernel
from reedloom.kernels.maps import empty_like, empty_map
from reedloom.kernels.places import beside

FAR = 1 << 20


class Nearest(Struct, frozen=True):
    """For every sample the nearest seed.

    Attributes
    ----------
    distance : (H, W) float32
        From sample to sample, in widths of the tile; very large where there is no seed at all.
    row, column : (H, W) int32
        Where the nearest seed is.
    """

    distance: np.ndarray
    row: np.ndarray
    column: np.ndarray


def nearest_seeds(seeds: np.ndarray, bands: Callable[..., None], aspect: float = 1.0) -> Nearest:
    """The nearest seed of every sample, exact and around the tile.

    Parameters
    ----------
    seeds : (H, W) bool
    bands : callable
        Runs band functions to the end.
    aspect : float
        The tile's height in widths.

    Returns
    -------
    Nearest
    """
    height, width = seeds.shape
    away = empty_map((height, width), np.int32)
    bands(lambda x0, x1: column_ways(seeds, away, x0, x1), rows=width, band_rows=256)
    distance = empty_map((height, width))
    row, column = empty_map((height, width), np.int32), empty_map((height, width), np.int32)
    squash = aspect * width / height  # a row's height in columns
    bands(lambda y0, y1: envelope_rows(away, squash, distance, row, column, y0, y1))
    return Nearest(distance, row, column)


def edge_distance(
    mask: np.ndarray, bands: Callable[..., None], aspect: float = 1.0
) -> tuple[np.ndarray, Nearest]:
    """How far outside the area where a mask is 0.5 or more each sample lies, and the nearest seed within.

    The mask's value and slope at a sample on the edge say where between samples the edge runs, so that
    distances are finer than a sample. Inside they are 0.

    Parameters
    ----------
    mask : (H, W) float32
    bands : callable
        Runs band functions to the end.
    aspect : float
        The tile's height in widths.

    Returns
    -------
    (H, W) float32 in widths, and Nearest for the seeds within
    """
    found = nearest_seeds(mask >= 0.5, bands, aspect)
    sample = sample_of(mask, aspect)
    beyond = np.minimum(edge_near(mask, bands, sample), sample)
    out = empty_like(found.distance)

    def band(y0: int, y1: int) -> None:
        far = found.distance[y0:y1]
        rest = np.maximum(far - beyond[found.row[y0:y1], found.column[y0:y1]], 0)
        out[y0:y1] = np.where(far > 0, rest, np.float32(0))

    bands(band)
    return out, found


def sample_of(mask: np.ndarray, aspect: float) -> np.float32:
    """The longer side of a map's samples, in widths."""
    return np.float32(max(1 / mask.shape[1], aspect / mask.shape[0]))


def edge_near(mask: np.ndarray, bands: Callable[..., None], sample: np.float32) -> np.ndarray:
    """How far from each sample a mask falls to a half, by its own value and steepest fall, in widths.

    Parameters
    ----------
    mask : (H, W) float32
    bands : callable
        Runs band functions to the end.
    sample : float
        Of a sample, in widths.

    Returns
    -------
    (H, W) float32, negative inside
    """
    out = empty_like(mask)
    bands(lambda y0, y1: near_rows(mask, sample, out, y0, y1))
    return out


@kernel
def near_rows(mask, sample, out, y0, y1):  # type: ignore[no-untyped-def]
    """Fill rows of `edge_near`.

    Parameters
    ----------
    mask : (H, W) float32
    sample : float32
        Of a sample, in widths.
    out : (H, W) float32
        Rows y0 to y1 are filled.
    """
    height, width = mask.shape
    half, none = np.float32(0.5), np.float32(0)
    for y in range(y0, y1):
        row = mask[y]
        before, after = beside(y, height)
        above, below = mask[before], mask[after]
        for x in range(width):
            left, right = beside(x, width)
            u = max(row[x] - min(row[left], row[right]), none)
            v = max(row[x] - min(above[x], below[x]), none)
            fall = max(np.sqrt(u * u + v * v), np.float32(1e-6))
            out[y, x] = max(row[x] - half, none) / fall * sample


def signed_distance(
    mask: np.ndarray,
    bands: Callable[..., None],
    inside: bool = True,
    outside: bool = True,
    aspect: float = 1.0,
) -> np.ndarray:
    """Distance to the edge of a mask in widths, negative inside: (H, W) float32.

    A side that is not wanted costs nothing and is 0.

    Parameters
    ----------
    mask : (H, W) float32
        Inside where it is 0.5 or more.
    bands : callable
        Runs band functions to the end.
    inside, outside : bool
        Which sides are wanted.
    aspect : float
        The tile's height in widths.

    Returns
    -------
    (H, W) float32
    """
    # Where the edge runs through a sample itself, its own value says best how far it is.
    sample = sample_of(mask, aspect)
    out = np.zeros_like(mask)

    def lay(away: np.ndarray, within: np.ndarray, sign: int) -> None:
        near = edge_near(within, bands, sample)

        def band(y0: int, y1: int) -> None:
            own = near[y0:y1]
            found = np.where(own < sample, np.minimum(away[y0:y1], own), away[y0:y1])
            here = (mask[y0:y1] >= 0.5) == (sign < 0)
            out[y0:y1] = np.where(here, np.float32(sign) * found, out[y0:y1])

        bands(band, band_rows=16)

    rest = np.float32(1) - mask
    if inside:
        lay(edge_distance(rest, bands, aspect)[0], mask, -1)
    if outside:
        lay(edge_distance(mask, bands, aspect)[0], rest, 1)
    return out


@kernel
def column_ways(seeds, away, x0, x1):  # type: ignore[no-untyped-def]
    """For columns x0..x1 the way down (or up, if negative) to the nearest seed in the same column.

    Parameters
    ----------
    seeds : (H, W) bool
    away : (H, W) int32
        Columns x0 to x1 are filled; H where the column has no seed.
    """
    height = seeds.shape[0]
    width, begin = x1 - x0, np.uint64(x0)
    last = np.full(width, -FAR, np.int32)
    for turn in range(2):  # the second turn knows what lies above the tile's top
        for y in range(height):
            at = y + turn * height
            line = seeds[y, x0:x1]
            for x in range(width):
                last[x] = at if line[x] else last[x]
            if turn == 1:
                row = away[y]
                for x in range(np.uint64(width)):
                    row[begin + x] = last[x] - at
    for x in range(width):
        last[x] = 4 * FAR
    for turn in range(2):
        for y in range(height - 1, -1, -1):
            at = y - turn * height
            line = seeds[y, x0:x1]
            for x in range(width):
                last[x] = at if line[x] else last[x]
            if turn == 1:
                row = away[y]
                for x in range(np.uint64(width)):
                    above, below = row[begin + x], last[x] - at
                    row[begin + x] = below if below < -above else above


@kernel
def envelope_rows(away, squash, distance, row, column, y0, y1):  # type: ignore[no-untyped-def]
    """Fill rows with the distance to the nearest seed, and where it is; see `nearest_seeds`.

    Parameters
    ----------
    away : (H, W) int32
        From `column_ways`.
    squash : float
        A row's height in columns.
    distance : (H, W) float32
        In columns; filled, as are `row` and `column`.
    row, column : (H, W) int32
        Where the nearest seed is.
    """
    height, width = away.shape
    sites = np.empty(width + 1, np.int64)
    edges = np.empty(width + 2, np.float64)
    rises = np.empty(width + 1, np.float64)
    for y in range(y0, y1):
        line = away[y]
        start, least = 0, np.int64(FAR)
        for x in range(width):
            far = abs(np.int64(line[x]))
            if far < least:
                start, least = x, far
        if least >= FAR // 2:
            for x in range(width):
                distance[y, x] = np.float32(1e6)
                row[y, x] = y
                column[y, x] = x
            continue
        top = -1
        for n in range(width + 1):
            x = start + n
            if x >= width:
                x -= width
            far = abs(np.int64(line[x]))
            if far >= FAR // 2:
                continue
            rise = (far * squash) ** 2
            place = -1e18
            while top >= 0:
                # Where the parabola of this column comes below that of the last.
                other = sites[top]
                place = (rise - rises[top] + float(n * n - other * other)) / (2.0 * float(n - other))
                if place > edges[top]:
                    break
                top -= 1
            if top < 0:
                place = -1e18
            top += 1
            sites[top] = n
            rises[top] = rise
            edges[top] = place
        edges[top + 1] = 1e18
        k = 0
        for n in range(width):
            while edges[k + 1] < n:
                k += 1
            x = start + n
            if x >= width:
                x -= width
            site = start + sites[k]
            if site >= width:
                site -= width
            if site >= width:
                site -= width
            step = float(n - sites[k])
            distance[y, x] = np.float32(np.sqrt(step * step + rises[k]) / width)
            seed = y + line[site]
            row[y, x] = seed - height if seed >= height else seed + height if seed < 0 else seed
            column[y, x] = site
