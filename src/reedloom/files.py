"""Reads plain files within a size, and writes files whole or not at all: beside the target, then renamed.

What is written beside carries a lock that ends with its program, so that the next writer tells what a
killed one left behind from what is still being written, and clears it away.
"""

from __future__ import annotations

import errno
import fcntl
import os
import secrets
import shutil
import stat
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from reedloom.errors import FileError, ProtectedError

PART = ".part"
"""What the name of an unfinished file ends with."""
REASONS = {
    errno.ENOENT: "there is no such file or folder",
    errno.EACCES: "permission is missing; choose another place or change its permissions",
    errno.EPERM: "permission is missing; choose another place or change its permissions",
    errno.EROFS: "the place is read-only; choose another one",
    errno.ENOSPC: "the disk is full; free some space or choose another place",
    errno.EDQUOT: "your share of the disk is used up; free some space or choose another place",
    errno.EFBIG: "the file grew beyond what the system allows here",
    errno.EISDIR: "it is a folder",
    errno.EEXIST: "part of its path is a file, not a folder",
    errno.ENOTDIR: "part of its path is not a folder",
    errno.ENAMETOOLONG: "its name or path is too long; choose a shorter one",
    errno.ELOOP: "its links lead in a circle",
    errno.EINVAL: "the system does not take such a name",
}


def explain(error: OSError | ValueError, path: Path, doing: str) -> FileError:
    """One sentence for what the system says about a file."""
    return FileError(f"Cannot {doing} '{path}': {reason_of(error)}.")


def reason_of(error: OSError | ValueError) -> str:
    """What the system says, as the end of a sentence."""
    if isinstance(error, OSError):
        return REASONS.get(error.errno or 0, (error.strerror or str(error)).lower())
    return REASONS[errno.EINVAL]  # a null byte, or half a character that no file system takes


def home_path(text: str | Path) -> Path:
    """A path in which a leading ~ has become somebody's home, if there is such a person.

    Raises
    ------
    FileError
        If there is not.
    """
    try:
        return Path(text).expanduser()
    except RuntimeError:
        raise FileError(f"Cannot find '{text}': nobody of that name has a home here.") from None


def read_whole(path: Path, limit: int, doing: str = "open") -> bytes:
    """The bytes of a plain file of at most so many bytes; a pipe or device may have no end.

    Raises
    ------
    FileError
        If it cannot be read, is no plain file, or is larger.
    """
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK)
        with open(handle, "rb") as file:  # noqa: PTH123 - opened without waiting for a pipe's other end
            state = os.fstat(handle)
            if stat.S_ISDIR(state.st_mode):
                raise OSError(errno.EISDIR, "")
            if not stat.S_ISREG(state.st_mode):
                raise FileError(f"Cannot {doing} '{path}': it is no plain file.")
            data = file.read(limit + 1) if state.st_size <= limit else b""
    except (OSError, ValueError) as error:
        raise explain(error, path, doing) from None
    if max(state.st_size, len(data)) > limit:
        raise FileError(
            f"Cannot {doing} '{path}': it is larger than {limit // 2**20} MB, and no such file is."
        )
    return data


def real_path(path: Path, doing: str) -> Path:
    """Where a path leads when all links are followed.

    Raises
    ------
    FileError
        If it is no path at all.
    """
    try:
        return Path(os.path.realpath(path))
    except (OSError, ValueError) as error:
        raise explain(error, path, doing) from None


def lock(path: Path) -> int | None:
    """Take the lock on a file or folder until its handle is closed or the program ends.

    Returns
    -------
    The open handle, or None if it cannot be had.
    """
    handle = -1
    try:
        handle = os.open(path, (os.O_RDONLY if path.is_dir() else os.O_RDWR) | os.O_NOFOLLOW)
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        if os.fstat(handle).st_ino == path.stat().st_ino:
            return handle
    except (OSError, ValueError):
        pass
    if handle >= 0:
        os.close(handle)
    return None


def clear_leftovers(
    folder: Path, start: str, end: str, unless: Callable[[Path], bool] = lambda path: False
) -> None:
    """Remove what ended programs left unfinished in a folder: what is named so and nobody locks."""
    with suppress(OSError), os.scandir(folder) as entries:
        for entry in entries:
            middle = entry.name.removeprefix(start).removesuffix(end)
            if len(middle) != len(entry.name) - len(start) - len(end) or len(middle) != 8:
                continue
            handle = lock(folder / entry.name)
            if handle is None:
                continue
            with suppress(OSError):
                if unless(folder / entry.name):
                    pass
                elif entry.is_dir(follow_symlinks=False):
                    shutil.rmtree(entry.path)
                else:
                    Path(entry.path).unlink()
            os.close(handle)


def fresh(folder: Path, start: str, end: str, is_folder: bool = False) -> tuple[Path, int | None]:
    """A new empty file or folder with an unused name, and the handle of its lock.

    Raises
    ------
    OSError
        If the system refuses.
    """
    while True:
        path = folder / f"{start}{secrets.token_hex(4)}{end}"
        try:
            if is_folder:
                path.mkdir(0o700)
            else:
                os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_RDWR, 0o600))
        except FileExistsError:
            continue
        handle = lock(path)
        if handle is not None or path.exists():  # else a clearing program took it for a leftover
            return path, handle


@contextmanager
def whole_file(path: Path, doing: str = "write", force: bool = False) -> Iterator[Path]:
    """Give a temporary path in the folder of `path`; on a clean exit it becomes `path`.

    The file keeps its permissions, and a link stays one. Where it has several names (hard links) it is
    written over in its place, so that they still name one file; that alone is not done in one step.

    force : whether a write-protected file is replaced too.

    Raises
    ------
    ProtectedError
        If it is write-protected.
    FileError
        If the system refuses; `path` is then as it was and nothing is left over.
    """
    target = real_path(path, doing)
    try:
        start = f".{target.name[:40]}-"
        clear_leftovers(target.parent, start, PART)
        before = _state(target)
        if before is not None and not stat.S_ISREG(before.st_mode):
            raise (
                OSError(errno.EISDIR, "")
                if stat.S_ISDIR(before.st_mode)
                else FileError(f"Cannot {doing} '{path}': it is no plain file.")
            )
        if before is not None and not force and is_protected(target):
            raise ProtectedError(
                f"Cannot {doing} '{path}': it is write-protected; choose another name or let it be written."
            )
        part, handle = fresh(target.parent, start, PART)
    except (OSError, ValueError) as error:
        raise explain(error, path, doing) from None
    try:
        yield part
        flush(part)
        _take_after(part, before)
        if before is not None and before.st_nlink > 1:
            _write_over(part, target, before)
        else:
            part.replace(target)
        flush(target.parent)
    except (OSError, ValueError) as error:
        raise explain(error, path, doing) from None
    finally:
        with suppress(OSError):
            part.unlink(missing_ok=True)
        if handle is not None:
            os.close(handle)


def is_protected(path: Path) -> bool:
    """Whether a file that is there says that it is not to be written."""
    state = _state(path)
    return state is not None and (not state.st_mode & 0o222 or not os.access(path, os.W_OK))


def flush(path: Path) -> None:
    """Bring a file's content, or a folder's list of names, to the disk."""
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _state(path: Path) -> os.stat_result | None:
    try:
        return path.stat()
    except FileNotFoundError:
        return None


def _take_after(part: Path, before: os.stat_result | None) -> None:
    """Let a new file be like the one whose place it takes: its owner where that is allowed, its mode."""
    if before is None:
        part.chmod(0o666 & ~_umask())
        return
    with suppress(OSError):
        os.chown(part, before.st_uid, before.st_gid)
    part.chmod(stat.S_IMODE(before.st_mode))


def _write_over(part: Path, target: Path, before: os.stat_result) -> None:
    """Write a file's new content into it; what it is lies whole beside it meanwhile."""
    target.chmod(stat.S_IMODE(before.st_mode) | 0o200)
    with part.open("rb") as source, target.open("r+b") as sink:
        shutil.copyfileobj(source, sink)
        sink.truncate()
        sink.flush()
        os.fsync(sink.fileno())
    target.chmod(stat.S_IMODE(before.st_mode))


def _umask() -> int:
    mask = os.umask(0o022)
    os.umask(mask)
    return mask
