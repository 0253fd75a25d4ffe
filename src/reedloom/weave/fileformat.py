"""The `.reed` file: UTF-8 JSON, one block a node; see docs/file-format.md and its JSON Schema.

Reading checks everything before a document exists and reports where and what in one sentence. Fields
this version does not know, written by a newer minor version, are kept and written back; so are nodes
of kinds, or of versions of kinds, that are not here.
"""

from __future__ import annotations

import json
import os
import shutil
from collections.abc import Iterator, Mapping
from contextlib import suppress
from pathlib import Path
from typing import Any

import msgspec
from msgspec.structs import replace

from reedloom.errors import FileError, ReedError, readable
from reedloom.files import PART, read_whole, real_path, whole_file
from reedloom.kinds.catalogue import Kinds, all_kinds
from reedloom.kit.channels import CHANNELS
from reedloom.weave.check import NODE_LIMIT, BreachError, check, holds_half
from reedloom.weave.dials import plain_dials, plain_values
from reedloom.weave.document import (
    Bay,
    Document,
    End,
    Graph,
    Motif,
    Node,
    Note,
    Part,
    Thread,
)
from reedloom.weave.file_parts import (
    GRAPH_PARTS,
    MOTIF_PARTS,
    SINGLE_PARTS,
    WEAVE_PARTS,
    FileBay,
    FileGraph,
    FileMotif,
    FileNode,
    FileNote,
    FileWeave,
)
from reedloom.weave.motifs import document_kinds, is_inlet, used_motif
from reedloom.weave.versions import brought_up_to_date, plain_parameters, with_seeds_as_they_were

FORMAT = "reed-loom-weave"
VERSION = (1, 3)
OWN_SEEDS = 3
"""The minor version since which a kind is hashed into its seeds."""
ABOUT = ("general", "purpose", "tags")
"""What is said of a weave, and left out of its file where nothing is said."""
SIZE_LIMIT = 64 * 2**20
DIGIT_LIMIT = 30
PART_LIMIT = 4_000_000
"""Most values in a file, counted before they are read: they take some hundred bytes each in memory."""
PREVIOUS = ".previous"
"""What is added to the name of the one kept earlier version."""


def json_schema() -> dict[str, Any]:
    """The JSON Schema of the format, generated from its declaration."""
    schema = {"title": "Reed Loom weave", **msgspec.json.schema(FileWeave)}
    for part in schema["$defs"].values():
        part.get("properties", {}).pop("extras", None)
    return schema


def encode_document(document: Document, kinds: Kinds | None = None) -> bytes:
    """The file's bytes for a document; kinds give values and inputs the order of their declaration.

    Parameters
    ----------
    kinds : Kinds, optional
        They give values and inputs the order of their declaration; `all_kinds` by default.

    Returns
    -------
    bytes
        UTF-8 JSON, the same for the same document.

    Raises
    ------
    BreachError
        If the document breaks a rule, so that what is written can be opened again.
    """
    kinds = document_kinds(kinds or all_kinds(), document)
    check(document, kinds)
    top = {
        "format": FORMAT,
        "version": f"{VERSION[0]}.{VERSION[1]}",
        "name": document.name,
        **{name: held for name in ABOUT if (held := getattr(document, name))},
        "surface": _plain(document.surface),
        **_graph_block(document.graph, kinds, list(CHANNELS)),
    }
    if document.motifs:
        top["motifs"] = {key: _motif_block(motif, kinds) for key, motif in document.motifs.items()}
    for name in ("dials", "colourways"):
        if getattr(document, name):
            top[name] = {key: _plain(part) for key, part in getattr(document, name).items()}
    for name in ("settings", "colourway"):
        if getattr(document, name):
            top[name] = getattr(document, name)
    top |= {
        "recipe": _plain(document.recipe),
        "lit": _plain(document.lit),
        "viewpoints": {name: _plain(point) for name, point in document.viewpoints.items()},
        **document.extras,
    }
    return ("\n".join(_lines(top)) + "\n").encode()


def _graph_block(graph: Graph, kinds: Kinds, slots: list[str]) -> dict[str, Any]:
    inputs: dict[str, dict[str, str]] = {}
    for thread in graph.threads:
        inputs.setdefault(thread.target.node, {})[thread.target.port] = str(thread.source)
    return {
        "nodes": {n.id: _node_block(n, inputs.get(n.id, {}), kinds) for n in graph.nodes.values()},
        "ties": {slot: str(graph.ends[slot]) for slot in _in_order(graph.ends, slots)},
        "bays": {b.id: _boxed({"title": b.title, "tint": b.tint}, b) for b in graph.bays.values()},
        "notes": {n.id: _boxed({"text": n.text}, n) for n in graph.notes.values()},
    }


def _motif_block(motif: Motif, kinds: Kinds) -> dict[str, Any]:
    block: dict[str, Any] = {
        "title": motif.title,
        "general": motif.general,
        "purpose": motif.purpose,
        "synonyms": list(motif.synonyms),
    }
    for name in MOTIF_PARTS:
        block[name] = {key: _plain(part) for key, part in getattr(motif, name).items()}
    block |= _graph_block(motif.graph, kinds, list(motif.outlets))
    return {**block, "origin": motif.origin, **motif.extras}


def _plain(part: Part) -> dict[str, Any]:
    fields = {name: getattr(part, name) for name in part.__struct_fields__ if name != "extras"}
    return {**fields, **part.extras}


def _boxed(fields: dict[str, Any], part: Bay | Note) -> dict[str, Any]:
    return {**fields, "box": [part.x, part.y, part.width, part.height], **part.extras}


def _in_order(items: Mapping[str, Any], order: list[str]) -> list[str]:
    """The keys of a mapping: those of an order first, in it, and then the others."""
    return [*(name for name in order if name in items), *(name for name in items if name not in order)]


def _node_block(node: Node, inputs: dict[str, str], kinds: Kinds) -> dict[str, Any]:
    declared = kinds.of(node)
    block: dict[str, Any] = {"kind": node.kind, "version": node.version, "at": [node.x, node.y]}
    if node.name:
        block["name"] = node.name
    if node.muted:
        block["muted"] = True
    names = [p.name for p in declared.parameters]
    for field in ("parameters", "formulas"):
        held = getattr(node, field)
        if held:
            block[field] = {name: held[name] for name in _in_order(held, names)}
    if inputs:
        block["inputs"] = {
            name: inputs[name] for name in _in_order(inputs, [p.name for p in declared.inputs])
        }
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


def save_document(document: Document, path: Path, kinds: Kinds | None = None, force: bool = False) -> None:
    """Write a document whole or not at all, and keep the file's previous version once.

    Parameters
    ----------
    path : path
        Written beside and then put in place.
    kinds : Kinds, optional
        `all_kinds` by default.
    force : bool
        Whether a write-protected file is replaced too.

    Raises
    ------
    ProtectedError
        If the file is write-protected.
    FileError
        If it cannot be written, or breaks a rule of documents; the file is then as it was.
    """
    try:
        data = encode_document(document, kinds)
    except BreachError as error:
        raise FileError(f"Cannot save '{path}': {error}") from None
    trouble = _too_much(data)
    if trouble:
        raise FileError(f"Cannot save '{path}': {trouble}")
    target = real_path(path, "save")
    _part_from_previous(target)
    with whole_file(path, "save", force) as part:
        with part.open("wb") as file:
            file.write(data)
        _keep_previous(target)


def _part_from_previous(path: Path) -> None:
    """Drop a second name that a save which was killed has given the present file."""
    previous = path.with_name(path.name + PREVIOUS)
    with suppress(OSError):
        if previous.samefile(path):
            previous.unlink()


def _keep_previous(path: Path) -> None:
    """Give the present file its second name, without a moment in which it has none."""
    previous = path.with_name(path.name + PREVIOUS)
    beside = path.with_name(f".{path.name[:40]}-previous{PART}")
    with suppress(OSError):  # a file system without hard links, or a full disk, keeps no previous version
        beside.unlink(missing_ok=True)
        if path.stat().st_nlink > 1:  # its own content is about to be written over
            shutil.copy2(path, beside)
        else:
            os.link(path, beside)
        beside.replace(previous)


def load_document(path: Path, kinds: Kinds | None = None) -> Document:
    """Read a file.

    Parameters
    ----------
    kinds : Kinds, optional
        `all_kinds` by default.

    Returns
    -------
    Document
        With the file's folder, and remarks about nodes that are not as they were saved.

    Raises
    ------
    FileError
        One sentence that names the file, the place in it and the trouble.
    """
    data = read_whole(path, SIZE_LIMIT)
    try:
        return replace(decode_document(data, kinds), folder=str(path.absolute().parent))
    except ReedError as error:
        raise FileError(f"Cannot open '{path}': {error}") from None


def decode_document(data: bytes, kinds: Kinds | None = None) -> Document:
    """The document in a file's bytes.

    Parameters
    ----------
    data : bytes
        UTF-8 JSON of any version of the format up to this one.
    kinds : Kinds, optional
        `all_kinds` by default; what is missing is kept as it stands.

    Raises
    ------
    FileError
        Naming the place and the trouble.
    """
    raw = _parse(data)
    _check_version(raw)
    _check_crowds(raw)
    gathered = _gather_extras(raw)
    try:
        weave = msgspec.convert(gathered, FileWeave)
    except msgspec.ValidationError as error:
        raise FileError(_place_sentence(str(error), _keys_to(gathered))) from None
    kinds = kinds or all_kinds()
    remarks: dict[str, str] = {}
    dials = plain_dials(weave.dials)
    is_older = int(weave.version.partition(".")[2]) < OWN_SEEDS
    document = Document(
        name=weave.name,
        general=weave.general,
        purpose=weave.purpose,
        tags=weave.tags,
        surface=weave.surface,
        graph=_build_graph(weave, kinds, remarks, "", is_older),
        motifs={
            key: _build_motif(motif, kinds, remarks, f"motifs.{key}.", is_older)
            for key, motif in weave.motifs.items()
        },
        dials=dials,
        colourways={
            key: replace(way, values=plain_values(dials, way.values)) for key, way in weave.colourways.items()
        },
        settings=plain_values(dials, weave.settings),
        colourway=weave.colourway,
        recipe=weave.recipe,
        lit=weave.lit,
        viewpoints=weave.viewpoints,
        extras=weave.extras,
        remarks=remarks,
    )
    document = _with_plain_uses(document, kinds)
    try:
        check(document, document_kinds(kinds, document))
    except BreachError as error:
        raise FileError(f"at '{error.where}': {error.sentence}" if error.where else error.sentence) from None
    return document


def _with_plain_uses(document: Document, kinds: Kinds) -> Document:
    """A document whose uses of motifs, and inlets, hold their values in plain form."""
    if not document.motifs:
        return document
    kinds = document_kinds(kinds, document)

    def plain(graph: Graph) -> Graph:
        nodes = {
            n.id: replace(n, parameters=plain_parameters(n.parameters, kinds.of(n)))
            for n in graph.nodes.values()
            if n.parameters and (used_motif(n.kind) or is_inlet(n.kind))
        }
        return replace(graph, nodes=graph.nodes | nodes) if nodes else graph

    motifs = {key: replace(motif, graph=plain(motif.graph)) for key, motif in document.motifs.items()}
    return replace(document, graph=plain(document.graph), motifs=motifs)


def _too_much(data: bytes) -> str:
    """Why a file is too much to be worked with; empty if it is not."""
    if len(data) > SIZE_LIMIT:
        return f"it would be larger than {SIZE_LIMIT // 2**20} MB, and such a file is not opened."
    count = sum(data.count(sign) for sign in (b",", b"{", b"["))
    return f"it holds {count} values, more than the {PART_LIMIT} of any weave." if count > PART_LIMIT else ""


def _parse(data: bytes) -> dict[str, Any]:
    trouble = _too_much(data)
    if trouble:
        raise FileError(trouble)
    try:
        raw = json.loads(
            data.decode("utf-8-sig"),
            parse_constant=_refuse_constant,
            parse_int=_whole_number,
            object_pairs_hook=_without_doubles,
        )
    except UnicodeDecodeError as error:
        raise FileError(f"it is not UTF-8 text (byte {error.start}); it may not be a weave at all.") from None
    except json.JSONDecodeError as error:
        raise FileError(
            f"it is not whole JSON: line {error.lineno}, column {error.colno}: {error.msg.lower()}; "
            "the previous version beside it may be sound."
        ) from None
    except RecursionError:
        raise FileError("it is nested too deeply; no weave is written like that.") from None
    if b"\\u" in data:
        _check_characters(raw)
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise FileError(f"it is not a weave: its field 'format' is not '{FORMAT}'.")
    return raw


def _check_characters(raw: Any) -> None:
    """Refuse texts, and names of fields, that hold half of a character, which no file can be written with."""
    waiting = [("", raw)]
    while waiting:
        where, value = waiting.pop()
        if isinstance(value, str) and holds_half(value):
            raise FileError(f"at '{where or 'the top of the file'}': the text holds half of a character.")
        if isinstance(value, dict):
            waiting += [(where, key) for key in value]
            waiting += [(f"{where}.{key}".lstrip("."), held) for key, held in value.items()]
        elif isinstance(value, list):
            waiting += [(f"{where}.{number}", held) for number, held in enumerate(value)]


def _without_doubles(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    """An object's fields, each of them once: of two with one name a reader could take either."""
    fields = dict(pairs)
    if len(fields) < len(pairs):
        seen: set[str] = set()
        for name, _ in pairs:
            if name in seen:
                raise FileError(f"it holds the field '{readable(name)}' twice in one place; take one out.")
            seen.add(name)
    return fields


def _whole_number(digits: str) -> int:
    if len(digits) > DIGIT_LIMIT:
        raise FileError(f"it holds a whole number of {len(digits)} digits; no weave is written like that.")
    return int(digits)


def _refuse_constant(name: str) -> float:
    raise FileError(f"it holds the number {name}; no weave is written like that.")


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


def _check_crowds(raw: dict[str, Any]) -> None:
    """Refuse more than can be worked with before anything is built of it."""
    motifs = raw.get("motifs")
    graphs = [raw, *(motifs.values() if isinstance(motifs, dict) else ())]
    nodes = [graph.get("nodes") for graph in graphs if isinstance(graph, dict)]
    count = sum(len(held) for held in nodes if isinstance(held, dict))
    if count > NODE_LIMIT:
        raise FileError(f"it holds {count} nodes, more than the {NODE_LIMIT} that can be worked with.")


def _keys_to(weave: dict[str, Any]) -> list[str]:
    """The keys of the first part of a file that cannot be, where many stand by their ids."""
    motifs = weave.get("motifs")
    for key, motif in motifs.items() if isinstance(motifs, dict) else ():
        if isinstance(motif, dict) and not _fits(motif, FileMotif):
            return [key, *_keys_in(motif, GRAPH_PARTS | MOTIF_PARTS)]
    return _keys_in(weave, GRAPH_PARTS | WEAVE_PARTS)


def _keys_in(block: dict[str, Any], parts: Mapping[str, type[Part]]) -> list[str]:
    for name, part in parts.items():
        held = block.get(name)
        for key, value in held.items() if isinstance(held, dict) else ():
            if not _fits(value, part):
                return [key]
    return []


def _fits(value: Any, part: type[Part]) -> bool:
    try:
        msgspec.convert(value, part)
    except msgspec.ValidationError:
        return False
    return True


def _place_sentence(text: str, keys: list[str]) -> str:
    """msgspec's message and path in one sentence of ours; it does not say which of many it means."""
    message, _, path = text.partition(" - at `")
    for key in keys:
        path = path.replace("[...]", f".{readable(key)}", 1)
    place = path.rstrip("`").removeprefix("$.").removeprefix("$") or "the top of the file"
    for word, plain in TYPE_WORDS.items():
        message = message.replace(f"`{word}`", plain)
    return f"at '{place}': {message[:1].lower()}{message[1:].replace('`', chr(39))}."


TYPE_WORDS = {
    "int": "a whole number", "float": "a number", "str": "a text", "bool": "true or false",
    "array": "a list", "object": "a block of fields", "null": "null", "array | null": "a list or null",
}  # fmt: skip
"""What msgspec calls the types of JSON, and what a reader does."""


def _gather_extras(raw: dict[str, Any]) -> dict[str, Any]:
    """The file's data with the fields that no part knows gathered in the parts' `extras`."""
    weave = _parted(raw, FileWeave)
    for name, part in SINGLE_PARTS.items():
        if name in weave:
            weave[name] = _parted(weave[name], part)
    _part_each(weave, GRAPH_PARTS | WEAVE_PARTS)
    motifs = weave.get("motifs")
    if isinstance(motifs, dict):
        weave["motifs"] = {key: _parted(motif, FileMotif) for key, motif in motifs.items()}
        for motif in weave["motifs"].values():
            if isinstance(motif, dict):
                _part_each(motif, GRAPH_PARTS | MOTIF_PARTS)
    return weave


def _part_each(block: dict[str, Any], parts: Mapping[str, type[Part]]) -> None:
    for name, part in parts.items():
        held = block.get(name)
        if isinstance(held, dict):
            block[name] = {key: _parted(value, part) for key, value in held.items()}


def _parted(value: Any, part: type[Part]) -> Any:
    if not isinstance(value, dict):
        return value
    known = set(part.__struct_fields__) - {"extras"}
    extras = {key: held for key, held in value.items() if key not in known}
    return {**{key: held for key, held in value.items() if key in known}, "extras": extras}


def _build_motif(
    motif: FileMotif, kinds: Kinds, remarks: dict[str, str], where: str, is_older: bool
) -> Motif:
    return Motif(
        title=motif.title,
        general=motif.general,
        purpose=motif.purpose,
        synonyms=motif.synonyms,
        inlets=motif.inlets,
        outlets=motif.outlets,
        dials=plain_dials(motif.dials),
        graph=_build_graph(motif, kinds, remarks, where, is_older),
        origin=motif.origin,
        extras=motif.extras,
    )


def _build_graph(held: FileGraph, kinds: Kinds, remarks: dict[str, str], where: str, is_older: bool) -> Graph:
    nodes: dict[str, Node] = {}
    for node_id, block in held.nodes.items():
        node, remark = brought_up_to_date(_build_node(node_id, block, kinds), kinds)
        if is_older:
            node, told = with_seeds_as_they_were(node, kinds)
            remark = f"{remark} {told}".strip()
        nodes[node_id] = node
        if remark:
            remarks[node_id] = remark
    threads = [
        Thread(
            source=_end(source, nodes, kinds, f"{where}nodes.{node_id}.inputs.{port}"),
            target=End(node=node_id, port=port),
        )
        for node_id, block in held.nodes.items()
        for port, source in block.inputs.items()
    ]
    return Graph(
        nodes=nodes,
        threads=tuple(threads),
        ends={slot: _end(text, nodes, kinds, f"{where}ties.{slot}") for slot, text in held.ties.items()},
        bays={k: Bay(id=k, title=b.title, tint=b.tint, **_box(b)) for k, b in held.bays.items()},
        notes={k: Note(id=k, text=n.text, **_box(n)) for k, n in held.notes.items()},
    )


def _end(text: str, nodes: Mapping[str, Node], kinds: Kinds, where: str) -> End:
    """The output that a text names; the first one where it names only the node."""
    node_id, _, port = text.partition(".")
    if not port:
        outputs = kinds.of(nodes[node_id]).outputs if node_id in nodes else ()
        if not outputs:
            raise FileError(f"at '{where}': '{text}' does not name an output, as 'node.port'.")
        port = outputs[0].name
    return End(node=node_id, port=port)


def _box(part: FileBay | FileNote) -> dict[str, Any]:
    return dict(zip(("x", "y", "width", "height"), part.box, strict=True)) | {"extras": part.extras}


def _build_node(node_id: str, block: FileNode, kinds: Kinds) -> Node:
    return Node(
        id=node_id,
        kind=block.kind,
        version=block.version,
        x=block.at[0],
        y=block.at[1],
        name=block.name,
        muted=block.muted,
        parameters=block.parameters,
        formulas=block.formulas,
        extras=block.extras,
    )
