"""Decodes a picture file strip by strip into memory; also a program of its own, which can be ended.

Some files take seconds to decode between two moments in which a reader could be asked to stop, and hold
whatever memory their format wants. So large pictures are decoded by this file run as a program, with
nothing but NumPy and OpenImageIO: ``python picture_decoder.py IN OUT``, both numbers of open files. It
answers with one line of JSON.
"""

from __future__ import annotations

import json
import os
import resource
import sys
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

import numpy as np

if TYPE_CHECKING:
    import OpenImageIO as oiio  # noqa: N813 - the library's own short name

STRIP = 2**22
"""Samples read at once, at most; between strips a reader may be stopped."""
SAMPLE_LIMIT = 2**28
"""Samples in memory, four bytes each: 8192² with four channels."""
ROOM = 3 * 2**30
"""Bytes that the program may take, the samples included."""
WHOLE = ("uint8", "uint16", "int8", "int16", "uint32")
WIDEST = 65504.0
"""Of a half float; infinite samples become this."""


class UndecodableError(Exception):
    """A picture that cannot be read; the text says why, as the end of a sentence."""


def open_picture(handle: int) -> oiio.ImageInput:
    """Open the picture in an open file.

    Raises
    ------
    UndecodableError
        If it is none, or too large.
    """
    import OpenImageIO as oiio  # noqa: N813 - here, since it is not wanted before

    config = oiio.ImageSpec()
    config.attribute("oiio:UnassociatedAlpha", 1)
    try:
        source = oiio.ImageInput.open(f"/proc/self/fd/{handle}", config)
        trouble = "" if source is not None else str(oiio.geterror())
    except (UnicodeDecodeError, RuntimeError, TypeError):
        source, trouble = None, ""
    if source is None:
        first = trouble.strip().splitlines()[0] if trouble.strip() else ""
        raise UndecodableError(_plain(first, handle) or "it is no picture this program knows")
    spec = source.spec()
    if spec.deep or spec.width < 1 or spec.height < 1 or spec.nchannels < 1 or spec.depth > 1:
        raise UndecodableError("it is no flat picture")
    if spec.width * spec.height * spec.nchannels > SAMPLE_LIMIT:
        raise UndecodableError(
            f"its {spec.width} × {spec.height} × {spec.nchannels} samples are more than the "
            f"{SAMPLE_LIMIT // 2**20} million that are read; make it smaller"
        )
    return source


def _plain(trouble: str, handle: int) -> str:
    if "format reader" in trouble:  # none of them took it
        return ""
    return trouble.replace(f"/proc/self/fd/{handle}", "the file").rstrip(". ")


def decode(source: oiio.ImageInput, samples: np.ndarray, check: Callable[[], None]) -> None:
    """Fill (H, W, channels) float32 with a picture's samples, finite, whole numbers as 0..1.

    check : called between strips; what it raises ends the reading.

    Raises
    ------
    UndecodableError
        If the picture is broken.
    """
    spec = source.spec()
    rows = max(1, STRIP // (spec.width * spec.nchannels))
    if spec.tile_height:  # whole rows of tiles only
        rows = max(spec.tile_height, rows // spec.tile_height * spec.tile_height)
    for y in range(0, spec.height, rows):
        check()
        y1 = min(spec.height, y + rows)
        try:
            strip = _strip(source, y, y1)
        except (UnicodeDecodeError, RuntimeError):
            strip = None
        if strip is None:
            raise UndecodableError("the picture is broken")
        part = np.asarray(strip, np.float32).reshape(y1 - y, spec.width, spec.nchannels)
        np.nan_to_num(part, copy=False, nan=0.0, posinf=WIDEST, neginf=-WIDEST)
        samples[y:y1] = part


def _strip(source: oiio.ImageInput, y: int, y1: int) -> Any:
    spec = source.spec()
    if not spec.tile_width:
        return source.read_scanlines(spec.y + y, spec.y + y1, 0, 0, spec.nchannels, "float")
    return source.read_tiles(
        spec.x, spec.x + spec.width, spec.y + y, spec.y + y1, 0, 1, 0, spec.nchannels, "float"
    )


def describe(source: oiio.ImageInput) -> dict[str, Any]:
    """What is to be known of a picture besides its samples."""
    spec = source.spec()
    alpha = spec.alpha_channel if 0 <= spec.alpha_channel < spec.nchannels else None
    return {
        "shape": [spec.height, spec.width, spec.nchannels],
        "whole": str(spec.format) in WHOLE,
        "alpha": alpha,
    }


def main() -> None:
    """Decode from one open file into another."""
    handle, sink = int(sys.argv[1]), int(sys.argv[2])
    resource.setrlimit(resource.RLIMIT_AS, (ROOM, ROOM))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    try:
        source = open_picture(handle)
        told = describe(source)
        os.ftruncate(sink, 4 * int(np.prod(told["shape"])))
        samples = np.memmap(f"/proc/self/fd/{sink}", np.float32, "r+", shape=tuple(told["shape"]))
        decode(source, samples, lambda: None)
    except UndecodableError as error:
        told = {"trouble": str(error)}
    except MemoryError:
        told = {"trouble": "it takes more memory than a picture may"}
    print(json.dumps(told))


if __name__ == "__main__":
    main()
