"""Branching growth against the same rules in plain Python, and what its limbs are made of."""

from __future__ import annotations

import math

import numpy as np
import pytest

from reedloom.kernels.growth import (
    BASE,
    FREE,
    MOST_CHILDREN,
    WANDER,
    Food,
    Manner,
    Tree,
    courses_of_tree,
    cut_tree,
    grow_tree,
)
from reedloom.kernels.hashing import unit_chances
from reedloom.laws.draws import flow_of


def short(way: float, around: float) -> float:
    return way - around * math.floor(way / around + 0.5)


def slow_tree(
    food: list[tuple[float, float]], first: list[tuple[float, float]], aspect: float, manner: Manner
) -> tuple[list[tuple[float, float]], list[int]]:
    """Space colonisation bit by bit: every node and every bit of food, each time."""
    base = (unit_chances(manner.seed, np.arange(len(first)), BASE) * 2 * math.pi).tolist()
    nodes, parents, fresh = list(first), [-1] * len(first), list(range(len(first)))
    left = list(range(len(food)))

    def way(n: int, f: int) -> tuple[float, float]:
        return short(food[f][0] - nodes[n][0], 1.0), short(food[f][1] - nodes[n][1], aspect)

    while fresh:
        left = [f for f in left if all(math.hypot(*way(n, f)) >= manner.gap for n in fresh)]
        pulls: dict[int, list[float]] = {}
        for f in list(left):
            away, near = min((math.hypot(*way(n, f)), n) for n in range(len(nodes)))
            if away >= manner.reach:
                continue
            if parents.count(near) >= MOST_CHILDREN:
                left.remove(f)
                continue
            du, dv = way(near, f)
            pull = pulls.setdefault(near, [0.0, 0.0])
            pull[0] += du / away
            pull[1] += dv / away
        fresh = []
        for n in sorted(pulls):
            angle, between = math.atan2(pulls[n][1], pulls[n][0]), 2 * math.pi / manner.sides
            apart = (angle - base[n]) / between
            angle -= manner.order * between * (apart - round(apart))
            chance = float(unit_chances(manner.seed, np.array([len(nodes)]), WANDER)[0])
            angle += manner.wander * (chance - 0.5)
            nodes.append(
                (
                    nodes[n][0] + manner.step * math.cos(angle),
                    nodes[n][1] + manner.step * math.sin(angle),
                )
            )
            parents.append(n)
            base.append(base[n])
            fresh.append(len(nodes) - 1)
    return nodes, parents


@pytest.mark.parametrize("aspect", [1.0, 0.5, 2.0])
def test_a_tree_grows_by_the_rules(aspect: float) -> None:
    chance = np.random.default_rng(3)
    columns, rows = 7, round(7 * aspect)
    u = (np.arange(columns) + chance.random((rows, columns))) / columns
    v = (np.arange(rows)[:, None] + chance.random((rows, columns))) / rows * aspect
    first = [(0.96, 0.1 * aspect), (0.4, 0.7 * aspect)]
    manner = Manner(step=0.06, reach=0.3, gap=0.1, order=0.5, sides=6, wander=0.3, seed=5)
    food = Food(u, v, np.full(u.shape, FREE, np.int64), np.full(u.shape, np.inf))
    tree = grow_tree(food, *np.array(first).T.copy(), aspect, manner, lambda: None)
    nodes, parents = slow_tree(list(zip(u.reshape(-1), v.reshape(-1), strict=True)), first, aspect, manner)
    assert len(tree.u) == len(nodes) > 15
    assert tree.parent.tolist() == parents
    assert np.abs(np.stack([tree.u, tree.v], axis=1) - np.array(nodes)).max() < 1e-6
    assert max(tree.u.max() - 1, -tree.u.min(), tree.v.max() - aspect, -tree.v.min()) > 0  # across the seam


def test_limbs_hold_every_step_once_and_go_on_where_most_lies_beyond() -> None:
    parent = np.array([-1, 0, 0, 1, 3, 3, 2])
    tree = Tree(np.arange(7.0), np.zeros(7), parent, np.array([0, 1, 1, 2, 3, 3, 2]))
    node, limb, weight = courses_of_tree(tree)
    assert weight.tolist() == [7, 4, 2, 3, 1, 1, 1]
    limbs = [node[limb == n].tolist() for n in np.unique(limb)]
    assert sorted(limbs) == [[0, 1, 3, 4], [0, 2, 6], [3, 5]]
    cut = cut_tree(tree, 0.4)
    assert cut.parent.tolist() == [-1, 0, 0]


def test_frost_keeps_to_its_ground_and_keeps_apart() -> None:
    ground = np.zeros((64, 64), np.float32)
    ground[:, :32] = 1
    grown = flow_of("frost", {"ground": ground}, {"wander": 0.0}, (64, 64))
    assert grown["mask"][:, 40:58].mean() < 0.1 * grown["mask"][:, 4:28].mean()
    whole = flow_of("frost", {}, {"cells": 24}, (64, 64))["paths"]
    sparse = flow_of("frost", {}, {"cells": 24, "gap": 2.5}, (64, 64))["paths"]
    assert len(sparse) < 0.7 * len(whole)
    part = flow_of("frost", {}, {"cells": 24, "grown": 0.5}, (64, 64))["paths"]
    assert 0 < len(part) < len(whole)
