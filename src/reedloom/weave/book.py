"""The swatch book: folders of weaves and motifs, what is in them, and how they are brought and renewed."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from reedloom.errors import FileError, ReedError
from reedloom.files import read_whole
from reedloom.kinds.catalogue import Kinds
from reedloom.kit.channels import CHANNELS
from reedloom.kit.data import COLOUR, GREY, SameAs
from reedloom.weave.document import Document, End, Graph, Motif, Node, Outlet, Thread
from reedloom.weave.edits.motifs import free_motif_id
from reedloom.weave.fileformat import FORMAT, SIZE_LIMIT, load_document
from reedloom.weave.motifs import MOTIF, document_kinds, used_in, used_motif, with_inner

SUFFIX = ".reed"
WHOLE = "material"
"""The outlet of a brought weave that has all its maps as one."""
MARK = " | "
"""Between the file of an origin, the motif in it, and what it was like."""


class _Head(Struct):
    """What is read of a file for the list; the rest is passed over."""

    format: str = ""
    name: str = ""
    general: str = ""
    purpose: str = ""
    tags: tuple[str, ...] = ()
    nodes: dict[str, msgspec.Raw] = {}
    motifs: dict[str, Any] = {}


_HEAD = msgspec.json.Decoder(_Head)
"""Made once: how a type is read must not be worked out in two threads at the same time."""


class Entry(Struct, frozen=True):
    """One file of the book.

    Attributes
    ----------
    motif : str
        The motif that the file keeps; empty for a weave.
    trouble : str
        Why it cannot be read; else empty.
    stamp : (size, time in ns)
        What the file was like when it was looked at.
    """

    path: Path
    title: str
    general: str = ""
    purpose: str = ""
    tags: tuple[str, ...] = ()
    motif: str = ""
    trouble: str = ""
    stamp: tuple[int, int] = (0, 0)

    @property
    def name(self) -> str:
        """The general name first, then the particular one."""
        if not self.general:
            return self.title
        return f"{self.general}, {self.title[:1].lower()}{self.title[1:]}"

    def fits(self, words: Iterable[str]) -> bool:
        """Whether every word stands somewhere in its names, purpose or tags."""
        text = " ".join((self.name, self.title, self.purpose, *self.tags, self.path.stem)).casefold()
        return all(word.casefold() in text for word in words)


def user_book() -> Path:
    """The user's own folder of the book: the environment's REEDLOOM_BOOK, or one of the user's data."""
    given = os.environ.get("REEDLOOM_BOOK")
    if given:
        return Path(given)
    import platformdirs

    return Path(platformdirs.user_data_dir("reedloom")) / "book"


def scan(folder: Path, known: Mapping[Path, Entry] | None = None) -> list[Entry]:
    """What a folder of the book holds, those below it too, in the order of their names.

    Parameters
    ----------
    known : mapping, optional
        Entries of before, by path; those whose file has not changed are not read again.

    Returns
    -------
    list of Entry; a file that cannot be read is among them, with its reason
    """
    found = []
    for place, folders, files in os.walk(folder):
        folders[:] = sorted(name for name in folders if not name.startswith("."))
        for name in files:
            if name.endswith(SUFFIX) and not name.startswith("."):
                path = Path(place) / name
                stamp = stamp_of(path)
                old = (known or {}).get(path)
                found.append(old if old is not None and old.stamp == stamp else _look_at(path, stamp))
    return sorted(found, key=lambda entry: (entry.name.casefold(), entry.path))


def stamp_of(path: Path) -> tuple[int, int]:
    """What a file is like now; (0, 0) if it is not there."""
    try:
        state = path.stat()
    except (OSError, ValueError):
        return (0, 0)
    return (state.st_size, state.st_mtime_ns)


def _look_at(path: Path, stamp: tuple[int, int]) -> Entry:
    try:
        data = read_whole(path, SIZE_LIMIT)
        head = _HEAD.decode(data)
        if head.format != FORMAT:
            raise FileError(f"'{path.name}' is not a weave.")
    except FileError as error:
        return Entry(path, path.stem, trouble=str(error), stamp=stamp)
    except (msgspec.MsgspecError, ValueError, RecursionError) as error:
        return Entry(path, path.stem, trouble=f"'{path.name}' is not whole JSON: {error}.", stamp=stamp)
    motif = _kept_motif(head)
    if motif:
        held = head.motifs[motif]
        texts = {name: str(held.get(name, "")) for name in ("title", "general", "purpose")}
        tags = tuple(str(word) for word in held.get("synonyms", ()))
        title = texts["title"] or motif
        return Entry(path, title, texts["general"], texts["purpose"], tags, motif, stamp=stamp)
    name = head.name if head.name and head.name != "Untitled" else path.stem.replace("-", " ").capitalize()
    return Entry(path, name, head.general, head.purpose, head.tags, stamp=stamp)


def _kept_motif(head: _Head) -> str:
    """The motif of a file that holds just one use of one; empty for any other weave."""
    if len(head.nodes) != 1 or not head.motifs:
        return ""
    node = msgspec.json.decode(next(iter(head.nodes.values())))
    key = used_motif(str(node.get("kind", ""))) if isinstance(node, dict) else ""
    return key if isinstance(head.motifs.get(key), dict) else ""


def motif_document(document: Document, key: str, kinds: Kinds) -> Document:
    """A motif as a document of its own: with all it uses, and one use of it tied to the rail."""
    motifs = with_inner([key], document.motifs)
    motif = replace(motifs[key], origin="")
    use = Node(id=f"{key}_1", kind=MOTIF + key)
    declared = document_kinds(kinds, replace(document, motifs=motifs)).get(MOTIF + key)
    ends: dict[str, End] = {}
    for port in declared.outputs:
        end = End(node=use.id, port=port.name)
        if port.name in CHANNELS:
            ends[port.name] = end
        elif not ends:
            ends["height"] = end
    return Document(
        name=motif.title or key,
        general=motif.general,
        purpose=motif.purpose,
        tags=motif.synonyms,
        surface=document.surface,
        graph=Graph(nodes={use.id: use}, ends=_only_maps(ends, declared)),
        motifs=motifs | {key: motif},
        folder=document.folder,
    )


def _only_maps(ends: dict[str, End], declared: Any) -> dict[str, End]:
    """Of some ends those that carry grey or colour, which is what the rail takes."""
    carried = {port.name: port.data for port in declared.outputs}
    return {
        slot: end
        for slot, end in ends.items()
        if isinstance(carried[end.port], SameAs) or carried[end.port] & (GREY | COLOUR)
    }


def as_piece(path: Path, kinds: Kinds) -> Document:
    """A file of the book as a piece that can be added to a board: one use of one motif.

    A weave comes as a motif whose outlets are its rail slots, and its material.

    Raises
    ------
    FileError
        If it cannot be read.
    """
    document = load_document(path, kinds)
    uses = used_in(document.graph)
    if len(document.graph.nodes) == 1 and uses and uses[0] in document.motifs:
        key = uses[0]
    else:
        document, key = _as_motif(document, kinds)
    brought = replace(document.motifs[key], origin="")
    marked = replace(brought, origin=_origin(path, key, digest_of(brought, document.motifs)))
    motifs = document.motifs | {key: marked}
    use = Node(id=f"{key}_1", kind=MOTIF + key)
    return Document(
        graph=Graph(nodes={use.id: use}), motifs=motifs, surface=document.surface, folder=document.folder
    )


def _as_motif(document: Document, kinds: Kinds) -> tuple[Document, str]:
    graph = document.graph
    if not graph.ends:
        raise ReedError(f"'{document.name}' has nothing tied to its map rail; nothing can be taken of it.")
    bound = graph.free_id("material")
    kind = kinds.get("material")
    below = max(node.y for node in graph.nodes.values()) + 190.0
    material = Node(id=bound, kind=kind.id, version=kind.version, x=0.0, y=below, name=document.name)
    threads = [
        Thread(source=end, target=End(node=bound, port=channel)) for channel, end in graph.ends.items()
    ]
    slots = [channel for channel in CHANNELS if channel in graph.ends]
    outlets = {WHOLE: Outlet(label="Material")} | {c: Outlet(label=CHANNELS[c].label) for c in slots}
    ends = {WHOLE: End(node=bound, port=kind.outputs[0].name)} | {c: graph.ends[c] for c in slots}
    dials = {
        key: replace(dial, default=document.settings.get(key, dial.default))
        for key, dial in document.dials.items()
    }
    key = free_motif_id(document.motifs, document.name)
    motif = Motif(
        title=document.name,
        general=document.general,
        purpose=document.purpose,
        synonyms=document.tags,
        outlets=outlets,
        dials=dials,
        graph=replace(
            graph,
            nodes=graph.nodes | {bound: material},
            threads=(*graph.threads, *threads),
            ends=ends,
        ),
    )
    return replace(document, motifs=document.motifs | {key: motif}), key


class Origin(Struct, frozen=True):
    """Where in the book a motif came from, and what it was like then."""

    path: Path
    key: str
    digest: str


def _origin(path: Path, key: str, digest: str) -> str:
    return MARK.join((str(path), key, digest))


def origin_of(motif: Motif) -> Origin | None:
    """Where a motif came from; None for one that was made here."""
    parts = motif.origin.split(MARK)
    return Origin(Path(parts[0]), parts[1], parts[2]) if len(parts) == 3 else None


def digest_of(motif: Motif, motifs: Mapping[str, Motif]) -> str:
    """What tells a motif, and all that it uses, from any other."""
    inner = with_inner(used_in(motif.graph), motifs)
    plain = [replace(m, origin="") for m in (motif, *(inner[k] for k in sorted(inner)))]
    sorted_threads = [replace(m, graph=replace(m.graph, threads=_sorted(m.graph))) for m in plain]
    return hashlib.blake2b(msgspec.json.encode(sorted_threads, order="sorted"), digest_size=12).hexdigest()


def _sorted(graph: Graph) -> tuple[Thread, ...]:
    return tuple(sorted(graph.threads, key=lambda t: (str(t.target), str(t.source))))


class Newer(Struct, frozen=True):
    """A newer version of a motif that the book has.

    Attributes
    ----------
    piece : Document
        As `as_piece` gives it.
    key : str
        The motif in it.
    changes : tuple of str
        What would be different here, a sentence each.
    own : bool
        Whether it was changed here too; those changes would be lost.
    """

    piece: Document
    key: str
    changes: tuple[str, ...]
    own: bool


def look_for_newer(document: Document, key: str, kinds: Kinds) -> Newer | None:
    """Whether the book has another version of a motif than the one that was brought.

    Returns
    -------
    Newer, or None if it has not, or the motif was made here

    Raises
    ------
    FileError
        If its file cannot be read any more.
    """
    motif = document.motifs[key]
    origin = origin_of(motif)
    if origin is None:
        return None
    piece = as_piece(origin.path, kinds)
    if origin.key not in piece.motifs:
        return None
    newer = piece.motifs[origin.key]
    now = origin_of(newer)
    if now is None or now.digest == origin.digest:
        return None
    changed_here = digest_of(motif, document.motifs) != origin.digest
    return Newer(piece, origin.key, tuple(changes_between(motif, newer, kinds)), changed_here)


def changes_between(old: Motif, new: Motif, kinds: Kinds) -> list[str]:
    """What is different in one version of a motif from another, a sentence each."""
    told = []
    if old.title != new.title:
        told.append(f"It is called '{new.title}'.")
    for part, word in (("dials", "dial"), ("inlets", "inlet"), ("outlets", "outlet")):
        before, after = getattr(old, part), getattr(new, part)
        told += [f"The {word} '{after[k].label or k}' is new." for k in after if k not in before]
        told += [f"The {word} '{before[k].label or k}' is gone." for k in before if k not in after]
        told += [
            f"The {word} '{after[k].label or k}' is different."
            for k in after
            if k in before and before[k] != after[k]
        ]
    nodes, then = new.graph.nodes, old.graph.nodes
    added = [kinds.title(nodes[k]) for k in nodes if k not in then]
    gone = [kinds.title(then[k]) for k in then if k not in nodes]
    told += [f"{len(added)} nodes are new: {', '.join(added[:6])}."] if added else []
    told += [f"{len(gone)} nodes are gone: {', '.join(gone[:6])}."] if gone else []
    for key in (k for k in nodes if k in then):
        told += _node_changes(then[key], nodes[key], kinds)
    if set(old.graph.threads) != set(new.graph.threads) and not added and not gone:
        told.append("Some threads are tied otherwise.")
    return told or ["Only places on its board are different."]


def _node_changes(old: Node, new: Node, kinds: Kinds) -> list[str]:
    title = kinds.title(new)
    if old.kind != new.kind:
        return [f"'{title}' is of another kind."]
    names = {*old.parameters, *new.parameters, *old.formulas, *new.formulas}
    different = [
        name.replace("_", " ")
        for name in sorted(names)
        if old.parameters.get(name) != new.parameters.get(name)
        or old.formulas.get(name) != new.formulas.get(name)
    ]
    return [f"'{title}': {', '.join(different)} set otherwise."] if different else []
