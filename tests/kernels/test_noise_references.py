"""Noise kernels against slow, independent references."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator

import numpy as np
import pytest
from scipy.spatial import cKDTree

from placed import lay
from reedloom.kernels.cell_lanes import EUCLID, MANHATTAN
from reedloom.kernels.cells import RING, Cells, cell_points, cell_rows, lay_cells, swings
from reedloom.kernels.fractals import SUMS, Octave, SumState, add_octave, fill_lost, plan_octaves
from reedloom.kernels.grains import RING as SPOT_RING
from reedloom.kernels.grains import lay_spots, spot_rows
from reedloom.kernels.hashing import hash_seed
from reedloom.kernels.jit import read_only
from reedloom.kernels.lattice import Lattice
from reedloom.kernels.octaves import Layer, Reader
from reedloom.kernels.places import tile_places
from reedloom.kernels.splitting import Band
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.context import Context
from reedloom.laws.draws import flow_of


def compute(kind: str, size: tuple[int, int], **parameters: object) -> np.ndarray:
    declared = built_in_kinds().get(kind)
    context = Context(*size, wanted=frozenset({declared.outputs[0].name}))
    made = declared.compute(context, *[None] * len(declared.inputs), **(declared.defaults() | parameters))
    return made if isinstance(made, np.ndarray) else made[declared.outputs[0].name]


def slow_gradient_noise(seed: int, columns: int, rows: int, evolution: float, u: float, v: float) -> float:
    """Perlin's noise at one place, straight from its definition in double precision."""
    lattice = Lattice.of(seed, columns, rows)
    x, y = u * columns + lattice.shift[0], v * rows + lattice.shift[1]
    cell_x, cell_y = math.floor(x), math.floor(y)
    total = 0.0
    for dx in (0, 1):
        for dy in (0, 1):
            phase, turns = lattice.planes(None, ring=(0, 0))[(cell_y + dy) % rows, (cell_x + dx) % columns]
            angle = 2 * math.pi * (phase + turns * evolution)
            ax, ay = x - cell_x - dx, y - cell_y - dy
            fade = 1.0
            for a in (abs(ax), abs(ay)):
                fade *= 1 - (6 * a**5 - 15 * a**4 + 10 * a**3)
            total += fade * (math.cos(angle) * ax + math.sin(angle) * ay)
    return total


@pytest.mark.parametrize("evolution", [0.0, 0.37])
def test_gradient_noise_is_perlins(evolution: float) -> None:
    size, columns, rows = 80, 5, 3
    got = compute("gradient_noise", (size, size), cells=columns, cells_down=rows, octaves=1.0, seed=7,
                  evolution=evolution, signed=True)  # fmt: skip
    scale = got.std() / np.std(
        [[slow_gradient_noise(hash_seed(7, 0), columns, rows, evolution, (x + 0.5) / size, (y + 0.5) / size)
          for x in range(size)] for y in range(size)]
    )  # fmt: skip
    for y, x in ((0, 0), (79, 79), (11, 63), (40, 40), (79, 0)):
        wanted = slow_gradient_noise(
            hash_seed(7, 0), columns, rows, evolution, (x + 0.5) / size, (y + 0.5) / size
        )
        assert got[y, x] == pytest.approx(wanted * scale, abs=4e-3)


def test_noise_at_places_is_the_noise_of_the_grid() -> None:
    """Computed in place over the plain tile, noises of lattices and cells give what they give on the grid."""
    for kind in ("gradient_noise", "fractal_noise", "cellular_noise", "flow_noise"):
        declared = built_in_kinds().get(kind)
        values = declared.defaults() | {"octaves": 3.0}
        name = declared.outputs[0].name
        results = []
        for place in (None, tile_places(96, 96)):
            context, others = Context(96, 96, wanted=frozenset({name})), [None] * (len(declared.inputs) - 1)
            made = declared.compute(context, place, *others, **values)
            results.append(made if isinstance(made, np.ndarray) else made[name])
        assert np.abs(results[0] - results[1]).max() < 2e-4, kind


def test_evolution_by_map_is_evolution_by_number() -> None:
    for kind in ("gradient_noise", "fractal_noise"):
        declared = built_in_kinds().get(kind)
        maps = [None, np.full((64, 64), 0.3, np.float32)]
        results = [
            declared.compute(
                Context(64, 64),
                None,
                extra,
                **(declared.defaults() | {"evolution": 0.0 if extra is not None else 0.3}),
            )
            for extra in maps
        ]
        assert np.abs(results[0] - results[1]).max() < 2e-4
        whole = declared.compute(Context(64, 64), None, None, **(declared.defaults() | {"evolution": 1.0}))
        start = declared.compute(Context(64, 64), None, None, **declared.defaults())
        assert np.abs(whole - start).max() < 1e-4


@pytest.mark.parametrize("hurst_exponent", [0.3, 0.7])
def test_fbm_has_its_theoretical_spectral_slope(hurst_exponent: float) -> None:
    """The power of fBm falls as frequency to -(2 H + 2) in two dimensions."""
    size = 512
    power = np.zeros((size, size))
    for seed in range(6):
        noise = compute(
            "fractal_noise",
            (size, size),
            cells=4,
            octaves=7.0,
            falloff="Hurst exponent",
            hurst_exponent=hurst_exponent,
            seed=seed,
        )
        power += np.abs(np.fft.fft2(noise - noise.mean())) ** 2
    f = np.fft.fftfreq(size) * size
    radius = np.hypot(f[:, None], f[None, :])
    rings = np.geomspace(5, 90, 16)
    means = [power[(radius >= a) & (radius < b)].mean() for a, b in itertools.pairwise(rings)]
    middles = np.sqrt(rings[1:] * rings[:-1])
    slope = np.polyfit(np.log(middles), np.log(means), 1)[0]
    assert slope == pytest.approx(-(2 * hurst_exponent + 2), abs=0.3)


def test_octaves_are_whole_periods_and_fractions_fade_in() -> None:
    plan = plan_octaves((3, 5), 3.25, 1.7, 0.5)
    assert [(o.columns, o.rows) for o in plan] == [(3, 5), (5, 8), (9, 14), (15, 25)]
    assert [o.share for o in plan] == [1.0, 1.0, 1.0, 0.25]
    before = compute("fractal_noise", (64, 64), octaves=3.0, sum="multifractal")
    after = compute("fractal_noise", (64, 64), octaves=3.001, sum="multifractal")
    assert np.abs(before - after).max() < 5e-3


def test_sums_follow_the_published_listings() -> None:
    """One sample through three octaves, against the published loops written out plainly."""
    noise, amplitude, offset, ridge_gain = [0.3, -0.2, 0.5], [1.0, 0.6, 0.36], 0.9, 2.0

    def run(name: str) -> float:
        state = SumState(np.zeros((1, 1), np.float32), np.ones((1, 1), np.float32), offset, ridge_gain)
        for n, a in zip(noise, amplitude, strict=True):
            add_octave(name, state, np.full((1, 1), n, np.float32), Octave(1, 1, a, 1.0))
        return float(state.value[0, 0])

    multifractal = 1.0
    for n, a in zip(noise, amplitude, strict=True):
        multifractal *= n * a + offset
    result = (noise[0] + offset) * amplitude[0]
    weight = result
    for n, a in zip(noise[1:], amplitude[1:], strict=True):
        weight = min(weight, 1.0)
        signal = (n + offset) * a
        result += weight * signal
        weight *= signal
    terrain = noise[0] + offset
    for n, a in zip(noise[1:], amplitude[1:], strict=True):
        terrain += (n + offset) * a * terrain
    signal = (offset - abs(noise[0])) ** 2
    ridged = signal * amplitude[0]
    for n, a in zip(noise[1:], amplitude[1:], strict=True):
        signal = (offset - abs(n)) ** 2 * min(max(signal * ridge_gain, 0.0), 1.0)
        ridged += signal * a
    pairs = zip(noise, amplitude, strict=True)
    wanted = {
        "fBm": sum(n * a for n, a in pairs),
        "turbulence": sum(abs(n) * a for n, a in zip(noise, amplitude, strict=True)),
        "multifractal": multifractal,
        "hybrid multifractal": result,
        "heterogeneous terrain": terrain,
        "ridged multifractal": ridged,
    }
    assert wanted.keys() == SUMS.keys()
    for name, value in wanted.items():
        assert run(name) == pytest.approx(value, rel=1e-5), name


def cellular(size: int, **parameters: object) -> dict[str, np.ndarray]:
    made: dict[str, np.ndarray] = flow_of("cellular_noise", {}, parameters, (size, size))
    return made


@pytest.mark.parametrize(("columns", "rows", "jitter"), [(5, 5, 1.0), (7, 3, 0.6), (2, 1, 1.0), (3, 3, 0.0)])
def test_cells_are_those_of_a_tree_of_wrapped_points(columns: int, rows: int, jitter: float) -> None:
    size = 40
    points = cell_points(3, columns, rows, jitter)[RING:-RING, RING:-RING].astype(np.float64)
    points[..., :2] += 0.5
    y, x = np.mgrid[0:rows, 0:columns]
    middle = np.stack([x + points[..., 0], y + points[..., 1]], axis=-1).reshape(-1, 2)
    wraps = [np.array([i * columns, j * rows]) for i in range(-4, 5) for j in range(-4, 5)]
    cloud = np.concatenate([middle + w for w in wraps])
    tree = cKDTree(cloud)
    place = tile_places(size, size).reshape(-1, 2) * [columns, rows]
    distance, index = tree.query(place, k=2)
    got = cellular(size, cells=columns, cells_down=rows, jitter=jitter, seed=3)
    assert np.abs(got["nearest"].ravel() - distance[:, 0]).max() < 1e-4
    assert np.abs(got["second"].ravel() - distance[:, 1]).max() < 1e-4
    # The exact border: the least distance to a bisector with any other point.
    around = tree.query(place, k=min(40, len(cloud)))[1]
    nearest = cloud[index[:, 0]]
    between = cloud[around[:, 1:]] - nearest[:, None]
    middles = (cloud[around[:, 1:]] + nearest[:, None]) / 2 - place[:, None]
    border = ((middles * between).sum(-1) / np.linalg.norm(between, axis=-1)).min(axis=1)
    assert np.abs(got["border"].ravel() - border).max() < 2e-4
    clear = border > 0.1
    random = points[..., 2].reshape(-1)[index[:, 0] % len(middle)]
    assert np.abs(got["random"].ravel() - random)[clear].max() < 1e-5


@pytest.mark.parametrize(("size", "count"), [(32, 6), (256, 3)], ids=["each sample", "runs of samples"])
@pytest.mark.parametrize(("metric", "p"), [("Manhattan", 1), ("Chebyshev", np.inf), ("Minkowski", 3)])
def test_cells_in_other_metrics(metric: str, p: float, size: int, count: int) -> None:
    points = cell_points(1, count, count, 1.0)[RING:-RING, RING:-RING].astype(np.float64)
    points[..., :2] += 0.5
    y, x = np.mgrid[0:count, 0:count]
    middle = np.stack([x + points[..., 0], y + points[..., 1]], axis=-1).reshape(-1, 2)
    cloud = np.concatenate([middle + np.array([i, j]) * count for i in (-1, 0, 1) for j in (-1, 0, 1)])
    distance, _ = cKDTree(cloud).query(tile_places(size, size).reshape(-1, 2) * count, k=2, p=p)
    got = cellular(size, cells=count, jitter=1.0, metric=metric, minkowski_power=3.0, seed=1)
    assert np.abs(got["nearest"].ravel() - distance[:, 0]).max() < 1e-4
    assert np.abs(got["second"].ravel() - distance[:, 1]).max() < 1e-4


def jumping_place(size: int, columns: int) -> np.ndarray:
    """Places that are smooth within upright elements, and jump from each to the next."""
    place = tile_places(size, size).copy()
    element = np.floor(place[..., 0] * columns)
    place[..., 0] = np.float32(0.25) * (place[..., 0] * columns - element) + element * np.float32(0.37) % 1
    place[..., 1] = place[..., 1] * 1.7
    return np.ascontiguousarray(place, np.float32)


@pytest.mark.parametrize(("columns", "rows"), [(40, 40), (12, 60), (60, 10)])
def test_noise_at_places_is_the_mean_over_each_sample_in_one_pass_or_many(columns: int, rows: int) -> None:
    """The loop that reads a lattice in one pass, the way of all other noise, and many readings agree."""
    size, amount = 96, 1.0
    place = jumping_place(size, 6)
    reader = Reader.over(size, size, place, 0.0, lambda band, **_: band(0, size))
    lattice = Lattice.of(3, columns, rows)
    corners = lattice.corners_at_places(0.0)

    def add(amount: float, out: np.ndarray, band: Band) -> None:
        assert band.place is not None
        out += lay(corners, float(max(columns, rows)), band.place, band.footprint, amount)

    ways = reader.sum("gradient", [Layer(3, columns, rows, 1.0)]), reader.split_where_fine(add, columns, rows)
    once, grouped = (np.zeros((size, size), np.float32) for _ in range(2))
    for way, out in zip(ways, (once, grouped), strict=True):
        for y0 in range(0, size, 32):
            way(amount, out[y0 : y0 + 32], y0, y0 + 32)
    assert np.abs(once - grouped).max() < 1e-5
    # Far from jumps each sample holds nearly the mean of a hundred readings within it.
    steps = (np.arange(10) + 0.5) / 10 - 0.5
    inside = slice(4, 12)
    du = np.gradient(place[..., 0], axis=1)[:, inside, None, None] * steps
    dv = np.gradient(place[..., 1], axis=0)[:, inside, None, None] * steps[:, None]
    u, v = place[:, inside, 0, None, None] + du, place[:, inside, 1, None, None] + dv
    flat = np.stack(np.broadcast_arrays(u, v), axis=-1).reshape(1, -1, 2).astype(np.float32)
    read = lay(corners, 0.0, flat, np.zeros(flat.shape[:2], np.float32))
    mean = read.reshape(size, 8, 100).mean(axis=2)
    assert np.abs(once[4:-4, inside] - mean[4:-4]).max() < 0.1 * np.abs(read).max()


def test_only_samples_for_which_a_noise_is_fine_are_read_several_times(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    size, read = 128, []
    place = jumping_place(size, 1)
    place[:, 60:64, 0] = np.arange(4) * 0.05  # four columns of each band are steep
    reader = Reader.over(size, size, place, 0.0, lambda band, **_: band(0, size))
    real = Band.some
    monkeypatch.setattr(Band, "some", lambda self, y, *a: (read.append(len(y)), real(self, y, *a))[1])
    reader.sum("cellular", [Layer(1, 10, 10, 1.0)])(1.0, np.zeros((32, size), np.float32), 0, 32)
    assert 0 < sum(read) <= 32 * 4
    reader.sum("cellular", [Layer(1, 40, 40, 1.0)])(1.0, np.zeros((32, size), np.float32), 0, 32)
    assert sum(read) > 32 * size / 2


@pytest.mark.parametrize("basis", ["gradient", "value", "cellular"])
@pytest.mark.parametrize("sum", ["turbulence", "ridged multifractal"])
def test_folded_octaves_finer_than_a_sample_keep_their_mean(sum: str, basis: str) -> None:
    small, large = (
        compute(
            "fractal_noise", (size, size), sum=sum, basis=basis, cells=16, octaves=6.0, hurst_exponent=0.4
        )
        for size in (64, 768)
    )
    assert abs(small.mean() - large.mean()) < 0.09


def test_what_is_lost_in_a_sample_is_counted_as_drawn_many_times() -> None:
    chance = np.random.default_rng(4)
    drawn = chance.standard_normal(200_000)
    for noise, lost in ((0.0, 0.3), (0.2, 0.1), (-0.4, 0.3), (0.5, 0.0)):
        all_ = noise + lost * drawn
        wanted = {"turbulence": np.abs(all_).mean(), "ridged multifractal": ((1 - np.abs(all_)) ** 2).mean()}
        for name, value in wanted.items():
            state = SumState(np.zeros((1, 1), np.float32), np.ones((1, 1), np.float32), 1.0, 2.0)
            left = np.full((1, 1), lost, np.float32)
            add_octave(name, state, np.full((1, 1), noise, np.float32), Octave(1, 1, 1.0, 1.0), left)
            assert float(state.value[0, 0]) == pytest.approx(value, rel=0.01), (name, noise, lost)


def test_the_mean_stays_while_noise_evolves() -> None:
    for basis in ("gradient", "value"):
        means = [
            compute("fractal_noise", (96, 96), basis=basis, cells=32, octaves=1.0, evolution=e).mean()
            for e in (0.0, 0.06, 0.125, 0.3, 0.5, 0.8)
        ]
        assert np.ptp(means) < 0.04, (basis, means)


@pytest.mark.parametrize("metric", [EUCLID, MANHATTAN])
@pytest.mark.parametrize("jitter", [0.4, 1.0])
def test_the_nearest_cell_is_the_same_whether_the_second_is_wanted_or_not(metric: int, jitter: float) -> None:
    """Farther cells are looked at only where they can be the nearest, unless the second is wanted."""
    points = cell_points(4, 30, 22, jitter)
    cells = Cells.of(points, jitter, metric, 2.0, 0.0)
    place = tile_places(250, 190)
    found = np.zeros((2, 8, 190, 250), np.float32)
    for number, want_second in enumerate((False, True)):
        cell_rows(cells, read_only(place), swings(0.0), want_second, True, True, found[number], 0, 190)
    same = [0, 2, 3, 4, 5, 6, 7]
    assert np.array_equal(found[0][same], found[1][same])
    assert (found[0][1] >= found[1][1]).all()
    # Where points keep to the middles of their cells, none farther out can be the second either.
    assert (found[0][1] > found[1][1]).any() == (jitter == 1.0)


def spots_by_hand(
    table: np.ndarray, hardness: float, place: np.ndarray, edge: float, evolution: float
) -> np.ndarray:
    """The highest of all spots that lie within a cell, at each place by itself, in doubles."""
    rows, columns = table.shape[0] - 2 * SPOT_RING, table.shape[1] - 2 * SPOT_RING
    cos, sin = np.cos(2 * np.pi * evolution), np.sin(2 * np.pi * evolution)
    found = np.zeros(place.shape[:2])
    for y, x in np.ndindex(*found.shape):
        u, v = place[y, x, 0] % 1 * columns, place[y, x, 1] % 1 * rows
        for j in range(math.floor(v) - 1, math.floor(v) + 2):
            for i in range(math.floor(u) - 1, math.floor(u) + 2):
                du, dv, _, way, radius, tone = table[SPOT_RING + j % rows, SPOT_RING + i % columns].tolist()
                pu, pv = i + 0.5 + du * cos - dv * way * sin, j + 0.5 + du * way * sin + dv * cos
                soft = radius * (1 - hardness)
                more = max(edge - soft, 0.0)
                if radius > 0:
                    t = (radius + more / 2 - math.hypot(u - pu, v - pv)) / (soft + more)
                    t = min(max(t, 0.0), 1.0)
                    found[y, x] = max(found[y, x], t * t * (3 - 2 * t) * tone)
    return found


@pytest.mark.parametrize("hardness", [0.0, 0.7, 1.0])
@pytest.mark.parametrize(("columns", "rows"), [(17, 11), (60, 90), (1, 2)])
def test_spots_are_the_highest_of_those_about_each_place(hardness: float, columns: int, rows: int) -> None:
    """On the grid, with runs of many samples in a cell or of few; and at bent places, which jump."""

    def more(first: int, n: int) -> Iterator[np.ndarray]:
        chance = np.random.default_rng(first)
        size = chance.random((n, columns)).astype(np.float32)
        yield np.where(size < 0.7, size * 0.7, 0).astype(np.float32)
        yield 1 - size * 0.5

    table = lay_cells(3, columns, rows, 0.9, SPOT_RING, 2, more)
    grid = tile_places(96, 50)
    bent = grid + np.where(grid[:, :1] > 0.5, 0.31, 0.02 * np.sin(6 * grid)).astype(np.float32)
    sample = np.full((1, 1), 1 / 96, np.float32)
    for place, evolution in ((grid, 0.0), (bent, 0.3)):
        wanted = spots_by_hand(table, hardness, place, max(rows, columns) / 96, evolution)
        laid = np.empty((*table.shape[:2], 4), np.float32)
        lay_spots(table, *swings(evolution)[0, 0], laid)
        for given in (laid, laid[:0, :0]):
            found = np.empty(place.shape[:2], np.float32)
            spot_rows(table, given, np.float32(hardness), place, swings(evolution), sample, found)
            assert np.abs(found - wanted).max() < 2e-4


def test_what_samples_lose_of_a_noise_is_told_from_what_they_keep() -> None:
    at, kept = np.array([0.0, 0.5, 2.0], np.float32), np.array([1.0, 0.7, 0.1], np.float32)
    rows = ((0, 3), (0, 3), (0, 0.4), (0.7, 1.8), (2.1, 3))  # all reach, or within or beyond one stretch
    chance = np.random.default_rng(4)
    reach = np.stack([chance.uniform(*ends, 70) for ends in rows]).astype(np.float32)
    reach[0, :3] = (0, 0.5, 2)
    out = np.empty_like(reach)
    fill_lost(reach / 8, np.float32(8), at, kept, np.float32(0.4), out)
    share = np.interp(reach, at, kept)
    assert out == pytest.approx(0.4 * np.sqrt(1 - share**2), abs=2e-4)
    assert out[0, 0] == 0
