"""What edits are: small frozen objects that each take a graph, or a document, to the next one."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING, Any, Protocol, runtime_checkable

from msgspec import Struct
from msgspec.structs import replace

from reedloom.errors import unknown
from reedloom.kinds.catalogue import Kinds
from reedloom.weave.document import Document, Graph


@runtime_checkable
class Edit(Protocol):
    """Anything that takes a document to the next one."""

    @property
    def label(self) -> str:
        """What the history calls it."""

    def apply(self, document: Document, kinds: Kinds) -> Document:
        """The document after the edit; the given one stays as it is.

        Parameters
        ----------
        kinds : Kinds
            What nodes may be of.

        Raises
        ------
        ReedError
            If the edit cannot be applied.
        """


class GraphEdit(Struct, frozen=True):
    """An edit of one graph, the weave's own or that inside a motif."""

    if TYPE_CHECKING:  # what each edit has

        @property
        def label(self) -> str: ...

        def change(self, graph: Graph, kinds: Kinds) -> Graph:
            """The graph after the edit, as `Edit.apply` has it of a document; raises a `ReedError` too."""

    def apply(self, document: Document, kinds: Kinds) -> Document:
        """The document after the edit of its own graph."""
        return Inside(self, "").apply(document, kinds)


class Inside(Struct, frozen=True):
    """An edit of a graph lifted into the document: into a motif, or the weave's own where that is empty."""

    edit: GraphEdit
    motif: str

    @property
    def label(self) -> str:
        return self.edit.label

    def apply(self, document: Document, kinds: Kinds) -> Document:
        if not self.motif:
            return replace(document, graph=self.edit.change(document.graph, kinds))
        if self.motif not in document.motifs:
            raise unknown("motif", self.motif, document.motifs, "in this weave")
        motif = document.motifs[self.motif]
        changed = replace(motif, graph=self.edit.change(motif.graph, kinds))
        return replace(document, motifs=document.motifs | {self.motif: changed})


class Batch(GraphEdit, frozen=True):
    """Several edits of a graph as one step."""

    label: str
    edits: tuple[GraphEdit, ...]

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        for edit in self.edits:
            graph = edit.change(graph, kinds)
        return graph


def without(mapping: Mapping[str, Any], keys: Iterable[str]) -> dict[str, Any]:
    """A copy of a mapping with some keys left out."""
    gone = set(keys)
    return {key: value for key, value in mapping.items() if key not in gone}
