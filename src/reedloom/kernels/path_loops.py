"""Loops over the corners of paths: how far along they are, where they lie in samples, strands around them."""

from __future__ import annotations

import math

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
def lay_evenly(paths, starts, run, ends, even):  # type: ignore[no-untyped-def]
    """Fill in corners that lie evenly along paths.

    Parameters
    ----------
    paths : (m,) of `VERTEX`
    starts : (n + 1,) int64
    run : (m,) float64
        From `run_along`.
    ends : (n,) int64
        Where the corners of each path end among those that are filled in; each has two or more.
    even : (k,) of `VERTEX`
    """
    begin = 0
    for n in range(len(ends)):
        last, steps = starts[n + 1] - 1, ends[n] - begin - 1
        k = starts[n]
        for number in range(steps + 1):
            at = run[last] * (number / steps)
            while k + 1 < last and run[k + 1] <= at:
                k += 1
            after = min(k + 1, last)
            gap = run[after] - run[k]
            t = min((at - run[k]) / gap, 1.0) if gap > 0 else 1.0
            here, there, out = paths[k], paths[after], even[begin + number]
            out.path, out.id = here.path, here.id
            out.u, out.v = here.u + t * (there.u - here.u), here.v + t * (there.v - here.v)
            out.width = here.width + t * (there.width - here.width)
            out.height = here.height + t * (there.height - here.height)
        begin = ends[n]


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
def turn_along(run, starts, turns, begin, turned):  # type: ignore[no-untyped-def]
    """Fill in how far something that winds around paths has turned at each corner.

    Parameters
    ----------
    run : (m,) float64
        From `run_along`.
    starts : (n + 1,) int64
    turns, begin : (n,) float64
        How often it turns along each path, and how far it has at the path's beginning, in turns.
    turned : (2, m) float64
        Filled: cosine and sine.
    """
    for n in range(len(turns)):
        first, end = starts[n], starts[n + 1]
        per = turns[n] / max(run[end - 1], 1e-12)
        for k in range(np.uint64(first), np.uint64(end)):
            way = 2 * math.pi * (per * run[k] + begin[n])
            turned[0, k], turned[1, k] = math.cos(way), math.sin(way)


@kernel
def lay_strands(even, normals, turned, starting, shape, made):  # type: ignore[no-untyped-def]
    """Fill in the corners of strands around paths.

    Parameters
    ----------
    even : (m,) of `VERTEX`
        The paths.
    normals : (m, 2) float64
        From `fill_normals`.
    turned : (2, m) float64
        Cosine and sine of how far the first strand has gone around there.
    starting : (2, strands) float64
        The same of where each strand begins.
    shape : (braided, radius, aspect, width, relief)
        Whether strands cross from side to side; how far they run from paths of width 1, in widths, on a tile
        so many times as high; their width against the path's; how much lower they are where they run below.
    made : (strands, m) of `VERTEX`
    """
    strands = made.shape[0]
    braided, radius, aspect, width, relief = shape
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
            aside = radius * path.width * out
            laid.u = path.u + normals[k, 0] * aside
            laid.v = path.v + normals[k, 1] * aside / aspect
            laid.width = path.width * width
            laid.height = path.height * (1 - relief * 0.5 * (1 - above))
