"""What flows through threads, as values: telling kinds apart, converting, and making maps to look at."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.errors import ReedError
from reedloom.kernels.colours import luminance
from reedloom.kernels.points import VERTEX, draw_courses, draw_marks
from reedloom.kinds.declare import COLOUR, GREY, ISLANDS, MATERIAL, PATHS, POINTS, VECTOR, Data, Material
from reedloom.loom.pictures import lit_material


def data_of(value: Any) -> Data:
    """What kind of data a value is, from its type and shape."""
    if isinstance(value, Material):
        return MATERIAL
    if value.dtype.names is not None:
        return PATHS if value.dtype == VERTEX else POINTS
    if value.dtype == np.int32:
        return ISLANDS
    if value.ndim == 2:
        return GREY
    return COLOUR if value.shape[2] == 3 else VECTOR


def frozen(value: Any) -> Any:
    """A computed value as it is kept: contiguous, of the one type its kind of data has, and read-only."""
    if isinstance(value, Material):
        return Material({channel: frozen(array) for channel, array in value.items()})
    array = np.ascontiguousarray(value)
    if array.dtype.names is None and array.dtype != np.int32:
        array = np.ascontiguousarray(array, np.float32)
    array.flags.writeable = False
    return array


def convert(value: Any, accepted: Data) -> Any:
    """A grey repeated as colour, or a colour's luminance, if `accepted` asks for it; read-only like the rest.

    Raises
    ------
    ReedError
        If the value is of another kind.
    """
    data = data_of(value)
    if data & accepted:
        return value
    if data is GREY and COLOUR in accepted:
        return frozen(np.repeat(value[..., None], 3, axis=2))
    if data is COLOUR and GREY in accepted:
        return frozen(luminance(value))
    raise ReedError(f"{data.word} cannot become {accepted.word}.")


def as_map(value: Any, width: int, height: int) -> np.ndarray:
    """A value as a map to look at: points as marks, islands and materials as colours; maps as they are."""
    data = data_of(value)
    if data is POINTS:
        return draw_marks(value, width, height)
    if data is PATHS:
        return draw_courses(value, width, height)
    if data is ISLANDS:
        return island_colours(value)
    if data is MATERIAL:
        if not value:
            return np.zeros((height, width, 3), np.float32)
        return np.clip(lit_material(value), 0, 1)
    return value


def island_colours(labels: np.ndarray) -> np.ndarray:
    """A colour for every label, black for 0: (H, W, 3) float32."""
    golden = np.float32(0.6180339887)
    hue = (labels.astype(np.float32) * golden) % 1
    shade = np.stack(
        [np.float32(0.24) + np.float32(0.15) * np.cos(2 * np.pi * (hue + k / 3)) for k in range(3)], axis=-1
    )
    return np.where(labels[..., None] > 0, shade, np.float32(0)).astype(np.float32)
