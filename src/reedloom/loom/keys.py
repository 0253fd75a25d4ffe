"""Content keys: equal keys mean bit-identical results."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping
from pathlib import Path

from reedloom.weave.document import Document, End

Size = tuple[int, int]


def file_state(document: Document, file: str) -> list[object]:
    """What tells a file's present content from that of another time: its place, size and last change."""
    path = Path(document.folder) / Path(file).expanduser()
    try:
        state = path.stat()
    except (OSError, ValueError):
        return [str(path), None]
    return [str(path), state.st_size, state.st_mtime_ns]


def node_keys(
    document: Document, order: Iterable[str], inputs: Mapping[str, Mapping[str, End]], size: Size
) -> dict[str, str]:
    """The key of each node's result: a hash of its kind, version, values, size and its inputs' keys.

    `order` has each node after all it needs. The weave's physical size and depth count only for
    kinds that use them, so that changing them recomputes no more than it must.
    """
    surface = document.surface
    keys: dict[str, str] = {}
    for node_id in order:
        node = document.nodes[node_id]
        declared = node.declaration
        tied = {port: (keys[end.node], end.port) for port, end in sorted(inputs[node_id].items())}
        content = [declared.id, declared.version, node.muted, sorted(node.values().items()), size, tied]
        content += [file_state(document, node.value(p.name)) for p in declared.parameters if p.is_file]
        if declared.physical:
            content.append([surface.width, surface.height, surface.depth])
        text = json.dumps(content, sort_keys=True, separators=(",", ":"))
        keys[node_id] = hashlib.blake2b(text.encode(), digest_size=16).hexdigest()
    return keys
