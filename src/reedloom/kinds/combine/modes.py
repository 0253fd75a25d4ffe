"""Blend modes: each is a function of the map below and the map above, both nominally 0..1.

The separable and the four colour modes follow the W3C *Compositing and Blending Level 1*
recommendation, in linear light. Values beyond 0..1 are legal; where a formula divides or takes a
root, its inputs are held to where that is defined.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from reedloom.kernels.blends import (
    COLOUR,
    HUE,
    LUMINOSITY,
    SATURATION,
    lay_colours,
    lay_hard_light,
    lay_share,
    lay_smooth_lowest,
    lay_soft_light,
)
from reedloom.kernels.tones import flat_of, flat_or_one
from reedloom.kit import Context

Mode = Callable[[np.ndarray, np.ndarray], np.ndarray]
TINY = np.float32(1e-6)


def in_a_loop(lay: Callable[..., None], *more: Any, last: int = 1) -> Mode:
    """A mode that a kernel fills, in which the last so many numbers belong together."""

    def mode(below: np.ndarray, above: np.ndarray) -> np.ndarray:
        both = (below, above) if below.shape == above.shape else np.broadcast_arrays(below, above)
        out = np.empty(both[0].shape, np.float32)
        shape = (-1,) if last == 1 else (-1, last)
        flat = (np.ascontiguousarray(map, np.float32).reshape(shape) for map in both)
        lay(*flat, *more, out.reshape(shape))
        return out

    return mode


hard_light = in_a_loop(lay_hard_light)


def colour_dodge(below: np.ndarray, above: np.ndarray) -> np.ndarray:
    """Lightens the lower map to reflect the upper one."""
    shown = np.minimum(1, below / np.maximum(1 - above, TINY))
    return np.where(below <= 0, 0, shown)


def colour_burn(below: np.ndarray, above: np.ndarray) -> np.ndarray:
    """Darkens the lower map to reflect the upper one."""
    shown = 1 - np.minimum(1, (1 - below) / np.maximum(above, TINY))
    return np.where(below >= 1, 1, shown)


def divide(below: np.ndarray, above: np.ndarray) -> np.ndarray:
    """Below over above; a divisor near 0 is held at a thousandth."""
    return below / np.copysign(np.maximum(np.abs(above), np.float32(1e-3)), above)


COLOUR_MODES: dict[str, Mode] = {
    name: in_a_loop(lay_colours, way, last=3)
    for name, way in (
        ("hue", HUE),
        ("saturation", SATURATION),
        ("colour", COLOUR),
        ("luminosity", LUMINOSITY),
    )
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
    "smooth lowest": in_a_loop(lay_smooth_lowest, np.float32(1)),
    "smooth highest": in_a_loop(lay_smooth_lowest, np.float32(-1)),
    "difference": lambda below, above: np.abs(below - above),
    "exclusion": lambda below, above: below + above - 2 * below * above,
    "screen": lambda below, above: below + above - below * above,
    "overlay": lambda below, above: hard_light(above, below),
    "soft light": in_a_loop(lay_soft_light),
    "hard light": hard_light,
    "colour dodge": colour_dodge,
    "colour burn": colour_burn,
    **COLOUR_MODES,
}


def lay_on(
    below: np.ndarray, above: np.ndarray, share: np.ndarray | None, strength: np.float32, out: np.ndarray
) -> None:
    """Go a share of the way from one map to another: rows of greys or colours.

    Parameters
    ----------
    below, above : (H, W) or (H, W, 3) float32
    share : (H, W) float32, optional
        How far; all the way if None.
    strength : float32
        What shares are multiplied by.
    out : float32 of the maps' shape
        Filled; may be the map below.
    """
    if share is None and strength == 1:
        out[...] = above
    else:
        lay_share(flat_of(below), flat_of(above), flat_or_one(share), strength, out.reshape(-1))


def mode_for(context: Context, name: str, map: np.ndarray) -> Mode:
    """The mode of that name for such maps; of greys, a mode for colours leaves all but luminosity."""
    if name not in COLOUR_MODES or map.ndim == 3:
        return MODES[name]
    context.report(f"The mode '{name}' needs colour; greys have nothing but luminosity.")
    return MODES["normal"] if name == "luminosity" else leave


def leave(below: np.ndarray, above: np.ndarray) -> np.ndarray:
    """The lower map as it is."""
    return below
