"""Integer hashes: all randomness comes from (seed, lattice place), never from a stream."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.maps import empty_map

Check = Callable[[], None]
BLOCK = 2**20
"""Lattice places that are filled at once."""
_M1, _M2, _M3 = 0x9E3779B1, 0x85EBCA77, 0xC2B2AE3D


def no_check() -> None:
    """Nobody can ask for a stop."""


def hash_lattice(
    seed: int, width: int, height: int, stream: int = 0, first: int = 0, check: Check = no_check
) -> np.ndarray:
    """Thirty-two well mixed bits for every place of a lattice.

    Parameters
    ----------
    seed, stream : int
        Another seed or stream gives independent bits at the same places.
    width, height : int
        Lattice places per tile; the value at (column, row) does not depend on them.
    first : int
        The row that the first one here is of the lattice.
    check : callable
        Called every few milliseconds; may raise `Cancelled`.

    Returns
    -------
    (height, width) uint32

    Notes
    -----
    The finaliser is the 32-bit one of MurmurHash3 (public domain, A. Appleby), run twice.
    """
    return _in_blocks(hash_rows, empty_map((height, width), np.uint32), seed, stream, first, check)


def unit_lattice(
    seed: int, width: int, height: int, stream: int = 0, first: int = 0, check: Check = no_check
) -> np.ndarray:
    """A random value in 0..1 for every place of a lattice, as `hash_lattice`: (height, width) float32.

    Parameters
    ----------
    stream : int
        Lattices of other streams have nothing in common.
    first : int
        The first row to make; `height` rows from there on.
    check : callable
        Called every few milliseconds; may raise `Cancelled`.

    Returns
    -------
    (height, width) float32, 0 to 1
    """
    return _in_blocks(unit_rows, empty_map((height, width)), seed, stream, first, check)


def _in_blocks(
    fill: Callable[..., None], out: np.ndarray, seed: int, stream: int, first: int, check: Check
) -> np.ndarray:
    height, width = out.shape
    start = _start(seed, stream)
    rows = max(1, BLOCK // max(1, width))
    for y in range(0, height, rows):
        for x in range(0, width, BLOCK):
            check()
            fill(start, x, first + y, out[y : y + rows, x : x + BLOCK])
    return out


@inlined
def _mixed(h):  # type: ignore[no-untyped-def]
    h = np.uint32(h ^ (h >> np.uint32(16)))
    h = np.uint32(h * np.uint32(0x85EBCA6B))
    h = np.uint32(h ^ (h >> np.uint32(13)))
    h = np.uint32(h * np.uint32(0xC2B2AE35))
    return np.uint32(h ^ (h >> np.uint32(16)))


@inlined
def _hashed(start, x, y):  # type: ignore[no-untyped-def]
    across = _mixed(np.uint32(np.uint32(x) * np.uint32(_M1)) ^ start)
    return _mixed(np.uint32(across + np.uint32(np.uint32(y) * np.uint32(_M2))))


@inlined
def _unit(bits):  # type: ignore[no-untyped-def]
    return np.float32(np.int32(bits >> np.uint32(8))) * np.float32(2.0**-24)


@kernel
def hash_rows(start, x0, y0, out):  # type: ignore[no-untyped-def]
    """Fill a block of a lattice, from column x0 and row y0 on, with mixed bits.

    Parameters
    ----------
    start : uint32
        From the seed and the stream.
    x0, y0 : int
        Where in the lattice the block begins.
    out : (h, w) uint32
        Filled.
    """
    for y in range(out.shape[0]):
        line = out[y]
        for x in range(out.shape[1]):
            line[x] = _hashed(start, np.uint32(x0) + np.uint32(x), y0 + y)


@kernel
def unit_rows(start, x0, y0, out):  # type: ignore[no-untyped-def]
    """Fill a block of a lattice with values in 0..1.

    Parameters
    ----------
    start : uint32
        From the seed and the stream.
    x0, y0 : int
        Where in the lattice the block begins.
    out : (h, w) float32
        Filled with 0 to 1.
    """
    for y in range(out.shape[0]):
        line = out[y]
        for x in range(out.shape[1]):
            line[x] = _unit(_hashed(start, np.uint32(x0) + np.uint32(x), y0 + y))


@kernel
def chances_of(start, ids, out):  # type: ignore[no-untyped-def]
    """Fill values in 0..1 for whole numbers, from their low bits and their high ones."""
    for i in range(len(ids)):
        low = np.uint32(np.uint32(ids[i]) * np.uint32(_M1)) ^ start
        high = np.uint32(np.uint32(ids[i] >> 32) * np.uint32(_M2))
        out[i] = _unit(_mixed(_mixed(np.uint32(low + high))))


def _start(seed: int, stream: int) -> np.uint32:
    """The bits from which those of a seed and stream begin."""
    return np.uint32((seed * _M3 + stream * 0x27D4EB2F + 0x165667B1) & 0xFFFFFFFF)


def unit_chances(seed: int, ids: np.ndarray, stream: int = 0) -> np.ndarray:
    """A random value in 0..1 for each whole number, which does not depend on the others: (N,) float32.

    Parameters
    ----------
    ids : (N,) int64
    stream : int
        Values of other streams have nothing in common.

    Returns
    -------
    (N,) float32, 0 to 1
    """
    out = np.empty(len(ids), np.float32)
    chances_of(_start(seed, stream), np.ascontiguousarray(ids, np.int64), out)
    return out


def hash_seed(seed: int, octave: int) -> int:
    """The seed of one octave, unlike that of its neighbours."""
    return (seed * 0x2545F491 + octave * 0x9E3779B9 + 0x632BE5AB) & 0x7FFFFFFF
