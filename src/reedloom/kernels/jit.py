"""Compiles kernels on first use and runs band functions over the rows of a map.

This is the only module that names Numba options. Numba itself is imported when the first kernel
runs, so that the catalogue, the window and the command line start without it; it then imports `keeping`.

A *kernel* is a plain function over arrays whose last two arguments are the rows ``y0, y1`` it
fills. `run_bands` calls any such band function from a thread pool. Bands are cut the same way for
any number of threads and each writes only its own rows, so results are bit-identical however many
threads run; between bands the stop flag is looked at and progress is told.
"""

from __future__ import annotations

import hashlib
import inspect
import logging
import os
import pickle
import shutil
import sys
import threading
import types
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from functools import cache, update_wrapper
from glob import escape as glob_escape
from pathlib import Path
from typing import Any, ClassVar

import numpy as np

from reedloom.errors import Cancelled, FileError, ReedError
from reedloom.kernels.helpers import Helpers

log = logging.getLogger(__name__)
BAND_ROWS = 64
WARM = "warm"
"""The file that tells which compilers have compiled all kernels, a line each."""
_compile_lock = threading.RLock()


class Kernel:
    """A numeric loop that is compiled, or read from the compile cache, on its first call."""

    every: ClassVar[list[Kernel]] = []

    def __init__(self, function: Callable[..., Any], is_step: bool, folds: bool = False) -> None:
        self.function = function
        self.is_step, self._folds = is_step, folds
        self._compiled: Callable[..., Any] | None = None
        update_wrapper(self, function)
        Kernel.every.append(self)

    def compiled(self) -> Callable[..., Any]:
        """The Numba dispatcher; kernels it calls are compiled with it."""
        if self._compiled is None:
            with _compile_lock:
                if self._compiled is None:
                    self._compiled = self._compile()
        return self._compiled

    def _compile(self) -> Callable[..., Any]:
        numba = _numba()
        code = self.function.__code__
        scope = dict(self.function.__globals__)
        for name in code.co_names:
            if isinstance(scope.get(name), Kernel):
                scope[name] = scope[name].compiled()
        copy = types.FunctionType(code, scope, self.function.__name__)
        copy.__module__ = self.function.__module__
        copy.__qualname__ = self.function.__qualname__
        keep = not self.is_step and has_cache()
        settings = {"nogil": True, "error_model": "numpy", "fastmath": {"contract"}}
        return numba.njit(cache=keep, forceinline=self._folds, **settings)(copy)

    def __call__(self, *args: Any) -> Any:
        try:
            return self.compiled()(*args)
        except (pickle.UnpicklingError, EOFError):
            # A damaged cache file: forget just that and compile afresh, once.
            with _compile_lock:
                for kernel_ in self._with_inner():
                    kernel_._forget_damaged()
            return self.compiled()(*args)
        except OSError as error:
            # The cache's disk is full or gone: that costs time, and no result.
            _do_without_cache(error)
            with _compile_lock:
                for kernel_ in self._with_inner():
                    kernel_._compiled = None
            return self.compiled()(*args)

    def _with_inner(self) -> Iterator[Kernel]:
        """This kernel and those that it calls, however deep, whose cache may be the one that is damaged."""
        yield self
        scope = self.function.__globals__
        for name in self.function.__code__.co_names:
            if isinstance(scope.get(name), Kernel):
                yield from scope[name]._with_inner()

    def _forget_damaged(self) -> None:
        """Take away this kernel's own cache files if they cannot be read; compile anew when next asked."""
        cache_ = getattr(self._compiled, "_cache", None)
        self._compiled, files = None, getattr(cache_, "_cache_file", None)
        if files is None:
            return
        try:
            for data in files._load_index().values():
                files._load_data(data)
        except Exception:
            log.warning("A damaged file of the compile cache was thrown away: %s", files._index_name)
            folder, stem = Path(files._index_path).parent, Path(files._index_name).stem
            for path in folder.glob(f"{glob_escape(stem)}*"):
                path.unlink(missing_ok=True)


def kernel(function: Callable[..., Any]) -> Kernel:
    """Mark a loop over arrays for compilation; it releases the interpreter lock while it runs."""
    return Kernel(function, is_step=False)


def inlined(function: Callable[..., Any]) -> Kernel:
    """Mark a step of kernels, which is folded into its callers.

    A call that remained would count references to each array handed on, there and back, which for a row takes
    as long as some hundred samples.
    """
    return Kernel(function, is_step=True, folds=True)


def called(function: Callable[..., Any]) -> Kernel:
    """Mark a long step of kernels, which the compiler folds in where it finds that to pay."""
    return Kernel(function, is_step=True)


def read_only(array: np.ndarray) -> np.ndarray:
    """A view of an array that cannot be written through.

    Arrays that can be written are another type to the compiler: a kernel that gets both, as what is kept and
    what was just made, would be compiled twice, the second time while someone waits.
    """
    view = array.view()
    view.flags.writeable = False
    return view


class Lowered(Kernel):
    """A step of a kernel in LLVM's own terms, for what no loop compiles to; it answers an int32.

    Its first argument is LLVM's builder; arrays reach it as pointers to their first number.
    """

    def _compile(self) -> Callable[..., Any]:
        numba = _numba()
        from numba.extending import intrinsic

        def build(context: Any, builder: Any, signature: Any, values: Any) -> Any:
            plain = [
                context.make_array(kind)(context, builder, value).data
                if isinstance(kind, numba.types.Array)
                else value
                for kind, value in zip(signature.args, values, strict=True)
            ]
            return self.function(builder, *plain)

        def typed(_typing: Any, *kinds: Any) -> Any:
            return numba.types.int32(*kinds), build

        setattr(typed, "__signature__", inspect.signature(self.function))  # noqa: B010 - what Numba reads
        return intrinsic(typed)


def lowered(function: Callable[..., Any]) -> Lowered:
    """Mark a function that writes a kernel's innermost step through LLVM's builder."""
    return Lowered(function, is_step=True)


@cache
def processor_has(feature: str) -> bool:
    """Whether the processor that kernels are compiled for can do something, by LLVM's name for it."""
    _numba()
    from numba.core.registry import cpu_target

    _, _, features = cpu_target.target_context.codegen().magic_tuple()
    return f"+{feature}" in features.split(",")


@cache
def cache_folder() -> Path:
    """Where compiled kernels are kept: named by a digest of all that is compiled.

    Numba does not notice an edited helper in another module, so any edit opens a new folder: of whatever lies
    beside the kernels, since what they are written with may be plain Python, and of kinds that have some.
    """
    import platformdirs

    digest = hashlib.blake2b(digest_size=8)
    package = Path(__file__).parent.parent
    for path in sorted([*package.glob("kernels/**/*.py"), *package.glob("kinds/**/*.py")]):
        source = path.read_bytes()
        marks = (b"@kernel", b"@inlined", b"@called", b"@lowered")
        if path.is_relative_to(package / "kernels") or any(mark in source for mark in marks):
            digest.update(source)
    root = os.environ.get("REEDLOOM_CACHE") or platformdirs.user_cache_dir("reedloom")
    return Path(root) / "kernels" / digest.hexdigest()


@cache
def _numba() -> Any:
    os.environ.setdefault("NUMBA_CACHE_DIR", str(cache_folder()))
    import numba

    kept = {"CACHE_DIR": str(cache_folder()), "CACHE_LOCATOR_CLASSES": f"{__package__}.keeping.BySources"}
    for name, value in kept.items():
        setattr(numba.config, name, value)  # they are set at run time
    return numba


_lost: list[str] = []
"""Why compiled kernels are not kept, if they are not."""


@cache
def _try_cache() -> None:
    folder = cache_folder()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        trial = folder / f".trial-{os.getpid()}"
        trial.write_bytes(b"\0" * 4096)
        trial.unlink()
    except OSError as error:
        _do_without_cache(error)


def _do_without_cache(error: OSError) -> None:
    if not _lost:
        log.warning("Compiled kernels are not kept: %s", error)
    _lost.append(error.strerror or str(error))


def has_cache() -> bool:
    """Whether compiled kernels are kept for the next start; the disk may be full, or not to be written."""
    _try_cache()
    return not _lost


def is_warm() -> bool:
    """Whether all kernels of just these sources were compiled before for such a processor."""
    try:
        return _compiler() in (cache_folder() / WARM).read_text(encoding="utf-8").splitlines()
    except OSError:
        return False


def _compiler() -> str:
    """What compiles kernels, and for what: those of another are of no use."""
    from importlib.metadata import version

    import llvmlite.binding as llvm

    features = hashlib.blake2b(llvm.get_host_cpu_features().flatten().encode(), digest_size=8)
    python = ".".join(map(str, sys.version_info[:2]))
    return f"Python {python}, Numba {version('numba')}, {llvm.get_host_cpu_name()} {features.hexdigest()}"


def mark_warm() -> None:
    """Remember that all kernels are compiled, and drop the caches of older sources.

    Raises
    ------
    FileError
        If they could not be kept.
    """
    folder = cache_folder()
    if has_cache():
        try:
            if not is_warm():
                with (folder / WARM).open("a", encoding="utf-8") as file:
                    file.write(f"{_compiler()}\n")
        except OSError as error:
            _do_without_cache(error)
    if _lost:
        raise FileError(
            f"The compiled kernels could not be kept in '{folder}' ({_lost[0].lower()}), so that each start "
            "compiles them anew; free some space, or set REEDLOOM_CACHE to another folder."
        )
    for old in folder.parent.iterdir():
        if old != folder and old.is_dir():
            shutil.rmtree(old, ignore_errors=True)


class Stop:
    """A flag that one thread raises and the computing threads look at between bands."""

    __slots__ = ("_raised",)

    def __init__(self) -> None:
        self._raised = False

    def set(self) -> None:
        """Ask for the end of the computation."""
        self._raised = True

    def is_set(self) -> bool:
        """Whether the end was asked for."""
        return self._raised

    def check(self) -> None:
        """Raise `Cancelled` if the end was asked for."""
        if self._raised:
            raise Cancelled


def thread_count() -> int:
    """How many threads compute: the processor's, or the environment's REEDLOOM_THREADS."""
    asked = os.environ.get("REEDLOOM_THREADS", "")
    if asked and not (asked.isdigit() and int(asked) > 0):
        raise ReedError(f"REEDLOOM_THREADS is '{asked}'; set it to a whole number from 1 up.")
    return int(asked) if asked else max(1, len(os.sched_getaffinity(0)))


@cache
def _pool(threads: int) -> ThreadPoolExecutor:
    return ThreadPoolExecutor(threads, thread_name_prefix="reedloom-band")


def run_bands(
    band: Callable[[int, int], None],
    rows: int,
    *,
    stop: Stop | None = None,
    progress: Callable[[float], None] | None = None,
    band_rows: int = BAND_ROWS,
    threads: int | None = None,
    helpers: Helpers | None = None,
) -> None:
    """Call ``band(y0, y1)`` until all rows are done, on several threads.

    Parameters
    ----------
    band : callable
        Fills rows ``y0`` to ``y1 - 1`` of its outputs and nothing else.
    rows : int
        How many rows there are.
    stop : Stop, optional
        Looked at before each band.
    progress : callable, optional
        Told the share done, 0 to 1, after each band.
    band_rows : int
        Rows in a band; the last one may be shorter.
    threads : int, optional
        `thread_count` by default.
    helpers : Helpers, optional
        Who may help, instead of threads of this function's own.

    Raises
    ------
    Cancelled
        When `stop` was set; the outputs are then incomplete and must be dropped.
    """
    starts = iter(range(0, rows, band_rows))
    total = max(1, -(-rows // band_rows))
    done = 0
    lock = threading.Lock()
    failed = False

    def work() -> None:
        nonlocal done, failed
        while not failed:
            with lock:
                y0 = next(starts, None)
            if y0 is None:
                return
            try:
                if stop is not None:
                    stop.check()
                band(y0, min(rows, y0 + band_rows))
            except BaseException:
                failed = True
                raise
            with lock:
                done += 1
                share = done / total
            if progress is not None:
                progress(share)

    count = min(threads or thread_count(), total)
    if count == 1:
        work()
        return
    if helpers is not None:
        helpers.share(work)
        return
    futures = [_pool(count - 1).submit(work) for _ in range(count - 1)]
    try:
        work()
    finally:
        errors = [future.exception() for future in futures if not future.cancel()]
    for error in errors:
        if error is not None:
            raise error
