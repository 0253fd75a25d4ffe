"""What can be made can be saved, and what can be saved can be opened: one list of rules for both."""

from __future__ import annotations

import json
from typing import Any

import pytest
from msgspec.structs import replace

import reedloom as rl
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.weave.check import NODE_LIMIT, breaches
from reedloom.weave.document import Bay, Document, LitState, Node, Note, Recipe, Surface, Viewpoint
from reedloom.weave.edits import KeepViewpoint, MoveItems, PutItem, SetDocument, SetNode
from reedloom.weave.fileformat import decode_document, encode_document
from reedloom.weave.session import Session
from weaving import KINDS, after

NAN, INFINITE, HALF = float("nan"), float("inf"), "half \ud83e"
REFUSED: list[tuple[Any, str]] = [
    (SetDocument(surface=Surface(width=0)), "surface.width"),
    (SetDocument(surface=Surface(depth=NAN)), "surface.depth"),
    (SetDocument(recipe=Recipe(size=16384)), "recipe.size"),
    (SetDocument(recipe=Recipe(name=HALF)), "recipe.name"),
    (SetDocument(name=HALF), "name"),
    (SetDocument(lit=LitState(yaw=INFINITE)), "lit.yaw"),
    (SetDocument(lit=LitState(key=(0.0, NAN))), "lit.key.1"),
    (KeepViewpoint("Rim", Viewpoint(distance=1e300)), "viewpoints.Rim.distance"),
    (KeepViewpoint(HALF, Viewpoint()), "viewpoints"),
    (MoveItems({"blur_1": (NAN, 0.0)}), "nodes.blur_1.x"),
    (MoveItems({"blur_1": (0.0, -INFINITE)}), "nodes.blur_1.y"),
    (SetNode("blur_1", name=HALF), "nodes.blur_1.name"),
    (SetNode("blur_1", name="x" * 200_000), "nodes.blur_1.name"),
    (PutItem(Bay(id="bay_1", width=INFINITE)), "bays.bay_1.width"),
    (PutItem(Note(id="note_1", text=HALF)), "notes.note_1.text"),
    (PutItem(Note(id="note_1", extras={"mood": [1, {"a": NAN}]})), "notes.note_1.mood.1.a"),
    (PutItem(Note(id="note_1", extras={"mood": object()})), "notes.note_1.mood"),
]


@pytest.mark.parametrize(("edit", "place"), REFUSED, ids=[p for _, p in REFUSED])
def test_what_no_file_could_hold_is_refused_with_its_place_before_it_is_taken(edit: Any, place: str) -> None:
    weave = rl.Weave()
    weave.add("blur")
    before = weave.document
    with pytest.raises(rl.ReedError, match="At '") as caught:
        weave.session.submit(edit)
    assert f"At '{place}" in str(caught.value) and str(caught.value).endswith(".")
    assert weave.document is before
    # Nor can such a document be begun with, or written.
    broken = edit.apply(before, KINDS)
    with pytest.raises(rl.ReedError):
        Session(broken)
    with pytest.raises(rl.ReedError):
        encode_document(broken, KINDS)


def test_a_node_id_with_a_full_stop_is_refused() -> None:
    for node_id in ("a.b", ""):
        graph = replace(Document().graph, nodes={node_id: Node(id=node_id, kind="blur")})
        with pytest.raises(rl.ReedError, match="no full stop"):
            Session(Document(graph=graph))


def test_numbers_without_end_in_a_file_are_named(tmp_path: Any) -> None:
    weave = rl.Weave()
    weave.add("blur")
    plain = encode_document(weave.document).decode()
    for text, place in (
        (plain.replace('"at": [0.0, 0.0]', '"at": [1e999, 0.0]'), "nodes.blur_1"),
        (plain.replace('"yaw": 62.0', '"yaw": -1e999'), "lit.yaw"),
        (plain.replace('"name": "Untitled"', '"name": "\\ud800"'), "name"),
        (plain.replace('"name": "Untitled"', '"name": "a", "mood": 1e999'), "mood"),
    ):
        assert text != plain
        with pytest.raises(rl.FileError, match=place):
            decode_document(text.encode())


def test_crowds_are_refused_in_a_sentence() -> None:
    nodes = {f"n{i}": Node(id=f"n{i}", kind="number") for i in range(NODE_LIMIT + 1)}
    with pytest.raises(rl.ReedError, match=f"more than the {NODE_LIMIT} that can be worked with"):
        Session(Document(graph=replace(Document().graph, nodes=nodes)))


def test_only_what_differs_is_looked_at_again(monkeypatch: pytest.MonkeyPatch) -> None:
    weave = rl.Weave()
    for _ in range(30):
        weave.add("blur")
    looked: list[str] = []
    from reedloom.weave import check as rules

    real = rules._node
    monkeypatch.setattr(rules, "_node", lambda node_id, *a: (looked.append(node_id), real(node_id, *a))[1])
    monkeypatch.setattr(rules, "_threads", lambda *a: pytest.fail("the threads are those of before"))
    weave.set("blur_7", radius=0.2)
    assert looked == ["blur_7"]


def test_every_broken_rule_is_listed_not_only_the_first() -> None:
    document = after(Document(), SetDocument(surface=Surface(width=-1, height=NAN), name=HALF))
    found = [breach.where for breach in breaches(document, built_in_kinds())]
    assert {"name", "surface.width", "surface.height"} <= set(found)


def test_a_file_of_this_version_says_so() -> None:
    assert json.loads(encode_document(Document()))["version"] == "1.3"
