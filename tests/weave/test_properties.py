"""Any document the edits can make is undone, redone, saved and loaded to an equal one."""

from __future__ import annotations

import random
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from reedloom.errors import ReedError
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.channels import CHANNELS
from reedloom.weave.document import Bay, Document, End, LitState, Note, Surface, Viewpoint
from reedloom.weave.edits import (
    AddNode,
    Batch,
    Connect,
    Disconnect,
    Edit,
    KeepViewpoint,
    MoveItems,
    MoveThreads,
    PutItem,
    RemoveItems,
    RemoveNodes,
    SetDocument,
    SetNode,
    SetParameters,
    SwapInputs,
    TakeOut,
    Tie,
    Untie,
)
from reedloom.weave.fileformat import decode_document, encode_document
from reedloom.weave.graph import inputs_by_node, output_data, upstream_order
from reedloom.weave.pieces import cut_piece, place_piece
from reedloom.weave.session import Session
from weaving import KINDS


def random_edit(document: Document, chance: random.Random) -> Edit:
    """One edit of any sort, legal or not."""
    nodes = list(document.graph.nodes)
    if not nodes or chance.random() < 0.3:
        kind = chance.choice(tuple(built_in_kinds()))
        return AddNode(
            document.graph.free_id(kind.id), kind.id, chance.uniform(-500, 500), chance.uniform(-500, 500)
        )
    node = document.graph.nodes[chance.choice(nodes)]
    other = document.graph.nodes[chance.choice(nodes)]
    output = End(node=node.id, port=chance.choice(KINDS.of(node).outputs).name)
    makers: list[Any] = [
        lambda: SetNode(node.id, name=chance.choice(["", "Ridge", "näme “x”"]), muted=chance.random() < 0.5),
        lambda: RemoveNodes((node.id,), close_up=chance.random() < 0.5),
        lambda: TakeOut(node.id),
        lambda: MoveItems({node.id: (chance.uniform(-9, 9), 3.25)}),
        lambda: Tie(output, chance.choice(list(CHANNELS))),
        lambda: Untie(chance.choice(list(CHANNELS))),
        lambda: PutItem(Bay(id=f"bay_{chance.randint(1, 3)}", title="Bay", tint=chance.randint(0, 4))),
        lambda: PutItem(Note(id=f"note_{chance.randint(1, 3)}", text='line\nline "two" 🪢')),
        lambda: RemoveItems((f"bay_{chance.randint(1, 3)}",)),
        lambda: SetDocument(name="Clay", surface=Surface(width=chance.uniform(0.1, 3), depth=0.02)),
        lambda: SetDocument(lit=LitState(object="cloth", yaw=chance.uniform(0, 360), key=(10.0, 5.5))),
        lambda: KeepViewpoint(
            chance.choice(["Rim", "näh"]), Viewpoint(pitch=12.5) if chance.random() < 0.7 else None
        ),
        lambda: MoveThreads(output, End(node=other.id, port=KINDS.of(other).outputs[0].name)),
        lambda: place_piece(
            document.graph, cut_piece(document.graph, chance.sample(nodes, min(3, len(nodes)))), (10, 20)
        )[0],
    ]
    if KINDS.of(node).parameters:
        parameter = chance.choice(KINDS.of(node).parameters)
        makers += [lambda: SetParameters(node.id, {parameter.name: parameter.draw(chance)})] * 4
    if KINDS.of(other).inputs:
        target = End(node=other.id, port=chance.choice(KINDS.of(other).inputs).name)
        makers += [lambda: Connect(output, target)] * 6 + [lambda: Disconnect(target)]
        first = KINDS.of(other).inputs[0].name
        makers += [lambda: SwapInputs(other.id, first, target.port)]
    edit: Edit = chance.choice(makers)()
    return edit


def wander(seed: int, steps: int) -> tuple[Session, list[Document]]:
    """A session after many edits, with every recorded document on the way."""
    chance, session = random.Random(seed), Session()
    seen = [session.document]
    for _ in range(steps):
        before = session.recorded
        try:
            session.submit(random_edit(session.document, chance))
        except ReedError as error:
            assert str(error).endswith(".") and "\n" not in str(error)
            assert session.recorded is before and session.document == before
        if session.recorded is not before:
            seen.append(session.recorded)
    return session, seen


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 2**32))
def test_undo_and_redo_pass_through_equal_documents(seed: int) -> None:
    session, seen = wander(seed, 40)
    for document in reversed(seen[:-1]):
        assert session.undo() is not None
        assert session.document == document
    assert session.undo() is None
    for document in seen[1:]:
        assert session.redo() is not None
        assert session.document == document
    assert session.redo() is None


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 2**32))
def test_documents_survive_their_file(seed: int) -> None:
    document = wander(seed, 40)[0].document
    loaded = decode_document(encode_document(document))
    assert sorted(map(str, loaded.graph.threads)) == sorted(map(str, document.graph.threads))
    same_order = replace(loaded.graph, threads=document.graph.threads)
    assert replace(loaded, graph=same_order) == document
    assert encode_document(loaded) == encode_document(document)


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 2**32))
def test_no_edit_makes_a_circle_or_a_loose_end(seed: int) -> None:
    document = wander(seed, 60)[0].document
    order = upstream_order(inputs_by_node(document.graph), document.graph.nodes)
    assert sorted(order) == sorted(document.graph.nodes)
    data = output_data(document.graph, KINDS)
    for thread in document.graph.threads:
        assert order.index(thread.source.node) < order.index(thread.target.node)
        assert (thread.source.node, thread.source.port) in data
    assert len({t.target for t in document.graph.threads}) == len(document.graph.threads)
    assert all(end.node in document.graph.nodes for end in document.graph.ends.values())


def test_a_drag_is_one_step_and_one_event_says_what_differs() -> None:
    session = Session()
    session.submit(AddNode("a", "blur"))
    heard = []
    end = session.subscribe(heard.append)
    for radius in (0.02, 0.03, 0.04):
        session.preview(SetParameters("a", {"radius": radius}))
    session.submit(SetParameters("a", {"radius": 0.05}))
    assert [c.recorded for c in heard] == [False, False, False, True]
    assert all(c.nodes == {"a"} and c.computed and not c.threads for c in heard)
    assert session.undo_label == "Set radius"
    session.undo()
    assert KINDS.value(session.document.graph.nodes["a"], "radius") == 0.01
    heard.clear()
    session.submit(MoveItems({"a": (5, 5)}))
    assert heard[0].nodes == {"a"} and not heard[0].computed
    end()
    session.submit(Batch("Both", (AddNode("b", "number"), SetNode("b", name="Level"))))
    assert len(heard) == 1 and session.undo_label == "Both"


def test_taking_out_closes_the_thread_up() -> None:
    document = Document()
    for node, kind in (("n", "gradient_noise"), ("b", "blur"), ("l", "levels"), ("c", "normal")):
        document = AddNode(node, kind).apply(document, KINDS)
    for source, port, target, into in (
        ("n", "noise", "b", "map"),
        ("b", "map", "l", "map"),
        ("b", "map", "c", "height"),
    ):
        document = Connect(End(node=source, port=port), End(node=target, port=into)).apply(document, KINDS)
    document = Tie(End(node="b", port="map"), "height").apply(document, KINDS)
    out = TakeOut("b").apply(document, KINDS)
    assert sorted(str(t.source) + ">" + str(t.target) for t in out.graph.threads) == [
        "n.noise>c.height",
        "n.noise>l.map",
    ]
    assert str(out.graph.ends["height"]) == "n.noise" and "b" in out.graph.nodes
    assert "b" not in RemoveNodes(("b",), close_up=True).apply(document, KINDS).graph.nodes
