"""The part of the screen an object can cover, so that nothing is computed beside it."""

from __future__ import annotations

import numpy as np

EXTENTS = {
    "sheet": ((-1.0, -0.1, -1.0), (1.0, 0.0, 1.0)),
    "cube": ((-0.78, -0.78, -0.78), (0.78, 0.78, 0.78)),
    "cylinder": ((-0.70, -0.90, -0.70), (0.70, 0.90, 0.70)),
    "cloth": ((-1.05, -0.62, -1.05), (1.05, 0.27, 1.05)),
}
"""Least and greatest corner of each object but the ball, before its relief."""
FULL = np.array([[-1, -1], [3, -1], [-1, 3]], np.float64)


RING = 32
"""Corners around a ball."""


def object_points(name: str, crust: float, eye: np.ndarray) -> np.ndarray:
    """Points whose hull, seen from `eye`, covers an object with its relief of height `crust`: (n, 3)."""
    if name == "ball":
        return ball_ring(1 + crust + 1e-3, eye)
    low, high = np.array(EXTENTS[name])
    corners = np.array([[(low, high)[i][0], (low, high)[j][1], (low, high)[k][2]]
                        for i in (0, 1) for j in (0, 1) for k in (0, 1)])  # fmt: skip
    middle = (low + high) / 2
    return corners + np.sign(corners - middle) * (crust + 0.03)


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
    name: str, crust: float, eye: np.ndarray, axes: np.ndarray, lens: float, wide: float
) -> np.ndarray:
    """Triangles that cover an object on the screen: (n, 2) corners in -1..1.

    Parameters
    ----------
    axes : (3, 3)
        The camera's right, up and forward as rows.
    wide : float
        The frame's width over its height.
    """
    seen = (object_points(name, crust, eye) - eye) @ axes.T
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
