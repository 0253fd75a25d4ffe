"""One editor for each class of parameter; a new module here is found by scanning."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Iterator
from functools import cache

from reedloom.desk.settings.editor import Editor
from reedloom.kit.parameters import Parameter


@cache
def editor_classes() -> dict[type[Parameter], type[Editor]]:
    """The editor of each class of parameter that has one of its own."""
    for module in pkgutil.iter_modules(__path__, __name__ + "."):
        importlib.import_module(module.name)
    return {editor.edits: editor for editor in _below(Editor) if "edits" in vars(editor)}


def _below(editor: type[Editor]) -> Iterator[type[Editor]]:
    for below in editor.__subclasses__():
        yield below
        yield from _below(below)


def make_editor(parameter: Parameter) -> Editor:
    """The editor for a parameter: that of its class, or of the nearest class above."""
    found = editor_classes()
    return next(found[above] for above in type(parameter).__mro__ if above in found)(parameter)
