"""Arithmetic, search, arranging, pieces, and the friendly face."""

from __future__ import annotations

import itertools
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

import reedloom as rl
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kinds.search import find_kinds
from reedloom.weave.arithmetic import calculate
from reedloom.weave.arrange import ACROSS, DOWN, align, arrange
from reedloom.weave.document import Bay, Document, End, Graph, Node, Note
from reedloom.weave.edits import AddNode, Connect, PutItem
from reedloom.weave.graph import downstream, inputs_by_node, output_data, upstream_order
from reedloom.weave.pieces import cut_piece, incoming_threads, items_within, place_piece
from weaving import KINDS

numbers = st.integers(-50, 50) | st.floats(-50, 50).map(lambda v: round(v, 3))
sums = st.recursive(
    numbers.map(lambda v: f"({v})"),
    lambda inner: st.tuples(inner, st.sampled_from("+-*/"), inner).map(lambda t: f"({t[0]}{t[1]} {t[2]})"),
    max_leaves=4,
)


@given(sums)
def test_arithmetic_is_pythons(text: str) -> None:
    try:
        wanted = eval(text)
    except ZeroDivisionError:
        with pytest.raises(rl.ReedError, match="division by 0"):
            calculate(text)
        return
    if len(text) <= 80:
        assert calculate(text) == pytest.approx(wanted)


@pytest.mark.parametrize(
    "text",
    ["", "x", "__import__('os')", "2**9999999", "[1]*9", "a.b", "1;2", "9" * 90, "True",
     "'a'*3", "lambda: 1", "0x", "((((", "1//2", "1e400", "9**9**9", "sin", "cosh(1)"],
)  # fmt: skip
def test_arithmetic_refuses_everything_else(text: str) -> None:
    with pytest.raises(rl.ReedError) as caught:
        calculate(text)
    assert str(caught.value).endswith(".")


def test_typed_numbers_as_people_write_them() -> None:
    assert [
        calculate(t) for t in ("1/3", "2*0.15", " -4 ", "0,25", "−3", "1e-3", "(2+3)*4")
    ] == pytest.approx([1 / 3, 0.3, -4, 0.25, -3, 0.001, 20])


@pytest.mark.parametrize(
    ("typed", "first"),
    [("blu", "blur"), ("normal", "normal"), ("normalise", "normalise"), ("gradient m", "gradient_map"),
     ("worley", "cellular_noise"), ("soften", "blur"), ("ao", "occlusion"), ("multiply", "blend"),
     ("cell", "cellular_noise"), ("ball", "disc"), ("uv", "tile_place"), ("rotate", "rotate_flip"),
     ("cut", "threshold")],
)  # fmt: skip
def test_the_finder_knows_names_synonyms_and_purposes(typed: str, first: str) -> None:
    assert find_kinds(typed, built_in_kinds())[0].id == first


def test_the_finder_shows_all_for_nothing_and_nothing_for_nonsense() -> None:
    assert find_kinds("", built_in_kinds()) == list(built_in_kinds())
    assert find_kinds("zzz", built_in_kinds()) == []


def woven(count: int, seed: int) -> Document:
    """A random graph of blends."""
    chance, document = random.Random(seed), Document()
    for number in range(count):
        document = AddNode(f"n{number}", "blend", x=chance.uniform(0, 900), y=50).apply(document, KINDS)
        for port in ("below", "above"):
            if number and chance.random() < 0.7:
                source = End(node=f"n{chance.randrange(number)}", port="map")
                document = Connect(source, End(node=f"n{number}", port=port)).apply(document, KINDS)
    return document


@given(st.integers(1, 40), st.integers(0, 1000))
def test_arranged_cards_hang_below_what_feeds_them_and_never_overlap(count: int, seed: int) -> None:
    document = woven(count, seed)
    places = arrange(document.graph, document.graph.nodes)
    assert places.keys() == document.graph.nodes.keys()
    for thread in document.graph.threads:
        assert places[thread.target.node][1] >= places[thread.source.node][1] + DOWN
    spots = sorted(places.values())
    for a in spots:
        for b in spots:
            assert a is b or abs(a[0] - b[0]) >= ACROSS - 1e-6 or abs(a[1] - b[1]) >= DOWN - 1e-6
    assert min(y for _, y in places.values()) == pytest.approx(50)


@given(st.lists(st.tuples(st.floats(-900, 900), st.floats(-900, 900)), max_size=12), st.booleans())
def test_aligned_cards_keep_their_order_and_the_middle_and_never_overlap(
    spots: list[tuple[float, float]], across: bool
) -> None:
    nodes = {f"n{i}": Node(id=f"n{i}", kind="disc", x=x, y=y) for i, (x, y) in enumerate(spots)}
    places = align(Graph(nodes=nodes), nodes, across)
    if len(spots) < 2:
        assert not places
        return
    along, room = (0, ACROSS) if across else (1, DOWN)
    assert len({place[1 - along] for place in places.values()}) == 1
    order = sorted(nodes, key=lambda n: places[n][along])
    before = [spots[int(n[1:])][along] for n in order]
    after = [places[n][along] for n in order]
    assert before == sorted(before)
    assert all(b - a >= room - 1e-6 for a, b in itertools.pairwise(after))
    assert sum(after) == pytest.approx(sum(before), abs=1e-6)
    again = align(
        Graph(nodes={n: replace(nodes[n], x=x, y=y) for n, (x, y) in places.items()}), nodes, across
    )
    assert [c for n in order for c in again[n]] == pytest.approx([c for n in order for c in places[n]])


def test_graph_questions() -> None:
    document = woven(12, 3)
    order = upstream_order(inputs_by_node(document.graph), ["n11"])
    assert order[-1] == "n11" and set(order) <= set(document.graph.nodes)
    assert all("n11" in downstream(document.graph, [n]) for n in order)
    data = output_data(document.graph, KINDS)
    painted = AddNode("paint", "solid").apply(document, KINDS)
    painted = Connect(End(node="paint", port="colour"), End(node="n0", port="below")).apply(painted, KINDS)
    changed = {k for k, v in output_data(painted.graph, KINDS).items() if k in data and v != data[k]}
    assert {node for node, _ in changed} == downstream(document.graph, ["n0"])


def test_pieces_keep_their_threads_and_take_fresh_ids() -> None:
    document = PutItem(Bay(id="bay_1", width=3000, height=3000, x=-20, y=-20)).apply(woven(6, 1), KINDS)
    document = PutItem(Note(id="note_1", x=10, y=10)).apply(document, KINDS)
    inside = items_within(document.graph, document.graph.bays["bay_1"], 124, 134)
    assert inside == {*document.graph.nodes, "note_1"}
    chosen = {"n3", "n4", "n5", "bay_1", "note_1"}
    piece = cut_piece(document.graph, chosen)
    coming = incoming_threads(document.graph, chosen)
    assert all(t.source.node not in chosen for t in coming)
    edit, names = place_piece(document.graph, piece, (10, 20), coming)
    after = edit.change(document.graph, KINDS)
    assert len(after.nodes) == len(document.graph.nodes) + 3 and names.keys() == chosen
    assert len(after.threads) == len(document.graph.threads) + len(piece.threads) + len(coming)
    moved, old = after.nodes[names["n4"]], document.graph.nodes["n4"]
    assert (moved.x, moved.y) == (old.x + 10, old.y + 20)


def test_the_friendly_face_explains_what_is_wrong() -> None:
    weave = rl.Weave()
    blur, normal, place = weave.add("blur"), weave.add("normal"), weave.add("tile_place")
    for action, error, text in (
        (lambda: weave.add("blurr"), rl.UnknownNameError, "you may mean blur"),
        # By its other words and its label, not by what only looks alike.
        (lambda: weave.add("soften"), rl.UnknownNameError, "you may mean blur"),
        (lambda: weave.add("gradient noise"), rl.UnknownNameError, "you may mean gradient_noise."),
        (lambda: weave.add("noise"), rl.UnknownNameError, "_noise or "),
        (lambda: weave.add("xyzzy"), rl.UnknownNameError, "use one of: angle_vectors"),
        (lambda: weave.add("levels", **{"From low": 0.1}), rl.UnknownNameError, "you may mean from_low."),
        (lambda: weave.add("blend", mode="multply"), rl.ValueRangeError, "you may mean multiply;"),
        (lambda: weave.add("solid", colour="red"), rl.ValueRangeError, "a text such as '#406070'"),
        (lambda: rl.evaluate(weave, blur, 512.0), rl.ReedError, "neither a number nor a pair"),
        (lambda: weave.add("blur", radius="wide"), rl.ValueRangeError, "'blur_2.radius' cannot be 'wide'"),
        (lambda: weave.add("blur", wide=1), rl.UnknownNameError, "no parameter 'wide'"),
        (lambda: weave.set(blur, radius=0.6), rl.ValueRangeError, "from 0 to 0.5"),
        (lambda: weave.connect(blur, "normal_9"), rl.UnknownNameError, "no node 'normal_9'"),
        (lambda: weave.connect(f"{blur}.mop", normal), rl.UnknownNameError, "no output 'mop'"),
        (
            lambda: weave.connect(place, blur),
            rl.ConnectError,
            "gives vector but 'blur_1.map' takes grey or colour",
        ),
        (lambda: weave.connect(blur, place), rl.UnknownNameError, "has no input to tie"),
        (lambda: weave.tie(place, "height"), rl.ConnectError, "gives vector"),
        (lambda: weave.tie(blur, "bump"), rl.UnknownNameError, "no map 'bump'"),
    ):
        before = weave.document
        with pytest.raises(error) as caught:
            action()
        assert text in str(caught.value)
        assert weave.document == before
    weave.connect(blur, normal)
    weave.disconnect(normal)
    weave.tie(normal, "normal")
    weave.untie("normal")
    weave.remove(normal)
    assert weave.undo() == "Remove node" and normal in weave.document.graph.nodes
    assert weave.redo() == "Remove node" and not weave.document.graph.ends
