"""The part of the screen an object can cover, so that nothing is computed beside it."""

from __future__ import annotations

from itertools import product

import numpy as np

MARGIN = 2e-3
"""Object units around objects, for rays that end just before them."""
SAG = 0.03
"""How far the cloth may bulge beyond the points that are taken of it."""
FULL = np.array([[-1, -1], [3, -1], [-1, 3]], np.float64)


RING = 32
"""Corners around a ball."""


def object_points(name: str, rise: float, wall: float, eye: np.ndarray) -> np.ndarray:
    """Points whose hull, seen from `eye`, covers an object, with sizes as in `object.glsl`: (n, 3).

    Parameters
    ----------
    rise, wall : float
        How high its relief stands, and how much deeper the sheet and the cloth are cut at their edges.
    """
    out = rise + MARGIN
    if name == "ball":
        return ball_ring(1 + out, eye)
    if name == "cube":
        return np.array(list(product((-0.78 - out, 0.78 + out), repeat=3)))
    if name == "cylinder":
        turns = np.arange(RING) * (2 * np.pi / RING)
        around = (0.70 + out) / np.cos(np.pi / RING)
        return np.array(
            [(around * np.cos(t), y, around * np.sin(t)) for t in turns for y in (-0.90 - out, 0.90 + out)]
        )
    if name == "sheet":
        side = 1 + MARGIN
        return np.array(list(product((-side, side), (-0.06 - wall - MARGIN, out), (-side, side))))
    across = np.linspace(-1.05 - MARGIN, 1.05 + MARGIN, 9)
    x, z = (part.reshape(-1) for part in np.meshgrid(across, across))
    y = folds(x, z)
    ends = (y + out / 0.78 + SAG, y - 0.05 - wall - SAG)
    return np.concatenate([np.stack([x, end, z], axis=-1) for end in ends])


def folds(x: np.ndarray, z: np.ndarray) -> np.ndarray:
    """How high the cloth hangs, before its relief."""
    waves = 0.16 * np.sin(2.6 * x + 0.9 * np.sin(1.7 * z)) + 0.09 * np.cos(3.3 * z - 1.1 * x)
    return waves - 0.10 * (x * x + z * z)


def ball_ring(radius: float, eye: np.ndarray) -> np.ndarray:
    """Corners around the circle in which a ball about the origin is seen; the eye itself from within it."""
    away = float(np.linalg.norm(eye))
    if away <= radius * 1.001:
        return eye[None]
    out = eye / away
    aside = np.cross(out, (1.0, 0.0, 0.0) if abs(out[0]) < 0.7 else (0.0, 1.0, 0.0))
    aside /= np.linalg.norm(aside)
    share = radius / away
    wide = radius * np.sqrt(1 - share * share) / np.cos(np.pi / RING)  # around the circle, not in it
    turns = np.arange(RING)[:, None] * (2 * np.pi / RING)
    return out * (radius * share) + wide * (np.cos(turns) * aside + np.sin(turns) * np.cross(out, aside))


def screen_triangles(
    points: np.ndarray, eye: np.ndarray, axes: np.ndarray, lens: float, wide: float
) -> np.ndarray:
    """Triangles that cover the hull of some points on the screen: (n, 2) corners in -1..1.

    Parameters
    ----------
    points : (m, 3)
    axes : (3, 3)
        The camera's right, up and forward as rows.
    wide : float
        The frame's width over its height.
    """
    seen = (points - eye) @ axes.T
    if (seen[:, 2] < 0.05).any():
        return FULL
    hull = convex_hull(seen[:, :2] / seen[:, 2:] / lens / np.array([wide, 1.0]))
    first = np.repeat(hull[:1], len(hull) - 2, axis=0)
    return np.stack([first, hull[1:-1], hull[2:]], axis=1).reshape(-1, 2)


def convex_hull(points: np.ndarray) -> np.ndarray:
    """The corners of the convex hull, in order (A. M. Andrew's monotone chain, 1979)."""
    ordered = sorted(map(tuple, points.tolist()))
    chains = []
    for run in (ordered, ordered[::-1]):
        chain: list[tuple[float, ...]] = []
        for p in run:
            while len(chain) > 1 and _turn(chain[-2], chain[-1], p) <= 0:
                chain.pop()
            chain.append(p)
        chains += chain[:-1]
    return np.array(chains)


def _turn(a: tuple[float, ...], b: tuple[float, ...], c: tuple[float, ...]) -> float:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
