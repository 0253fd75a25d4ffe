"""Encodes maps as files: PNG by our own writer, all else by OpenImageIO.

This is the strict wrapper around that library for everything that goes out. It knows its silences: on
a full disk calls may all report success, so its last error and the file itself are looked at too;
two-dimensional arrays must be given a channel axis.
"""

from __future__ import annotations

import errno
import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

from reedloom.delivery.png import write_png
from reedloom.errors import FileError
from reedloom.files import explain
from reedloom.kernels.colours import srgb_from_linear
from reedloom.kernels.jit import Stop

if TYPE_CHECKING:
    import OpenImageIO as oiio  # noqa: N813 - the library's own short name

BLOCK = 64
"""Scanlines written at once; between blocks the stop flag is looked at."""


class Format(Struct, frozen=True):
    """A way to write a map.

    Attributes
    ----------
    suffix : str
        Of the file, with its full stop.
    type : str
        OpenImageIO's name for the sample type.
    whole : bool
        Whether values are held to 0..1 and stored as whole numbers.
    """

    id: str
    label: str
    suffix: str
    type: str
    whole: bool


FORMATS: dict[str, Format] = {
    f.id: f
    for f in (
        Format("png8", "PNG, 8 bit", ".png", "uint8", True),
        Format("png16", "PNG, 16 bit", ".png", "uint16", True),
        Format("exr_half", "EXR, half float", ".exr", "half", False),
        Format("exr_float", "EXR, float", ".exr", "float", False),
    )
}


def encode_rows(rows: np.ndarray, how: Format, srgb: bool) -> np.ndarray:
    """Linear rows (n, W, C) as the file's samples.

    Whole-number formats hold 0..1, rounded to nearest; colour maps get the sRGB transfer in them.
    Float formats stay linear.
    """
    if not how.whole:
        return np.ascontiguousarray(rows, np.float32)
    rows = srgb_from_linear(rows) if srgb else np.clip(rows, 0, 1)
    peak = np.iinfo(how.type).max
    return (rows * np.float32(peak) + np.float32(0.5)).astype(how.type)


def write_map(
    path: Path,
    array: np.ndarray,
    how: Format,
    srgb: bool,
    *,
    stop: Stop | None = None,
    progress: Callable[[float], None] | None = None,
    shown: Path | None = None,
) -> None:
    """Write a map (H, W) or (H, W, 3) float32 to `path`, which need not be whole until this returns.

    `shown` is the path that errors name, where `path` is a temporary one.

    Raises
    ------
    FileError
        If the system refuses or the disk is full.
    Cancelled
        If `stop` was set.
    """
    map3 = array if array.ndim == 3 else array[..., None]
    height = len(map3)

    def encode(y0: int, y1: int) -> np.ndarray:
        return np.ascontiguousarray(encode_rows(map3[y0:y1], how, srgb))

    def tell(rows: int) -> None:
        if stop is not None:
            stop.check()
        if progress is not None:
            progress(rows / height)

    tell(0)
    if how.whole:
        depth = 8 * np.dtype(how.type).itemsize
        try:
            write_png(path, (map3.shape[1], height), map3.shape[2], depth, srgb, encode, tell)
        except OSError as error:
            raise explain(error, shown or path, "write") from None
    else:
        with _by_its_folder(path) as named:
            _write_exr(named, map3, how, srgb, encode, tell, shown or path)


@contextmanager
def _by_its_folder(path: Path) -> Iterator[Path]:
    """A path by way of its open folder, for the library takes no folder whose name is not UTF-8."""
    try:
        folder = os.open(path.parent, os.O_RDONLY)
    except OSError as error:
        raise explain(error, path, "write") from None
    try:
        yield Path(f"/proc/self/fd/{folder}") / path.name
    finally:
        os.close(folder)


def _write_exr(
    path: Path,
    map3: np.ndarray,
    how: Format,
    srgb: bool,
    encode: Callable[[int, int], np.ndarray],
    tell: Callable[[int], None],
    shown: Path,
) -> None:
    import OpenImageIO as oiio  # noqa: N813 - here, since it is not wanted before

    height, width, channels = map3.shape
    spec = oiio.ImageSpec(width, height, channels, how.type)
    spec.attribute("oiio:ColorSpace", "lin_rec709_scene" if srgb else "data")
    spec.attribute("compression", "zip")
    spec.attribute("DateTime", "")  # else the library writes the time, and no two files are equal
    output = oiio.ImageOutput.create(str(path))
    if output is None:
        raise FileError(f"Cannot write '{shown}': this computer's picture library has no writer for it.")
    try:
        ok = output.open(str(path), spec)
        for y in range(0, height, BLOCK):
            if not ok:
                break
            y1 = min(height, y + BLOCK)
            ok = output.write_scanlines(y, y1, 0, encode(y, y1))
            tell(y1)
        closed = output.close()
    except UnicodeDecodeError:
        ok = closed = False
    trouble = _last_error(output)
    if not (ok and closed) or trouble or not _looks_whole(path, width, height):
        raise _write_error(path, shown, trouble)


def _last_error(source: oiio.ImageOutput | oiio.ImageInput) -> str:
    try:
        return str(source.geterror()) if source.has_error else ""
    except UnicodeDecodeError:
        return "an unreadable message"


def _looks_whole(path: Path, width: int, height: int) -> bool:
    """Whether the file could hold the picture and can be opened again."""
    import OpenImageIO as oiio  # noqa: N813 - here, since it is not wanted before

    if not path.exists() or path.stat().st_size < 60:
        return False
    opened = oiio.ImageInput.open(str(path))
    if opened is None:
        oiio.geterror()
        return False
    spec = opened.spec()
    last = (
        opened.read_scanlines(height - 1, height, 0, 0, spec.nchannels, "float")
        if spec.height == height
        else None
    )
    sound = spec.width == width and last is not None and not opened.has_error
    opened.close()
    return sound


def _write_error(path: Path, shown: Path, trouble: str) -> FileError:
    free = os.statvfs(path.parent)
    if free.f_bavail * free.f_frsize < 2**20:
        return explain(OSError(errno.ENOSPC, ""), shown, "write")
    trouble = trouble.replace(str(path), "it")
    reason = trouble.strip().splitlines()[0].strip() if trouble.strip() else "the file came out incomplete"
    return FileError(f"Cannot write '{shown}': {reason}; the disk may be full.")
