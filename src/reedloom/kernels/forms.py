"""From places to a form's own measure, and from the distance to its edge to profile and mask."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.curves import table_at
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.places import part_places, short_way

FLAT, DOME, CONE, CUSHION, BELL, CUSTOM = range(6)
"""How a height rises from a form's edge: see `rise`."""


@kernel
def form_places(place, centre, wrapped, aspect, turn, u, v, towards):  # type: ignore[no-untyped-def]
    """Places as seen from a form's middle.

    Parameters
    ----------
    place : (n, W, 2) float32
        In tiles.
    centre : (2,) float32
        The form's middle, in tiles.
    wrapped : bool
        Whether the nearest of the copies around the tile counts.
    aspect : float32
        The tile's height in widths.
    turn : (2,) float32
        Cosine and sine of the angle by which the form is turned.
    u, v : (n, W) float32
        Filled: from the middle, in the form's own directions, in widths.
    towards : (2, n, W) float32
        Filled: -1 or 1, the way to the place along each of the tile's directions.
    """
    c, s = turn[0], turn[1]
    one = np.float32(1.0)
    across, down = np.empty(u.shape[1], np.float32), np.empty(u.shape[1], np.float32)
    for y in range(u.shape[0]):
        part_places(place[y].reshape(-1), across, down)
        for x in range(u.shape[1]):
            a, b = across[x] - centre[0], down[x] - centre[1]
            if wrapped:
                a, b = short_way(a), short_way(b)
            towards[0, y, x] = one if a >= 0 else -one
            towards[1, y, x] = one if b >= 0 else -one
            b *= aspect
            u[y, x] = c * a + s * b
            v[y, x] = c * b - s * a


@kernel
def copy_places(u, v, towards, step, turn, beside_u, beside_v):  # type: ignore[no-untyped-def]
    """The same places as seen from the middle of a copy of the form, towards them or away from them.

    Parameters
    ----------
    u, v, towards, turn
        As in `form_places`.
    step : (2,) float32
        How far off the copy is along the tile's directions, in widths; below 0 away from the place.
    beside_u, beside_v : (n, W) float32
        Filled.
    """
    c, s, right, down = turn[0], turn[1], step[0], step[1]
    for y in range(u.shape[0]):
        for x in range(u.shape[1]):
            a, b = right * towards[0, y, x], down * towards[1, y, x]
            beside_u[y, x] = u[y, x] - (c * a + s * b)
            beside_v[y, x] = v[y, x] - (c * b - s * a)


@inlined
def rise(t, profile):  # type: ignore[no-untyped-def]
    """Height 0..1 for a depth of 0 (edge) to 1 (middle) within a form."""
    one = np.float32(1.0)
    t = min(max(t, np.float32(0.0)), one)
    if profile == FLAT:
        return one
    w = one - t
    if profile == DOME:
        return np.float32(math.sqrt(max(np.float32(0.0), one - w * w)))
    if profile == CUSHION:
        return one - w * w * w * w
    if profile == BELL:
        return t * t * (np.float32(3.0) - np.float32(2.0) * t)
    return t


@inlined
def height_at(t, profile, table):  # type: ignore[no-untyped-def]
    """`rise`, or what a custom profile's table says there."""
    return table_at(table, rise(t, CONE)) if profile == CUSTOM else rise(t, profile)


@kernel
def heights(depth, scale, profile, table, out):  # type: ignore[no-untyped-def]
    """`height_at` of many depths.

    Parameters
    ----------
    depth : (n,) float32
        0 at the edge.
    scale : float32
        What it is multiplied by, so that it is 1 in the middle.
    profile, table
        As in `profile_rows`.
    out : (n,) float32
        Filled.
    """
    if profile == CUSTOM:
        for k in range(out.shape[0]):
            out[k] = height_at(depth[k] * scale, CUSTOM, table)
    elif profile == DOME:
        for k in range(out.shape[0]):
            out[k] = rise(depth[k] * scale, DOME)
    else:
        for k in range(out.shape[0]):
            out[k] = rise(depth[k] * scale, profile)


@inlined
def cover(distance, width):  # type: ignore[no-untyped-def]
    """The share of something so wide that lies within a form, from the signed distance to its edge."""
    t = np.float32(0.5) - distance / width
    return min(max(t, np.float32(0.0)), np.float32(1.0))


@kernel
def profile_rows(distance, width, depth, profile, table, out):  # type: ignore[no-untyped-def]
    """The height of a form at the middle of each sample, from the distance to its edge.

    It is what the sample's mean is, but near the edge and where the form is thin: see `mean_heights`.

    Parameters
    ----------
    distance : (n, W) float32
        Signed, negative inside, in widths.
    width : (n, W) float32
        What each sample covers.
    depth : float32
        How far inside the edge the full height is reached.
    profile : int
        FLAT to CUSTOM.
    table : (m,) float32
        The custom profile from the edge to the middle.
    out : (n, W) float32
        Filled, 0 to 1.
    """
    for y in range(out.shape[0]):
        line, d, w = out[y], distance[y], width[y]
        heights(d, np.float32(-1.0) / depth, profile, table, line)
        for x in range(line.shape[0]):
            line[x] *= cover(d[x], w[x])


@inlined
def risen(t, profile, table, summed):  # type: ignore[no-untyped-def]
    """The area below `height_at` up to a depth t, with nothing before 0, in double precision."""
    within = min(max(t, 0.0), 1.0)
    beyond, w = max(t, 1.0) - 1.0, 1.0 - within
    if profile == CUSTOM:
        last = table.shape[0] - 1
        cell = min(int(within * last), last - 1)
        part = within * last - cell
        first = np.float64(table[cell])
        rise = first + 0.5 * part * (np.float64(table[cell + 1]) - first)
        return summed[cell] + part * rise / last + beyond * table[last]
    if profile == DOME:
        area = 0.25 * math.pi - 0.5 * (w * math.sqrt(max(0.0, 1.0 - w * w)) + math.asin(w))
    elif profile == CUSHION:
        area = within + 0.2 * (w * w * w * w * w - 1.0)
    elif profile == BELL:
        area = within * within * within * (1.0 - 0.5 * within)
    elif profile == CONE:
        area = 0.5 * within * within
    else:
        area = within
    return area + beyond


EDGE, DEEP = 0.75, 3.0
"""How far from a form's edge, outwards and inwards, a sample is looked at closely, in samples: beyond the
first it has no share in the form, and beyond the second a fold of the profile within it matters little."""
FAR, NEAR, FOLDED = range(3)
"""What `find_near` tells of a sample."""


@kernel
def find_near(distance, width, out):  # type: ignore[no-untyped-def]
    """Tell which samples are near a form's edge, and over which of those its distance does not run on evenly.

    A ridge or corner within a sample shows in the bend of the distance from neighbour to neighbour. Where one
    neighbour is beyond the rows here, the other direction tells, if it takes the most of the slope.

    Parameters
    ----------
    distance, width : (n, W) float32
        As in `profile_rows`.
    out : (n, W) uint8
        Filled: FAR, NEAR or FOLDED.
    """
    rows, columns = out.shape
    for y in range(rows):
        for x in range(columns):
            d, w = distance[y, x], width[y, x]
            if d >= np.float32(EDGE) * w or d <= np.float32(-DEEP) * w:
                out[y, x] = FAR
                continue
            bent, slope, lacking = False, np.float32(0.0), False
            if 0 < x < columns - 1:
                before, after = distance[y, x - 1], distance[y, x + 1]
                bent = abs(before + after - d - d) > np.float32(0.2) * w
                slope = abs(after - before)
            else:
                lacking = True
            if 0 < y < rows - 1:
                before, after = distance[y - 1, x], distance[y + 1, x]
                bent = bent or abs(before + after - d - d) > np.float32(0.2) * w
                slope = max(slope, abs(after - before))
            else:
                lacking = True
            out[y, x] = FOLDED if bent or (lacking and slope < np.float32(1.4) * w) else NEAR


@kernel
def mean_heights(distance, width, depth, thin, profile, table, summed, out):  # type: ignore[no-untyped-def]
    """The mean height of a form over samples, each looked at in parts.

    Over a part the distance to the edge is taken to run on evenly, so that the mean is a difference of areas
    below the profile. No part has more of a strip than there is of it.

    Parameters
    ----------
    distance : (n, K) float32
        Signed, negative inside, in widths, at the parts of each sample.
    width : (n,) float32
        What each sample covers, in widths.
    depth, profile, table
        As in `profile_rows`.
    thin : float
        Twice the greatest distance from the edge within the form, in widths.
    summed : (m,) float64
        The area below the custom profile up to each entry of its table.
    out : (n,) float32
        Filled, 0 to 1.
    """
    full = risen(1.0, profile, table, summed)
    for k in range(out.shape[0]):
        parts = distance.shape[1]
        part = np.float64(width[k]) / math.sqrt(parts)
        half = 0.5 * part / depth
        most, total = full * thin / part, 0.0
        for n in range(parts):
            t = -np.float64(distance[k, n]) / depth
            if t > -half:
                above = risen(t + half, profile, table, summed) - risen(t - half, profile, table, summed)
                total += min(above / (2.0 * half), most)
        out[k] = total / parts


@kernel
def mean_covers(distance, width, softness, thin, out):  # type: ignore[no-untyped-def]
    """The mean cover of a form over samples, each looked at in parts: (n,) float32, 0 to 1.

    Parameters
    ----------
    distance, width, thin, out
        As in `mean_heights`.
    softness : float32
        As in `mask_rows`.
    """
    for k in range(out.shape[0]):
        parts = distance.shape[1]
        part = width[k] / np.float32(math.sqrt(parts))
        most, total = thin / part, 0.0
        for n in range(parts):
            total += min(np.float64(cover(distance[k, n], max(part, softness))), most)
        out[k] = total / parts


@kernel
def mask_rows(distance, width, softness, out):  # type: ignore[no-untyped-def]
    """The cover of a form: a ramp as wide as a sample, or as the softness.

    Parameters
    ----------
    distance, width
        As in `profile_rows`.
    softness : float32
        In widths.
    out : (n, W) float32
        Filled, 0 to 1.
    """
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            out[y, x] = cover(distance[y, x], max(width[y, x], softness))


@kernel
def arc_rows(u, v, radius, half, aperture, middle, out):  # type: ignore[no-untyped-def]
    """Signed distance to an arc with round ends.

    Parameters
    ----------
    u, v : (n, W) float32
        Places from the arc's middle.
    radius, half : float32
        Of the arc's line, and half its thickness.
    aperture : float
        Half the angle it spans, radians, 0 to pi.
    middle : float
        The angle of its middle, radians.
    out : (n, W) float32
        Filled, negative inside.
    """
    cm, sm = np.float32(math.cos(middle)), np.float32(math.sin(middle))
    ca, sa = np.float32(math.cos(aperture)), np.float32(math.sin(aperture))
    closed = aperture >= math.pi - 1e-6
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            along = u[y, x] * cm + v[y, x] * sm
            aside = abs(v[y, x] * cm - u[y, x] * sm)
            band = abs(np.float32(math.sqrt(along * along + aside * aside)) - radius)
            du, dv = along - radius * ca, aside - radius * sa
            end = np.float32(math.sqrt(du * du + dv * dv))
            out[y, x] = (band if closed or sa * along >= ca * aside else end) - half
