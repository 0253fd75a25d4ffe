"""`Weave`: the friendly face of a session, for scripts."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from reedloom.arguments import takes
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

    @takes(document=Document, kinds=Kinds)
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

    @takes(kind="text")
    def add(self, kind: str, /, **parameters: Any) -> str:
        """Hang a node and return its id.

        Parameters
        ----------
        kind : str
            A kind's id, such as "blur".
        **parameters
            Values by name; the others have their defaults.

        Returns
        -------
        str
            Such as "blur_1".

        Raises
        ------
        ReedError
            If there is no such kind or parameter, or a value is out of range.
        """
        self.kinds.get(kind)
        node_id = self.document.graph.free_id(kind)
        column, row = divmod(len(self.document.graph.nodes), 6)
        self.session.submit(AddNode(node_id, kind, x=column * 180.0, y=row * 190.0, parameters=parameters))
        return node_id

    @takes(node="text")
    def set(self, node: str, /, **parameters: Any) -> None:
        """Give parameters of a node new values.

        Raises
        ------
        ReedError
            If there is no such node or parameter, or a value is out of range.
        """
        self.session.submit(SetParameters(node, parameters))

    @takes(node="text")
    def remove(self, node: str) -> None:
        """Take a node away with its threads."""
        self.session.submit(RemoveNodes((node,)))

    @takes(source="text", target="text")
    def connect(self, source: str, target: str) -> None:
        """Tie an output to an input, each "node" or "node.port"; what was tied there before is untied.

        Raises
        ------
        ConnectError
            If they do not fit, or the threads would run in a circle.
        UnknownNameError
            If there is no such node or port.
        """
        self.session.submit(Connect(self.end(source), self.end(target, output=False)))

    @takes(target="text")
    def disconnect(self, target: str) -> None:
        """Untie whatever is tied to an input."""
        self.session.submit(Disconnect(self.end(target, output=False)))

    @takes(source="text", channel="text")
    def tie(self, source: str, channel: str) -> None:
        """Tie an output to a slot of the map rail, such as "height".

        Parameters
        ----------
        source : str
            "node" or "node.port".
        channel : str
            A channel's id.

        Raises
        ------
        ConnectError
            If the map is of another kind.
        UnknownNameError
            If there is no such node, port or channel.
        """
        self.session.submit(Tie(self.end(source), channel))

    @takes(channel="text")
    def untie(self, channel: str) -> None:
        """Take the thread from a slot of the map rail."""
        self.session.submit(Untie(channel))

    @takes(name="text")
    def rename(self, name: str) -> None:
        """Give the weave a name; delivered files carry it."""
        self.session.submit(SetDocument(name=name))

    @takes(width="number", height="number", depth="number")
    def set_surface(self, width: float = 1.0, height: float = 1.0, depth: float = 0.05) -> None:
        """Say what the tile measures and how deep its height reaches, in metres.

        Parameters
        ----------
        width, height : float
            Metres, above 0.
        depth : float
            Metres between heights of 0 and 1, from 0.

        Raises
        ------
        ReedError
            If one is out of range or no number.
        """
        self.session.submit(SetDocument(surface=Surface(width=width, height=height, depth=depth)))

    @takes(text="text")
    def end(self, text: str, output: bool = True) -> End:
        """What "node" or "node.port" names.

        Parameters
        ----------
        output : bool
            Whether an output is meant, or an input.

        Raises
        ------
        UnknownNameError
            If there is none.
        """
        return parse_end(self.document.graph, self.kinds, text, output)

    def undo(self) -> str | None:
        """Take the last change back; returns what it was."""
        return self.session.undo()

    def redo(self) -> str | None:
        """Bring back what was undone; returns what it was."""
        return self.session.redo()


@takes(path="path", kinds=Kinds)
def open_weave(path: str | Path, kinds: Kinds | None = None) -> Weave:
    """Read a weave from a `.reed` file.

    Parameters
    ----------
    kinds : Kinds, optional
        What its nodes may be of; the built-in ones and a user's own by default.

    Raises
    ------
    FileError
        If it cannot be read, in one sentence that names the place.
    """
    return Weave(load_document(Path(path), kinds), kinds)


@takes(weave=Weave, path="path")
def save_weave(weave: Weave, path: str | Path) -> None:
    """Write a weave whole or not at all; the file's previous version is kept once.

    Parameters
    ----------
    path : path
        Its folder is what paths of picture files are kept relative to.

    Raises
    ------
    FileError
        If it cannot be written; the file is then as it was.
    """
    home = MoveHome(str(Path(path).absolute().parent))
    save_document(home.apply(weave.document, weave.kinds), Path(path), weave.kinds)
    weave.session.amend(home)
    weave.session.mark_saved()
