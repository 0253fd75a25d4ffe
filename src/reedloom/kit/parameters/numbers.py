"""Parameters that are one number: plain, lengths, counts, angles, seeds."""

from __future__ import annotations

import math
import random
from typing import Any, ClassVar

import numpy as np

from reedloom.kit.parameters.base import TRIES, Parameter, Tried, UnfitError


class Number(Parameter, frozen=True):
    """One number that a slider can move.

    Attributes
    ----------
    useful : (low, high)
        What the slider spans.
    hard : (low, high)
        What may be typed, and what a file may hold.
    unit : str
        Shown after the number.
    """

    is_number: ClassVar[bool] = True

    useful: tuple[float, float] = (0.0, 1.0)
    hard: tuple[float, float] = (-1e6, 1e6)
    unit: str = ""

    @property
    def measure(self) -> str:
        return f" ({self.unit})" if self.unit else ""

    def plain(self, value: Any) -> float | int:
        low, high = self.hard
        if isinstance(value, bool) or not isinstance(value, (int, float)):
            raise UnfitError(self.wanted)
        if not low <= value <= high or not math.isfinite(value) or (self.is_whole and value != int(value)):
            raise UnfitError(self.wanted)
        return int(value) if self.is_whole else float(value)

    @property
    def wanted(self) -> str:
        low, high = self.hard
        return f"use a {'whole ' if self.is_whole else ''}number from {low:g} to {high:g}"

    def found_tries(self, value: Any, folder: str) -> Tried:
        low, high = self.useful
        spread = [low + (high - low) * share for share in (0.0, 0.25, 0.5, 0.75, 1.0)]
        if self.is_whole and low >= 1 and high / low > 8:
            spread = list(np.geomspace(low, high, TRIES))  # counts differ by ratios
        values = [round(v) for v in spread] if self.is_whole else [round(float(v), 6) for v in spread]
        return [(f"{v:.4g}", v) for v in dict.fromkeys(values)]

    def blend(self, first: Any, second: Any, share: float) -> Any:
        if share in (0, 1):
            return second if share else first
        value = first + (second - first) * share
        return round(value) if self.is_whole else value

    def ends(self) -> tuple[Any, ...]:
        return tuple(self.check(value) for value in self.hard)

    def draw(self, chance: random.Random) -> Any:
        value = chance.uniform(*self.useful)
        return round(value) if self.is_whole else value


class Float(Number, frozen=True):
    """A plain number."""

    word: ClassVar[str] = "float"


class Length(Number, frozen=True):
    """A length as a share of the tile's width."""

    word: ClassVar[str] = "length"

    unit: str = "tile"

    @property
    def measure(self) -> str:
        return " In shares of the tile's width."


class Integer(Number, frozen=True):
    """A whole number."""

    word: ClassVar[str] = "integer"
    is_whole: ClassVar[bool] = True


class Count(Integer, frozen=True):
    """A whole number of things per tile, so that they close at the seam."""

    word: ClassVar[str] = "count"

    hard: tuple[float, float] = (1, 4096)


class Seed(Integer, frozen=True):
    """A whole number from which all randomness of the node is hashed."""

    word: ClassVar[str] = "seed"

    name: str = "seed"
    default: int = 0
    useful: tuple[float, float] = (0, 100)
    hard: tuple[float, float] = (0, 2**31 - 1)
    help: str = "Another number gives another arrangement."

    def blend(self, first: Any, second: Any, share: float) -> Any:
        """No seed lies between two others."""
        return first if share < 0.5 else second

    def found_tries(self, value: Any, folder: str) -> Tried:
        return [(str(v), v) for v in ((int(value) + step) % 2**31 for step in range(1, TRIES + 1))]


class Angle(Number, frozen=True):
    """An angle in degrees, clockwise from the right, since rows run down."""

    word: ClassVar[str] = "angle"

    default: float = 0.0
    useful: tuple[float, float] = (-180.0, 180.0)
    hard: tuple[float, float] = (-3600.0, 3600.0)
    unit: str = "°"
