"""What the cache keeps, against the rule written out plainly; and that a full one stays fast."""

from __future__ import annotations

import random

import numpy as np
import pytest

from reedloom.loom.cache import Cache

UNIT = 1000
"""Bytes in one measure of size."""
NAMES = tuple("abcdefgh")


class Plain:
    """The rule by itself: the one worth least goes, looked for among all."""

    def __init__(self, budget: int) -> None:
        self.budget, self.line = budget, 0.0
        self.worth: dict[str, float] = {}
        self.size: dict[str, int] = {}
        self.gain: dict[str, float] = {}
        self.held: frozenset[str] = frozenset()

    def put(self, name: str, size: int, seconds: float) -> None:
        if size <= self.budget:
            self.size[name], self.gain[name] = size, seconds / size
            self.worth[name] = self.line + self.gain[name]
            self.shrink()

    def get(self, name: str) -> None:
        if name in self.worth:
            self.worth[name] = self.line + self.gain[name]

    def shrink(self) -> None:
        while sum(self.size.values()) > self.budget and (free := self.worth.keys() - self.held):
            least = min(free, key=self.worth.__getitem__)
            self.line = max(self.line, self.worth.pop(least))
            del self.size[least]


def ref(name: str) -> tuple[str, str]:
    return (name, "map")


@pytest.mark.parametrize("seed", range(60))
def test_what_is_worth_least_goes(seed: int) -> None:
    """After each of a hundred random calls, with sizes near the budget and results in use."""
    chance = random.Random(seed)
    cache, plain = Cache(8 * UNIT), Plain(8 * UNIT)
    for _ in range(100):
        name, size = chance.choice(NAMES), chance.randint(1, 5) * UNIT
        what = chance.choices(("put", "get", "hold", "bound"), (4, 3, 1, 1))[0]
        if what == "put":
            seconds = chance.uniform(1, 40)  # no two are worth the same
            cache.put(ref(name), np.zeros(size, np.uint8), seconds)
            plain.put(name, size, seconds)
        elif what == "get":
            cache.get(ref(name))
            plain.get(name)
        elif what == "hold":
            plain.held = frozenset(chance.sample(NAMES, chance.randint(0, 3)))
            cache.keep_in_use("a view", map(ref, plain.held))
            plain.shrink()
        else:
            plain.budget = chance.randint(1, 12) * UNIT
            cache.bound(plain.budget)
            plain.shrink()
        kept = {name for name in NAMES if ref(name) in cache._entries}
        assert kept == plain.worth.keys() and cache.held == sum(plain.size.values())


def test_letting_one_go_looks_at_few_of_many() -> None:
    """When all were looked at, a result in a cache of thousands took longer to keep than to compute."""
    small, looked = np.zeros(UNIT, np.uint8), 0

    class Counted(float):
        def __lt__(self, other: float) -> bool:
            nonlocal looked
            looked += 1
            return float(self) < float(other)

    cache = Cache(4000 * UNIT)
    for number in range(4000):
        cache.put(ref(str(number)), small, 1 + number % 7)
    cache._queue = [(Counted(worth), *more) for worth, *more in cache._queue]
    cache.put(ref("new"), np.zeros(50 * UNIT, np.uint8), 1e6)
    assert len(cache) == 4000 - 50 + 1 and 0 < looked < 50 * 40
