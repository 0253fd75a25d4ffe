"""Finds every declared kind by scanning the family folders; there is no second list to keep."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Mapping
from functools import cache
from pathlib import Path
from types import MappingProxyType

from reedloom.errors import ReedError, unknown
from reedloom.kit.families import FAMILIES
from reedloom.kit.kind import Kind


@cache
def catalogue() -> Mapping[str, Kind]:
    """Every kind by its id, ordered by family and then label."""
    found: dict[str, Kind] = {}
    for module in pkgutil.walk_packages([str(Path(__file__).parent)], __package__ + "."):
        if module.ispkg or module.name.count(".") < 3:
            continue
        for value in vars(importlib.import_module(module.name)).values():
            if isinstance(value, Kind) and found.setdefault(value.id, value) is not value:
                raise ReedError(f"Two kinds have the id '{value.id}'; the second is in {module.name}.")
    order = list(FAMILIES)
    ranked = sorted(found.values(), key=lambda k: (order.index(k.family), k.label))
    return MappingProxyType({k.id: k for k in ranked})


def kinds() -> tuple[Kind, ...]:
    """All kinds in the order of the creel."""
    return tuple(catalogue().values())


def get_kind(kind_id: str) -> Kind:
    """The kind of that id.

    Raises
    ------
    UnknownNameError
        If there is none; the text suggests the nearest ids.
    """
    try:
        return catalogue()[kind_id]
    except KeyError:
        raise unknown("node kind", kind_id, catalogue()) from None
