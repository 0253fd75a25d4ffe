"""The weave as frozen data. An edited document shares all unchanged parts with the one before."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

import msgspec

from reedloom.errors import unknown


class Part(msgspec.Struct, frozen=True, kw_only=True, omit_defaults=False):
    """A piece of a document; `extras` holds fields of a newer minor version, which are kept."""

    extras: dict[str, Any] = {}


class Node(Part, frozen=True, kw_only=True):
    """A node: a kind by its id and version, and what is set on it.

    Attributes
    ----------
    parameters : mapping
        Only the values that differ from the kind's defaults.
    formulas : mapping
        Formulas over dials, for parameters that follow them; they go before the plain values.
    """

    id: str
    kind: str
    version: int = 1
    x: float = 0.0
    y: float = 0.0
    parameters: dict[str, Any] = {}
    formulas: dict[str, str] = {}
    name: str = ""
    muted: bool = False


class End(msgspec.Struct, frozen=True, kw_only=True):
    """One end of a thread: a port of a node."""

    node: str
    port: str

    def __str__(self) -> str:
        return f"{self.node}.{self.port}"


class Thread(msgspec.Struct, frozen=True, kw_only=True):
    """A connection from an output to an input; an input takes one thread."""

    source: End
    target: End


class Bay(Part, frozen=True, kw_only=True):
    """A named region of the board that moves with what lies in it."""

    id: str
    title: str = ""
    x: float = 0.0
    y: float = 0.0
    width: float = 400.0
    height: float = 300.0
    tint: int = 0


class Note(Part, frozen=True, kw_only=True):
    """A text on the board."""

    id: str
    text: str = ""
    x: float = 0.0
    y: float = 0.0
    width: float = 220.0
    height: float = 80.0


class Graph(Part, frozen=True, kw_only=True):
    """What hangs on one board: a weave's, or that inside a motif. Mappings are never changed in place.

    Attributes
    ----------
    ends : mapping of a rail slot or an outlet to an output
        What is taken out of the graph.
    """

    nodes: dict[str, Node] = {}
    threads: tuple[Thread, ...] = ()
    ends: dict[str, End] = {}
    bays: dict[str, Bay] = {}
    notes: dict[str, Note] = {}

    def node(self, node_id: str) -> Node:
        """The node of that id.

        Raises
        ------
        UnknownNameError
            If there is none.
        """
        try:
            return self.nodes[node_id]
        except KeyError:
            raise unknown("node", node_id, self.nodes, "in this weave") from None

    def incoming(self, node_id: str) -> dict[str, End]:
        """What is tied to each input of a node, by port name."""
        return {t.target.port: t.source for t in self.threads if t.target.node == node_id}

    def followers(self, node_id: str) -> Iterator[Thread]:
        """The threads that leave a node."""
        return (t for t in self.threads if t.source.node == node_id)

    def free_id(self, stem: str) -> str:
        """An id that no node, bay or note has yet, such as ``blur_2``."""
        return next(self.free_ids([stem]))

    def free_ids(self, stems: Iterable[str]) -> Iterator[str]:
        """An id for each of several stems, none of them taken yet or twice.

        Parameters
        ----------
        stems : iterable of str
            Kinds of nodes, or "bay" and "note"; what stands before a full stop is left out.
        """
        taken = self.nodes.keys() | self.bays.keys() | self.notes.keys()
        last: dict[str, int] = {}
        for stem in stems:
            plain = stem.rpartition(".")[2]  # kinds of a user's own have their author's name before a stop
            number = last.get(plain, 0) + 1
            while f"{plain}_{number}" in taken:
                number += 1
            last[plain] = number
            yield f"{plain}_{number}"


class Surface(Part, frozen=True, kw_only=True):
    """What the tile measures in the world, in metres."""

    width: float = 1.0
    height: float = 1.0
    depth: float = 0.05

    @property
    def measures(self) -> dict[str, float]:
        """What formulas may read of it, in metres."""
        return {"tile_width": self.width, "tile_height": self.height, "tile_depth": self.depth}

    @property
    def aspect(self) -> float:
        """The tile's height in widths."""
        return self.height / self.width

    def samples(self, across: int) -> tuple[int, int]:
        """Square samples of the tile, so many across: width and height.

        Parameters
        ----------
        across : int
            From 1 up.

        Returns
        -------
        (width, height), at least 1 each
        """
        return across, max(1, round(across * self.aspect))

    def fitting(self, longest: int) -> tuple[int, int]:
        """Square samples of the tile, so many along its longer side: width and height.

        Parameters
        ----------
        longest : int
            From 1 up.

        Returns
        -------
        (width, height), at least 1 each
        """
        return self.samples(longest if self.aspect <= 1 else max(1, round(longest / self.aspect)))


class Recipe(Part, frozen=True, kw_only=True):
    """How the weave was last delivered."""

    size: int = 2048
    format: str = "png16"
    name: str = "{weave}_{map}"
    normal_y: str = "up"


class Viewpoint(Part, frozen=True, kw_only=True):
    """From where the lit view looks, and how its light is turned.

    Attributes
    ----------
    yaw, pitch : float
        Where the camera stands around its target, in degrees.
    distance : float
        From the target; objects are about 2 across.
    turn : float
        How far the surroundings and the key light are turned, in degrees.
    key : (azimuth, elevation) or None
        Where the key light stands; the light set's own place when None.
    """

    yaw: float = 62.0
    pitch: float = 18.0
    distance: float = 3.7
    target: tuple[float, float, float] = (0.0, 0.0, 0.0)
    turn: float = 0.0
    key: tuple[float, float] | None = None


class LitState(Viewpoint, frozen=True, kw_only=True):
    """Everything a frame of the lit view depends on, besides the maps.

    Attributes
    ----------
    repeats : int
        Tiles across the object.
    depth : float
        Times the weave's own depth; 1 is true.
    middle : float
        The height that stays at the object's own surface.
    exposure : float
        In stops.
    """

    object: str = "ball"
    light_set: str = "soft_window"
    repeats: int = 2
    depth: float = 1.0
    middle: float = 0.5
    exposure: float = 0.0
    tone_mapping: str = "filmic"
    shadow: bool = True


class Dial(Part, frozen=True, kw_only=True):
    """A value that a weave or motif offers to its user; formulas of parameters read it by its id.

    Attributes
    ----------
    type : str
        The word of a parameter type, such as ``float`` or ``colour``.
    default : Any
        In the plain stored form of its type.
    useful, hard : (low, high)
        What its slider spans and what may be typed, for numbers.
    choices : tuple of str
        The words it may be, for a choice.
    """

    label: str = ""
    group: str = ""
    type: str = "float"
    default: Any = 0.0
    useful: tuple[float, float] = (0.0, 1.0)
    hard: tuple[float, float] = (-1e6, 1e6)
    unit: str = ""
    choices: tuple[str, ...] = ()
    help: str = ""


class Colourway(Part, frozen=True, kw_only=True):
    """A named set of dial values; dials that it does not name keep their defaults."""

    label: str = ""
    values: dict[str, Any] = {}


class Inlet(Part, frozen=True, kw_only=True):
    """What comes into a motif.

    The node of the same id in its graph gives what is tied to it; that node's kind says which data it
    takes, and its values or threads what stands in when nothing is tied.
    """

    label: str = ""
    help: str = ""


class Outlet(Part, frozen=True, kw_only=True):
    """What comes out of a motif: what the end of the same id in its graph names."""

    label: str = ""
    help: str = ""


class Motif(Part, frozen=True, kw_only=True):
    """A graph used as one node inside others, with dials of its own.

    Attributes
    ----------
    general : str
        What it is in general; it stands before the title in the swatch book.
    origin : str
        Where in the swatch book it came from, and as what; empty for one that was made here.
    """

    title: str = ""
    general: str = ""
    purpose: str = ""
    synonyms: tuple[str, ...] = ()
    inlets: dict[str, Inlet] = {}
    outlets: dict[str, Outlet] = {}
    dials: dict[str, Dial] = {}
    graph: Graph = Graph()
    origin: str = ""


class Document(Part, frozen=True, kw_only=True):
    """A whole weave. Mappings are never changed in place.

    Attributes
    ----------
    general : str
        What it is in general, such as "Stone"; it stands before the name in the swatch book.
    purpose : str
        One sentence about what it is, for those who take it from the swatch book.
    tags : tuple of str
        Further words under which it is found there.
    settings : mapping of a dial's id to a value
        How the dials are turned at present, those that are not at their defaults.
    colourway : str
        The id of the colourway that was put on last; empty for none.
    folder : str
        Where paths of pictures begin: the folder of the weave's file; not written to it.
    remarks : mapping of a node to a sentence
        What opening the file changed about it; not written either.
    """

    name: str = "Untitled"
    general: str = ""
    purpose: str = ""
    tags: tuple[str, ...] = ()
    surface: Surface = Surface()
    graph: Graph = Graph()
    motifs: dict[str, Motif] = {}
    dials: dict[str, Dial] = {}
    settings: dict[str, Any] = {}
    colourways: dict[str, Colourway] = {}
    colourway: str = ""
    recipe: Recipe = Recipe()
    lit: LitState = LitState()
    viewpoints: dict[str, Viewpoint] = {}
    folder: str = ""
    remarks: dict[str, str] = {}
