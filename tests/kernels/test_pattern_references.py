"""Loops of patterns against the same patterns in plain NumPy, all candidates of all places at once."""

from __future__ import annotations

import numpy as np
import pytest

from reedloom.kernels.cloth import Cloth, Yarns, cross_yarns
from reedloom.kernels.elements import Elements
from reedloom.kernels.scales import REACH, Rows, find_scales
from reedloom.kinds.pattern.basket_pattern import find_strands
from reedloom.kinds.pattern.courses import Blocks, find_blocks
from reedloom.kinds.pattern.cracks import sink_crack_rows
from reedloom.kinds.pattern.dots import Laid, find_dots
from reedloom.kinds.pattern.fan_cobbles import Fans, find_stones
from reedloom.kinds.pattern.herringbone import find_herringbone
from reedloom.kinds.pattern.hexagons import find_hexagons


def some_places(count: int = 4000) -> np.ndarray:
    """Places all over the tile, its borders among them: (count, 2)."""
    places = np.random.default_rng(3).random((count, 2), np.float32)
    places[:4] = (0, 0), (0, 0.99999), (0.99999, 0), (0.5, 0)
    return places


def across_seam(places: np.ndarray) -> np.ndarray:
    """The same places some tiles away."""
    return places + np.float32([3, -2])


def slow_scales(u: np.ndarray, v: np.ndarray, laid: Rows) -> list[np.ndarray]:
    """The uppermost scale at each place: of those that cover it the one whose row lies farthest up."""
    rows, columns = laid.uneven.shape
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
        covers = (way > 0) & (part >= 0) & (down <= 1)
        beneath = np.where(covers, raised, beneath)
        inward, raised = np.where(covers, way, inward), np.where(covers, height, raised)
        number = np.where(covers | (step == 0), row * columns + column, number)
    return [inward, number, raised, beneath]


@pytest.mark.parametrize(("rows", "columns", "length"), [(6, 5, 1.4), (2, 1, 2.9), (24, 31, 2.0)])
def test_scales_lie_as_in_plain_numpy(rows: int, columns: int, length: float) -> None:
    chance = np.random.default_rng(rows)
    is_there = chance.random((rows, columns)) > 0.2
    laid = Rows(
        np.where(is_there, chance.random((rows, columns), np.float32), np.float32(-1)),
        *(np.float32(value) for value in (length, 0.8, 0.9, 0.3, 0.7)),
    )  # fmt: skip
    places = some_places()
    found = Elements.level(len(places))
    find_scales(places, laid, found)
    slow = slow_scales(*places.T, laid)
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
@pytest.mark.parametrize(
    "numbers",
    [(0.8, 0.7, 0.9, 0.6, 5.0, 0.8), (0.5, 0.0, 2.0, 0.0, 1.0, 0.0), (1.0, 1.0, 0.3, 1.0, 64.0, 0.2)],
)
@pytest.mark.parametrize("all_alike", [True, False])
def test_yarns_cross_as_in_plain_numpy(aspect: float, numbers: tuple[float, ...], all_alike: bool) -> None:
    chance = np.random.default_rng(8)
    warps, wefts = 12, 8
    above = chance.random((wefts, warps)) > 0.5
    chances = chance.random(warps, np.float32), chance.random(wefts, np.float32)
    yarns, places = Yarns(*map(np.float32, numbers)), some_places()
    reach = np.full(1, 0.002, np.float32) if all_alike else chance.uniform(0, 0.05, 4000).astype(np.float32)
    found = Cloth.empty(len(places))
    cross_yarns(places, reach, above, chances, aspect, yarns, found)
    u, v = places.T
    x, y = (u * np.float32(warps)).astype(float), (v * np.float32(wefts)).astype(float)
    i, j = np.minimum(x.astype(int), warps - 1), np.minimum(y.astype(int), wefts - 1)
    near_y, near_x = np.where(y - j < 0.5, j - 1, j + 1) % wefts, np.where(x - i < 0.5, i - 1, i + 1) % warps
    down = slow_yarn(x - i, y, above[j, i], above[near_y, i], chances[0][i], reach * warps, yarns)
    over = slow_yarn(y - j, x, ~above[j, i], ~above[j, near_x], chances[1][j], reach * wefts / aspect, yarns)
    height = np.maximum(down[0], over[0])
    rough = 2e-3 * (reach < 1e-4)  # the share of a tiny sample that is yarn is known no better
    assert (np.abs(found.height - height) < 1e-4 + rough).all()
    assert (np.abs(found.cover - np.maximum(down[1], over[1])) < 1e-4 + rough).all()
    clear, lies_down = np.abs(down[0] - over[0]) > 1e-4, down[0] >= over[0]
    widths = [0.5 * yarns.width * (1 + 0.5 * yarns.unevenness * (own - 0.5)) for own in chances]
    inward = (
        (widths[0][i] - np.abs(x - i - 0.5)) / warps,
        (widths[1][j] - np.abs(y - j - 0.5)) * aspect / wefts,
    )
    for got, of_down, of_across, within in (
        (found.over, 1, 0, 0), (found.number, i, warps + j, 0), (found.inward, *inward, 1e-6),
        (found.chance, chances[0][i], chances[1][j], 0), (found.along, y, x, 1e-5),
        (found.across, x - i, y - j, 1e-5),
    ):  # fmt: skip
        assert np.abs(got - np.where(lies_down, of_down, of_across))[clear].max() <= within


def test_a_yarn_that_lies_above_is_the_higher_one() -> None:
    """At the middle of each crossing, with yarns as wide as their room and all alike."""
    yarns = Yarns(*map(np.float32, (1.0, 1.0, 1.0, 0.0, 1.0, 0.0)))
    above = np.array([[True, True, False], [False, True, True]])
    across, down = np.meshgrid((np.arange(3) + 0.5) / 3, (np.arange(2) + 0.5) / 2)
    places = np.stack([across, down], axis=-1).reshape(-1, 2).astype(np.float32)
    found, own = Cloth.empty(6), (np.full(3, 0.5, np.float32), np.full(2, 0.5, np.float32))
    cross_yarns(places, np.full(1, 0.01, np.float32), above, own, 1.0, yarns, found)
    assert np.array_equal(found.over.reshape(2, 3) > 0, above)
    assert found.height == pytest.approx(np.ones(6), abs=1e-5)


def test_blocks_lie_between_joints_that_stray() -> None:
    """The block of a row is the last whose joint lies before the place, of all joints around the tile."""
    rows, columns, aspect = 5, 4, 0.5
    chance = np.random.default_rng(1)
    shifts, stray = chance.random(rows, np.float32), (chance.random((rows, columns), np.float32) - 0.5) * 0.8
    places = some_places()
    found = Elements.level(len(places))
    find_blocks(across_seam(places), Blocks(shifts, stray, rows / aspect, 0.0), found)
    for k, (u, v) in enumerate(places.astype(float)):
        row = min(int(v * rows), rows - 1)
        joints = sorted(
            ((i + shifts[row] + stray[row, i]) / columns + turn, i)
            for i in range(columns)
            for turn in (-2, -1, 0, 1, 2)
        )
        before = max(n for n, (at, _) in enumerate(joints) if at <= u)
        left, right = u - joints[before][0], joints[before + 1][0] - u
        top = v * aspect - row * aspect / rows
        assert found.inward[k] == pytest.approx(min(left, right, top, aspect / rows - top), abs=1e-5)
        if min(left, right, top) > 1e-5:
            assert found.number[k] == row * columns + joints[before][1]


def test_stones_lie_in_the_lowest_fan_that_reaches_a_place() -> None:
    columns, rows, rings = 2, 6, 4
    radius = 0.7072 / columns
    laid = Fans(
        np.zeros((columns * rows * rings, 20), np.float32), columns, rows, rings, radius, float(rows), 0.0
    )
    places = some_places()
    found = Elements.level(len(places))
    find_stones(across_seam(places), laid, found)
    assert np.mean(found.inward <= 1e-5) < 0.02  # hardly any place lies on a joint, and none is bare
    for k, (u, v) in enumerate(places.astype(float)):
        covering = []
        for step in range(-rows, 2 * rows):
            for i in range(-2 * columns, 3 * columns):
                middle_u, middle_v = (i + 0.5 + 0.5 * (step % 2)) / columns, step / rows
                away, below = u - middle_u, middle_v - v
                if below >= 0 and np.hypot(away, below) < radius and abs(away) <= 0.5 / columns:
                    covering.append((step, (step % rows) * columns + i % columns, np.hypot(away, below)))
        if found.inward[k] <= 1e-5:
            continue  # on a joint
        _, fan, far = max(covering)
        assert found.number[k] // 20 == fan * rings + int(far / (radius / rings))
        ring = int(far / (radius / rings))
        assert found.v[k] == pytest.approx(far / (radius / rings) - ring, abs=1e-3)


@pytest.mark.parametrize("jitter", [0.0, 0.9])
def test_dots_are_the_nearest_of_all(jitter: float) -> None:
    columns, rows = 4, 6
    chance = np.random.default_rng(2)
    stray = (chance.random((2, rows, columns), np.float32) - 0.5) * np.float32(0.6 * jitter)
    size = np.full((rows, columns), 0.3, np.float32)
    laid = Laid(*stray, size, np.float32(0.5), np.float32(0.1), float(rows))
    places = some_places()
    found = Elements.level(len(places))
    find_dots(across_seam(places), laid, jitter > 0, found)
    j, i = np.mgrid[-1 : rows + 1, -2 : columns + 2]
    row, column = j % rows, i % columns
    u = (i + 0.5 + 0.5 * (row % 2) + stray[0][row, column]) / columns
    v = (j + 0.5 + stray[1][row, column]) / rows
    away = np.hypot(places[:, :1] - u.ravel(), places[:, 1:] - v.ravel())
    assert np.abs(found.inward - (0.03 - away.min(axis=1))).max() < 1e-5
    clear = np.diff(np.sort(away, axis=1)[:, :2])[:, 0] > 1e-5
    assert np.array_equal(found.number[clear], (row * columns + column).ravel()[away.argmin(axis=1)][clear])


def test_hexagons_are_the_nearest_of_all_middles() -> None:
    columns, rows, rise = 5, 6, np.sqrt(3) / 2
    places = some_places()
    found = Elements.level(len(places))
    find_hexagons(across_seam(places), columns, rows, 1.0, found)
    j, i = np.mgrid[-2 : rows + 2, -2 : columns + 2]
    x, y = i + 0.5 * (j % 2) + 0.25, j * rise
    away = np.hypot(places[:, :1] * columns - x.ravel(), places[:, 1:] * rows * rise - y.ravel())
    clear = np.diff(np.sort(away, axis=1)[:, :2])[:, 0] > 1e-4
    wanted = ((j % rows) * columns + i % columns).ravel()[away.argmin(axis=1)]
    assert np.array_equal(found.number[clear], wanted[clear])
    assert found.inward.min() > -1e-4


def test_strands_and_herringbone_fill_the_tile_with_blocks_of_their_size() -> None:
    """Each number covers its share of the tile; the distance inward is that to the nearest other number."""
    size = 240
    v, u = (np.mgrid[0:size, 0:size] + 0.5) / size
    places = np.stack([u, v], axis=-1).reshape(-1, 2).astype(np.float32)
    basket, bones = Elements.level(len(places)), Elements.level(len(places))
    find_strands(across_seam(places), 4, 4, 3, 4.0, np.float32(0), np.float32(0), basket)
    find_herringbone(across_seam(places), 12, 12, 3, 12.0, 0.0, bones)
    for found, area in ((basket, 1 / 48), (bones, 3 / 144)):
        _, counts = np.unique(found.number, return_counts=True)
        assert np.allclose(counts / size**2, area)
        number, inward = found.number.reshape(size, size), found.inward.reshape(size, size)
        for y, x in ((7, 11), (100, 31), (239, 0), (50, 203), (121, 119)):
            others = np.argwhere(np.tile(number, (3, 3)) != number[y, x]) - size - (y, x)
            assert inward[y, x] == pytest.approx(np.hypot(*others.T).min() / size, abs=1.5 / size)


@pytest.mark.parametrize("shape", [0.01, 0.6, 1.0, 5.0])
def test_cracks_are_as_deep_as_their_definition(shape: float) -> None:
    """Also where they end, with no width, and where they are thinner than a sample."""
    chance = np.random.default_rng(6)
    away, half, sample = chance.uniform(0, 0.03, (3, 9, 21)).astype(np.float32)
    half[::3], away[::2, ::2], sample[:, ::4] = 0, 0, 1e-4
    mask, profile = np.empty((2, 9, 21), np.float32)
    sink_crack_rows(away, half, sample, np.float32(shape), mask, profile)
    away, half, sample = (map.astype(np.float64) for map in (away, half, sample))
    share = np.clip((half - away) / sample + 0.5, 0, np.minimum(1, 2 * half / sample))
    assert mask == pytest.approx(share, abs=1e-5)
    rise = np.clip(away / np.maximum(half, 1e-7), 0, 1) ** shape
    assert profile == pytest.approx(1 - share * (1 - rise), abs=2e-5)
