"""Delivered files hold what the engine computed, each whole or not at all."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

import reedloom as rl
from reedloom.delivery.encode import FORMATS, write_map
from reedloom.delivery.names import fill_template, plain_name
from reedloom.kernels.colours import srgb_from_linear
from reedloom.picture_files import read_map


@pytest.fixture
def clay() -> rl.Weave:
    """A weave with a colour map, a grey map beyond 0..1, and a normal map."""
    weave = rl.Weave()
    weave.rename("Lakebed Clay")
    noise = weave.add("gradient_noise", contrast=1.6)
    for kind, channel in (("gradient_map", "base_colour"), ("normal", "normal")):
        node = weave.add(kind)
        weave.connect(noise, node)
        weave.tie(node, channel)
    weave.tie(noise, "height")
    return weave


@pytest.mark.parametrize("how", FORMATS)
def test_files_hold_the_engines_arrays(clay: rl.Weave, how: str, tmp_path: Path) -> None:
    maps = rl.evaluate_maps(clay, 70)
    paths = rl.deliver(clay, tmp_path / "new" / "folder", 70, format=how, normal_y="down")
    assert [p.stem for p in paths] == [f"lakebed_clay_{c}" for c in ("base_colour", "normal", "height")]
    tolerance = {"png8": 0.51 / 255, "png16": 0.51 / 65535, "exr_half": 1e-3, "exr_float": 1e-6}[how]
    for path, channel in zip(paths, maps, strict=True):
        wanted = maps[channel].copy()
        if channel == "normal":
            wanted[..., 1] = 1 - wanted[..., 1]
        if how.startswith("png"):
            wanted = srgb_from_linear(wanted) if channel == "base_colour" else np.clip(wanted, 0, 1)
        got = read_map(path)
        assert got.shape == wanted.shape
        assert np.abs(got - wanted).max() <= tolerance, channel
    assert not [p for p in paths[0].parent.iterdir() if p.name.startswith(".")]


def test_only_colour_is_tagged_as_srgb(clay: rl.Weave, tmp_path: Path) -> None:
    paths = {p.stem: p.read_bytes() for p in rl.deliver(clay, tmp_path, 16)}
    assert b"sRGB" in paths["lakebed_clay_base_colour"][:400]
    assert all(b"sRGB" not in data[:400] for stem, data in paths.items() if "base" not in stem)


@pytest.mark.parametrize(("width", "height"), [(1, 1), (7, 3), (130, 64), (64, 65), (33, 200)])
@pytest.mark.parametrize("channels", [1, 3])
def test_png_is_read_back_by_others_as_written(
    width: int, height: int, channels: int, tmp_path: Path
) -> None:
    """Any size and depth, over block borders, against the picture library's own reader."""
    chance = np.random.default_rng(width)
    array = chance.random((height, width, channels)).astype(np.float32) * 1.2 - np.float32(0.1)
    for how in ("png8", "png16"):
        path = tmp_path / f"{how}.png"
        write_map(path, array if channels == 3 else array[..., 0], FORMATS[how], srgb=False)
        peak = 255 if how == "png8" else 65535
        got = np.round(read_map(path).reshape(height, width, channels) * peak)
        assert np.array_equal(got, np.floor(np.clip(array, 0, 1) * np.float32(peak) + np.float32(0.5)))


def test_names_follow_the_template(clay: rl.Weave, tmp_path: Path) -> None:
    paths = rl.deliver(clay, tmp_path, 16, maps=["height"], name="{map}.{weave}-{size}")
    assert [p.name for p in paths] == ["height.lakebed_clay-16.png"]
    assert plain_name("Wattle & daub — Nº 2") == "wattle_daub_no_2"
    for template in ("{colour}", "{map", "a/{map}", "{map!r}", ".."):
        with pytest.raises(rl.ReedError, match=r"name"):
            fill_template(template, {"map": "height"})
    with pytest.raises(rl.ReedError, match=r"put \{map\} into it"):
        rl.deliver(clay, tmp_path, 16, name="same")


def test_wrong_orders_are_explained(clay: rl.Weave, tmp_path: Path) -> None:
    with pytest.raises(rl.UnknownNameError, match="no format 'jpg'"):
        rl.deliver(clay, tmp_path, 16, format="jpg")
    with pytest.raises(rl.UnknownNameError, match="no tied map 'roughness'"):
        rl.deliver(clay, tmp_path, 16, maps=["roughness"])
    with pytest.raises(rl.ReedError, match="Nothing is tied"):
        rl.deliver(rl.Weave(), tmp_path, 16)
    (tmp_path / "file").write_text("x")
    with pytest.raises(rl.FileError, match="Cannot deliver to"):
        rl.deliver(clay, tmp_path / "file" / "maps", 16)
    rl.deliver(clay, tmp_path, 16, maps=["height"])
    with pytest.raises(rl.FileError, match="there already"):
        rl.deliver(clay, tmp_path, 16, overwrite=False)
    lonely = clay.add("blur")
    clay.tie(lonely, "roughness")
    before = sorted(tmp_path.iterdir())
    with pytest.raises(rl.EvaluationError, match="blur_1"):
        rl.deliver(clay, tmp_path, 16)
    assert sorted(tmp_path.iterdir()) == before


def test_stopping_leaves_the_old_files_as_they_were(clay: rl.Weave, tmp_path: Path) -> None:
    old = {p: p.read_bytes() for p in rl.deliver(clay, tmp_path, 16)}
    stop = rl.Stop()

    def on_progress(share: float) -> None:
        if share > 0.5:
            stop.set()

    with pytest.raises(rl.Cancelled):
        rl.deliver(clay, tmp_path, 512, stop=stop, progress=on_progress)
    assert {p: p.read_bytes() for p in tmp_path.iterdir()} == old


ON_A_FULL_DISK = """
import resource, signal, sys
import reedloom as rl
signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
weave = rl.Weave()
weave.tie(weave.add("gradient_noise"), "height")
rl.evaluate_maps(weave, 8)
resource.setrlimit(resource.RLIMIT_FSIZE, (60_000, resource.RLIM_INFINITY))
try:
    rl.deliver(weave, sys.argv[1], 512, format=sys.argv[2])
except rl.FileError as error:
    print(error)
    sys.exit(7)
"""


@pytest.mark.parametrize("how", FORMATS)
def test_a_full_disk_is_one_sentence_and_no_file(how: str, tmp_path: Path) -> None:
    ended = subprocess.run(
        [sys.executable, "-c", ON_A_FULL_DISK, str(tmp_path), how],
        capture_output=True,
        text=True,
        check=False,
        env=os.environ,
    )
    assert ended.returncode == 7, ended.stderr
    assert ended.stdout.startswith("Cannot write") and ended.stdout.count("\n") == 1
    assert list(tmp_path.iterdir()) == []


def test_what_is_cut_is_told_and_floats_cut_nothing(tmp_path: Path) -> None:
    weave = rl.Weave()
    noise, up = weave.add("gradient_noise"), weave.add("formula", formula="a * 2")
    weave.connect(noise, f"{up}.a")
    weave.tie(up, "height")
    weave.tie(weave.add("disc"), "roughness")
    map = rl.evaluate(weave, up, 64)
    wanted = float(((map > 1.0001) | (map < -0.0001)).mean())
    assert 0.1 < wanted < 0.9
    done = rl.deliver(weave, tmp_path, 64)
    assert list(done) == [tmp_path / "untitled_roughness.png", tmp_path / "untitled_height.png"]
    assert done.cut == {tmp_path / "untitled_height.png": pytest.approx(wanted)}
    assert done.told()[0].startswith("untitled_height.png: ") and "cut" in done.told()[0]
    assert not rl.deliver(weave, tmp_path, 64, format="exr_half").cut
