"""Drawn tone curves and colour gradients, turned into tables once and read by interpolation."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from functools import lru_cache
from typing import Any

import numpy as np

from reedloom.kernels.colours import linear_from_oklab, oklab_from_linear
from reedloom.kernels.jit import inlined
from reedloom.kernels.tones import average_colour_rows, average_cycle_rows, average_table_rows

TABLE = 4096
Knots = Sequence[Sequence[float]]


def evaluate_curve(knots: Knots, x: np.ndarray) -> np.ndarray:
    """The height of a tone curve at `x`; level beyond its ends.

    Parameters
    ----------
    knots : sequence of (x, y, sharp)
        Between sharp knots the curve is a monotone cubic (Fritsch and Carlson 1980), so that it
        never swings beyond its knots; at a sharp knot it has a corner.
    """
    pieces = _between_corners(knots)
    x = np.clip(np.asarray(x, np.float64), pieces[0][0, 0], pieces[-1][-1, 0])
    if len(pieces) == 1:
        return _height_along(pieces[0], x)
    out = np.empty_like(x)
    for piece in pieces:
        inside = (x >= piece[0, 0]) & (x <= piece[-1, 0])
        out[inside] = _height_along(piece, x[inside])
    return out


def _between_corners(knots: Knots) -> list[np.ndarray]:
    """The knots from each corner of a curve to the next: (n, 3) each, n from 2 on."""
    points = np.asarray(knots, np.float64)
    corners = [0, *(i for i in range(1, len(points) - 1) if points[i, 2] > 0), len(points) - 1]
    return [points[a : b + 1] for a, b in itertools.pairwise(corners)]


def _height_along(piece: np.ndarray, x: np.ndarray) -> np.ndarray:
    """The height of a smooth piece of a curve at places within it."""
    if len(piece) > 2:
        return np.asarray(_smooth_through(piece)(x))
    (first, low, _), (last, high, _) = piece
    return np.asarray(low + (x - first) * ((high - low) / (last - first)))


def _smooth_through(piece: np.ndarray) -> Any:
    """The monotone cubic through three knots or more."""
    # Its import takes half a second, for which nothing need wait that has no such curve.
    from scipy.interpolate import PchipInterpolator

    return PchipInterpolator(piece[:, 0], piece[:, 1])


def curve_segments(knots: Knots) -> tuple[np.ndarray, float]:
    """A tone curve as polynomials between its knots, for `tones.by_segments`, and its first value.

    Parameters
    ----------
    knots : sequence of knots
        A `ToneCurve`'s value, ordered along x from 0 to 1.

    Returns
    -------
    (n, 9) float32 segments as `tones.by_segments` takes them, and the value at 0
    """
    pieces, rows = _between_corners(knots), []
    for piece in pieces:
        x, y = piece[:, 0], piece[:, 1]
        if len(x) == 2:
            rows.append((x[0], x[1], (y[1] - y[0]) / (x[1] - x[0]), 0.0, 0.0))
        else:
            cubes = _smooth_through(piece).c
            rows += [(x[i], x[i + 1], cubes[2, i], cubes[1, i], cubes[0, i]) for i in range(len(x) - 1)]
    segments = np.zeros((len(rows), 9), np.float32)
    segments[:, :5] = rows
    return segments, float(pieces[0][0, 1])


def plain_knots(knots: Knots) -> tuple[tuple[float, ...], ...]:
    """Knots by which something can be kept."""
    return tuple(tuple(float(number) for number in knot) for knot in knots)


def curve_table(knots: Knots) -> np.ndarray:
    """A tone curve sampled evenly from 0 to 1: (TABLE,) float32."""
    return _curve_table(plain_knots(knots)).copy()


@lru_cache(64)
def _curve_table(knots: Knots) -> np.ndarray:
    return evaluate_curve(knots, np.linspace(0, 1, TABLE)).astype(np.float32)


@inlined
def table_at(table, t):  # type: ignore[no-untyped-def]
    """An evenly sampled table of numbers read at a place from 0 to 1, between neighbours."""
    last = table.shape[0] - 1
    place = t * np.float32(last)
    cell = min(np.int32(place), np.int32(last - 1))
    return table[cell] + (place - np.float32(cell)) * (table[cell + 1] - table[cell])


def read_table(table: np.ndarray, value: np.ndarray) -> np.ndarray:
    """Look values up in an evenly sampled table, mixing neighbours; level beyond the ends.

    Parameters
    ----------
    table : (n,) or (n, channels) float32
        Samples from 0 to 1.
    value : float32 of any shape

    Returns
    -------
    value's shape, with channels if any
    """
    last = len(table) - 1
    place = np.clip(value * np.float32(last), 0, last, dtype=np.float32)
    cell = np.minimum(place.astype(np.int32), last - 1)
    part = place - cell
    if table.ndim == 2:
        part = part[..., None]
    low = table[cell]
    return low + part * (table[cell + 1] - low)


def sum_table(table: np.ndarray) -> np.ndarray:
    """The running integral of an evenly sampled table from 0 to 1, for `averaging`.

    Parameters
    ----------
    table : (n,) or (n, channels) float32

    Returns
    -------
    (n, 2) float64, the integral up to an entry and its step to the next; of colours (n, 8) float64, those of
    each channel, of which there are four with an empty one
    """
    steps = table.reshape(len(table), -1).astype(np.float64) / len(table)
    if steps.shape[1] == 3:
        steps = np.concatenate([steps, np.zeros((len(steps), 1))], axis=1)
    return np.concatenate([np.cumsum(steps, axis=0) - steps, steps], axis=1)


def averaging(summed: np.ndarray) -> Callable[[np.ndarray, np.ndarray, np.ndarray], None]:
    """A table averaged over the tones that each sample covers, so that its steps are as sharp as it allows.

    Beyond its ends the table is level.

    Parameters
    ----------
    summed : (n, 2) or (n, 8) float64
        From `sum_table`.

    Returns
    -------
    a function ``fill(value, width, out)`` of tones and how far they change across each sample, (m,) float32,
    that fills (m,) or (m, 3) float32
    """

    def fill(value: np.ndarray, width: np.ndarray, out: np.ndarray) -> None:
        if out.size == len(value):
            average_table_rows(summed, value, width, out.reshape(-1))
        else:
            average_colour_rows(summed, value, width, out)

    return fill


def average_cycle(summed: np.ndarray, phase: np.ndarray, width: np.ndarray) -> np.ndarray:
    """`averaging` with a table of one channel that begins anew at every whole number of `phase`.

    Parameters
    ----------
    summed : (n, 2) float64
        From `sum_table`.
    phase, width : (H, W) float32
        In cycles.

    Returns
    -------
    (H, W) float32
    """
    out = np.empty(phase.shape, np.float32)
    flat = (array.reshape(-1) for array in np.broadcast_arrays(phase, width))
    average_cycle_rows(
        summed, *(np.ascontiguousarray(array, np.float32) for array in flat), out.reshape(phase.size)
    )
    return out


def gradient_table(stops: Knots, blending: str, mixing: str) -> np.ndarray:
    """A colour gradient sampled evenly from 0 to 1: (TABLE, 3) float32 linear light.

    Parameters
    ----------
    stops : sequence of (place, red, green, blue)
        Linear light; level beyond the first and last.
    blending : {"linear", "smooth", "stepped"}
        How one stop passes into the next.
    mixing : {"light", "OKLab"}
        In which space colours are mixed; OKLab is B. Ottosson's (2020).
    """
    return _gradient_table(plain_knots(stops), blending, mixing)


@lru_cache(64)
def _gradient_table(stops: Knots, blending: str, mixing: str) -> np.ndarray:
    points = np.asarray(stops, np.float64)
    x = np.linspace(0, 1, TABLE)
    colours = points[:, 1:]
    if mixing == "OKLab":
        colours = oklab_from_linear(colours)
    if len(points) == 1 or blending == "stepped":
        index = np.clip(np.searchsorted(points[:, 0], x, side="right") - 1, 0, len(points) - 1)
        mixed = colours[index]
    else:
        index = np.clip(np.searchsorted(points[:, 0], x, side="right") - 1, 0, len(points) - 2)
        span = np.maximum(points[index + 1, 0] - points[index, 0], 1e-9)
        t = np.clip((x - points[index, 0]) / span, 0, 1)
        if blending == "smooth":
            t = t * t * (3 - 2 * t)
        mixed = colours[index] + t[:, None] * (colours[index + 1] - colours[index])
    if mixing == "OKLab":
        mixed = linear_from_oklab(mixed)
    table = mixed.astype(np.float32)
    table.flags.writeable = False  # it is kept for whoever asks for the same
    return table


def gradient_along(colours: Sequence[Sequence[float]], most: int = 8, close: float = 0.01) -> Knots:
    """The fewest stops that follow colours taken at even steps along a line.

    From the two ends on, a stop is set where the colour departs most from the gradient so far, in OKLab
    (after D. Douglas and T. Peucker, 1973), until it is within `close` everywhere or there are `most`.

    Parameters
    ----------
    colours : (n, 3) float32
        Linear sRGB.
    most : int
        Stops, from 2 up.
    close : float
        The distance in OKLab that is let pass.

    Returns
    -------
    the stops, each a place 0 to 1 and a linear colour
    """
    lab = oklab_from_linear(np.asarray(colours, np.float64))
    x = np.linspace(0, 1, len(lab))
    chosen = sorted({0, len(lab) - 1})
    while len(chosen) < most:
        along = np.stack([np.interp(x, x[chosen], lab[chosen, c]) for c in range(3)], axis=-1)
        away = np.linalg.norm(lab - along, axis=-1)
        worst = int(away.argmax())
        if away[worst] <= close:
            break
        chosen = sorted({*chosen, worst})
    return tuple((float(x[i]), *(float(c) for c in colours[i])) for i in chosen)
