"""Blend modes: each is a function of the map below and the map above, both nominally 0..1.

The separable and the four colour modes follow the W3C *Compositing and Blending Level 1*
recommendation, in linear light. Values beyond 0..1 are legal; where a formula divides or takes a
root, its inputs are held to where that is defined.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.colours import LUMINANCE
from reedloom.kit import Context

Mode = Callable[[np.ndarray, np.ndarray], np.ndarray]
TINY = np.float32(1e-6)


def hard_light(below: np.ndarray, above: np.ndarray) -> np.ndarray:
    """Multiply where the upper map is dark, screen where it is light."""
    return np.where(above <= 0.5, 2 * below * above, 1 - 2 * (1 - below) * (1 - above))


def soft_light(below: np.ndarray, above: np.ndarray) -> np.ndarray:
    """A gentle hard light."""
    held = np.clip(below, 0, 1)
    root = np.where(held <= 0.25, ((16 * held - 12) * held + 4) * held, np.sqrt(held))
    darker = below - (1 - 2 * above) * held * (1 - held)
    return np.where(above <= 0.5, darker, below + (2 * above - 1) * (root - held))


def colour_dodge(below: np.ndarray, above: np.ndarray) -> np.ndarray:
    """Lightens the lower map to reflect the upper one."""
    shown = np.minimum(1, below / np.maximum(1 - above, TINY))
    return np.where(below <= 0, 0, shown)


def colour_burn(below: np.ndarray, above: np.ndarray) -> np.ndarray:
    """Darkens the lower map to reflect the upper one."""
    shown = 1 - np.minimum(1, (1 - below) / np.maximum(above, TINY))
    return np.where(below >= 1, 1, shown)


def smooth_lowest(below: np.ndarray, above: np.ndarray) -> np.ndarray:
    """The lower of two, with the crease between them rounded over a difference of 0.1."""
    h = np.maximum(0, 1 - np.abs(below - above) * np.float32(10))
    return np.minimum(below, above) - h * h * np.float32(0.025)


def divide(below: np.ndarray, above: np.ndarray) -> np.ndarray:
    """Below over above; a divisor near 0 is held at a thousandth."""
    return below / np.copysign(np.maximum(np.abs(above), np.float32(1e-3)), above)


def _luminosity(colour: np.ndarray) -> np.ndarray:
    return (colour @ LUMINANCE)[..., None]


def _saturation(colour: np.ndarray) -> np.ndarray:
    return colour.max(-1, keepdims=True) - colour.min(-1, keepdims=True)


def _with_luminosity(colour: np.ndarray, luminosity: np.ndarray) -> np.ndarray:
    """W3C SetLum with ClipColor: shift to a luminosity, then shrink towards it into 0..1."""
    moved = colour + (luminosity - _luminosity(colour))
    low, high = moved.min(-1, keepdims=True), moved.max(-1, keepdims=True)
    lifted = luminosity + (moved - luminosity) * luminosity / np.maximum(luminosity - low, TINY)
    moved = np.where(low < 0, lifted, moved)
    lowered = luminosity + (moved - luminosity) * (1 - luminosity) / np.maximum(high - luminosity, TINY)
    return np.where(high > 1, lowered, moved)


def _with_saturation(colour: np.ndarray, saturation: np.ndarray) -> np.ndarray:
    """W3C SetSat: the channels stretched so that the least is 0 and the greatest is `saturation`."""
    low = colour.min(-1, keepdims=True)
    return (colour - low) * saturation / np.maximum(_saturation(colour), TINY)


def hue(below: np.ndarray, above: np.ndarray) -> np.ndarray:
    """The hue of the upper map with the saturation and luminosity of the lower."""
    return _with_luminosity(_with_saturation(above, _saturation(below)), _luminosity(below))


def saturation(below: np.ndarray, above: np.ndarray) -> np.ndarray:
    """The saturation of the upper map with the hue and luminosity of the lower."""
    return _with_luminosity(_with_saturation(below, _saturation(above)), _luminosity(below))


def colour(below: np.ndarray, above: np.ndarray) -> np.ndarray:
    """Hue and saturation of the upper map with the luminosity of the lower."""
    return _with_luminosity(above, _luminosity(below))


def luminosity(below: np.ndarray, above: np.ndarray) -> np.ndarray:
    """The luminosity of the upper map with hue and saturation of the lower."""
    return _with_luminosity(below, _luminosity(above))


COLOUR_MODES: dict[str, Mode] = {
    "hue": hue,
    "saturation": saturation,
    "colour": colour,
    "luminosity": luminosity,
}

MODES: dict[str, Mode] = {
    "normal": lambda below, above: above,
    "add": lambda below, above: below + above,
    "subtract": lambda below, above: below - above,
    "signed add": lambda below, above: below + 2 * above - 1,
    "multiply": lambda below, above: below * above,
    "divide": divide,
    "average": lambda below, above: (below + above) * np.float32(0.5),
    "lowest": np.minimum,
    "highest": np.maximum,
    "smooth lowest": smooth_lowest,
    "smooth highest": lambda below, above: -smooth_lowest(-below, -above),
    "difference": lambda below, above: np.abs(below - above),
    "exclusion": lambda below, above: below + above - 2 * below * above,
    "screen": lambda below, above: below + above - below * above,
    "overlay": lambda below, above: hard_light(above, below),
    "soft light": soft_light,
    "hard light": hard_light,
    "colour dodge": colour_dodge,
    "colour burn": colour_burn,
    **COLOUR_MODES,
}


def mode_for(context: Context, name: str, map: np.ndarray) -> Mode:
    """The mode of that name for such maps; of greys, a mode for colours leaves all but luminosity."""
    if name not in COLOUR_MODES or map.ndim == 3:
        return MODES[name]
    context.report(f"The mode '{name}' needs colour; greys have nothing but luminosity.")
    return MODES["normal"] if name == "luminosity" else leave


def leave(below: np.ndarray, above: np.ndarray) -> np.ndarray:
    """The lower map as it is."""
    return below
