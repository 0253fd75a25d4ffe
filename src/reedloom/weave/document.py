"""The weave as frozen data. An edited document shares all unchanged parts with the one before."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

import msgspec

from reedloom.errors import unknown
from reedloom.kinds.catalogue import get_kind
from reedloom.kit.kind import Kind

Values = Mapping[str, Any]


class Part(msgspec.Struct, frozen=True, kw_only=True, omit_defaults=False):
    """A piece of a document; `extras` holds fields of a newer minor version, which are kept."""

    extras: dict[str, Any] = {}


class Node(Part, frozen=True, kw_only=True):
    """A node. `parameters` holds only values that differ from the kind's defaults."""

    id: str
    kind: str
    version: int = 1
    x: float = 0.0
    y: float = 0.0
    parameters: dict[str, Any] = {}
    name: str = ""
    muted: bool = False

    @property
    def declaration(self) -> Kind:
        """The kind's declaration."""
        return get_kind(self.kind)

    @property
    def title(self) -> str:
        """The name given to the node, or its kind's label."""
        return self.name or self.declaration.label

    def value(self, name: str) -> Any:
        """A parameter's value."""
        return self.parameters.get(name, self.declaration.parameter(name).default)

    def values(self) -> dict[str, Any]:
        """Every parameter's value by name."""
        return self.declaration.defaults() | self.parameters


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


class Surface(Part, frozen=True, kw_only=True):
    """What the tile measures in the world, in metres."""

    width: float = 1.0
    height: float = 1.0
    depth: float = 0.05


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


class Document(Part, frozen=True, kw_only=True):
    """A whole weave. Mappings are never changed in place."""

    name: str = "Untitled"
    surface: Surface = Surface()
    nodes: dict[str, Node] = {}
    threads: tuple[Thread, ...] = ()
    ties: dict[str, End] = {}
    bays: dict[str, Bay] = {}
    notes: dict[str, Note] = {}
    recipe: Recipe = Recipe()
    lit: LitState = LitState()
    viewpoints: dict[str, Viewpoint] = {}
    folder: str = ""
    """Where paths of pictures begin: the folder of the weave's file; not written to it."""

    def node(self, node_id: str) -> Node:
        """The node of that id; `UnknownNameError` if there is none."""
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
        taken = self.nodes.keys() | self.bays.keys() | self.notes.keys()
        number = 1
        while f"{stem}_{number}" in taken:
            number += 1
        return f"{stem}_{number}"
