"""Sixteen places of a lattice at once against one by one, and median and blur against their definitions."""

from __future__ import annotations

import numpy as np
import pytest

from placed import lay
from reedloom.kernels.gauss import gaussian_blur, gaussian_response, gaussian_taps
from reedloom.kernels.jit import kernel
from reedloom.kernels.lattice import FADES, TABLE, Lattice
from reedloom.kernels.medians import median_rows, unit_of
from reedloom.kernels.places import count_reads, spread_places, tile_places
from reedloom.kernels.quick import (
    cosine_of_turn,
    cube_root,
    logarithm_of_two,
    power_of_two,
    power_of_two_point_four,
    sine_of_turn,
    turn_of,
)

BORDERS = ((0, 0), (0.999_999_94, 0.5), (-1e-9, 1), (-3, 2), (np.nan, 0.5), (0.25, np.inf))


@pytest.mark.parametrize("fade", FADES.values(), ids=FADES)
@pytest.mark.parametrize("is_value", [False, True], ids=["gradient", "value"])
@pytest.mark.parametrize(
    ("columns", "rows"), [(1, 1), (5, 7), (1000, 3), (1500, 40), (1500, 1400), (2100, 600), (800, 4096)]
)
def test_sixteen_places_are_read_as_each_by_itself(
    columns: int, rows: int, is_value: bool, fade: int
) -> None:
    """In one row of sixteen the loop in vectors reads them; in rows of one the plain loop does."""
    chance = np.random.default_rng(columns)
    place = chance.uniform(-2, 3, (3, 64, 2)).astype(np.float32)
    place[0, : len(BORDERS)] = BORDERS
    # A row in and about the last cell across, of a lattice that may have more cells than its table.
    shift = Lattice.of(3, columns, rows, is_value, fade).shift[0]
    place[1, 32:, 0] = (columns - 0.5 - shift + np.linspace(-2, 2, 32)) / columns
    reach = chance.uniform(0, 0.8 / columns, (3, 64)).astype(np.float32)
    corners = Lattice.of(3, columns, rows, is_value, fade).corners_at_places(0.3)
    together = lay(corners, float(columns), place, reach, 2.0)
    alone = lay(corners, float(columns), place.reshape(-1, 1, 2), reach.reshape(-1, 1), 2.0).reshape(3, 64)
    sound = np.isfinite(place).all(axis=-1)
    # A place in single precision is known to 2e-7 of a tile.
    assert np.abs(together[sound] - alone[sound]).max() < 2e-6 + 2 * 2.4e-7 * max(columns, rows)
    assert np.abs(alone[sound]).max() > 0.1 or columns == 1


@pytest.mark.parametrize("is_value", [False, True], ids=["gradient", "value"])
def test_lattices_fine_one_way_repeat_their_corners_and_close_at_the_seam(is_value: bool) -> None:
    for across, down in ((1, 0), (0, 1)):
        fine = Lattice.of(3, TABLE * across + 500, TABLE * down + 500, is_value).planes(0.2)
        coarse = Lattice.of(3, *((TABLE, 500) if across else (500, TABLE)), is_value).planes(0.2)
        columns, rows = fine.shape[1] - 1, fine.shape[0] - 1
        repeated = coarse[np.arange(rows)[:, None] % TABLE, np.arange(columns) % TABLE]
        assert np.array_equal(fine[:-1, :-1], repeated)
        assert np.array_equal(fine[-1], fine[0]) and np.array_equal(fine[:, -1], fine[:, 0])
    both = Lattice.of(3, 4 * TABLE, 4 * TABLE, is_value).planes(0.2)
    assert both.shape[:2] == (TABLE + 1, TABLE + 1)


@pytest.mark.parametrize("is_value", [False, True], ids=["gradient", "value"])
@pytest.mark.parametrize("shift", [0.0, 0.4, 0.999_999_95])
def test_sixteen_places_of_one_cell_are_read_as_each_by_itself(shift: float, is_value: bool) -> None:
    """Slow rows lie in one cell for long, cross borders, and end where a lattice that is moved far ends."""
    columns = rows = 7
    corners = Lattice.of(3, columns, rows, is_value).corners_at_places(0.3)
    corners.numbers[:2] = shift
    place = np.empty((4, 640, 2), np.float32)
    place[..., 0] = np.linspace(0.1, 0.9, 640)
    place[..., 1] = np.array([0.05, 0.5, 1 - 1e-7, -1e-9], np.float32)[:, None]
    place[:, -8:, 0] = -1e-9
    reach = np.full((4, 640), 1e-3, np.float32)
    together = lay(corners, 7.0, place, reach)
    alone = lay(corners, 7.0, place.reshape(-1, 1, 2), reach.reshape(-1, 1)).reshape(4, 640)
    assert together == pytest.approx(alone, abs=5e-6)
    assert np.abs(alone).max() > 0.1


@pytest.mark.parametrize("is_value", [False, True], ids=["gradient", "value"])
@pytest.mark.parametrize(("columns", "rows"), [(40, 40), (3, 300), (2100, 700)])
def test_straight_rows_of_places_are_read_as_each_by_itself(columns: int, rows: int, is_value: bool) -> None:
    """However steep a row runs through the cells, and whichever way, forwards and backwards."""
    lattice = Lattice.of(8, columns, rows, is_value)
    corners = lattice.corners_at_places(0.1)
    steps = np.concatenate([np.geomspace(0.01, 3, 12), -np.geomspace(0.02, 2, 12)])
    turns = np.linspace(0, np.pi, 9)
    across, down = (steps[:, None] * turned / count for turned, count in
                    ((np.cos(turns), columns), (np.sin(turns), rows)))  # fmt: skip
    run = np.arange(48)
    place = np.stack([across[..., None] * run + 0.31, down[..., None] * run + 0.77], axis=-1)
    place = np.ascontiguousarray(place.reshape(-1, 48, 2), np.float32)
    reach = np.full(place.shape[:2], 1e-6, np.float32)
    together = lay(corners, 1.0, place, reach)
    alone = lay(corners, 1.0, place.reshape(-1, 1, 2), reach.reshape(-1, 1))
    difference = np.abs(together - alone.reshape(reach.shape))
    assert difference.max() < 2e-6 + 2.4e-7 * max(columns, rows)
    assert np.abs(alone).max() > 0.3


def places_to_read(name: str, width: int, height: int) -> np.ndarray:
    """Places that are all read alike, some of them more often, or that jump from element to element."""
    place = tile_places(width, height)
    u, v = place[..., 0].copy(), place[..., 1].copy()
    if name == "bent":
        place = np.stack([u + 0.02 * np.sin(6 * np.pi * v), v + 0.02 * np.sin(4 * np.pi * u)], axis=-1)
    elif name == "squeezed":
        place = np.stack([u + 0.12 * np.sin(2 * np.pi * u), v + 0.1 * np.sin(4 * np.pi * v)], axis=-1)
    elif name == "elements":
        place = np.stack([(7.3 * u) % 1, (0.4 * v + np.floor(5 * u) * 0.37) % 1], axis=-1)
    return np.ascontiguousarray(place, np.float32)


@pytest.mark.parametrize("name", ["plain", "bent", "squeezed", "elements"])
@pytest.mark.parametrize(
    ("cells", "shape"),
    [((20, 20), (48, 48)), ((70, 9), (96, 48)), ((9, 160), (37, 50)), ((1500, 1400), (1536, 5))],
)
def test_rows_of_fine_samples_are_read_as_each_sample_by_itself(
    name: str, cells: tuple[int, int], shape: tuple[int, int]
) -> None:
    width, height = shape
    place = places_to_read(name, width, height)
    footprint = np.random.default_rng(2).uniform(0.3, 1.2, (height, width)).astype(np.float32) / width
    if name != "squeezed":
        footprint[:] = np.float32(1 / width)
    finest = float(max(cells))
    fineness = (*map(float, cells), finest, 2.4 / finest)
    corners = Lattice.of(5, *cells, False, 0).corners_at_places(0.0)
    codes = np.zeros((height, width), np.uint8)
    count_reads(place, 0, footprint, fineness, codes)
    bands = [(y0, min(y0 + 16, height)) for y0 in range(0, height, 16)]
    got = np.concatenate([lay(corners, [fineness], place, footprint, 2.0, rows=band) for band in bands])
    assert len(np.unique(codes)) > 1 or name != "squeezed"
    times = (1, 1, 2, 4)
    for y in range(0, height, 3):
        for x in range(0, width, 2):
            code = int(codes[y, x])
            across, along = times[code >> 2 & 3], times[code & 3]
            where = np.empty((along, 1, across, 2), np.float32)
            spread_places(place, np.array([y]), np.array([x]), where)
            reach = np.full((across * along, 1), footprint[y, x] / 2 ** (code >> 4), np.float32)
            read = lay(corners, finest, where.reshape(-1, 1, 2), reach, 2.0)
            assert got[y, x] == pytest.approx(read.mean(), abs=3e-5)


@kernel
def elementary(x, out):  # type: ignore[no-untyped-def]
    for k in range(x.shape[0]):
        out[0, k], out[1, k] = cosine_of_turn(x[k]), sine_of_turn(x[k])
        out[2, k], out[3, k] = cube_root(abs(x[k])), power_of_two(x[k])
        out[6, k] = power_of_two_point_four(abs(x[k]))
        out[4, k], out[5, k] = logarithm_of_two(abs(x[k])), turn_of(x[k], abs(x[k]) - np.float32(3))


def test_elementary_functions_are_those_of_the_library() -> None:
    x = np.concatenate([np.linspace(-9, 9, 9999), [0, -0.0, 1e-35, 1e30, 0.25, -0.75]]).astype(np.float32)
    out = np.empty((7, len(x)), np.float32)
    elementary(x, out)
    turn = 2 * np.pi * x.astype(float)
    few = np.abs(x) < 10
    assert np.abs(out[0] - np.cos(turn))[few].max() < 6e-6
    assert np.abs(out[1] - np.sin(turn))[few].max() < 6e-6
    assert out[2] == pytest.approx(np.cbrt(np.abs(x.astype(float))), rel=1e-6, abs=2e-10)
    assert out[3] == pytest.approx(2.0 ** np.clip(x.astype(float), -126, 126), rel=1e-6)
    assert out[4] == pytest.approx(np.log2(np.maximum(np.abs(x.astype(float)), 1e-37)), rel=3e-7, abs=3e-7)
    usual = (np.abs(x) > 1e-6) & few
    assert out[6][usual] == pytest.approx(np.abs(x[usual].astype(float)) ** 2.4, rel=1.5e-6)
    way = np.arctan2(np.abs(x) - np.float32(3), x)[few].astype(float) / (2 * np.pi) % 1
    assert np.abs((out[5][few] - way + 0.5) % 1 - 0.5).max() < 4e-7
    assert out[5].min() >= 0 and out[5].max() < 1


@pytest.mark.parametrize("radius", [(1.0, 2.0), (2.4, 1.7), (6.0, 6.0)])
def test_median_lies_where_half_of_the_box_is_below(radius: tuple[float, float]) -> None:
    levels, size = 16, 24
    source = np.random.default_rng(4).random((size, size), np.float32)
    low, step = np.float32(0), np.float32(1 / levels)
    out = np.empty_like(source)
    for y0 in range(0, size, 8):
        median_rows(source, radius, low, step, (np.int32(unit_of(*radius)), levels), out, y0, y0 + 8)
    reach = [np.arange(-int(r) - 1, int(r) + 2) for r in radius]
    shares = [np.clip(r + 1 - np.abs(d), 0, 1) for r, d in zip(radius, reach, strict=True)]
    weights = np.outer(shares[1], shares[0])
    for y, x in ((0, 0), (23, 5), (12, 12), (7, 23)):
        box = source[np.ix_((y + reach[1]) % size, (x + reach[0]) % size)]
        # A tone counts in the two levels beside it, so that the share below grows evenly in between.
        split = np.clip(np.arange(1, levels + 1)[:, None, None] - box / step, 0, 1)
        counts = (weights * split).sum(axis=(1, 2)) / weights.sum()
        n = int(np.argmax(counts >= 0.5))
        before = counts[n - 1] if n else 0.0
        wanted = step * (n - 0.5 + (0.5 - before) / (counts[n] - before))
        assert out[y, x] == pytest.approx(wanted, abs=2e-4)


@pytest.mark.parametrize(
    "deviation", [(0.0, 0.0), (0.002, 0.002), (0.03, 0.025), (0.05, 0.01), (0.01, 0.2), (0.2, 0.03)]
)
@pytest.mark.parametrize("shape", [(96, 96), (45, 90), (128, 512)])
def test_a_blur_leaves_of_each_wave_what_a_gaussian_leaves(
    shape: tuple[int, int], deviation: tuple[float, float]
) -> None:
    height, width = shape
    source = np.random.default_rng(1).random(shape, np.float32)
    got = gaussian_blur(source, deviation, lambda band, rows, **_: band(0, rows))
    down = gaussian_response(height, deviation[1])[
        np.abs(np.fft.fftfreq(height) * height).round().astype(int)
    ]
    spectrum = np.fft.fft2(source)
    across = gaussian_response(width, deviation[0])[np.abs(np.fft.fftfreq(width) * width).round().astype(int)]
    wanted = np.fft.ifft2(spectrum * np.outer(down, across)).real
    assert np.abs(got - wanted).max() < 1e-5


@pytest.mark.parametrize("samples", [37, 64, 512, 2048])
def test_weights_of_a_blur_are_the_gaussian_where_that_has_an_end_within_reach(samples: int) -> None:
    for pixels in (1.9, 2.5, 4.0)[: 2 if samples < 50 else 3]:
        taps = gaussian_taps(samples, pixels / samples)
        assert taps is not None
        away = np.arange(len(taps))
        wanted = np.exp(-0.5 * (away / pixels) ** 2) / (pixels * np.sqrt(2 * np.pi))
        assert np.abs(taps - wanted).max() < 3e-6
        assert 2 * taps.sum(dtype=np.float64) - taps[0] == pytest.approx(1, abs=1e-6)
    assert gaussian_taps(samples, 0.3 / samples) is None and gaussian_taps(samples, 0.3) is None
