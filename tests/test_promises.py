"""What every declaration promises a maker, for every kind: no idle control, no idle notch."""

from __future__ import annotations

import random
from typing import Any

import numpy as np
import pytest

from draws import draws, law_map, make_inputs, run, varied_inputs
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.context import Context
from reedloom.kit.kind import Kind, run_kind
from reedloom.kit.parameters import Parameter, Switch
from reedloom.kit.ports import Port

SIZE = (64, 48)
EVERY = [pytest.param(kind, id=kind.id) for kind in built_in_kinds()]
DRIVERS = [
    pytest.param(kind, port, id=f"{kind.id}-{port.name}")
    for kind in built_in_kinds()
    for port in kind.inputs
    if port.drives is not None
]
NEED_MORE = {
    "picture": "its file, without which it has nothing to read",
    "formula": "a formula in which all its inputs stand",
}
"""Kinds whose controls or notches do nothing before something is written into them."""


TAKEN_OUT = [
    pytest.param(kind, parameter, id=f"{kind.id}-{parameter.name}")
    for kind in built_in_kinds()
    for parameter in kind.parameters
    if parameter.neutral is not None
]
"""Parameters that at nothing leave the map as it came, so that a step can be judged by taking it out."""
IDLE = [
    pytest.param(kind, parameter, id=f"{kind.id}-{parameter.name}")
    for kind in built_in_kinds()
    for parameter in kind.parameters
    if parameter.shown_if
]


def differs(first: dict[str, np.ndarray], second: dict[str, np.ndarray]) -> bool:
    """Whether any output shows a difference that one could see."""
    return any(np.abs(first[name] - second[name]).max() > 1e-4 for name in first)


@pytest.mark.parametrize("kind", EVERY)
def test_an_output_asked_for_alone_is_the_one_made_with_all_others(kind: Kind) -> None:
    for values in draws(kind, 3):
        inputs = make_inputs(kind, *SIZE, optional=True)
        together = run(kind, inputs, values, SIZE).outputs
        for name, wanted in together.items():
            alone = run_kind(kind, Context(*SIZE, wanted=frozenset([name])), inputs, values).outputs
            assert np.array_equal(law_map(alone[name], *SIZE), wanted), (name, values)


@pytest.mark.parametrize(("kind", "driver"), DRIVERS)
def test_a_neutral_driver_is_no_driver(kind: Kind, driver: Port) -> None:
    """But for what the two ways to compute a picture, with a driver and without, may differ by."""
    size = (160, 120)
    for values in draws(kind, 4):
        inputs = make_inputs(kind, *size)
        assert driver.drives is not None
        level = np.full((size[1], size[0]), driver.drives.neutral, np.float32)
        plain = run(kind, inputs, values, size).outputs
        driven = run(kind, inputs | {driver.name: level}, values, size).outputs
        for name, wanted in plain.items():
            error = np.sqrt(np.mean((driven[name] - wanted).astype(np.float64) ** 2))
            assert error <= 0.02 * max(1e-3, np.ptp(wanted)), (name, values)


@pytest.mark.parametrize(("kind", "parameter"), TAKEN_OUT)
def test_a_strength_of_nothing_takes_a_step_out(kind: Kind, parameter: Parameter) -> None:
    chance = random.Random(kind.id)
    for values in draws(kind, 6):
        inputs = varied_inputs(kind, *SIZE, chance)
        got = run(kind, inputs, values | {parameter.name: parameter.neutral}, SIZE).outputs[
            kind.outputs[0].name
        ]
        assert np.abs(got - law_map(inputs[kind.inputs[0].name], *SIZE)).max() < 1e-5, values


@pytest.mark.parametrize(("kind", "parameter"), IDLE)
def test_what_is_hidden_changes_nothing(kind: Kind, parameter: Parameter) -> None:
    """Whatever a parameter is set to while it is said not to matter, the picture stays the same."""
    chance = random.Random(kind.id)
    tried = 0
    while tried < 6:
        values = varied_values(kind, chance)
        if parameter.matters(values):
            name, wanted = chance.choice(list(parameter.shown_if.items()))
            allowed = wanted if isinstance(wanted, tuple) else (wanted,)
            values[name] = next(v for v in kind.parameter(name).ends() if v not in allowed)
        inputs = varied_inputs(kind, *SIZE, chance)
        tries = [value for _, value in parameter.try_values(parameter.default)]
        first, *others = (
            run(kind, inputs, values | {parameter.name: value}, SIZE).outputs
            for value in (*other_values(parameter, chance), *tries)
        )
        for other in others:
            assert all(np.array_equal(first[name], other[name]) for name in first), values
        tried += 1


def other_values(parameter: Parameter, chance: random.Random) -> list[Any]:
    """Values a parameter may take, unlike one another."""
    if isinstance(parameter, Switch):
        return [False, True]
    if parameter.is_number:
        return [*parameter.useful, parameter.draw(chance)]
    return list(parameter.words)


def varied_values(kind: Kind, chance: random.Random) -> dict[str, Any]:
    """The defaults or the creel's sample, but for about half of the parameters, switches included."""
    values = kind.defaults() | chance.choice([{}, dict(kind.sample)])
    for parameter in kind.parameters:
        others = other_values(parameter, chance)
        if others and chance.random() < 0.5:
            values[parameter.name] = chance.choice(others)
    return values


TRIES = 100
"""Settings that are tried before a control or a notch counts as idle."""


@pytest.mark.parametrize("kind", [p for p in EVERY if p.values[0].id not in NEED_MORE])
def test_no_control_is_idle(kind: Kind) -> None:
    """Each parameter changes the picture, for some setting of the others and some inputs."""
    chance = random.Random(kind.id)
    waiting = [p for p in kind.parameters if other_values(p, chance)]
    for _ in range(TRIES):
        inputs, values = varied_inputs(kind, *SIZE, chance), varied_values(kind, chance)
        for parameter in tuple(waiting):
            first, *others = (
                run(kind, inputs, values | {parameter.name: value}, SIZE).outputs
                for value in other_values(parameter, chance)
            )
            if any(differs(first, other) for other in others):
                waiting.remove(parameter)
        if not waiting:
            return
    assert not [p.name for p in waiting]


@pytest.mark.parametrize("kind", [p for p in EVERY if p.values[0].inputs and p.values[0].id not in NEED_MORE])
def test_no_notch_is_idle(kind: Kind) -> None:
    """Another value at each input changes the picture, for some setting of the parameters."""
    chance = random.Random(kind.id)
    waiting = [port.name for port in kind.inputs]
    for _ in range(TRIES):
        values, inputs = varied_values(kind, chance), varied_inputs(kind, *SIZE, chance)
        others = varied_inputs(kind, *SIZE, chance)
        picture = run(kind, inputs, values, SIZE).outputs
        for name in [name for name in waiting if name in inputs and name in others]:
            if differs(picture, run(kind, inputs | {name: others[name]}, values, SIZE).outputs):
                waiting.remove(name)
        if not waiting:
            return
    assert not waiting
