"""What every declaration promises a maker, each a check of one kind that raises `BrokenLaw`."""

from __future__ import annotations

import random
from collections.abc import Mapping

import numpy as np

from reedloom.kit.context import Context
from reedloom.kit.kind import Kind, run_kind
from reedloom.laws.breach import require
from reedloom.laws.draws import (
    ROWS,
    draws,
    law_map,
    make_inputs,
    other_values,
    run,
    varied_inputs,
    varied_values,
)

SIZE = (64, 48)
TRIES = 100
"""Settings that are tried before a control or a notch counts as idle."""


def differs(first: Mapping[str, np.ndarray], second: Mapping[str, np.ndarray]) -> bool:
    """Whether any output shows a difference that one could see."""
    return any(np.abs(first[name] - second[name]).max() > 1e-4 for name in first)


def gives_an_output_alone_as_with_all_others(kind: Kind) -> None:
    """An output asked for alone is the one made with all others, bit for bit."""
    for values in draws(kind, 3):
        inputs = make_inputs(kind, *SIZE, optional=True)
        together = run(kind, inputs, values, SIZE).outputs
        for name, wanted in together.items():
            alone = run_kind(kind, Context(*SIZE, wanted=frozenset([name])), inputs, values).outputs
            require(np.array_equal(law_map(alone[name], *SIZE), wanted), name, values)


def is_not_driven_by_a_neutral_driver(kind: Kind) -> None:
    """A driver of the value that changes nothing changes nothing, but for what its two ways may differ by."""
    size = (160, 120)
    for driver in (port for port in kind.inputs if port.drives is not None):
        assert driver.drives is not None
        for values in draws(kind, 4):
            inputs = make_inputs(kind, *size)
            level = np.full((size[1], size[0]), driver.drives.neutral, np.float32)
            plain = run(kind, inputs, values, size).outputs
            driven = run(kind, inputs | {driver.name: level}, values, size).outputs
            for name, wanted in plain.items():
                error = np.sqrt(np.mean((driven[name] - wanted).astype(np.float64) ** 2))
                require(error <= 0.02 * max(1e-3, np.ptp(wanted)), driver.name, name, values)


def is_taken_out_by_its_neutral_values(kind: Kind) -> None:
    """A strength of nothing leaves the first input as it came: a step is judged by taking it out."""
    chance = random.Random(kind.id)
    for parameter in (p for p in kind.parameters if p.neutral is not None):
        for values in draws(kind, 6):
            inputs = varied_inputs(kind, *SIZE, chance)
            made = run(kind, inputs, values | {parameter.name: parameter.neutral}, SIZE).outputs
            got, came = made[kind.outputs[0].name], law_map(inputs[kind.inputs[0].name], *SIZE)
            require(np.abs(got - came).max() < 1e-5, parameter.name, values)


def hides_only_what_changes_nothing(kind: Kind) -> None:
    """Whatever a parameter is set to while it is said not to matter, the picture stays the same."""
    chance = random.Random(kind.id)
    for parameter in (p for p in kind.parameters if p.shown_if and p.series <= ROWS):
        for _ in range(6):
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
                require(all(np.array_equal(first[n], other[n]) for n in first), parameter.name, values)


def has_no_idle_control(kind: Kind) -> None:
    """Each parameter changes the picture, for some setting of the others and some inputs."""
    if "idle" in kind.exempt:
        return
    chance = random.Random(kind.id)
    waiting = [p for p in kind.parameters if p.series <= ROWS and other_values(p, chance)]
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
    require(not waiting, "a use of", *(p.name for p in waiting))


def has_no_idle_notch(kind: Kind) -> None:
    """Another value at each input changes the picture, for some setting of the parameters."""
    if not kind.inputs or "idle" in kind.exempt:
        return
    chance = random.Random(kind.id)
    waiting, every = [port.name for port in kind.inputs], len(kind.inputs)
    for _ in range(TRIES):
        values, inputs = varied_values(kind, chance), varied_inputs(kind, *SIZE, chance, every)
        others = varied_inputs(kind, *SIZE, chance, every)
        picture = run(kind, inputs, values, SIZE).outputs
        for name in [name for name in waiting if name in inputs and name in others]:
            if differs(picture, run(kind, inputs | {name: others[name]}, values, SIZE).outputs):
                waiting.remove(name)
        if not waiting:
            return
    require(not waiting, "a use of", *waiting)


PROMISES = (
    gives_an_output_alone_as_with_all_others,
    is_not_driven_by_a_neutral_driver,
    is_taken_out_by_its_neutral_values,
    hides_only_what_changes_nothing,
    has_no_idle_control,
    has_no_idle_notch,
)
