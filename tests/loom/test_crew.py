"""The crew: tasks of small maps side by side, each after what it needs, with one result for any hands."""

from __future__ import annotations

import random
import threading
import time
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest

import reedloom as rl
from reedloom.data import shipped_weaves
from reedloom.kernels.helpers import Helpers
from reedloom.kernels.jit import run_bands
from reedloom.loom import run
from reedloom.loom.cache import Cache
from reedloom.loom.crew import carry_all
from reedloom.loom.plan import Task
from reedloom.weave.resolve import resolve
from weaving import evaluate

HANDS = 3


def task(key: int, *needs: int) -> Task:
    return Task(str(key), "none", 1, (), tuple((f"in{n}", (str(n), "out")) for n in needs), ("out",), (8, 8))


def tangle(seed: int, count: int = 60) -> list[Task]:
    """Tasks that need some of those before them."""
    chance = random.Random(seed)
    return [task(k, *chance.sample(range(k), min(k, chance.randrange(4)))) for k in range(count)]


@pytest.mark.parametrize("hands", [1, 2, HANDS])
def test_each_task_is_begun_once_and_after_all_it_needs(hands: int) -> None:
    tasks, done, order = tangle(hands), set(), []
    chance = random.Random(5)

    def begin(task: Task, number: int) -> Callable[[], Callable[[], None]]:
        assert all(key in done for _, (key, _) in task.inputs)
        order.append(number)
        pause = chance.random() * 1e-3

        def work() -> Callable[[], None]:
            time.sleep(pause)
            return lambda: done.add(task.key)

        return work

    carry_all(tasks, begin, hands)
    assert sorted(order) == list(range(len(tasks))) and len(done) == len(tasks)
    assert hands > 1 or order == sorted(order)


def test_tasks_that_do_not_need_each_other_run_at_once() -> None:
    meeting = threading.Barrier(HANDS, timeout=20)

    def begin(task: Task, number: int) -> Callable[[], Callable[[], None]]:
        def work() -> Callable[[], None]:
            meeting.wait()
            return lambda: None

        return work

    carry_all([task(k) for k in range(HANDS)], begin, HANDS)


@pytest.mark.parametrize("where", ["begin", "work", "settle"])
@pytest.mark.parametrize("hands", [1, HANDS])
def test_what_is_raised_comes_out_and_nothing_more_is_begun(hands: int, where: str) -> None:
    begun = []

    def trouble(number: int, here: str) -> None:
        if number == 2 and here == where:
            raise rl.Cancelled

    def begin(task: Task, number: int) -> Callable[[], Callable[[], None]]:
        begun.append(number)
        trouble(number, "begin")

        def work() -> Callable[[], None]:
            trouble(number, "work")
            return lambda: trouble(number, "settle")

        return work

    with pytest.raises(rl.Cancelled):
        carry_all([task(k, *([k - 1] if k else [])) for k in range(9)], begin, hands)
    assert begun == [0, 1, 2]


@pytest.mark.parametrize("breaks", [False, True])
def test_a_hand_without_a_task_shares_in_the_bands_of_others(breaks: bool) -> None:
    meeting, helpers, seen = threading.Barrier(2, timeout=20), Helpers(), set()

    def band(y0: int, y1: int) -> None:
        seen.add(threading.get_ident())
        if y0 < 2:
            meeting.wait()
        if breaks and y0 == 1:  # mostly with the one who helps
            raise rl.Cancelled

    def begin(task: Task, number: int) -> Callable[[], Callable[[], None]]:
        def work() -> Callable[[], None]:
            run_bands(band, 9, band_rows=1, threads=2, helpers=helpers)
            return lambda: None

        return work

    def carry() -> None:
        carry_all([task(0), task(1, 0)], begin, 2, helpers)

    if breaks:
        with pytest.raises(rl.Cancelled):
            carry()
    else:
        carry()
    assert len(seen) == 2


@pytest.mark.parametrize(("keep", "free", "most"), [(True, 2**60, 2), (True, 0, 1), (False, 2**60, 1)])
def test_large_maps_are_made_one_at_a_time_where_memory_is_short(
    monkeypatch: pytest.MonkeyPatch, keep: bool, free: int, most: int
) -> None:
    weave = rl.open_weave(shipped_weaves()["shoreline-pebbles"])
    ends = list(resolve(weave.document, weave.kinds).ends.values())
    carry_out, under_way, seen = run.carry_out, [0], [0]

    def counted(*args: Any, **more: Any) -> Any:
        under_way[0] += 1
        seen[0] = max(seen[0], under_way[0])
        try:
            time.sleep(0.002)
            return carry_out(*args, **more)
        finally:
            under_way[0] -= 1

    monkeypatch.setattr(run, "carry_out", counted)
    monkeypatch.setattr(run, "LARGE", 2**15)
    monkeypatch.setattr(run, "free_memory", lambda: free)
    evaluate(weave.document, ends, 200, cache=Cache(), keep=keep, threads=2)
    assert seen == [most]


@pytest.mark.parametrize("size", [40, 200])
def test_a_weave_is_the_same_with_any_number_of_hands(size: int) -> None:
    weave = rl.open_weave(shipped_weaves()["shoreline-pebbles"])
    document = weave.document
    ends = list(resolve(document, weave.kinds).ends.values())
    alone, together = (evaluate(document, ends, size, cache=Cache(), threads=hands) for hands in (1, HANDS))
    assert alone.results.keys() == together.results.keys() and not together.failures
    for end, value in alone.results.items():
        assert np.array_equal(value, together.results[end]), end
