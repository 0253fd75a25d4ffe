"""Parameters that are colours: one, or a gradient of several."""

from __future__ import annotations

import re
from typing import Any, ClassVar

import numpy as np

from reedloom.kernels.colours import (
    linear_from_oklab,
    linear_from_oklch,
    linear_from_srgb,
    oklab_from_linear,
    oklch_from_linear,
    srgb_from_linear,
)
from reedloom.kit.parameters.base import Parameter, Tried, UnfitError, finite_floats

COLOUR_SHIFTS = (
    ("Darker", (-0.15, 1.0, 0.0)),
    ("Lighter", (0.15, 1.0, 0.0)),
    ("Duller", (0.0, 0.4, 0.0)),
    ("Richer", (0.0, 1.6, 0.0)),
    ("Other hue", (0.0, 1.0, 0.08)),
)
"""What is done to lightness (added), chroma (multiplied) and hue (turns, added), in OKLCH."""
STOP_LIMIT = 64
HEX = re.compile(r"#[0-9a-fA-F]{6}")


def _shifted(colour: Any, light: float, rich: float, turn: float) -> tuple[float, ...]:
    lch = oklch_from_linear(np.maximum(np.array(colour, np.float64), 0))
    lch = np.array([max(lch[0] + light, 0), lch[1] * rich, lch[2] + turn])
    return tuple(float(round(v, 6)) for v in np.clip(linear_from_oklch(lch), 0, 1))


def _paler(colour: Any) -> tuple[float, ...]:
    nearer_grey = 0.5 + 0.6 * (srgb_from_linear(np.array(colour)) - 0.5)
    return tuple(float(v) for v in linear_from_srgb(nearer_grey))


def _between(first: Any, second: Any, share: float) -> tuple[float, ...]:
    """A colour between two, as far along in OKLab."""
    a, b = (oklab_from_linear(np.array(colour, np.float64)) for colour in (first, second))
    return tuple(float(round(v, 6)) for v in linear_from_oklab(a + (b - a) * share))


class ColourValue(Parameter, frozen=True):
    """A colour in linear light; the window shows it in sRGB. A text such as ``#406070`` is sRGB too."""

    word: ClassVar[str] = "colour"

    def plain(self, value: Any) -> tuple[float, ...]:
        if isinstance(value, str) and HEX.fullmatch(value):
            parts = np.array([int(value[at : at + 2], 16) / 255 for at in (1, 3, 5)])
            return tuple(float(round(v, 6)) for v in linear_from_srgb(parts))
        if isinstance(value, str):
            raise UnfitError(self.wanted)
        return finite_floats(value, 3)

    @property
    def wanted(self) -> str:
        return "use three numbers, red, green and blue in linear light, or a text such as '#406070'"

    def found_tries(self, value: Any, folder: str) -> Tried:
        return [(name, _shifted(value, *shift)) for name, shift in COLOUR_SHIFTS]

    def blend(self, first: Any, second: Any, share: float) -> Any:
        if share in (0, 1):
            return second if share else first
        return _between(first, second, share)


class Gradient(Parameter, frozen=True):
    """Colour stops (place 0..1, red, green, blue) in linear light, sorted by place.

    Attributes
    ----------
    mixed_by : (name, name) or ()
        The parameters that say how colours run from stop to stop, and in which space they are mixed.
    """

    word: ClassVar[str] = "gradient"

    mixed_by: tuple[str, ...] = ()

    @property
    def wanted(self) -> str:
        return "use a list of stops, each a place from 0 to 1, red, green and blue"

    def plain(self, value: Any) -> tuple[tuple[float, ...], ...]:
        stops = tuple(sorted((finite_floats(stop, 4) for stop in value), key=lambda stop: stop[0]))
        if not 1 <= len(stops) <= STOP_LIMIT:
            raise UnfitError(f"a gradient has 1 to {STOP_LIMIT} stops")
        return stops

    def blend(self, first: Any, second: Any, share: float) -> Any:
        """Stop by stop, where both have as many."""
        if len(first) != len(second) or share in (0, 1):
            return first if share < 0.5 else second
        pairs = zip(first, second, strict=True)
        return tuple((a[0] + (b[0] - a[0]) * share, *_between(a[1:], b[1:], share)) for a, b in pairs)

    def found_tries(self, value: Any, folder: str) -> Tried:
        stops = [tuple(stop) for stop in value]
        turned = [(1 - s[0], *s[1:]) for s in reversed(stops)]
        flat = [
            (
                s[0],
                *(float(v) for v in linear_from_srgb(0.5 + 0.6 * (srgb_from_linear(np.array(s[1:])) - 0.5))),
            )
            for s in stops
        ]
        shifted = ((name, [(s[0], *_shifted(s[1:], *how)) for s in stops]) for name, how in COLOUR_SHIFTS[2:])
        return [("Turned", turned), ("Paler", flat), *shifted]
