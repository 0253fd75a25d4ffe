"""The node catalogue: one folder a family. Called, as `reedloom.kinds()`, it lists all kinds there are."""

from __future__ import annotations

import sys
from types import ModuleType
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from reedloom.kit.kind import Kind


def list_kinds() -> tuple[Kind, ...]:
    """All kinds, the built-in ones and those of the user's own folder, in the order of the creel."""
    from reedloom.kinds.catalogue import all_kinds

    return tuple(all_kinds())


class _Callable(ModuleType):
    """Lets the public function `reedloom.kinds` and the package of that name be one thing."""

    def __call__(self) -> tuple[Kind, ...]:
        return list_kinds()


sys.modules[__name__].__class__ = _Callable
