"""Places: the tile's own grid, how far a place is from its neighbours, and reading maps there."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.maps import empty_map
from reedloom.kernels.place_lanes import join_lines, part_pairs

FINE = 0.22
"""Noise with more cells a sample than this is read at several places in each sample."""


@inlined
def beside(i, count):  # type: ignore[no-untyped-def]
    """The samples before and after one along an axis, around the border."""
    return i - 1 if i > 0 else count - 1, i + 1 if i < count - 1 else 0


@inlined
def in_tile(place):  # type: ignore[no-untyped-def]
    """A place along one axis brought into the tile."""
    return place - np.floor(place)


@inlined
def cell_in(at, count):  # type: ignore[no-untyped-def]
    """The cell, 0 to count - 1, of a place that is so many cells from the tile's border.

    Held at both ends, for what is rounded up to the border and for places that are no numbers.
    """
    return max(min(np.int32(at), np.int32(count - 1)), np.int32(0))


@inlined
def around(cell, count):  # type: ignore[no-untyped-def]
    """A cell's number around the tile, 0 to count - 1; divided only if it is far out, which takes long."""
    cell = cell + count if cell < 0 else cell - count if cell >= count else cell
    return cell if 0 <= cell < count else cell % count


@inlined
def wrap_row(source, reach, out):  # type: ignore[no-untyped-def]
    """Copy a row with so many samples from around the tile at both its ends: (W,) to (W + 2 reach,)."""
    width = source.shape[0]
    out[reach : reach + width] = source
    for k in range(reach):
        out[k] = source[around(k - reach, width)]
        out[reach + width + k] = source[around(k, width)]


@inlined
def short_way(d):  # type: ignore[no-untyped-def]
    """A difference between places along one axis, the shorter way around the tile."""
    return d - np.floor(d + np.float32(0.5))


@inlined
def part_places(pairs, us, vs):  # type: ignore[no-untyped-def]
    """Lay the numbers of (2 W,) places in lines, (W,) each."""
    x = np.int64(part_pairs(pairs, us, vs, np.int64(0), np.int64(us.shape[0])))
    while x < us.shape[0]:
        us[x], vs[x] = pairs[2 * x], pairs[2 * x + 1]
        x += 1


@inlined
def join_places(us, vs, out):  # type: ignore[no-untyped-def]
    """Lay the numbers of places, (W,) each, beside one another as (2 W,) pairs."""
    x = np.int64(join_lines(us, vs, out, np.int64(0), np.int64(us.shape[0])))
    while x < us.shape[0]:
        out[2 * x], out[2 * x + 1] = us[x], vs[x]
        x += 1


@kernel
def move_rows(places, us, vs, amounts, out):  # type: ignore[no-untyped-def]
    """Move places by so much along u and v, times an amount each.

    Parameters
    ----------
    places : (n, W, 2) float32
        In tiles.
    us, vs : (n, W) float32
    amounts : (2,) float32
    out : (n, W, 2) float32
        Filled.
    """
    across, down = np.empty(us.shape[1], np.float32), np.empty(us.shape[1], np.float32)
    by_u, by_v = amounts
    for y in range(us.shape[0]):
        part_places(places[y].reshape(-1), across, down)
        to_right, below = us[y], vs[y]
        for x in range(across.shape[0]):
            across[x] += to_right[x] * by_u
        for x in range(down.shape[0]):
            down[x] += below[x] * by_v
        join_places(across, down, out[y].reshape(-1))


def tile_places(
    width: int,
    height: int,
    rows: range | None = None,
    against: np.ndarray | None = None,
    out: np.ndarray | None = None,
) -> np.ndarray:
    """The place of each sample's centre in tiles, or just of some rows.

    Parameters
    ----------
    rows : range, optional
        Which rows; all by default.
    against : (rows, width, 2) float32, optional
        Taken away: a map moved by so much shows there what lies at these places.
    out : (rows, width, 2) float32, optional
        Filled and given back; may be what is taken away.

    Returns
    -------
    (rows, width, 2) float32
    """
    rows = rows or range(height)
    out = empty_map((len(rows), width, 2)) if out is None else out
    across = ((np.arange(width, dtype=np.float64) + 0.5) / width).astype(np.float32)
    down = ((np.asarray(rows, np.float64) + 0.5) / height).astype(np.float32)
    if against is None:
        lay_places(across, down, out)
    else:
        lay_places_against(across, down, against, out)
    return out


@kernel
def lay_places(across, down, out):  # type: ignore[no-untyped-def]
    """Fill an array with places from those of its columns and rows."""
    level = np.empty_like(across)
    for y in range(len(down)):
        level[:] = down[y]
        join_places(across, level, out[y].reshape(-1))


@kernel
def lay_places_against(across, down, by, out):  # type: ignore[no-untyped-def]
    """`lay_places`, less a displacement.

    Parameters
    ----------
    across : (W,) float32
        u of each column.
    down : (h,) float32
        v of each row.
    by : (h, W, 2) float32
        Taken away.
    out : (h, W, 2) float32
        Filled.
    """
    us, vs = np.empty_like(across), np.empty_like(across)
    for y in range(len(down)):
        part_places(by[y].reshape(-1), us, vs)
        for x in range(len(across)):
            us[x], vs[x] = across[x] - us[x], down[y] - vs[x]
        join_places(us, vs, out[y].reshape(-1))


def split_places(place: np.ndarray, y0: int, y1: int) -> np.ndarray:
    """The places of the four quarters of each sample in rows y0..y1: (2n, 2W, 2) float32.

    Parameters
    ----------
    place : (H, W, 2) float32
        In tiles.

    Returns
    -------
    (2n, 2W, 2) float32
    """
    out = np.empty((2 * (y1 - y0), 2 * place.shape[1], 2), np.float32)
    split_place_rows(place, out, y0, y1)
    return out


@inlined
def _step(before, here, after):  # type: ignore[no-untyped-def]
    """The change from one sample to the next, from the nearer of both neighbours, the short way."""
    back, on = short_way(here - before), short_way(after - here)
    return back if abs(back) < abs(on) else on


@inlined
def way(place, y, x, c):  # type: ignore[no-untyped-def]
    """How far a place moves from one sample to the next, across and down."""
    up, down = beside(y, place.shape[0])
    left, right = beside(x, place.shape[1])
    here = place[y, x, c]
    return _step(place[y, left, c], here, place[y, right, c]), _step(place[up, x, c], here, place[down, x, c])


@kernel
def split_place_rows(place, out, y0, y1):  # type: ignore[no-untyped-def]
    """Fill rows of quarter places; see `split_places`.

    Parameters
    ----------
    place : (H, W, 2) float32
        In tiles.
    out : (2 (y1 - y0), 2 W, 2) float32
        Filled.
    """
    quarter = np.float32(0.25)
    for y in range(y0, y1):
        for x in range(place.shape[1]):
            for c in range(2):
                here = place[y, x, c]
                right, down = way(place, y, x, c)
                across, along = quarter * right, quarter * down
                row = 2 * (y - y0)
                out[row, 2 * x, c] = here - across - along
                out[row, 2 * x + 1, c] = here + across - along
                out[row + 1, 2 * x, c] = here - across + along
                out[row + 1, 2 * x + 1, c] = here + across + along


READ_ONCE = 5
"""What a code of `row_codes` holds in its last four bits where a sample is read once each way."""
WAYS = (1, 1, 2, 4)
"""In how many places the parts of a code say that a sample is read."""
CODES = 48
"""One more than the largest code."""


@inlined
def lay_ways(place, y, x, out):  # type: ignore[no-untyped-def]
    """Lay n places of a row, and how far they move from one sample to the next: `way` of each.

    Parameters
    ----------
    place : (H, W, 2) float32
    y, x : int
        The first of them.
    out : (6 n,) float32
        Filled: places, how far they move across, and down; u and v of each.
    """
    height, width = place.shape[:2]
    n, places = out.shape[0] // 6, place.reshape(-1)
    up, low = beside(y, height)
    here, above = np.uint64(2 * (y * width + x)), np.uint64(2 * (up * width + x))
    below = np.uint64(2 * (low * width + x))
    pair, right, down = np.uint64(2), np.uint64(2 * n), np.uint64(4 * n)
    for k in range(np.uint64(2 * n)):
        out[k] = places[here + k]
    for k in range(np.uint64(2 * n)):
        out[down + k] = _step(places[above + k], places[here + k], places[below + k])
    right, middle, after = right + pair, here + pair, here + pair + pair
    for k in range(np.uint64(max(2 * n - 4, 0))):
        out[right + k] = _step(places[here + k], places[middle + k], places[after + k])
    for c in range(2):
        out[2 * n + c], _ = way(place, y, x, c)
        out[4 * n - 2 + c], _ = way(place, y, x + n - 1, c)


@inlined
def row_codes(ways, reach, fineness, out):  # type: ignore[no-untyped-def]
    """In how many places each sample of a run is to be read, for a noise of so many cells.

    A way on which a noise of so many columns and rows of cells hardly changes is read once.

    Parameters
    ----------
    ways : (6 n,) float32
        From `lay_ways`.
    reach : (n,) float32
        How far each sample reaches, in widths.
    fineness : (columns, rows, finest, limit) floats
        As `count_reads` takes them.
    out : (n,) uint8
        Its codes.
    """
    columns, rows, finest, limit = fineness
    u, v, cells, far = np.float32(columns), np.float32(rows), np.float32(finest), np.float32(limit)
    fine, finer = np.float32(FINE), np.float32(2 * FINE)
    n = out.shape[0]
    right, down = ways[2 * n : 4 * n], ways[4 * n :]
    for x in range(n):
        # In bits and without a branch, which alone becomes vectors.
        by_reach = cells * reach[x]
        once, twice = np.int32(by_reach > fine), np.int32(by_reach > finer)
        a = _square(right[2 * x] * u, right[2 * x + 1] * v)
        d = _square(down[2 * x] * u, down[2 * x + 1] * v)
        across = (once & np.int32(a > fine * fine)) + (twice & np.int32(a > finer * finer))
        along = (once & np.int32(d > fine * fine)) + (twice & np.int32(d > finer * finer))
        code = np.int32(16) * (once + twice) + np.int32(4) * across + along + np.int32(READ_ONCE)
        out[x] = np.uint8(code * (once & np.int32(reach[x] < far)))


@inlined
def _square(x, y):  # type: ignore[no-untyped-def]
    return x * x + y * y


@inlined
def ways_of(code):  # type: ignore[no-untyped-def]
    """In how many places a sample of a code is read, across and down."""
    return 1 << ((code >> 2 & 3) - 1), 1 << ((code & 3) - 1)


@kernel
def count_reads(place, y0, footprint, fineness, out):  # type: ignore[no-untyped-def]
    """In how many places each sample of a band is to be read, for a noise of so many cells.

    Parameters
    ----------
    place : (H, W, 2) float32
        In tiles.
    y0 : int
        The band's first row.
    footprint : (n, W) float32
        In widths.
    fineness : (columns, rows, finest, limit) floats
        Cells across and down the tile, and in a width; and the reach, in widths, from which samples are
        read once.
    out : (n, W) uint8
        0 for once; else 16 s + 4 a + d for a sample that is cut in two s times by its reach and read in a
        places across and d down, or 4 of either as 3.
    """
    ways = np.empty(6 * out.shape[1], np.float32)
    for y in range(out.shape[0]):
        lay_ways(place, y0 + y, 0, ways)
        row_codes(ways, footprint[y], fineness, out[y])


@kernel
def spread_places(place, ys, xs, out):  # type: ignore[no-untyped-def]
    """Places spread evenly within some samples.

    Parameters
    ----------
    place : (H, W, 2) float32
        In tiles.
    ys, xs : (k,) int64
        The samples.
    out : (along, k, across, 2) float32
        Filled, so many across and down; in this order those beside one another mostly share a cell.
    """
    along, across = out.shape[0], out.shape[2]
    # Divided once, not for each sample.
    shares_down = ((np.arange(along) + 0.5) / along - 0.5).astype(np.float32)
    shares_right = ((np.arange(across) + 0.5) / across - 0.5).astype(np.float32)
    for k in range(np.uint64(ys.shape[0])):
        y, x = ys[k], xs[k]
        right_u, down_u = way(place, y, x, 0)
        right_v, down_v = way(place, y, x, 1)
        u, v = place[y, x, 0], place[y, x, 1]
        for j in range(np.uint64(along)):
            start_u, start_v = u + down_u * shares_down[j], v + down_v * shares_down[j]
            for i in range(np.uint64(across)):
                out[j, k, i, 0] = start_u + right_u * shares_right[i]
                out[j, k, i, 1] = start_v + right_v * shares_right[i]


@kernel
def slope_rows(source, dx, dy, out, y0, y1):  # type: ignore[no-untyped-def]
    """The slope of a map by central differences with the border wrapped.

    Parameters
    ----------
    source : (H, W) float32
    dx, dy : float
        The distances between samples.
    out : (H, W, 2) float32
        The rise per that unit; rows y0 to y1 are filled.
    """
    height, width = source.shape
    kx = np.float32(0.5 / dx)
    ky = np.float32(0.5 / dy)
    us, vs = np.empty(width, np.float32), np.empty(width, np.float32)
    for y in range(y0, y1):
        before, after = beside(y, height)
        up, down, row = source[before], source[after], source[y]
        for x in range(np.uint64(1), np.uint64(width - 1)):
            us[x] = (row[x + 1] - row[x - 1]) * kx
        for x in (0, width - 1):
            left, right = beside(x, width)
            us[x] = (row[right] - row[left]) * kx
        for x in range(width):
            vs[x] = (down[x] - up[x]) * ky
        join_places(us, vs, out[y].reshape(-1))


@kernel
def steepness_rows(source, out, y0, y1):  # type: ignore[no-untyped-def]
    """How far a map changes across each sample, in the direction of the steepest rise.

    Parameters
    ----------
    source : (H, W) float32
    out : (y1 - y0, W) float32
        Just the band's rows; by central differences with the border wrapped.
    """
    height, width = source.shape
    half = np.float32(0.5)
    for y in range(y0, y1):
        before, after = beside(y, height)
        up, down, row, line = source[before], source[after], source[y], out[y - y0]
        for x in range(np.uint64(1), np.uint64(width - 1)):
            u, v = row[x + 1] - row[x - 1], down[x] - up[x]
            line[x] = half * np.float32(math.sqrt(u * u + v * v))
        for x in (0, width - 1):
            left, right = beside(x, width)
            u, v = row[right] - row[left], down[x] - up[x]
            line[x] = half * np.float32(math.sqrt(u * u + v * v))
