"""The parts of a `.reed` file as it holds them; the schema is generated from these."""

from __future__ import annotations

from typing import Any

import msgspec

from reedloom.weave.document import (
    Colourway,
    Dial,
    Inlet,
    LitState,
    Outlet,
    Part,
    Recipe,
    Surface,
    Viewpoint,
)


class FileNode(Part, frozen=True, kw_only=True):
    """A node as the file holds it, with what is tied to its inputs as "node.port"."""

    kind: str
    version: int = 1
    at: tuple[float, float] = (0.0, 0.0)
    name: str = ""
    muted: bool = False
    parameters: dict[str, Any] = msgspec.field(default_factory=dict)
    formulas: dict[str, str] = msgspec.field(default_factory=dict)
    inputs: dict[str, str] = msgspec.field(default_factory=dict)


class FileBay(Part, frozen=True, kw_only=True):
    """A bay as the file holds it: left, top, width, height."""

    title: str = ""
    box: tuple[float, float, float, float] = (0.0, 0.0, 400.0, 300.0)
    tint: int = 0


class FileNote(Part, frozen=True, kw_only=True):
    """A note as the file holds it: left, top, width, height."""

    text: str = ""
    box: tuple[float, float, float, float] = (0.0, 0.0, 220.0, 80.0)


class FileGraph(Part, frozen=True, kw_only=True):
    """A graph as the file holds it; `ties` says what is tied to rail slots, or to a motif's outlets."""

    nodes: dict[str, FileNode] = msgspec.field(default_factory=dict)
    ties: dict[str, str] = msgspec.field(default_factory=dict)
    bays: dict[str, FileBay] = msgspec.field(default_factory=dict)
    notes: dict[str, FileNote] = msgspec.field(default_factory=dict)


class FileMotif(FileGraph, frozen=True, kw_only=True):
    """A motif as the file holds it."""

    title: str = ""
    general: str = ""
    purpose: str = ""
    synonyms: tuple[str, ...] = ()
    inlets: dict[str, Inlet] = msgspec.field(default_factory=dict)
    outlets: dict[str, Outlet] = msgspec.field(default_factory=dict)
    dials: dict[str, Dial] = msgspec.field(default_factory=dict)
    origin: str = ""


class FileWeave(FileGraph, frozen=True, kw_only=True):
    """A whole file."""

    format: str
    version: str
    name: str = "Untitled"
    general: str = ""
    purpose: str = ""
    tags: tuple[str, ...] = ()
    surface: Surface = Surface()
    motifs: dict[str, FileMotif] = msgspec.field(default_factory=dict)
    dials: dict[str, Dial] = msgspec.field(default_factory=dict)
    colourways: dict[str, Colourway] = msgspec.field(default_factory=dict)
    settings: dict[str, Any] = msgspec.field(default_factory=dict)
    colourway: str = ""
    recipe: Recipe = Recipe()
    lit: LitState = LitState()
    viewpoints: dict[str, Viewpoint] = msgspec.field(default_factory=dict)


GRAPH_PARTS: dict[str, type[Part]] = {"nodes": FileNode, "bays": FileBay, "notes": FileNote}
MOTIF_PARTS: dict[str, type[Part]] = {"inlets": Inlet, "outlets": Outlet, "dials": Dial}
WEAVE_PARTS: dict[str, type[Part]] = {"dials": Dial, "colourways": Colourway, "viewpoints": Viewpoint}
SINGLE_PARTS: dict[str, type[Part]] = {"surface": Surface, "recipe": Recipe, "lit": LitState}
"""Where parts stand whose unknown fields are kept: many by their ids, or one."""

# msgspec works out how to read a type when it is first read, and crashes where two threads do so at the
# same time; so that is done here, while this module is imported.
msgspec.convert({"format": "", "version": ""}, FileWeave)
