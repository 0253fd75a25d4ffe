"""Horizon-based ambient occlusion of a height map, with rays that wrap over the border."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import lru_cache

import numpy as np

from reedloom.kernels.jit import inlined, kernel, read_only
from reedloom.kernels.maps import empty_map

GROWTH = 1.22
"""Each step along a ray is this much longer than the last, once steps exceed a sample."""


@lru_cache(8)
def ray_steps(
    width: int, height: int, physical: tuple[float, float], radius: float, directions: int
) -> np.ndarray:
    """The samples every ray visits, the same for all starting points.

    Parameters
    ----------
    physical : (float, float)
        Tile width and height in metres.
    radius : float
        How far rays go, in metres.
    directions : int
        Rays over the full turn.

    Returns
    -------
    (n, 4) float64, read-only
        Offset in columns and rows (whole), one over the true distance in metres, ray number.
    """
    dx, dy = physical[0] / width, physical[1] / height
    steps: list[tuple[float, float, float, float]] = []
    for ray in range(directions):
        angle = (ray + 0.5) * 2 * math.pi / directions
        seen = {(0, 0)}
        distance = min(dx, dy)
        while True:
            last = distance >= radius
            reach = min(distance, radius)
            step = (round(math.cos(angle) * reach / dx), round(math.sin(angle) * reach / dy))
            if step not in seen:
                seen.add(step)
                steps.append((*step, 1 / math.hypot(step[0] * dx, step[1] * dy), ray))
            if last:
                break
            distance = max(distance * GROWTH, distance + min(dx, dy))
    return read_only(np.array(steps, np.float64).reshape(-1, 4))


def open_sky(
    height: np.ndarray, depth: float, steps: np.ndarray, directions: int, bands: Callable[..., None]
) -> np.ndarray:
    """The cosine-weighted share of the sky that each sample of a tile sees, `occlusion_rows`.

    Parameters
    ----------
    height : (H, W) float32
    depth : float
        What heights are multiplied by, to be metres.
    steps : (n, 4) float64
        From `ray_steps`.
    directions : int
        Rays.
    bands : callable
        Runs band functions to the end.

    Returns
    -------
    (H, W) float32, 1 is open
    """
    rows, width = height.shape
    near = steps.copy()
    for axis, count in enumerate((width, rows)):  # the shorter way around
        near[:, axis] = (steps[:, axis] + count // 2) % count - count // 2
    beyond = int(np.abs(near[:, 0]).max(initial=0))
    # As much of the tile on both sides as rays go across, so that no row need be cut in two.
    surface = empty_map((rows, width + 2 * beyond))
    np.multiply(height, np.float32(depth), out=surface[:, beyond : beyond + width])
    if beyond:
        surface[:, :beyond] = surface[:, width : width + beyond]
        surface[:, beyond + width :] = surface[:, beyond : 2 * beyond]
    out = empty_map((rows, width))
    bands(lambda y0, y1: occlusion_rows(surface, beyond, near, directions, out, y0, y1))
    return out


@kernel
def occlusion_rows(surface, begin, steps, directions, out, y0, y1):  # type: ignore[no-untyped-def]
    """The cosine-weighted share of the sky seen from each sample.

    For a horizon at elevation h over an even sky a ray's share is cos² h = 1 / (1 + tan² h) (L. Bavoil and
    others, 2008, with the surface taken as level).

    Parameters
    ----------
    surface : (H, beyond + W + beyond) float32
        Heights in metres, with some of the tile on both sides.
    begin : int
        The column at which the tile begins.
    steps : (n, 4) float64
        From `ray_steps`, across no farther than what is beside the tile.
    directions : int
        Rays.
    out : (H, W) float32
        1 is open; rows y0 to y1 are filled.
    """
    height, width = out.shape
    horizon = np.empty(width, np.float32)
    share = np.float32(1.0 / directions)
    count = steps.shape[0]
    across, down, of_ray = np.empty(count, np.int64), np.empty(count, np.int64), np.empty(count, np.int64)
    inverse, end = np.empty(count, np.float32), np.zeros(directions, np.int64)
    for k in range(count):  # once, since it would take longer than a row of a small map
        across[k], down[k] = int(steps[k, 0]) + begin, int(steps[k, 1]) % height
        inverse[k], of_ray[k] = steps[k, 2], int(steps[k, 3])
        end[of_ray[k]] = k + 1
    laid = (down, across, inverse, height)
    for y in range(y0, y1):
        line = out[y]
        line[:] = np.float32(0.0)
        horizon[:] = np.float32(0.0)
        ray, k = 0, 0
        while k < count:
            while of_ray[k] != ray:
                _close_ray(line, horizon, share)
                ray += 1
            # Four at once, and the last again where the ray has fewer left, so that its horizon is loaded and
            # stored a quarter as often.
            last = min(k + 3, end[ray] - 1)
            first, second = _step(y, k, laid), _step(y, min(k + 1, last), laid)
            third, fourth = _step(y, min(k + 2, last), laid), _step(y, last, laid)
            _raise_horizon(horizon, surface, (first, second, third, fourth), y, begin)
            k = last + 1
        while ray < directions:
            _close_ray(line, horizon, share)
            ray += 1


@inlined
def _step(y, k, laid):  # type: ignore[no-untyped-def]
    """The row and the column at which the k-th step from row y begins, and 1 / distance."""
    down, across, inverse, height = laid
    row = y + down[k]
    return np.uint64(row - height if row >= height else row), np.uint64(across[k]), inverse[k]


@inlined
def _raise_horizon(horizon, surface, steps, y, begin):  # type: ignore[no-untyped-def]
    """Raise the horizon of row y by four steps, from `_step`.

    To cut rows out for this would take longer than the work on a small map.
    """
    (a, i, inverse_a), (b, j, inverse_b), (c, k, inverse_c), (d, m, inverse_d) = steps
    y, begin = np.uint64(y), np.uint64(begin)
    for x in range(np.uint64(horizon.shape[0])):
        here, so_far = surface[y, begin + x], horizon[x]
        first, second = (surface[a, i + x] - here) * inverse_a, (surface[b, j + x] - here) * inverse_b
        third, fourth = (surface[c, k + x] - here) * inverse_c, (surface[d, m + x] - here) * inverse_d
        first, third = first if first > second else second, third if third > fourth else fourth
        first = first if first > third else third
        horizon[x] = first if first > so_far else so_far


@kernel
def _close_ray(line, horizon, share):  # type: ignore[no-untyped-def]
    for x in range(line.shape[0]):
        line[x] += share / (np.float32(1.0) + horizon[x] * horizon[x])
        horizon[x] = np.float32(0.0)


def shadow_steps(
    width: int, height: int, physical: tuple[float, float], reach: float, angle: float
) -> tuple[np.ndarray, bool]:
    """The places a shadow ray reads, and whether its steps are whole along columns.

    Steps are whole along the axis on which the ray moves faster, so that two samples are mixed and not four.

    Parameters
    ----------
    width, height : int
        Samples.
    physical : (float, float)
        The tile in metres.
    reach : float
        How far the ray goes, in metres.
    angle : float
        Towards the light, radians clockwise from the right.

    Returns
    -------
    (n, 4) float64: whole columns and rows, what is left of a row or a column, and one over the distance;
    and a bool
    """
    dx, dy = physical[0] / width, physical[1] / height
    across, down = math.cos(angle) / dx, math.sin(angle) / dy  # samples for a metre
    faster, is_wide = max(abs(across), abs(down)), abs(across) >= abs(down)
    steps: list[tuple[float, float, float, float]] = []
    whole = 1.0
    while (whole - 1) / faster < reach and len(steps) < 256:
        u, v = across * whole / faster, down * whole / faster
        if is_wide:
            steps.append((round(u), math.floor(v), v - math.floor(v), faster / whole))
        else:
            steps.append((math.floor(u), round(v), u - math.floor(u), faster / whole))
        whole = max(whole + 1, float(round(whole * 1.05)))
    return np.array(steps, np.float64).reshape(-1, 4), is_wide


@kernel
def cast_shadow_rows(surface, steps, is_wide, tangent, softness, out, y0, y1):  # type: ignore[no-untyped-def]
    """How much of a light each sample sees.

    Parameters
    ----------
    surface : (H, W) float32
        In metres.
    steps : (n, 4) float64
        From `shadow_steps`.
    is_wide : bool
        Whether steps are whole along columns.
    tangent : float
        Of the light's elevation.
    softness : float
        Over how much of the tangent a shadow's edge fades.
    out : (H, W) float32
        1 lit, 0 in shadow; rows y0 to y1 are filled.
    """
    height, width = surface.shape
    horizon = np.empty(width, np.float32)
    for y in range(y0, y1):
        row = surface[y]
        horizon[:] = np.float32(-1e9)
        for k in range(steps.shape[0]):
            left = int(steps[k, 0]) % width
            first = surface[(y + int(steps[k, 1])) % height]
            part = np.float32(steps[k, 2])
            inverse = np.float32(steps[k, 3])
            split = width - left
            if is_wide:
                second = surface[(y + int(steps[k, 1]) + 1) % height]
                _raise_mixed(horizon[:split], first[left:], second[left:], part, row[:split], inverse)
                _raise_mixed(horizon[split:], first[:left], second[:left], part, row[split:], inverse)
            else:
                _raise_mixed(
                    horizon[: split - 1], first[left : width - 1], first[left + 1 :], part, row[: split - 1],
                    inverse,
                )  # fmt: skip
                at = split - 1
                mixed = first[width - 1] + part * (first[0] - first[width - 1])
                horizon[at] = max(horizon[at], (mixed - row[at]) * inverse)
                _raise_mixed(horizon[split:], first[:left], first[1:], part, row[split:], inverse)
        low_end = tangent * (np.float32(1) - softness / np.float32(2))
        scale = np.float32(1) / max(tangent * softness, np.float32(1e-6))
        line = out[y]
        for x in range(width):
            t = min(max((horizon[x] - low_end) * scale, np.float32(0)), np.float32(1))
            line[x] = np.float32(1) - t


@kernel
def _raise_mixed(horizon, first, second, part, row, inverse):  # type: ignore[no-untyped-def]
    """Raise the horizon to what lies between pairs of samples."""
    for x in range(horizon.shape[0]):
        height = first[x] + part * (second[x] - first[x])
        tangent = (height - row[x]) * inverse
        horizon[x] = tangent if tangent > horizon[x] else horizon[x]
