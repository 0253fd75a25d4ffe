"""The parameter that is drawn over the tile: paths through knots."""

from __future__ import annotations

import math
import random
from typing import Any, ClassVar

from reedloom.kit.parameters.base import Parameter, Tried, UnfitError, finite_floats

PATH_LIMIT, KNOT_LIMIT = 1024, 16384
"""Paths, and knots of all of them together."""
FARTHEST = 64.0
"""Tiles from the first that a knot may lie."""
PLAIN = (0.0, 1.0, 1.0)
"""Of a knot for which no more than its place is given: smooth, of width and height 1."""

Knot = tuple[float, ...]
"""(u, v, sharp, width, height): the place in tiles; from 0, smooth, to 1, a corner; factors."""
Drawn = tuple[tuple[Knot, ...], ...]
"""Paths, each of its knots in order. One that ends where it began, or whole tiles from there, is closed."""

BEGINNINGS = (
    ("Line", (((0.0, 0.5), (1.0, 0.5)),)),
    ("Wave", (((0.0, 0.5), (0.25, 0.4), (0.75, 0.6), (1.0, 0.5)),)),
    ("Arch", (((0.2, 0.8), (0.2, 0.4), (0.5, 0.2), (0.8, 0.4), (0.8, 0.8)),)),
    ("Ring", (((0.5, 0.2), (0.8, 0.5), (0.5, 0.8), (0.2, 0.5), (0.5, 0.2)),)),
    ("Zigzag", (((0.0, 0.5, 1), (0.25, 0.3, 1), (0.75, 0.7, 1), (1.0, 0.5, 1)),)),
)
"""What can be begun with where nothing is drawn yet."""


class DrawnPaths(Parameter, frozen=True):
    """Paths drawn by hand: for each its knots (u, v, sharp, width, height), of which u and v are enough."""

    word: ClassVar[str] = "list of paths"

    @property
    def wanted(self) -> str:
        return "use a list of paths, each a list of knots: u, v, and if wanted sharp, width and height"

    def plain(self, value: Any) -> Drawn:
        paths = tuple(tuple(self._knot(knot) for knot in path) for path in value if len(path))
        if len(paths) > PATH_LIMIT or sum(map(len, paths)) > KNOT_LIMIT:
            raise UnfitError(f"up to {PATH_LIMIT} paths can be drawn, with {KNOT_LIMIT} knots in all")
        return paths

    def _knot(self, knot: Any) -> Knot:
        given = tuple(knot)
        if len(given) < 2:
            raise UnfitError("a knot needs its place across and down")
        u, v, sharp, width, height = finite_floats((*given, *PLAIN[len(given) - 2 :])[:5], 5)
        if max(abs(u), abs(v)) > FARTHEST:
            raise UnfitError(f"a knot lies up to {FARTHEST:g} tiles away")
        if not 0 <= sharp <= 1 or width < 0:
            raise UnfitError("a knot is sharp from 0 to 1, and its width is not below 0")
        return u, v, sharp, width, height

    def caption(self, value: Any) -> str:
        return f"{len(value)} paths"

    def found_tries(self, value: Any, folder: str) -> Tried:
        if not value:
            return list(BEGINNINGS)
        return [
            ("All smooth", _each(value, lambda u, v, s, w, h: (u, v, 0.0, w, h))),
            ("All sharp", _each(value, lambda u, v, s, w, h: (u, v, 1.0, w, h))),
            ("Mirrored", _each(value, lambda u, v, s, w, h: (1 - u, v, s, w, h))),
            ("Upside down", _each(value, lambda u, v, s, w, h: (u, 1 - v, s, w, h))),
            ("From end to start", tuple(tuple(reversed(path)) for path in value)),
        ]

    def blend(self, first: Any, second: Any, share: float) -> Any:
        """Knot by knot, where both have as many in each path."""
        if [len(p) for p in first] != [len(p) for p in second] or share in (0, 1):
            return first if share < 0.5 else second
        return tuple(
            tuple(
                tuple(a + (b - a) * share for a, b in zip(one, other, strict=True))
                for one, other in zip(path, wanted, strict=True)
            )
            for path, wanted in zip(first, second, strict=True)
        )

    def draw(self, chance: random.Random) -> Any:
        """A few paths that wander, some closed, some over the seam."""
        paths = []
        for _ in range(chance.randint(1, 3)):
            u, v, turn = chance.random(), chance.random(), chance.uniform(0, 2 * math.pi)
            knots = []
            for _ in range(chance.randint(2, 5)):
                sharp = chance.choice([0.0, 0.0, 0.5, 1.0])
                knots.append((u, v, sharp, chance.uniform(0.3, 1.5), chance.uniform(0.3, 1)))
                turn += chance.uniform(-1, 1)
                u, v = u + 0.15 * math.cos(turn), v + 0.15 * math.sin(turn)
            if len(knots) > 2 and chance.random() < 0.3:
                knots.append(knots[0])
            paths.append(tuple(knots))
        return tuple(paths)


def _each(value: Drawn, change: Any) -> Drawn:
    """The same paths with every knot changed."""
    return tuple(tuple(change(*knot) for knot in path) for path in value)
