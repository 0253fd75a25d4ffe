"""What must always hold of dials, formulas, motifs and colourways, over weaves tied at random."""

from __future__ import annotations

import random
from typing import Any

import numpy as np
import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

import reedloom as rl
from reedloom.kit.channels import CHANNELS
from reedloom.kit.parameters import Number
from reedloom.loom.cache import Cache
from reedloom.loom.run import evaluate_ends
from reedloom.weave.dials import TYPES, blend_settings, dial_for, dial_parameter
from reedloom.weave.document import Colourway, Dial, Document, End, Motif
from reedloom.weave.edits import (
    AddNode,
    BringPiece,
    Connect,
    DescribeMotif,
    ForkMotif,
    OrderParts,
    PackMotif,
    PutColourway,
    PutDial,
    PutOn,
    RemoveDial,
    RemoveNotch,
    SetFormula,
    SetNode,
    SetParameters,
    TakeAsDefaults,
    TieOutlet,
    TurnDials,
    UnpackMotif,
)
from reedloom.weave.edits.bringing import copied
from reedloom.weave.fileformat import decode_document, encode_document
from reedloom.weave.motifs import document_kinds, used_motif
from reedloom.weave.pieces import place_piece
from reedloom.weave.resolve import resolve
from reedloom.weave.session import Session
from weaving import KINDS

SIZE = (24, 16)
CHAIN = ("blur", "levels", "curve", "blend", "invert", "gradient_map", "slope", "combine_normals", "tint")


def tangle(seed: int) -> rl.Weave:
    """Some noises and what is made of them, tied at random, with dials that drive some values."""
    chance = random.Random(seed)
    weave = rl.Weave()
    ends = [weave.add("gradient_noise", seed=seed, cells=3), weave.add("solid"), weave.add("disc")]
    for _ in range(9):
        kind = KINDS.get(chance.choice([k for k in CHAIN if k in KINDS]))
        node = weave.add(kind.id)
        for port in kind.inputs:
            if not port.optional or chance.random() < 0.6:
                for source in chance.sample(ends, len(ends)):
                    try:
                        weave.connect(source, f"{node}.{port.name}")
                    except rl.ConnectError:
                        continue
                    break
        ends.append(node)
    for channel, node in zip(CHANNELS, chance.sample(ends[3:], 5), strict=False):
        try:
            weave.tie(node, channel)
        except rl.ConnectError:
            continue
    weave.add_dial("amount", default=0.3, useful=(0, 1), hard=(0, 2), help="How much.")
    weave.add_dial("number", type="count", default=5, useful=(1, 9), hard=(1, 64))
    for node in chance.sample(ends, 6):
        for parameter in weave.kinds.of(weave.document.graph.nodes[node]).parameters:
            if isinstance(parameter, Number) and chance.random() < 0.5:
                formula = chance.choice(["amount", "number", "amount * 2 + 0.1", "number / 3 - tile_depth"])
                weave.follow(node, parameter.name, formula)
    return weave


def results(document: Document, dials: dict[str, Any] | None = None) -> dict[str, bytes]:
    """The bits of every map of the rail, and the reasons of those that cannot be."""
    flat = resolve(document, KINDS, dials=dials)
    outcome = evaluate_ends(flat, flat.ends.values(), SIZE, cache=Cache())
    return {
        channel: outcome.results[end].tobytes() if end in outcome.results else b"failed"
        for channel, end in flat.ends.items()
    }


def some_nodes(document: Document, chance: random.Random) -> tuple[str, ...]:
    nodes = list(document.graph.nodes)
    return tuple(chance.sample(nodes, chance.randint(1, min(5, len(nodes)))))


@settings(max_examples=40, deadline=None, phases=(Phase.explicit, Phase.generate))
@given(seed=st.integers(0, 10_000))
def test_packing_and_unpacking_change_no_map_by_one_bit(seed: int) -> None:
    chance = random.Random(seed)
    weave = tangle(seed)
    plain = results(weave.document)
    turned = results(weave.document, {"amount": 0.8, "number": 7})
    packed: list[str] = []
    for title in ("First", "Second", "Third"):
        try:
            packed.append(weave.pack(some_nodes(weave.document, chance), title))
        except rl.ReedError as refused:
            assert "lies between" in str(refused)
        assert results(weave.document) == plain
    assert results(weave.document, {"amount": 0.8, "number": 7}) == turned
    again = decode_document(encode_document(weave.document))
    assert results(again) == plain and encode_document(again) == encode_document(weave.document)
    while uses := [n.id for n in weave.document.graph.nodes.values() if used_motif(n.kind)]:
        weave.unpack(uses[0])
        assert results(weave.document) == plain
    assert results(weave.document, {"amount": 0.8, "number": 7}) == turned


def test_a_motif_used_twice_is_its_graph_laid_out_twice_and_equal_uses_are_computed_once() -> None:
    weave = rl.Weave()
    noise, soft, sharp = (
        weave.add("gradient_noise", cells=4),
        weave.add("blur", radius=0.03),
        weave.add("levels"),
    )
    weave.connect(noise, soft)
    weave.connect(soft, sharp)
    weave.add_dial("softness", default=0.03, useful=(0, 0.1), hard=(0, 0.5))
    weave.follow(soft, "radius", "softness")
    weave.follow(sharp, "gamma", "1 + softness * 3")
    first = weave.pack([soft, sharp], "Softened")
    second = weave.use("Softened")
    weave.connect(noise, second)
    weave.follow(second, "softness", "softness")
    tasks: list[str] = []
    flat = resolve(weave.document, weave.kinds)
    ends = [weave.end(first), weave.end(second)]
    outcome = evaluate_ends(flat, ends, 64, cache=Cache(), on_task=lambda task: tasks.append(task.kind))
    assert sorted(tasks) == ["blur", "gradient_noise", "levels"]
    assert outcome.results[ends[0]] is outcome.results[ends[1]]
    weave.set(second, softness=0.2)
    other = rl.evaluate(weave, second, 64)
    weave.unpack(first)
    assert np.array_equal(rl.evaluate(weave, "levels_1", 64), outcome.results[ends[0]])
    weave.unpack(second)
    assert np.array_equal(rl.evaluate(weave, "levels_2", 64), other)
    assert weave.document.graph.nodes["blur_2"].parameters == {"radius": 0.2}


def test_an_inlet_that_is_not_tied_uses_what_stands_in() -> None:
    weave = rl.Weave()
    noise, sharp = weave.add("gradient_noise"), weave.add("levels", gamma=1.0)
    weave.connect(noise, sharp)
    use = weave.pack([sharp], "Sharp")
    weave.disconnect(f"{use}.map")
    assert np.all(rl.evaluate(weave, use, 8) == 0.5)
    weave.session.go((use,))
    weave.session.submit(SetParameters("map", {"stand_in": 0.25}))
    assert weave.session.motif == "sharp"
    weave.session.submit(AddNode("inner", "gradient_noise"))
    assert np.all(rl.evaluate(weave, use, 8) == 0.25)
    weave.session.submit(Connect(End(node="inner", port="noise"), End(node="map", port="stand_in")))
    weave.session.go(())
    assert np.array_equal(rl.evaluate(weave, use, 8), rl.evaluate(weave, noise, 8))
    weave.session.undo()
    weave.unpack(use)
    assert np.all(rl.evaluate(weave, "levels_1", 8) == 0.25)


def test_turning_a_dial_computes_only_what_follows_it() -> None:
    weave = rl.Weave()
    noise, soft, other, end = (weave.add(k) for k in ("gradient_noise", "blur", "cellular_noise", "blend"))
    weave.connect(noise, soft)
    weave.connect(soft, f"{end}.above")
    weave.connect(other, f"{end}.below")
    weave.add_dial("softness", default=0.01, useful=(0, 0.1), hard=(0, 0.5))
    weave.follow(soft, "radius", "softness")
    weave.pack([soft, end], "Part")
    weave.tie("part_1", "height")
    cache, tasks = Cache(), []

    def ask(**dials: float) -> list[str]:
        tasks.clear()
        flat = resolve(weave.document, weave.kinds, dials=dials)
        evaluate_ends(flat, flat.ends.values(), 32, cache=cache, on_task=lambda task: tasks.append(task.kind))
        return sorted(tasks)

    assert ask() == ["blend", "blur", "cellular_noise", "gradient_noise"]
    assert ask(softness=0.01) == [] and ask(softness=0.02) == ["blend", "blur"] and ask() == []


@settings(max_examples=60, deadline=None)
@given(seed=st.integers(0, 10_000), share=st.floats(0, 1))
def test_a_blend_is_one_colourway_at_each_end_and_legal_between(seed: int, share: float) -> None:
    chance = random.Random(seed)
    every = [(kind, p) for kind in KINDS for p in kind.parameters if p.word in TYPES and not p.is_file]
    dials, first, second = {}, {}, {}
    for number in range(8):
        _, parameter = chance.choice(every)
        key = f"d{number}"
        dials[key] = dial_for(parameter, parameter.default, key)
        own = dial_parameter(key, dials[key])
        tries = [own.default, own.draw(chance), *(v for _, v in own.try_values(own.default))]
        first[key], second[key] = own.check(chance.choice(tries)), own.check(chance.choice(tries))
    at_ends = [blend_settings(dials, first, second, s) for s in (0.0, 1.0)]
    for found, wanted in zip(at_ends, (first, second), strict=True):
        assert {k: found.get(k, dials[k].default) for k in dials} == wanted
    for key, value in blend_settings(dials, first, second, share).items():
        assert dial_parameter(key, dials[key]).check(value) == value


def test_numbers_run_straight_colours_in_oklab_and_seeds_change_at_the_half() -> None:
    dials = {
        "wide": Dial(default=0.0),
        "sheen": Dial(type="colour", default=(0.0, 0.0, 0.0)),
        "chance": Dial(type="seed", default=1, hard=(0, 99)),
    }
    white = {"wide": 1.0, "sheen": (1.0, 1.0, 1.0), "chance": 9}
    found = blend_settings(dials, {}, white, 0.25)
    assert found["wide"] == 0.25 and "chance" not in found
    assert found["sheen"] == pytest.approx((0.25**3,) * 3, rel=1e-3)  # a quarter of OKLab's lightness, cubed
    assert blend_settings(dials, {}, white, 0.5)["chance"] == 9


def test_renaming_breaks_no_formula() -> None:
    weave = tangle(5)
    weave.pack(["blur_1"] if "blur_1" in weave.document.graph.nodes else ["disc_1"], "Part")
    plain = results(weave.document)
    for key, dial in weave.document.dials.items():
        weave.session.submit(PutDial("", key, replace(dial, label=f"Other {key}", group="All")))
    for node in weave.document.graph.nodes:
        weave.session.submit(SetNode(node, name=f"The {node}"))
    weave.session.submit(DescribeMotif("part", "Another part", "Something."))
    assert results(weave.document) == plain


def test_a_removed_dial_leaves_everything_as_it_looks() -> None:
    weave = tangle(11)
    weave.turn(amount=0.7, Number=3)
    weave.keep_colourway("Dry")
    plain = results(weave.document)
    weave.session.submit(RemoveDial("", "amount"))
    assert results(weave.document) == plain
    assert weave.document.colourways["dry"].values == {"number": 3}
    assert not any("amount" in f for n in weave.document.graph.nodes.values() for f in n.formulas.values())


def test_present_values_become_defaults_and_colourways_stay_as_they_look() -> None:
    weave = tangle(3)
    weave.keep_colourway("Some", amount=1.2)
    looks = {name: results(replace(weave.document, settings=way.values))
             for name, way in weave.document.colourways.items()}  # fmt: skip
    weave.turn(amount=0.9, number=2)
    plain = results(weave.document)
    weave.session.submit(TakeAsDefaults())
    assert not weave.document.settings and weave.document.dials["amount"].default == 0.9
    assert results(weave.document) == plain
    for name, look in looks.items():
        weave.session.submit(PutOn(name))
        assert results(weave.document) == look
    weave.session.submit(TurnDials({"amount": 0.9}))
    assert "amount" not in weave.document.settings  # a default is stored as nothing


def test_a_motif_changed_within_changes_all_its_uses_and_a_fork_only_one() -> None:
    weave = rl.Weave()
    noise, sharp = weave.add("gradient_noise"), weave.add("levels")
    weave.connect(noise, sharp)
    first = weave.pack([sharp], "Sharp")
    second, third = weave.use("sharp"), weave.use("sharp")
    for use in (second, third):
        weave.connect(noise, use)
    weave.session.submit(ForkMotif("", third, "own"))
    weave.session.go((second,))
    weave.session.submit(SetParameters("levels_1", {"gamma": 2.0}))
    weave.session.go(())
    made = [rl.evaluate(weave, use, 16) for use in (first, second, third)]
    assert np.array_equal(made[0], made[1]) and not np.array_equal(made[1], made[2])
    # A notch that goes takes the threads at every use with it, and undo brings all back.
    before = weave.document
    weave.session.submit(TieOutlet("sharp", "raw", End(node="map", port="value"), "Raw"))
    weave.connect(f"{first}.raw", f"{third}.map")
    weave.session.submit(RemoveNotch("sharp", "outlets", "raw"))
    assert not weave.document.graph.incoming(third)
    weave.session.submit(RemoveNotch("sharp", "inlets", "map"))
    assert not weave.document.graph.incoming(first)
    for _ in range(4):
        weave.undo()
    assert weave.document == before


def test_pieces_take_their_motifs_along_and_do_not_double_equal_ones() -> None:
    weave, other = tangle(2), rl.Weave()
    use = weave.pack(["disc_1"], "Inner")
    outer = weave.pack([use], "Outer")
    piece = copied(weave.document, "", [outer])
    for _ in range(2):
        edit, _ = place_piece(other.document.graph, piece.graph, (0, 0))
        other.session.submit(BringPiece("", edit, piece))
    assert len(other.document.motifs) == 2 and len(other.document.graph.nodes) == 2
    assert np.array_equal(rl.evaluate(other, "outer_1", 16), rl.evaluate(weave, outer, 16))
    inner = replace(weave.document.motifs["inner"], title="Else")
    changed = replace(piece, motifs=piece.motifs | {"inner": inner})
    edit, _ = place_piece(other.document.graph, piece.graph, (0, 0))
    other.session.submit(BringPiece("", edit, changed))
    assert {m.title for m in other.document.motifs.values()} == {"Inner", "Outer", "Else"}


def circle() -> Document:
    """Two motifs that hold each other, as only a hand-written file can have them."""
    weave = rl.Weave()
    weave.add("disc")
    weave.pack([weave.pack(["disc_1"], "Inner")], "Outer")
    document = weave.document
    inner = document.motifs["inner"]
    nodes = {
        k: replace(n, kind="motif.outer", version=1) if n.kind == "disc" else n
        for k, n in inner.graph.nodes.items()
    }
    port = next(iter(document.motifs["outer"].outlets))
    ends = {k: End(node=end.node, port=port) for k, end in inner.graph.ends.items()}
    broken = replace(inner, graph=replace(inner.graph, nodes=nodes, ends=ends))
    return replace(document, motifs=document.motifs | {"inner": broken})


def test_a_circle_of_motifs_is_refused_and_one_in_a_file_opens_with_its_reason() -> None:
    weave = rl.Weave()
    weave.add("disc")
    inner = weave.pack(["disc_1"], "Inner")
    outer = weave.pack([inner], "Outer")
    weave.session.go((outer, inner))
    with pytest.raises(rl.ConnectError, match="cannot hold itself: 'Inner' in 'Outer' in 'Inner'"):
        weave.session.submit(AddNode("x", "motif.outer"))
    document = decode_document(encode_document(circle()))
    with pytest.raises(rl.EvaluationError, match=r"cannot hold itself: 'Outer' in 'Inner' in 'Outer'"):
        rl.evaluate(rl.Weave(document), outer, 8)
    assert rl.Weave(document).add("blur") == "blur_1"  # and it can be worked on


def test_motifs_without_measure_end_with_a_reason() -> None:
    """Ten of ten of ten ... would be a hundred million nodes."""
    weave = rl.Weave()
    weave.add("disc")
    use = weave.pack(["disc_1"], "M0")
    for level in range(1, 9):
        more = [use, *(weave.use(f"M{level - 1}") for _ in range(9))]
        use = weave.pack(more, f"M{level}")
    flat = resolve(weave.document, weave.kinds)
    assert len(flat.nodes) < 120_000 and any("come to more than" in n.trouble for n in flat.nodes.values())


def test_what_cannot_be_is_told_where_it_is_and_the_rest_goes_on() -> None:
    weave = rl.Weave()
    weave.add("number", value=0.25)
    other = weave.add("number")
    document = weave.document
    nodes = document.graph.nodes
    driven = replace(nodes[other], formulas={"value": "gone * 2"})
    document = replace(
        document,
        graph=replace(document.graph, nodes=nodes | {other: driven}),
        dials={"wide": Dial(label="Wide", default=9.0, hard=(0, 1)), "odd": Dial(type="mood")},
        colourways={"wet": Colourway(label="Wet", values={"wide": 7.0})},
    )  # fmt: skip
    weave = rl.Weave(decode_document(encode_document(document)))
    with pytest.raises(rl.EvaluationError, match="'gone' is unknown here"):
        rl.evaluate(weave, other, 4)
    assert rl.evaluate(weave, "number_1", 4)[0, 0] == 0.25
    for name, formula, reason in (
        ("value", "wide", "'wide' cannot be 9"),
        ("value", "odd * 2", "no type of dial 'mood'"),
        ("value", "wid + 1", "'wid' is unknown here"),
        ("value", "1 / 0", "division by 0"),
    ):
        with pytest.raises(rl.ReedError, match=reason):
            weave.follow("number_1", name, formula)
    with pytest.raises(rl.UnknownNameError, match="no colourway 'Wt'"):
        rl.evaluate_maps(weave, 4, colourway="Wt")
    assert resolve(weave.document, KINDS, "Wet").nodes["number_1"].values["value"] == 0.25


def test_what_a_dial_would_drive_beyond_its_range_is_held_and_told() -> None:
    weave = rl.Weave()
    node = weave.add("blur")
    source = weave.add("disc")
    weave.connect(source, node)
    weave.add_dial("age", default=0.1, useful=(0, 1))
    weave.follow(node, "radius", "age * 2")
    weave.turn(age=1.0)
    flat = resolve(weave.document, weave.kinds)
    assert flat.nodes[node].values["radius"] == weave.kinds.get("blur").parameter("radius").hard[1]
    outcome = evaluate_ends(flat, [weave.end(node)], 8, cache=Cache())
    assert "'Radius' would be 2" in outcome.notes[node][0]


def test_uses_tell_what_fails_within_them_and_pass_on_when_muted() -> None:
    weave = rl.Weave()
    noise, soft = weave.add("gradient_noise"), weave.add("blur")
    weave.connect(noise, soft)
    use = weave.pack([soft], "Soft")
    weave.session.submit(SetNode(use, muted=True))
    assert np.array_equal(rl.evaluate(weave, use, 16), rl.evaluate(weave, noise, 16))
    with pytest.raises(rl.ReedError, match="muted"):
        weave.unpack(use)
    weave.session.submit(SetNode(use, muted=False))
    weave.session.go((use,))
    weave.session.submit(SetFormula("soft", "blur_1", "radius", "0.1"))
    broken = weave.document.motifs["soft"]
    nodes = broken.graph.nodes
    nodes = nodes | {"blur_1": replace(nodes["blur_1"], formulas={"radius": "gone"})}
    document = replace(
        weave.document, motifs={"soft": replace(broken, graph=replace(broken.graph, nodes=nodes))}
    )
    flat = resolve(document, weave.kinds)
    outcome = evaluate_ends(flat, [End(node=use, port="map")], 8, cache=Cache())
    assert outcome.failures[use].startswith("In 'Blur': The formula of 'Radius' cannot be worked out")


def test_a_motif_must_have_something_to_give_and_its_inlets_their_nodes() -> None:
    weave = rl.Weave()
    weave.add("disc")
    weave.pack(["disc_1"], "Part")
    document = weave.document
    part = document.motifs["part"]
    for broken, reason in (
        (replace(part, outlets={}), "at least one outlet"),
        (replace(part, inlets={"gone": next(iter(part.outlets.values()))}), "no node of that id"),
    ):
        with pytest.raises(rl.ReedError, match=reason):
            rl.Weave(replace(document, motifs={"part": broken}))
    with pytest.raises(rl.ReedError, match="only within a motif"):
        weave.session.submit(AddNode("in", "inlet.grey"))
    assert isinstance(part, Motif) and document_kinds(KINDS, document).get("motif.part").label == "Part"


def test_a_packed_selection_that_something_lies_between_is_refused() -> None:
    weave = rl.Weave()
    first, middle, last = weave.add("disc"), weave.add("blur"), weave.add("blend")
    weave.connect(first, middle)
    weave.connect(middle, f"{last}.above")
    weave.connect(first, f"{last}.below")
    with pytest.raises(rl.ConnectError, match="'Blur' lies between"):
        weave.session.submit(PackMotif("", (first, last), "Part", "part", "part_1"))
    weave.session.submit(PackMotif("", (first, middle, last), "Part", "part", "part_1"))
    weave.session.submit(UnpackMotif("", "part_1"))


def test_an_order_of_dials_and_colourways_is_a_step_and_is_saved() -> None:
    """Parts of equal names are equal in whatever order, which must not pass for no change."""
    session = Session(Document())
    names = ["grain", "wet", "lichen"]
    for name in names:
        session.submit(PutDial("", name, Dial(label=name, default=0.5, hard=(0.0, 1.0))))
        session.submit(PutColourway(name, name, {}))
    session.mark_saved()
    for number, part in enumerate(("dials", "colourways")):
        session.submit(OrderParts(part, ("lichen", "grain"), label=f"Order {number}"))
        assert list(getattr(session.recorded, part)) == ["lichen", "grain", "wet"]
        assert session.undo_label == f"Order {number}" and not session.is_saved
        session.submit(OrderParts(part, ("lichen", "grain", "wet")))
        assert session.undo_label == f"Order {number}"  # what changes nothing is no step
    read = decode_document(encode_document(session.recorded, KINDS), KINDS)
    assert list(read.dials) == list(read.colourways) == ["lichen", "grain", "wet"]
    for _ in range(2):
        session.undo()
    assert list(session.recorded.dials) == names and session.is_saved
