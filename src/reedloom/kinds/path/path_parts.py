"""What the kinds of paths share: their output, how corners become paths, and how far along each one is."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.growth import Tree, courses_of_tree
from reedloom.kernels.points import VERTEX
from reedloom.kit import PATHS, Context, Port

PATHS_IN = Port("paths", PATHS, help="The paths to work on.")
PATHS_OUT = Port("paths", PATHS, help="The paths.")
FIXED = {"shift": "the paths stay where they are"}
WITHIN = 1 - 1e-9
"""The end of a path in a row of all, so that it is told from the beginning of the next."""


def make_paths(courses: list[tuple[np.ndarray, np.ndarray]]) -> np.ndarray:
    """Paths of even height and width through corners (u, v) in tiles; a closed one ends where it began."""
    paths = np.zeros(sum(len(u) for u, _ in courses), VERTEX)
    paths["height"] = paths["width"] = 1
    start = 0
    for number, (u, v) in enumerate(courses):
        part = paths[start : start + len(u)]
        part["path"], part["u"], part["v"] = number, u, v
        start += len(u)
    return paths


def make_even_paths(u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """Paths that all have as many corners: from (n, corners) places in tiles, of even height and width."""
    paths = np.zeros(u.size, VERTEX)
    paths["height"] = paths["width"] = 1
    paths["path"] = np.repeat(np.arange(len(u)), u.shape[1] if u.ndim == 2 else 0)
    paths["u"], paths["v"] = u.reshape(-1), v.reshape(-1)
    return paths


def grown_paths(
    context: Context,
    begin: tuple[np.ndarray, np.ndarray],
    step: np.ndarray,
    steps: int,
    heading: Callable[[int, np.ndarray, np.ndarray], np.ndarray],
) -> np.ndarray:
    """Paths that grow from places in tiles, in so many steps.

    Parameters
    ----------
    begin : (n,) each
        u and v.
    step : (n,)
        How long each step is, in widths.
    heading : callable
        From the number of the step and the places it begins at, the way it goes in radians, clockwise.
    """
    u, v = (np.empty((len(step), steps + 1)) for _ in range(2))
    u[:, 0], v[:, 0] = begin
    for k in range(steps):
        context.stop.check()
        turn = heading(k, u[:, k], v[:, k])
        way = context.in_tiles(np.stack([np.cos(turn), np.sin(turn)], axis=1) * step[:, None])
        u[:, k + 1], v[:, k + 1] = u[:, k] + way[:, 0], v[:, k] + way[:, 1]
    return make_even_paths(u, v)


def set_in(
    along: np.ndarray, start: float, end: float, rise: Callable[[np.ndarray], np.ndarray]
) -> np.ndarray:
    """A factor for corners that rises from 0 over a share of their path at its start, and falls at its end.

    along : (m,), the share of its path behind each corner
    rise : from 0 to 1 over 0 to 1
    """
    factor = np.ones(len(along))
    for share, behind in ((start, along), (end, 1 - along)):
        if share > 0:
            factor *= rise(np.clip(behind / share, 0, 1))
    return factor


def starts_of(paths: np.ndarray) -> np.ndarray:
    """Where each path begins among the corners, and where the last ends: (n + 1,) int64."""
    if not len(paths):
        return np.zeros(1, np.int64)
    begins = np.flatnonzero(np.diff(paths["path"])) + 1
    return np.concatenate([[0], begins, [len(paths)]]).astype(np.int64)


def runs_of(context: Context, paths: np.ndarray, starts: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """How far along its path each corner is, and how long each path is, in widths: (m,) and (n,)."""
    du, dv = np.diff(paths["u"], prepend=paths["u"][:1]), np.diff(paths["v"], prepend=paths["v"][:1])
    steps = np.hypot(du, dv * context.aspect)
    steps[starts[:-1]] = 0
    run = np.cumsum(steps)
    behind = run[starts[:-1]]
    lengths = run[starts[1:] - 1] - behind
    return run - np.repeat(behind, np.diff(starts)), lengths


def shares_of(context: Context, paths: np.ndarray, starts: np.ndarray) -> np.ndarray:
    """The share of its path that lies behind each corner, 0 to 1: (m,) float64."""
    run, lengths = runs_of(context, paths, starts)
    share: np.ndarray = run / np.maximum(np.repeat(lengths, np.diff(starts)), 1e-12)
    return share


def along_paths(
    context: Context, paths: np.ndarray, shares: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Places on every path at shares of its length.

    shares : (n, k), 0 to 1, or (k,) for all paths

    Returns
    -------
    u, v, width, height : (n, k) float64 each
    """
    count = len(starts_of(paths)) - 1
    at = np.broadcast_to(shares, (count, shares.shape[-1]))
    which = np.repeat(np.arange(count), at.shape[1])
    u, v, width, height = places_on_paths(context, paths, which, at.reshape(-1))
    return u.reshape(at.shape), v.reshape(at.shape), width.reshape(at.shape), height.reshape(at.shape)


def places_on_paths(
    context: Context, paths: np.ndarray, which: np.ndarray, shares: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Places on some paths, each at a share of its length: u, v, width and height, (k,) float64 each.

    which : (k,) int64, counted from the first path on
    """
    starts = starts_of(paths)
    behind = shares_of(context, paths, starts) * WITHIN + np.repeat(
        np.arange(len(starts) - 1), np.diff(starts)
    )
    at = np.clip(shares, 0, 1) * WITHIN + which

    def read(name: str) -> np.ndarray:
        return np.interp(at, behind, paths[name]) if len(paths) else np.zeros(len(at))

    return read("u"), read("v"), read("width"), read("height")


def paths_of_tree(context: Context, tree: Tree, taper: float) -> tuple[np.ndarray, np.ndarray]:
    """A tree's limbs, thinner where they bear less, the thicker the higher; and the node at each corner."""
    node, limb, weight = courses_of_tree(tree)
    size = (weight / max(1, weight.max(initial=1))) ** taper
    paths = np.zeros(len(node), VERTEX)
    paths["path"], paths["u"], paths["v"] = limb, tree.u[node], tree.v[node] / context.aspect
    paths["width"], paths["height"] = size[node], np.sqrt(size[node])
    return paths, node


def is_closed(context: Context, paths: np.ndarray, starts: np.ndarray) -> np.ndarray:
    """Whether each path ends where it began, or whole tiles from there: (n,) bool."""
    first, last = paths[starts[:-1]], paths[starts[1:] - 1]
    away = [last[name] - first[name] for name in ("u", "v")]
    apart = np.hypot(*(d - np.round(d) for d in away))
    return (apart < 1e-6) & (np.diff(starts) > 2)


def evenly_cornered(context: Context, paths: np.ndarray, spacing: float) -> np.ndarray:
    """The same paths with corners about so far apart, in widths, evenly along each."""
    starts = starts_of(paths)
    _, lengths = runs_of(context, paths, starts)
    steps = np.maximum(1, np.ceil(lengths / max(spacing, 1e-6) - 1e-6)).astype(np.int64)
    context.room_for(int(steps.sum()) + len(steps), "corners")
    counts = steps + 1
    which = np.repeat(np.arange(len(counts)), counts)
    number = np.arange(len(which)) - np.repeat(np.cumsum(counts) - counts, counts)
    even = np.zeros(len(which), paths.dtype)
    even["path"] = paths["path"][starts[:-1]][which] if len(which) else 0
    read = places_on_paths(context, paths, which, number / np.repeat(steps, counts))
    for name, values in zip(("u", "v", "width", "height"), read, strict=True):
        even[name] = values
    return even


def neighbours_of(
    context: Context, paths: np.ndarray, starts: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """The corners before and after each, and how many tiles those are moved where a closed path comes round.

    Returns
    -------
    before, after : (m,) int64
        An end of an open path is its own neighbour.
    moved_before, moved_after : (m, 2) float64
        To be added to their u and v.
    """
    index = np.arange(len(paths))
    before, after = index - 1, index + 1
    moved = np.zeros((2, len(paths), 2))
    first, last = starts[:-1], starts[1:] - 1
    before[first], after[last] = first, last
    closed = is_closed(context, paths, starts)
    first, last = first[closed], last[closed]
    before[first], after[last] = last - 1, first + 1
    turn = np.stack([paths[name][last] - paths[name][first] for name in ("u", "v")], axis=1)
    moved[0][first], moved[1][last] = -turn, turn
    return before, after, moved[0], moved[1]


def relaxed(context: Context, paths: np.ndarray, share: float, rounds: int) -> np.ndarray:
    """Paths whose corners have gone a share of the way between their neighbours so many times; ends stay."""
    starts = starts_of(paths)
    if len(paths) == 0 or rounds == 0 or share == 0:
        return paths
    before, after, moved_before, moved_after = neighbours_of(context, paths, starts)
    at = np.stack([paths["u"], paths["v"]], axis=1)
    held = (before == np.arange(len(paths))) | (after == np.arange(len(paths)))
    for _ in range(rounds):
        context.stop.check()
        between = 0.5 * (at[before] + moved_before + at[after] + moved_after)
        at = np.where(held[:, None], at, at + share * (between - at))
    smooth = paths.copy()
    smooth["u"], smooth["v"] = at[:, 0], at[:, 1]
    return smooth


def normals_of(context: Context, paths: np.ndarray) -> np.ndarray:
    """The way to the right of each corner's path, in widths, of length 1: (m, 2) float64."""
    starts = starts_of(paths)
    before, after, moved_before, moved_after = neighbours_of(context, paths, starts)
    at = np.stack([paths["u"], paths["v"]], axis=1)
    along = (at[after] + moved_after - at[before] - moved_before) * [1, context.aspect]
    length = np.maximum(np.hypot(along[:, 0], along[:, 1]), 1e-12)
    return np.stack([-along[:, 1] / length, along[:, 0] / length], axis=1)
