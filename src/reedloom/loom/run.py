"""Evaluates outputs of a weave: pulls what they need, in order, through the cache.

Nodes run one after another and each spreads its bands over all threads. A node that fails keeps
its reason, its followers are marked as waiting for it, and the rest goes on. A stopped run raises
`Cancelled` and leaves nothing half done in the cache.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from functools import cache as once
from typing import Any

import numpy as np

from reedloom.errors import Cancelled, ReedError
from reedloom.kernels.jit import Stop
from reedloom.kernels.places import tile_places
from reedloom.kernels.points import POINT, VERTEX
from reedloom.kit.context import Context
from reedloom.kit.data import COLOUR, GREY, ISLANDS, MATERIAL, PATHS, POINTS, VECTOR, Data, Material, SameAs
from reedloom.kit.kind import Kind, Result, run_kind
from reedloom.kit.ports import Port
from reedloom.kit.values import convert, data_of, frozen
from reedloom.loom.cache import Cache
from reedloom.loom.keys import Size, node_keys
from reedloom.weave.document import Document, End
from reedloom.weave.graph import inputs_by_node, upstream_order

SIZE_LIMIT = 8192


@dataclass(slots=True)
class Outcome:
    """What a run gave.

    Attributes
    ----------
    results : End to value
        The outputs asked for, read-only: arrays, or a `Material` of arrays.
    failures : node id to reason
        One sentence each; followers say for whom they wait.
    seconds : node id to float
        What each node took when it was computed, now or before.
    notes : node id to sentences
        What nodes have to say, such as snapped values.
    """

    results: dict[End, Any] = field(default_factory=dict)
    failures: dict[str, str] = field(default_factory=dict)
    seconds: dict[str, float] = field(default_factory=dict)
    notes: dict[str, tuple[str, ...]] = field(default_factory=dict)


@dataclass(slots=True)
class Run:
    """One evaluation under way."""

    document: Document
    size: Size
    cache: Cache
    keep: bool
    stop: Stop
    progress: Callable[[float], None] | None
    threads: int | None
    order: list[str]
    inputs: Mapping[str, Mapping[str, End]]
    keys: Mapping[str, str]
    wanted: dict[str, set[str]]
    live: dict[End, Any] = field(default_factory=dict)
    outcome: Outcome = field(default_factory=Outcome)


@once
def shared_cache() -> Cache:
    """The cache of this process."""
    return Cache()


def check_size(size: int | Size) -> Size:
    """A size as (width, height); raises `ReedError` if it cannot be computed."""
    width, height = (size, size) if isinstance(size, int) else size
    for value in (width, height):
        if isinstance(value, bool) or not isinstance(value, int) or not 1 <= value <= SIZE_LIMIT:
            raise ReedError(
                f"The size {value!r} cannot be computed; use whole numbers from 1 to {SIZE_LIMIT}."
            )
    return width, height


def evaluate_ends(
    document: Document,
    ends: Iterable[End],
    size: int | Size,
    *,
    cache: Cache | None = None,
    keep: bool = True,
    stop: Stop | None = None,
    progress: Callable[[float], None] | None = None,
    threads: int | None = None,
    take: Callable[[End, Any], None] | None = None,
) -> Outcome:
    """Compute outputs of a document.

    Parameters
    ----------
    ends : iterable of End
        The outputs asked for.
    size : int or (width, height)
        Samples of the tile, up to 8192.
    keep : bool
        Whether results stay in the cache. If not, each is freed after its last use.
    take : callable, optional
        Gets each asked output as soon as it is there; it is then not held in the outcome.

    Raises
    ------
    Cancelled
        When `stop` was set.
    ReedError
        For a size out of range, or a circle of threads.
    """
    asked = list(dict.fromkeys(ends))
    order = upstream_order(document, [end.node for end in asked])
    inputs = inputs_by_node(document)
    shape = check_size(size)
    wanted: dict[str, set[str]] = {node_id: set() for node_id in order}
    for end in [*asked, *(source for node_id in order for source in inputs[node_id].values())]:
        wanted[end.node].add(end.port)
    run = Run(
        document,
        shape,
        shared_cache() if cache is None else cache,
        keep,
        stop or Stop(),
        progress,
        threads,
        order,
        inputs,
        node_keys(document, order, inputs, shape),
        wanted,
    )
    uses = _count_uses(run, asked)
    remaining = set(asked)
    for number, node_id in enumerate(order):
        run.stop.check()
        _run_node(run, node_id, number)
        for end in [e for e in remaining if e.node == node_id and e in run.live]:
            remaining.discard(end)
            if take is None:
                run.outcome.results[end] = run.live[end]
            else:
                take(end, run.live[end])
            _release(run, uses, end)
        for source in inputs[node_id].values():
            _release(run, uses, source)
        if progress is not None:
            progress((number + 1) / len(order))
    return run.outcome


def _count_uses(run: Run, asked: Iterable[End]) -> dict[End, int]:
    uses: dict[End, int] = {}
    for end in [*asked, *(source for node_id in run.order for source in run.inputs[node_id].values())]:
        uses[end] = uses.get(end, 0) + 1
    return uses


def _release(run: Run, uses: dict[End, int], end: End) -> None:
    uses[end] -= 1
    if uses[end] == 0:
        run.live.pop(end, None)


def _run_node(run: Run, node_id: str, number: int) -> None:
    """Take a node's wanted outputs from the cache, or compute those that are missing."""
    key = run.keys[node_id]
    missing = set()
    for port in run.wanted[node_id]:
        entry = run.cache.get((key, port))
        if entry is None:
            missing.add(port)
            continue
        run.live[End(node=node_id, port=port)] = entry.array
        run.outcome.seconds[node_id] = entry.seconds
        if entry.notes:
            run.outcome.notes[node_id] = entry.notes
    if not missing:
        return
    reason = _blocked(run, node_id)
    if reason is None:
        try:
            _compute(run, node_id, frozenset(missing), number)
            return
        except Cancelled:
            raise
        except ReedError as error:
            reason = str(error)
        except MemoryError:
            reason = "there is not enough memory for this size; choose a smaller one."
        except Exception as error:  # a kind's own mistake must not end the run, nor show a traceback
            reason = f"something unforeseen went wrong ({type(error).__name__}: {error}); please report it."
    run.outcome.failures[node_id] = reason


def _blocked(run: Run, node_id: str) -> str | None:
    """Why a node cannot be computed at all, if so."""
    node = run.document.nodes[node_id]
    tied = run.inputs[node_id]
    for source in tied.values():
        if source.node in run.outcome.failures:
            return f"It waits for '{run.document.nodes[source.node].title}'."
    if node.muted:
        return None
    empty = [port.label for port in node.declaration.inputs if not port.optional and port.name not in tied]
    return f"Tie something to: {', '.join(empty)}." if empty else None


def _compute(run: Run, node_id: str, missing: frozenset[str], number: int) -> None:
    node = run.document.nodes[node_id]
    declared = node.declaration
    surface = run.document.surface

    def tell(share: float) -> None:
        if run.progress is not None:
            run.progress((number + share) / len(run.order))

    context = Context(*run.size, wanted=missing, stop=run.stop, progress=tell, threads=run.threads)
    context.folder = run.document.folder
    if declared.physical:
        context.physical, context.depth = (surface.width, surface.height), surface.depth
    inputs = _gather(run, node_id, declared)
    start = time.perf_counter()
    if node.muted:
        result = Result({port: _pass_on(context, declared, port, inputs) for port in missing})
    else:
        result = run_kind(declared, context, inputs, node.values())
    run.stop.check()
    seconds = time.perf_counter() - start
    run.outcome.seconds[node_id] = seconds
    if result.notes:
        run.outcome.notes[node_id] = result.notes
    for port in missing:
        value = frozen(result.outputs[port])
        run.live[End(node=node_id, port=port)] = value
        if run.keep:
            run.cache.put((run.keys[node_id], port), value, seconds / len(missing), result.notes)


def _gather(run: Run, node_id: str, declared: Kind) -> dict[str, Any]:
    """A node's inputs, converted to what its ports take; ports that follow one another agree."""
    found: dict[str, Any] = {}
    for port in declared.inputs:
        source = run.inputs[node_id].get(port.name)
        if source is not None:
            assert isinstance(port.data, Data)
            found[port.name] = convert(run.live[source], port.data)
    for output in declared.outputs:
        if isinstance(output.data, SameAs) and any(
            found[n].ndim == 3 for n in output.data.ports if n in found
        ):
            for name in output.data.ports:
                if name in found:
                    found[name] = convert(found[name], COLOUR)
    return found


def _pass_on(context: Context, declared: Kind, name: str, inputs: Mapping[str, Any]) -> Any:
    """What a muted node gives: its first fitting input, or what stands for nothing."""
    data = _declared_data(declared.output(name))
    fitting = GREY | COLOUR if data & (GREY | COLOUR) else data
    for port in declared.inputs:
        if port.name in inputs and data_of(inputs[port.name]) & fitting:
            return convert(inputs[port.name], data)
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


def _declared_data(port: Port) -> Data:
    return GREY | COLOUR if isinstance(port.data, SameAs) else port.data
