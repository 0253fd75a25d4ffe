"""Loops over corners of paths, against the same said in NumPy, a path at a time."""

import math

import numpy as np
import pytest

from reedloom.kernels.path_loops import (
    divide_each,
    fill_normals,
    lay_evenly,
    lay_in_samples,
    lay_strands,
    run_along,
    turn_along,
)
from reedloom.kernels.points import VERTEX, neighbours_of, starts_of

ASPECTS = (1.0, 0.4, 2.0)


def some_paths(seed: int) -> np.ndarray:
    """Paths of one to nine corners, some closed, far over the tile's edges."""
    chance = np.random.default_rng(seed)
    parts = []
    for number, count in enumerate((5, 1, 9, 2, 4, 1)):
        part = np.zeros(count, VERTEX)
        part["path"], part["id"] = number, number * 7 + 1
        for name in ("u", "v"):
            part[name] = chance.uniform(-3, 3) + np.cumsum(chance.uniform(-0.3, 0.3, count))
        part["width"], part["height"] = chance.uniform(0, 2, count), chance.uniform(-1, 1, count)
        if count > 4:  # closed, a tile further on for the longest
            part["u"][-1], part["v"][-1] = part["u"][0] + (count > 5), part["v"][0]
        parts.append(part)
    return np.concatenate(parts)


def each(paths: np.ndarray) -> list[np.ndarray]:
    return np.split(paths, starts_of(paths)[1:-1])


@pytest.mark.parametrize("aspect", ASPECTS)
def test_corners_are_as_far_along_as_the_pieces_before_them_are_long(aspect: float) -> None:
    paths = some_paths(1)
    starts = starts_of(paths)
    run, lengths = np.empty(len(paths)), np.empty(len(starts) - 1)
    run_along(paths, starts, aspect, run, lengths)
    expected = [
        np.concatenate([[0], np.cumsum(np.hypot(np.diff(part["u"]), np.diff(part["v"]) * aspect))])
        for part in each(paths)
    ]
    assert np.allclose(run, np.concatenate(expected), atol=1e-12)
    assert np.allclose(lengths, [part[-1] for part in expected], atol=1e-12)
    divide_each(run, starts, lengths)
    for share, part in zip(np.split(run, starts[1:-1]), expected, strict=True):
        assert np.allclose(share, part / (part[-1] or 1), atol=1e-9)


def test_even_corners_lie_on_the_path_as_far_along_as_they_are_counted() -> None:
    paths = some_paths(7)
    paths[2] = paths[1]  # a piece of no length
    paths["u"][15:17], paths["v"][15:17] = paths["u"][15], paths["v"][15]  # and a path
    starts = starts_of(paths)
    run, lengths = np.empty(len(paths)), np.empty(len(starts) - 1)
    run_along(paths, starts, 2.0, run, lengths)
    counts = np.array([7, 2, 20, 3, 2, 4])
    even = np.empty(counts.sum(), VERTEX)
    lay_evenly(paths, starts, run, np.cumsum(counts), even)
    along = np.split(run, starts[1:-1])
    for part, gone, made in zip(each(paths), along, np.split(even, np.cumsum(counts)[:-1]), strict=True):
        at = np.linspace(0, gone[-1], len(made))
        for name in ("u", "v", "width", "height"):
            assert np.allclose(made[name], np.interp(at, gone, part[name]), atol=1e-6), name
        assert (made["id"] == part["id"][0]).all() and (made["path"] == part["path"][0]).all()


def test_what_winds_turns_evenly_along_each_path() -> None:
    paths = some_paths(8)
    starts = starts_of(paths)
    run, lengths = np.empty(len(paths)), np.empty(len(starts) - 1)
    run_along(paths, starts, 1.0, run, lengths)
    turns, begin = np.array([3.0, 1.0, -2.0, 5.0, 1.0, 1.0]), np.linspace(0, 0.9, 6)
    turned = np.empty((2, len(paths)))
    turn_along(run, starts, turns, begin, turned)
    counts = np.diff(starts)
    share = run / np.repeat(np.maximum(lengths, 1e-12), counts)
    angle = 2 * math.pi * (np.repeat(turns, counts) * share + np.repeat(begin, counts))
    assert np.allclose(turned, [np.cos(angle), np.sin(angle)], atol=1e-9)


def test_corners_in_samples_lie_on_the_tile_where_their_path_begins() -> None:
    paths, size = some_paths(2), (40, 24)
    starts = starts_of(paths)
    radius = np.random.default_rng(3).uniform(0, 6, len(paths))
    places, reach = np.empty((2, len(paths)), np.float32), np.empty((2, len(starts) - 1), np.float32)
    lay_in_samples(paths, starts, radius, size, places, reach)
    for n, part in enumerate(each(paths)):
        here = slice(starts[n], starts[n + 1])
        for axis, name in enumerate(("u", "v")):
            first = part[name][0]
            expected = (part[name] - math.floor(first)) * size[axis]
            assert np.allclose(places[axis, here], expected, atol=1e-4)
            assert 0 <= places[axis, starts[n]] <= size[axis]
        y = (part["v"] - math.floor(part["v"][0])) * size[1]
        assert np.allclose(
            reach[:, n], [(y - radius[here]).min() - 2, (y + radius[here]).max() + 2], atol=1e-4
        )


@pytest.mark.parametrize("aspect", ASPECTS)
def test_normals_are_square_to_the_line_between_neighbours(aspect: float) -> None:
    paths = some_paths(4)
    (before, after), moved = neighbours = neighbours_of(paths, starts_of(paths))
    normals = np.empty((len(paths), 2))
    fill_normals(paths, *neighbours, aspect, normals)
    at = np.stack([paths["u"], paths["v"]], axis=1)
    along = (at[after] + moved[1] - at[before] - moved[0]) * [1, aspect]
    far = np.hypot(*along.T) > 0
    assert np.allclose((normals * along).sum(axis=1), 0, atol=1e-12)
    assert np.allclose(np.hypot(*normals[far].T), 1) and far.sum() > 15
    to_the_right = along[:, 0] * normals[:, 1] - along[:, 1] * normals[:, 0]
    assert (to_the_right[far] > 0).all()  # v runs downwards


@pytest.mark.parametrize("braided", [False, True])
def test_strands_go_around_each_corner(braided: bool) -> None:
    paths, strands = some_paths(5), 3
    chance = np.random.default_rng(6)
    normals, angle = chance.uniform(-0.1, 0.1, (len(paths), 2)), chance.uniform(0, 9, len(paths))
    aside = 0.3 * paths["width"] * normals.T / [[1], [2]]
    begins = 2 * math.pi * np.arange(strands) / strands
    made = np.empty((strands, len(paths)), VERTEX)
    turned, starting = (np.stack([np.cos(a), np.sin(a)]) for a in (angle, begins))
    lay_strands(paths, normals, turned, starting, (braided, 0.3, 2.0, 0.7, 0.6), made)
    for strand, begin in enumerate(begins):
        out, above = np.cos(angle + begin), np.sin(angle + begin)
        if braided:
            above = np.sin(2 * (angle + begin))
        laid = made[strand]
        assert np.allclose(laid["u"], paths["u"] + aside[0] * out, atol=1e-12)
        assert np.allclose(laid["v"], paths["v"] + aside[1] * out, atol=1e-12)
        assert np.allclose(laid["height"], paths["height"] * (1 - 0.3 * (1 - above)), atol=1e-6)
        assert np.allclose(laid["width"], paths["width"] * np.float32(0.7), atol=1e-6)
        assert (laid["id"] == paths["id"] * strands + strand).all()
        assert (laid["path"] == paths["path"] * strands + strand).all()
