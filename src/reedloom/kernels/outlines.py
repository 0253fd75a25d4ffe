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
from reedloom.kernels.reach import ends_of

BLOCK = 16
"""Samples along each side of a block."""


class Pieces(NamedTuple):
    """The straight pieces of an outline: (m,) float32 each but for the last.

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
    radius : float32
        Of a circle around the middle that holds them all.
    """

    u: np.ndarray
    v: np.ndarray
    across: np.ndarray
    down: np.ndarray
    scale: np.ndarray
    lean: np.ndarray
    radius: np.float32

    @classmethod
    def of(cls, outline: np.ndarray) -> Pieces:
        """Those of a closed outline, from its corners (m, 2)."""
        start = outline.astype(np.float32)
        way = np.roll(start, -1, axis=0) - start
        per_square = 1 / np.maximum((way.astype(np.float64) ** 2).sum(axis=1), 1e-20)
        slant = way[:, 0] / np.where(way[:, 1] == 0, np.float32(1), way[:, 1])
        told = np.stack([*start.T, *way.T, per_square, slant]).astype(np.float32)
        u, v, across, down, scale, lean = told
        radius = np.float32(np.hypot(outline[:, 0], outline[:, 1]).max())
        return cls(u, v, across, down, scale, lean, radius)


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
    return ends_of(found.view(np.int32))[0]


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
        Their places.
    beside_u, beside_v : float32
        The same from the middle of the outline's copy that is looked at.
    best : float32
        Squared distances to that copy.
    crossed : int32
        How often a ray from each crosses it.
    nearest : float32
        Signed distances to the nearest copy of those looked at so far.
    """

    u: np.ndarray
    v: np.ndarray
    beside_u: np.ndarray
    beside_v: np.ndarray
    best: np.ndarray
    crossed: np.ndarray
    nearest: np.ndarray


@inlined
def _lay_block(u, v, corner, block):  # type: ignore[no-untyped-def]
    """Lay the places of a block's rows in lines, and how far they reach from that in its middle, at most."""
    y0, y1, x0, x1 = corner
    cu, cv = u[(y0 + y1) // 2, (x0 + x1) // 2], v[(y0 + y1) // 2, (x0 + x1) // 2]
    wide, left = np.uint64(x1 - x0), np.uint64(x0)
    for y in range(y0, y1):
        first = np.uint64(y - y0) * wide
        for x in range(wide):
            block.u[first + x], block.v[first + x] = u[y, left + x], v[y, left + x]
    for k in range(block.u.shape[0]):
        du, dv = block.u[k] - cu, block.v[k] - cv
        block.best[k] = du * du + dv * dv
    return cu, cv, np.float32(math.sqrt(ends_of(block.best.view(np.int32))[1]))


@kernel
def outline_rows(pieces, copies, far, u, v, out):  # type: ignore[no-untyped-def]
    """Signed distance of places to the nearest of some copies of an outline, negative inside.

    Parameters
    ----------
    pieces : Pieces
    copies : (c, 2) float32
        Where each copy's middle lies.
    far : float32
        What is farther outside is told to be so far.
    u, v : (n, W) float32
        Places, in the outline's measure.
    out : (n, W) float32
        Filled.
    """
    found, wanted = np.empty(pieces.u.shape[0], np.float32), np.empty(pieces.u.shape[0], np.int32)
    rough = np.empty(copies.shape[0], np.float32)
    lines, counts = np.empty((6, BLOCK * BLOCK), np.float32), np.empty(BLOCK * BLOCK, np.int32)
    never, two = np.float32(1e30), np.float32(2.0)
    for y0 in range(0, out.shape[0], BLOCK):
        y1 = min(y0 + BLOCK, out.shape[0])
        for x0 in range(0, out.shape[1], BLOCK):
            x1 = min(x0 + BLOCK, out.shape[1])
            n = (y1 - y0) * (x1 - x0)
            block = Block(
                lines[0, :n], lines[1, :n], lines[2, :n], lines[3, :n], lines[4, :n], counts[:n], lines[5, :n]
            )
            cu, cv, reach = _lay_block(u, v, (y0, y1, x0, x1), block)
            block.nearest[:] = far
            least, held, enough = never, -1, far + reach
            for c in range(copies.shape[0]):
                pu, pv = cu - copies[c, 0], cv - copies[c, 1]
                rough[c] = never
                if np.float32(math.sqrt(pu * pu + pv * pv)) - pieces.radius <= min(
                    least + two * reach, enough
                ):
                    rough[c] = np.float32(math.sqrt(_to_all(pieces, pu, pv, found)))
                    least, held = min(least, rough[c]), c
            for c in range(copies.shape[0]):
                if rough[c] == never:
                    continue
                middle = (cu - copies[c, 0], cv - copies[c, 1])
                if rough[c] > min(least + two * reach, enough) and _is_inside(pieces, *middle) == 0:
                    continue
                if held != c:
                    _to_all(pieces, *middle, found)
                    held = c
                for k in range(n):
                    block.beside_u[k] = block.u[k] - copies[c, 0]
                    block.beside_v[k] = block.v[k] - copies[c, 1]
                _measure_block(pieces, middle, rough[c], reach, found, wanted, block)
                for k in range(n):
                    d = np.float32(math.sqrt(block.best[k]))
                    d = -d if block.crossed[k] & 1 else d
                    block.nearest[k] = d if d < block.nearest[k] else block.nearest[k]
            wide, left = np.uint64(x1 - x0), np.uint64(x0)
            for y in range(y0, y1):
                first = np.uint64(y - y0) * wide
                for x in range(wide):
                    out[y, left + x] = block.nearest[first + x]


@inlined
def _nearest_on(pieces, middle, found):  # type: ignore[no-untyped-def]
    """Where the outline is nearest to a place whose squared distances to all pieces were found."""
    least, k = ends_of(found.view(np.int32))[0], 0
    while found[k] > least:
        k += 1
    across, down = pieces.across[k], pieces.down[k]
    t = ((middle[0] - pieces.u[k]) * across + (middle[1] - pieces.v[k]) * down) * pieces.scale[k]
    t = min(max(t, np.float32(0.0)), np.float32(1.0))
    return pieces.u[k] + across * t, pieces.v[k] + down * t


@kernel
def _find_wanted(pieces, middle, rough, reach, found, wanted):  # type: ignore[no-untyped-def]
    """Tell the pieces, 1 of (m,) int32, that may be the nearest to a sample of a block; see `_measure_block`.

    A sample is nearer to a place on a piece than to the place that is nearest to the block's middle only
    beyond the line halfway between the two. From a wall far away few pieces are left.
    """
    broad = np.float32(2.0002) * reach
    limit, least = (rough + broad) * (rough + broad), rough * rough
    near_u, near_v = _nearest_on(pieces, middle, found)
    for k in range(wanted.shape[0]):
        u, v = pieces.u[k] - near_u, pieces.v[k] - near_v
        end_u, end_v = u + pieces.across[k], v + pieces.down[k]
        apart = max(u * u + v * v, end_u * end_u + end_v * end_v)
        more = max(found[k] * np.float32(1 - 1e-6) - least, np.float32(0.0))
        beyond = more * more > broad * broad * apart
        wanted[k] = np.int32(0) if beyond or found[k] > limit else np.int32(1)


@kernel
def _measure_block(pieces, middle, rough, reach, found, wanted, block):  # type: ignore[no-untyped-def]
    """Squared distances of a block, and how often rays from its samples cross the outline.

    rough : distance of the block's middle; reach : from there to its farthest sample; found : squared
    distances from the middle to all pieces; wanted : (m,) int32, changed.
    """
    n = block.best.shape[0]
    block.best[:] = np.float32(1e30)
    _find_wanted(pieces, middle, rough, reach, found, wanted)
    for k in range(wanted.shape[0]):
        if wanted[k]:
            piece = (pieces.u[k], pieces.v[k], pieces.across[k], pieces.down[k], pieces.scale[k])
            _nearer_piece(piece, block.beside_u, block.beside_v, block.best)
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
            block.crossed[x] += _crosses(block.beside_u[x], block.beside_v[x], pieces.u[k], start, down, lean)


@kernel
def _nearer_piece(piece, u, v, best):  # type: ignore[no-untyped-def]
    """The lower of squared distances and those to one piece."""
    start_u, start_v, across, down, scale = piece
    for x in range(best.shape[0]):
        d = _to_piece(u[x] - start_u, v[x] - start_v, across, down, scale)
        best[x] = d if d < best[x] else best[x]


ALONE = np.zeros((1, 2), np.float32)
ANY = 1e9
"""Farther than any place is from an outline."""


def outline_distance(
    pieces: Pieces, u: np.ndarray, v: np.ndarray, copies: np.ndarray = ALONE, far: float = ANY
) -> np.ndarray:
    """Signed distance of places to the nearest copy of a closed outline; see `outline_rows`.

    Parameters
    ----------
    pieces : Pieces
    u, v : (n, W) float32
        Places, in the outline's measure.
    copies : (c, 2) float32
        Where each copy's middle lies.
    far : float
        What is farther outside is told to be so far, which takes less time.

    Returns
    -------
    (n, W) float32, negative inside
    """
    out = np.empty(u.shape, np.float32)
    where = np.ascontiguousarray(u), np.ascontiguousarray(v)
    outline_rows(pieces, copies, np.float32(far), *where, out)
    return out


def deepest(outline: np.ndarray) -> float:
    """How far the innermost place of an outline is from its edge, to about a hundredth of its size."""
    low, high = outline.min(axis=0), outline.max(axis=0)
    u, v = np.meshgrid(np.linspace(low[0], high[0], 64), np.linspace(low[1], high[1], 64))
    there = outline_distance(Pieces.of(outline), u.astype(np.float32), v.astype(np.float32))
    return float(max(-there.min(), 1e-6))
