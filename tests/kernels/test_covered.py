"""What samples cover of a map that is read at given places, against readings one by one."""

from __future__ import annotations

import numpy as np
import pytest

from reedloom.kernels import pyramid
from reedloom.kernels.places import tile_places
from reedloom.kernels.pyramid import Pyramid, read_covered
from reedloom.kernels.reading import read_at
from reedloom.kernels.resize import halved
from reedloom.kit.context import Context
from resampled import linear_reference

CHANCE = np.random.default_rng(12)


def covered_reference(map: np.ndarray, place: np.ndarray) -> np.ndarray:
    """What samples cover of a map: each by itself the mean of readings that are spread over it."""
    sizes, sides = [map], np.array(map.shape[1::-1], float)
    while sizes[-1].shape[:2] != (1, 1):
        sizes.append(halved(sizes[-1]))
    out = read_at(Context(*place.shape[1::-1]).bands, map, place, "linear")
    here = place.astype(float)

    def way(axis: int) -> np.ndarray:
        back, on = here - np.roll(here, 1, axis), np.roll(here, -1, axis) - here
        back, on = back - np.round(back), on - np.round(on)
        return np.where(np.abs(back) < np.abs(on), back, on)

    across, along = way(1), way(0)
    for y, x in np.ndindex(place.shape[:2]):
        ways = across[y, x], along[y, x]
        lengths = [np.linalg.norm(one * sides) for one in ways]
        if not max(lengths) > 1.01:
            continue
        level = min(int(np.log2(max(1, min(lengths) / 2, max(lengths) / 16))), len(sizes) - 1)
        part, stops = 2.0**level, []
        for one, length in zip(ways, lengths, strict=True):
            count = max(1, int(np.ceil(length / part)))
            span = np.sqrt(max(length**2 - part**2, 0) / (count**2 - 1)) / length if count > 1 else 0
            stops.append((np.arange(count) - (count - 1) / 2)[:, None] * span * one)
        at = here[y, x] + stops[0] + stops[1][:, None]
        out[y, x] = linear_reference(sizes[level], at).mean(axis=(0, 1))
    return out


@pytest.mark.parametrize("channels", [1, 3])
@pytest.mark.parametrize("size", [(64, 64), (32, 64), (40, 24)])
@pytest.mark.parametrize("times", [(1.3, 0.6), (2.5, 2.5), (0.4, 9.0), (19.0, 1.7), (70.0, 60.0)])
def test_what_a_sample_covers_is_the_mean_of_readings_spread_over_it(
    times: tuple[float, float], size: tuple[int, int], channels: int
) -> None:
    """Turned, with a jump across and a stretch that stands still; to the ends of what a map can shrink."""
    height, width = size
    map = CHANCE.random((height, width, channels), np.float32)
    turned = tile_places(37, 29) @ np.array([[0.9, 0.5], [-0.5, 0.9]], np.float32)
    scale = np.array(times, np.float32) * np.float32([37 / width, 29 / height])
    place = np.ascontiguousarray(turned * scale, np.float32)
    place[:, 20:] += np.float32(0.37)
    place[6:11, 4:9] = place[6, 4]
    got = read_covered(Context(37, 29).bands, map, place, "linear")
    assert np.abs(got - covered_reference(map, place)).max() < 1e-3


@pytest.mark.parametrize("sign", [1, -1])
def test_a_place_that_is_no_number_hides_none_that_shrinks(
    sign: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(pyramid, "empty_map", lambda shape: np.full(shape, 77, np.float32))
    map, bands = CHANCE.random((64, 64, 1), np.float32), Context(64, 64).bands
    place = tile_places(64, 64) * np.float32(3)
    wanted = read_covered(bands, map, place, "linear")
    place[10, 20] = np.copysign(np.float32(np.nan), sign)
    got = read_covered(bands, map, place, "linear")
    near = np.zeros((64, 64), bool)
    near[9:12, 19:22] = True
    assert np.array_equal(got[~near], wanted[~near])
    assert np.array_equal(got[10, 20], read_at(bands, map, place, "linear")[10, 20], equal_nan=True)


@pytest.mark.parametrize("how", ["linear", "cubic"])
@pytest.mark.parametrize("angle", [0.3, 1.9, 3.0])
def test_a_map_that_is_only_turned_is_read_and_not_averaged(
    angle: float, how: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Its places are rounded, so that samples seem to cover a hair more than one or less."""
    c, s = np.cos(angle), np.sin(angle)
    place = (tile_places(96, 96) @ np.array([[c, s], [-s, c]])).astype(np.float32)
    place -= np.floor(place)
    map, bands = CHANCE.random((96, 96), np.float32), Context(96, 96).bands
    monkeypatch.setattr(Pyramid, "of", lambda *_: pytest.fail("it was averaged"))
    assert np.array_equal(read_covered(bands, map, place, how), read_at(bands, map, place, how))
