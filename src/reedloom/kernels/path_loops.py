"""Loops over the corners of paths: how far along they are, where they lie in samples, strands around them."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import kernel


@kernel
def run_along(paths, starts, aspect, run, lengths):  # type: ignore[no-untyped-def]
    """Fill in how far along its path each corner is, and how long each path is, in widths.

    Parameters
    ----------
    paths : (m,) of `VERTEX`
    starts : (n + 1,) int64
        See `starts_of`.
    aspect : float
        The tile's height in widths.
    run : (m,) float64
    lengths : (n,) float64
    """
    for n in range(len(lengths)):
        part, out = paths[starts[n] : starts[n + 1]], run[starts[n] : starts[n + 1]]
        gone = 0.0
        for k in range(len(part)):
            if k > 0:
                du = part[k].u - part[k - 1].u
                dv = (part[k].v - part[k - 1].v) * aspect
                gone += np.sqrt(du * du + dv * dv)
            out[k] = gone
        lengths[n] = gone


@kernel
def divide_each(values, starts, lengths):  # type: ignore[no-untyped-def]
    """Divide the values of each path's corners, (m,) float64, by the path's length, (n,), if it has any."""
    for n in range(len(lengths)):
        part, share = values[starts[n] : starts[n + 1]], 1.0 / max(lengths[n], 1e-12)
        for k in range(len(part)):
            part[k] *= share


@kernel
def lay_in_samples(paths, starts, radius, size, places, reach):  # type: ignore[no-untyped-def]
    """Fill in where corners lie, in samples, whole tiles away from where each path begins.

    Parameters
    ----------
    paths : (m,) of `VERTEX`
    starts : (n + 1,) int64
    radius : (m,) float64
        Half the stroke's width, in samples.
    size : (width, height)
        Samples of the tile.
    places : (2, m) float32
        Across and down. So numbers stay small.
    reach : (2, n) float32
        The first and the last row that a path reaches, with two to spare.
    """
    width, height = float(size[0]), float(size[1])
    for n in range(reach.shape[1]):
        first, end = starts[n], starts[n + 1]
        part, broad, out = paths[first:end], radius[first:end], places[:, first:end]
        left, above = np.floor(part[0].u) * width, np.floor(part[0].v) * height
        top, bottom = np.inf, -np.inf
        for k in range(len(part)):
            y = part[k].v * height - above
            out[0, k] = part[k].u * width - left
            out[1, k] = y
            top, bottom = min(top, y - broad[k]), max(bottom, y + broad[k])
        reach[0, n], reach[1, n] = top - 2, bottom + 2


@kernel
def fill_normals(paths, beside, moved, aspect, out):  # type: ignore[no-untyped-def]
    """Fill in the way to the right of each corner's path, in widths, of length 1.

    Parameters
    ----------
    paths : (m,) of `VERTEX`
    beside : (2, m) int64
        The corners before and after each.
    moved : (2, m, 2) float64
        How many tiles those are moved; see `neighbours_of`.
    aspect : float
        The tile's height in widths.
    out : (m, 2) float64
    """
    for k in range(len(out)):
        before, after = paths[beside[0, k]], paths[beside[1, k]]
        u = after.u + moved[1, k, 0] - before.u - moved[0, k, 0]
        v = (after.v + moved[1, k, 1] - before.v - moved[0, k, 1]) * aspect
        length = max(np.sqrt(u * u + v * v), 1e-12)
        out[k, 0], out[k, 1] = -v / length, u / length


@kernel
def lay_strands(even, aside, turned, starting, shape, made):  # type: ignore[no-untyped-def]
    """Fill in the corners of strands around paths.

    Parameters
    ----------
    even : (m,) of `VERTEX`
        The paths.
    aside : (2, m) float64
        How far strands run from each corner to the right, in tiles, across and down.
    turned : (2, m) float64
        Cosine and sine of how far the first strand has gone around there.
    starting : (2, strands) float64
        The same of where each strand begins.
    shape : (braided, width, relief)
        Whether strands cross from side to side; their width against the path's; how much lower they are
        where they run below.
    made : (strands, m) of `VERTEX`
    """
    strands = made.shape[0]
    braided, width, relief = shape
    for strand in range(strands):
        c, s = starting[0, strand], starting[1, strand]
        for k in range(len(even)):
            out = turned[0, k] * c - turned[1, k] * s
            above = turned[1, k] * c + turned[0, k] * s
            if braided:
                above = 2 * above * out  # twice as often over and under
            path = even[k]
            laid = made[strand, k]
            laid.path = path.path * strands + strand
            laid.id = path.id * strands + strand
            laid.u = path.u + aside[0, k] * out
            laid.v = path.v + aside[1, k] * out
            laid.width = path.width * width
            laid.height = path.height * (1 - relief * 0.5 * (1 - above))
