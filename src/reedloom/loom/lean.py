"""Puts tasks in an order that holds few maps at once, for runs that keep nothing.

A branch that needs much room while it is computed, and leaves little, comes before its sisters (R. Sethi,
J. Ullman, *The generation of optimal code for arithmetic expressions*, 1970, here over a graph in which
maps are shared, where it is a rule of thumb); and what frees as much as it takes is done as soon as it can.
What is held is counted for each such order, and the best is taken.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

from reedloom.kit.data import COLOUR, GREY, ISLANDS, MATERIAL, VECTOR, Data
from reedloom.loom.keys import Ref
from reedloom.loom.plan import Task

WEIGHTS = {GREY: 1, ISLANDS: 1, VECTOR: 2, COLOUR: 3, MATERIAL: 8}
"""Numbers a sample by what is held; points and paths count as nothing, a material as a usual one."""


def lean_order(tasks: Sequence[Task], data: Mapping[Ref, Data]) -> list[Task]:
    """The same tasks, each after all it needs, such that few maps are held at once.

    Parameters
    ----------
    tasks : sequence of Task
        Each after all it needs.
    data : mapping of Ref to Data
        What each output holds.
    """
    keys = {task.key for task in tasks}  # what the cache has is held all the while
    data = {ref: what for ref, what in data.items() if ref[0] in keys}
    deep = _depth_first(tasks, data)
    orders = [list(tasks), deep, _freeing_first(tasks, data), _freeing_first(deep, data)]
    return min(orders, key=lambda order: most_held(order, data))


def most_held(tasks: Sequence[Task], data: Mapping[Ref, Data]) -> int:
    """The most numbers a sample that are held at once: what is made, until the last task that needs it."""
    uses = Counter(ref for task in tasks for _, ref in task.inputs)
    held, most = 0, 0
    for task in tasks:
        made = [(task.key, port) for port in task.wanted]
        held += sum(_weight(ref, data) for ref in made)
        most = max(most, held)
        held -= sum(_weight(ref, data) for ref in made if not uses[ref])
        for _, ref in task.inputs:
            uses[ref] -= 1
            held -= 0 if uses[ref] else _weight(ref, data)
    return most


def _weight(ref: Ref, data: Mapping[Ref, Data]) -> int:
    return WEIGHTS.get(data[ref], 0) if ref in data else 0


def _depth_first(tasks: Sequence[Task], data: Mapping[Ref, Data]) -> list[Task]:
    """Each task right after the branches it needs, those first that need much room and leave little."""
    by_key = {task.key: task for task in tasks}
    made = {task.key: sum(_weight((task.key, port), data) for port in task.wanted) for task in tasks}
    needs = {
        task.key: [k for k in dict.fromkeys(r[0] for _, r in task.inputs) if k in by_key] for task in tasks
    }
    room: dict[str, int] = {}  # the most that is held at once while a task, and all behind it, is computed
    for task in tasks:
        needs[task.key].sort(key=lambda key: made[key] - room[key])
        held, most = 0, 0
        for key in needs[task.key]:
            most = max(most, held + room[key])
            held += made[key]
        room[task.key] = max(most, held + made[task.key])
    order: dict[str, None] = {}
    needed = {key for keys in needs.values() for key in keys}
    last = sorted((task.key for task in tasks if task.key not in needed), key=lambda key: -room[key])
    waiting = last[::-1]
    while waiting:
        key = waiting[-1]
        lacking = [other for other in needs[key] if other not in order]
        if lacking:
            waiting.extend(lacking[::-1])
        else:
            order[waiting.pop()] = None
    return [by_key[key] for key in order]


def _freeing_first(tasks: Sequence[Task], data: Mapping[Ref, Data]) -> list[Task]:
    """Bring forward what lets go of as much as it takes."""
    uses = Counter(ref for task in tasks for _, ref in task.inputs)
    known = {task.key for task in tasks}
    lacking: dict[str, int] = {}
    followers: dict[str, list[int]] = {}
    for number, task in enumerate(tasks):
        sources = {ref[0] for _, ref in task.inputs} & known
        lacking[task.key] = len(sources)
        for key in sources:
            followers.setdefault(key, []).append(number)
    ready = [number for number, task in enumerate(tasks) if not lacking[task.key]]
    order: list[Task] = []

    def grows(task: Task) -> bool:
        freed = sum(
            _weight(ref, data) for ref, n in Counter(r for _, r in task.inputs).items() if uses[ref] == n
        )
        return sum(_weight((task.key, port), data) for port in task.wanted) > freed

    while ready:
        number = min(ready, key=lambda n: (grows(tasks[n]), n))
        ready.remove(number)
        task = tasks[number]
        order.append(task)
        uses.subtract(ref for _, ref in task.inputs)
        for follower in followers.get(task.key, ()):
            lacking[tasks[follower].key] -= 1
            if not lacking[tasks[follower].key]:
                ready.append(follower)
    return order
