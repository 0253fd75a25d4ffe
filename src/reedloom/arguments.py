"""Says in a sentence what an argument of a public function is not, before anything is done with it."""

from __future__ import annotations

import functools
import inspect
import os
from collections.abc import Callable, Iterable
from typing import Any, TypeVar

from reedloom.errors import ReedError, readable

_Function = TypeVar("_Function", bound=Callable[..., Any])


def _is_texts(value: Any) -> bool:
    return isinstance(value, Iterable) and not isinstance(value, (bytes, str))


WANTED: dict[str, tuple[Callable[[Any], bool], str]] = {
    "text": (lambda v: isinstance(v, str), "a text"),
    "path": (lambda v: isinstance(v, (str, os.PathLike)), "a path, as text or pathlib.Path"),
    "texts": (_is_texts, "a list of texts"),
    "number": (lambda v: isinstance(v, (int, float)) and not isinstance(v, bool), "a number"),
    "function": (callable, "a function"),
}
"""For each word that `takes` knows: how to tell such a value, and what it is called."""


def takes(**wanted: str | type) -> Callable[[_Function], _Function]:
    """Have arguments looked at before the function runs.

    Parameters
    ----------
    **wanted
        For an argument a word of `WANTED`, or a class; None is let through where it is the default.
    """

    def decorate(function: _Function) -> _Function:
        signature = inspect.signature(function)

        @functools.wraps(function)
        def looked_at(*given: Any, **named: Any) -> Any:
            bound = signature.bind(*given, **named)
            for name, want in wanted.items():
                if name in bound.arguments:
                    _look(function, name, bound.arguments[name], want, signature.parameters[name].default)
            return function(*given, **named)

        return looked_at  # type: ignore[return-value]

    return decorate


def _look(function: Callable[..., Any], name: str, value: Any, want: str | type, default: Any) -> None:
    if value is None and default is None:
        return
    if isinstance(want, str):
        fits, called = WANTED[want]
    else:
        fits, called = (lambda v: isinstance(v, want)), f"a {want.__name__}"
    if not fits(value):
        raise ReedError(
            f"{function.__name__}() cannot take {readable(repr(value), 40)} as '{name}'; give {called}."
        )
