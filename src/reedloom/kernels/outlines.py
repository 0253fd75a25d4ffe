"""Exact signed distance to closed outlines of straight pieces, however many, fast away from them.

Blocks of samples share the pieces that can be nearest to any of them, so that most samples look at
a few pieces only; which side a sample lies on is counted by crossings, per block where no piece is near.
Each piece is compared with all samples of a block in a loop that runs in vectors.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel

BLOCK = 16
"""Samples along each side of a block."""


class Pieces(NamedTuple):
    """The straight pieces of an outline: (m,) float32 each.

    Attributes
    ----------
    u, v : float32
        Where each begins.
    across, down : float32
        From there to its end.
    scale : float32
        One over its length squared.
    lean : float32
        How far it goes across for each step down.
    """

    u: np.ndarray
    v: np.ndarray
    across: np.ndarray
    down: np.ndarray
    scale: np.ndarray
    lean: np.ndarray

    @classmethod
    def of(cls, outline: np.ndarray) -> Pieces:
        """Those of a closed outline, from its corners (m, 2)."""
        start = outline.astype(np.float32)
        way = np.roll(start, -1, axis=0) - start
        scale = 1 / np.maximum((way.astype(np.float64) ** 2).sum(axis=1), 1e-20)
        lean = way[:, 0] / np.where(way[:, 1] == 0, np.float32(1), way[:, 1])
        return cls(*(np.ascontiguousarray(a, np.float32) for a in (*start.T, *way.T, scale, lean)))


@inlined
def _to_piece(pu, pv, across, down, scale):  # type: ignore[no-untyped-def]
    """Squared distance to a straight piece from a place beside its beginning."""
    t = (pu * across + pv * down) * scale
    t = t if t > np.float32(0.0) else np.float32(0.0)
    t = t if t < np.float32(1.0) else np.float32(1.0)
    du, dv = pu - across * t, pv - down * t
    return du * du + dv * dv


@kernel
def _to_all(pieces, u, v, found):  # type: ignore[no-untyped-def]
    """Squared distances from one place to all pieces, and the least of them."""
    for k in range(found.shape[0]):
        found[k] = _to_piece(
            u - pieces.u[k], v - pieces.v[k], pieces.across[k], pieces.down[k], pieces.scale[k]
        )
    bits = found.view(np.int32)  # which order as the numbers do, and are compared in vectors
    least = bits[0]
    for k in range(bits.shape[0]):
        least = min(least, bits[k])
    return np.array([least]).view(np.float32)[0]


@inlined
def _crosses(u, v, start_u, start_v, down, lean):  # type: ignore[no-untyped-def]
    """1 if a ray from a place to the right crosses a piece, else 0."""
    above = (start_v > v) != (start_v + down > v)
    return np.int32(1) if above and u < lean * (v - start_v) + start_u else np.int32(0)


@kernel
def _is_inside(pieces, u, v):  # type: ignore[no-untyped-def]
    """1 if a ray from the place crosses the outline an odd number of times, else 0."""
    crossed = np.int32(0)
    for k in range(pieces.u.shape[0]):
        crossed += _crosses(u, v, pieces.u[k], pieces.v[k], pieces.down[k], pieces.lean[k])
    return crossed & np.int32(1)


class Block(NamedTuple):
    """Some samples that lie together: (n,) each.

    Attributes
    ----------
    u, v : float32
        Their places, from the middle of the outline's copy that is looked at.
    best : float32
        Squared distances.
    crossed : int32
        How often a ray from each crosses the outline.
    """

    u: np.ndarray
    v: np.ndarray
    best: np.ndarray
    crossed: np.ndarray


@kernel
def outline_rows(pieces, copies, radius, u, v, out):  # type: ignore[no-untyped-def]
    """Signed distance of places to the nearest of some copies of an outline, negative inside.

    Parameters
    ----------
    pieces : Pieces
    copies : (c, 2) float32
        Where each copy's middle lies.
    radius : float32
        Of a circle around the middle that holds the outline.
    u, v : (n, W) float32
        Places, in the outline's measure.
    out : (n, W) float32
        Filled.
    """
    m = pieces.u.shape[0]
    found = np.empty(m, np.float32)
    rough = np.empty(copies.shape[0], np.float32)
    size = BLOCK * BLOCK
    whole = Block(
        np.empty(size, np.float32), np.empty(size, np.float32), np.empty(size, np.float32),
        np.empty(size, np.int32),
    )  # fmt: skip
    two = np.float32(2.0)
    for y0 in range(0, out.shape[0], BLOCK):
        y1 = min(y0 + BLOCK, out.shape[0])
        for x0 in range(0, out.shape[1], BLOCK):
            x1 = min(x0 + BLOCK, out.shape[1])
            cu, cv = u[(y0 + y1) // 2, (x0 + x1) // 2], v[(y0 + y1) // 2, (x0 + x1) // 2]
            reach = np.float32(0.0)
            for y in range(y0, y1):
                for x in range(x0, x1):
                    du, dv = u[y, x] - cu, v[y, x] - cv
                    reach = max(reach, du * du + dv * dv)
                    out[y, x] = np.float32(1e9)
            reach = np.float32(math.sqrt(reach))
            least, held = np.float32(1e30), -1
            for c in range(copies.shape[0]):
                pu, pv = cu - copies[c, 0], cv - copies[c, 1]
                rough[c] = np.float32(1e30)
                if np.float32(math.sqrt(pu * pu + pv * pv)) - radius <= least + two * reach:
                    rough[c] = np.float32(math.sqrt(_to_all(pieces, pu, pv, found)))
                    least, held = min(least, rough[c]), c
            n = (y1 - y0) * (x1 - x0)
            block = Block(whole.u[:n], whole.v[:n], whole.best[:n], whole.crossed[:n])
            for c in range(copies.shape[0]):
                if rough[c] == np.float32(1e30):
                    continue
                pu, pv = cu - copies[c, 0], cv - copies[c, 1]
                if rough[c] > least + two * reach and _is_inside(pieces, pu, pv) == 0:
                    continue
                k = 0
                for y in range(y0, y1):
                    for x in range(x0, x1):
                        block.u[k], block.v[k] = u[y, x] - copies[c, 0], v[y, x] - copies[c, 1]
                        k += 1
                if held != c:
                    _to_all(pieces, pu, pv, found)
                    held = c
                _measure_block(pieces, (pu, pv), rough[c], reach, found, block)
                k = 0
                for y in range(y0, y1):
                    for x in range(x0, x1):
                        d = np.float32(math.sqrt(block.best[k]))
                        d = -d if block.crossed[k] & 1 else d
                        out[y, x] = min(out[y, x], d)
                        k += 1


@kernel
def _measure_block(pieces, middle, rough, reach, found, block):  # type: ignore[no-untyped-def]
    """Squared distances of a block, and how often rays from its samples cross the outline.

    rough : distance of the block's middle; reach : from there to its farthest sample; found : squared
    distances from the middle to all pieces.
    """
    n = block.u.shape[0]
    block.best[:] = np.float32(1e30)
    limit = (rough + np.float32(2.0) * reach) * (rough + np.float32(2.0) * reach) * np.float32(1.0001)
    for k in range(found.shape[0]):
        if found[k] <= limit:
            piece = (pieces.u[k], pieces.v[k], pieces.across[k], pieces.down[k], pieces.scale[k])
            _nearer_piece(piece, block.u, block.v, block.best)
    if rough > reach:
        block.crossed[:] = _is_inside(pieces, middle[0], middle[1])
        return
    block.crossed[:] = 0
    low, high = middle[1] - np.float32(1.0001) * reach, middle[1] + np.float32(1.0001) * reach
    for k in range(found.shape[0]):
        start, down, lean = pieces.v[k], pieces.down[k], pieces.lean[k]
        if max(start, start + down) < low or min(start, start + down) > high:
            continue
        for x in range(n):
            block.crossed[x] += _crosses(block.u[x], block.v[x], pieces.u[k], start, down, lean)


@kernel
def _nearer_piece(piece, u, v, best):  # type: ignore[no-untyped-def]
    """The lower of squared distances and those to one piece."""
    start_u, start_v, across, down, scale = piece
    for x in range(best.shape[0]):
        d = _to_piece(u[x] - start_u, v[x] - start_v, across, down, scale)
        best[x] = d if d < best[x] else best[x]


ALONE = np.zeros((1, 2))


def outline_distance(
    outline: np.ndarray, u: np.ndarray, v: np.ndarray, copies: np.ndarray = ALONE
) -> np.ndarray:
    """Signed distance of places to the nearest copy of a closed outline; see `outline_rows`.

    Parameters
    ----------
    outline : (m, 2) float64
        Its corners.
    u, v : (n, W) float32
        Places, in the outline's measure.
    copies : (c, 2) float64
        Where each copy's middle lies.

    Returns
    -------
    (n, W) float32, negative inside
    """
    out = np.empty(u.shape, np.float32)
    radius = np.float32(np.hypot(outline[:, 0], outline[:, 1]).max())
    where = (np.ascontiguousarray(u), np.ascontiguousarray(v))
    outline_rows(Pieces.of(outline), copies.astype(np.float32), radius, *where, out)
    return out


def deepest(outline: np.ndarray) -> float:
    """How far the innermost place of an outline is from its edge, to about a hundredth of its size."""
    low, high = outline.min(axis=0), outline.max(axis=0)
    u, v = np.meshgrid(np.linspace(low[0], high[0], 64), np.linspace(low[1], high[1], 64))
    return float(max(-outline_distance(outline, u.astype(np.float32), v.astype(np.float32)).min(), 1e-6))
