"""Points and paths as arrays: what they hold, and how they are counted off."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.reading import sample_rows

POINT = np.dtype(
    [
        ("u", np.float64),
        ("v", np.float64),
        ("turn", np.float32),
        ("size", np.float32),
        ("stretch", np.float32),
        ("tone", np.float32),
        ("level", np.float32),
        ("id", np.int64),
        ("row", np.int32),
        ("column", np.int32),
    ]
)
"""One point: its place on the tile (0..1); degrees clockwise; size and length over width as factors; a
tone 0..1; the level that orders stamps; a number that stays its own, from which its chances are hashed;
and its row and column where it was laid in a grid."""

VERTEX = np.dtype(
    [
        ("path", np.int32),
        ("id", np.int64),
        ("u", np.float64),
        ("v", np.float64),
        ("height", np.float32),
        ("width", np.float32),
    ]
)
"""One corner of a path: the path's number in order; a number that stays its own when other paths come or
go, from which its chances are hashed; its place in tiles (beyond 0..1 where a path leaves the tile;
neighbours on one path are joined straight), and height and width there as factors. A closed path ends
where it began, or a whole tile away."""


def make_points(u: np.ndarray, v: np.ndarray, ids: np.ndarray | None = None) -> np.ndarray:
    """Plain points at places in tiles, wrapped onto the tile; numbered in order unless `ids` are given.

    Parameters
    ----------
    u, v : (N,) float64
        In tiles.
    ids : (N,) int64, optional

    Returns
    -------
    (N,) of `POINT`
    """
    points = np.zeros(len(u), POINT)
    points["u"], points["v"] = wrapped(u), wrapped(v)
    points["size"] = points["stretch"] = points["tone"] = 1
    points["id"] = np.arange(len(u)) if ids is None else ids
    return points


def wrapped(places: np.ndarray) -> np.ndarray:
    """Places brought into 0 <= x < 1."""
    within = np.asarray(places, np.float64) % 1
    return np.where(within >= 1, 0.0, within)


def read_at(map: np.ndarray, u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """A map's value at each place, mixed from the four samples around it, wrapped: (N,) or (N, channels).

    Parameters
    ----------
    map : (H, W) or (H, W, channels) float32
    u, v : (N,) float64
        In tiles.

    Returns
    -------
    (N,) or (N, channels) float32
    """
    source = map if map.ndim == 3 else map[..., None]
    place = np.stack([u, v], axis=-1).astype(np.float32)[None]
    out = np.empty((1, len(u), source.shape[2]), np.float32)
    sample_rows(source, place, out, False, 0, 1)
    return out[0] if map.ndim == 3 else out[0, :, 0]


def starts_of(paths: np.ndarray) -> np.ndarray:
    """Where each path begins among the corners, and where the last ends: (n + 1,) int64."""
    if not len(paths):
        return np.zeros(1, np.int64)
    number = paths["path"]
    begins = np.flatnonzero(number[1:] != number[:-1]) + 1
    return np.concatenate([[0], begins, [len(paths)]]).astype(np.int64)


def members_of(counts: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Of groups with so many members each, laid one after the other: each one's group, and its number in it.

    counts : (n,) int64, 0 or more
    """
    group = np.repeat(np.arange(len(counts)), counts)
    return group, np.arange(len(group)) - np.repeat(np.cumsum(counts) - counts, counts)


def is_closed(paths: np.ndarray, starts: np.ndarray) -> np.ndarray:
    """Whether each path ends where it began, or whole tiles from there: (n,) bool."""
    first, last = starts[:-1], starts[1:] - 1
    away = [paths[name][last] - paths[name][first] for name in ("u", "v")]
    apart = np.hypot(*(d - np.round(d) for d in away))
    return (apart < 1e-6) & (np.diff(starts) > 2)


def neighbours_of(paths: np.ndarray, starts: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The corners before and after each, and how many tiles those are moved where a closed path comes round.

    Returns
    -------
    neighbours : (2, m) int64
        Before and after; an end of an open path is its own neighbour.
    moved : (2, m, 2) float64
        To be added to their u and v.
    """
    neighbours = np.add.outer([-1, 1], np.arange(len(paths)))
    before, after = neighbours
    moved = np.zeros((2, len(paths), 2))
    first, last = starts[:-1], starts[1:] - 1
    before[first], after[last] = first, last
    closed = is_closed(paths, starts)
    first, last = first[closed], last[closed]
    before[first], after[last] = last - 1, first + 1
    turn = np.stack([paths[name][last] - paths[name][first] for name in ("u", "v")], axis=1)
    moved[0][first], moved[1][last] = -turn, turn
    return neighbours, moved
