"""Ways and places, two numbers to a sample, as one complex number each: so the library takes many at once.

It goes along an array's last axis at once; where that holds two numbers, it takes ten times as long.
"""

from __future__ import annotations

import numpy as np


def numbers_of(ways: np.ndarray) -> np.ndarray:
    """Ways (..., 2) float32 as complex numbers (...): what is done to these is done to the ways."""
    return np.ascontiguousarray(ways, np.float32).view(np.complex64)[..., 0]


def ways_of(numbers: np.ndarray) -> np.ndarray:
    """Complex numbers (..., n) as ways (..., n, 2) float32."""
    return numbers.view(np.float32).reshape(*numbers.shape, 2)


def length_of(across: np.ndarray, down: np.ndarray) -> np.ndarray:
    """How long ways are whose two numbers lie in two maps, each far below 1e19.

    By their squares: the library's own, which looks after larger ones, takes each by itself.
    """
    found: np.ndarray = np.sqrt(across * across + down * down)
    return found


def number_of(across: float, down: float) -> np.complex64:
    """One way as a complex number."""
    return np.complex64(complex(across, down))


def towards(
    angle: np.ndarray | np.float32, length: np.ndarray | np.float32, out: np.ndarray | None = None
) -> np.ndarray:
    """Numbers of ways at an angle in radians, clockwise from the right; times these, others are turned so.

    They are new ones, or put into those given.
    """
    shape = np.broadcast_shapes(np.shape(angle), np.shape(length))
    found = np.empty(shape, np.complex64) if out is None else out
    np.multiply(length, np.cos(angle), out=found.real)
    np.multiply(length, np.sin(angle), out=found.imag)
    return found
