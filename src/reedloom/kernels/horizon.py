"""Horizon-based ambient occlusion of a height map, with rays that wrap over the border."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.jit import kernel

GROWTH = 1.22
"""Each step along a ray is this much longer than the last, once steps exceed a sample."""


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
    (n, 4) float64
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
    return np.array(steps, np.float64).reshape(-1, 4)


@kernel
def occlusion_rows(surface, steps, directions, out, y0, y1):  # type: ignore[no-untyped-def]
    """The cosine-weighted share of the sky seen from each sample.

    surface : (H, W) float32, heights in metres; steps : from `ray_steps`; out : (H, W), 1 is open.
    For a horizon at elevation h over an even sky a ray's share is cos² h = 1 / (1 + tan² h)
    (Bavoil and others 2008, with the surface taken as level).
    """
    height, width = surface.shape
    horizon = np.empty(width, np.float32)
    share = np.float32(1.0 / directions)
    for y in range(y0, y1):
        row = surface[y]
        line = out[y]
        line[:] = np.float32(0.0)
        horizon[:] = np.float32(0.0)
        ray = 0
        for k in range(steps.shape[0]):
            if int(steps[k, 3]) != ray:
                _close_ray(line, horizon, share)
                ray += 1
                while int(steps[k, 3]) != ray:
                    _close_ray(line, horizon, share)
                    ray += 1
            other = surface[(y + int(steps[k, 1])) % height]
            shift = int(steps[k, 0]) % width
            inverse = np.float32(steps[k, 2])
            split = width - shift
            _raise_horizon(horizon[:split], other[shift:], row[:split], inverse)
            _raise_horizon(horizon[split:], other[:shift], row[split:], inverse)
        while ray < directions:
            _close_ray(line, horizon, share)
            ray += 1


@kernel
def _raise_horizon(horizon, other, row, inverse):  # type: ignore[no-untyped-def]
    for x in range(horizon.shape[0]):
        tangent = (other[x] - row[x]) * inverse
        horizon[x] = tangent if tangent > horizon[x] else horizon[x]


@kernel
def _close_ray(line, horizon, share):  # type: ignore[no-untyped-def]
    for x in range(line.shape[0]):
        line[x] += share / (np.float32(1.0) + horizon[x] * horizon[x])
        horizon[x] = np.float32(0.0)


def shadow_steps(
    width: int, height: int, physical: tuple[float, float], reach: float, angle: float
) -> np.ndarray:
    """The places a shadow ray reads: (n, 3) float64, columns and rows (parts too), one over the distance.

    reach : how far, in metres; angle : towards the light, radians clockwise from the right.
    """
    dx, dy = physical[0] / width, physical[1] / height
    steps: list[tuple[float, float, float]] = []
    distance = min(dx, dy)
    while distance < reach + min(dx, dy) and len(steps) < 512:
        steps.append((math.cos(angle) * distance / dx, math.sin(angle) * distance / dy, 1 / distance))
        distance = max(distance * 1.02, distance + min(dx, dy))
    return np.array(steps, np.float64).reshape(-1, 3)


@kernel
def cast_shadow_rows(surface, steps, tangent, softness, out, y0, y1):  # type: ignore[no-untyped-def]
    """How much of a light each sample sees: 1 lit, 0 in shadow.

    surface : (H, W) float32 in metres; steps : from `shadow_steps`; tangent : of the light's elevation;
    softness : over how much of that tangent a shadow's edge fades.
    """
    height, width = surface.shape
    horizon = np.empty(width, np.float32)
    for y in range(y0, y1):
        row = surface[y]
        horizon[:] = np.float32(-1e9)
        for k in range(steps.shape[0]):
            across = np.floor(steps[k, 0])
            down = np.floor(steps[k, 1])
            fu = np.float32(steps[k, 0] - across)
            fv = np.float32(steps[k, 1] - down)
            above = surface[(y + int(down)) % height]
            below = surface[(y + int(down) + 1) % height]
            left = int(across) % width
            inverse = np.float32(steps[k, 2])
            # The columns that lie beyond the seam come in a second run.
            split = width - left - 1
            if split > 0:
                _raise_mixed(
                    horizon[:split], above[left : left + split], above[left + 1 :],
                    below[left : left + split], below[left + 1 :], fu, fv, row[:split], inverse,
                )  # fmt: skip
            for x in range(max(split, 0), width):
                i = (x + left) % width
                j = (i + 1) % width
                top = above[i] + fu * (above[j] - above[i])
                low = below[i] + fu * (below[j] - below[i])
                horizon[x] = max(horizon[x], (top + fv * (low - top) - row[x]) * inverse)
        low_end = tangent * (np.float32(1) - softness / np.float32(2))
        scale = np.float32(1) / max(tangent * softness, np.float32(1e-6))
        line = out[y]
        for x in range(width):
            t = min(max((horizon[x] - low_end) * scale, np.float32(0)), np.float32(1))
            line[x] = np.float32(1) - t


@kernel
def _raise_mixed(horizon, a, b, c, d, fu, fv, row, inverse):  # type: ignore[no-untyped-def]
    """Raise the horizon to what lies between four samples, a and b above c and d."""
    for x in range(horizon.shape[0]):
        top = a[x] + fu * (b[x] - a[x])
        low = c[x] + fu * (d[x] - c[x])
        tangent = (top + fv * (low - top) - row[x]) * inverse
        horizon[x] = tangent if tangent > horizon[x] else horizon[x]
