"""What hands do with drawn paths: every change makes new paths of old ones, and tells which knots are chosen.

A path that ends where it began, or whole tiles from there, is closed; its last knot stands for the first and
is never chosen itself.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterable

from reedloom.kit.parameters.drawn import PLAIN, Drawn, Knot

Chosen = frozenset[tuple[int, int]]
"""Knots, each by its path's number and its own."""
Change = tuple[Drawn, Chosen]
NONE: Chosen = frozenset()
SAME = 1e-6
"""Tiles within which two places are one."""
BESIDE = 0.03
"""How far a copy is laid from what it was made of, in tiles."""
FIELDS = ("u", "v", "sharp", "width", "height")


def closing_of(path: tuple[Knot, ...]) -> tuple[int, int] | None:
    """How many tiles a closed path ends from where it began, across and down; None for an open one."""
    away = path[-1][0] - path[0][0], path[-1][1] - path[0][1]
    tiles = round(away[0]), round(away[1])
    if len(path) < 2 or max(abs(away[0] - tiles[0]), abs(away[1] - tiles[1])) > SAME:
        return None
    return None if len(path) == 2 and tiles == (0, 0) else tiles


def knots_of(path: tuple[Knot, ...]) -> tuple[Knot, ...]:
    """The knots that can be chosen: without the last of a closed path."""
    return path if closing_of(path) is None else path[:-1]


def all_of(paths: Drawn, numbers: Iterable[int]) -> Chosen:
    """All knots of some paths."""
    return frozenset((p, k) for p in numbers for k in range(len(knots_of(paths[p]))))


def still_there(paths: Drawn, chosen: Chosen) -> Chosen:
    """Those chosen knots that there are."""
    return frozenset((p, k) for p, k in chosen if p < len(paths) and k < len(knots_of(paths[p])))


def is_end(paths: Drawn, path: int, knot: int) -> bool:
    """Whether a knot is an end of an open path."""
    return closing_of(paths[path]) is None and knot in {0, len(paths[path]) - 1}


def _made(knots: Iterable[Knot], closing: tuple[int, int] | None) -> tuple[Knot, ...]:
    """A path of its choosable knots."""
    path = tuple(knots)
    if closing is None or not path or (len(path) < 2 and closing == (0, 0)):
        return path
    return (*path, _at(path[0], path[0][0] + closing[0], path[0][1] + closing[1]))


def _at(knot: Knot, u: float, v: float) -> Knot:
    return (round(u, 6), round(v, 6), *knot[2:])


def _changed(paths: Drawn, chosen: Chosen, change: Callable[[Knot], Knot]) -> Drawn:
    return tuple(
        _made((change(k) if (p, i) in chosen else k for i, k in enumerate(knots_of(path))), closing_of(path))
        for p, path in enumerate(paths)
    )


def moved(paths: Drawn, chosen: Chosen, du: float, dv: float) -> Drawn:
    """Chosen knots moved, in tiles."""
    return _changed(paths, chosen, lambda k: _at(k, k[0] + du, k[1] + dv))


def middle_of(paths: Drawn, chosen: Chosen) -> tuple[float, float]:
    """The middle of the box around chosen knots, in tiles."""
    u, v = zip(*(paths[p][k][:2] for p, k in chosen), strict=True)
    return (min(u) + max(u)) / 2, (min(v) + max(v)) / 2


def turned(paths: Drawn, chosen: Chosen, degrees: float, scale: float, aspect: float) -> Drawn:
    """Chosen knots turned clockwise and scaled about their middle.

    aspect : the tile's height in widths
    """
    u, v = middle_of(paths, chosen)
    c, s = (scale * f(math.radians(degrees)) for f in (math.cos, math.sin))

    def turn(knot: Knot) -> Knot:
        x, y = knot[0] - u, (knot[1] - v) * aspect
        return _at(knot, u + c * x - s * y, v + (s * x + c * y) / aspect)

    return _changed(paths, chosen, turn)


def put(paths: Drawn, chosen: Chosen, field: str, value: float) -> Drawn:
    """One number of each chosen knot, by its name in FIELDS."""
    at = FIELDS.index(field)
    return _changed(paths, chosen, lambda k: (*k[:at], value, *k[at + 1 :]))


def sharpened(paths: Drawn, chosen: Chosen) -> Drawn:
    """Chosen knots sharp; smooth if all of them were sharp."""
    sharp = 0.0 if all(paths[p][k][2] >= 0.5 for p, k in chosen) else 1.0
    return put(paths, chosen, "sharp", sharp)


def begun(paths: Drawn, u: float, v: float) -> Change:
    """A new path of one knot, chosen."""
    return (*paths, ((round(u, 6), round(v, 6), *PLAIN),)), frozenset({(len(paths), 0)})


def drawn_freely(paths: Drawn, places: list[tuple[float, float]], tolerance: float) -> Change:
    """A new path along places that a hand has drawn, through as few knots as come near enough to all."""
    kept = simplified(places, tolerance)
    path = tuple((round(u, 6), round(v, 6), *PLAIN) for u, v in kept)
    return (*paths, path), frozenset({(len(paths), len(path) - 1)})


def simplified(places: list[tuple[float, float]], tolerance: float) -> list[tuple[float, float]]:
    """Few of the places, with straight lines between them near enough to all (Douglas and Peucker 1973)."""
    kept, todo = {0, len(places) - 1}, [(0, len(places) - 1)]
    while todo:
        a, b = todo.pop()
        (ax, ay), (bx, by) = places[a], places[b]
        length = math.hypot(bx - ax, by - ay)

        def away(i: int, a: int = a, b: int = b, length: float = length) -> float:
            (x0, y0), (x1, y1), (x, y) = places[a], places[b], places[i]
            if length < 1e-9:
                return math.hypot(x - x0, y - y0)
            return abs((x1 - x0) * (y - y0) - (y1 - y0) * (x - x0)) / length

        farthest = max(range(a + 1, b), key=away, default=a)
        if farthest > a and away(farthest) > tolerance:
            kept.add(farthest)
            todo += [(a, farthest), (farthest, b)]
    return [places[i] for i in sorted(kept)]


def added(paths: Drawn, path: int, after: int, u: float, v: float) -> Change:
    """A knot laid into a path after one of its knots, as wide and high as that; after -1 before the first."""
    knots, closing = list(knots_of(paths[path])), closing_of(paths[path])
    like = knots[max(after, 0)]
    knots.insert(after + 1, (round(u, 6), round(v, 6), 0.0, *like[3:]))
    return _with(paths, path, _made(knots, closing)), frozenset({(path, after + 1)})


def continued(paths: Drawn, path: int, knot: int, u: float, v: float) -> Change:
    """An open path going on to a place from one of its ends; closed where that is its other end."""
    at_start = knot == 0 and len(paths[path]) > 1
    grown, chosen = added(paths, path, -1 if at_start else len(paths[path]) - 1, u, v)
    if closing_of(grown[path]) is not None:
        chosen = frozenset({(path, 0)})
    return grown, chosen


def removed(paths: Drawn, chosen: Chosen) -> Drawn:
    """Without the chosen knots; a path without any is gone."""
    left = []
    for p, path in enumerate(paths):
        knots = [k for i, k in enumerate(knots_of(path)) if (p, i) not in chosen]
        closing = closing_of(path)
        left.append(_made(knots, None if closing == (0, 0) and len(knots) < 3 else closing))
    return tuple(path for path in left if path)


def cut(paths: Drawn, chosen: Chosen) -> Drawn:
    """Without the piece after each chosen knot: an open path falls in two there, a closed one opens."""
    found: list[tuple[Knot, ...]] = []
    for p, path in enumerate(paths):
        knots, closing = list(knots_of(path)), closing_of(path)
        cuts = sorted(k for q, k in chosen if q == p)
        if not cuts:
            found.append(path)
            continue
        if closing is not None:  # it begins behind its first cut
            first = cuts.pop(0) + 1
            knots = knots[first:] + [_at(k, k[0] + closing[0], k[1] + closing[1]) for k in knots[:first]]
            cuts = [k - first for k in cuts]
        bounds = [0, *(k + 1 for k in cuts), len(knots)]
        parts = [tuple(knots[a:b]) for a, b in itertools.pairwise(bounds)]
        found += [part for part in parts if len(part) > 1]
    return tuple(found)


def joined(paths: Drawn, chosen: Chosen) -> Change | None:
    """Two chosen ends joined: those of one path close it, the shortest way around the tile; None if not two.

    Ends that lie in one place become one knot.
    """
    if len(chosen) != 2 or not all(is_end(paths, *one) for one in chosen):
        return None
    (p, k), (q, m) = sorted(chosen)
    if p == q:
        path = paths[p]
        tiles = round(path[-1][0] - path[0][0]), round(path[-1][1] - path[0][1])
        closed = _with(paths, p, _made(_merged(path, path[0], tiles), tiles))
        return closed, all_of(closed, (p,))
    first = paths[p] if k == len(paths[p]) - 1 else paths[p][::-1]
    second = paths[q] if m == 0 else paths[q][::-1]
    across, down = round(first[-1][0] - second[0][0]), round(first[-1][1] - second[0][1])
    near = [_at(knot, knot[0] + across, knot[1] + down) for knot in second]
    whole = tuple(_merged(first, near[0], (0, 0))) + tuple(near)
    left = tuple(path for i, path in enumerate(_with(paths, p, whole)) if i != q)
    return left, all_of(left, (p,))


def _merged(path: tuple[Knot, ...], meets: Knot, tiles: tuple[int, int]) -> tuple[Knot, ...]:
    """A path without its last knot where that lies on the one that it is to meet, so many tiles away."""
    u, v = meets[0] + tiles[0], meets[1] + tiles[1]
    return path[:-1] if math.hypot(path[-1][0] - u, path[-1][1] - v) < SAME else path


def from_end_to_start(paths: Drawn, chosen: Chosen) -> Change:
    """The paths of chosen knots the other way round, all their knots chosen."""
    numbers = {p for p, _ in chosen}
    changed = tuple(path[::-1] if p in numbers else path for p, path in enumerate(paths))
    return changed, all_of(changed, numbers)


def doubled(paths: Drawn, chosen: Chosen) -> Change:
    """Copies of the chosen knots' paths beside them, chosen."""
    copies = tuple(paths[p] for p in sorted({p for p, _ in chosen}))
    whole = (*paths, *copies)
    new = all_of(whole, range(len(paths), len(whole)))
    return moved(whole, new, BESIDE, BESIDE), new


def snapped(
    paths: Drawn, moving: Chosen, u: float, v: float, reach: tuple[float, float]
) -> tuple[float, float]:
    """A place drawn to what is near: an end of a path on whatever tile, or else the tile's edges.

    moving : knots that are on their way, to which nothing is drawn
    reach : how near that is, across and down, in tiles
    """
    for p, path in enumerate(paths):
        for k in {0, len(path) - 1}:
            if (p, k) in moving or not is_end(paths, p, k):
                continue
            tiles = round(u - path[k][0]), round(v - path[k][1])
            at = path[k][0] + tiles[0], path[k][1] + tiles[1]
            if abs(at[0] - u) <= reach[0] and abs(at[1] - v) <= reach[1]:
                return at
    across, down = (
        float(round(x)) if abs(x - round(x)) <= near else x for x, near in zip((u, v), reach, strict=True)
    )
    return across, down


def _with(paths: Drawn, number: int, path: tuple[Knot, ...]) -> Drawn:
    return (*paths[:number], path, *paths[number + 1 :])
