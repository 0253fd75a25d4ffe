"""Carries a task out: from its inputs' values to its outputs."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Any

import numpy as np

from reedloom.errors import ReedError
from reedloom.kernels.helpers import Helpers
from reedloom.kernels.jit import Stop
from reedloom.kernels.maps import let_go
from reedloom.kernels.places import tile_places
from reedloom.kernels.points import POINT, VERTEX
from reedloom.kernels.tones import all_finite
from reedloom.kit.context import Context
from reedloom.kit.data import COLOUR, GREY, ISLANDS, MATERIAL, PATHS, POINTS, VECTOR, Data, Material, SameAs
from reedloom.kit.formulas import LARGEST
from reedloom.kit.kind import SCRATCH, Kind, Result, run_kind, with_own_seeds
from reedloom.kit.values import convert, data_of, frozen
from reedloom.loom.memory import free_memory
from reedloom.loom.plan import CONVERT, Task

SMALL = 2**17
"""Values that are looked through at once, without parting them among threads."""
LITTLE = 2**29
"""Bytes that are taken without asking how many are free."""
BEYOND = "Some values were beyond all measure and were held; look for a huge factor or a division by 0."
WANTED = {"grey": GREY, "colour": COLOUR}


def carry_out(
    task: Task,
    kind: Kind | None,
    inputs: Mapping[str, Any],
    *,
    stop: Stop | None = None,
    progress: Callable[[float], None] | None = None,
    threads: int | None = None,
    helpers: Helpers | None = None,
) -> Result:
    """Compute a task's wanted outputs, read-only.

    Parameters
    ----------
    kind : Kind, optional
        The task's kind, in the task's version; none for a conversion.
    inputs : mapping of port to value
        What the task's refs stand for.
    helpers : Helpers, optional
        Who may help with its bands, instead of threads of their own.

    Raises
    ------
    Cancelled
        When `stop` was set.
    ReedError
        When the kind says why it cannot be computed.
    """
    stop = stop or Stop()
    context = Context(*task.size, wanted=frozenset(task.wanted), stop=stop, progress=progress)
    context.threads, context.helpers, context.folder = threads, helpers, task.folder
    if task.kind == CONVERT:
        (value,) = inputs.values()
        return Result({CONVERT: convert(value, WANTED[dict(task.values)["data"]], context.map_bands)})
    assert kind is not None
    _check_memory(kind, task.size)
    width, height, depth = task.surface
    # Other kinds know only the tile's shape, so that its size in metres changes nothing for them.
    context.physical = (width, height) if kind.physical else (1.0, height / width)
    context.depth = depth if kind.physical else context.depth
    if task.muted:
        result = Result({name: _pass_on(context, kind, name, inputs) for name in task.wanted})
    else:
        result = run_kind(kind, context, inputs, with_own_seeds(kind, dict(task.values)))
    stop.check()
    notes = list(result.notes)
    known = [part for value in inputs.values() for part in _arrays_of(value)]
    outputs = {
        name: frozen(_held_finite(result.outputs[name], context, notes, known)) for name in task.wanted
    }
    return Result(outputs, tuple(notes))


def _check_memory(kind: Kind, size: tuple[int, int]) -> None:
    """Refuse what would take more memory than the machine has left, before any of it is taken."""
    wanted = kind.memory * size[0] * size[1] + SCRATCH
    if wanted < LITTLE:
        return
    free = free_memory()
    if free < wanted:
        let_go()  # what maps have left behind may be all that lacks
        free = free_memory()
    if wanted > free:
        raise ReedError(
            f"it takes up to {wanted / 2**30:.1f} GB at this size, and {free / 2**30:.1f} GB of memory are "
            "free; choose a smaller size."
        )


def _arrays_of(value: Any) -> Iterable[Any]:
    """The maps of a material; a value of any other kind alone."""
    return value.values() if isinstance(value, Material) else (value,)


def _held_finite(value: Any, context: Context, notes: list[str], known: Sequence[Any]) -> Any:
    """A value whose maps hold finite numbers only: what is beyond all measure is held at ±1e18.

    Maps that are known came through here before, and are passed on as they are.
    """
    if isinstance(value, Material):
        held = {name: _held_finite(array, context, notes, known) for name, array in value.items()}
        return Material(held)
    if any(value is one for one in known):
        return value
    if not isinstance(value, np.ndarray) or value.dtype != np.float32 or not value.size:
        return value
    bits = np.ascontiguousarray(value).view(np.uint32)
    found = [bits.size > SMALL or bool(all_finite(bits.reshape(-1)))]

    def band(y0: int, y1: int) -> None:
        if not all_finite(bits[y0:y1].reshape(-1)):
            found[0] = False

    if bits.size > SMALL:
        context.bands(band, rows=len(bits))
    if found[0]:
        return value
    if BEYOND not in notes:
        notes.append(BEYOND)
    return np.clip(np.nan_to_num(value, nan=0.0), np.float32(-LARGEST), np.float32(LARGEST))


def _pass_on(context: Context, kind: Kind, name: str, inputs: Mapping[str, Any]) -> Any:
    """What a muted node gives: its first fitting input, or what stands for nothing."""
    declared = kind.output(name).data
    data = GREY | COLOUR if isinstance(declared, SameAs) else declared
    fitting = GREY | COLOUR if data & (GREY | COLOUR) else data
    for port in kind.inputs:
        if port.name in inputs and data_of(inputs[port.name]) & fitting:
            return convert(inputs[port.name], data, context.map_bands)
    shape = (context.height, context.width)
    nothing: dict[Data, Callable[[], Any]] = {
        VECTOR: lambda: tile_places(context.width, context.height),
        POINTS: lambda: np.zeros(0, POINT),
        PATHS: lambda: np.zeros(0, VERTEX),
        ISLANDS: lambda: np.zeros(shape, np.int32),
        MATERIAL: lambda: Material({}),
        COLOUR: lambda: np.zeros((*shape, 3), np.float32),
    }
    return nothing[data]() if data in nothing else context.full(0.0)
