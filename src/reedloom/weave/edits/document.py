"""Edits of the weave as a whole: its name, surface, recipe, views and home."""

from __future__ import annotations

import os
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from reedloom.errors import FileError, unknown
from reedloom.files import home_path
from reedloom.kinds.catalogue import Kinds
from reedloom.weave.document import Document, Graph, LitState, Recipe, Surface, Viewpoint
from reedloom.weave.edits.base import without


class SetDocument(Struct, frozen=True):
    """Change what the weave is called, its physical surface, recipe, or how the lit view shows it."""

    name: str | None = None
    general: str | None = None
    purpose: str | None = None
    tags: tuple[str, ...] | None = None
    surface: Surface | None = None
    recipe: Recipe | None = None
    lit: LitState | None = None
    label: str = "Change weave"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        return replace(
            document,
            name=document.name if self.name is None else self.name,
            general=document.general if self.general is None else self.general,
            purpose=document.purpose if self.purpose is None else self.purpose,
            tags=document.tags if self.tags is None else self.tags,
            surface=self.surface or document.surface,
            recipe=self.recipe or document.recipe,
            lit=self.lit or document.lit,
        )


class MoveHome(Struct, frozen=True):
    """Let the weave's file lie in a folder: files below it are named from there, others from the root."""

    folder: str
    label: str = "Save"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        graph = self._moved(document.graph, document.folder, kinds)
        motifs = {
            key: replace(motif, graph=self._moved(motif.graph, document.folder, kinds))
            for key, motif in document.motifs.items()
        }
        return replace(document, graph=graph, motifs=motifs, folder=self.folder)

    def _moved(self, graph: Graph, old: str, kinds: Kinds) -> Graph:
        moved = {}
        for node in graph.nodes.values():
            files = [p.name for p in kinds.of(node).parameters if p.is_file and kinds.value(node, p.name)]
            named = {name: self._named(old, kinds.value(node, name)) for name in files}
            changed = {n: v for n, v in named.items() if v != kinds.value(node, n)}
            if changed:
                moved[node.id] = replace(node, parameters=node.parameters | changed)
        return replace(graph, nodes=graph.nodes | moved) if moved else graph

    def _named(self, old: str, file: str) -> str:
        try:
            path = home_path(file)
        except FileError:
            return file  # of somebody who is not here; it names nothing, wherever the weave lies
        if not path.is_absolute():
            if not old:
                return file
            path = Path(old) / path
        path = Path(os.path.normpath(path))
        return path.relative_to(self.folder).as_posix() if path.is_relative_to(self.folder) else str(path)


class KeepViewpoint(Struct, frozen=True):
    """Keep a view point of the lit view under a name; None forgets the name."""

    name: str
    viewpoint: Viewpoint | None
    label: str = "Keep view point"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        if self.viewpoint is not None:
            return replace(document, viewpoints=document.viewpoints | {self.name: self.viewpoint})
        if self.name not in document.viewpoints:
            raise unknown("view point", self.name, document.viewpoints, "in this weave")
        return replace(document, viewpoints=without(document.viewpoints, [self.name]))
