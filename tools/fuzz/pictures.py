"""Pictures that nobody saved: each is read as finite samples, or refused in a sentence."""

from __future__ import annotations

import os
import random
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path

import numpy as np
import OpenImageIO as oiio  # noqa: N813 - the library's own short name
from hostile import FaultError, in_a_sentence, mutated_bytes

from reedloom import picture_files

FORMATS = (
    (".png", "uint8", 3, {}), (".png", "uint16", 4, {}), (".png", "uint8", 1, {}),
    (".jpg", "uint8", 3, {}), (".jpg", "uint8", 3, {"jpeg:progressive": 1}),
    (".tif", "uint8", 3, {"compression": "zip"}), (".tif", "float", 1, {"compression": "lzw"}),
    (".tif", "uint16", 3, {"tile": 16}), (".exr", "half", 3, {}), (".exr", "float", 4, {"tile": 16}),
    (".hdr", "float", 3, {}), (".bmp", "uint8", 3, {}), (".ppm", "uint8", 3, {}), (".pfm", "float", 1, {}),
)  # fmt: skip


@cache
def _sources() -> list[bytes]:
    """A small sound file of every format."""
    found, pixels = [], np.random.default_rng(5).random((37, 29, 4), np.float32)
    with tempfile.TemporaryDirectory() as folder:
        for number, (suffix, type_, channels, more) in enumerate(FORMATS):
            path = f"{folder}/{number}{suffix}"
            spec = oiio.ImageSpec(29, 37, channels, type_)
            for name, given in more.items():
                if name == "tile":
                    spec.tile_width = spec.tile_height = given
                else:
                    spec.attribute(name, given)
            output = oiio.ImageOutput.create(path)
            if output is None or not output.open(path, spec):
                raise FaultError(f"the sound picture {path} cannot be made")
            output.write_image(np.ascontiguousarray(pixels[..., :channels]))
            output.close()
            found.append(Path(path).read_bytes())
    return found


@contextmanager
def _hushed() -> Iterator[None]:
    """Without what the libraries of formats say on the terminal."""
    kept, nothing = os.dup(2), os.open(os.devnull, os.O_WRONLY)
    os.dup2(nothing, 2)
    try:
        yield
    finally:
        os.dup2(kept, 2)
        os.close(kept)
        os.close(nothing)


def run(count: int, seed: int) -> int:
    """Try so many pictures; returns how many could be read."""
    with _hushed():
        return _run(count, seed)


def _run(count: int, seed: int) -> int:
    read = 0
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "x"
        for number in range(seed, seed + count):
            chance = random.Random(number)
            path.write_bytes(mutated_bytes(chance.choice(_sources()), chance))
            try:
                samples = picture_files.read_picture(path).samples
            except Exception as error:
                in_a_sentence(error, f"reading picture {number}")
                continue
            if not np.isfinite(samples).all() or samples.ndim != 3:
                raise FaultError(f"picture {number} gives samples that are not finite")
            read += 1
    return read
