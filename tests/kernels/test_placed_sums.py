"""Sums of octaves at given places: what samples cover, tables made on the way, octaves apart and beside."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from placed import lay
from reedloom.kernels.lattice import Lattice
from reedloom.kernels.lattice_reads import NOT_GIVEN, RUN, Places
from reedloom.kernels.octaves import Layer, Reader
from reedloom.kernels.placed_sums import PlacedSum
from reedloom.kernels.places import tile_places
from reedloom.kernels.reach import measure_reach
from reedloom.laws.draws import smooth_map

SIZES = [(1, 1), (1, 9), (9, 1), (2, 2), (33, 14), (100, 7), (RUN + 21, 5)]


def bent(width: int, height: int) -> np.ndarray:
    """Places moved smoothly, that go around the tile and jump, across it and down, and at a run's end."""
    place = tile_places(width, height)
    for axis in (0, 1):
        place[..., axis] += np.float32(0.3) * smooth_map(width, height, axis) - np.float32(0.2)
    place[height // 2 :] += np.float32(0.4)
    place[:, width // 3 :] -= np.float32(0.3)
    place[:, RUN - 1 :] += np.float32(0.2)
    return place


def measured(place: np.ndarray, aspect: float) -> np.ndarray:
    return measure_reach(place, lambda band: band(0, len(place)), aspect).footprint


@pytest.mark.parametrize("aspect", [1.0, 0.5])
@pytest.mark.parametrize("size", SIZES)
def test_a_sum_finds_what_samples_cover(size: tuple[int, int], aspect: float) -> None:
    """As it is measured for a whole map, in bands that begin at odd rows, and in more than one run across."""
    place, octave = bent(*size), Lattice.of(4, 31, 17).corners_at_places(0.2)
    reach = measured(place, aspect)
    finest = 0.5 / max(float(np.median(reach)), 1e-6)  # so that some samples carry more of it than others
    whole = lay(octave, finest, place, reach)
    ends = sorted({0, min(1, size[1]), size[1] // 2, size[1]})
    bands = [lay(octave, finest, place, None, rows=rows, aspect=aspect) for rows in pairwise(ends)]
    assert np.abs(np.concatenate(bands) - whole).max() < 2e-4
    assert np.abs(whole).max() > 1e-3


@pytest.mark.parametrize("size", [(50, 40), (RUN + 21, 24)])
def test_octaves_are_laid_apart_summed_or_added(size: tuple[int, int]) -> None:
    place, counts = bent(*size), (3, 9, 40)
    octaves = [Lattice.of(number, cells, cells).corners_at_places(0.0) for number, cells in enumerate(counts)]
    fine = [(cells, cells, cells, 2.4 / cells) for cells in counts]
    amounts, reach = (1.0, -0.5, 0.25), measured(place, 1.0)
    apart = lay(octaves, fine, place, reach, amounts, apart=True)
    for octave, told, amount, got in zip(octaves, fine, amounts, apart, strict=True):
        assert np.array_equal(got, lay(octave, [told], place, reach, amount))
        assert np.abs(got).max() > 0.1 * abs(amount)
    assert lay(octaves, fine, place, reach, amounts, begin=2.0) == pytest.approx(
        2 + apart.sum(axis=0), abs=2e-6
    )


@pytest.mark.parametrize("cells", [5, 40, 2000])
def test_every_sample_begins_with_a_number_whatever_it_carries(cells: int) -> None:
    """Of an octave that all of a row, sixteen in it, or single ones carry nothing of."""
    place, reach = bent(52, 7), np.full((7, 52), 0.1 / cells, np.float32)
    reach[0], reach[2, 16:32], reach[4, 3:7], reach[5, 50:] = 1, 1, 1, 1
    octaves = [Lattice.of(number, cells, cells).corners_at_places(0.0) for number in (1, 2)]
    told = [(cells, cells, cells, 0.0)] * 2
    got = lay(octaves, told, place, reach, begin=2.0) - 2
    assert (got[reach == 1] == 0).all()
    each = [lay(octave, told[:1], place, reach) for octave in octaves]
    assert got == pytest.approx(sum(each), abs=1e-6)
    assert np.abs(got).max() > 0.2


@pytest.mark.parametrize("fine", [False, True])
@pytest.mark.parametrize("width", [5, 40])
def test_places_beside_others_are_a_share_of_what_is_covered_away(width: int, fine: bool) -> None:
    place, reach = bent(width, 12), np.full((12, width), 0.02, np.float32)
    if not fine:  # else samples are moved alike, which leaves what they cover as it is
        reach[:, ::3] = 0.0
    octave = Lattice.of(4, 13, 7).corners_at_places(0.2)
    told = [(13.0, 7.0, 13.0, 2.4 / 13 if fine else 0.0)]
    away = np.maximum(reach, 1e-5)[..., None] * np.array([0.5, -0.25], np.float32)
    got = lay(octave, told, place, reach, beside=(0.5, -0.25))
    assert got == pytest.approx(lay(octave, told, place + away, reach), abs=5e-5)
    assert np.abs(got - lay(octave, told, place, reach)).max() > 0.03


def test_tables_are_made_when_a_sample_is_come_to_that_needs_them(monkeypatch: pytest.MonkeyPatch) -> None:
    """Half-way through a band: what was laid before is not laid again."""
    size, made = 48, []
    place = tile_places(size, size)
    place[:, :, 0] = np.where(np.arange(size)[:, None] < 20, place[..., 0] * 7, place[..., 0])
    place[:, :, 1] = np.where(np.arange(size)[:, None] < 20, place[..., 1] * 7, place[..., 1])
    real = Lattice.corners_at_places
    monkeypatch.setattr(
        Lattice, "corners_at_places", lambda self, *a: (made.append(self.columns), real(self, *a))[1]
    )
    counts = (2, 40, 4000)
    lattices = [Lattice.of(number, cells, cells) for number, cells in enumerate(counts)]
    told = [(cells, cells, cells, 2.4 / cells) for cells in counts]
    total = PlacedSum(lattices, told, (1.0, 1.0, 1.0), 0.0, keep=False)
    where = Places(place, 0, np.float32(1), NOT_GIVEN, NOT_GIVEN, np.zeros(2, np.float32))
    out = np.ones((1, size, size), np.float32)
    total.lay(where, out)
    assert made == [2, 40]  # nothing is left of the third
    wanted = lay([real(lattice, 0.0) for lattice in lattices], told, place, None)
    assert out[0] == pytest.approx(1 + wanted, abs=1e-6)
    assert np.abs(wanted[:18] - lay(real(lattices[0], 0.0), told[:1], place, None)[:18]).max() == 0


@pytest.mark.parametrize("name", ["gradient", "value", "cellular"])
@pytest.mark.parametrize("is_placed", [False, True])
def test_octaves_one_by_one_make_the_sum(name: str, is_placed: bool) -> None:
    size = 40
    place = bent(size, size) if is_placed else None
    reader = Reader.over(size, size, place, 0.25, lambda band, **_: band(0, size))
    layers = [Layer(number, cells, cells, 0.7**number) for number, cells in enumerate((3, 5, 8, 12, 17))]
    total, rows = np.full((20, size), 0.5, np.float32), slice(10, 30)
    reader.sum(name, layers)(2.0, total, rows.start, rows.stop)
    each = [got for got in reader.apart(name, layers)(rows.start, rows.stop) if got is not None]
    assert len(each) == 5 and total == pytest.approx(0.5 + 2 * np.sum(each, axis=0), abs=1e-5)
    assert np.ptp(total) > 0.5
