"""Reads picture files: the strict wrapper around OpenImageIO for everything that comes in."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import OpenImageIO as oiio  # noqa: N813 - the library's own short name

from reedloom.errors import FileError

LIMIT_BYTES = 2**31


@dataclass(frozen=True, slots=True, eq=False)
class Picture:
    """What a file holds.

    Attributes
    ----------
    samples : (H, W, channels) float32
        Whole numbers as 0..1, no transfer undone; alpha, if any, has not been multiplied in.
    whole : bool
        Whether the file holds whole numbers, as 8 and 16-bit pictures do, rather than floats.
    alpha : int or None
        Which channel is the alpha.
    """

    samples: np.ndarray
    whole: bool
    alpha: int | None


def read_picture(path: Path) -> Picture:
    """Read a picture file of any format the library knows.

    Raises
    ------
    FileError
        If it is missing, broken or larger than 2 GB of pixels.
    """
    with _opened(path) as source:
        spec = source.spec()
        if spec.image_bytes() > LIMIT_BYTES:
            raise FileError(f"Cannot read '{path}': the picture is larger than 2 GB.")
        pixels = source.read_image(0, 0, 0, spec.nchannels, "float")
        if pixels is None:
            raise FileError(f"Cannot read '{path}': the picture is broken.")
        samples = np.asarray(pixels, np.float32).reshape(spec.height, spec.width, spec.nchannels)
        whole = str(spec.format) in {"uint8", "uint16", "int8", "int16", "uint32"}
        alpha = spec.alpha_channel if 0 <= spec.alpha_channel < spec.nchannels else None
    return Picture(np.nan_to_num(samples, nan=0.0, posinf=65504.0, neginf=-65504.0), whole, alpha)


def read_map(path: Path) -> np.ndarray:
    """A picture's samples as a map: (H, W) or (H, W, C) float32; see `read_picture`."""
    samples = read_picture(path).samples
    return samples[..., 0] if samples.shape[2] == 1 else samples


@contextmanager
def _opened(path: Path) -> Iterator[oiio.ImageInput]:
    if not path.is_file():
        raise FileError(f"Cannot read '{path}': there is no such file.")
    config = oiio.ImageSpec()
    config.attribute("oiio:UnassociatedAlpha", 1)
    try:
        picture = oiio.ImageInput.open(str(path), config)
        trouble = "" if picture is not None else str(oiio.geterror())
    except (UnicodeDecodeError, RuntimeError, TypeError):
        picture, trouble = None, ""
    if picture is None:
        reason = trouble.strip().splitlines()[0] if trouble.strip() else "it is no picture this program knows"
        raise FileError(f"Cannot read '{path}': {reason}.")
    try:
        yield picture
    finally:
        picture.close()
