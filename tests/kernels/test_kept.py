"""Tables that are kept: the last used ones, as many as there is room for, each as if made anew."""

from __future__ import annotations

import random
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from reedloom.kernels.kept import LARGEST, kept_tables
from reedloom.kernels.lattice import Lattice

ROOM = 4000


def counting(made: list[int]):  # type: ignore[no-untyped-def]
    """A maker of tables of so many numbers, which notes what it makes."""

    @kept_tables(ROOM)
    def table(size: int) -> np.ndarray:
        made.append(size)
        return np.full(size, size, np.float32)

    return table


@pytest.mark.parametrize("seed", range(20))
def test_what_is_kept_is_what_was_used_last_and_fits(seed: int) -> None:
    """Against the rule written out: the longest unused goes, until what is left fits."""
    made: list[int] = []
    table, chance, kept = counting(made), random.Random(seed), []
    for _ in range(300):
        size = chance.randrange(1, 300)
        known = size in kept
        made.clear()
        got = table(size)
        assert bool(made) != known and len(got) == size and (got == size).all()
        assert not got.flags.writeable
        if known:
            kept.remove(size)
        if 4 * size <= ROOM // LARGEST:
            kept.append(size)
        while sum(4 * size for size in kept) > ROOM:
            kept.pop(0)


def test_a_table_larger_than_its_share_pushes_nothing_out() -> None:
    made: list[int] = []
    table = counting(made)
    for size in (10, 20, ROOM, 10, 20):
        table(size)
    assert made == [10, 20, ROOM]


def test_threads_get_whole_tables() -> None:
    table = counting([])
    sizes = [random.Random(n).randrange(1, 240) for n in range(4000)]
    with ThreadPoolExecutor(8) as pool:
        assert all(len(got) == size for size, got in zip(sizes, pool.map(table, sizes), strict=True))


def test_a_lattice_gives_the_same_corners_kept_or_made_anew() -> None:
    lattice = Lattice.of(3, 9, 7)
    kept, again, anew = lattice.planes(0.3), lattice.planes(0.3), lattice.planes(0.3, keep=False)
    assert kept is again and anew is not kept and np.array_equal(anew, kept)
    assert not np.array_equal(lattice.planes(0.4), kept)
