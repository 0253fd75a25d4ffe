"""Scattered points against darts thrown one by one and measured against every point there is."""

import itertools

import numpy as np
import pytest

from reedloom.kernels.scatter import SHRINK, THROWS, scatter, thin_out

MASK = 2**64 - 1


def chance_of(seed: int, index: int) -> float:
    """SplitMix64's finaliser (G. Steele, D. Lea, C. Flood 2014), as a number from 0 to 1."""
    h = ((seed << 32) ^ index) + 0x9E3779B97F4A7C15 & MASK
    h = (h ^ (h >> 30)) * 0xBF58476D1CE4E5B9 & MASK
    h = (h ^ (h >> 27)) * 0x94D049BB133111EB & MASK
    return ((h ^ (h >> 31)) >> 11) * 2.0**-53


def apart(a: tuple[float, float], b: tuple[float, float], aspect: float) -> float:
    """The distance around the tile, in widths."""
    du, dv = (min(abs(p - q), 1 - abs(p - q)) for p, q in zip(a, b, strict=True))
    return float(np.hypot(du, dv * aspect))


def thrown(seed: int, count: int, spacing: float, aspect: float) -> list[tuple[float, float]]:
    """What `scatter` says it does."""
    points: list[tuple[float, float]] = []
    radii = itertools.takewhile(lambda radius: radius > spacing, (0.5 * SHRINK**n for n in itertools.count()))
    dart = 0
    for radius in (*radii, spacing):
        if len(points) >= count:
            break
        for _ in range(int(THROWS * aspect / radius**2) + 8):
            if len(points) >= count:
                break
            place = chance_of(seed, 2 * dart), chance_of(seed, 2 * dart + 1)
            dart += 1
            if all(apart(place, other, aspect) >= radius for other in points):
                points.append(place)
    return points


@pytest.mark.parametrize("aspect", [1.0, 2.0, 0.35])
@pytest.mark.parametrize(("count", "spacing"), [(3, 0.4), (40, 0.11), (150, 0.06)])
def test_scattered_points_are_the_darts_that_are_free(count: int, spacing: float, aspect: float) -> None:
    expected = thrown(count + 7, count, spacing, aspect)
    u, v = scatter(count + 7, count, spacing, lambda: None, aspect)
    assert 1 < len(expected) == len(u)
    assert np.allclose(np.stack([u, v], axis=1), expected, atol=1e-12)


@pytest.mark.parametrize("aspect", [1.0, 2.0, 0.35])
@pytest.mark.parametrize("distance", [0.02, 0.2, 0.45])
def test_points_are_thinned_out_in_their_order(distance: float, aspect: float) -> None:
    u, v = np.random.default_rng(3).uniform(0, 1, (2, 120))
    u[:6], v[3:9] = (0, 1 - 1e-9, 0, 0.5, 1 - 1e-9, 0.25), (0, 1 - 1e-9, 0, 0.5, 1 - 1e-9, 0.75)
    kept: list[tuple[float, float]] = []
    expected = []
    for place in zip(u, v, strict=True):
        expected.append(all(apart(place, other, aspect) >= distance for other in kept))
        kept += [place] if expected[-1] else []
    assert thin_out(u, v, distance, aspect).tolist() == expected
    assert 1 <= sum(expected) < 120
