"""`Weave`: the friendly face of a session, for scripts."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

from reedloom.arguments import takes
from reedloom.errors import unknown
from reedloom.kinds.catalogue import Kinds
from reedloom.weave.dials import find_by_name, free_dial_id
from reedloom.weave.document import Dial, Document, End, Surface
from reedloom.weave.edits import (
    AddNode,
    Connect,
    Disconnect,
    MoveHome,
    PackMotif,
    PutColourway,
    PutDial,
    RemoveDial,
    RemoveNodes,
    SetDocument,
    SetFormula,
    SetParameters,
    Tie,
    TurnDials,
    UnpackMotif,
    Untie,
)
from reedloom.weave.edits.motifs import free_motif_id
from reedloom.weave.fileformat import load_document, save_document
from reedloom.weave.graph import parse_end
from reedloom.weave.motifs import MOTIF
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

    # -- reuse ----------------------------------------------------------------------------------------

    @takes(name="text", label="text", group="text", type="text", help="text", unit="text")
    def add_dial(self, name: str, /, type: str = "", **fields: Any) -> str:
        """Offer a value to the weave's user, and return the dial's id.

        Parameters
        ----------
        name : str
            The id by which formulas read it: small letters, digits and underscores.
        type : str
            The word of a parameter type, as `reedloom kinds --json` gives it; "float" if not given.
        **fields
            `label`, `group`, `default`, `useful` and `hard` range, `unit`, `choices`, `help`.

        Raises
        ------
        ReedError
            If a field is unknown or cannot be.
        """
        unknown_fields = fields.keys() - set(Dial.__struct_fields__)
        if unknown_fields:
            raise unknown("field of a dial", min(unknown_fields), Dial.__struct_fields__)
        label = fields.pop("label", name.replace("_", " ").capitalize())
        self.session.submit(PutDial("", name, Dial(type=type or "float", label=label, **fields)))
        return name

    @takes(node="text", parameter="text", formula="text")
    def follow(self, node: str, parameter: str, formula: str) -> None:
        """Let a parameter follow a dial, or a formula over dials and the tile's measures.

        Parameters
        ----------
        formula : str
            Such as ``crack_width`` or ``crack_width * 0.5 + tile_depth``.

        Raises
        ------
        ReedError
            If there is no such node or parameter, or the formula cannot be worked out.
        """
        self.session.submit(SetFormula("", node, parameter, formula))

    @takes(node="text", parameter="text")
    def let_go(self, node: str, parameter: str) -> None:
        """Take a parameter's formula away; it keeps the value that this gave last."""
        self.session.submit(SetFormula("", node, parameter, None))

    @takes(dial="text")
    def remove_dial(self, dial: str) -> None:
        """Take a dial away; what followed it keeps its present value."""
        self.session.submit(RemoveDial("", find_by_name(self.document.dials, dial, "dial")))

    def turn(self, values: Mapping[str, Any] | None = None, /, **more: Any) -> None:
        """Turn dials: values by id or label.

        Raises
        ------
        ReedError
            If there is no such dial, or it cannot have that value.
        """
        self.session.submit(TurnDials(self._by_dial({**(values or {}), **more})))

    def _by_dial(self, values: Mapping[str, Any]) -> dict[str, Any]:
        return {find_by_name(self.document.dials, name, "dial"): v for name, v in values.items()}

    @takes(name="text")
    def keep_colourway(self, name: str, /, **values: Any) -> str:
        """Keep values of dials under a name, and return the colourway's id.

        Parameters
        ----------
        name : str
            If there is one of that name, it is changed.
        **values
            By the dials' ids; the dials as they are turned if none are given.

        Raises
        ------
        ReedError
            If there is no such dial, or it cannot have that value.
        """
        held = self.document.colourways
        known = next((key for key, way in held.items() if name in (key, way.label)), None)
        key = known or free_dial_id(name, held)
        self.session.submit(PutColourway(key, name, self._by_dial(values) if values else None))
        return key

    @takes(nodes="texts", title="text")
    def pack(self, nodes: Iterable[str], title: str) -> str:
        """Put nodes into a motif, and return the id of the one node that stands for them now.

        Raises
        ------
        ReedError
            If there is no such node, or another node lies between them.
        """
        chosen = tuple(nodes)
        for node in chosen:
            self.document.graph.node(node)
        key = free_motif_id(self.document.motifs, title)
        use = self.document.graph.free_id(key)
        self.session.submit(PackMotif("", chosen, title, key, use))
        return use

    @takes(motif="text")
    def use(self, motif: str, /, **values: Any) -> str:
        """Hang a node that uses a motif of the weave, by id or title, and return its id."""
        key = find_by_name(self.document.motifs, motif, "motif")
        return self.add(MOTIF + key, **values)

    @takes(node="text")
    def unpack(self, node: str) -> None:
        """Lay the nodes of a motif out in the place of a node that uses it."""
        self.session.submit(UnpackMotif("", node))

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
