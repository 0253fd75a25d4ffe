"""Evaluates outputs of a weave: carries a plan's tasks out in order, through the cache.

Several tasks are under way at once (`crew.py`), and threads that have none share in the bands of those that
are; but one at a time where maps are large, and few are to be held or memory is short. A node that fails
keeps its reason, its followers are marked as waiting for it, and the rest goes on. A stopped run raises
`Cancelled` and leaves nothing half done in the cache.
"""

from __future__ import annotations

import logging
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterable
from functools import cache as once
from typing import Any

from msgspec import Struct, field

from reedloom.errors import Cancelled, ReedError
from reedloom.kernels.helpers import Helpers
from reedloom.kernels.jit import Stop, thread_count
from reedloom.kit.context import SMALL
from reedloom.kit.data import Material
from reedloom.kit.kind import Result
from reedloom.loom.cache import Cache
from reedloom.loom.crew import carry_all
from reedloom.loom.keys import Ref, Size
from reedloom.loom.lean import lean_order
from reedloom.loom.memory import free_memory
from reedloom.loom.plan import CONVERT, Plan, Task, plan_ends, waits_for
from reedloom.loom.tasks import carry_out
from reedloom.weave.check import SIZE_LIMIT
from reedloom.weave.document import End, Surface
from reedloom.weave.resolve import STEP, FlatGraph

log = logging.getLogger(__name__)

LARGE = 2**22
"""Samples above which one task is under way at a time where few maps are to be held, or memory is short."""


class Outcome(Struct):
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
    tasks : int
        How many computations it took; none where all was kept.
    """

    results: dict[End, Any] = field(default_factory=dict)
    failures: dict[str, str] = field(default_factory=dict)
    seconds: dict[str, float] = field(default_factory=dict)
    notes: dict[str, tuple[str, ...]] = field(default_factory=dict)
    tasks: int = 0


class _Run(Struct):
    """One evaluation under way."""

    flat: FlatGraph
    plan: Plan
    cache: Cache
    keep: bool
    passing: bool
    stop: Stop
    progress: Callable[[float], None] | None
    threads: int | None
    take: Callable[[End, Any], None] | None
    outcome: Outcome
    uses: Counter[Ref]
    ends: dict[Ref, list[End]]
    hands: int
    shares: list[float]
    helpers: Helpers = field(default_factory=Helpers)
    live: dict[Ref, Any] = field(default_factory=dict)
    failed: set[str] = field(default_factory=set)


@once
def shared_cache() -> Cache:
    """The cache of this process."""
    return Cache()


def check_size(size: int | Size, surface: Surface) -> Size:
    """A size as (width, height); a number is that of samples across, with as many down as keep them square.

    Raises
    ------
    ReedError
        If it cannot be computed.
    """
    allowed = f"use whole numbers from 1 to {SIZE_LIMIT}"
    if not isinstance(size, (int, tuple)) or (isinstance(size, tuple) and len(size) != 2):
        raise ReedError(f"The size {size!r} is neither a number nor a pair, (width, height); {allowed}.")
    for value in size if isinstance(size, tuple) else (size,):
        if isinstance(value, bool) or not isinstance(value, int) or not 1 <= value <= SIZE_LIMIT:
            raise ReedError(f"The size {value!r} cannot be computed; {allowed}.")
    whole = surface.samples(size) if isinstance(size, int) else size
    if whole[1] > SIZE_LIMIT:
        raise ReedError(f"{whole[0]} samples across are {whole[1]} down on this tile; {allowed}.")
    return whole


def evaluate_ends(
    flat: FlatGraph,
    ends: Iterable[End],
    size: int | Size,
    *,
    cache: Cache | None = None,
    keep: bool = True,
    passing: bool = False,
    stop: Stop | None = None,
    progress: Callable[[float], None] | None = None,
    threads: int | None = None,
    take: Callable[[End, Any], None] | None = None,
    on_task: Callable[[Task], None] | None = None,
    refs: dict[End, Ref] | None = None,
) -> Outcome:
    """Compute outputs of a resolved document.

    Parameters
    ----------
    ends : iterable of End
        The outputs asked for.
    size : int or (width, height)
        Samples across the tile, with as many down as keep them square, or both; up to 8192.
    keep : bool
        Whether results stay in the cache. If not, each is freed after its last use, and few are held.
    passing : bool
        Whether the document only passes, as while a value is dragged: what is kept of it goes when the next
        passing one comes, unless it was recorded.
    progress : callable, optional
        Told the share done, 0 to 1: one call at a time, and never a lower share than before.
    take : callable, optional
        Gets each asked output as soon as it is there; it is then not held in the outcome.
    on_task : callable, optional
        Told each task just before it is carried out.
    refs : dict, optional
        Takes the content key behind each asked output.

    Raises
    ------
    Cancelled
        When `stop` was set.
    ReedError
        For a size out of range, or a circle of threads.
    """
    store = shared_cache() if cache is None else cache
    plan = plan_ends(flat, ends, check_size(size, flat.surface), store)
    if not passing:
        store.settle(plan.ready)
    elif plan.tasks:  # else it is the state that was there
        store.let_pass(plan.ready)
    if not keep:
        plan.tasks = lean_order(plan.tasks, plan.data)
    if refs is not None:
        refs |= plan.asked
    asked: dict[Ref, list[End]] = {}
    for end, ref in plan.asked.items():
        asked.setdefault(ref, []).append(end)
    uses = Counter(ref for task in plan.tasks for _, ref in task.inputs)
    run = _Run(
        flat, plan, store, keep, passing, stop or Stop(), progress and _onward(progress), threads, take,
        Outcome(failures=plan.failures, tasks=len(plan.tasks)), uses, asked, _hands(plan, threads, keep),
        [0.0] * len(plan.tasks),
    )  # fmt: skip
    for ref, entry in plan.ready.items():
        for node_id in plan.nodes[ref[0]] if ref[1] != CONVERT else ():
            _tell(run, node_id, entry.seconds, entry.notes)
        _hold(run, ref, entry.array)

    def begin(task: Task, number: int) -> Callable[[], Callable[[], None]]:
        return _begin(run, task, number, on_task)

    carry_all(plan.tasks, begin, run.hands, run.helpers)
    _tell_uses(run)
    return run.outcome


def _hands(plan: Plan, threads: int | None, keep: bool) -> int:
    """How many tasks are under way at once: one where maps are large, and few are held or memory is short."""
    largest = max((task.size[0] * task.size[1] for task in plan.tasks), default=0)
    threads = threads or thread_count()
    if largest <= SMALL:  # few of them have anything to share
        return max(1, min(threads, len(plan.tasks)))
    if largest <= LARGE:
        return threads
    most = max((kind.memory for kind in plan.kinds.values()), default=0) * largest
    return threads if keep and threads * most < free_memory() else 1


def _onward(tell: Callable[[float], None]) -> Callable[[float], None]:
    """Tell only what is more than before: bands end on several threads, and kinds go over maps repeatedly."""
    most, lock = 0.0, threading.Lock()

    def onward(share: float) -> None:
        nonlocal most
        with lock:
            if share > most:
                most = share
                tell(share)

    return onward


def _tell_uses(run: _Run) -> None:
    """Carry what is said of nodes within motifs to the uses in which they lie."""
    outcome = run.outcome
    for node_id, reason in tuple(outcome.failures.items()):
        title = run.flat.nodes[node_id].title if node_id in run.flat.nodes else node_id
        for use in _uses_around(node_id):
            outcome.failures.setdefault(use, f"In '{title}': {reason}")
    for node_id, seconds in tuple(outcome.seconds.items()):
        for use in _uses_around(node_id):
            outcome.seconds[use] = outcome.seconds.get(use, 0.0) + seconds
    for node_id, notes in tuple(outcome.notes.items()):
        for use in _uses_around(node_id):
            known = outcome.notes.get(use, ())
            title = run.flat.nodes[node_id].title
            outcome.notes[use] = (*known, *(f"In '{title}': {note}" for note in notes))


def _uses_around(node_id: str) -> list[str]:
    """The ids of the uses of motifs in which a node of the flat graph lies."""
    steps = node_id.split(STEP)
    return [STEP.join(steps[:count]) for count in range(1, len(steps))]


def _hold(run: _Run, ref: Ref, value: Any) -> None:
    """Keep a value for those who need it, and hand it out where it was asked for."""
    if run.uses[ref]:
        run.live[ref] = value
    for end in run.ends.get(ref, ()):
        if run.take is not None:
            run.take(end, value)
        else:
            run.outcome.results[end] = value


def _tell(run: _Run, node_id: str, seconds: float, notes: tuple[str, ...]) -> None:
    run.outcome.seconds[node_id] = seconds
    notes = (*run.flat.nodes[node_id].notes, *notes)
    if notes:
        run.outcome.notes[node_id] = notes


def _begin(
    run: _Run, task: Task, number: int, on_task: Callable[[Task], None] | None
) -> Callable[[], Callable[[], None]]:
    """The work of a task, which gives what is to be done with its result."""
    run.stop.check()
    if on_task is not None:
        on_task(task)
    blocking = next((key for _, (key, _) in task.inputs if key in run.failed), None)
    if blocking is not None:
        reason = waits_for(run.flat, run.plan.nodes[blocking][0])
        _use(run, task)
        return lambda: lambda: _settle(run, task, number, reason)
    inputs = {port: _lent(run.live[ref]) for port, ref in task.inputs}
    _use(run, task)

    def work() -> Callable[[], None]:
        start = time.perf_counter()
        came = _try(run, task, inputs, number)
        seconds = time.perf_counter() - start
        return lambda: _settle(run, task, number, came, seconds)

    return work


def _lent(value: Any) -> Any:
    """A value as a task gets it: a material's channels can be let go as they are used."""
    return Material.spare(value) if isinstance(value, Material) else value


def _use(run: _Run, task: Task) -> None:
    """Let go of what a task is the last to need: while it runs, its inputs alone hold that."""
    for _, ref in task.inputs:
        run.uses[ref] -= 1
        if not run.uses[ref]:
            run.live.pop(ref, None)


def _try(run: _Run, task: Task, inputs: dict[str, Any], number: int) -> Result | str:
    """A task's result, or why there is none."""

    def tell(share: float) -> None:
        _tell_share(run, number, share)

    kind = run.plan.kinds.get((task.kind, task.version))
    try:
        is_small = task.size[0] * task.size[1] <= SMALL  # done too soon to tell of
        return carry_out(
            task,
            kind,
            inputs,
            stop=run.stop,
            progress=None if is_small else tell,
            threads=run.threads,
            helpers=run.helpers if run.hands > 1 else None,
        )
    except Cancelled:
        raise
    except ReedError as error:
        return str(error)
    except MemoryError:
        return "there is not enough memory for this size; choose a smaller one."
    except Exception as error:  # a kind's own mistake must not end the run, nor show a traceback
        log.exception("%s at %s could not be computed", task.kind, task.size)
        what = f"{type(error).__name__}: {error}"
        return f"something unforeseen went wrong ({what}); Help > Copy a report has the rest."


def _settle(run: _Run, task: Task, number: int, came: Result | str, seconds: float = 0.0) -> None:
    """Keep and hand out what came of a task, and let go of what nobody needs any more."""
    if isinstance(came, str):
        run.failed.add(task.key)
        for node_id in run.plan.nodes[task.key]:
            run.outcome.failures.setdefault(node_id, came)
    else:
        _keep(run, task, came, seconds)

    _tell_share(run, number, 1.0)


def _tell_share(run: _Run, number: int, share: float) -> None:
    """Tell how much is done when so much of a task is."""
    run.shares[number] = share
    if run.progress is not None:
        run.progress(sum(run.shares) / len(run.shares))


def _keep(run: _Run, task: Task, result: Result, seconds: float) -> None:
    if task.kind != CONVERT:
        for node_id in run.plan.nodes[task.key]:
            _tell(run, node_id, seconds, result.notes)
    for name, value in result.outputs.items():
        if run.keep:
            run.cache.put((task.key, name), value, seconds / len(result.outputs), result.notes, run.passing)
        _hold(run, (task.key, name), value)
