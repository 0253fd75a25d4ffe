"""`Weave`: the friendly face of a session, for scripts."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from reedloom.kinds.catalogue import Kinds
from reedloom.weave.document import Document, End, Surface
from reedloom.weave.edits import (
    AddNode,
    Connect,
    Disconnect,
    MoveHome,
    RemoveNodes,
    SetDocument,
    SetParameters,
    Tie,
    Untie,
)
from reedloom.weave.fileformat import load_document, save_document
from reedloom.weave.graph import parse_end
from reedloom.weave.session import Session


class Weave:
    """A weave that a script builds or changes.

    Every method raises a `ReedError` that names the thing and what would be allowed; the weave is
    then as it was.
    """

    def __init__(self, document: Document | None = None, kinds: Kinds | None = None) -> None:
        self.session = Session(document, kinds)

    @property
    def document(self) -> Document:
        """The present document: plain frozen data."""
        return self.session.document

    @property
    def kinds(self) -> Kinds:
        """The kinds that its nodes may be of."""
        return self.session.kinds

    def add(self, kind: str, /, **parameters: Any) -> str:
        """Hang a node and return its id."""
        self.kinds.get(kind)
        node_id = self.document.graph.free_id(kind)
        column, row = divmod(len(self.document.graph.nodes), 6)
        self.session.submit(AddNode(node_id, kind, x=column * 180.0, y=row * 190.0, parameters=parameters))
        return node_id

    def set(self, node: str, /, **parameters: Any) -> None:
        """Give parameters of a node new values."""
        self.session.submit(SetParameters(node, parameters))

    def remove(self, node: str) -> None:
        """Take a node away with its threads."""
        self.session.submit(RemoveNodes((node,)))

    def connect(self, source: str, target: str) -> None:
        """Tie an output to an input, each "node" or "node.port"; raises `ConnectError` if it cannot be."""
        self.session.submit(Connect(self.end(source), self.end(target, output=False)))

    def disconnect(self, target: str) -> None:
        """Untie whatever is tied to an input."""
        self.session.submit(Disconnect(self.end(target, output=False)))

    def tie(self, source: str, channel: str) -> None:
        """Tie an output to a slot of the map rail, such as "height"."""
        self.session.submit(Tie(self.end(source), channel))

    def untie(self, channel: str) -> None:
        """Take the thread from a slot of the map rail."""
        self.session.submit(Untie(channel))

    def rename(self, name: str) -> None:
        """Give the weave a name; delivered files carry it."""
        self.session.submit(SetDocument(name=name))

    def set_surface(self, width: float = 1.0, height: float = 1.0, depth: float = 0.05) -> None:
        """Say what the tile measures and how deep its height reaches, in metres."""
        self.session.submit(SetDocument(surface=Surface(width=width, height=height, depth=depth)))

    def end(self, text: str, output: bool = True) -> End:
        """What "node" or "node.port" names, an output or an input; `UnknownNameError` if there is none."""
        return parse_end(self.document.graph, self.kinds, text, output)

    def undo(self) -> str | None:
        """Take the last change back; returns what it was."""
        return self.session.undo()

    def redo(self) -> str | None:
        """Bring back what was undone; returns what it was."""
        return self.session.redo()


def open_weave(path: str | Path, kinds: Kinds | None = None) -> Weave:
    """Read a weave from a `.reed` file; raises `FileError` in one sentence if it cannot be."""
    return Weave(load_document(Path(path), kinds), kinds)


def save_weave(weave: Weave, path: str | Path) -> None:
    """Write a weave whole or not at all; the file's previous version is kept once."""
    home = MoveHome(str(Path(path).absolute().parent))
    save_document(home.apply(weave.document, weave.kinds), Path(path), weave.kinds)
    weave.session.amend(home)
    weave.session.mark_saved()
