"""Draws pictures at points: turned, sized, wrapped, and averaged down so that small ones do not sparkle.

Each drawing is averaged once to a few sizes, a quarter of an octave apart, and a stamp reads the size
next to its own; so it takes four reads a sample however small it gets.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.resize import halve_rows, resize_map
from reedloom.kernels.stamp_lanes import (
    BOW_MEAN,
    EDGE,
    SHEET,
    WALK,
    find_touch,
    lay_texels,
    raise_ground,
)
from reedloom.kernels.vectors import LANES

Bands = Callable[..., None]
SIZES_AN_OCTAVE = 4
FARTHEST_BOW = 1 - BOW_MEAN
"""How far a bend of 1 moves what it moves most, at the ends of a stamp, in its breadths."""


class Sheets(NamedTuple):
    """Drawings at all sizes needed.

    Attributes
    ----------
    texels : (n, 2) float32
        Height times mask, and mask, row by row, each sheet with a clear border of one texel.
    starts, columns, rows : (stamps,) int64
        For each stamp where its sheet begins, and its size without the border.
    """

    texels: np.ndarray
    starts: np.ndarray
    columns: np.ndarray
    rows: np.ndarray


def make_sheets(
    drawings: list[np.ndarray],
    mask: np.ndarray | None,
    which: np.ndarray,
    size_u: np.ndarray,
    size_v: np.ndarray,
    bands: Bands,
) -> Sheets:
    """Average drawings to the sizes at which they are stamped.

    Parameters
    ----------
    drawings : list of (H, W) float32
        Heights.
    mask : (H, W) float32, optional
        Where they are, 0 to 1; wherever one is above 0 if there is none.
    which : (stamps,) int64
        The drawing of each stamp.
    size_u, size_v : (stamps,) float64
        Their extents as shares of the tile.
    bands : callable
        Runs a function of rows y0 to y1 over so many rows; see `Context.bands`.

    Returns
    -------
    Sheets
    """
    height, width = drawings[0].shape
    columns, rows = (sheet_sides(side, share) for side, share in ((width, size_u), (height, size_v)))
    _, first, of = np.unique(
        (which * (width + 1) + columns) * (height + 1) + rows, return_index=True, return_inverse=True
    )
    halved: dict[tuple[int, int, int], np.ndarray] = {}
    shapes = np.stack([columns, rows], axis=1)[first]
    areas = np.prod(shapes + 2, axis=1)
    ends = np.cumsum(areas)
    texels = np.zeros((int(areas.sum()), 2), np.float32)
    near = [
        _halved((drawings[drawing], mask), halved, drawing, (columns, rows), bands)
        for drawing, (columns, rows) in zip(which[first].tolist(), shapes.tolist(), strict=True)
    ]

    def fill(first: int, last: int) -> None:
        for number in range(first, last):
            columns, rows = shapes[number].tolist()
            sheet = texels[ends[number] - areas[number] : ends[number]].reshape(rows + 2, columns + 2, 2)
            if near[number].shape[:2] == (rows, columns):
                sheet[1:-1, 1:-1] = near[number]
            else:
                sheet[1:-1, 1:-1] = resize_map(near[number], columns, rows)

    bands(fill, rows=len(shapes), band_rows=1)
    return Sheets(texels, (ends - areas)[of], shapes[of, 0].copy(), shapes[of, 1].copy())


def sheet_sides(side: int, shares: np.ndarray) -> np.ndarray:
    """Texels along sheets for stamps that take such shares of the tile, a quarter of an octave apart."""
    steps = np.round(np.log2(np.clip(shares, 1e-4, 1)) * SIZES_AN_OCTAVE)
    return np.maximum(1, np.round(side * 2.0 ** (steps / SIZES_AN_OCTAVE))).astype(np.int64)


def _halved(
    ink: tuple[np.ndarray, np.ndarray | None],
    made: dict[tuple[int, int, int], np.ndarray],
    drawing: int,
    wanted: tuple[int, int],
    bands: Bands,
) -> np.ndarray:
    """The drawing averaged by whole powers of two, no smaller than asked: (h, w, 2)."""
    (height, mask), (columns, rows) = ink, wanted
    (h, w), at = height.shape, (0, 0)
    while True:
        halve_v, halve_u = h % 2 == 0 and h // 2 >= rows, w % 2 == 0 and w // 2 >= columns
        before, last = at, not halve_u and not halve_v
        h, w, at = h >> halve_v, w >> halve_u, (at[0] + halve_u, at[1] + halve_v)
        if (drawing, *at) not in made and (last or at != (0, 0)):
            smaller = np.empty((h, w, 2), np.float32)
            source = made.get((drawing, *before))
            if source is None:
                run = partial(fill_ink, height, height if mask is None else mask, mask is None, smaller)
            else:
                run = partial(halve_rows, source, smaller)
            bands(run, rows=h)
            made[drawing, *at] = smaller
        if last:
            return made[drawing, *at]


@kernel
def fill_ink(height, mask, is_drawing, out, y0, y1):  # type: ignore[no-untyped-def]
    """Height times mask, and mask, averaged as `halve_rows` does, to rows y0 to y1 of a sheet.

    Parameters
    ----------
    height, mask : (h, w) float32
        A mask is held within 0 to 1.
    is_drawing : bool
        Whether the mask is the drawing itself, which is wherever it is above 0.
    out : (h or h / 2, w or w / 2, 2) float32
    """
    down, across = height.shape[0] // out.shape[0], height.shape[1] // out.shape[1]
    below, right = down - 1, across - 1
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            ink = cover = np.float32(0)
            for i, j in ((0, 0), (0, right), (below, 0), (below, right)):
                m = mask[down * y + i, across * x + j]
                m = np.float32(m > 0) if is_drawing else min(max(m, np.float32(0)), np.float32(1))
                ink += height[down * y + i, across * x + j] * m
                cover += m
            out[y, x, 0] = ink * np.float32(0.25)
            out[y, x, 1] = cover * np.float32(0.25)


class Stamps(NamedTuple):
    """Where and how stamps are drawn into a map of so many samples.

    Attributes
    ----------
    sheets : Sheets
        What is drawn.
    ways : (stamps, 6) float64
        The way from samples to texels (a, b, c, d), and half the extents in samples.
    places : (stamps, 2) float64
        Middles, in samples.
    bows : (stamps,) float64
        How far the ends are bent down against the middle, in texels.
    scale : (stamps,) float32
        What heights are multiplied by.
    """

    sheets: Sheets
    ways: np.ndarray
    places: np.ndarray
    bows: np.ndarray
    scale: np.ndarray


class Layer(NamedTuple):
    """What is drawn into.

    Attributes
    ----------
    out : (H, W) float32
        Height.
    cover : (H, W) float32
        How much of each sample is covered, 0 to 1.
    labels : (H, W) int32
        The stamp that shows, from 1; 0 for none.
    """

    out: np.ndarray
    cover: np.ndarray
    labels: np.ndarray


@inlined
def _span(start, step, limit, low, high):  # type: ignore[no-untyped-def]
    """Narrow a run of x to where 0 <= start + step * x <= limit."""
    if abs(step) < 1e-12:
        if start < 0 or start > limit:
            return 1.0, 0.0
        return low, high
    first = -start / step
    last = (limit - start) / step
    return max(low, min(first, last)), min(high, max(first, last))


@kernel
def stamp_rows(order, stamps, amount, lift, join, layer, y0, y1):  # type: ignore[no-untyped-def]
    """Draw stamps, in order, into rows y0 to y1 of a layer.

    Parameters
    ----------
    order : (n,) int64
        The stamps that reach these rows.
    stamps : Stamps
        For the layer's samples.
    amount : (stamps,) float32
        How much of what they cover they hide, 0 to 1.
    lift : (stamps,) float32
        What heights are raised by.
    join : int
        See `stamp_lanes.JOINS`.
    layer : Layer
    """
    (texels, starts, columns, rows), turns, places, bows, scale = stamps
    out, cover, labels = layer
    height, width = out.shape
    sheet, walk = np.empty(SHEET, np.int64), np.empty(WALK, np.float32)
    for k in order:
        a, b, c, d = turns[k, 0], turns[k, 1], turns[k, 2], turns[k, 3]
        sheet[0], sheet[1], sheet[2], sheet[3], sheet[4] = starts[k], columns[k], rows[k], join, k + 1
        walk[2], walk[3], walk[4] = a, c, bows[k]
        walk[5], walk[6], walk[7] = amount[k], scale[k], lift[k]
        cx, cy = places[k, 0], places[k, 1]
        reach = turns[k, 5]
        # Texels run from the border's middle, 0.5, to the other border's middle.
        middle_x = columns[k] * 0.5 + 0.5
        middle_y = rows[k] * 0.5 + 0.5
        limit_x = columns[k] + EDGE
        limit_y = rows[k] + EDGE
        room = abs(bows[k]) * FARTHEST_BOW  # what a bend may bring in from above and below
        for y in range(y0, y1):
            first = int(np.ceil((y + 0.5 - cy - reach) / height))
            last = int(np.floor((y + 0.5 - cy + reach) / height))
            for n in range(first, last + 1):
                dy = y + 0.5 - cy - n * height
                # The texel at column x is start + step * x.
                start_x = middle_x + b * dy + a * (0.5 - cx)
                start_y = middle_y + d * dy + c * (0.5 - cx)
                low, high = _span(start_x, a, limit_x, cx - turns[k, 4] - 1, cx + turns[k, 4])
                low, high = _span(start_y + room, c, limit_y + 2 * room, low, high)
                if high < low:
                    continue
                x = int(np.ceil(low))
                end = int(np.floor(high)) + 1
                while x < end:  # cut where the tile ends
                    at = x % width
                    run = min(end - x, width - at)
                    walk[0], walk[1] = start_x + a * x, start_y + c * x
                    begin = y * width + at
                    for i in range(0, run, LANES):
                        lay_texels(texels, sheet, walk, i, run, begin + i, out, cover, labels)
                    x += run


@kernel
def rest_stamps(order, stamps, share, underside, ground, lift):  # type: ignore[no-untyped-def]
    """Find how high each stamp comes to lie on those before it, and leave its top in `ground`.

    Parameters
    ----------
    order : (n,) int64
        The stamps to lay, first laid first.
    stamps : Stamps
        For the cells of `ground`.
    share : float32
        Of the height found that is kept, 0 to 1.
    underside : float32
        How round stamps are below, as a share of their top.
    ground : (n, n + LANES) float32
        The highest top at each place so far, and room at the end of each row; added to.
    lift : (stamps,) float32
        Filled for the stamps laid.
    """
    (texels, starts, columns, rows), ways, places, bows, scale = stamps
    cells, wide = ground.shape[0], ground.shape[1]
    tops, spans = np.empty(1024, np.float32), np.empty((64, 3), np.int64)
    ends = np.empty(2 * LANES, np.float32)
    sheet, walk = np.empty(SHEET, np.int64), np.empty(WALK, np.float32)
    for k in order:
        a, b, c, d = ways[k, 0], ways[k, 1], ways[k, 2], ways[k, 3]
        sheet[0], sheet[1], sheet[2] = starts[k], columns[k], rows[k]
        walk[2], walk[3], walk[4], walk[5], walk[6] = a, c, bows[k], scale[k], underside
        cx, cy = places[k, 0], places[k, 1]
        middle_x = columns[k] * 0.5 + 0.5
        middle_y = rows[k] * 0.5 + 0.5
        x0, x1 = int(np.ceil(cx - ways[k, 4] - 0.5)), int(np.floor(cx + ways[k, 4] - 0.5))
        y0, y1 = int(np.ceil(cy - ways[k, 5] - 0.5)), int(np.floor(cy + ways[k, 5] - 0.5))
        across, down = x1 - x0 + 1, y1 - y0 + 1
        if across * down + LANES > tops.shape[0]:
            tops = np.empty(across * down + LANES, np.float32)
        if down > spans.shape[0]:
            spans = np.empty((down, 3), np.int64)
        for lane in range(2 * LANES):
            ends[lane] = 0
        room = abs(bows[k]) * FARTHEST_BOW
        begin = 0
        for j in range(down):
            dy = y0 + j + 0.5 - cy
            start_x = middle_x + b * dy + a * (x0 + 0.5 - cx)
            start_y = middle_y + d * dy + c * (x0 + 0.5 - cx)
            left, right = _span(start_x, a, columns[k] + EDGE, 0.0, across - 1.0)
            left, right = _span(start_y + room, c, rows[k] + EDGE + 2 * room, left, right)
            first = int(np.ceil(left))
            count = max(0, int(np.floor(right)) + 1 - first)
            spans[j, 0], spans[j, 1], spans[j, 2] = x0 + first, count, begin
            walk[0], walk[1] = start_x + a * first, start_y + c * first
            row = (y0 + j) % cells * wide
            x = 0
            while x < count:  # cut where the ground ends
                at = (x0 + first + x) % cells
                end = min(count, x + cells - at)
                at += row
                for i in range(0, end - x, LANES):
                    find_touch(texels, sheet, walk, x + i, end, tops, begin + x + i, ground, at + i, ends)
                x = end
            begin += count
        top, touch = np.float32(0), np.float32(0)
        for lane in range(LANES):
            top, touch = max(top, ends[lane]), max(touch, ends[LANES + lane])
        lift[k] = share * max(np.float32(0), touch - underside * top)
        for j in range(down):
            first, count, begin = spans[j, 0], spans[j, 1], spans[j, 2]
            row = (y0 + j) % cells * wide
            x = 0
            while x < count:
                at = (first + x) % cells
                end = min(count, x + cells - at)
                at += row
                for i in range(0, end - x, LANES):
                    raise_ground(tops, begin + x + i, x + i, end, lift[k], ground, at + i)
                x = end
