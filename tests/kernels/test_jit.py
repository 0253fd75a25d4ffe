"""Bands, stopping, and the compile cache."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import threading
from pathlib import Path

import llvmlite.binding
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from reedloom.errors import Cancelled, ReedError
from reedloom.kernels import jit
from reedloom.kernels.hashing import hash_lattice, hash_seed, unit_lattice
from reedloom.kernels.jit import Stop, run_bands, thread_count

PACKAGE = Path(jit.__file__).parent.parent


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 500), st.integers(1, 90), st.integers(1, 4))
def test_every_row_is_done_once_however_many_threads(rows: int, band_rows: int, threads: int) -> None:
    seen, shares, lock = np.zeros(rows, int), [0.0], threading.Lock()

    def band(y0: int, y1: int) -> None:
        with lock:
            seen[y0:y1] += 1

    run_bands(band, rows, band_rows=band_rows, threads=threads, progress=shares.append)
    assert (seen == 1).all()
    assert max(shares) == (1.0 if rows else 0.0)


def test_a_raised_stop_ends_before_the_next_band() -> None:
    stop, done = Stop(), []

    def band(y0: int, y1: int) -> None:
        done.append(y0)
        if y0 >= 20:
            stop.set()

    with pytest.raises(Cancelled):
        run_bands(band, 100, band_rows=10, threads=1, stop=stop)
    assert done == [0, 10, 20]


def test_what_goes_wrong_in_a_band_comes_out() -> None:
    def band(y0: int, y1: int) -> None:
        if y0 == 30:
            raise ReedError("This band broke.")

    for threads in (1, 3):
        with pytest.raises(ReedError, match="This band broke"):
            run_bands(band, 100, band_rows=10, threads=threads)


def test_the_number_of_threads_can_be_asked_for(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("REEDLOOM_THREADS", "3")
    assert thread_count() == 3
    monkeypatch.setenv("REEDLOOM_THREADS", "many")
    with pytest.raises(ReedError, match="whole number from 1"):
        thread_count()
    monkeypatch.delenv("REEDLOOM_THREADS")
    assert thread_count() >= 1


def murmur(h: int) -> int:
    """The 32-bit finaliser of MurmurHash3, in plain whole numbers."""
    for shift, factor in ((16, 0x85EBCA6B), (13, 0xC2B2AE35), (16, 1)):
        h = (h ^ h >> shift) * factor & 0xFFFFFFFF
    return h


def test_hashes_are_those_of_their_definition_at_any_place_of_any_block() -> None:
    seed, stream, width, height = 2**31 - 1, 7, 2**20 + 3, 2
    start = (seed * 0xC2B2AE3D + stream * 0x27D4EB2F + 0x165667B1) & 0xFFFFFFFF
    got = hash_lattice(seed, width, height, stream, first=5)
    for y, x in ((0, 0), (0, 1), (1, 77), (0, 2**20 - 1), (1, 2**20), (1, width - 1)):
        across = murmur((x * 0x9E3779B1 & 0xFFFFFFFF) ^ start)
        assert got[y, x] == murmur((across + (y + 5) * 0x85EBCA77) & 0xFFFFFFFF)
    assert np.array_equal(unit_lattice(seed, width, height, stream, 5), (got >> 8).astype(np.float32) / 2**24)


def test_a_large_lattice_can_be_stopped() -> None:
    stop, looks = Stop(), []

    def check() -> None:
        looks.append(None)
        if len(looks) == 3:
            stop.set()
        stop.check()

    with pytest.raises(Cancelled):
        unit_lattice(1, 2**21, 64, check=check)
    assert len(looks) == 3


def test_hashes_are_even_and_do_not_depend_on_the_lattices_size() -> None:
    large = hash_lattice(5, 64, 48)
    assert np.array_equal(large[:10, :7], hash_lattice(5, 7, 10))
    values = unit_lattice(1, 200, 200)
    counts = np.histogram(values, 20, (0, 1))[0]
    assert np.abs(counts - 2000).max() < 6 * np.sqrt(2000)
    for other in (unit_lattice(2, 200, 200), unit_lattice(1, 200, 200, stream=1), np.roll(values, 1, axis=0)):
        assert abs(np.corrcoef(values.ravel(), other.ravel())[0, 1]) < 0.02
    assert len({hash_seed(s, o) for s in range(50) for o in range(16)}) == 800


KEEPS_A_KERNEL = """
from reedloom.kernels.horizon import open_sky, ray_steps
import numpy as np
steps = ray_steps(4, 4, (1.0, 1.0), 0.5, 4)
out = open_sky(np.zeros((4, 4), np.float32), 1.0, steps, 4, lambda band: band(0, 4))
print(float(out.mean()))
"""


def run_alone(code: str, cache: Path, sources: Path = PACKAGE.parent) -> str:
    """What a process of its own prints that takes the package from there."""
    environment = os.environ | {"REEDLOOM_CACHE": str(cache), "PYTHONPATH": str(sources)}
    environment.pop("NUMBA_CACHE_DIR", None)
    done = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, env=environment, check=False
    )
    assert done.returncode == 0, done.stderr
    return done.stdout


def test_a_broken_compile_cache_is_made_anew(tmp_path: Path) -> None:
    def run() -> str:
        return run_alone(KEEPS_A_KERNEL, tmp_path)

    first = run()
    kept = sorted(p for p in tmp_path.rglob("*.nb?") if p.is_file())
    beside = kept[0].parent / "another_kernel.nbi"
    beside.write_bytes(b"of another kernel")
    for damaged in kept:
        damaged.write_bytes(damaged.read_bytes()[: damaged.stat().st_size // 3])
        assert run() == first == "1.0\n", damaged.name
        assert beside.exists()  # a damaged file costs that file, not the whole cache
        assert sorted(p.name for p in kept) == sorted(p.name for p in tmp_path.rglob("*.nb?") if p != beside)


IS_WARM = "from reedloom.kernels.jit import is_warm; print(is_warm())"


def test_what_was_compiled_serves_the_same_sources_wherever_they_lie(tmp_path: Path) -> None:
    """A second copy would else find all kernels marked as compiled, and none there."""
    cache, copy = tmp_path / "cache", tmp_path / "copy"
    shutil.copytree(PACKAGE, copy / PACKAGE.name, ignore=shutil.ignore_patterns("__pycache__"))
    assert run_alone(IS_WARM, cache) == "False\n"
    first = run_alone(f"{KEEPS_A_KERNEL}\nfrom reedloom.kernels.jit import mark_warm; mark_warm()", cache)
    kept = {path: path.stat().st_mtime_ns for path in cache.rglob("*") if path.is_file()}
    assert run_alone(IS_WARM, cache, copy) == "True\n"
    told = run_alone(f"{KEEPS_A_KERNEL}\nimport reedloom; print(reedloom.__file__)", cache, copy)
    assert told == f"{first}{copy / PACKAGE.name / '__init__.py'}\n"
    assert kept == {path: path.stat().st_mtime_ns for path in cache.rglob("*") if path.is_file()}


def test_kernels_are_compiled_anew_for_another_processor(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = tmp_path / "kernels" / "of these sources"
    folder.mkdir(parents=True)
    monkeypatch.setattr(jit, "cache_folder", lambda: folder)
    assert not jit.is_warm()
    jit.mark_warm()
    assert jit.is_warm()
    with monkeypatch.context() as another:
        another.setattr(llvmlite.binding, "get_host_cpu_name", lambda: "another")
        assert not jit.is_warm()
        jit.mark_warm()
        assert jit.is_warm()
    assert jit.is_warm()  # a folder that several machines share serves them all


def test_an_edit_of_what_is_compiled_opens_a_new_folder(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Of what kernels are written with, too, though none is in it; but not of a kind that has none."""
    for part in ("kernels", "kinds"):
        shutil.copytree(PACKAGE / part, tmp_path / part)
    monkeypatch.setattr(jit, "__file__", str(tmp_path / "kernels" / "jit.py"))

    def folder_after(edited: str) -> Path:
        with (tmp_path / edited).open("a") as file:
            file.write("# edited\n")
        return jit.cache_folder.__wrapped__()

    before = jit.cache_folder.__wrapped__()
    assert folder_after("kinds/value/picture.py") == before
    compiled = ("kernels/lattice_cells.py", "kernels/strokes.py", "kinds/warp/swirl.py")
    found = [before, *map(folder_after, compiled)]
    assert len(set(found)) == len(found)
