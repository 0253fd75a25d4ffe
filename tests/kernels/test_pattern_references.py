"""Loops of patterns against the same patterns in plain NumPy, all candidates of all places at once."""

from __future__ import annotations

import numpy as np
import pytest

from reedloom.kernels.cloth import Cloth, Yarns, cross_yarns
from reedloom.kernels.scales import REACH, Rows, Scales, find_scales


def some_places(count: int = 4000) -> tuple[np.ndarray, np.ndarray]:
    """Places all over the tile, its borders among them."""
    u, v = np.random.default_rng(3).random((2, count), np.float32)
    u[:4], v[:4] = (0, 0, 0.99999, 0.5), (0, 0.99999, 0, 0)
    return u, v


def slow_scales(u: np.ndarray, v: np.ndarray, laid: Rows) -> list[np.ndarray]:
    """The uppermost scale at each place: of those that cover it the one whose row lies farthest up."""
    rows, columns = laid.there.shape
    y = (v * np.float32(rows)).astype(np.float64)
    inward, raised, beneath = np.full(len(u), -1e-3), np.zeros(len(u)), np.zeros(len(u))
    number = np.zeros(len(u), np.int64)
    for step in range(REACH):
        j = np.floor(y).astype(int) - step
        row = j % rows
        down = (y - j) / laid.length
        x = (u * np.float32(columns) - np.where(row % 2 == 1, np.float32(0.5), np.float32(0))).astype(float)
        column = np.floor(x).astype(int) % columns
        across = x - np.floor(x) - 0.5
        left = (1 - down) * laid.length * laid.tall
        round_, side = 0.5 * laid.roundness, 0.5 - np.abs(across)
        end = left / (1 + 0.8 * laid.point)
        corner = round_ - np.hypot(np.maximum(round_ - side, 0), np.maximum(round_ - end, 0))
        way = np.where((side < round_) & (end < round_), corner, np.minimum(side, left)) / columns
        part = laid.uneven[row, column]
        height = (1 - laid.tilt * (1 - part) * (1 - down)) * (1 - 0.35 * part)
        covers = (way > 0) & laid.there[row, column] & (down <= 1)
        beneath = np.where(covers, raised, beneath)
        inward, raised = np.where(covers, way, inward), np.where(covers, height, raised)
        number = np.where(covers | (step == 0), row * columns + column, number)
    return [inward, number, raised, beneath]


@pytest.mark.parametrize(("rows", "columns", "length"), [(6, 5, 1.4), (2, 1, 2.9), (24, 31, 2.0)])
def test_scales_lie_as_in_plain_numpy(rows: int, columns: int, length: float) -> None:
    chance = np.random.default_rng(rows)
    laid = Rows(
        chance.random((rows, columns)) > 0.2, chance.random((rows, columns), np.float32),
        *(np.float32(value) for value in (length, 0.8, 0.9, 0.3, 0.7)),
    )  # fmt: skip
    u, v = some_places()
    found = Scales.empty(len(u))
    find_scales(u, v, laid, found)
    slow = slow_scales(u, v, laid)
    for got, wanted in zip(
        (found.inward, found.raised, found.beneath), (slow[0], slow[2], slow[3]), strict=True
    ):
        assert np.abs(got - wanted).max() < 1e-5
    assert np.array_equal(found.number, slow[1])


def slow_yarn(
    across: np.ndarray, along: np.ndarray, lies: np.ndarray, passes: np.ndarray, chance: np.ndarray,
    reach: np.ndarray, yarns: Yarns,
) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """Height and cover of one system of yarns; lies, passes : whether it is above here, and at the next."""
    share = 0.5 - 0.5 * np.cos(np.pi * np.abs(along % 1 - 0.5))
    rise = lies + (passes.astype(float) - lies) * share
    uneven = yarns.unevenness * (chance - 0.5)
    half, away = 0.5 * yarns.width * (1 + 0.5 * uneven), np.abs(across - 0.5)
    cover = np.clip((half - away) / np.maximum(reach, 1e-6) + 0.5, 0, 1)
    flat = np.clip((1 - away / half) * 4, 0, 1)
    body = flat + yarns.roundness * (np.sqrt(np.maximum(1 - (away / half) ** 2, 0)) - flat)
    groove = 0.5 + 0.5 * np.cos(2 * np.pi * yarns.twists * (along + 1.6 * (across - 0.5)))
    carve = np.clip(1 - reach * yarns.twists * 1.2, 0, 1)
    body = body * (1 - 0.35 * yarns.twist * (0.5 + carve * (groove - 0.5)))
    height = (0.5 * body + 0.5 * yarns.bow * rise * np.minimum(1, body * 3)) / (0.5 + 0.5 * yarns.bow)
    return height * (1 + 0.4 * uneven) / (1 + 0.2 * yarns.unevenness) * cover, cover


@pytest.mark.parametrize("aspect", [1.0, 0.5])
def test_yarns_cross_as_in_plain_numpy(aspect: float) -> None:
    chance = np.random.default_rng(8)
    warps, wefts = 12, 8
    above = chance.random((wefts, warps)) > 0.5
    chances = chance.random(warps, np.float32), chance.random(wefts, np.float32)
    yarns, reach = Yarns(0.8, 0.7, 0.9, 0.6, 5.0, 0.8), np.float32(0.002)
    u, v = some_places()
    found = Cloth.empty(len(u))
    cross_yarns(u, v, np.full(len(u), reach), above, chances, aspect, yarns, found)
    x, y = (u * np.float32(warps)).astype(float), (v * np.float32(wefts)).astype(float)
    i, j = np.minimum(x.astype(int), warps - 1), np.minimum(y.astype(int), wefts - 1)
    near_y, near_x = np.where(y - j < 0.5, j - 1, j + 1) % wefts, np.where(x - i < 0.5, i - 1, i + 1) % warps
    down = slow_yarn(x - i, y, above[j, i], above[near_y, i], chances[0][i], reach * warps, yarns)
    over = slow_yarn(y - j, x, ~above[j, i], ~above[j, near_x], chances[1][j], reach * wefts / aspect, yarns)
    assert np.abs(found.height - np.maximum(down[0], over[0])).max() < 1e-4
    assert np.abs(found.cover - np.maximum(down[1], over[1])).max() < 1e-4
    clear = np.abs(down[0] - over[0]) > 1e-4
    assert np.array_equal(found.number[clear], np.where(down[0] >= over[0], i, warps + j)[clear])
