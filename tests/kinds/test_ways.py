"""Ways as complex numbers do what two numbers each would."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedloom.kit import Context
from reedloom.kit.ways import number_of, numbers_of, towards, ways_of

angles = st.floats(-10, 10, width=32)


@given(angles, st.floats(-4, 4, width=32), st.integers(0, 99))
def test_times_a_number_ways_are_turned_and_lengthened(angle: float, length: float, seed: int) -> None:
    ways = np.random.default_rng(seed).uniform(-1, 1, (5, 7, 2)).astype(np.float32)
    c, s = np.cos(np.float64(angle)), np.sin(np.float64(angle))
    wanted = length * ways.astype(np.float64) @ np.array([[c, s], [-s, c]])
    for turn in (np.float32(angle), np.full((5, 7), angle, np.float32)):
        got = ways_of(numbers_of(ways) * towards(turn, np.float32(length)))
        assert got.dtype == np.float32 and got.shape == ways.shape
        assert np.abs(got - wanted).max() < 4e-6


def test_a_number_is_two_across_and_down_whose_sum_goes_on_from_where_the_first_ends() -> None:
    ways = np.zeros((2, 3, 2), np.float32)
    numbers_of(ways)[1, 2] += number_of(0.25, -2)
    assert ways[1, 2].tolist() == [0.25, -2] and np.abs(ways).sum() == 2.25
    some = np.zeros(3, np.complex64)
    assert towards(np.float32(0), np.arange(3, dtype=np.float32), some) is some
    assert ways_of(some).tolist() == [[0, 0], [1, 0], [2, 0]]


@pytest.mark.parametrize("aspect", [0.5, 1.0, 2.0])
def test_a_way_in_widths_is_longer_down_a_tall_tile(aspect: float) -> None:
    context, way = Context(4, 4, (3.0, 3.0 * aspect)), np.array([[0.5, 0.25]], np.float32)
    assert context.in_widths(way).tolist() == [[0.5, 0.25 * aspect]]
    assert context.in_tiles(context.in_widths(way)).tolist() == way.tolist() == [[0.5, 0.25]]
