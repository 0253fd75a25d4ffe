"""Turns maps into eight-bit pictures and small statistics for the screen; no Qt."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache as once

import numpy as np
from msgspec import Struct

from reedloom.kernels.colours import grey_as_colour, linear_from_srgb, luminance, srgb_from_linear
from reedloom.kernels.pictures import count_tones, encode_values, light_colours, light_slopes
from reedloom.kernels.places import slope_rows
from reedloom.kernels.tones import flat_of

_STEPS = 4096
_PLAIN = np.round(np.linspace(0, 255, _STEPS)).astype(np.uint8)
_SRGB = np.round(srgb_from_linear(np.linspace(0, 1, _STEPS)) * 255).astype(np.uint8)

LOOKS = ("plain", "false colour", "relief")
CHANNEL_CHOICES = ("all", "red", "green", "blue")
BINS = 64
_NONE = np.empty(0, np.float32)

# A dark-to-light ramp whose lightness rises evenly: ink, heron blue, reed green, straw, cream.
_RAMP = np.array([[22, 20, 32], [44, 74, 110], [78, 132, 120], [176, 164, 84], [246, 236, 208]], np.float64)


def encode(values: np.ndarray, srgb: bool) -> np.ndarray:
    """Values of 0..1 as bytes, through the sRGB transfer for light."""
    out = np.empty(values.shape, np.uint8)
    encode_values(flat_of(values), _SRGB if srgb else _PLAIN, out.reshape(-1))
    return out


@once
def make_ready() -> None:
    """Load all that pictures need, off the window's thread, which must not wait for a compiler."""
    grey, colour = np.zeros((2, 2), np.float32), np.zeros((2, 2, 3), np.float32)
    shaded_material({"base_colour": colour, "normal": colour, "ambient_occlusion": grey})
    rgb_picture(grey, look="relief")
    for array in (grey, colour):
        measure_tones(array)


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
        height = array if array.ndim == 2 else luminance(array)
        return grey_as_colour(encode(lit_relief(height, relief), True))
    if array.ndim == 2:
        return false_colour(array) if look == "false colour" else grey_as_colour(encode(array, False))
    return encode(array, not plain)


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
    slope_rows(flat_of(height).reshape(rows, columns), 1 / columns, 1 / columns, slope, 0, rows)
    lit = np.empty((rows, columns), np.float32)
    light_slopes(flat_of(slope).reshape(-1, 2), np.float32(depth), lit.reshape(-1))
    return lit * np.float32(0.18)


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
        colour = grey_as_colour(colour)
    normal, sky = maps.get("normal"), maps.get("ambient_occlusion")
    if sky is not None and sky.ndim == 3:
        sky = luminance(sky)
    lit = np.empty((*shape, 3), np.float32)
    light_colours(
        flat_of(colour).reshape(-1, 3),
        flat_of(_NONE if normal is None or normal.ndim == 2 else normal).reshape(-1, 3),
        flat_of(_NONE if sky is None else sky),
        lit.reshape(-1, 3),
    )
    return lit


class Tones(Struct, frozen=True, eq=False):
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
    channels = 3 if array.ndim == 3 and array.shape[2] == 3 else 1
    values = flat_of(array).reshape(-1, channels)
    counts, ends = np.zeros(BINS, np.int64), np.empty(4, np.float64)
    count_tones(values, counts, ends)
    size = max(1, len(values))
    return Tones(counts / size, float(ends[0]), float(ends[1]), float(ends[2]) / size, float(ends[3]) / size)


def hex_colour(linear: tuple[float, ...]) -> str:
    """A linear colour as an sRGB hex code."""
    return "#" + "".join(
        f"{round(float(v) * 255):02x}" for v in srgb_from_linear(np.array(linear, np.float64))
    )


def colour_from_bytes(red: int, green: int, blue: int) -> tuple[float, float, float]:
    """sRGB bytes as a linear colour."""
    r, g, b = (round(float(v), 6) for v in linear_from_srgb(np.array([red, green, blue]) / 255))
    return r, g, b
