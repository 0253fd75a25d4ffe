"""Small kernels over maps against their definitions: averages, slopes, ways, horizons, tables, readings."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable

import numpy as np
import pytest
from scipy.special import erf

from placed import lay
from reedloom.kernels.curves import average_cycle, averaging, sum_table
from reedloom.kernels.fractals import SUMS, Octave, SumState, add_octave
from reedloom.kernels.horizon import open_sky, ray_steps
from reedloom.kernels.jit import read_only
from reedloom.kernels.lattice import FADES, Lattice
from reedloom.kernels.lattice_grid import FadedColumns, add_lattice_rows
from reedloom.kernels.lattice_places import LIMIT
from reedloom.kernels.mosaic import average_cells, average_grid, ringed
from reedloom.kernels.places import (
    FINE,
    READ_ONCE,
    count_reads,
    move_rows,
    slope_rows,
    spread_places,
    steepness_rows,
    tile_places,
    ways_of,
)
from reedloom.kernels.pyramid import Pyramid
from reedloom.kernels.reach import measure_reach
from reedloom.kernels.regions import fill_ways
from reedloom.kernels.resize import halve_rows, resize_map
from reedloom.kernels.runs import RowCells, locate
from reedloom.kernels.stamps import make_sheets
from reedloom.kernels.tones import colour_table_rows

SIZES = [(1, 1), (1, 6), (5, 1), (2, 3), (8, 6), (31, 50)]
"""Rows and columns, from one sample on."""


def at_once(function: Callable[[int, int], None], rows: int, band_rows: int = 0) -> None:
    """Bands, run as one."""
    function(0, rows)


def map_by_chance(height: int, width: int, channels: int = 0, seed: int = 3) -> np.ndarray:
    shape = (height, width, channels) if channels else (height, width)
    return np.random.default_rng(seed).random(shape).astype(np.float32)


def short(way: np.ndarray) -> np.ndarray:
    """The shortest way around the tile."""
    return way - np.round(way)


# -- averages ---


@pytest.mark.parametrize(("down", "across"), list(itertools.product((1, 2), (1, 2))))
@pytest.mark.parametrize("channels", [1, 3])
def test_halving_is_the_mean_of_each_block(down: int, across: int, channels: int) -> None:
    source = map_by_chance(12, 20, channels)
    out = np.zeros((12 // down, 20 // across, channels), np.float32)
    halve_rows(source, out, 0, len(out))
    blocks = source.reshape(12 // down, down, 20 // across, across, channels)
    assert np.allclose(out, blocks.mean(axis=(1, 3)), atol=1e-6)


@pytest.mark.parametrize("size", [(16, 16), (12, 40), (7, 9), (1, 8), (33, 2)])
def test_every_size_of_a_pyramid_has_the_maps_mean(size: tuple[int, int]) -> None:
    maps = map_by_chance(*size, 3), map_by_chance(*size, seed=5)
    means = [*maps[0].mean(axis=(0, 1)), maps[1].mean()]
    values, sizes, last = Pyramid.of(maps)
    for start, width, height in sizes[:, : last + 1].T:
        level = values[start : start + 4 * width * height].reshape(-1, 4)
        assert np.allclose(level.mean(axis=0), means, atol=1e-5)
    assert sizes[:2, 0].tolist() == [0, size[1]] and (sizes[1:, last:] == 1).all()


@pytest.mark.parametrize("masked", [True, False])
@pytest.mark.parametrize("size", [(64, 64), (48, 80), (31, 27)])
def test_a_stamps_sheet_is_its_drawing_averaged(size: tuple[int, int], masked: bool) -> None:
    """Its ink is height times mask, and both keep their mean at whatever size it is stamped."""
    height, tied = map_by_chance(*size) - np.float32(0.3), 3 * map_by_chance(*size, seed=4) - 1
    mask = np.clip(tied, 0, 1) if masked else np.where(height > 0, np.float32(1), np.float32(0))
    shares = np.array([1.0, 0.5, 0.26, 0.11, 0.02])
    which = np.zeros(len(shares), np.int64)
    sheets = make_sheets([height], tied if masked else None, which, shares, shares[::-1].copy(), at_once)
    for n in range(len(shares)):
        columns, rows = int(sheets.columns[n]), int(sheets.rows[n])
        begin = int(sheets.starts[n])
        sheet = sheets.texels[begin : begin + (rows + 2) * (columns + 2)].reshape(rows + 2, columns + 2, 2)
        border = np.ones((rows + 2, columns + 2), bool)
        border[1:-1, 1:-1] = False
        assert not sheet[border].any()
        inner = sheet[1:-1, 1:-1].mean(axis=(0, 1))
        assert np.allclose(inner, [(height * mask).mean(), mask.mean()], atol=2e-4), (columns, rows)


@pytest.mark.parametrize(("columns", "rows"), [(1, 1), (7, 3), (40, 90)])
@pytest.mark.parametrize("width", [5, 16, 43])
def test_places_lie_in_their_cells(columns: int, rows: int, width: int) -> None:
    place = np.random.default_rng(width).uniform(-2, 3, (width, 2)).astype(np.float32)
    place[:4] = ((0, 0.999_999_94), (-1e-9, 1), (np.nan, 0.5), (0.5, np.inf))
    whole, parts = np.empty((3, width), np.int32), np.empty((2, width), np.float32)
    locate(place.reshape(-1), columns, rows, RowCells(*whole, *parts, whole, parts))
    with np.errstate(invalid="ignore"):
        at = (place - np.floor(place)) * np.array([columns, rows], np.float32)
        own = np.minimum(np.floor(at), [columns - 1, rows - 1])
    sound = np.isfinite(place).all(axis=1)
    assert np.array_equal(whole[1:, sound], own.T[:, sound])
    assert parts[:, sound] == pytest.approx((at - own).T[:, sound], abs=1e-5)
    assert np.array_equal(whole[0], whole[1] + columns * whole[2])
    assert (whole >= 0).all() and (whole.max(axis=1) < [columns * rows, columns, rows]).all()


@pytest.mark.parametrize(("rows", "columns"), [(1, 1), (1, 5), (6, 1), (4, 9)])
@pytest.mark.parametrize("moved", [0.0, 0.7, 5.3])
def test_cells_are_averaged_over_the_box_a_sample_covers(rows: int, columns: int, moved: float) -> None:
    """By the overlap of the box with each cell around the tile, in doubles."""
    chance = np.random.default_rng(rows)
    values, aspect = map_by_chance(rows, columns), 0.5
    shifts = (moved * np.arange(rows)).astype(np.float32)
    place = chance.uniform(-1, 2, (3, 40, 2)).astype(np.float32)
    place[0, :4] = ((0, 0), (0.999_999_94, 0.5), (-1e-9, 1), (np.nan, np.inf))
    footprint = chance.uniform(0, 1.5 / max(columns, rows), (3, 40)).astype(np.float32)
    footprint[:, ::5] = 0
    got = np.empty((3, 40), np.float32)
    average_cells(place, footprint, np.float32(aspect), shifts, values, got)
    if moved == 0:
        together = np.empty((3, 40), np.float32)
        average_grid(place, footprint, np.float32(aspect), ringed(values), together)
        sound = np.isfinite(place).all(axis=-1) & (footprint > 0)
        assert together[sound] == pytest.approx(got[sound], abs=1e-4)
        got = together

    def shares(middle: float, half: float, count: int) -> list[tuple[int, float]]:
        if half < 1e-9:
            return [(math.floor(middle) % count, 1.0)]
        ends, first = (middle - half, middle + half), math.floor(middle - half)
        overlaps = [(n, min(ends[1], n + 1) - max(ends[0], n)) for n in range(first, first + 3)]
        return [(n % count, max(0.0, width) / (2 * half)) for n, width in overlaps]

    for y, x in itertools.product(range(3), range(40)):
        if not np.isfinite(place[y, x]).all():
            continue
        u, v, reach = float(place[y, x, 0]), float(place[y, x, 1]), float(footprint[y, x]) / 2
        wanted = sum(
            share * across * values[j, i]
            for j, share in shares(v % 1 * rows, min(reach * rows / aspect, 0.5), rows)
            for i, across in shares(u % 1 * columns - shifts[j], min(reach * columns, 0.5), columns)
        )
        border = footprint[y, x] == 0 and min(abs(round(v * rows) - v * rows), abs(u)) < 1e-5
        assert border or got[y, x] == pytest.approx(wanted, abs=1e-3)


def test_what_a_wave_covers_is_its_mean() -> None:
    """Against very many places, for widths from far below a step of the table to several cycles."""
    table = np.random.default_rng(5).random(40).astype(np.float32)
    phase = np.array([[-2.3, 0.0, 0.49, 0.999, 7.25]], np.float32)
    for width in (0.1, 0.3, 0.97, 1.0, 2.6):
        got = average_cycle(sum_table(table), phase, np.full_like(phase, width))
        for x in range(phase.shape[1]):
            # More than a cycle is left at one: what is finer than a sample is its mean.
            covered = min(width, 1.0)
            at = phase[0, x] + (np.arange(200_000) + 0.5) / 200_000 * covered - covered / 2
            wanted = table[np.floor((at - np.floor(at)) * 40).astype(int)].mean()
            assert got[0, x] == pytest.approx(wanted, abs=2e-3), (width, x)


@pytest.mark.parametrize("channels", [1, 3])
def test_a_table_averaged_is_its_mean_over_what_a_sample_covers(channels: int) -> None:
    table = np.random.default_rng(6).random((32, channels)).astype(np.float32)
    few = np.array([-0.4, 0.0, 0.2, 0.55, 0.99, 1.3], np.float32)
    value = few[np.arange(550) % len(few)]  # in several blocks, of which the last one is not full
    far = np.array([-1e12, 1e12], np.float32)
    beyond = np.empty((2, channels), np.float32)
    averaging(sum_table(table))(far, np.full_like(far, 0.1), beyond)
    assert np.isfinite(beyond).all()
    for width in (0.05, 0.4, 1.5):
        out = np.empty((len(value), channels), np.float32)
        averaging(sum_table(table))(value, np.full_like(value, width), out)
        assert np.array_equal(out[: len(few)], out[540 : 540 + len(few)])
        for k, middle in [*enumerate(few), *enumerate(value[-len(few) :], len(value) - len(few))]:
            at = middle + (np.arange(100_000) + 0.5) / 100_000 * width - width / 2
            entry = np.clip(np.floor(at * 32), 0, 31).astype(int)  # level beyond both ends
            assert np.allclose(out[k], table[entry].mean(axis=0), atol=2e-3), (middle, width)


def test_a_table_of_colours_is_mixed_between_its_entries() -> None:
    table = map_by_chance(17, 3)
    value = np.linspace(-0.2, 1.2, 60, dtype=np.float32)
    for channels in (3, 2):
        out = np.empty((len(value), channels), np.float32)
        colour_table_rows(np.ascontiguousarray(table[:, :channels]), value, out)
        for c in range(channels):
            assert np.allclose(out[:, c], np.interp(value, np.linspace(0, 1, 17), table[:, c]), atol=1e-5)


# -- slopes, ways and horizons ---


@pytest.mark.parametrize("size", SIZES)
@pytest.mark.parametrize("aspect", [1.0, 0.5])
def test_a_sample_reaches_as_far_as_to_the_nearer_of_its_neighbours_each_way(
    size: tuple[int, int], aspect: float
) -> None:
    """Across and down, the way where that is more; the shortest way around the tile, in bands of rows."""
    place = np.random.default_rng(2).uniform(-2, 2, (*size, 2)).astype(np.float32)
    got, ends = measure_reach(
        place, lambda band: [band(y, min(y + 3, size[0])) for y in range(0, size[0], 3)], aspect
    )
    steps = []
    for axis in (0, 1):
        away = [np.abs(short(place - np.roll(place, by, axis))) * [1, aspect] for by in (1, -1)]
        steps.append(np.minimum(*(both.max(axis=2) for both in away)))
    assert got == pytest.approx(np.maximum(*steps), abs=1e-6)
    assert np.array_equal(ends, [got.min(axis=1), got.max(axis=1)])


@pytest.mark.parametrize("size", SIZES)
def test_slopes_are_central_differences_around_the_tile(size: tuple[int, int]) -> None:
    map = map_by_chance(*size)
    du = (np.roll(map, -1, 1) - np.roll(map, 1, 1)) / 2
    dv = (np.roll(map, -1, 0) - np.roll(map, 1, 0)) / 2
    slope, steep = np.empty((*size, 2), np.float32), np.empty(size, np.float32)
    slope_rows(map, 0.5, 0.25, slope, 0, size[0])
    steepness_rows(map, steep, 0, size[0])
    assert np.allclose(slope, np.stack([du / 0.5, dv / 0.25], axis=-1), atol=1e-5)
    assert np.allclose(steep, np.hypot(du, dv), atol=1e-5)


@pytest.mark.parametrize("bowed", [False, True])
@pytest.mark.parametrize("channels", [1, 2])
def test_ways_from_middles_are_the_shortest_ones_moved(bowed: bool, channels: int) -> None:
    chance = np.random.default_rng(7)
    labels = chance.integers(0, 4, (9, 14)).astype(np.int32)
    middles, ways = chance.random((4, 2)), chance.normal(size=(4, channels, 3))
    bows = chance.normal(size=4) if bowed and channels == 2 else np.empty(0)
    out = np.full((9, 14, channels), 9, np.float32)
    fill_ways(labels, middles, ways, bows, out, 0, 9)
    v, u = np.meshgrid((np.arange(9) + 0.5) / 9, (np.arange(14) + 0.5) / 14, indexing="ij")
    du, dv = short(u - middles[labels, 0]), short(v - middles[labels, 1])
    wanted = np.stack(
        [ways[labels, c, 0] * du + ways[labels, c, 1] * dv + ways[labels, c, 2] for c in range(channels)], -1
    )
    if len(bows):
        wanted[..., 1] += bows[labels] * ((2 * wanted[..., 0] - 1) ** 2 - 1 / 3)
    assert np.allclose(out, np.where((labels > 0)[..., None], wanted, 0), atol=1e-4)


@pytest.mark.parametrize("size", SIZES)
@pytest.mark.parametrize("radius", [0.1, 0.7, 2.5])
def test_the_open_sky_of_every_sample_is_the_slow_definition(size: tuple[int, int], radius: float) -> None:
    """On tiles of any shape, with rays that go around them more than once."""
    height, width = size
    surface = map_by_chance(height, width) * np.float32(0.3)
    steps, directions = ray_steps(width, height, (1.0, 0.6), radius, 5), 5
    got = open_sky(surface, 1.0, steps, directions, lambda band: band(0, height))
    wanted = np.zeros(size)
    for ray in range(directions):
        horizon = np.zeros(size)
        for dx, dy, inverse, number in steps:
            if number == ray:
                there = np.roll(surface, (-int(dy), -int(dx)), (0, 1))
                horizon = np.maximum(horizon, (there - surface) * inverse)
        wanted += 1 / (1 + horizon**2) / directions
    assert np.allclose(got, wanted, atol=1e-5)


# -- readings of noise ---


@pytest.mark.parametrize("fade", range(len(FADES)))
@pytest.mark.parametrize("is_value", [False, True])
@pytest.mark.parametrize(("columns", "rows"), [(1, 1), (3, 2), (40, 17), (90, 128)])
def test_a_lattice_on_the_grid_is_the_same_at_the_grids_own_places(
    columns: int, rows: int, is_value: bool, fade: int
) -> None:
    """The loop over runs of samples in one cell beside the one for any places."""
    lattice = Lattice.of(11, columns, rows, is_value, fade)
    width, height = 96, 50
    grid = np.zeros((height, width), np.float32)
    add_lattice_rows(
        lattice.corners(0.2), FadedColumns.of(lattice, width), height, np.float32(0.7), grid, 0, height
    )
    tiny = np.full(grid.shape, 1e-9, np.float32)  # so that nothing of the octave is lost
    placed = lay(lattice.corners_at_places(0.2), float(columns), tile_places(width, height), tiny, 0.7)
    assert np.abs(grid - placed).max() < 3e-5


@pytest.mark.parametrize("sum", ["turbulence", "ridged multifractal"])
def test_folded_sums_are_the_same_where_nothing_is_lost(sum: str) -> None:
    """One number for all samples goes through a loop of its own."""
    assert sum in SUMS
    noise = [map_by_chance(6, 30, seed=n) - np.float32(0.5) for n in range(3)]
    made = []
    for lost in (None, np.zeros((1, 1), np.float32), np.zeros((6, 30), np.float32)):
        state = SumState(np.zeros((6, 30), np.float32), np.ones((6, 30), np.float32), 1.0, 2.0)
        for number, rows in enumerate(noise):
            add_octave(sum, state, rows, Octave(1, 1, 0.5**number, 1.0), lost)
        made.append(state.value)
    assert np.allclose(made[0], made[1], atol=1e-6) and np.allclose(made[0], made[2], atol=1e-6)


@pytest.mark.parametrize("lost", [0.0011, 0.01, 0.1, 0.3, 1.0, 20.0])
def test_noise_that_has_lost_a_part_is_folded_by_its_closed_form(lost: float) -> None:
    """The mean of what is away from 0, by how much or little, of a normal deviation about some noise."""
    noise = np.linspace(-1.5, 1.5, 4001)
    state = SumState(np.zeros((1, 4001), np.float32), np.ones((1, 4001), np.float32), 1.0, 2.0)
    left = np.full((1, 1), lost, np.float32)
    add_octave("turbulence", state, noise[None].astype(np.float32), Octave(1, 1, 1.0, 1.0), left)
    near = lost * np.sqrt(2 / np.pi) * np.exp(-((noise / lost) ** 2) / 2)
    assert np.abs(state.value[0] - near - noise * erf(noise / lost / np.sqrt(2))).max() < 1e-6 * (1 + lost)


@pytest.mark.parametrize("cells", [3.0, 20.0, 60.0, 150.0])
def test_samples_are_read_as_often_as_noise_changes_in_them(cells: float) -> None:
    """Twice on a way that crosses more than a share of a cell, four times beyond twice that, else once."""
    height, width = 40, 64
    place = tile_places(width, height).copy()
    place[:, 20:] *= np.float32(1.7)  # finer here, with a jump at both ends, which is no way of its own
    place[25:] += np.float32(0.31)
    reach = np.full((height, width), 1 / 64, np.float32)
    reach[:, 20:] *= np.float32(1.7)
    reach[:10] *= np.float32(2)  # far in a way that lies aslant of both
    limit = 4 * LIMIT / cells
    codes = np.empty((height, width), np.uint8)
    count_reads(place, 0, reach, (cells, 0.5 * cells, cells, limit), codes)

    def steps(y: int, x: int, axis: int) -> np.ndarray:
        """The change to the nearer of both neighbours, in each channel."""
        before, after = (place[(y - 1) % height, x], place[(y + 1) % height, x])
        if axis:
            before, after = (place[y, (x - 1) % width], place[y, (x + 1) % width])
        back, on = short(place[y, x] - before), short(after - place[y, x])
        return np.where(np.abs(back) < np.abs(on), back, on) * [cells, 0.5 * cells]

    for y, x in np.ndindex(height, width):
        splits = sum(cells * reach[y, x] > share for share in (FINE, 2 * FINE))
        if splits == 0 or reach[y, x] >= limit:
            assert codes[y, x] == 0
            continue
        across, down = (
            min(splits, sum(math.hypot(*steps(y, x, axis)) > share for share in (FINE, 2 * FINE)))
            for axis in (1, 0)
        )
        assert codes[y, x] == 16 * splits + 4 * across + down + READ_ONCE, (y, x)
        assert ways_of(codes[y, x]) == (2**across, 2**down)


@pytest.mark.parametrize(("along", "across"), [(1, 1), (2, 4), (4, 1)])
def test_places_within_samples_lie_evenly_on_the_ways_to_their_neighbours(along: int, across: int) -> None:
    place = tile_places(12, 8) + np.float32(0.01) * map_by_chance(8, 12, 2)
    ys, xs = np.array([0, 7, 3]), np.array([11, 0, 5])
    out = np.empty((along, 3, across, 2), np.float32)
    spread_places(place, ys, xs, out)
    assert np.allclose(out.mean(axis=(0, 2)), place[ys, xs], atol=1e-6)
    for k, (y, x) in enumerate(zip(ys, xs, strict=True)):
        for axis, count, within in ((1, across, out[0, k]), (0, along, out[:, k, 0])):
            if count == 1:
                continue
            neighbours = [place[y, (x + n) % 12] if axis else place[(y + n) % 8, x] for n in (-1, 1)]
            back, on = short(place[y, x] - neighbours[0]), short(neighbours[1] - place[y, x])
            step = np.where(np.abs(back) < np.abs(on), back, on) / count
            assert np.allclose(np.diff(within, axis=0), step, atol=1e-6)


@pytest.mark.parametrize("channels", [0, 1, 2, 3])
@pytest.mark.parametrize(("size", "wanted"), [((8, 8), (5, 7)), ((3, 11), (3, 1)), ((40, 31), (9, 30))])
def test_maps_shrink_to_the_means_of_what_samples_cover(
    size: tuple[int, int], wanted: tuple[int, int], channels: int
) -> None:
    """By the overlap of old and new samples; in bands of two rows."""
    source = map_by_chance(*size, channels)

    def covered(old: int, new: int) -> np.ndarray:
        at, by = np.arange(old), np.arange(new)[:, None] * old / new
        return np.clip(np.minimum(at + 1, by + old / new) - np.maximum(at, by), 0, None) * new / old

    down, across = (covered(*both) for both in zip(size, wanted, strict=True))
    mean = np.einsum("yi,xj,ij...->yx...", down, across, source)

    def bands(band: Callable[[int, int], None], rows: int, band_rows: int) -> None:
        for y in range(0, rows, 2):
            band(y, min(y + 2, rows))

    assert resize_map(source, wanted[1], wanted[0], bands=bands) == pytest.approx(mean, abs=1e-6)


@pytest.mark.parametrize("columns", [5, 16, 75])
def test_places_move_by_each_rows_ways(columns: int) -> None:
    chance = np.random.default_rng(columns)
    places = chance.random((3, columns, 2), np.float32)
    us, vs = chance.random((2, 3, columns), np.float32)
    moved = np.empty_like(places)
    move_rows(read_only(places), us, vs, np.array([0.5, -2.0], np.float32), moved)
    assert moved == pytest.approx(places + np.stack([us * 0.5, vs * -2.0], axis=-1), abs=1e-6)
