"""Where Numba keeps compiled kernels: by what they are compiled from, wherever their sources lie."""

from __future__ import annotations

from pathlib import Path

from numba.core.caching import UserProvidedCacheLocator

PACKAGE = Path(__file__).parent.parent


class BySources(UserProvidedCacheLocator):
    """The folder that Numba is told, which `jit.cache_folder` names by all sources, and in it the module's.

    Numba would name it by the path of the sources too, so that a second copy of them found nothing.
    """

    @classmethod
    def get_suitable_cache_subpath(cls, py_file: str) -> str:
        """The folder of a source below the package's; of others, what Numba makes of it."""
        path = Path(py_file)
        if not path.is_relative_to(PACKAGE):
            return str(super().get_suitable_cache_subpath(py_file))  # type: ignore[no-untyped-call]
        return str(path.parent.relative_to(PACKAGE))
