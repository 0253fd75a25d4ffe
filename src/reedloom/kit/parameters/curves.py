"""Parameters that are drawn: tone curves and binding drafts."""

from __future__ import annotations

import itertools
from typing import Any, ClassVar

from reedloom.kit.parameters.base import Parameter, Tried, UnfitError, finite_floats

STRAIGHT_CURVE = ((0.0, 0.0, 0.0), (1.0, 1.0, 0.0))
CURVES = (
    ("Straight", STRAIGHT_CURVE),
    ("Lifted", ((0.0, 0.0, 0.0), (0.3, 0.7, 0.0), (1.0, 1.0, 0.0))),
    ("Sunk", ((0.0, 0.0, 0.0), (0.7, 0.3, 0.0), (1.0, 1.0, 0.0))),
    ("Peak", ((0.0, 0.0, 0.0), (0.5, 1.0, 1.0), (1.0, 0.0, 0.0))),
    ("Turned", ((0.0, 1.0, 0.0), (1.0, 0.0, 0.0))),
)
KNOT_LIMIT = 64
DRAFT_LIMIT = 16


class ToneCurve(Parameter, frozen=True):
    """A drawn curve from 0..1 to any value: knots (x, y, sharp) sorted by x; sharp is 0 or 1."""

    word: ClassVar[str] = "tone curve"

    @property
    def wanted(self) -> str:
        return "use a list of knots, each a place, a value, and 1 where it is sharp"

    def plain(self, value: Any) -> tuple[tuple[float, ...], ...]:
        knots = tuple(sorted(finite_floats((*knot, 0)[:3], 3) for knot in value))
        if not 2 <= len(knots) <= KNOT_LIMIT:
            raise UnfitError(f"a tone curve has 2 to {KNOT_LIMIT} knots")
        if any(b[0] - a[0] <= 0 for a, b in itertools.pairwise(knots)):
            raise UnfitError("two knots of a tone curve cannot share one place")
        return knots

    def found_tries(self, value: Any, folder: str) -> Tried:
        return list(CURVES)

    def blend(self, first: Any, second: Any, share: float) -> Any:
        """Knot by knot, where both have as many of the same sharpness."""
        if [k[2] for k in first] != [k[2] for k in second] or share in (0, 1):
            return first if share < 0.5 else second
        pairs = zip(first, second, strict=True)
        return tuple((a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share, a[2]) for a, b in pairs)


class Draft(Parameter, frozen=True):
    """A small binding draft: rows of # and . of one length, at most 16 by 16."""

    word: ClassVar[str] = "draft"

    @property
    def wanted(self) -> str:
        return "use a list of rows made of # and ."

    def plain(self, value: Any) -> tuple[str, ...]:
        rows = tuple(value)
        if not 1 <= len(rows) <= DRAFT_LIMIT or not all(isinstance(row, str) for row in rows):
            raise UnfitError(f"a draft has 1 to {DRAFT_LIMIT} rows of text")
        if len({len(row) for row in rows}) != 1 or not 1 <= len(rows[0]) <= DRAFT_LIMIT:
            raise UnfitError(f"the rows of a draft are of one length, 1 to {DRAFT_LIMIT}")
        if set("".join(rows)) - set("#."):
            raise UnfitError("a draft is made of # and .")
        return rows

    def found_tries(self, value: Any, folder: str) -> Tried:
        rows = list(value)
        return [
            ("Turned", tuple("".join(row[i] for row in rows) for i in range(len(rows[0])))),
            ("Other face", tuple(row.translate(str.maketrans("#.", ".#")) for row in rows)),
            ("Moved", tuple(row[-i % len(row) :] + row[: -i % len(row)] for i, row in enumerate(rows))),
            ("Doubled", tuple("".join(c * 2 for c in row) for row in rows for _ in (0, 1))),
            ("Plain", ("#.", ".#")),
        ]
