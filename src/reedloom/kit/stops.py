"""Values at which a slider stops, because what lies between them would be snapped."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from msgspec import Struct, field


class Stop(Struct, frozen=True):
    """One value of a parameter that holds as it is.

    Attributes
    ----------
    value : float
        The parameter's.
    says : str
        What it gives, for whoever drags there.
    also : mapping
        What other parameters must be for that; they are set along with it.
    """

    value: float
    says: str
    also: Mapping[str, Any] = field(default_factory=dict)


Stops = Callable[[Mapping[str, Any], float], Mapping[str, tuple[Stop, ...]]]
"""From a node's values and the tile's height in widths: the stops there are now, by parameter."""


def stop_at(stops: tuple[Stop, ...], value: float) -> Stop | None:
    """The stop that has this value, if there is one."""
    return next((stop for stop in stops if abs(stop.value - value) < 1e-5), None)
