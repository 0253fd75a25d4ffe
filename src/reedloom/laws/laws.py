"""The five laws, each a check of one kind that raises `BrokenLaw`.

Inputs and values come from the declaration (`draws.py`), so that a kind is covered the moment it exists.
Where a law cannot hold, the declaration says so and why.
"""

from __future__ import annotations

import sys
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

import numpy as np

from reedloom.errors import Cancelled
from reedloom.kernels.jit import Stop
from reedloom.kernels.places import tile_places
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.context import Context
from reedloom.kit.data import COLOUR, GREY, ISLANDS, MATERIAL, PATHS, POINTS, Data, SameAs
from reedloom.kit.handles import FormHandles
from reedloom.kit.kind import Kind
from reedloom.kit.parameters import Length
from reedloom.laws.breach import require
from reedloom.laws.draws import (
    altered,
    draws,
    is_place,
    make_inputs,
    rolled,
    run,
    run_as_it_flows,
    run_stacked,
    stacked,
)
from reedloom.loom.cache import Cache
from reedloom.loom.run import evaluate_ends
from reedloom.preview.samples import sample_graph
from reedloom.weave.document import Document
from reedloom.weave.resolve import resolve

_CONTEXT = sys.modules[Context.__module__]
LAWS = {"tiles", "resolution", "shift", "away", "metric", "grid", "idle"}
"""The words by which a declaration says that a law cannot hold."""
SHAPES: tuple[tuple[int, int], ...] = ((96, 96), (128, 64), (64, 128))
"""Square, and twice as wide or high as the other way, in samples and in metres."""


def lawful(kind: Kind, law: str) -> list[str]:
    """The outputs for which a law must hold."""
    if law in kind.exempt:
        return []
    return [p.name for p in kind.outputs if law not in p.exempt]


def nearest_way(difference: np.ndarray, place: bool) -> np.ndarray:
    """A difference of places is taken the shortest way around the tile."""
    return difference - np.round(difference) if place else difference


def physical(size: tuple[int, int]) -> tuple[float, float]:
    """What a tile of so many square samples measures in metres, 1 across."""
    return (1.0, size[1] / size[0])


def names_its_exemptions(kind: Kind) -> None:
    """Exemptions name a law and give a reason."""
    for exempt in (kind.exempt, *(p.exempt for p in kind.outputs)):
        require(exempt.keys() <= LAWS, "the laws it names", *exempt)
        require(all(len(reason) > 20 for reason in exempt.values()), "the reasons it gives")


def tiles(kind: Kind) -> None:
    """The step across the seam is no larger than the largest steps inside, on tiles of any shape."""
    for number, values in enumerate(draws(kind, 6) if lawful(kind, "tiles") else ()):
        size = SHAPES[number % len(SHAPES)]
        outputs = run(kind, make_inputs(kind, *size), values, size, physical=physical(size)).outputs
        for name in lawful(kind, "tiles"):
            array = outputs[name]
            for axis in (0, 1):
                steps = nearest_way(
                    np.diff(array, axis=axis, append=array.take([0], axis=axis)), is_place(kind, name)
                )
                others = tuple(i for i in range(array.ndim) if i != axis)
                sizes = np.sqrt((steps.astype(np.float64) ** 2).mean(axis=others))
                require(sizes[-1] <= 1.15 * sizes[:-1].max() + 1e-4, name, f"axis {axis}", size, values)


def takes_places_around_the_tile(kind: Kind) -> None:
    """A place a whole tile away is the same place."""
    if not any(port.name == "place" for port in kind.inputs):
        return
    size = 48
    for values in draws(kind, 5):
        inputs = make_inputs(kind, size, size, optional=True)
        away = inputs | {"place": inputs["place"] + np.array([1, -2], np.float32)}
        first, second = (run(kind, i, values, (size, size)).outputs for i in (inputs, away))
        for name in lawful(kind, "away"):
            difference = nearest_way(first[name] - second[name], is_place(kind, name))
            require(np.median(np.abs(difference)) < 2e-3, name, values)
            require((np.abs(difference) > 0.05).mean() < 0.02, name, values)


def gives_the_same_on_the_grid_and_at_its_places(kind: Kind) -> None:
    """What is computed without a place, and at the places of the grid, is one picture."""
    if not any(port.name == "place" and port.optional for port in kind.inputs):
        return
    for number, values in enumerate(draws(kind, 3)):
        across, down = SHAPES[number % len(SHAPES)]
        size = (3 * across, 3 * down)
        inputs = make_inputs(kind, *size)
        given = inputs | {"place": tile_places(*size)}
        first, second = (run(kind, i, values, size, physical=physical(size)).outputs for i in (inputs, given))
        for name in lawful(kind, "grid"):
            difference = nearest_way(first[name] - second[name], is_place(kind, name))
            error = np.sqrt(np.mean(difference.astype(np.float64) ** 2))
            require(error <= 0.03 * max(float(np.ptp(first[name])), 1e-3), name, f"{error:.4f}", values)


def commutes_with_a_shift(kind: Kind) -> None:
    """A filter of a shifted map is the shifted filtered map."""
    if not any(not port.optional for port in kind.inputs):
        return
    size = 64
    for values in draws(kind, 5) if lawful(kind, "shift") else ():
        inputs = make_inputs(kind, size, size)
        shifted = {name: rolled(value, 17, 29, size) for name, value in inputs.items()}
        first, second = (run(kind, i, values, (size, size)).outputs for i in (inputs, shifted))
        for name in lawful(kind, "shift"):
            wanted = np.roll(first[name], (17, 29), axis=(0, 1))
            require(np.abs(wanted - second[name]).max() <= 2e-3 * max(1.0, np.ptp(wanted)), name, values)


def does_not_depend_on_resolution(kind: Kind) -> None:
    """A result of four times the size, averaged down, is the small result, to 2 % of its range."""
    times = 4
    settings = draws(kind, 4) if lawful(kind, "resolution") else []
    for values in settings:
        width, height = (512, 256) if values is settings[-2] else (256, 256)
        shape = physical((width, height))
        coarse_made, fine_made = (
            run(kind, make_inputs(kind, *n), values, n, physical=shape).outputs
            for n in ((width, height), (width * times, height * times))
        )
        for name in lawful(kind, "resolution"):
            coarse, fine = coarse_made[name], fine_made[name]
            rows = fine.reshape(height, times, width, times, -1).mean(axis=1)
            averaged = rows.mean(axis=2).reshape(coarse.shape)
            error = np.sqrt(np.mean((averaged - coarse).astype(np.float64) ** 2))
            require(error <= 0.02 * max(float(np.ptp(coarse)), 1e-3), name, f"{error:.4f}", values)


def measures_in_widths(kind: Kind) -> None:
    """On a tile twice as high as wide, two maps, one below the other, become two of what one becomes.

    Lengths are shares of the tile's width in both directions, so that nothing is stretched.
    """
    if not lawful(kind, "metric") or all(port.optional for port in kind.inputs):
        return
    size, unlike_maps = 48, POINTS | PATHS | ISLANDS | MATERIAL
    maps = [n for n in lawful(kind, "metric") if not _data_of(kind, n) & unlike_maps]
    for values in draws(kind, 4) if maps else ():
        inputs = make_inputs(kind, size, size)
        one = run(kind, inputs, values, (size, size)).outputs
        two = run_stacked(kind, inputs, values, size).outputs
        for name in maps:
            wanted = stacked(one[name], kind.output(name).role, is_map=True)
            difference = nearest_way(two[name] - wanted, is_place(kind, name))
            error = np.sqrt(np.mean(difference.astype(np.float64) ** 2))
            require(error <= 0.01 * max(float(np.ptp(wanted)), 1e-3), name, f"{error:.4f}", values)


def _data_of(kind: Kind, output: str) -> Data:
    data = kind.output(output).data
    return GREY | COLOUR if isinstance(data, SameAs) else data


def _draws_a_form(kind: Kind) -> bool:
    needs_nothing = all(p.optional for p in kind.inputs)
    return (
        isinstance(kind.handles, FormHandles)
        and needs_nothing
        and any(p.name == "wrapped" for p in kind.parameters)
    )


def keeps_the_weight_of_thin_forms(kind: Kind) -> None:
    """A form thinner than a sample has on average what it has when it is drawn large."""
    if not _draws_a_form(kind):
        return
    assert isinstance(kind.handles, FormHandles)
    measures = [p for p in kind.parameters if isinstance(p, Length) and p.name not in kind.handles.centre]
    slight = [p.name for p in measures if p.default < 0.1]
    for names in (*([p.name] for p in measures), slight):
        for profile in ("dome", "flat"):
            thin = kind.defaults() | dict.fromkeys(names, 0.007) | {"profile": profile}
            small, large = (run(kind, {}, thin, (n, n)).outputs for n in (96, 576))
            for name in {"profile", "mask"} & set(lawful(kind, "resolution")):
                means = [float(map[name].mean(dtype=np.float64)) for map in (small, large)]
                wrong = abs(means[0] - means[1])
                require(wrong <= 0.05 * means[1] + 1e-6, name, names, profile, means)


def draws_forms_in_widths(kind: Kind) -> None:
    """A form drawn once on a tile twice as high as wide is that drawn on a square one, not a longer one."""
    if not _draws_a_form(kind):
        return
    assert isinstance(kind.handles, FormHandles)
    size = 64
    for values in draws(kind, 5):
        alone = values | {"wrapped": False, kind.handles.centre[0]: 0.5, kind.handles.centre[1]: 0.5}
        one = run(kind, {}, alone, (size, size)).outputs
        tall = run(kind, {}, alone, (size, 2 * size), physical=(1.0, 2.0)).outputs
        for name in lawful(kind, "metric"):
            middle = tall[name][size // 2 : size // 2 + size]
            require(np.abs(middle - one[name]).max() < 1e-3, name, values)


def keeps_cells_square(kind: Kind) -> None:
    """Where the number of cells down is left open, a tile twice as high has twice as many."""
    if not {"cells", "cells_down"} <= {p.name for p in kind.parameters}:
        return
    size = (64, 128)
    for values in draws(kind, 3):
        inputs = make_inputs(kind, *size)
        given = values | {"cells_down": 2 * values["cells"]}
        first, second = (
            run(kind, inputs, v, size, physical=(1.0, 2.0)).outputs
            for v in (values | {"cells_down": 0}, given)
        )
        require(all(np.array_equal(first[n], second[n]) for n in first), values)


@contextmanager
def shared_between_threads(count: int) -> Iterator[set[int]]:
    """Let bands begin only when so many threads have one each; gives the threads that took part."""
    real, seen = vars(_CONTEXT)["run_bands"], set[int]()

    def run_bands(band: Callable[[int, int], None], rows: int, **more: Any) -> None:
        bands = -(-rows // more["band_rows"])
        together = threading.Barrier(min(count, bands))
        begun = threading.local()

        def gated(y0: int, y1: int) -> None:
            if bands > 1 and not hasattr(begun, "at_all"):
                begun.at_all = True
                seen.add(threading.get_ident())
                together.wait(timeout=60)
            band(y0, y1)

        real(gated, rows, **more)

    vars(_CONTEXT)["run_bands"] = run_bands
    try:
        yield seen
    finally:
        vars(_CONTEXT)["run_bands"] = real


def repeats_with_any_number_of_threads(kind: Kind) -> None:
    """Twice, and shared between two threads that truly both take part, the result is the same bit for bit."""
    size = (256, 320)
    for values in draws(kind, 3):
        inputs = make_inputs(kind, *size, optional=True)
        with shared_between_threads(1) as alone:
            first = run(kind, inputs, values, size, threads=1).outputs
        for threads in (1, 2):
            with shared_between_threads(threads) as seen:
                again = run(kind, inputs, values, size, threads=threads).outputs
            require(len(seen) >= min(threads, 2 * len(alone)), "the threads that took part", threads)
            for name, array in first.items():
                require(np.array_equal(array, again[name]), name, f"{threads} threads", values)


def survives_any_size_and_input(kind: Kind) -> None:
    """Every size and any input give finite maps of the right shape."""
    for size in ((1, 1), (3, 7), (64, 64), (40, 24)):
        smooth = make_inputs(kind, *size, optional=True)
        given = {
            "smooth": smooth,
            "zero": {k: altered(a, 0, 0) for k, a in smooth.items()},
            "level": {k: altered(a, 0, 0.5) for k, a in smooth.items()},
            "beyond 0 to 1": {k: altered(a, 7, -3) for k, a in smooth.items()},
            "needed alone": make_inputs(kind, *size),
        }
        for what, inputs in given.items():
            outputs = run(kind, inputs, kind.defaults(), size).outputs
            for port in kind.outputs:
                array = outputs[port.name]
                require(array.shape[:2] == (size[1], size[0]), "the shape of", port.name, what, size)
                require(array.dtype == np.float32, "the type of", port.name, what, size)
                require(np.isfinite(array).all(), "finite numbers of", port.name, what, size)
                if port.data in {GREY, COLOUR}:
                    require(array.ndim == (2 if port.data == GREY else 3), "the kind of data of", port.name)


def survives_every_end_of_every_range(kind: Kind) -> None:
    """Every value at both ends of what may be typed gives finite maps, whatever the others are."""
    size = (32, 32)
    inputs = make_inputs(kind, *size)
    for parameter in kind.parameters:
        for value in parameter.ends():
            for base in draws(kind, 2):
                outputs = run(kind, inputs, base | {parameter.name: value}, size).outputs
                for name, array in outputs.items():
                    require(np.isfinite(array).all(), name, parameter.name, value)


class _LateStop(Stop):
    """A stop that is asked for at a certain look, and counts the looks."""

    __slots__ = ("at", "looks")

    def __init__(self, at: int) -> None:
        super().__init__()
        self.at, self.looks = at, 0

    def is_set(self) -> bool:
        self.looks += 1
        return self.looks > self.at

    def check(self) -> None:
        if self.is_set():
            raise Cancelled


def stops_at_every_legal_value(kind: Kind) -> None:
    """Asked to stop, it stops at its next look, wherever that is and at both ends of every range."""
    size = (200, 200)
    inputs = make_inputs(kind, *size, optional=True)
    settings = [kind.defaults() | {p.name: v} for p in kind.parameters for v in p.ends()]
    for values in (kind.defaults(), kind.defaults() | dict(kind.sample), *settings):
        for at in (0, 1, 2):
            stop = _LateStop(at)
            try:
                run_as_it_flows(kind, inputs, values, size, threads=1, stop=stop)
            except Cancelled:
                continue
            require(0 < stop.looks <= at, "stopping at look", at, "of", stop.looks, values)


def stops_between_bands_and_keeps_nothing(kind: Kind) -> None:
    """Told to stop at the first sign of progress, a run ends with the bands under way and keeps none."""
    kinds = built_in_kinds() if kind.id in built_in_kinds() else built_in_kinds().having([kind])
    graph, end = sample_graph(kind.id, kinds)
    cache, stop, after = Cache(), Stop(), []

    def on_progress(share: float) -> None:
        if stop.is_set():
            after.append(share)
        elif share >= (len(graph.nodes) - 1) / len(graph.nodes):
            stop.set()

    try:
        evaluate_ends(
            resolve(Document(graph=graph), kinds), [end], 700,
            cache=cache, stop=stop, progress=on_progress, threads=2,
        )  # fmt: skip
    except Cancelled:
        require(len({key for key, _ in cache._entries}) < len(graph.nodes), "what is kept of a stopped run")
    else:
        require(after == [], "going on after the end was asked for")  # complete with the very first sign
    require(len(after) <= 2, "ending with the bands under way")


RULES = (
    names_its_exemptions,
    tiles,
    takes_places_around_the_tile,
    gives_the_same_on_the_grid_and_at_its_places,
    commutes_with_a_shift,
    does_not_depend_on_resolution,
    measures_in_widths,
    keeps_the_weight_of_thin_forms,
    draws_forms_in_widths,
    keeps_cells_square,
    repeats_with_any_number_of_threads,
    survives_any_size_and_input,
    survives_every_end_of_every_range,
    stops_at_every_legal_value,
    stops_between_bands_and_keeps_nothing,
)
