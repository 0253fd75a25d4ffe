"""Turned lattices: they close at the seam, repeat nothing, and are turned by what they say."""

from __future__ import annotations

import math

import numpy as np
import pytest

from reedloom.kernels.turned import Cosets, turned_by, ways
from reedloom.laws.draws import flow_of

SOME = [(26.6, 1.0), (45.0, 1.0), (-71.6, 1.0), (90.0, 2.0), (14.0, 0.5), (143.0, 2.0), (33.7, 1.5)]


@pytest.mark.parametrize(("angle", "aspect"), SOME)
def test_corners_whole_tiles_apart_are_the_same_and_no_others(angle: float, aspect: float) -> None:
    cosets = turned_by(angle, 9, round(12 * aspect), aspect)
    assert cosets is not None
    i, j = cosets.same()
    ratio = cosets.p / cosets.q
    steps = [
        (cosets.g * cosets.a, -cosets.h * cosets.b),
        (ratio * cosets.g * cosets.b, ratio * cosets.h * cosets.a),
    ]
    for right, down in steps:  # a tile across, and a tile down, in cells
        assert right == round(right) and down == round(down)
        moved = [np.roll(m, (-round(down), -round(right)), axis=(0, 1)) for m in (i, j)]
        assert np.array_equal(moved[0], i) and np.array_equal(moved[1], j)
    norm = cosets.a**2 + cosets.b**2
    assert len(np.unique(i * 100_000 + j)) == round(ratio * cosets.g * cosets.h * norm)
    table = cosets.finer(cosets.g * 64).table()
    assert max(table.columns, table.rows) <= 1024 and table.g % cosets.q == 0


@pytest.mark.parametrize(("angle", "aspect"), SOME)
def test_which_corner_stands_for_another_follows_from_whole_divisions(angle: float, aspect: float) -> None:
    cosets = turned_by(angle, 7, round(10 * aspect), aspect)
    assert cosets is not None
    a, b, p, q, g, h = cosets.a, cosets.b, cosets.p, cosets.q, cosets.g, cosets.h
    norm = g * h * (a * a + b * b)
    j, i = np.mgrid[-3 : cosets.rows + 3, -3 : cosets.columns + 3]
    across, down = (h * a * i - g * b * j) // norm, q * (h * b * i + g * a * j) // (p * norm)
    wanted_i = i - across * g * a - down * (p * g // q) * b
    wanted_j = j + across * h * b - down * (p * h // q) * a
    got_i, got_j = cosets.same(ring=3)
    assert np.array_equal(got_i, wanted_i - wanted_i.min()) and np.array_equal(
        got_j, wanted_j - wanted_j.min()
    )


@pytest.mark.parametrize(("angle", "aspect"), SOME)
def test_cells_laid_around_the_table_are_those_within(angle: float, aspect: float) -> None:
    cosets = turned_by(angle, 7, round(10 * aspect), aspect)
    assert cosets is not None

    def make(columns: int, rows: int) -> np.ndarray:
        inner = np.arange(columns * rows * 2, dtype=np.float32).reshape(rows, columns, 2)
        return np.pad(inner, ((2, 2), (2, 2), (0, 0)), constant_values=-1)

    laid = cosets.laid(make, 2)
    i, j = cosets.same()
    columns = int(i.max()) + 1
    inner = np.stack([2 * (j * columns + i), 2 * (j * columns + i) + 1], axis=-1)
    assert np.array_equal(laid, np.pad(inner, ((2, 2), (2, 2), (0, 0)), mode="wrap"))


@pytest.mark.parametrize(("angle", "aspect"), SOME)
def test_places_are_those_of_a_turn_and_come_back(angle: float, aspect: float) -> None:
    cosets = turned_by(angle, 12, round(12 * aspect), aspect)
    assert cosets is not None
    place = np.random.default_rng(3).random((40, 2))
    among = cosets.places(place)
    assert np.abs(cosets.places_back(among) - place).max() < 1e-5
    turn, scale = math.atan2(cosets.b, cosets.a), math.hypot(cosets.a, cosets.b)
    x, y = place[:, 0], place[:, 1] * cosets.p / cosets.q
    found = among * [cosets.columns, cosets.rows]
    assert found[:, 0] == pytest.approx(
        cosets.g * scale * (math.cos(turn) * x + math.sin(turn) * y), abs=1e-3
    )
    assert found[:, 1] == pytest.approx(
        cosets.h * scale * (math.cos(turn) * y - math.sin(turn) * x), abs=1e-3
    )


def test_a_turned_noise_repeats_nothing_within_the_tile() -> None:
    """The tile read at a turned place runs through its pattern five times; the turned noise does not."""
    turn, size = 26.56505, 240
    own = flow_of("gradient_noise", {}, {"turn": turn, "cells": 22, "octaves": 1.0}, (size, size))
    place = flow_of("transform_place", {}, {"turn": turn, "scale": 0.44721}, (size, size))
    read = flow_of("gradient_noise", {"place": place}, {"cells": 10, "octaves": 1.0}, (size, size))
    apart = (size // 5, size * 2 // 5)  # a fifth of the tile on, along the grid's own way

    def alike(map: np.ndarray) -> float:
        tested = [np.roll(map, shift, axis=(0, 1)) for shift in (apart, (apart[1], -apart[0]))]
        return float(max(np.corrcoef(map.reshape(-1), t.reshape(-1))[0, 1] for t in tested))

    assert alike(read) > 0.95 and alike(own) < 0.2


@pytest.mark.parametrize("kind_id", ["gradient_noise", "value_noise", "cellular_noise", "fibre_noise"])
def test_long_cells_lie_the_way_they_are_turned(kind_id: str) -> None:
    long = {"along": 4, "across": 40, "waviness": 0.0, "slant": 0.0} if kind_id == "fibre_noise" else {
        "cells": 4, "cells_down": 40, "octaves": 1.0
    }  # fmt: skip
    for angle in (0.0, 26.56505, 63.43495, -45.0):
        made = flow_of(kind_id, {}, {**long, "turn": angle}, (256, 256))
        map = made if isinstance(made, np.ndarray) else made["nearest"]
        spectrum = np.abs(np.fft.fft2(map - map.mean())) ** 2
        ku, kv = np.meshgrid(np.fft.fftfreq(256), np.fft.fftfreq(256))
        tensor = [[(spectrum * a * b).sum() for a in (ku, kv)] for b in (ku, kv)]
        values, axes = np.linalg.eigh(np.array(tensor))
        assert values[1] > 4 * values[0]
        lies = math.degrees(math.atan2(axes[1, 0], axes[0, 0]))  # across which it changes least
        assert abs((lies - angle + 90) % 180 - 90) < 4


def test_every_stop_of_a_noise_is_an_angle_it_can_be_turned_by() -> None:
    angles = [angle for angle, _, _ in ways()]
    assert len(angles) == len(set(angles)) > 50 and 0.0 in angles and 45.0 in angles
    assert max(np.diff(sorted(angles))) < 12
    straight = flow_of("gradient_noise", {}, {"turn": 0.0}, (64, 64))
    assert np.array_equal(straight, flow_of("gradient_noise", {}, {"turn": 3.0}, (64, 64)))
    assert turned_by(2.0, 8, 8, 1.0) is None
    assert isinstance(turned_by(-90.0, 8, 8, 1.0), Cosets)


@pytest.mark.parametrize("angle", [0.0, 26.56505, 90.0, -45.0])
@pytest.mark.parametrize("aspect", [1.0, 2.0])
def test_a_turned_flow_follows_the_contours_of_its_potential(angle: float, aspect: float) -> None:
    values = {"cells": 2, "cells_down": round(8 * aspect), "turn": angle}
    made = flow_of("flow_noise", {}, values, (192, round(192 * aspect)), physical=(1.0, aspect))
    flow, potential = made["flow"], made["potential"]
    rise_u, rise_v = (np.roll(potential, -1, axis) - np.roll(potential, 1, axis) for axis in (1, 0))
    # In samples, which are square; v counts so many times as there are widths in the tile's height.
    along = flow[..., 0] * rise_u + flow[..., 1] * aspect * rise_v
    whole = np.hypot(flow[..., 0], flow[..., 1] * aspect) * np.hypot(rise_u, rise_v)
    assert np.abs(along).sum() < 0.02 * whole.sum()
    assert (flow[..., 0] * rise_v).sum() > 0
