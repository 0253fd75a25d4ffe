"""Maps and pictures read elsewhere: nothing rings, nothing grows, and what a sample covers is its mean."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from scipy import ndimage

from picture_writing import write_picture
from reedloom.kernels.places import tile_places
from reedloom.kernels.pyramid import TOGETHER, measure_covered, read_as_one, read_covered, read_together
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.context import Context
from reedloom.kit.kind import Kind
from reedloom.laws.draws import flow_of, make_inputs, run, smooth_map

CHANCE = np.random.default_rng(11)
READERS = [
    k for k in built_in_kinds() if any(p.name == "reading" for p in k.parameters) and k.id != "picture"
]


def shrunk(map: np.ndarray, times: int) -> np.ndarray:
    """The mean of each block of so many samples."""
    height, width = map.shape
    return map.reshape(height // times, times, width // times, times).mean(axis=(1, 3))


def spots(size: int, seed: int = 3) -> np.ndarray:
    """A mask of spots with edges as sharp as samples are."""
    noise = ndimage.gaussian_filter(np.random.default_rng(seed).random((size, size)), 2, mode="wrap")
    return (noise > noise.mean()).astype(np.float32)


@pytest.mark.parametrize("kind", [pytest.param(k, id=k.id) for k in READERS])
def test_a_mask_read_elsewhere_stays_a_mask(kind: Kind) -> None:
    inputs = make_inputs(kind, 64, 48)
    assert "map" in inputs
    inputs["map"] = (CHANCE.random(inputs["map"].shape) > 0.5).astype(np.float32)
    for more in ({}, dict(kind.sample), {"reading": kind.parameter("reading").ends()[-1]}):
        for name, array in run(kind, inputs, kind.defaults() | more, (64, 48)).outputs.items():
            assert array.min() >= 0 and array.max() <= 1, (kind.id, name, more)


@pytest.mark.parametrize("keeps", ["highest", "lowest", "average", "last"])
def test_drift_looks_the_same_however_many_steps_it_takes(keeps: str) -> None:
    guide = smooth_map(96, 96)
    few, many = (
        flow_of("drift", {"map": spots(96), "guide": guide}, {"keeps": keeps, "steps": steps}, (96, 96))
        for steps in (12, 64)
    )
    assert many.min() >= 0 and many.max() <= 1
    assert np.sqrt(np.mean((few - many) ** 2)) < 0.09


WAYS = {
    "shrunk": [[2.7, 0.4], [-0.4, 1.3]],
    "shrunk one way": [[1.9, 0.3], [-0.1, 0.6]],
    "turned": [[0.9, 0.3], [-0.3, 0.9]],
}


@pytest.mark.parametrize("ways", WAYS.values(), ids=WAYS)
def test_maps_of_a_material_are_read_as_each_is_by_itself(ways: list[list[float]]) -> None:
    """Where some places stand still, samples cover no more than one while others do."""
    context = Context(40, 30)
    names = ("colour", "a", "normal", "b", "c", "d", "e", "f", "g")
    maps = {n: CHANCE.random((30, 40, 3)[: 3 if len(n) > 1 else 2], np.float32) for n in names}
    groups = read_as_one(maps)
    assert sorted(name for group in groups for name in group) == sorted(names)
    assert {sum(maps[n].size // 1200 for n in group) for group in groups[:-1]} == {TOGETHER}
    place = np.ascontiguousarray(tile_places(40, 30) @ np.array(ways, np.float32))
    for stand_still in (False, True):
        if stand_still:
            place[4:9, 5:31] = place[4, 5]
        covered = measure_covered(context.bands, (30, 40), place)
        for group in groups:
            together = read_together(context.bands, [maps[n] for n in group], place, "linear", covered)
            for name, found in zip(group, together, strict=True):
                assert np.array_equal(found, read_covered(context.bands, maps[name], place, "linear")), name


@pytest.mark.parametrize("turn", [0.0, 0.5])
@pytest.mark.parametrize("repeat", [3, 16])
def test_a_sample_averages_what_it_covers(repeat: int, turn: float) -> None:
    grain = ndimage.gaussian_filter(CHANCE.random((512, 512)), 3, mode="wrap")
    grain = ((grain - grain.mean()) / grain.std()).astype(np.float32)

    def places(size: int) -> np.ndarray:
        at = tile_places(size, size) * np.float32(repeat)
        c, s = np.cos(turn), np.sin(turn)
        return np.stack([c * at[..., 0] - s * at[..., 1], s * at[..., 0] + c * at[..., 1]], -1).astype("f4")

    small = flow_of("sample", {"map": shrunk(grain, 4), "place": places(128)}, None, (128, 128))
    # The truth: every repeat drawn out, then averaged.
    large = flow_of(
        "sample", {"map": shrunk(grain, 4), "place": places(2048)}, {"reading": "nearest"}, (2048, 2048)
    )
    wanted = shrunk(large, 16)
    assert small.std() == pytest.approx(wanted.std(), rel=0.12)
    assert np.corrcoef(small.ravel(), wanted.ravel())[0, 1] > 0.94


# -- pictures ------------------------------------------------------------------------------------------


@pytest.fixture
def scan(tmp_path: Path) -> tuple[str, np.ndarray]:
    """A fine grey picture and its values."""
    levels = (ndimage.gaussian_filter(CHANCE.random((256, 384)), 1, mode="wrap") * 65535).astype(np.uint16)
    write_picture(tmp_path / "scan.png", levels[..., None], "uint16")
    return str(tmp_path / "scan.png"), (levels / 65535).astype(np.float32)


def read(file: str, size: int = 64, place: np.ndarray | None = None, **values: object) -> np.ndarray:
    inputs = {} if place is None else {"place": place}
    found: np.ndarray = flow_of("picture", inputs, {"file": file, **values}, (size, size))["grey"]
    return found


def test_a_part_of_a_scan_is_as_sharp_as_the_scan(scan: tuple[str, np.ndarray]) -> None:
    file, values = scan
    part = read(file, 64, from_left=0.25, from_top=0.5, part_width=64 / 384, part_height=64 / 256)
    assert np.abs(part - values[128:192, 96:160]).max() < 1e-5
    # By a place tied to it as well, which shows the same stretch, read between samples.
    at = tile_places(64, 64) * np.float32([64 / 384, 64 / 256]) + np.float32([0.25, 0.5])
    assert np.abs(read(file, 64, at) - values[128:192, 96:160]).max() < 1e-4


def test_quarter_turns_turn_and_a_free_turn_of_as_much_agrees(scan: tuple[str, np.ndarray]) -> None:
    file, _ = scan
    square = {"part_width": 256 / 384}
    plain = read(file, 256, **square)
    for quarters, name in enumerate(("none", "a quarter", "a half", "three quarters")):
        assert np.array_equal(read(file, 256, quarter_turns=name, **square), np.rot90(plain, -quarters))
        free = read(file, 256, turn=90.0 * quarters, **square)
        assert np.abs(free - np.rot90(plain, -quarters)).max() < 1e-3


def test_scale_and_offset_move_a_picture_and_shrink_it_to_its_mean(scan: tuple[str, np.ndarray]) -> None:
    file, _ = scan
    plain = read(file, 64)
    assert (
        np.abs(read(file, 64, offset_u=0.25, offset_v=-0.125) - np.roll(plain, (-8, 16), (0, 1))).max() < 0.02
    )
    quarter = read(file, 64, scale=0.25)
    assert np.abs(quarter - np.roll(read(file, 64, repeat_u=4, repeat_v=4), (8, 8), (0, 1))).max() < 0.02
    large = shrunk(read(file, 512, scale=0.3), 8)
    assert np.corrcoef(read(file, 64, scale=0.3).ravel(), large.ravel())[0, 1] > 0.97


def test_green_is_flipped_for_normals_of_the_other_way(tmp_path: Path) -> None:
    write_picture(tmp_path / "normal.png", np.full((4, 4, 3), (128, 51, 255), np.uint8), "uint8")
    made = flow_of(
        "picture", {}, {"file": str(tmp_path / "normal.png"), "reading": "plain", "flip_green": True}, (8, 8)
    )["colour"]
    assert np.abs(made - np.array([128, 204, 255]) / 255).max() < 1e-3


def test_a_map_read_where_it_is_stays_as_it_is() -> None:
    """Rounded places must not make a sample cover a hair more than one, and be blurred for it."""
    map = np.random.default_rng(2).random((96, 96), np.float32)
    for across, down in ((0, 0), (24, 48), (95, 1)):
        place = tile_places(96, 96) + np.array([across / 96, down / 96], np.float32)
        got = flow_of("sample", {"map": map, "place": place}, {}, (96, 96))
        assert np.abs(got - np.roll(map, (-down, -across), axis=(0, 1))).max() < 3e-3
