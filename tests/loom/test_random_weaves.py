"""Weaves tied at random: each result is finite, or fails with a plain reason."""

from __future__ import annotations

import random
from contextlib import suppress
from typing import Any
from weakref import WeakKeyDictionary

import numpy as np
import pytest

import reedloom as rl
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.kind import Kind
from reedloom.kit.parameters import Parameter, Switch
from reedloom.laws.draws import law_map
from reedloom.loom import plan
from reedloom.loom.cache import Cache
from reedloom.weave.document import End
from reedloom.weave.edits import SetNode
from reedloom.weave.resolve import resolve

SIZE = (40, 24)
FIRST = ("gradient_noise", "solid", "tile_place", "scatter_points", "circle_path", "cellular_noise", "disc")
"""Something of most kinds of data, for what follows to be tied to."""


def any_value(parameter: Parameter, chance: random.Random) -> Any:
    """A legal value: of the slider's range, or now and then an end of what may be typed."""
    if isinstance(parameter, Switch):
        return chance.random() < 0.5
    if not parameter.is_number:
        return chance.choice(parameter.words) if parameter.words else parameter.default
    ends = (
        parameter.hard if chance.random() < 0.15 and np.isfinite(parameter.hard).all() else parameter.useful
    )
    value = chance.choice([*ends, chance.uniform(*ends)])
    return round(value) if parameter.is_whole else value


class Tangle:
    """A weave that grows node by node, each tied to some of what is there."""

    def __init__(self, seed: int) -> None:
        self.chance = random.Random(seed)
        self.weave = rl.Weave()
        self.ends: list[str] = []
        every = {kind.id: kind for kind in built_in_kinds()}
        for kind_id in (*FIRST, "islands", "material"):
            self.hang(every[kind_id], {}, 1.0)
        for _ in range(12):
            kind = self.chance.choice(tuple(built_in_kinds()))
            values = {
                p.name: any_value(p, self.chance) for p in kind.parameters if self.chance.random() < 0.4
            }
            self.hang(kind, values, 0.5)

    def hang(self, kind: Kind, values: dict[str, Any], share: float) -> None:
        """Add a node, tie what it needs and a share of its other inputs."""
        node = self.weave.add(kind.id, **values)
        for port in kind.inputs:
            if not port.optional or self.chance.random() < share:
                self.tie(f"{node}.{port.name}")
        self.ends += [f"{node}.{port.name}" for port in kind.outputs]

    def tie(self, target: str) -> None:
        """Tie the first of the ends, in any order, that is not refused."""
        for source in self.chance.sample(self.ends, len(self.ends)):
            try:
                self.weave.connect(source, target)
            except rl.ConnectError as refused:
                assert len(str(refused)) > 20
            else:
                return


@pytest.mark.parametrize("seed", range(24))
def test_a_tangle_of_nodes_gives_finite_results_or_plain_reasons(seed: int) -> None:
    tangle = Tangle(seed)
    made = 0
    for end in tangle.ends:
        try:
            result = rl.evaluate(tangle.weave, end, size=SIZE)
        except rl.ReedError as failed:
            assert "unforeseen" not in str(failed)
        else:
            assert np.isfinite(law_map(result, *SIZE)).all(), end
            made += 1
    assert made > len(tangle.ends) / 2


def planned(weave: rl.Weave, ends: list[End], size: tuple[int, int]) -> tuple[Any, ...]:
    """What a plan says, as plain data."""
    made = plan.plan_ends(resolve(weave.document, weave.kinds), ends, size, Cache())
    data = {ref: found.name for ref, found in made.data.items()}
    return made.tasks, made.asked, made.nodes, data, made.failures


@pytest.mark.parametrize("seed", range(8))
def test_what_a_plan_keeps_of_nodes_is_what_it_would_find_again(
    seed: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    tangle = Tangle(seed)
    weave, chance = tangle.weave, tangle.chance
    ends = [weave.end(end) for end in tangle.ends]
    for step in range(20):
        node = chance.choice(tuple(weave.document.graph.nodes.values()))
        kind = weave.kinds.of(node)
        act = chance.randrange(5)
        if act == 0 and kind.parameters:
            parameter = chance.choice(kind.parameters)
            weave.set(node.id, **{parameter.name: any_value(parameter, chance)})
        elif act == 1 and kind.inputs:
            port = chance.choice(kind.inputs)
            with suppress(rl.ReedError):
                weave.disconnect(f"{node.id}.{port.name}")
        elif act == 2 and kind.inputs:
            tangle.tie(f"{node.id}.{chance.choice(kind.inputs).name}")
        elif act == 3:
            weave.session.submit(SetNode(node.id, muted=chance.random() < 0.5))
        else:
            weave.set_surface(
                chance.choice((1.0, 2.0)), chance.choice((1.0, 2.0)), chance.choice((0.05, 0.1))
            )
        size = chance.choice((SIZE, (32, 32), (16, 48)))
        kept = planned(weave, ends, size)
        with monkeypatch.context() as fresh:
            fresh.setattr(plan, "_known", WeakKeyDictionary())
            assert kept == planned(weave, ends, size), step
