"""Branching growth around the tile: nodes that reach for food until it is eaten up.

Space colonisation, after A. Runions and others, *Modeling trees with a space colonization algorithm* (2007):
every bit of food pulls at the node nearest to it; a node that is pulled grows a child that way; food near a
node is eaten. All is double precision and in order, so that every machine grows the same.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.jit import inlined, kernel

MOST_CHILDREN = 4
"""Children after which a node grows no more, so that food it cannot come nearer to is given up."""
EATEN, FREE = -2, -1
WANDER, BASE = 61, 62


class Food(NamedTuple):
    """What is grown towards: one bit in each cell of a grid.

    Attributes
    ----------
    u, v : (rows, columns) float64
        Where it lies, in widths.
    near : (rows, columns) int64
        The node nearest to it within reach; FREE for none yet, EATEN where it is gone.
    away : (rows, columns) float64
        How far that node is, squared.
    """

    u: np.ndarray
    v: np.ndarray
    near: np.ndarray
    away: np.ndarray


class Tree(NamedTuple):
    """What has grown; every node comes after its parent.

    Attributes
    ----------
    u, v : (n,) float64
        In widths, running on beyond the tile.
    parent : (n,) int64
        -1 for a first node.
    depth : (n,) int64
        Nodes behind it.
    """

    u: np.ndarray
    v: np.ndarray
    parent: np.ndarray
    depth: np.ndarray


class Manner(NamedTuple):
    """How it grows.

    Attributes
    ----------
    step, reach, gap : float
        The length of a step, how far food pulls, and how near it is eaten, in widths.
    order : float
        How far ways are turned to the nearest of those of a crystal, 0 to 1.
    sides : int
        How many ways a crystal has.
    wander : float
        How far each step strays, in radians.
    seed : int
    """

    step: float
    reach: float
    gap: float
    order: float
    sides: int
    wander: float
    seed: int


def grow_tree(
    food: Food, u: np.ndarray, v: np.ndarray, aspect: float, manner: Manner, check: Callable[[], None]
) -> Tree:
    """Grow from first nodes until there is no food left within reach.

    Parameters
    ----------
    food : Food
        Its `near` and `away` are changed.
    u, v : (n,) float64
        The first nodes, in widths.
    aspect : float
        The tile's height in widths.
    check : callable
        Called at every step; raises to end the work.
    """
    room = 2 * food.u.size + len(u) + 64
    us, vs, base = np.zeros(room), np.zeros(room), np.zeros(room)
    parent, depth, children = np.full(room, -1, np.int64), np.zeros(room, np.int64), np.zeros(room, np.int64)
    count = len(u)
    us[:count], vs[:count] = u, v
    base[:count] = unit_chances(manner.seed, np.arange(count), BASE) * 2 * math.pi
    pull = np.zeros((room, 2))
    first = 0
    while count > first:
        check()
        reach_out(first, count, us, vs, food, aspect, manner.reach, manner.gap)
        pull[:count] = 0
        pull_nodes(food, us, vs, children, aspect, pull)
        pulled = np.flatnonzero((pull[:count, 0] != 0) | (pull[:count, 1] != 0))[: room - count]
        way = np.arctan2(pull[pulled, 1], pull[pulled, 0])
        new = np.arange(count, count + len(pulled))
        way = ordered(way, base[pulled], manner)
        way += manner.wander * (unit_chances(manner.seed, new, WANDER) - 0.5)
        us[new] = us[pulled] + manner.step * np.cos(way)
        vs[new] = vs[pulled] + manner.step * np.sin(way)
        parent[new], depth[new], base[new] = pulled, depth[pulled] + 1, base[pulled]
        children[pulled] += 1
        first, count = count, count + len(new)
    return Tree(us[:count], vs[:count], parent[:count], depth[:count])


def ordered(way: np.ndarray, base: np.ndarray, manner: Manner) -> np.ndarray:
    """Ways turned towards the nearest of a crystal's, of which one is `base`: (n,) radians."""
    between = 2 * math.pi / manner.sides
    apart = (way - base) / between
    turned: np.ndarray = way - manner.order * between * (apart - np.round(apart))
    return turned


@inlined
def _short(way, around):  # type: ignore[no-untyped-def]
    """The shortest way around the tile."""
    return way - around * np.floor(way / around + 0.5)


@kernel
def reach_out(first, count, us, vs, food, aspect, reach, gap):  # type: ignore[no-untyped-def]
    """Let new nodes eat what is near them and be the nearest to what is in reach.

    Parameters
    ----------
    first, count : int
        The new ones, and how many nodes there are.
    us, vs : (n,) float64
        All nodes, in widths.
    food : Food
        Changed.
    aspect, reach, gap : float
        As in `grow_tree`.
    """
    at_u, at_v, near, away = food
    rows, columns = near.shape
    # Food lies anywhere within its cell.
    far_i = min(math.ceil(reach * columns) + 1, columns // 2)
    far_j = min(math.ceil(reach / aspect * rows) + 1, rows // 2)
    for n in range(first, count):
        i0 = math.floor(us[n] * columns)
        j0 = math.floor(vs[n] / aspect * rows)
        for j in range(j0 - far_j, j0 + far_j + 1):
            row = j % rows
            for i in range(i0 - far_i, i0 + far_i + 1):
                column = i % columns
                if near[row, column] == EATEN:
                    continue
                du = _short(at_u[row, column] - us[n], 1.0)
                dv = _short(at_v[row, column] - vs[n], aspect)
                d = du * du + dv * dv
                if d < gap * gap:
                    near[row, column] = EATEN
                elif d < reach * reach and d < away[row, column]:
                    near[row, column] = n
                    away[row, column] = d


@kernel
def pull_nodes(food, us, vs, children, aspect, pull):  # type: ignore[no-untyped-def]
    """Add up at each node the unit ways to all food nearest to it; give up what it cannot come to.

    Parameters
    ----------
    food : Food
        Changed.
    us, vs : (n,) float64
        The nodes, in widths.
    children : (n,) int64
        How many each has.
    aspect : float
        The tile's height in widths.
    pull : (n, 2) float64
        Added to.
    """
    at_u, at_v, near, _ = food
    for j in range(near.shape[0]):
        for i in range(near.shape[1]):
            n = near[j, i]
            if n < 0:
                continue
            if children[n] >= MOST_CHILDREN:
                near[j, i] = EATEN
                continue
            du = _short(at_u[j, i] - us[n], 1.0)
            dv = _short(at_v[j, i] - vs[n], aspect)
            d = math.sqrt(du * du + dv * dv)
            pull[n, 0] += du / max(d, 1e-12)
            pull[n, 1] += dv / max(d, 1e-12)


def cut_tree(tree: Tree, share: float) -> Tree:
    """What of a tree had grown by a share of its time."""
    if share >= 1 or not len(tree.depth):
        return tree
    kept = tree.depth <= share * tree.depth.max()
    number = np.cumsum(kept) - 1
    parent = np.where(tree.parent[kept] >= 0, number[tree.parent[kept]], -1)
    return Tree(tree.u[kept], tree.v[kept], parent, tree.depth[kept])


def courses_of_tree(tree: Tree) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Limbs from their branching to their tips, each going on where most lies beyond.

    Returns
    -------
    node, limb : (m,) int64
        The node at each corner and the number of its limb; a limb begins at the node that it leaves.
    weight : (nodes,) int64
        How many nodes lie beyond each, itself included.
    """
    count = len(tree.parent)
    weight, heir = np.ones(count, np.int64), np.full(count, -1, np.int64)
    weigh(tree.parent, weight, heir)
    is_heir = np.zeros(count, bool)
    is_heir[heir[heir >= 0]] = True
    begins = np.flatnonzero(~is_heir)
    room = count + len(begins)
    node, limb = np.empty(room, np.int64), np.empty(room, np.int64)
    used = follow(begins, tree.parent, heir, node, limb)
    return node[:used], limb[:used], weight


@kernel
def weigh(parent, weight, heir):  # type: ignore[no-untyped-def]
    """Add up from the tips what lies beyond each node, and find its heaviest child: (n,) each."""
    for n in range(parent.shape[0] - 1, -1, -1):
        p = parent[n]
        if p >= 0:
            weight[p] += weight[n]
    for n in range(parent.shape[0]):
        p = parent[n]
        if p >= 0 and (heir[p] < 0 or weight[n] > weight[heir[p]]):
            heir[p] = n


@kernel
def follow(begins, parent, heir, node, limb):  # type: ignore[no-untyped-def]
    """Write each limb's nodes one after the other; returns how many corners there are.

    Parameters
    ----------
    begins : (limbs,) int64
        The first node of each after the one it leaves.
    parent, heir : (n,) int64
        The node before each, and its heaviest child; -1 for none.
    node, limb : (m,) int64
        Filled.
    """
    at = 0
    for number in range(begins.shape[0]):
        n = begins[number]
        if parent[n] >= 0:
            node[at], limb[at] = parent[n], number
            at += 1
        while n >= 0:
            node[at], limb[at] = n, number
            at += 1
            n = heir[n]
    return at
