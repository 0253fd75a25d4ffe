"""Reads picture files: the strict wrapper around OpenImageIO for everything that comes in.

Small pictures are decoded here, large ones by a process of their own (`picture_decoder`), which is ended
when the computation is stopped. What was read last is kept, so that other outputs, sizes and values do not
read it again.
"""

from __future__ import annotations

import errno
import hashlib
import json
import mmap
import os
import stat
import subprocess
import sys
import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
from msgspec import Struct

from reedloom import picture_decoder
from reedloom.errors import FileError
from reedloom.files import explain
from reedloom.picture_decoder import UndecodableError

SMALL = 2**22
"""Samples that are decoded in this process: less than a tenth of a second."""
FILE_LIMIT = 2**31
KEPT_LIMIT = 2**29
"""Bytes of samples that are kept."""
WAIT, RECENT = 0.01, 50_000_000
"""Seconds between two looks at the stop flag; nanoseconds in which a file may change unseen by its times."""
SIGNATURES = (
    b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff", b"II*\0", b"MM\0*", b"II+\0", b"MM\0+", b"\x76\x2f\x31\x01",
    b"#?", b"BM", b"P1", b"P2", b"P3", b"P4", b"P5", b"P6", b"PF", b"Pf",
)  # fmt: skip
"""How files of the formats begin that are read: PNG, JPEG, TIFF, EXR, Radiance, BMP, PNM. Others decode
all of a picture when they are opened, or can hold pictures that take minutes."""
KNOWN = "PNG, JPEG, TIFF, EXR, Radiance HDR, BMP and PNM"


class Picture(Struct, frozen=True, eq=False):
    """What a file holds.

    Attributes
    ----------
    samples : (H, W, channels) float32, read-only
        Whole numbers as 0..1, no transfer undone; alpha, if any, has not been multiplied in.
    whole : bool
        Whether the file holds whole numbers, as 8 and 16-bit pictures do, rather than floats.
    alpha : int or None
        Which channel is the alpha.
    """

    samples: np.ndarray
    whole: bool
    alpha: int | None


State = tuple[int, int, int, int, int]
"""What the system says of a file that tells its content from that of another time."""
_kept: OrderedDict[State, Picture] = OrderedDict()
_digests: dict[State, str] = {}
_lock = threading.Lock()


def read_picture(path: Path, check: Callable[[], None] = lambda: None) -> Picture:
    """Read a picture file.

    Parameters
    ----------
    check : callable
        Called every so often; what it raises ends the reading within some 50 ms.

    Raises
    ------
    FileError
        If it is missing, broken, of no format that is read, or of more samples than fit in memory.
    """
    with _opened(path) as (handle, state):
        with _lock:
            known = _kept.get(state)
            if known is not None:
                _kept.move_to_end(state)
                return known
        start = os.pread(handle, 16, 0)
        if not start.startswith(SIGNATURES):
            raise FileError(f"Cannot read '{path}': it is none of {KNOWN}.")
        try:
            found = _read(handle, check, os.fstat(handle).st_size)
        except UndecodableError as error:
            raise FileError(f"Cannot read '{path}': {error}.") from None
    found.samples.flags.writeable = False
    _keep(state, found)
    return found


def read_map(path: Path) -> np.ndarray:
    """A picture's samples as a map: (H, W) or (H, W, C) float32; see `read_picture`."""
    samples = read_picture(path).samples
    return samples[..., 0] if samples.shape[2] == 1 else samples


def content_digest(path: Path) -> str | None:
    """A hash of a file's content, whatever its times say; None where there is no plain file of a fit size."""
    try:
        with _opened(path) as (handle, state):
            known = _digests.get(state)
            if known is not None:
                return known
            with open(os.dup(handle), "rb") as file:  # noqa: PTH123 - it is open already
                found = hashlib.file_digest(file, "blake2b").hexdigest()
    except FileError:
        return None
    if time.time_ns() - state[4] > RECENT:  # else it might still change within the same tick
        _digests[state] = found
    return found


@contextmanager
def _opened(path: Path) -> Iterator[tuple[int, State]]:
    """A plain file's handle, opened without waiting for a pipe, and what the system says of it."""
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK)
    except (OSError, ValueError) as error:
        missing = isinstance(error, OSError) and error.errno == errno.ENOENT
        told = FileError(f"Cannot read '{path}': there is no such file.") if missing else None
        raise told or explain(error, path, "read") from None
    try:
        state = os.fstat(handle)
        if not stat.S_ISREG(state.st_mode):
            raise FileError(f"Cannot read '{path}': it is no plain file.")
        if state.st_size > FILE_LIMIT:
            raise FileError(f"Cannot read '{path}': it is larger than {FILE_LIMIT // 2**30} GB.")
        yield handle, (state.st_dev, state.st_ino, state.st_size, state.st_mtime_ns, state.st_ctime_ns)
    finally:
        os.close(handle)


def _read(handle: int, check: Callable[[], None], size: int) -> Picture:
    if size <= SMALL:  # else opening alone may take long
        source = picture_decoder.open_picture(handle)
        try:
            told = picture_decoder.describe(source)
            if np.prod(told["shape"]) <= SMALL:
                samples = np.empty(told["shape"], np.float32)
                picture_decoder.decode(source, samples, check)
                return Picture(samples, told["whole"], told["alpha"])
        finally:
            source.close()
    return _read_elsewhere(handle, check)


def _read_elsewhere(handle: int, check: Callable[[], None]) -> Picture:
    """Have another process decode the file into memory that both see."""
    sink = os.memfd_create("reedloom-picture", os.MFD_CLOEXEC)
    try:
        with subprocess.Popen(
            [sys.executable, "-I", picture_decoder.__file__, str(handle), str(sink)],
            pass_fds=(handle, sink), stdin=subprocess.DEVNULL, stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL, env={"PATH": os.defpath},
        ) as program:  # fmt: skip
            try:
                answer = _wait(program, check)
            except BaseException:
                program.kill()
                raise
        told: dict[str, Any] = json.loads(answer) if answer else {"trouble": "the picture is broken"}
        if "trouble" in told:
            raise UndecodableError(told["trouble"])
        shared = mmap.mmap(sink, 4 * int(np.prod(told["shape"])))
    finally:
        os.close(sink)
    samples = np.frombuffer(shared, np.float32).reshape(told["shape"])
    return Picture(samples, told["whole"], told["alpha"])


def _wait(program: subprocess.Popen[bytes], check: Callable[[], None]) -> bytes:
    while True:
        check()
        try:
            return program.communicate(timeout=WAIT)[0]
        except subprocess.TimeoutExpired:
            continue


def _keep(state: State, picture: Picture) -> None:
    with _lock:
        _kept[state] = picture
        while sum(one.samples.nbytes for one in _kept.values()) > KEPT_LIMIT:
            _kept.popitem(last=False)
