"""Colour arithmetic: sRGB transfer, luminance, OKLab, and hue, saturation and luminosity blends."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.maps import empty_map

LUMINANCE = np.array([0.2126, 0.7152, 0.0722], np.float32)
"""Weights of the sRGB primaries (IEC 61966-2-1)."""

LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
"""From linear sRGB to what cones see, in OKLab's sense."""
LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
"""From the cube roots of those to lightness, a and b."""


def grey_as_colour(grey: np.ndarray) -> np.ndarray:
    """A grey map in all three channels: (H, W) of any type to (H, W, 3) of the same."""
    out = empty_map((*grey.shape, 3), grey.dtype)
    for channel in range(3):  # repeating takes three times as long
        out[..., channel] = grey
    return out


def srgb_from_linear(linear: np.ndarray) -> np.ndarray:
    """Encode linear light of 0..1 with the transfer curve of IEC 61966-2-1.

    Parameters
    ----------
    linear : float32 of any shape
        0 to 1; what is beyond is held there.

    Returns
    -------
    float32 of the same shape, 0 to 1
    """
    linear = np.clip(linear, 0, 1)
    return np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055).astype(
        linear.dtype
    )


def linear_from_srgb(encoded: np.ndarray) -> np.ndarray:
    """Decode sRGB values of 0..1 to linear light (IEC 61966-2-1).

    Parameters
    ----------
    encoded : float32 of any shape
        0 to 1.

    Returns
    -------
    float32 of the same shape, 0 to 1
    """
    encoded = np.asarray(encoded)
    bright = ((np.maximum(encoded, 0.04045) + 0.055) / 1.055) ** 2.4
    return np.where(encoded <= 0.04045, encoded / 12.92, bright)


def luminance(colour: np.ndarray) -> np.ndarray:
    """The grey of a linear colour map: (H, W, 3) to (H, W) float32."""
    return colour[..., 0] * LUMINANCE[0] + colour[..., 1] * LUMINANCE[1] + colour[..., 2] * LUMINANCE[2]


def oklab_from_linear(linear: np.ndarray) -> np.ndarray:
    """Linear sRGB to OKLab (B. Ottosson, *A perceptual color space for image processing*, 2020).

    Parameters
    ----------
    linear : (..., 3) float32

    Returns
    -------
    (..., 3) float32: lightness 0 to 1, and a and b within about ± 0.4
    """
    return np.cbrt(np.asarray(linear) @ LMS.T) @ LAB.T


def linear_from_oklab(lab: np.ndarray) -> np.ndarray:
    """OKLab back to linear sRGB.

    Parameters
    ----------
    lab : (..., 3) float32

    Returns
    -------
    (..., 3) float32, beyond 0 to 1 where sRGB has no such colour
    """
    return np.asarray((np.asarray(lab) @ np.linalg.inv(LAB).T) ** 3 @ np.linalg.inv(LMS).T)


def oklch_from_linear(linear: np.ndarray) -> np.ndarray:
    """Linear sRGB to lightness, chroma and hue (turns, 0..1) in OKLab.

    Parameters
    ----------
    linear : (..., 3) float32

    Returns
    -------
    (..., 3) float32: lightness 0 to 1, chroma from 0, hue 0 to 1
    """
    lab = oklab_from_linear(linear)
    hue = np.arctan2(lab[..., 2], lab[..., 1]) / (2 * np.pi) % 1
    return np.stack([lab[..., 0], np.hypot(lab[..., 1], lab[..., 2]), hue], axis=-1)


def linear_from_oklch(lch: np.ndarray) -> np.ndarray:
    """Lightness, chroma and hue (turns) back to linear sRGB.

    Parameters
    ----------
    lch : (..., 3) float32

    Returns
    -------
    (..., 3) float32
    """
    angle = lch[..., 2] * (2 * np.pi)
    lab = [lch[..., 0], lch[..., 1] * np.cos(angle), lch[..., 1] * np.sin(angle)]
    return linear_from_oklab(np.stack(lab, axis=-1))
