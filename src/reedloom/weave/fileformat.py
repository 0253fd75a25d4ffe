"""The `.reed` file: UTF-8 JSON, one block a node; see docs/file-format.md and its JSON Schema.

Reading checks everything before a document exists and reports where and what in one sentence.
Fields this version does not know, written by a newer minor version, are kept and written back.
"""

from __future__ import annotations

import json
import math
import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import msgspec

from reedloom.errors import FileError, ReedError
from reedloom.files import explain, whole_file
from reedloom.kinds.catalogue import get_kind
from reedloom.kit.channels import CHANNELS
from reedloom.weave.document import (
    Bay,
    Document,
    LitState,
    Node,
    Note,
    Part,
    Recipe,
    Surface,
    Thread,
    Viewpoint,
)
from reedloom.weave.edits import Tie
from reedloom.weave.graph import accepts, output_data, parse_end, upstream_order

FORMAT = "reed-loom-weave"
VERSION = (1, 0)
SIZE_LIMIT = 64 * 2**20
PREVIOUS = ".previous"
"""What is added to the name of the one kept earlier version."""


class FileNode(msgspec.Struct, kw_only=True):
    """A node as the file holds it, with what is tied to its inputs as "node.port"."""

    kind: str
    version: int = 1
    at: tuple[float, float] = (0.0, 0.0)
    name: str = ""
    muted: bool = False
    parameters: dict[str, Any] = {}
    inputs: dict[str, str] = {}


class FileBay(msgspec.Struct, kw_only=True):
    """A bay as the file holds it: left, top, width, height."""

    title: str = ""
    box: tuple[float, float, float, float] = (0.0, 0.0, 400.0, 300.0)
    tint: int = 0


class FileNote(msgspec.Struct, kw_only=True):
    """A note as the file holds it: left, top, width, height."""

    text: str = ""
    box: tuple[float, float, float, float] = (0.0, 0.0, 220.0, 80.0)


class FileSurface(msgspec.Struct, kw_only=True):
    """The tile's size and the height's range, in metres."""

    width: float = 1.0
    height: float = 1.0
    depth: float = 0.05


class FileRecipe(msgspec.Struct, kw_only=True):
    """How the weave was last delivered."""

    size: int = 2048
    format: str = "png16"
    name: str = "{weave}_{map}"
    normal_y: str = "up"


class FileViewpoint(msgspec.Struct, kw_only=True):
    """From where the lit view looks: degrees, and distances in units of which an object has about 2."""

    yaw: float = 62.0
    pitch: float = 18.0
    distance: float = 3.7
    target: tuple[float, float, float] = (0.0, 0.0, 0.0)
    turn: float = 0.0
    key: tuple[float, float] | None = None


class FileLit(FileViewpoint, kw_only=True):
    """How the lit view was left."""

    object: str = "ball"
    light_set: str = "soft_window"
    repeats: int = 2
    depth: float = 1.0
    middle: float = 0.5
    exposure: float = 0.0
    tone_mapping: str = "filmic"
    shadow: bool = True


class FileWeave(msgspec.Struct, kw_only=True):
    """A whole file."""

    format: str
    version: str
    name: str = "Untitled"
    surface: FileSurface = msgspec.field(default_factory=FileSurface)
    nodes: dict[str, FileNode] = {}
    ties: dict[str, str] = {}
    bays: dict[str, FileBay] = {}
    notes: dict[str, FileNote] = {}
    recipe: FileRecipe = msgspec.field(default_factory=FileRecipe)
    lit: FileLit = msgspec.field(default_factory=FileLit)
    viewpoints: dict[str, FileViewpoint] = {}


def json_schema() -> dict[str, Any]:
    """The JSON Schema of the format, generated from its declaration."""
    return {"title": "Reed Loom weave", **msgspec.json.schema(FileWeave)}


# -- writing -----------------------------------------------------------------------------------------


def encode_document(document: Document) -> bytes:
    """The file's bytes for a document."""
    inputs: dict[str, dict[str, str]] = {}
    for thread in document.threads:
        inputs.setdefault(thread.target.node, {})[thread.target.port] = str(thread.source)
    top = {
        "format": FORMAT,
        "version": f"{VERSION[0]}.{VERSION[1]}",
        "name": document.name,
        "surface": _plain(document.surface),
        "nodes": {n.id: _node_block(n, inputs.get(n.id, {})) for n in document.nodes.values()},
        "ties": {channel: str(document.ties[channel]) for channel in CHANNELS if channel in document.ties},
        "bays": {b.id: _boxed({"title": b.title, "tint": b.tint}, b) for b in document.bays.values()},
        "notes": {n.id: _boxed({"text": n.text}, n) for n in document.notes.values()},
        "recipe": _plain(document.recipe),
        "lit": _plain(document.lit),
        "viewpoints": {name: _plain(point) for name, point in document.viewpoints.items()},
        **document.extras,
    }
    return ("\n".join(_lines(top)) + "\n").encode()


def _plain(part: Part) -> dict[str, Any]:
    fields = {name: getattr(part, name) for name in part.__struct_fields__ if name != "extras"}
    return {**fields, **part.extras}


def _boxed(fields: dict[str, Any], part: Bay | Note) -> dict[str, Any]:
    return {**fields, "box": [part.x, part.y, part.width, part.height], **part.extras}


def _node_block(node: Node, inputs: dict[str, str]) -> dict[str, Any]:
    block: dict[str, Any] = {"kind": node.kind, "version": node.version, "at": [node.x, node.y]}
    if node.name:
        block["name"] = node.name
    if node.muted:
        block["muted"] = True
    if node.parameters:
        order = [p.name for p in node.declaration.parameters]
        block["parameters"] = {name: node.parameters[name] for name in order if name in node.parameters}
    if inputs:
        block["inputs"] = {p.name: inputs[p.name] for p in node.declaration.inputs if p.name in inputs}
    return {**block, **node.extras}


def _lines(value: Any, depth: int = 0) -> Iterator[str]:
    """JSON with one line for each field, and lists of plain values on one line."""
    if not isinstance(value, dict) or not value:
        yield json.dumps(value, ensure_ascii=False, allow_nan=False)
        return
    yield "{"
    last = len(value) - 1
    for number, (key, item) in enumerate(value.items()):
        inner = list(_lines(item, depth + 1))
        inner[0] = f"{json.dumps(key, ensure_ascii=False)}: {inner[0]}"
        inner[-1] += "," if number < last else ""
        yield from ("  " + line for line in inner)
    yield "}"


def save_document(document: Document, path: Path) -> None:
    """Write a document whole or not at all, and keep the file's previous version once.

    Raises
    ------
    FileError
        If it cannot be written; the file is then as it was.
    """
    data = encode_document(document)
    with whole_file(path, "save") as part:
        with part.open("wb") as file:
            file.write(data)
        if path.exists():
            _keep_previous(path)


def _keep_previous(path: Path) -> None:
    """Give the present file its second name, without a moment in which it has none."""
    beside = path.with_name(f".{path.name}{PREVIOUS}-new")
    with suppress(OSError):  # a file system without hard links keeps no previous version
        beside.unlink(missing_ok=True)
        os.link(path, beside)
        beside.replace(path.with_name(path.name + PREVIOUS))


# -- reading -----------------------------------------------------------------------------------------


def load_document(path: Path) -> Document:
    """Read a file.

    Raises
    ------
    FileError
        One sentence that names the file, the place in it and the trouble.
    """
    try:
        if path.stat().st_size > SIZE_LIMIT:
            raise FileError(
                f"'{path}' is larger than {SIZE_LIMIT // 2**20} MB; no weave is, so it was not opened."
            )
        data = path.read_bytes()
    except OSError as error:
        raise explain(error, path, "open") from None
    try:
        return msgspec.structs.replace(decode_document(data), folder=str(path.absolute().parent))
    except ReedError as error:
        raise FileError(f"Cannot open '{path}': {error}") from None


def decode_document(data: bytes) -> Document:
    """The document in a file's bytes; raises `FileError` naming the place and the trouble."""
    raw = _parse(data)
    _check_version(raw)
    try:
        weave = msgspec.convert(raw, FileWeave)
    except msgspec.ValidationError as error:
        raise FileError(_place_sentence(str(error))) from None
    document = _build(weave, raw)
    _check_document(document)
    return document


def _parse(data: bytes) -> dict[str, Any]:
    try:
        raw = json.loads(data.decode("utf-8-sig"), parse_constant=_refuse_constant)
    except UnicodeDecodeError as error:
        raise FileError(f"it is not UTF-8 text (byte {error.start}); it may not be a weave at all.") from None
    except json.JSONDecodeError as error:
        raise FileError(
            f"it is not whole JSON: line {error.lineno}, column {error.colno}: {error.msg.lower()}; "
            "the previous version beside it may be sound."
        ) from None
    except (RecursionError, ValueError) as error:
        reason = "it is nested too deeply" if isinstance(error, RecursionError) else str(error)
        raise FileError(f"{reason}; no weave is written like that.") from None
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise FileError(f"it is not a weave: its field 'format' is not '{FORMAT}'.")
    return raw


def _refuse_constant(name: str) -> float:
    raise ValueError(f"it holds the number {name}")


def _check_version(raw: dict[str, Any]) -> None:
    version = raw.get("version")
    parts = version.split(".") if isinstance(version, str) else []
    if len(parts) != 2 or not all(part.isdecimal() and len(part) < 6 for part in parts):
        raise FileError("its field 'version' is not of the form '1.0'.")
    if int(parts[0]) > VERSION[0]:
        raise FileError(
            f"it was written by a newer Reed Loom (format {version}); "
            f"this one reads format {VERSION[0]}, so please update."
        )


def _place_sentence(text: str) -> str:
    """msgspec's message and path in one sentence of ours."""
    message, _, path = text.partition(" - at `")
    place = path.rstrip("`").removeprefix("$.").removeprefix("$") or "the top of the file"
    return f"at '{place}': {message[:1].lower()}{message[1:]}."


def _extras(raw: dict[str, Any], known: type[msgspec.Struct]) -> dict[str, Any]:
    return {key: value for key, value in raw.items() if key not in known.__struct_fields__}


def _build(weave: FileWeave, raw: dict[str, Any]) -> Document:
    nodes: dict[str, Node] = {}
    for node_id, block in weave.nodes.items():
        nodes[node_id] = _build_node(node_id, block, _extras(raw["nodes"][node_id], FileNode))
    document = Document(
        name=weave.name,
        surface=Surface(
            **msgspec.structs.asdict(weave.surface), extras=_extras(raw.get("surface", {}), FileSurface)
        ),
        nodes=nodes,
        bays={
            k: Bay(id=k, title=b.title, tint=b.tint, **_box(b.box), extras=_extras(raw["bays"][k], FileBay))
            for k, b in weave.bays.items()
        },
        notes={
            k: Note(id=k, text=n.text, **_box(n.box), extras=_extras(raw["notes"][k], FileNote))
            for k, n in weave.notes.items()
        },
        recipe=Recipe(
            **msgspec.structs.asdict(weave.recipe), extras=_extras(raw.get("recipe", {}), FileRecipe)
        ),
        lit=LitState(**msgspec.structs.asdict(weave.lit), extras=_extras(raw.get("lit", {}), FileLit)),
        viewpoints={
            k: Viewpoint(**msgspec.structs.asdict(v), extras=_extras(raw["viewpoints"][k], FileViewpoint))
            for k, v in weave.viewpoints.items()
        },
        extras=_extras(raw, FileWeave),
    )
    threads = []
    for node_id, block in weave.nodes.items():
        for port, source in block.inputs.items():
            with _at(f"nodes.{node_id}.inputs.{port}"):
                target = parse_end(document, f"{node_id}.{port}", output=False)
                threads.append(Thread(source=parse_end(document, source, output=True), target=target))
    document = msgspec.structs.replace(document, threads=tuple(threads))
    upstream_order(document, document.nodes)  # refuses a circle before anything walks the graph
    for channel, source in weave.ties.items():
        with _at(f"ties.{channel}"):
            document = Tie(parse_end(document, source, output=True), channel).apply(document)
    return document


@contextmanager
def _at(where: str) -> Iterator[None]:
    """Name the place in the file to whatever goes wrong within."""
    try:
        yield
    except ReedError as error:
        raise FileError(f"at '{where}': {error}") from None


def _box(box: tuple[float, float, float, float]) -> dict[str, float]:
    return dict(zip(("x", "y", "width", "height"), box, strict=True))


def _build_node(node_id: str, block: FileNode, extras: dict[str, Any]) -> Node:
    where = f"nodes.{node_id}"
    if not node_id or "." in node_id:
        raise FileError(f"at '{where}': a node's id is not empty and has no full stop.")
    with _at(where):
        declared = get_kind(block.kind)
        if block.version > declared.version:
            raise FileError(
                f"the kind '{block.kind}' is of version {block.version}, newer than this Reed Loom's "
                f"version {declared.version}; please update."
            )
        values = {name: declared.parameter(name).check(value) for name, value in block.parameters.items()}
    parameters = {name: value for name, value in values.items() if value != declared.parameter(name).default}
    return Node(
        id=node_id,
        kind=block.kind,
        version=block.version,
        x=block.at[0],
        y=block.at[1],
        name=block.name,
        muted=block.muted,
        parameters=parameters,
        extras=extras,
    )


def _check_document(document: Document) -> None:
    data = output_data(document)
    for thread in document.threads:
        port = document.nodes[thread.target.node].declaration.input(thread.target.port)
        given = data[thread.source.node, thread.source.port]
        if not accepts(port, given):
            raise FileError(
                f"at 'nodes.{thread.target.node}.inputs.{thread.target.port}': it cannot take the "
                f"{given.word} that '{thread.source}' gives."
            )
    surface = document.surface
    for name in ("width", "height", "depth"):
        value = getattr(surface, name)
        low = 0.0 if name == "depth" else 1e-6
        if not (math.isfinite(value) and low <= value <= 1e6):
            raise FileError(
                f"at 'surface.{name}': {value:g} is not a length in metres from {low:g} to 1000000."
            )
    if not 1 <= document.recipe.size <= 8192:
        raise FileError(f"at 'recipe.size': {document.recipe.size} is not a size from 1 to 8192.")
