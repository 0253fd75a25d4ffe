"""Blur, sampling, slopes, occlusion, curves and colours against independent references."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy import ndimage

from reedloom.kernels.colours import linear_from_oklab, linear_from_srgb, oklab_from_linear, srgb_from_linear
from reedloom.kernels.curves import curve_table, evaluate_curve, gradient_table, read_table
from reedloom.kernels.gauss import gaussian_blur
from reedloom.kernels.horizon import open_sky, ray_steps
from reedloom.kernels.jit import run_bands
from reedloom.kernels.places import tile_places
from reedloom.kernels.reading import sample_rows
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.context import Context
from resampled import linear_reference, spline_reference

CHANCE = np.random.default_rng(5)


@pytest.mark.parametrize("size", [(64, 64), (48, 80), (37, 53)])
@pytest.mark.parametrize("pixels", [1.5, 4.0, 11.0])
def test_blur_is_the_wrapped_gaussian(size: tuple[int, int], pixels: float) -> None:
    height, width = size
    source = CHANCE.random(size).astype(np.float32)
    got = gaussian_blur(source, (pixels / width, pixels / height), run_bands)
    wanted = ndimage.gaussian_filter(source.astype(np.float64), pixels, mode="wrap", truncate=8)
    assert np.abs(got - wanted).max() < 2e-4


def test_blur_by_map_is_each_samples_own_blur() -> None:
    """Against a dense reference that blurs the whole map once for each radius in use."""
    size, radius = 96, 0.06
    source = ndimage.gaussian_filter(CHANCE.random((size, size)), 1, mode="wrap").astype(np.float32)
    share = (0.5 - 0.5 * np.cos(2 * np.pi * np.arange(size) / size)).astype(np.float32)
    radius_map = np.repeat(share[None], size, axis=0)
    got = built_in_kinds().get("blur").compute(Context(size, size), source, radius_map, radius=radius)
    wanted = np.empty_like(source)
    for x in range(size):
        pixels = share[x] * radius * size
        wanted[:, x] = (
            ndimage.gaussian_filter(source, pixels, mode="wrap", truncate=6)[:, x]
            if pixels > 0
            else source[:, x]
        )
    assert np.sqrt(np.mean((got - wanted) ** 2)) < 0.02 * np.ptp(source)


@pytest.mark.parametrize("spline", [False, True])
@pytest.mark.parametrize("channels", [1, 2, 3])
@pytest.mark.parametrize("size", [(1, 1), (3, 5), (4, 4), (30, 41), (64, 48)])
def test_sampling_is_wrapped_interpolation(size: tuple[int, int], channels: int, spline: bool) -> None:
    source = CHANCE.random((*size, channels)).astype(np.float32)
    for width in (1, 15, 16, 17, 131):
        place = (CHANCE.random((9, width, 2)) * 3 - 1).astype(np.float32)
        place[4] = place[4] * np.float32(0.001) + np.float32(0.5)  # a row that never meets the seam
        got = np.full((9, width, channels), -1, np.float32)
        for y0, y1 in ((0, 2), (2, 9)):
            sample_rows(source, place, got, spline, y0, y1)
        wanted = spline_reference(source, place) if spline else linear_reference(source, place)
        assert np.abs(got - wanted).max() < 1e-4


@pytest.mark.parametrize("spline", [False, True])
@pytest.mark.parametrize("channels", [1, 3])
@pytest.mark.parametrize(
    "steps", [(0.0, 0.0), (0.03, -0.02), (-0.05, 0.04), (0.06, 0.15), (0.2, 0.0), (-2.0, 0.1)]
)
def test_rows_that_run_nearly_as_the_source_does_are_read_like_others(
    steps: tuple[float, float], channels: int, spline: bool
) -> None:
    """Samples of which some lie a column or a row further on than others; to the borders of the source."""
    height, width = 23, 70
    source = CHANCE.random((height, width, channels)).astype(np.float32)
    place = tile_places(width, height).astype(np.float64)
    run = np.arange(width) * np.array(steps)[:, None]
    place += np.moveaxis(run + CHANCE.uniform(-2, 2, (height, 2, 1)), 1, -1) / (width, height)
    place = np.ascontiguousarray(place, np.float32)
    got = np.empty_like(source)
    sample_rows(source, place, got, spline, 0, height)
    wanted = spline_reference(source, place) if spline else linear_reference(source, place)
    assert np.abs(got - wanted).max() < 1e-4


@pytest.mark.parametrize("spline", [False, True])
@pytest.mark.parametrize("channels", [1, 3])
@pytest.mark.parametrize("width", [255, 256, 300, 400])
def test_rows_that_run_down_the_source_are_read_like_others(width: int, channels: int, spline: bool) -> None:
    """Turned by a quarter and a bit: a row goes through as many rows of the source as it has samples."""
    source = CHANCE.random((width, 40, channels)).astype(np.float32)
    slanted = tile_places(width, 40)[..., ::-1] + np.float32([0.31 / 40, 0.17 / width])
    slanted[..., 0] += slanted[..., 1] * np.float32(0.2)
    place = np.ascontiguousarray(slanted, np.float32)
    got = np.full((40, width, channels), -1, np.float32)
    for y0, y1 in ((0, 7), (7, 40)):
        sample_rows(source, place, got, spline, y0, y1)
    wanted = spline_reference(source, place) if spline else linear_reference(source, place)
    assert np.abs(got - wanted).max() < 1e-4


@pytest.mark.parametrize("spline", [False, True])
def test_a_spline_and_a_line_go_through_their_samples(spline: bool) -> None:
    source = CHANCE.random((30, 41, 1)).astype(np.float32)
    exact = np.empty_like(source)
    sample_rows(source, tile_places(41, 30), exact, spline, 0, 30)
    assert np.abs(exact - source).max() < 1e-5


@pytest.mark.parametrize("spline", [False, True])
@pytest.mark.parametrize("channels", [1, 3])
def test_what_is_read_does_not_depend_on_where_places_lie_in_memory(channels: int, spline: bool) -> None:
    source = CHANCE.random((48, 64, channels)).astype(np.float32)
    place = (CHANCE.random((9, 75, 2)) * 3 - 1).astype(np.float32)
    read = []
    for shift in range(0, 64, 8):
        held = np.zeros(place.nbytes + 64, np.uint8)
        moved = held[shift : shift + place.nbytes].view(np.float32).reshape(place.shape)
        moved[...] = place
        read.append(np.empty((9, 75, channels), np.float32))
        sample_rows(source, moved, read[-1], spline, 0, 9)
    assert all(np.array_equal(read[0], other) for other in read[1:])


@pytest.mark.parametrize("spline", [False, True])
def test_a_place_that_is_no_number_spoils_only_its_own_sample(spline: bool) -> None:
    source = CHANCE.random((64, 64, 1)).astype(np.float32)
    place = tile_places(64, 64)
    place[10, 20] = np.nan
    place[30, 40, 0] = np.inf
    got = np.empty_like(source)
    sample_rows(source, place, got, spline, 0, 64)
    sound = np.ones((64, 64), bool)
    sound[10, 20] = sound[30, 40] = False
    assert np.abs(got - source)[sound].max() < 1e-4


def test_normals_are_those_of_a_sine_surface() -> None:
    size, depth, waves = 256, 0.2, 3
    place = tile_places(size, size).astype(np.float64)
    height = (0.5 + 0.5 * np.sin(2 * np.pi * waves * (place[..., 0] + place[..., 1]))).astype(np.float32)
    context = Context(size, size, physical=(2.0, 1.0), depth=depth)
    got = built_in_kinds().get("normal").compute(context, height, strength=1.0) * 2 - 1
    steep = np.pi * waves * depth * np.cos(2 * np.pi * waves * (place[..., 0] + place[..., 1]))
    wanted = np.stack([-steep / 2.0, steep, np.ones_like(steep)], axis=-1)  # y is up, rows run down
    wanted /= np.linalg.norm(wanted, axis=-1, keepdims=True)
    assert np.abs(got - wanted).max() < 2e-3


def test_occlusion_is_the_slow_definition() -> None:
    size, directions, radius = 24, 6, 0.3
    surface = (CHANCE.random((size, size)) * 0.2).astype(np.float32)
    steps = ray_steps(size, size, (1.0, 1.0), radius, directions)
    got = open_sky(surface, 1.0, steps, directions, lambda band: band(0, size))
    for y, x in ((0, 0), (23, 23), (5, 17)):
        total = 0.0
        for ray in range(directions):
            horizon = 0.0
            for dx, dy, inverse, number in steps:
                if number == ray:
                    rise = surface[(y + int(dy)) % size, (x + int(dx)) % size] - surface[y, x]
                    horizon = max(horizon, rise * inverse)
            total += 1 / (1 + horizon**2)
        assert got[y, x] == pytest.approx(total / directions, abs=1e-5)


def test_occlusion_below_a_long_wall_is_its_closed_form() -> None:
    """At distance d from an endless wall of height h half the sky is open, and of the rest
    the mean of 1 / (1 + (h cos a / d)^2) over the quarter turn: 1 / sqrt(1 + (h / d)^2)."""
    size, wall = 512, 0.05
    surface = np.zeros((8, size), np.float32)
    surface[:, size // 2 :] = wall
    steps = ray_steps(size, 8, (1.0, 8 / size), 0.45, 64)
    got = open_sky(surface, 1.0, steps, 64, lambda band: band(0, 8))
    for samples in (12, 30, 80):
        distance = (samples + 0.5) / size
        wanted = 0.5 + 0.5 / math.sqrt(1 + (wall / distance) ** 2)
        assert got[4, size // 2 - 1 - samples] == pytest.approx(wanted, abs=0.03)


def test_colour_transfer_is_iec_61966_2_1() -> None:
    known = {0.0: 0.0, 0.0031308: 0.04045, 0.18: 0.46135612, 0.5: 0.73535698, 1.0: 1.0}
    for linear, encoded in known.items():
        assert float(srgb_from_linear(np.array([linear]))[0]) == pytest.approx(encoded, abs=1e-5)
    x = np.linspace(0, 1, 999)
    assert np.abs(linear_from_srgb(srgb_from_linear(x)) - x).max() < 1e-6


def test_oklab_of_known_colours() -> None:
    """Red, green and blue as B. Ottosson publishes them."""
    wanted = [(0.628, 0.225, 0.126), (0.866, -0.234, 0.179), (0.452, -0.032, -0.312)]
    assert np.abs(oklab_from_linear(np.eye(3)) - wanted).max() < 2e-3
    colours = CHANCE.random((50, 3))
    assert np.abs(linear_from_oklab(oklab_from_linear(colours)) - colours).max() < 1e-5


def test_curves_pass_through_their_knots_and_never_swing_beyond() -> None:
    knots = ((0, 0.2, 0), (0.2, 0.9, 0), (0.5, 0.9, 1), (0.7, 0.1, 0), (1, 0.6, 0))
    x = np.array([k[0] for k in knots])
    assert evaluate_curve(knots, x) == pytest.approx([k[1] for k in knots])
    dense = evaluate_curve(knots, np.linspace(0, 1, 2001))
    assert dense.min() >= 0.1 - 1e-9 and dense.max() <= 0.9 + 1e-9
    slopes = np.diff(evaluate_curve(knots, np.array([0.499, 0.5, 0.501])))
    assert abs(slopes[0]) < 1e-4 < abs(slopes[1])  # the sharp knot is a corner
    table = curve_table(((0, 0, 0), (1, 1, 0)))
    assert read_table(table, np.array([-1, 0, 0.25, 1, 2], np.float32)) == pytest.approx(
        [0, 0, 0.25, 1, 1], abs=1e-6
    )


def test_gradients_mix_in_light_or_as_the_eye_sees() -> None:
    stops = ((0.0, 1.0, 0.0, 0.0), (1.0, 0.0, 0.0, 1.0))
    light = gradient_table(stops, "linear", "light")
    assert light[len(light) // 2] == pytest.approx([0.5, 0, 0.5], abs=1e-3)
    seen = gradient_table(stops, "linear", "OKLab")[2048]
    wanted = linear_from_oklab(oklab_from_linear(np.array([[1, 0, 0], [0, 0, 1]])).mean(axis=0))
    assert seen == pytest.approx(wanted, abs=2e-3)
    assert gradient_table(stops, "stepped", "light")[4000] == pytest.approx([1, 0, 0])
