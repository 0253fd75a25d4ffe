"""Exact signed distance to closed outlines of straight pieces, however many, fast away from them.

Blocks of samples share the pieces that can be nearest to any of them, so that most samples look at
a few pieces only; which side a sample lies on is counted by crossings, per block where no piece is near.
"""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import inlined, kernel

BLOCK = 16


@inlined
def _to_piece(u, v, outline, k):  # type: ignore[no-untyped-def]
    """Squared distance from a place to the straight piece that begins at corner k."""
    n = k + 1 if k + 1 < outline.shape[0] else 0
    au = outline[k, 0]
    av = outline[k, 1]
    eu = outline[n, 0] - au
    ev = outline[n, 1] - av
    pu = u - au
    pv = v - av
    t = (pu * eu + pv * ev) / max(eu * eu + ev * ev, 1e-20)
    t = min(max(t, 0.0), 1.0)
    du = pu - eu * t
    dv = pv - ev * t
    return du * du + dv * dv


@inlined
def _is_inside(u, v, outline):  # type: ignore[no-untyped-def]
    """Whether a ray from the place crosses the outline an odd number of times."""
    inside = False
    n = outline.shape[0]
    for k in range(n):
        following = k + 1 if k + 1 < n else 0
        au = outline[k, 0]
        av = outline[k, 1]
        bu = outline[following, 0]
        bv = outline[following, 1]
        if (av > v) != (bv > v) and u < (bu - au) * (v - av) / (bv - av) + au:
            inside = not inside
    return inside


@kernel
def outline_rows(outline, copies, radius, u, v, out):  # type: ignore[no-untyped-def]
    """Signed distance of places to the nearest of some copies of an outline, negative inside.

    Parameters
    ----------
    outline : (m, 2) float64
        Its corners.
    copies : (c, 2) float64
        Where each copy's middle lies.
    radius : float
        Of a circle around the middle that holds the outline.
    u, v : (n, W) float32
        Places, in the outline's measure.
    out : (n, W) float32
        Filled.
    """
    m = outline.shape[0]
    near = np.empty(m, np.int64)
    rough = np.empty(copies.shape[0], np.float64)
    for y0 in range(0, out.shape[0], BLOCK):
        y1 = min(y0 + BLOCK, out.shape[0])
        for x0 in range(0, out.shape[1], BLOCK):
            x1 = min(x0 + BLOCK, out.shape[1])
            cu = np.float64(u[(y0 + y1) // 2, (x0 + x1) // 2])
            cv = np.float64(v[(y0 + y1) // 2, (x0 + x1) // 2])
            reach = 0.0
            for y in range(y0, y1):
                for x in range(x0, x1):
                    du = u[y, x] - cu
                    dv = v[y, x] - cv
                    reach = max(reach, du * du + dv * dv)
                    out[y, x] = np.float32(1e9)
            reach = np.sqrt(reach)
            least = 1e30
            for c in range(copies.shape[0]):
                pu = cu - copies[c, 0]
                pv = cv - copies[c, 1]
                rough[c] = 1e30
                if np.sqrt(pu * pu + pv * pv) - radius > least + 2 * reach:
                    continue
                best = 1e30
                for k in range(m):
                    best = min(best, _to_piece(pu, pv, outline, k))
                rough[c] = np.sqrt(best)
                least = min(least, rough[c])
            for c in range(copies.shape[0]):
                if rough[c] > least + 2 * reach and not _is_inside(
                    cu - copies[c, 0], cv - copies[c, 1], outline
                ):
                    continue
                if rough[c] == 1e30:
                    continue
                block = (u[y0:y1, x0:x1], v[y0:y1, x0:x1], out[y0:y1, x0:x1])
                _fill_block(outline, copies[c], rough[c], reach, near, block)


@kernel
def _fill_block(outline, copy, rough, reach, near, block):  # type: ignore[no-untyped-def]
    """The lower of what a block (its u, v and out) holds and its distance to one copy.

    rough : distance of the block's middle; reach : from there to its farthest sample; near : (m,) scratch.
    """
    u, v, out = block
    ou, ov = copy[0], copy[1]
    rows, columns = out.shape
    cu = np.float64(u[rows // 2, columns // 2]) - ou
    cv = np.float64(v[rows // 2, columns // 2]) - ov
    limit = (rough + 2 * reach) * (rough + 2 * reach)
    count = 0
    for k in range(outline.shape[0]):
        if _to_piece(cu, cv, outline, k) <= limit:
            near[count] = k
            count += 1
    whole = rough > reach
    side = _is_inside(cu, cv, outline)
    for y in range(rows):
        for x in range(columns):
            pu = np.float64(u[y, x]) - ou
            pv = np.float64(v[y, x]) - ov
            d = 1e30
            for i in range(count):
                d = min(d, _to_piece(pu, pv, outline, near[i]))
            inside = side if whole else _is_inside(pu, pv, outline)
            signed = np.float32(-np.sqrt(d) if inside else np.sqrt(d))
            out[y, x] = min(out[y, x], signed)


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
    corners = np.ascontiguousarray(outline, np.float64)
    radius = float(np.hypot(corners[:, 0], corners[:, 1]).max())
    outline_rows(corners, copies, radius, np.ascontiguousarray(u), np.ascontiguousarray(v), out)
    return out


def deepest(outline: np.ndarray) -> float:
    """How far the innermost place of an outline is from its edge, to about a hundredth of its size."""
    low, high = outline.min(axis=0), outline.max(axis=0)
    u, v = np.meshgrid(np.linspace(low[0], high[0], 64), np.linspace(low[1], high[1], 64))
    return float(max(-outline_distance(outline, u.astype(np.float32), v.astype(np.float32)).min(), 1e-6))
