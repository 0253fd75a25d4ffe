"""Noise read several times in those samples for which it is fine, against each sample by itself."""

import numpy as np
import pytest

from reedloom.kernels.places import WAYS, count_reads, spread_places, tile_places
from reedloom.kernels.reach import measure_reach
from reedloom.kernels.splitting import Band, Fineness, add_where_fine, in_order, put_means

WIDTH, HEIGHT = 96, 64


def places_of_sorts(inside: float) -> np.ndarray:
    """Places of which some jump, some are squeezed and the others lie as on the tile's grid."""
    place = tile_places(WIDTH, HEIGHT).copy()
    place[:, 50:] *= np.float32(inside)
    place[20:40, 10:30] += np.float32([0.37, 0.21])
    return place


def add_waves(amount: float, out: np.ndarray, band: Band) -> None:
    """A noise made of what a band tells: its places, what they reach and how they have evolved."""
    assert band.evolution is not None
    u, v = np.moveaxis(band.places(), -1, 0)
    out += np.float32(amount) * (np.sin(40 * u) + np.cos(25 * v) + 9 * band.footprint + band.evolution)


@pytest.mark.parametrize("inside", [1.0, 3.0, 0.1])
@pytest.mark.parametrize("cells", [6.0, 20.0, 45.0])
def test_each_sample_is_the_mean_of_its_readings(cells: float, inside: float) -> None:
    place = places_of_sorts(inside)
    reach = measure_reach(place, lambda band, **_: band(0, HEIGHT))
    evolution = np.random.default_rng(3).random((HEIGHT, WIDTH), np.float32)
    fineness = Fineness(cells, 0.7 * cells, cells, 2.0 / cells)
    y0, y1 = 16, 48
    footprint, least, most = reach.band(y0, y1)
    band = Band(WIDTH, HEIGHT, y0, y1, place[y0:y1], footprint, evolution[y0:y1], place, least, most)
    before = np.random.default_rng(4).random((y1 - y0, WIDTH), np.float32)
    out = before.copy()
    add_where_fine(add_waves, 0.7, out, band, fineness)
    codes = np.empty(out.shape, np.uint8)
    count_reads(place, y0, footprint, tuple(fineness), codes)
    assert cells < 10 or codes.any()
    for y, x in np.ndindex(out.shape):
        code = int(codes[y, x])
        where = np.empty((WAYS[code & 3], 1, WAYS[code >> 2 & 3], 2), np.float32)
        spread_places(place, np.array([y + y0]), np.array([x]), where)
        u, v = np.moveaxis(where, -1, 0)
        covered = footprint[y, x] / 2 ** (code >> 4)
        read = np.sin(40 * u) + np.cos(25 * v) + 9 * covered + evolution[y + y0, x]
        assert out[y, x] == pytest.approx(before[y, x] + 0.7 * read.mean(), abs=1e-5), (y, x)


def test_samples_of_one_code_stay_as_they_lie() -> None:
    codes = np.random.default_rng(1).integers(0, 48, (30, 21)).astype(np.uint8)
    order, ends = in_order(codes, 48)
    expected = np.argsort(codes.reshape(-1), kind="stable")
    assert (order[0] * 21 + order[1] == expected).all()
    assert (ends == np.cumsum(np.bincount(codes.reshape(-1), minlength=48))).all()


@pytest.mark.parametrize("added", [True, False])
def test_means_are_put_or_added(added: bool) -> None:
    fine = np.arange(2 * 3 * 4, dtype=np.float32).reshape(2, 3, 4)
    out, ys, xs = np.full((4, 5), 7, np.float32), np.array([0, 3, 1]), np.array([4, 0, 2])
    put_means(fine, ys, xs, added, out)
    assert out[ys, xs] == pytest.approx(fine.mean(axis=(0, 2)) + 7 * added)
    assert (out == 7).sum() == 17
