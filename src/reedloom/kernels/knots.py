"""Smooth curves through knots, as corners close enough together that no piece shows as straight.

Centripetal Catmull-Rom splines (Yuksel, Schaefer and Keyser 2011), which make neither loops nor cusps between
knots, written as cubics with a way at each end. A sharp knot has the way that leaves the curve unbent there,
so that between two sharp knots it is straight.
"""

from __future__ import annotations

import numpy as np

from reedloom.kernels.points import VERTEX, members_of, neighbours_of, starts_of

FINE = 1 / 32768
"""How far a piece may lie from the curve, in widths: an eighth of a sample at 4096."""
FEWEST, MOST = 8, 512
"""Pieces from knot to knot."""
Cubics = tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]
"""Where each begins, how far it rises to its end, and its ways at both."""


def through_knots(knots: np.ndarray, sharp: np.ndarray, aspect: float) -> tuple[np.ndarray, np.ndarray]:
    """The corners of smooth paths through knots.

    Parameters
    ----------
    knots : (m,) of `VERTEX`
        A path that ends where it began, or whole tiles from there, is smooth there too.
    sharp : (m,) float64
        From 0, smooth, to 1, a corner.
    aspect : float
        The tile's height in widths.

    Returns
    -------
    corners : (k,) of `VERTEX`
        A path of a single knot has none.
    knot : (k,) int64
        The knot that each corner comes at or after.
    """
    starts = starts_of(knots)
    first = np.flatnonzero(knots["path"][1:] == knots["path"][:-1])
    if not len(first):
        return np.zeros(0, VERTEX), np.zeros(0, np.int64)
    (before, after), (moved_before, moved_after) = neighbours_of(knots, starts)
    metric = np.array([1.0, aspect])
    at = np.stack([knots["u"], knots["v"]], axis=1) * metric
    one, two = at[first], at[first + 1]
    zero = at[before[first]] + moved_before[first] * metric
    three = at[after[first + 1]] + moved_after[first + 1] * metric
    chord = two - one
    open_ends = [before[first] == first, after[first + 1] == first + 1]
    ways = (_way(zero, one, two, chord), _way(one, two, three, chord))
    # Where it is sharp or ends, the curve begins unbent: three halves of the chord less half the other way.
    bent = [np.where(end, 1.0, sharp[i]) for end, i in zip(open_ends, (first, first + 1), strict=True)]
    mixed = [way * (1 - s)[:, None] + 1.5 * chord * s[:, None] for way, s in zip(ways, bent, strict=True)]
    both = (1 - 0.25 * bent[0] * bent[1])[:, None]
    begin = (mixed[0] - 0.5 * bent[0][:, None] * mixed[1]) / both
    end = (mixed[1] - 0.5 * bent[1][:, None] * mixed[0]) / both
    swing = np.maximum(
        np.linalg.norm(6 * chord - 4 * begin - 2 * end, axis=1),
        np.linalg.norm(-6 * chord + 2 * begin + 4 * end, axis=1),
    )
    pieces = np.clip(np.ceil(np.sqrt(swing / (8 * FINE))), FEWEST, MOST).astype(np.int64)
    ends = np.append(knots["path"][first][1:] != knots["path"][first][:-1], True)
    which, number = members_of(pieces + ends)  # each path has a corner at its last knot, too
    t = number / pieces[which]
    at = _cubic((one, chord, begin, end), which, t[:, None])
    knot = np.where(t >= 1, first[which] + 1, first[which])
    corners = np.zeros(len(which), VERTEX)
    for name in ("path", "id"):
        corners[name] = knots[name][knot]
    corners["u"], corners["v"] = at[:, 0], at[:, 1] / aspect
    for name in ("u", "v"):  # exactly, so that a closed path closes and a crossing of the seam is one
        hit = (t == 0) | (t == 1)
        corners[name][hit] = knots[name][knot[hit]]
    for name in ("width", "height"):
        gentle = _gentle(knots[name].astype(np.float64), before, after, first)
        corners[name] = _cubic(gentle, which, t)
    return corners, knot


def _cubic(cubics: Cubics, which: np.ndarray, t: np.ndarray) -> np.ndarray:
    """Some cubics, by their numbers, at t from 0 to 1."""
    low, rise, begin, end = (part[which] for part in cubics)
    found: np.ndarray = low + t * (begin + t * (3 * rise - 2 * begin - end + t * (begin + end - 2 * rise)))
    return found


def _way(zero: np.ndarray, one: np.ndarray, two: np.ndarray, chord: np.ndarray) -> np.ndarray:
    """The curve's way at the middle one of three knots, for a piece with a chord that has it: (n, 2)."""
    a = np.sqrt(np.maximum(np.linalg.norm(one - zero, axis=1), 1e-12))[:, None]
    b = np.sqrt(np.maximum(np.linalg.norm(two - one, axis=1), 1e-12))[:, None]
    way = (one - zero) / a - (two - zero) / (a + b) + (two - one) / b
    long = np.sqrt(np.maximum(np.linalg.norm(chord, axis=1), 1e-12))[:, None]
    found: np.ndarray = way * long
    return found


def _gentle(value: np.ndarray, before: np.ndarray, after: np.ndarray, first: np.ndarray) -> Cubics:
    """Cubics of a number that never swing beyond the knots (Fritsch and Carlson 1980), for `_cubic`.

    before, after : (m,) the knots beside each; an end of an open path is its own
    first : (n,) the knot at which each piece begins
    """
    back, on = value - value[before], value[after] - value
    same = back * on > 0
    way = np.where(same, 2 * back * on / np.where(same, back + on, 1.0), 0.0)
    rise = value[first + 1] - value[first]
    # At an open end there is one side only.
    begin = np.where(before[first] == first, rise, way[first])
    end = np.where(after[first + 1] == first + 1, rise, way[first + 1])
    return value[first], rise, begin, end
