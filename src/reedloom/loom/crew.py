"""Carries a plan's tasks out in their order, several at once; hands without a task help the others."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from heapq import heappop, heappush

from reedloom.kernels.helpers import Helpers
from reedloom.loom.plan import Task

Settle = Callable[[], None]
Begin = Callable[[Task, int], Callable[[], Settle]]


@cache
def _pool(hands: int) -> ThreadPoolExecutor:
    return ThreadPoolExecutor(hands, thread_name_prefix="reedloom-task")


def carry_all(tasks: Sequence[Task], begin: Begin, hands: int, helpers: Helpers | None = None) -> None:
    """Carry out all tasks, each after those it needs; with one hand in the order given.

    Parameters
    ----------
    tasks : sequence of Task
        Each after all it needs.
    begin : callable
        Gets a task and its number, and gives the work, which gives what is to be done with its result. Only
        the work runs beside others; all else runs for one task at a time, on whatever thread.
    hands : int
        How many tasks may be under way at once.
    helpers : Helpers, optional
        Through which hands without a task share in the bands of others.

    Raises
    ------
    Exception
        The first that any of the three raised; the tasks under way are then finished, and no more begun.
    """
    order = _Order(tasks, helpers or Helpers())
    futures = [_pool(hands - 1).submit(_work, order, begin) for _ in range(hands - 1)]
    try:
        _work(order, begin)
    finally:
        for future in futures:
            if not future.cancel():
                future.exception()
    if order.trouble is not None:
        raise order.trouble


class _Order:
    """Which task can be begun: the first whose inputs are all there."""

    def __init__(self, tasks: Sequence[Task], helpers: Helpers) -> None:
        self.tasks = tasks
        self.helpers, self.wake = helpers, helpers.wake
        self.under_way = 0
        self.trouble: BaseException | None = None
        numbers = {task.key: number for number, task in enumerate(tasks)}
        needed = [{numbers[key] for _, (key, _) in task.inputs if key in numbers} for task in tasks]
        self._lacking = [len(few) for few in needed]
        self._followers: list[list[int]] = [[] for _ in tasks]
        for number, few in enumerate(needed):
            for source in few:
                self._followers[source].append(number)
        self._ready = [number for number, count in enumerate(self._lacking) if not count]

    def take(self) -> int | None:
        """The next task to begin, waited for while helping with others; None if there is none any more."""
        while not self._ready and self.under_way and self.trouble is None:
            if not self.helpers.help():
                self.wake.wait()
        if self.trouble is not None or not self._ready:
            return None
        self.under_way += 1
        return heappop(self._ready)

    def put(self, number: int) -> None:
        """A task is done: those that waited for it alone can be begun."""
        self.under_way -= 1
        for follower in self._followers[number]:
            self._lacking[follower] -= 1
            if not self._lacking[follower]:
                heappush(self._ready, follower)
        self.wake.notify_all()


def _work(order: _Order, begin: Begin) -> None:
    """What each hand does: begin a task, carry it out beside the others, settle it."""
    with order.wake:
        while (number := order.take()) is not None:
            try:
                work = begin(order.tasks[number], number)
                order.wake.release()
                try:
                    settle = work()
                finally:
                    order.wake.acquire()
                settle()
            except BaseException as error:
                order.trouble = order.trouble or error
            order.put(number)
