"""What a document is made into before it is evaluated: flat, plain, and shared where nothing changed."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

import reedloom as rl
from reedloom.weave.document import Colourway, Dial, Document, End
from reedloom.weave.edits import AddNode, Connect, MoveItems, SetNode, SetParameters
from reedloom.weave.resolve import resolve
from weaving import KINDS, after, evaluate


def pair() -> Document:
    """Two levels and a blur of the first."""
    document = after(Document(), AddNode("a", "number", parameters={"value": 0.25}), AddNode("b", "number"))
    document = after(document, AddNode("soft", "blur"))
    return after(document, Connect(End(node="a", port="value"), End(node="soft", port="map")))


def test_every_value_is_there_and_what_is_tied() -> None:
    flat = resolve(pair(), KINDS)
    assert flat.nodes["soft"].values == KINDS.get("blur").defaults()
    assert flat.nodes["a"].values["value"] == 0.25
    assert flat.nodes["soft"].inputs == {"map": End(node="a", port="value")}
    with pytest.raises(rl.UnknownNameError, match="no node 'c'"):
        flat.node("c")


def test_what_did_not_change_is_shared_and_what_did_is_not() -> None:
    document = pair()
    first = resolve(document, KINDS)
    assert resolve(document, KINDS) is first
    changed = resolve(after(document, SetParameters("a", {"value": 0.5})), KINDS)
    assert changed.nodes["b"] is first.nodes["b"] and changed.nodes["soft"] is first.nodes["soft"]
    assert changed.nodes["a"].values["value"] == 0.5
    rewired = after(document, Connect(End(node="b", port="value"), End(node="soft", port="map")))
    assert resolve(rewired, KINDS).nodes["soft"].inputs["map"].node == "b"
    ends = [End(node="soft", port="map")]
    assert evaluate(rewired, ends, 4).results[ends[0]][0, 0] == 0.5
    assert evaluate(document, ends, 4).results[ends[0]][0, 0] == 0.25
    named = resolve(after(document, SetNode("a", name="Level"), MoveItems({"a": (9.0, 9.0)})), KINDS)
    assert named.nodes["a"].title == "Level" and first.nodes["a"].title == "Number"


def test_formulas_over_dials_become_values() -> None:
    document = after(pair(), AddNode("noise", "gradient_noise"))
    dials = {"wet": Dial(default=0.2), "word": Dial(type="choice", default="plain")}
    nodes = document.graph.nodes
    driven = {
        "a": replace(nodes["a"], formulas={"value": "wet * 2 + tile_depth"}),
        "noise": replace(nodes["noise"], formulas={"cells": "4 / tile_width", "octaves": "wet * 10"}),
        "b": replace(nodes["b"], formulas={"value": "dry"}),
    }
    document = replace(
        document,
        graph=replace(document.graph, nodes=nodes | driven),
        dials=dials,
        colourways={"rain": Colourway(label="Rain", values={"wet": 0.4})},
    )
    flat = resolve(document, KINDS)
    assert flat.nodes["a"].values["value"] == pytest.approx(0.45)
    assert flat.nodes["noise"].values["cells"] == 4 and flat.nodes["noise"].values["octaves"] == 2.0
    assert "the formula of 'Value' cannot be worked out" in flat.nodes["b"].trouble
    assert resolve(document, KINDS, "Rain").nodes["a"].values["value"] == pytest.approx(0.85)
    assert resolve(document, KINDS, "rain", {"wet": 0.0}).nodes["a"].values["value"] == pytest.approx(0.05)
    assert resolve(document, KINDS).nodes["a"].values["value"] == pytest.approx(0.45)
    outcome = evaluate(document, [End(node="b", port="value"), End(node="soft", port="map")], 4)
    assert outcome.failures.keys() == {"b"} and outcome.results[End(node="soft", port="map")][0, 0] > 0.4
    for name, wrong in (("colourway", {"colourway": "Sun"}), ("dial", {"dials": {"dry": 1.0}})):
        with pytest.raises(rl.UnknownNameError, match=f"no {name}"):
            resolve(document, KINDS, **wrong)  # type: ignore[arg-type]
