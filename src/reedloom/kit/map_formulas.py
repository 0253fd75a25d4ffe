"""What formulas over maps can do besides arithmetic: colours, vectors, and chances by number.

A map comes as (H, W, channels): 1 for a grey one, 2 for a vector, 3 for a colour. What has one channel goes
together with all others; a vector and a colour do not.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from reedloom.errors import ReedError
from reedloom.kernels.hashing import unit_chances

FAR = 2.0**62
"""Beyond this numbers have one and the same chance."""


def _part(number: int, name: str) -> Callable[[Any], Any]:
    def take(x: Any) -> Any:
        if np.ndim(x) == 0 or x.shape[-1] == 1:
            return x
        if number >= x.shape[-1]:
            raise ReedError(f"The formula asks for the {name} of a vector, which has only two parts.")
        return x[..., number : number + 1]

    return take


def _joined(*parts: Any) -> Any:
    greys = [part if np.ndim(part) == 0 or part.shape[-1] == 1 else length(part) for part in parts]
    shape = np.broadcast_shapes(*(np.shape(grey) for grey in greys), (1,))
    return np.concatenate([np.broadcast_to(np.asarray(grey, np.float32), shape) for grey in greys], axis=-1)


def length(x: Any) -> Any:
    """How long a vector is, or a colour as three numbers; of one number how far it is from 0."""
    return np.abs(x) if np.ndim(x) == 0 else np.sqrt(np.sum(np.square(x), axis=-1, keepdims=True))


def _dot(a: Any, b: Any) -> Any:
    product = np.multiply(a, b)
    return product if np.ndim(product) == 0 else product.sum(axis=-1, keepdims=True)


def _rotate(vector: Any, degrees: Any) -> Any:
    across, down = _part(0, "across")(vector), _part(1, "down")(vector)
    angle = np.radians(degrees)
    c, s = np.cos(angle), np.sin(angle)
    return _joined(c * across - s * down, s * across + c * down)


def _chance(x: Any, stream: Any = 0) -> Any:
    """A value in 0..1 for each whole number, which has nothing to do with its neighbours'."""
    number = int(np.clip(np.round(np.mean(stream)), -(2**31), 2**31))
    whole = np.clip(np.nan_to_num(np.round(np.asarray(x, np.float64))), -FAR, FAR).astype(np.int64)
    found = unit_chances(0, whole.reshape(-1), number).reshape(whole.shape)
    return float(found) if np.ndim(x) == 0 else found


MAP_FUNCTIONS: dict[str, tuple[Callable[..., Any], int, int]] = {
    "step": (lambda edge, x: np.asarray(np.greater_equal(x, edge), np.float32), 2, 2),
    "mod": (lambda a, b: a - b * np.floor(np.divide(a, np.where(np.equal(b, 0), np.float32(1), b))), 2, 2),
    "pow": (lambda a, b: np.power(np.maximum(a, 0), b), 2, 2),
    "colour": (_joined, 3, 3),
    "vector": (_joined, 2, 2),
    "red": (_part(0, "red"), 1, 1),
    "green": (_part(1, "green"), 1, 1),
    "blue": (_part(2, "blue"), 1, 1),
    "across": (_part(0, "across"), 1, 1),
    "down": (_part(1, "down"), 1, 1),
    "length": (length, 1, 1),
    "dot": (_dot, 2, 2),
    "rotate": (_rotate, 2, 2),
    "chance": (_chance, 1, 2),
}
"""Each function with the least and the greatest number of its arguments."""
