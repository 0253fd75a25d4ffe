"""Content keys: equal keys mean bit-identical results."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from pathlib import Path
from weakref import WeakKeyDictionary

from reedloom.errors import FileError
from reedloom.files import home_path
from reedloom.picture_files import content_digest
from reedloom.weave.resolve import FlatGraph, Resolved

Size = tuple[int, int]
"""Width and height in samples."""
Ref = tuple[str, str]
"""A result: the key of the task that makes it, and an output's name."""


def file_state(folder: str, file: str) -> list[object]:
    """What tells a file's present content from any other: a hash of it; its place where there is none."""
    try:
        return ["content", content_digest(Path(folder) / home_path(file))]
    except FileError:
        return [file, None]


def node_key(flat: FlatGraph, node: Resolved, inputs: Mapping[str, Ref], size: Size) -> str:
    """The key of a node's result: a hash of its kind, version, values, size and its inputs' keys.

    The weave's physical size and depth count only for kinds that use them, and its shape only where the
    tile is not square, so that changing them recomputes no more than it must.
    """
    kind, surface = node.kind, flat.surface
    content: list[object] = [own_digest(node), size, sorted(inputs.items())]
    content += [file_state(flat.folder, node.values[p.name]) for p in kind.parameters if p.is_file]
    if kind.physical:
        content.append([surface.width, surface.height, surface.depth])
    elif surface.width != surface.height:
        content.append(surface.height / surface.width)
    return digest(content)


def own_digest(node: Resolved) -> str:
    """A hash of what a node is by itself: its kind, version, values, and whether it is muted."""
    known = _own.get(node)
    if known is None:
        known = digest([node.kind.id, node.kind.version, node.muted, sorted(node.values.items())])
        _own[node] = known
    return known


_own: WeakKeyDictionary[Resolved, str] = WeakKeyDictionary()


def conversion_key(source: Ref, wanted: str) -> str:
    """The key of a result turned into another kind of data."""
    return digest(["convert", source, wanted])


def digest(content: object) -> str:
    """A hash of plain data."""
    return hashlib.blake2b(_as_text(content).encode(), digest_size=16).hexdigest()


_as_text = json.JSONEncoder(sort_keys=True, separators=(",", ":")).encode
