"""What the kinds of paths share: their output, how corners become paths, and how far along each one is."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any

import numpy as np

from reedloom.kernels.growth import Tree, courses_of_tree
from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.path_loops import divide_each, fill_normals, lay_evenly, run_along
from reedloom.kernels.points import VERTEX, members_of, neighbours_of, read_at, starts_of, wrapped
from reedloom.kit import PATHS, Choice, Context, Float, Port

PATHS_IN = Port("paths", PATHS, help="The paths to work on.")
PATHS_OUT = Port("paths", PATHS, help="The paths.")
FIXED = {"shift": "the paths stay where they are"}
SIZES = (
    Float("width", 1.0, (0, 2), (0, 64), help="How wide the paths are drawn, as a factor."),
    Float("height", 1.0, (0, 1), (-64, 64), help="How high the paths are drawn."),
)
READ = Choice(
    "read",
    "in place",
    ("in place", "along"),
    help="Where a map is read: at each place; or from left to right along each path, on a row by chance.",
)
NEAR = 1e-3
"""Over which share of a path its direction is taken."""
WITHIN = 1 - 1e-9
"""The end of a path in a row of all, so that it is told from the beginning of the next."""


def make_paths(courses: list[tuple[np.ndarray, np.ndarray]]) -> np.ndarray:
    """Paths of even height and width through corners (u, v) in tiles; a closed one ends where it began."""
    paths = np.zeros(sum(len(u) for u, _ in courses), VERTEX)
    paths["height"] = paths["width"] = 1
    start = 0
    for number, (u, v) in enumerate(courses):
        part = paths[start : start + len(u)]
        part["path"], part["id"], part["u"], part["v"] = number, number, u, v
        start += len(u)
    return paths


def make_even_paths(u: np.ndarray, v: np.ndarray, ids: np.ndarray) -> np.ndarray:
    """Paths that all have as many corners: from (n, corners) places in tiles; each keeps its number."""
    paths = np.zeros(u.size, VERTEX)
    paths["height"] = paths["width"] = 1
    paths["path"] = np.repeat(np.arange(len(u)), u.shape[1])
    paths["id"] = np.repeat(ids, u.shape[1])
    paths["u"], paths["v"] = u.reshape(-1), v.reshape(-1)
    return paths


def sized(paths: np.ndarray, values: Mapping[str, Any]) -> np.ndarray:
    """Paths as wide and as high as the values of SIZES say."""
    paths["width"], paths["height"] = values["width"], values["height"]
    return paths


def grown_paths(
    context: Context,
    begin: tuple[np.ndarray, np.ndarray],
    step: np.ndarray,
    steps: int,
    ids: np.ndarray,
    heading: Callable[[int, np.ndarray, np.ndarray], np.ndarray],
) -> np.ndarray:
    """Paths that grow from places in tiles, in so many steps.

    Parameters
    ----------
    begin : (n,) each
        u and v.
    step : (n,)
        How long each step is, in widths.
    ids : (n,) int64
        The paths' own numbers.
    heading : callable
        From the number of the step and the places it begins at, the way it goes in radians, clockwise.
    """
    u, v = (np.empty((steps + 1, len(step))) for _ in range(2))
    u[0], v[0] = begin
    across, down = context.in_tiles(np.ones(2))
    for k in range(steps):
        context.stop.check()
        turn = heading(k, u[k], v[k])
        u[k + 1] = u[k] + np.cos(turn) * step * across
        v[k + 1] = v[k] + np.sin(turn) * step * down
    return make_even_paths(u.T, v.T, ids)


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


def runs_of(context: Context, paths: np.ndarray, starts: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """How far along its path each corner is, and how long each path is, in widths: (m,) and (n,)."""
    run, lengths = np.empty(len(paths)), np.empty(len(starts) - 1)
    run_along(paths, starts, float(context.aspect), run, lengths)
    return run, lengths


def shares_of(context: Context, paths: np.ndarray, starts: np.ndarray) -> np.ndarray:
    """The share of its path that lies behind each corner, 0 to 1: (m,) float64."""
    return shares_and_lengths(context, paths, starts)[0]


def shares_and_lengths(
    context: Context, paths: np.ndarray, starts: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """`shares_of`, and how long each path is, in widths: (n,) float64."""
    run, lengths = runs_of(context, paths, starts)
    divide_each(run, starts, lengths)
    return run, lengths


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
    context: Context,
    paths: np.ndarray,
    which: np.ndarray,
    shares: np.ndarray,
    told: Iterable[str] = ("u", "v", "width", "height"),
) -> tuple[np.ndarray, ...]:
    """Places on some paths, each at a share of its length: what is to be told of them, (k,) float64 each.

    which : (k,) int64, counted from the first path on
    """
    starts = starts_of(paths)
    behind = shares_of(context, paths, starts) * WITHIN + np.repeat(
        np.arange(len(starts) - 1), np.diff(starts)
    )
    at = np.clip(shares, 0, 1) * WITHIN + which

    def read(name: str) -> np.ndarray:
        return np.interp(at, behind, paths[name]) if len(paths) else np.zeros(len(at))

    return tuple(read(name) for name in told)


def read_on(map: np.ndarray, paths: np.ndarray) -> np.ndarray:
    """A map's value at each corner: (m,) or (m, channels)."""
    return read_at(map, wrapped(paths["u"]), wrapped(paths["v"]))


def ended_below(paths: np.ndarray, value: np.ndarray, level: float) -> np.ndarray:
    """Paths as far as a value at their corners, (m,), stays above a level."""
    return ended(paths, *first_ends(paths, value, level))


def first_ends(paths: np.ndarray, value: np.ndarray, level: float) -> tuple[np.ndarray, np.ndarray]:
    """The pieces, and the share of the next one, over which a value at the corners stays above a level."""
    starts = starts_of(paths)
    _, corner = members_of(np.diff(starts))
    low = np.where(value > level, len(paths), corner)
    first = np.minimum.reduceat(low, starts[:-1]) if len(paths) else np.zeros(0, np.int64)
    last = np.diff(starts) - 1
    at = starts[:-1] + np.clip(first, 1, last)
    before, after = value[at - 1], value[at]
    share = np.clip((before - level) / np.maximum(before - after, 1e-12), 0, 1)
    whole = first > last
    return np.where(whole, last, np.maximum(first - 1, 0)), np.where(whole | (first == 0), 0.0, share)


def ended(paths: np.ndarray, piece: np.ndarray, share: np.ndarray) -> np.ndarray:
    """Paths cut off after so many pieces of each and a share of the next; one left with nothing is gone.

    piece, share : (n,)
    """
    counts = np.diff(starts_of(paths))
    _, corner = members_of(counts)
    ends = corner == np.repeat(piece + 1, counts)
    cut = paths.copy()
    at = np.flatnonzero(ends)
    part = np.repeat(share, counts)[at]
    for name in ("u", "v", "width", "height"):
        cut[name][at] = paths[name][at - 1] + part * (paths[name][at] - paths[name][at - 1])
    stays = (corner <= np.repeat(piece, counts)) | (ends & (np.repeat(share, counts) > 0))
    return cut[stays & np.repeat(piece + share > 0, counts)]


def ways_on_paths(context: Context, paths: np.ndarray, which: np.ndarray, shares: np.ndarray) -> np.ndarray:
    """The way each path goes at a share of its length, in radians clockwise, on the tile: (k,) float64.

    which : (k,) int64, counted from the first path on
    """
    both = np.concatenate([np.minimum(shares + NEAR, 1), np.maximum(shares - NEAR, 0)])
    places = places_on_paths(context, paths, np.concatenate([which, which]), both, ("u", "v"))
    across, down = (ahead - behind for ahead, behind in (np.split(place, 2) for place in places))
    turned: np.ndarray = np.arctan2(down * context.aspect, across)
    return turned


def paths_of_tree(context: Context, tree: Tree, taper: float) -> tuple[np.ndarray, np.ndarray]:
    """A tree's limbs, thinner where they bear less, the thicker the higher; and the node at each corner."""
    node, limb, weight = courses_of_tree(tree)
    size = (weight / max(1, weight.max(initial=1))) ** taper
    paths = np.zeros(len(node), VERTEX)
    paths["path"] = paths["id"] = limb
    paths["u"], paths["v"] = tree.u[node], tree.v[node] / context.aspect
    paths["width"], paths["height"] = size[node], np.sqrt(size[node])
    return paths, node


def evenly_cornered(context: Context, paths: np.ndarray, spacing: float) -> np.ndarray:
    """The same paths with corners about so far apart, in widths, evenly along each."""
    starts = starts_of(paths)
    run, lengths = runs_of(context, paths, starts)
    steps = np.maximum(1, np.ceil(lengths / max(spacing, 1e-6) - 1e-6)).astype(np.int64)
    count = int((steps + 1).sum())
    context.room_for(count, "corners")
    even = np.empty(count, paths.dtype)
    lay_evenly(paths, starts, run, np.cumsum(steps + 1), even)
    return even


def relaxed(context: Context, paths: np.ndarray, share: float, rounds: int) -> np.ndarray:
    """Paths whose corners have gone a share of the way between their neighbours so many times; ends stay."""
    starts = starts_of(paths)
    if len(paths) == 0 or rounds == 0 or share == 0:
        return paths
    (before, after), (moved_before, moved_after) = neighbours_of(paths, starts)
    at = np.stack([paths["u"], paths["v"]], axis=1)
    held = (before == np.arange(len(paths))) | (after == np.arange(len(paths)))
    for _ in range(rounds):
        context.stop.check()
        between = 0.5 * (at[before] + moved_before + at[after] + moved_after)
        at = np.where(held[:, None], at, at + share * (between - at))
    smooth = paths.copy()
    smooth["u"], smooth["v"] = at[:, 0], at[:, 1]
    return smooth


def reading_places(
    paths: np.ndarray, share: np.ndarray, read: str, apart: float, seed: int
) -> tuple[np.ndarray, np.ndarray]:
    """Where maps are read for each corner, in 0..1: (m,) each.

    share : (m,), the share of its path behind each corner
    read : one of READ's words
    apart : how far from its place each path reads, by chance, in tiles
    """
    away = [apart * unit_chances(seed, paths["id"], stream) for stream in (8, 9)]
    if read == "along":
        return wrapped(share + away[0]), wrapped(unit_chances(seed, paths["id"], 10).astype(np.float64))
    return wrapped(paths["u"] + away[0]), wrapped(paths["v"] + away[1])


def normals_of(context: Context, paths: np.ndarray) -> np.ndarray:
    """The way to the right of each corner's path, in widths, of length 1: (m, 2) float64."""
    starts = starts_of(paths)
    normals = np.empty((len(paths), 2))
    fill_normals(paths, *neighbours_of(paths, starts), float(context.aspect), normals)
    return normals
