"""The order of a run that keeps nothing: each task after all it needs, and few maps held at once."""

from __future__ import annotations

import random
from typing import Any

import numpy as np
import pytest

from reedloom.data import shipped_weaves
from reedloom.kit.data import COLOUR, GREY, MATERIAL, PATHS, POINTS, VECTOR, Data
from reedloom.loom.cache import Cache
from reedloom.loom.keys import Ref
from reedloom.loom.lean import WEIGHTS, lean_order
from reedloom.loom.plan import Task, plan_ends
from reedloom.weave.document import Document, End
from reedloom.weave.edits import AddNode, Connect
from reedloom.weave.fileformat import load_document
from reedloom.weave.resolve import resolve
from weaving import KINDS, after, evaluate

SIZE = (4096, 4096)


def task(key: str, *needs: Ref, wanted: tuple[str, ...] = ("out",)) -> Task:
    return Task(key, "none", 1, (), tuple((f"in{n}", ref) for n, ref in enumerate(needs)), wanted, SIZE)


def tangle(seed: int) -> tuple[list[Task], dict[Ref, Data]]:
    """Tasks of one to three outputs that need some of those made before them, or what lies in the cache."""
    chance = random.Random(seed)
    tasks: list[Task] = []
    data: dict[Ref, Data] = {("cached", "out"): COLOUR}
    for number in range(chance.randrange(1, 50)):
        needs = chance.sample(sorted(data), min(len(data), chance.randrange(4)))
        ports = tuple(f"out{k}" for k in range(chance.randrange(1, 4)))
        tasks.append(task(f"{number:02}", *needs, wanted=ports))
        for port in ports:
            data[tasks[-1].key, port] = chance.choice([GREY, COLOUR, VECTOR, MATERIAL, POINTS, PATHS])
    return tasks, data


def held_at_most(order: list[Task], data: dict[Ref, Data]) -> int:
    """The numbers a sample held during the worst task, by looking at each what is there."""
    most = 0
    for place, now in enumerate(order):
        later = {ref for after in order[place:] for _, ref in after.inputs}
        there = {(t.key, port) for t in order[:place] for port in t.wanted} & later
        there |= {(now.key, port) for port in now.wanted}
        most = max(most, sum(WEIGHTS.get(data[ref], 0) for ref in there))
    return most


@pytest.mark.parametrize("seed", range(40))
def test_any_tangle_keeps_its_order_of_needs_and_holds_no_more(seed: int) -> None:
    tasks, data = tangle(seed)
    order = lean_order(tasks, data)
    assert sorted(t.key for t in order) == [t.key for t in tasks]
    done = {"cached"}
    for now in order:
        assert all(key in done for _, (key, _) in now.inputs)
        done.add(now.key)
    assert held_at_most(order, data) <= held_at_most(tasks, data)


def test_branches_that_are_heavy_on_the_way_come_before_light_ones() -> None:
    """Three colours become one grey each: with two of three first made, seven numbers a sample are held."""
    paints = [task(f"paint{n}") for n in range(3)]
    greys = [task(f"grey{n}", (f"paint{n}", "out")) for n in range(3)]
    tasks = [*paints, *greys, task("last", *((f"grey{n}", "out") for n in range(3)))]
    data = {(t.key, "out"): COLOUR if t.key.startswith("paint") else GREY for t in tasks}
    assert held_at_most(tasks, data) == 10
    assert held_at_most(lean_order(tasks, data), data) == 6


@pytest.mark.parametrize("name", shipped_weaves())
def test_the_demo_weaves_hold_less(name: str) -> None:
    document = load_document(shipped_weaves()[name])
    plan = plan_ends(resolve(document, KINDS), document.graph.ends.values(), SIZE, Cache(0))
    lean = lean_order(plan.tasks, plan.data)
    assert held_at_most(lean, plan.data) < held_at_most(plan.tasks, plan.data)


@pytest.mark.parametrize("name", shipped_weaves())
def test_maps_are_the_same_in_whatever_order(name: str) -> None:
    """A run that keeps nothing, in its own order, beside one that keeps all in the order of the graph."""
    document = load_document(shipped_weaves()[name])
    ends = list(document.graph.ends.values())
    kept = evaluate(document, ends, 40, cache=Cache())
    got: dict[End, Any] = {}
    lean = evaluate(document, ends, 40, cache=Cache(0), keep=False, take=got.__setitem__)
    assert got.keys() == kept.results.keys() and not lean.results
    for end, value in kept.results.items():
        assert np.array_equal(got[end], value), end
    assert lean.notes == kept.notes
    assert not lean.failures


def test_a_branch_that_fails_leaves_the_others_their_maps() -> None:
    """In the lean order too, which knows nothing of failures."""
    document = after(
        Document(),
        AddNode("noise", "gradient_noise"),
        AddNode("lost", "blend"),  # nothing is tied to what it needs
        AddNode("after", "levels"),
        AddNode("soft", "blur"),
        Connect(End(node="lost", port="map"), End(node="after", port="map")),
        Connect(End(node="noise", port="noise"), End(node="soft", port="map")),
    )
    ends = [End(node="after", port="map"), End(node="soft", port="map"), End(node="noise", port="noise")]
    kept, lean = (evaluate(document, ends, 16, cache=Cache(0), keep=keep) for keep in (True, False))
    assert kept.failures == lean.failures and {"lost", "after"} <= lean.failures.keys()
    assert lean.results.keys() == set(ends[1:])
    for end, value in kept.results.items():
        assert np.array_equal(value, lean.results[end])
