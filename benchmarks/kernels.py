"""Noise, blur and resampling beside the compiled libraries one would otherwise use."""

from __future__ import annotations

from collections.abc import Iterator

import cv2
import numpy as np
from pyfastnoiselite.pyfastnoiselite import FastNoiseLite, FractalType, NoiseType
from scipy import ndimage

from benchmarks.timing import Row, best_of
from reedloom.kernels.places import read_at, tile_places
from reedloom.kinds.catalogue import get_kind
from reedloom.kinds.context import Context

SIZE = 2048


def rows() -> Iterator[Row]:
    """One row for each piece of work."""
    yield noise()
    yield blur()
    yield resampling()


def noise() -> Row:
    """Eight octaves of gradient noise."""
    declared = get_kind("gradient_noise")
    values = declared.defaults() | {"octaves": 8.0}
    peer = FastNoiseLite(1)
    peer.noise_type = NoiseType.NoiseType_Perlin
    peer.fractal_type = FractalType.FractalType_FBm
    peer.fractal_octaves = 8
    peer.frequency = 6 / SIZE
    place = tile_places(SIZE, SIZE).reshape(-1, 2).T * SIZE
    coordinates = np.ascontiguousarray(place.astype(np.float32))
    return Row(
        "fBm of gradient noise, 8 octaves, 2048²",
        best_of(lambda: declared.compute(Context(SIZE, SIZE), None, None, **values)),
        "pyfastnoiselite, Perlin fBm",
        best_of(lambda: peer.gen_from_coords(coordinates), 2),
        6.0,
    )


def blur() -> Row:
    """A periodic Gaussian of 20 samples."""
    source = np.random.default_rng(1).random((SIZE, SIZE), np.float32)
    declared = get_kind("blur")
    return Row(
        "periodic Gaussian blur, 20 px, 2048²",
        best_of(lambda: declared.compute(Context(SIZE, SIZE), source, None, radius=20 / SIZE)),
        "scipy.ndimage.gaussian_filter, wrap",
        best_of(lambda: ndimage.gaussian_filter(source, 20, mode="wrap"), 2),
        8.0,
    )


def resampling() -> Row:
    """A map read at bent places."""
    noise = get_kind("gradient_noise")
    context = Context(SIZE, SIZE)
    source = noise.compute(context, None, None, **noise.defaults())
    moved = noise.defaults() | {"signed": True}
    bend = [noise.compute(context, None, None, **(moved | {"seed": seed})) for seed in (1, 2)]
    place = (tile_places(SIZE, SIZE) + np.stack(bend, axis=-1) * np.float32(0.05)).astype(np.float32)
    x, y = (np.ascontiguousarray(place[..., i] * SIZE - np.float32(0.5)) for i in (0, 1))
    return Row(
        "resampling at given places, 2048²",
        best_of(lambda: read_at(context.bands, source, place, "linear")),
        f"cv2.remap {cv2.__version__}, linear, wrap",
        best_of(lambda: cv2.remap(source, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP)),
        2.0,
    )
