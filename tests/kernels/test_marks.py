"""Marks that show points and paths, against every sample's distance to every dot."""

from itertools import pairwise

import numpy as np
import pytest

from reedloom.kernels.marks import draw_courses, draw_marks, raise_dots
from reedloom.kernels.points import POINT, VERTEX

SIZES = [(24, 16), (17, 33), (5, 4)]


def covered(x: np.ndarray, y: np.ndarray, radius: np.ndarray, tone: np.ndarray, size: tuple[int, int]):
    """The highest dot over each sample, looked for among all dots and their repeats."""
    width, height = size
    out = np.zeros((height, width))
    middles = np.stack(np.meshgrid(np.arange(width) + 0.5, np.arange(height) + 0.5), axis=-1)
    for turn_x in range(-3, 4):
        for turn_y in range(-3, 4):
            around = np.stack([x % width + turn_x * width, y % height + turn_y * height], axis=-1)
            far = np.linalg.norm(middles[:, :, None] - around, axis=-1)
            out = np.maximum(out, (np.clip(radius + 0.5 - far, 0, 1) * tone).max(axis=-1))
    return out


@pytest.mark.parametrize("size", SIZES)
def test_dots_are_round_and_go_around_the_tile(size: tuple[int, int]) -> None:
    chance = np.random.default_rng(size[0])
    x, y = (chance.uniform(-2 * side, 2 * side, 40) for side in size)
    x[:8], y[:8] = np.round(x[:8]), np.round(y[:8] * 2) / 2
    radius, tone = chance.uniform(0.2, 4, 40), chance.uniform(0.1, 1, 40)
    out = np.zeros(size[::-1], np.float32)
    raise_dots(x, y, radius, tone, out)
    assert np.abs(out - covered(x, y, radius, tone, size)).max() < 1e-6


@pytest.mark.parametrize("size", SIZES)
def test_a_course_is_dots_from_corner_to_corner_of_each_path(size: tuple[int, int]) -> None:
    chance = np.random.default_rng(size[1])
    paths = np.zeros(9, VERTEX)
    paths["path"] = [0, 0, 0, 1, 2, 2, 2, 2, 3]
    paths["u"], paths["v"] = chance.uniform(-1, 2, 9), chance.uniform(-1, 2, 9)
    paths["width"], paths["height"] = chance.uniform(0, 5, 9), chance.uniform(-1, 2, 9)
    dots = []
    for here, after in pairwise(paths):
        way = np.array([after["u"] - here["u"], after["v"] - here["v"]]) * size
        count = max(1, int(np.ceil(np.hypot(*way) * 1.5)))
        if here["path"] == after["path"]:
            broad, high = np.clip(0.9 * here["width"], 0.3, 3), np.clip(here["height"], 0.25, 1)
            start = np.array([here["u"], here["v"]]) * size
            dots += [(*(start + way * k / count), broad, high) for k in range(count)]
    x, y, radius, tone = np.array(dots).T
    assert np.abs(draw_courses(paths, *size) - covered(x, y, radius, tone, size)).max() < 1e-5
    assert draw_courses(paths[-1:], *size).max() == draw_courses(paths[:0], *size).max() == 0


def test_a_mark_faces_where_its_point_does() -> None:
    one = np.zeros(1, POINT)
    one["u"], one["v"], one["size"], one["tone"] = 0.5, 0.5, 1, 1
    for turn, towards in ((0, (1, 0)), (90, (0, 1)), (225, (-1, -1))):
        one["turn"] = turn
        shown = draw_marks(one, 64, 64)
        j, i = np.indices(shown.shape) + 0.5
        lean = [(shown * (i - 32)).sum(), (shown * (j - 32)).sum()]
        assert np.allclose(lean / np.hypot(*lean), towards / np.hypot(*towards), atol=1e-3)
