"""Writes files whole or not at all: beside the target, flushed to the disk, then renamed."""

from __future__ import annotations

import errno
import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from reedloom.errors import FileError


def explain(error: OSError, path: Path, doing: str) -> FileError:
    """One sentence for what the system says about a file."""
    reasons = {
        errno.ENOENT: "there is no such file or folder",
        errno.EACCES: "permission is missing; choose another place or change its permissions",
        errno.EPERM: "permission is missing; choose another place or change its permissions",
        errno.EROFS: "the place is read-only; choose another one",
        errno.ENOSPC: "the disk is full; free some space or choose another place",
        errno.EDQUOT: "your share of the disk is used up; free some space or choose another place",
        errno.EFBIG: "the file grew beyond what the system allows here",
        errno.EISDIR: "it is a folder",
        errno.ENOTDIR: "part of its path is not a folder",
        errno.ENAMETOOLONG: "its name is too long",
    }
    reason = reasons.get(error.errno or 0, (error.strerror or str(error)).lower())
    return FileError(f"Cannot {doing} '{path}': {reason}.")


@contextmanager
def whole_file(path: Path, doing: str = "write") -> Iterator[Path]:
    """Give a temporary path in the folder of `path`; on a clean exit it becomes `path`.

    Raises
    ------
    FileError
        If the system refuses; `path` is then as it was and nothing is left over.
    """
    try:
        handle, name = tempfile.mkstemp(prefix=f".{path.name[:40]}-", suffix=path.suffix, dir=path.parent)
        os.close(handle)
    except OSError as error:
        raise explain(error, path, doing) from None
    part = Path(name)
    try:
        yield part
        with part.open("rb") as file:
            os.fsync(file.fileno())
        part.chmod(0o666 & ~_umask())
        part.replace(path)
        _flush_folder(path.parent)
    except OSError as error:
        raise explain(error, path, doing) from None
    finally:
        part.unlink(missing_ok=True)


def _umask() -> int:
    mask = os.umask(0o022)
    os.umask(mask)
    return mask


def _flush_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
