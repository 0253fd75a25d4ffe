"""The order of a run that keeps nothing: each task after all it needs, and few maps held at once."""

from __future__ import annotations

import random

import pytest

from reedloom.data import shipped_weaves
from reedloom.kit.data import COLOUR, GREY, MATERIAL, PATHS, POINTS, VECTOR, Data
from reedloom.loom.cache import Cache
from reedloom.loom.keys import Ref
from reedloom.loom.lean import WEIGHTS, lean_order
from reedloom.loom.plan import Task, plan_ends
from reedloom.weave.fileformat import load_document
from reedloom.weave.resolve import resolve
from weaving import KINDS

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
