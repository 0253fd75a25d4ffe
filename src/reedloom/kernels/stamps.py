"""Draws pictures at points: turned, sized, wrapped, and averaged down so that small ones do not sparkle.

Each drawing is averaged once to a few sizes, a quarter of an octave apart, and a stamp reads the size
next to its own; so it takes four reads a sample however small it gets.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.resize import resize_map

JOINS = ("highest", "lowest", "add", "over")
HIGHEST, LOWEST, ADD, OVER = range(len(JOINS))
SIZES_AN_OCTAVE = 4
BOW_MEAN = 1 / 3
"""What is taken from the square of the way from the middle, so that a bent stamp stays where it was."""
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
    drawings: list[tuple[np.ndarray, np.ndarray]], which: np.ndarray, size_u: np.ndarray, size_v: np.ndarray
) -> Sheets:
    """Average drawings to the sizes at which they are stamped.

    Parameters
    ----------
    drawings : list of (height, mask)
        Each (H, W) float32.
    which : (stamps,) int64
        The drawing of each stamp.
    size_u, size_v : (stamps,) float64
        Their extents as shares of the tile.

    Returns
    -------
    Sheets
    """
    height, width = drawings[0][0].shape
    steps = [
        np.round(np.log2(np.clip(s, 1e-4, 1)) * SIZES_AN_OCTAVE).astype(np.int64) for s in (size_u, size_v)
    ]
    classes, of = np.unique(np.stack([which, *steps], axis=1), axis=0, return_inverse=True)
    of = of.reshape(-1)
    pieces, shapes, starts, begin = [], [], [], 0
    halved: dict[tuple[int, int, int], np.ndarray] = {}
    for drawing, step_u, step_v in classes.tolist():
        columns = max(1, round(width * 2 ** (step_u / SIZES_AN_OCTAVE)))
        rows = max(1, round(height * 2 ** (step_v / SIZES_AN_OCTAVE)))
        sheet = np.zeros((rows + 2, columns + 2, 2), np.float32)
        near = _halved(drawings, halved, drawing, columns, rows)
        sheet[1:-1, 1:-1] = near if near.shape[:2] == (rows, columns) else resize_map(near, columns, rows)
        pieces.append(sheet.reshape(-1, 2))
        shapes.append((columns, rows))
        starts.append(begin)
        begin += len(pieces[-1])
    sizes = np.array(shapes, np.int64).reshape(-1, 2)[of]
    texels = np.concatenate(pieces) if pieces else np.zeros((0, 2), np.float32)
    return Sheets(texels, np.array(starts, np.int64)[of], sizes[:, 0].copy(), sizes[:, 1].copy())


def _halved(
    drawings: list[tuple[np.ndarray, np.ndarray]],
    made: dict[tuple[int, int, int], np.ndarray],
    drawing: int,
    columns: int,
    rows: int,
) -> np.ndarray:
    """The drawing averaged by whole powers of two, no smaller than asked: (h, w, 2)."""
    if (drawing, 0, 0) not in made:
        height, mask = drawings[drawing]
        made[drawing, 0, 0] = np.stack([height * mask, mask], axis=-1)
    at = (0, 0)
    while True:
        sheet = made[drawing, *at]
        h, w = sheet.shape[:2]
        halve_v, halve_u = h % 2 == 0 and h // 2 >= rows, w % 2 == 0 and w // 2 >= columns
        if not halve_u and not halve_v:
            return sheet
        at = (at[0] + halve_u, at[1] + halve_v)
        if (drawing, *at) not in made:
            smaller = sheet
            if halve_v:
                smaller = (smaller[::2] + smaller[1::2]) * np.float32(0.5)
            if halve_u:
                smaller = (smaller[:, ::2] + smaller[:, 1::2]) * np.float32(0.5)
            made[drawing, *at] = smaller


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
    winner : (H, W) int32
        The stamp that shows, -1 for none.
    """

    out: np.ndarray
    cover: np.ndarray
    winner: np.ndarray


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


@inlined
def _read(texels, start, stride, tx, ty):  # type: ignore[no-untyped-def]
    """Height times mask, and mask, at a place in texels (the border included), mixed from four."""
    i = np.int32(tx)
    j = np.int32(ty)
    fx = tx - np.float32(i)
    fy = ty - np.float32(j)
    at = np.uint64(start + np.int64(j) * stride + np.int64(i))  # an index without a sign needs no wrapping
    below = at + np.uint64(stride)
    right = at + np.uint64(1)
    corner = below + np.uint64(1)
    h = texels[at, 0] + fx * (texels[right, 0] - texels[at, 0])
    m = texels[at, 1] + fx * (texels[right, 1] - texels[at, 1])
    h_below = texels[below, 0] + fx * (texels[corner, 0] - texels[below, 0])
    m_below = texels[below, 1] + fx * (texels[corner, 1] - texels[below, 1])
    return h + fy * (h_below - h), m + fy * (m_below - m)


@inlined
def _bent(tx, ty, columns, rows, bow):  # type: ignore[no-untyped-def]
    """The texel row that a bent drawing has at a place, and whether it is on the sheet."""
    q = (tx - np.float32(0.5)) / np.float32(columns) * np.float32(2) - np.float32(1)
    ty += bow * (q * q - np.float32(BOW_MEAN))
    return ty, ty >= np.float32(0) and ty <= np.float32(rows) + np.float32(0.99)


@inlined
def _draw_run(texels, walk, ink, join, number, run):  # type: ignore[no-untyped-def]
    """Draw one stamp into a run of samples.

    walk : where the sheet begins, how long its rows are and how many, the texel at the first sample, by how
    much it moves on, and the bow; ink : the share of what is covered that is hidden, and what heights are
    multiplied and raised by; run : that stretch of a `Layer`.
    """
    start, stride, rows, tx, ty, a, c, bow = walk
    share, times, up = ink
    out, cover, winner = run
    one = np.float32(1)
    half = np.float32(0.5)
    for x in range(out.shape[0]):
        at_x, at_y = tx + np.float32(x) * a, ty + np.float32(x) * c
        if bow != np.float32(0):
            at_y, on_sheet = _bent(at_x, at_y, stride - 2, rows, bow)
            if not on_sheet:
                continue
        h, m = _read(texels, start, stride, at_x, at_y)
        if m > np.float32(1e-4):
            value = (h if m > np.float32(0.9999) else h / m) * times + up
            m *= share
            now = out[x]
            seen = cover[x]
            shows = m >= half
            if join == HIGHEST:
                if value <= now and seen > np.float32(0.9999):
                    continue
                shows = shows and (value > now or winner[x] < 0)
                out[x] = now + m * (max(now, value) - now)
            elif join == LOWEST:
                shows = shows and (value < now or winner[x] < 0)
                to = value if seen < half else min(now, value)
                out[x] = now + m * (to - now)
            elif join == ADD:
                out[x] = now + m * value
            else:
                out[x] = now + m * (value - now)
            cover[x] = seen + m * (one - seen)
            if shows:
                winner[x] = number


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
        See JOINS.
    layer : Layer
    """
    (texels, starts, columns, rows), turns, places, bows, scale = stamps
    out, cover, winner = layer
    height, width = out.shape
    for k in order:
        a, b, c, d = turns[k, 0], turns[k, 1], turns[k, 2], turns[k, 3]
        cx, cy = places[k, 0], places[k, 1]
        reach = turns[k, 5]
        stride = columns[k] + 2
        # Texels run from the border's middle, 0.5, to the other border's middle.
        middle_x = columns[k] * 0.5 + 0.5
        middle_y = rows[k] * 0.5 + 0.5
        limit_x = columns[k] + 0.99
        limit_y = rows[k] + 0.99
        bow = np.float32(bows[k])
        room = abs(bows[k]) * FARTHEST_BOW  # what a bend may bring in from above and below
        share, times, up = amount[k], scale[k], lift[k]
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
                    tx, ty = np.float32(start_x + a * x), np.float32(start_y + c * x)
                    walk = (starts[k], stride, rows[k], tx, ty, np.float32(a), np.float32(c), bow)
                    part = (out[y, at : at + run], cover[y, at : at + run], winner[y, at : at + run])
                    _draw_run(texels, walk, (share, times, up), join, k, part)
                    x += run


@inlined
def _within(i, cells):  # type: ignore[no-untyped-def]
    """An index from 0 up, wrapped; a division for each sample would take longer than all else."""
    while i >= cells:
        i -= cells
    return np.uint64(i)


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
    ground : (n, n) float32
        The highest top at each place so far; added to.
    lift : (stamps,) float32
        Filled for the stamps laid.
    """
    (texels, starts, columns, rows), ways, places, bows, scale = stamps
    cells = ground.shape[0]
    tops, spans = np.empty(1024, np.float32), np.empty((64, 2), np.int64)
    for k in order:
        a, b, c, d = ways[k, 0], ways[k, 1], ways[k, 2], ways[k, 3]
        cx, cy = places[k, 0], places[k, 1]
        middle_x = columns[k] * 0.5 + 0.5
        middle_y = rows[k] * 0.5 + 0.5
        x0, x1 = int(np.ceil(cx - ways[k, 4] - 0.5)), int(np.floor(cx + ways[k, 4] - 0.5))
        y0, y1 = int(np.ceil(cy - ways[k, 5] - 0.5)), int(np.floor(cy + ways[k, 5] - 0.5))
        across, down = x1 - x0 + 1, y1 - y0 + 1
        if across * down > tops.shape[0]:
            tops = np.empty(across * down, np.float32)
        if down > spans.shape[0]:
            spans = np.empty((down, 2), np.int64)
        highest = np.float32(0)
        touch = np.float32(0)
        begin = x0 % cells
        bow = np.float32(bows[k])
        room = abs(bows[k]) * FARTHEST_BOW
        for j in range(down):
            y = y0 + j
            dy = y + 0.5 - cy
            line = ground[y % cells]
            start_x = middle_x + b * dy + a * (x0 + 0.5 - cx)
            start_y = middle_y + d * dy + c * (x0 + 0.5 - cx)
            left, right = _span(start_x, a, columns[k] + 0.99, 0.0, across - 1.0)
            left, right = _span(start_y + room, c, rows[k] + 0.99 + 2 * room, left, right)
            spans[j, 0], spans[j, 1] = int(np.ceil(left)), int(np.floor(right)) + 1
            for x in range(spans[j, 0], spans[j, 1]):
                at = np.uint64(j * across + x)
                tops[at] = 0
                tx, ty = np.float32(start_x + a * x), np.float32(start_y + c * x)
                if bow != np.float32(0):
                    ty, on_sheet = _bent(tx, ty, columns[k], rows[k], bow)
                    if not on_sheet:
                        continue
                h, m = _read(texels, starts[k], columns[k] + 2, tx, ty)
                if m >= np.float32(0.5):
                    top = h / m * scale[k]
                    tops[at] = top
                    highest = max(highest, top)
                    touch = max(touch, line[_within(begin + x, cells)] + underside * top)
        lift[k] = share * max(np.float32(0), touch - underside * highest)
        for j in range(down):
            line = ground[(y0 + j) % cells]
            for x in range(spans[j, 0], spans[j, 1]):
                top = tops[np.uint64(j * across + x)]
                if top > 0:
                    i = _within(begin + x, cells)
                    line[i] = max(line[i], top + lift[k])
