"""Distances to outlines of straight pieces, and places seen around a middle, against their definitions."""

from __future__ import annotations

import numpy as np
import pytest

from reedloom.kernels.outlines import Pieces, outline_distance
from reedloom.kernels.polar import seen_around


def blob(corners: int, seed: int) -> np.ndarray:
    """An outline around the middle, some of whose pieces are far longer than others."""
    chance = np.random.default_rng(seed)
    turn = np.sort(chance.random(corners)) * 2 * np.pi
    return (0.15 + 0.2 * chance.random((corners, 1))) * np.stack([np.cos(turn), np.sin(turn)], axis=1)


def by_definition(outline: np.ndarray, u: np.ndarray, v: np.ndarray, copies: np.ndarray) -> np.ndarray:
    """The least signed distance to all pieces of all copies, sides told by the angles that pieces span."""
    least = np.full(u.shape, np.inf)
    for copy in copies:
        a = outline + copy
        b = np.roll(a, -1, axis=0)
        p = np.stack([u, v], axis=-1)[..., None, :].astype(np.float64)
        t = np.clip(((p - a) * (b - a)).sum(-1) / ((b - a) ** 2).sum(-1), 0, 1)
        away = np.linalg.norm(p - a - t[..., None] * (b - a), axis=-1).min(axis=-1)
        cross = (a - p)[..., 0] * (b - p)[..., 1] - (a - p)[..., 1] * (b - p)[..., 0]
        spanned = np.arctan2(cross, ((a - p) * (b - p)).sum(-1)).sum(axis=-1)
        least = np.minimum(least, np.where(np.abs(spanned) > 3, -away, away))
    return least


@pytest.mark.parametrize("corners", [3, 40])
@pytest.mark.parametrize(
    ("width", "middle"),
    [(2.0, (0.0, 0.0)), (0.4, (0.1, 0.2)), (0.3, (1.5, -0.9)), (0.02, (0.31, 0.0)), (1e-4, (0.4, 0.3))],
    ids=["all", "at the edge", "far away", "close by", "tiny"],
)
def test_places_that_lie_together_have_the_distance_by_definition(
    corners: int, width: float, middle: tuple[float, float]
) -> None:
    """Blocks of them leave out the pieces that are nearest to none; sizes that fill no block among them."""
    outline = blob(corners, seed=corners)
    copies = np.array([(0, 0), (1, 0), (-1, 0), (0.2, 1)], np.float32)
    across, down = (
        np.linspace(m - width / 2, m + width / 2, n) for m, n in zip(middle, (53, 37), strict=True)
    )
    u, v = (np.ascontiguousarray(a, np.float32) for a in np.meshgrid(across, down))
    got = outline_distance(Pieces.of(outline), u, v, copies)
    assert np.abs(got - by_definition(outline, u, v, copies)).max() < 3e-6


def test_places_that_lie_anywhere_have_the_distance_by_definition() -> None:
    outline, copies = blob(40, seed=3), np.zeros((1, 2), np.float32)
    u, v = np.random.default_rng(3).uniform(-0.6, 0.6, (2, 40, 50)).astype(np.float32)
    got = outline_distance(Pieces.of(outline), u, v, copies)
    assert np.abs(got - by_definition(outline, u, v, copies)).max() < 3e-6


@pytest.mark.parametrize("far", [0.0, 0.03, 0.2])
def test_distances_outside_are_told_up_to_a_limit(far: float) -> None:
    u, v = (a.astype(np.float32) for a in np.meshgrid(np.linspace(-1, 1, 90), np.linspace(-1, 1, 70)))
    pieces, copies = Pieces.of(blob(30, seed=5)), np.array([(0, 0), (0.9, 0.3)], np.float32)
    whole = outline_distance(pieces, u, v, copies)
    assert np.array_equal(outline_distance(pieces, u, v, copies, far), np.minimum(whole, np.float32(far)))


@pytest.mark.parametrize("aspect", [0.5, 1.0, 2.0])
def test_places_are_seen_around_a_middle(aspect: float) -> None:
    place = np.random.default_rng(1).uniform(-2, 2, (9, 37, 2)).astype(np.float32)
    place[0, :4] = [(0.25, 0.5), (0.2, 0.5), (0.3, 0.5), (0.25, 0.6)]  # the middle itself, and its axes
    radius, turn = seen_around(place, (0.25, 0.5), aspect)
    away = place.astype(np.float64) - (0.25, 0.5)
    away = (away - np.round(away)) * (1, aspect)
    assert np.allclose(radius, np.hypot(*np.moveaxis(away, -1, 0)), atol=1e-6)
    apart = turn - np.arctan2(away[..., 1], away[..., 0]) / (2 * np.pi)
    assert np.abs(apart - np.round(apart)).max() < 1e-5 and turn[0, 0] == 0
    assert turn.min() >= 0 and turn.max() < 1
