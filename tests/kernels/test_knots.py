"""Curves through knots, against the pyramid of means that defines them."""

from __future__ import annotations

import numpy as np
import pytest

from reedloom.kernels.knots import through_knots
from reedloom.kinds.path.drawn_path import knots_of
from reedloom.kit.parameters import DrawnPaths

PARAMETER = DrawnPaths("paths", (), help="Paths.")


def corners_of(paths: object, aspect: float = 1.0) -> tuple[np.ndarray, np.ndarray]:
    """The corners through the knots of drawn paths, and the knot that each comes after."""
    return through_knots(*knots_of(PARAMETER.check(paths)), aspect)


def pyramid(points: np.ndarray, t: np.ndarray) -> np.ndarray:
    """The piece from the second to the third of four points, as Barry and Goldman (1988) evaluate it."""
    k = np.concatenate([[0], np.cumsum(np.sqrt(np.linalg.norm(np.diff(points, axis=0), axis=1)))])
    s = (k[1] + t * (k[2] - k[1]))[:, None]

    def mean(a: np.ndarray, b: np.ndarray, i: int, j: int) -> np.ndarray:
        return ((k[j] - s) * a + (s - k[i]) * b) / (k[j] - k[i])

    one = [mean(points[i], points[i + 1], i, i + 1) for i in range(3)]
    two = [mean(one[i], one[i + 1], i, i + 2) for i in range(2)]
    return mean(two[0], two[1], 1, 2)


@pytest.mark.parametrize("aspect", [1.0, 0.5, 2.0])
def test_inner_pieces_are_centripetal_splines(aspect: float) -> None:
    knots = np.random.default_rng(3).random((7, 2))
    corners, knot = corners_of([knots.tolist()], aspect)
    at = np.stack([corners["u"], corners["v"] * aspect], axis=1)
    for k in range(1, 5):
        mine = at[knot == k]
        t = np.arange(len(mine)) / len(mine)
        wanted = pyramid(knots[k - 1 : k + 3] * [1, aspect], t)
        assert np.abs(mine - wanted).max() < 1e-6


def test_sharp_knots_have_straight_pieces_between_them_and_evenly_laid_corners() -> None:
    corners, knot = corners_of([[(0.1, 0.1, 1), (0.5, 0.3, 1), (0.6, 0.9, 1)]])
    first = corners[knot == 0]
    share = np.arange(len(first)) / len(first)
    assert first["u"] == pytest.approx(0.1 + 0.4 * share) and first["v"] == pytest.approx(0.1 + 0.2 * share)


def test_a_closed_path_runs_on_smoothly_where_it_closes_also_over_the_seam() -> None:
    around = [(0.3, 0.3), (0.7, 0.35), (0.6, 0.7), (0.3, 0.3)]
    across = [(0.2, 0.4), (0.6, 0.6), (1.2, 0.4)]
    moved = [(u + 0.4, v - 0.3) for u, v in across]
    for path in (around, across):
        corners, _ = corners_of([path])
        at = np.stack([corners["u"], corners["v"]], axis=1)
        way = [4 * at[1] - 3 * at[0] - at[2], 3 * at[-1] - 4 * at[-2] + at[-3]]
        cosine = way[0] @ way[1] / np.linalg.norm(way[0]) / np.linalg.norm(way[1])
        assert cosine > 0.9999
        assert (corners["u"][-1] - corners["u"][0]) % 1 == 0
    here, there = corners_of([across])[0], corners_of([moved])[0]
    assert there["u"] - here["u"] == pytest.approx(0.4) and there["v"] - here["v"] == pytest.approx(-0.3)


def test_width_and_height_meet_their_knots_and_never_swing_beyond_them() -> None:
    chance = np.random.default_rng(5)
    path = [(*chance.random(2), 0.0, *chance.random(2)) for _ in range(9)]
    corners, knot = corners_of([path])
    for name, column in (("width", 3), ("height", 4)):
        wanted = np.array([k[column] for k in path])
        for k in range(8):
            mine = corners[name][knot == k]
            assert mine[0] == pytest.approx(wanted[k], abs=1e-6)
            low, high = sorted(wanted[k : k + 2])
            assert low - 1e-6 <= mine.min() and mine.max() <= high + 1e-6


def test_pieces_are_fine_enough_for_the_largest_maps() -> None:
    coarse, knot = corners_of([[(0.0, 0.5), (0.25, 0.1), (0.75, 0.9), (1.0, 0.5)]])
    at = np.stack([coarse["u"], coarse["v"]], axis=1)[knot == 1]
    # A piece lies a quarter as far from the curve as a piece twice as long would.
    sag = np.linalg.norm((at[:-2] + at[2:]) / 2 - at[1:-1], axis=1)
    assert sag.max() / 4 < 1.5 / 32768


def test_paths_of_a_single_knot_or_of_none_lay_nothing() -> None:
    assert len(corners_of([])[0]) == 0 and len(corners_of([[(0.5, 0.5)]])[0]) == 0
    corners, _ = corners_of([[(0.5, 0.5)], [(0.1, 0.1), (0.1, 0.1)], [(0.2, 0.2), (0.4, 0.4)]])
    assert set(corners["path"]) == {1, 2} and np.isfinite(corners["u"]).all()
