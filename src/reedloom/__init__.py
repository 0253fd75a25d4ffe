"""Reed Loom: procedural texture graphs that end in tileable PBR map sets.

Importing this is light; NumPy, Numba and the rest are loaded when first needed.
"""

from __future__ import annotations

import importlib
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from reedloom.api import bound_cache, clear_cache, deliver, evaluate, evaluate_maps
    from reedloom.errors import (
        Cancelled,
        ConnectError,
        EvaluationError,
        FileError,
        ReedError,
        UnknownNameError,
        ValueRangeError,
    )
    from reedloom.kernels.jit import Stop
    from reedloom.kinds import list_kinds as kinds
    from reedloom.weave.weave import Weave, open_weave, save_weave

__version__ = "0.1.0"

_HOMES = {
    "api": ("bound_cache", "clear_cache", "deliver", "evaluate", "evaluate_maps"),
    "errors": (
        "Cancelled",
        "ConnectError",
        "EvaluationError",
        "FileError",
        "ReedError",
        "UnknownNameError",
        "ValueRangeError",
    ),
    "kernels.jit": ("Stop",),
    "weave.weave": ("Weave", "open_weave", "save_weave"),
}
_HOME_OF = {name: home for home, names in _HOMES.items() for name in names}

__all__ = [
    "Cancelled",
    "ConnectError",
    "EvaluationError",
    "FileError",
    "ReedError",
    "Stop",
    "UnknownNameError",
    "ValueRangeError",
    "Weave",
    "bound_cache",
    "clear_cache",
    "deliver",
    "evaluate",
    "evaluate_maps",
    "kinds",
    "open_weave",
    "save_weave",
]


def __getattr__(name: str) -> Any:
    if name == "kinds":  # the package itself, which can be called
        return importlib.import_module("reedloom.kinds")
    if name not in _HOME_OF:
        raise AttributeError(f"module 'reedloom' has no attribute '{name}'")
    value = getattr(importlib.import_module(f"reedloom.{_HOME_OF[name]}"), name)
    globals()[name] = value
    return value


def __dir__() -> list[str]:
    return sorted(__all__)
