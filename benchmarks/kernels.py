"""Noise, blur and resampling beside the compiled libraries one would otherwise use."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import cv2
import numpy as np
from pyfastnoiselite.pyfastnoiselite import FastNoiseLite, FractalType, NoiseType
from scipy import ndimage

from benchmarks.timing import Row, best_of, limited
from reedloom.kernels.distance import nearest_seeds
from reedloom.kernels.morphology import dilate, half_widths
from reedloom.kernels.places import tile_places
from reedloom.kernels.reading import read_at
from reedloom.kernels.regions import find_regions
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.context import Context

SIZE = 2048


def rows() -> Iterator[Row]:
    """One row for each piece of work."""
    yield noise()
    yield blur()
    yield from resampling()
    yield dilation()
    yield from stamps()
    yield from strokes()
    yield distance()
    yield islands()


def noise() -> Row:
    """Eight octaves of gradient noise."""
    declared = built_in_kinds().get("gradient_noise")
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
        9.0,
    )


def blur() -> Row:
    """A periodic Gaussian of 20 samples."""
    source = np.random.default_rng(1).random((SIZE, SIZE), np.float32)
    declared = built_in_kinds().get("blur")
    return Row(
        "periodic Gaussian blur, 20 px, 2048²",
        best_of(lambda: declared.compute(Context(SIZE, SIZE), source, None, radius=20 / SIZE)),
        "scipy.ndimage.gaussian_filter, wrap",
        best_of(lambda: ndimage.gaussian_filter(source, 20, mode="wrap"), 2),
        8.0,
    )


def resampling() -> Iterator[Row]:
    """A map read at bent places, and at turned ones."""
    noise = built_in_kinds().get("gradient_noise")
    context = Context(SIZE, SIZE)
    source = noise.compute(context, None, None, **noise.defaults())
    moved = noise.defaults() | {"signed": True}
    bend = [noise.compute(context, None, None, **(moved | {"seed": seed})) for seed in (1, 2)]
    tile = tile_places(SIZE, SIZE)
    turn = np.array([[0.8, 0.6], [-0.6, 0.8]], np.float32)
    for how, place in {
        "bent": tile + np.stack(bend, axis=-1) * np.float32(0.05),
        "turned": tile @ turn,
    }.items():
        x, y = (np.ascontiguousarray(place[..., i] * SIZE - np.float32(0.5)) for i in (0, 1))
        yield Row(
            f"resampling at {how} places, 2048²",
            best_of(partial(read_at, context.bands, source, place, "linear")),
            f"cv2.remap {cv2.__version__}, linear, wrap",
            best_of(partial(cv2.remap, source, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP)),
            2.0,
        )


def dilation() -> Row:
    """A grey dilation by a disc of 32 samples; the peer gets the same element and a border to wrap in."""
    source = np.random.default_rng(2).random((SIZE, SIZE), np.float32)
    radius = 32
    halves = half_widths("round", radius)
    element = (np.abs(np.arange(-radius, radius + 1))[None, :] <= halves[:, None]).astype(np.uint8)
    context = Context(SIZE, SIZE)

    def peer() -> np.ndarray:
        padded = cv2.copyMakeBorder(source, radius, radius, radius, radius, cv2.BORDER_WRAP)
        return cv2.dilate(padded, element)[radius:-radius, radius:-radius]

    assert np.array_equal(dilate(source, "round", radius, context.bands), peer())
    return Row(
        "dilation by a disc of 32 px, 2048²",
        best_of(lambda: dilate(source, "round", radius, context.bands)),
        f"cv2.dilate {cv2.__version__}, same element",
        best_of(peer, 2),
        1.0,
    )


def stamps() -> Iterator[Row]:
    """Stamps of 64 samples at 1024², beside the seconds they may take."""
    size = 1024
    disc, lay, draw = (built_in_kinds().get(name) for name in ("disc", "scatter_points", "stamp"))
    form = Context(size, size, wanted=frozenset({"profile"}))
    drawing = disc.compute(form, None, **(disc.defaults() | {"wrapped": False}))["profile"]
    rest = [None] * (len(draw.inputs) - 2)
    for count, allowed, resting in ((10_000, 1.0, 0.0), (10_000, 1.0, 1.0), (200_000, 10.0, 0.0)):
        points = lay.compute(Context(size, size), None, **(lay.defaults() | {"count": count}))
        values = draw.defaults() | {"size": 64 / size, "resting": resting}
        context = Context(size, size, wanted=frozenset({"height", "mask"}))
        yield Row(
            f"{count:,} stamps of 64 px, 1024²{', resting' if resting else ''}",
            best_of(partial(draw.compute, context, points, drawing, *rest, **values), 1),
            "limit",
            allowed,
            1.0,
        )


def strokes() -> Iterator[Row]:
    """Many paths laid, bent and drawn at 2048², beside the seconds they may take."""
    lay, grow, bridge, bend, draw = (
        built_in_kinds().get(name)
        for name in ("scatter_points", "grow_paths", "between_paths", "warp_paths", "draw_paths")
    )
    context = Context(SIZE, SIZE, wanted=frozenset({"height", "mask"}))
    many = ((2_000, 64, 0.3, 0.006, 0.6), (20_000, 16, 0.1, 0.003, 4.0))
    for count, corners, length, width, allowed in many:
        points = lay.compute(context, None, **(lay.defaults() | {"count": count}))
        values = grow.defaults() | {"corners": corners, "length": length, "wander": 0.5}
        paths = grow.compute(context, points, None, None, **values)
        drawn = draw.defaults() | {"width": width}
        seconds = best_of(partial(draw.compute, context, paths, **drawn), 3)
        yield limited(f"{count:,} paths of {corners} corners drawn, 2048²", seconds, allowed)
        if count <= 2_000:
            card = Context(128, 128, wanted=frozenset({"height"}))
            seconds_small = best_of(partial(draw.compute, card, paths, **drawn), 3)
            yield limited(f"{count:,} paths on a card, 128²", seconds_small, 0.05)
        theirs = best_of(partial(lines, paths, count, round(width * SIZE)), 3)
        peer = f"cv2.polylines {cv2.__version__}, smooth, and a distance transform"
        yield Row(f"the same {count:,}, height and mask", seconds, peer, theirs, 1.0)
    rings = built_in_kinds().get("circle_path")
    circles = rings.compute(context, **(rings.defaults() | {"rings": 2}))
    flow = np.random.default_rng(1).random((512, 512, 2), np.float32)

    def bridges() -> None:
        laid = bridge.compute(context, circles, None, **(bridge.defaults() | {"count": 10_000}))
        bend.compute(context, laid, flow, None, **bend.defaults())

    yield limited("10,000 paths bridged and bent", best_of(bridges), 0.15)


def lines(paths: np.ndarray, count: int, thickness: int) -> np.ndarray:
    """Paths that all have as many corners as a peer draws them, and how far each sample is from a line."""
    corners = np.stack([paths["u"], paths["v"]], axis=1).reshape(count, -1, 1, 2) * SIZE * 16
    drawn = np.zeros((SIZE, SIZE), np.uint8)
    cv2.polylines(drawn, list(corners.astype(np.int32)), False, 255, thickness, cv2.LINE_AA, 4)
    found: np.ndarray = cv2.distanceTransform(255 - drawn, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return found


def blobs() -> np.ndarray:
    """Some thousand blobs over two fifths of a tile: (SIZE, SIZE) bool."""
    noise = ndimage.gaussian_filter(np.random.default_rng(3).random((SIZE, SIZE)), 4, mode="wrap")
    return noise > np.quantile(noise, 0.6)


def distance() -> Row:
    """The exact distance to blobs around the tile; the peer knows no wrapping."""
    inside, context = blobs(), Context(SIZE, SIZE)
    return Row(
        "exact periodic distance, 2048²",
        best_of(lambda: nearest_seeds(inside, context.bands)),
        "scipy distance_transform_edt, not wrapped",
        best_of(lambda: ndimage.distance_transform_edt(~inside), 2),
        5.0,
    )


def islands() -> Row:
    """Connected regions across the seam; the peer knows no seam."""
    inside = blobs()
    count = int(find_regions(inside, False).max())
    return Row(
        f"{count:,} islands, 2048²",
        best_of(lambda: find_regions(inside, False)),
        "scipy.ndimage.label, not joined",
        best_of(lambda: ndimage.label(inside), 2),
        0.25,
    )
