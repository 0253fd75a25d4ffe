"""Values that flow through threads: telling kinds of data apart, freezing and converting them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from reedloom.errors import ReedError
from reedloom.kernels.colours import grey_as_colour, luminance
from reedloom.kernels.maps import empty_map
from reedloom.kernels.points import VERTEX
from reedloom.kit.data import COLOUR, GREY, ISLANDS, MATERIAL, PATHS, POINTS, VECTOR, Data, Material


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


def convert(value: Any, accepted: Data, map_bands: Callable[..., np.ndarray] | None = None) -> Any:
    """A grey repeated as colour, or a colour's luminance, if `accepted` asks for it; read-only like the rest.

    Parameters
    ----------
    map_bands : callable, optional
        As `Context.map_bands`, for maps that are large; else it is done in one piece, and compiles nothing.

    Raises
    ------
    ReedError
        If the value is of another kind.
    """
    data = data_of(value)
    if data & accepted:
        return value
    if data is GREY and COLOUR in accepted:
        return frozen(map_bands(grey_as_colour, value, channels=3) if map_bands else grey_as_colour(value))
    if data is COLOUR and GREY in accepted:
        return frozen(map_bands(_luminance, value, channels=1) if map_bands else luminance(value))
    raise ReedError(f"{data.word} cannot become {accepted.word}.")


def _luminance(colour: np.ndarray) -> np.ndarray:
    """`luminance`, compiled."""
    from reedloom.kernels.hues import GREYS, grey_colours  # which a window does not need before it shows

    out = empty_map(colour.shape[:2])
    grey_colours(colour.reshape(-1, 3), GREYS.index("luminance"), out.reshape(-1))
    return out
