"""That the memory of large maps is taken over by the next ones, never by two at once, and not without end."""

from __future__ import annotations

import random
import resource
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest

from reedloom.kernels import maps
from reedloom.kernels.maps import LEAST, MOST, empty_like, empty_map, let_go

SIDE = 2048
SHAPE = SIDE, SIDE
"""Of a map that is just large enough for its memory to be kept."""


def at(map: np.ndarray) -> int:
    return int(map.ctypes.data)


def held() -> int:
    """Bytes of memory that this process has."""
    line = next(
        line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith("VmRSS")
    )
    return int(line.split()[1]) * 1024


def fresh_pages() -> int:
    return resource.getrusage(resource.RUSAGE_SELF).ru_minflt


def test_the_next_map_takes_the_memory_of_those_before() -> None:
    let_go()
    four = [empty_map(SHAPE) for _ in range(4)]
    for map in four:
        map.fill(1)
    places = [at(map) for map in four]
    del map, four
    before = fresh_pages()
    same, colour = empty_map((SIDE // 2, SIDE, 2)), empty_map((*SHAPE, 3))
    same.fill(2)
    colour.fill(3)
    assert at(same) in places
    assert fresh_pages() - before < 64  # of 16,384, or 32 large ones
    assert same.max() == 2 and colour.min() == 3
    del colour
    parts = [empty_map(SHAPE) for _ in range(3)]
    for number, map in enumerate(parts):
        map.fill(number)
    assert fresh_pages() - before < 64
    assert [map.mean() for map in parts] == [0, 1, 2] and same.max() == 2


def test_what_is_still_looked_at_is_not_taken() -> None:
    let_go()
    map = empty_map(SHAPE)
    map.fill(1)
    where, part = at(map), map[5:, ::2].reshape(2, -1)[:, 3:]
    part.setflags(write=False)
    view = memoryview(map[:8])
    del map
    second = empty_map(SHAPE)
    second.fill(2)
    assert at(second) != where
    del part
    assert at(empty_map(SHAPE)) != where and np.asarray(view).max() == 1
    del view
    assert at(empty_map(SHAPE)) == where


def test_no_two_maps_in_use_share_memory_whatever_threads_do() -> None:
    def use(seed: int) -> bool:
        draw = random.Random(seed)
        held: list[tuple[np.ndarray, float]] = []
        for number in range(60):
            map = empty_map((draw.choice((1, 2, 3)), SIDE, SIDE))
            map[:, ::64, ::64] = value = seed + number / 100
            held.append((map, np.float32(value)))
            if len(held) > 3:
                old, wrote = held.pop(draw.randrange(len(held)))
                if not (old[:, ::64, ::64] == wrote).all():
                    return False
        return all((map[:, ::64, ::64] == value).all() for map, value in held)

    with ThreadPoolExecutor(4) as pool:
        assert all(pool.map(use, range(4)))


def test_what_waits_is_bounded_and_can_be_let_go() -> None:
    let_go()
    before = held()
    forty = [empty_map(SHAPE) for _ in range(40)]
    for map in forty:
        map.fill(1)
    assert held() - before > 39 * LEAST
    del map, forty
    assert held() - before < MOST + 2 * LEAST
    let_go()
    assert held() - before < 2 * LEAST


def test_maps_are_plain_arrays_that_may_be_written() -> None:
    for shape in ((3, 5), SHAPE, (*SHAPE, 3)):
        for map in (empty_map(shape), empty_like(np.zeros(shape, np.float32))):
            assert type(map) is np.ndarray and map.shape == shape and map.dtype == np.float32
            assert map.flags.c_contiguous and map.flags.writeable and map.flags.aligned
    assert empty_map(SHAPE, np.int32).dtype == np.int32


def test_without_memory_of_its_own_a_map_comes_from_the_allocator(monkeypatch: pytest.MonkeyPatch) -> None:
    let_go()
    monkeypatch.setattr(maps._system, "mmap", lambda *_: maps.FAILED)
    map = empty_map(SHAPE)
    map.fill(1)
    assert map.shape == SHAPE and map.sum() == SIDE * SIDE


def test_where_nothing_can_be_moved_maps_are_new(monkeypatch: pytest.MonkeyPatch) -> None:
    let_go()
    before = held()
    three = [empty_map(SHAPE) for _ in range(3)]
    for map in three:
        map.fill(1)
    del map, three
    moves: list[int] = []

    def mremap(_from: int, _size: int, _new: int, _how: int, to: int) -> int | None:
        moves.append(to)
        return maps.FAILED

    monkeypatch.setattr(maps._system, "mremap", mremap)
    colour = empty_map((*SHAPE, 3))
    colour.fill(3)
    assert moves and colour.min() == 3
    assert held() - before < 4 * LEAST  # what could not be moved went back
