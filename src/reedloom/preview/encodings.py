"""Turns maps into eight-bit pictures and small statistics for the screen; no Qt."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from reedloom.kernels.colours import linear_from_srgb, luminance, srgb_from_linear
from reedloom.kernels.places import slope_rows

_STEPS = 4096
_PLAIN = np.round(np.linspace(0, 255, _STEPS)).astype(np.uint8)
_SRGB = np.round(srgb_from_linear(np.linspace(0, 1, _STEPS)) * 255).astype(np.uint8)

LOOKS = ("plain", "false colour", "relief")
CHANNEL_CHOICES = ("all", "red", "green", "blue")
BINS = 64

# A dark-to-light ramp whose lightness rises evenly: ink, heron blue, reed green, straw, cream.
_RAMP = np.array([[22, 20, 32], [44, 74, 110], [78, 132, 120], [176, 164, 84], [246, 236, 208]], np.float64)


def encode(values: np.ndarray, srgb: bool) -> np.ndarray:
    """Values of 0..1 as bytes, through the sRGB transfer for light."""
    table = _SRGB if srgb else _PLAIN
    return table[(np.clip(values, 0, 1) * np.float32(_STEPS - 1) + np.float32(0.5)).astype(np.int16)]


def rgb_picture(
    array: np.ndarray, *, plain: bool = False, look: str = "plain", channel: str = "all", relief: float = 0.05
) -> np.ndarray:
    """A map as (H, W, 3) bytes.

    Parameters
    ----------
    array : (H, W), (H, W, 3) or (H, W, 2) float32
        Grey, colour or vector; a vector shows u as red and v as green.
    plain : bool
        Whether a colour map holds numbers rather than light.
    look : one of LOOKS
        For grey: as it is, in false colour, or as a surface lit from the upper left.
    channel : one of CHANNEL_CHOICES
        One channel of a colour map, as grey.
    relief : float
        Depth of the surface as a share of the tile, for the relief.
    """
    if array.ndim == 3 and array.shape[2] == 2:
        array = np.dstack([array % 1, np.zeros(array.shape[:2], np.float32)])
        plain = True
    if array.ndim == 3 and channel != "all":
        array, plain = np.ascontiguousarray(array[..., CHANNEL_CHOICES.index(channel) - 1]), True
    if look == "relief":
        return _grey_to_rgb(encode(lit_relief(array if array.ndim == 2 else luminance(array), relief), True))
    if array.ndim == 2:
        return false_colour(array) if look == "false colour" else _grey_to_rgb(encode(array, False))
    return encode(array, not plain)


def _grey_to_rgb(grey: np.ndarray) -> np.ndarray:
    return np.repeat(grey[..., None], 3, axis=2)


def false_colour(array: np.ndarray) -> np.ndarray:
    """Grey values as hues; below 0 is shown in dark red, above 1 in bright red."""
    t = np.clip(array, 0, 1) * (len(_RAMP) - 1)
    cell = np.minimum(t.astype(np.int64), len(_RAMP) - 2)
    out = _RAMP[cell] + (t - cell)[..., None] * (_RAMP[cell + 1] - _RAMP[cell])
    out[array < 0] = (120, 20, 20)
    out[array > 1] = (255, 80, 60)
    return np.round(out).astype(np.uint8)


def lit_relief(height: np.ndarray, depth: float) -> np.ndarray:
    """Light on a matt surface from the upper left, 0.18 where it is level."""
    rows, columns = height.shape
    slope = np.empty((rows, columns, 2), np.float32)
    slope_rows(np.ascontiguousarray(height), 1 / columns, 1 / columns, slope, 0, rows)
    return lambert(slope[..., 0] * -np.float32(depth), slope[..., 1] * -np.float32(depth)) * np.float32(0.18)


def lambert(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Lambert shade of unnormalised normals (x right, y down, z = 1), 1 for a level surface."""
    light = np.array([-0.45, -0.55, 0.70], np.float32)
    return np.maximum(0, (x * light[0] + y * light[1] + light[2]) / np.sqrt(x * x + y * y + 1)) / light[2]


def shaded_material(maps: Mapping[str, np.ndarray]) -> np.ndarray:
    """A material as a picture, `lit_material` as (H, W, 3) bytes."""
    return encode(lit_material(maps), True)


def lit_material(maps: Mapping[str, np.ndarray]) -> np.ndarray:
    """Base colour under a light from the upper left, with normals and occlusion where there are any.

    maps : channel to array, all of one size. Returns (H, W, 3) float32 in linear light.
    """
    colour = maps.get("base_colour")
    shape = next(iter(maps.values())).shape[:2]
    if colour is None:
        colour = np.full((*shape, 3), 0.4, np.float32)
    elif colour.ndim == 2:
        colour = np.repeat(colour[..., None], 3, axis=2)
    shade = np.ones(shape, np.float32)
    if "normal" in maps and maps["normal"].ndim == 3:
        n = maps["normal"] * 2 - 1
        z = np.maximum(n[..., 2], np.float32(1e-3))
        shade = lambert(n[..., 0] / z, -n[..., 1] / z)
    open_sky = maps.get("ambient_occlusion", np.ones(shape, np.float32))
    open_sky = open_sky if open_sky.ndim == 2 else luminance(open_sky)
    lit: np.ndarray = colour * (shade * np.float32(0.85) + np.float32(0.3) * open_sky)[..., None]
    return lit


@dataclass(frozen=True, slots=True, eq=False)
class Tones:
    """The spread of a map's values.

    Attributes
    ----------
    counts : (BINS,) float64
        Share of the samples in each even step from 0 to 1; values beyond are in none.
    low, high : float
        Least and greatest value.
    below, above : float
        Share of samples below 0 and above 1.
    """

    counts: np.ndarray
    low: float
    high: float
    below: float
    above: float


def measure_tones(array: np.ndarray) -> Tones:
    """The histogram of a map; of its luminance for colour, of all numbers for a vector."""
    values = luminance(array) if array.ndim == 3 and array.shape[2] == 3 else array
    flat = np.ascontiguousarray(values).reshape(-1)
    inside = flat[(flat >= 0) & (flat <= 1)]
    counts = np.bincount((inside * np.float32(BINS - 1e-3)).astype(np.int64), minlength=BINS)[:BINS]
    tiny = 1e-4
    return Tones(counts / max(1, flat.size), float(flat.min()), float(flat.max()),
                 float((flat < -tiny).mean()), float((flat > 1 + tiny).mean()))  # fmt: skip


def hex_colour(linear: tuple[float, ...]) -> str:
    """A linear colour as an sRGB hex code."""
    return "#" + "".join(
        f"{round(float(v) * 255):02x}" for v in srgb_from_linear(np.array(linear, np.float64))
    )


def colour_from_bytes(red: int, green: int, blue: int) -> tuple[float, float, float]:
    """sRGB bytes as a linear colour."""
    r, g, b = (round(float(v), 6) for v in linear_from_srgb(np.array([red, green, blue]) / 255))
    return r, g, b
