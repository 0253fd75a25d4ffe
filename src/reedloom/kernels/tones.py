"""Loops over tones: a straight line held between ends, and reading tables plainly or averaged."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.maps import empty_like, empty_map
from reedloom.kernels.table_lanes import CHANNELS, average_colours, find_ends
from reedloom.kernels.vectors import LANES

COLOURS_AT_ONCE = 512
"""Samples whose colours are averaged together, so that what is kept of them stays near the processor."""
INFINITE = np.float32(3e38)
Bands = Callable[..., None]


def affine(
    bands: Bands, map: np.ndarray, scale: float, offset: float, low: float = -3e38, high: float = 3e38
) -> np.ndarray:
    """map × scale + offset, held between low and high.

    Parameters
    ----------
    bands : callable
        Runs band functions to the end.
    map : (H, W) or (H, W, channels) float32
    scale, offset, low, high : float

    Returns
    -------
    float32 of the map's shape
    """
    out = empty_like(map)
    numbers = (np.float32(scale), np.float32(offset), np.float32(low), np.float32(high))
    bands(lambda y0, y1: affine_rows(map[y0:y1].reshape(-1), *numbers, out[y0:y1].reshape(-1)), rows=len(map))
    return out


@kernel
def affine_rows(source, scale, offset, low, high, out):  # type: ignore[no-untyped-def]
    """`affine` for a stretch of samples.

    Parameters
    ----------
    source : (n,) float32
    scale, offset, low, high : float32
    out : (n,) float32
        Filled.
    """
    for i in range(out.shape[0]):
        t = source[i] * scale + offset
        t = t if t > low else low
        out[i] = t if t < high else high


def flat_of(values: np.ndarray) -> np.ndarray:
    """The numbers of a map one after the other, not to be written: so each loop is compiled but once."""
    flat = np.ascontiguousarray(values, np.float32).reshape(-1)
    flat.flags.writeable = False  # of the view, not of the map
    return flat


def flat_or_one(rows: np.ndarray | None) -> np.ndarray:
    """The numbers of what drives a value, `flat_of`, or a single 1 for all samples where nothing does."""
    return ONE if rows is None else flat_of(rows)


ONE = flat_of(np.ones(1, np.float32))


def held_finite(values: np.ndarray, most: float) -> np.ndarray:
    """Numbers of any shape within ±`most`, 0 for what is none: float32 to float32 of the same shape."""
    out = empty_map(values.shape)
    hold_finite(flat_of(values), np.float32(most), out.reshape(-1))
    return out


@kernel
def hold_finite(source, most, out):  # type: ignore[no-untyped-def]
    """`held_finite` for a stretch of numbers: (n,) float32."""
    for i in range(out.shape[0]):
        t = source[i]
        t = np.float32(0) if np.isnan(t) else t
        t = t if t > -most else -most
        out[i] = t if t < most else most


@kernel
def all_finite(bits):  # type: ignore[no-untyped-def]
    """Whether all of some floats are finite, by their exponents.

    Parameters
    ----------
    bits : (n,) uint32
        Floats seen as whole numbers.
    """
    found = np.uint32(0)
    for i in range(bits.shape[0]):
        # All exponent bits set, plus one, carry into the sign's place.
        found |= (bits[i] & np.uint32(0x7F800000)) + np.uint32(0x00800000)
    return found < np.uint32(0x80000000)


def smoothed(values: np.ndarray, low: float, wide: float) -> np.ndarray:
    """0 below `low`, 1 `wide` above it, and a smooth rise between: float32 of the same shape."""
    out = empty_map(values.shape)
    smooth_steps(flat_of(values), np.float32(low), np.float32(wide), out.reshape(-1))
    return out


@kernel
def smooth_steps(source, low, wide, out):  # type: ignore[no-untyped-def]
    """A smooth rise, level at both ends: 3 t² - 2 t³.

    Parameters
    ----------
    source : (n,) float32
    low, wide : float32
        Where it begins, and how far it goes; below 0 it falls.
    out : (n,) float32
        Filled, 0 to 1.
    """
    zero, one = np.float32(0.0), np.float32(1.0)
    for i in range(out.shape[0]):
        t = min(max((source[i] - low) / wide, zero), one)
        out[i] = t * t * (np.float32(3.0) - np.float32(2.0) * t)


def mean_of(map: np.ndarray) -> np.ndarray:
    """The mean of a map, or of each of its channels, in doubles: () or (channels,)."""
    columns = map.reshape(len(map), -1).sum(axis=0, dtype=np.float64)
    channels = map.shape[2:]
    return columns.reshape(map.shape[1], *channels).sum(axis=0) / (map.shape[0] * map.shape[1])


def look_up(bands: Bands, table: np.ndarray, map: np.ndarray) -> np.ndarray:
    """Each tone's value in an evenly sampled table, mixed between entries, level beyond.

    Parameters
    ----------
    bands : callable
        Runs band functions to the end.
    table : (n,) or, for a grey map, (n, channels) float32
        Samples from 0 to 1.
    map : (H, W) or (H, W, channels) float32

    Returns
    -------
    float32 of the map's shape, with the table's channels if any
    """
    if table.ndim == 1:
        out = empty_like(map)
        pairs = np.ascontiguousarray(np.stack([table[:-1], np.diff(table)], axis=-1), np.float32)
        bands(lambda y0, y1: table_rows(pairs, map[y0:y1].reshape(-1), out[y0:y1].reshape(-1)), rows=len(map))
        return out
    out = empty_map((*map.shape, table.shape[1]))
    flat = (-1, table.shape[1])
    bands(lambda y0, y1: colour_table_rows(table, map[y0:y1].reshape(-1), out[y0:y1].reshape(flat)))
    return out


def by_segments(bands: Bands, segments: np.ndarray, base: float, map: np.ndarray) -> np.ndarray:
    """A piecewise polynomial of a map's tones: exact, and in vectors, where a table would be neither.

    Parameters
    ----------
    bands : callable
        Runs band functions to the end.
    segments : (n, 2 + 7) float32
        Where each begins and ends, and its polynomial's coefficients of the powers 1 to 7 of the tone
        from its beginning; level before the first and after the last.
    base : float
        The value at the beginning.
    map : (H, W) or (H, W, channels) float32

    Returns
    -------
    float32 of the map's shape
    """
    out = empty_like(map)
    start = np.float32(base)
    bands(
        lambda y0, y1: segment_rows(segments, start, map[y0:y1].reshape(-1), out[y0:y1].reshape(-1)),
        rows=len(map),
    )
    return out


@kernel
def segment_rows(segments, base, value, out):  # type: ignore[no-untyped-def]
    """`by_segments` for a stretch of samples: each segment adds what it rises up to the tone.

    Parameters
    ----------
    segments, base
        As in `by_segments`.
    value : (n,) float32
    out : (n,) float32
        Filled.
    """
    for first in range(0, out.shape[0], 4096):
        last = min(first + 4096, out.shape[0])
        tones, found = value[first:last], out[first:last]
        found[:] = base
        for k in range(segments.shape[0]):
            _add_segment(tones, found, segments[k])


@kernel
def _add_segment(tones, found, segment):  # type: ignore[no-untyped-def]
    """Add what one segment rises up to each tone; see `by_segments`."""
    low, high, a, b, c = segment[0], segment[1], segment[2], segment[3], segment[4]
    d, e, f, g = segment[5], segment[6], segment[7], segment[8]
    for i in range(found.shape[0]):
        t = tones[i]
        t = t if t > low else low
        t = (t if t < high else high) - low
        found[i] += t * (a + t * (b + t * (c + t * (d + t * (e + t * (f + t * g))))))


@inlined
def _entry(value, last):  # type: ignore[no-untyped-def]
    """The table entry before a tone, and how far beyond it the tone is."""
    at = value * np.float32(last)
    at = at if at > np.float32(0.0) else np.float32(0.0)
    at = at if at < np.float32(last) else np.float32(last)
    cell = np.int32(at)
    cell = cell if cell < last - 1 else np.int32(last - 1)
    return cell, at - np.float32(cell)


@kernel
def table_rows(pairs, value, out):  # type: ignore[no-untyped-def]
    """`look_up` for a stretch of samples and one channel.

    pairs : (n, 2), each entry beside its step to the next, so that both come with one load.
    """
    last = np.int32(pairs.shape[0])
    for i in range(out.shape[0]):
        cell, part = _entry(value[i], last)
        out[i] = pairs[np.uint32(cell), 0] + part * pairs[np.uint32(cell), 1]


@kernel
def colour_table_rows(table, value, out):  # type: ignore[no-untyped-def]
    """`look_up` for a stretch of samples and several channels."""
    last = np.int32(table.shape[0] - 1)
    for i in range(out.shape[0]):
        cell, part = _entry(value[i], last)
        at = np.uint64(cell)
        beyond = at + np.uint64(1)
        if out.shape[1] == 3:  # a count that is known makes no loop
            for c in range(3):
                out[i, c] = table[at, c] + part * (table[beyond, c] - table[at, c])
        else:
            for c in range(out.shape[1]):
                out[i, c] = table[at, c] + part * (table[beyond, c] - table[at, c])


@kernel
def average_table_rows(summed, value, width, out):  # type: ignore[no-untyped-def]
    """A table averaged over the tones each sample covers; see `curves.averaging`.

    Parameters
    ----------
    summed : (n, 2) float64
        From `curves.sum_table`.
    value, width : (m,) float32
    out : (m,) float32
        Filled.
    """
    for i in range(out.shape[0]):
        ends, scale = _covered(summed, value[i], width[i])
        out[i] = np.float32(_between(summed, ends, 0, 1) * scale)


@kernel
def average_colour_rows(summed, value, width, out):  # type: ignore[no-untyped-def]
    """`average_table_rows` of colours.

    Parameters
    ----------
    summed : (n, 8) float64
        From `curves.sum_table`.
    value, width : (m,) float32
    out : (m, 3) float32
        Filled.
    """
    size, stride = np.float64(summed.shape[0]), np.int64(COLOURS_AT_ONCE)
    cells, parts = np.empty(2 * stride, np.int32), np.empty(3 * stride, np.float64)
    table, first = summed.reshape(-1), np.int64(0)
    for start in range(0, out.shape[0], stride):
        end = min(start + stride, out.shape[0])
        tones, covered, line = value[start:end], width[start:end], out[start:end].reshape(-1)
        n = np.int64(end - start)
        n = np.int64(find_ends(tones, covered, cells, parts, first, n, stride, size))
        average_colours(table, cells, parts, line, n, stride)
    i = out.shape[0] - out.shape[0] % LANES
    while i < out.shape[0]:
        ends, scale = _covered(summed, value[i], width[i])
        for c in range(3):
            out[i, c] = np.float32(_between(summed, ends, c, CHANNELS) * scale)
        i += 1


@inlined
def _covered(summed, value, width):  # type: ignore[no-untyped-def]
    """The ends in a table of what a sample covers, and what the sum between them is multiplied by."""
    size = np.float64(summed.shape[0])
    half = max(np.float64(width) * (0.5 * size), 0.5)
    middle = np.float64(value) * size
    return _entries(summed, middle - half, middle + half), 0.5 * size / half


@inlined
def _entries(summed, low, high):  # type: ignore[no-untyped-def]
    """The entries of a table in which two places lie, and how far behind their starts those are, in entries.

    Places beyond the table are told from its first or last entry, as if that went on.
    """
    last = np.float64(summed.shape[0] - 1)
    a, b = np.int32(min(max(low, 0.0), last)), np.int32(min(max(high, 0.0), last))
    # indices without a sign need no wrapping
    return np.uint64(a), low - np.float64(a), np.uint64(b), high - np.float64(b)


@inlined
def _between(summed, ends, c, channels):  # type: ignore[no-untyped-def]
    """A channel of a table's integral from one place to another."""
    a, behind_a, b, behind_b = ends
    low = summed[a, c] + behind_a * summed[a, c + channels]
    return summed[b, c] + behind_b * summed[b, c + channels] - low


@kernel
def average_cycle_rows(summed, phase, width, out):  # type: ignore[no-untyped-def]
    """A table that begins anew in each cycle, averaged over what each sample covers; see `curves.averaging`.

    Parameters
    ----------
    summed : (n, 2) float64
        From `curves.sum_table`.
    phase, width : (m,) float32
        In cycles.
    out : (m,) float32
        Filled.
    """
    n = summed.shape[0]
    whole = summed[n - 1, 0] + summed[n - 1, 1]
    for i in range(out.shape[0]):
        half = min(max(0.5 * np.float64(width[i]), 0.5 / (n + 1)), 0.5)
        low, high = np.float64(phase[i]) - half, np.float64(phase[i]) + half
        turns, first = np.floor(high), np.floor(low)
        ends = _entries(summed, (low - first) * n, (high - turns) * n)
        out[i] = np.float32((_between(summed, ends, 0, 1) + (turns - first) * whole) / (2 * half))
