"""The five laws of the engine, for every kind in the catalogue, from its declaration alone."""

from __future__ import annotations

import numpy as np
import pytest

from draws import altered, draws, is_place, make_inputs, rolled, run, smooth_map
from reedloom.errors import Cancelled
from reedloom.kernels.jit import Stop
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.data import COLOUR, GREY
from reedloom.kit.kind import Kind
from reedloom.loom.cache import Cache
from weaving import evaluate, sample

EVERY = [pytest.param(kind, id=kind.id) for kind in built_in_kinds()]
LAWS = {"tiles", "resolution", "shift", "away"}


def lawful(kind: Kind, law: str) -> list[str]:
    """The outputs for which a law must hold."""
    if law in kind.exempt:
        return []
    return [p.name for p in kind.outputs if law not in p.exempt]


def nearest_way(difference: np.ndarray, place: bool) -> np.ndarray:
    """A difference of places is taken the shortest way around the tile."""
    return difference - np.round(difference) if place else difference


@pytest.mark.parametrize("kind", EVERY)
def test_exemptions_name_a_law_and_give_a_reason(kind: Kind) -> None:
    for exempt in (kind.exempt, *(p.exempt for p in kind.outputs)):
        assert exempt.keys() <= LAWS
        assert all(len(reason) > 20 for reason in exempt.values())


@pytest.mark.parametrize("kind", EVERY)
def test_tiles(kind: Kind) -> None:
    """The step across the seam is no larger than the largest steps inside."""
    size = 96
    for values in draws(kind, 6) if lawful(kind, "tiles") else ():
        outputs = run(kind, make_inputs(kind, size, size), values, (size, size)).outputs
        for name in lawful(kind, "tiles"):
            array = outputs[name]
            for axis in (0, 1):
                steps = nearest_way(
                    np.diff(array, axis=axis, append=array.take([0], axis=axis)), is_place(kind, name)
                )
                sizes = np.sqrt(
                    (steps.astype(np.float64) ** 2).mean(
                        axis=tuple(i for i in range(array.ndim) if i != axis)
                    )
                )
                assert sizes[-1] <= 1.15 * sizes[:-1].max() + 1e-4, (name, axis, values)


@pytest.mark.parametrize("kind", [p for p in EVERY if any(i.name == "place" for i in p.values[0].inputs)])
def test_a_place_a_whole_tile_away_is_the_same_place(kind: Kind) -> None:
    size = 48
    for values in draws(kind, 5):
        inputs = make_inputs(kind, size, size, optional=True)
        away = inputs | {"place": inputs["place"] + np.array([1, -2], np.float32)}
        first, second = (run(kind, i, values, (size, size)).outputs for i in (inputs, away))
        for name in lawful(kind, "away"):
            difference = nearest_way(first[name] - second[name], is_place(kind, name))
            assert np.median(np.abs(difference)) < 2e-3, (name, values)
            assert (np.abs(difference) > 0.05).mean() < 0.02, (name, values)


@pytest.mark.parametrize("kind", [p for p in EVERY if any(not i.optional for i in p.values[0].inputs)])
def test_filters_commute_with_a_circular_shift(kind: Kind) -> None:
    size = 64
    for values in draws(kind, 5) if lawful(kind, "shift") else ():
        inputs = make_inputs(kind, size, size)
        shifted = {name: rolled(value, 17, 29, size) for name, value in inputs.items()}
        first, second = (run(kind, i, values, (size, size)).outputs for i in (inputs, shifted))
        for name in lawful(kind, "shift"):
            wanted = np.roll(first[name], (17, 29), axis=(0, 1))
            assert np.abs(wanted - second[name]).max() <= 2e-3 * max(1.0, np.ptp(wanted)), (name, values)


@pytest.mark.parametrize("kind", EVERY)
def test_does_not_depend_on_resolution(kind: Kind) -> None:
    """The 1024 result averaged down to 256 is the 256 result, to 2 % of its range."""
    small, times = 256, 4
    for values in draws(kind, 4) if lawful(kind, "resolution") else ():
        sizes = (small, small * times)
        results = [run(kind, make_inputs(kind, n, n), values, (n, n)).outputs for n in sizes]
        for name in lawful(kind, "resolution"):
            coarse, fine = results[0][name], results[1][name]
            averaged = fine.reshape(small, times, small, times, -1).mean(axis=(1, 3)).reshape(coarse.shape)
            error = np.sqrt(np.mean((averaged - coarse).astype(np.float64) ** 2))
            assert error <= 0.02 * max(float(np.ptp(coarse)), 1e-3), (name, values)


@pytest.mark.parametrize("kind", EVERY)
def test_repeats_with_any_number_of_threads(kind: Kind) -> None:
    size = (150, 200)
    for values in draws(kind, 3):
        inputs = make_inputs(kind, *size, optional=True)
        first = run(kind, inputs, values, size, threads=1).outputs
        for threads in (1, 2):
            again = run(kind, inputs, values, size, threads=threads).outputs
            for name, array in first.items():
                assert np.array_equal(array, again[name]), (name, threads, values)


@pytest.mark.parametrize("size", [(1, 1), (3, 7), (64, 64), (40, 24)])
@pytest.mark.parametrize("kind", EVERY)
def test_survives_any_size_and_input(kind: Kind, size: tuple[int, int]) -> None:
    smooth = make_inputs(kind, *size, optional=True)
    kinds_of_input = {
        "smooth": smooth,
        "zero": {k: altered(a, 0, 0) for k, a in smooth.items()},
        "level": {k: altered(a, 0, 0.5) for k, a in smooth.items()},
        "beyond 0 to 1": {k: altered(a, 7, -3) for k, a in smooth.items()},
        "needed alone": make_inputs(kind, *size),
    }
    for what, inputs in kinds_of_input.items():
        outputs = run(kind, inputs, kind.defaults(), size).outputs
        for port in kind.outputs:
            array = outputs[port.name]
            assert array.shape[:2] == (size[1], size[0]) and array.dtype == np.float32, (port.name, what)
            assert np.isfinite(array).all(), (port.name, what)
            if port.data in {GREY, COLOUR}:
                assert array.ndim == (2 if port.data == GREY else 3)


@pytest.mark.parametrize("kind", EVERY)
def test_survives_every_end_of_every_hard_range(kind: Kind) -> None:
    size = (32, 32)
    inputs = make_inputs(kind, *size)
    for parameter in kind.parameters:
        extremes = (
            list(parameter.hard) if parameter.is_number else list(parameter.words) or [parameter.default]
        )
        for value in extremes:
            plain = parameter.check(value)
            for base in draws(kind, 3):
                outputs = run(kind, inputs, base | {parameter.name: plain}, size).outputs
                for name, array in outputs.items():
                    assert np.isfinite(array).all(), (parameter.name, value, name)


@pytest.mark.parametrize("kind", EVERY)
def test_stops_between_bands_and_keeps_nothing(kind: Kind) -> None:
    """Told to stop at the first sign of progress, a run ends with the bands under way."""
    document, end = sample(kind.id)
    cache, stop, after = Cache(), Stop(), []

    def on_progress(share: float) -> None:
        if stop.is_set():
            after.append(share)
        elif share >= (len(document.graph.nodes) - 1) / len(document.graph.nodes):
            stop.set()

    try:
        evaluate(document, [end], 700, cache=cache, stop=stop, progress=on_progress, threads=2)
    except Cancelled:
        keys = {key for key, _ in cache._entries}
        assert len(keys) < len(document.graph.nodes)
    else:
        assert after == []  # it was complete with the very first sign
    assert len(after) <= 2


def test_a_smooth_map_is_the_same_at_every_size() -> None:
    """The laws' own input must not be what breaks them."""
    fine = smooth_map(256, 256).reshape(64, 4, 64, 4).mean(axis=(1, 3))
    assert np.abs(fine - smooth_map(64, 64)).max() < 0.02
