"""Reed Loom: procedural texture graphs that end in tileable PBR map sets.

Importing this is light; NumPy, Numba and the rest are loaded when first needed.
"""

from __future__ import annotations

import importlib
import sys
from types import ModuleType
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from reedloom.api import deliver, evaluate, evaluate_maps
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
    from reedloom.kinds.catalogue import kinds
    from reedloom.weave.weave import Weave, open_weave, save_weave

__version__ = "0.1.0"

_HOMES = {
    "api": ("deliver", "evaluate", "evaluate_maps"),
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
    "kinds.catalogue": ("kinds",),
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
    "deliver",
    "evaluate",
    "evaluate_maps",
    "kinds",
    "open_weave",
    "save_weave",
]


def __getattr__(name: str) -> Any:
    if name not in _HOME_OF:
        raise AttributeError(f"module 'reedloom' has no attribute '{name}'")
    value = getattr(importlib.import_module(f"reedloom.{_HOME_OF[name]}"), name)
    globals()[name] = value
    return value


class _Package(ModuleType):
    """Keeps `kinds` and `deliver` the public functions although subpackages have the same names.

    Importing a subpackage binds it to its parent; for these names that binding is passed over, and
    ``from reedloom.kinds.catalogue import ...`` works as ever.
    """

    def __setattr__(self, name: str, value: Any) -> None:
        if not (name in _HOME_OF and isinstance(value, ModuleType)):
            super().__setattr__(name, value)


sys.modules[__name__].__class__ = _Package


def __dir__() -> list[str]:
    return sorted(__all__)
