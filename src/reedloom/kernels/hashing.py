"""Integer hashes: all randomness comes from (seed, lattice place), never from a stream."""

from __future__ import annotations

import numpy as np

_M1, _M2, _M3 = 0x9E3779B1, 0x85EBCA77, 0xC2B2AE3D


def hash_lattice(seed: int, width: int, height: int, stream: int = 0) -> np.ndarray:
    """Thirty-two well mixed bits for every place of a lattice.

    Parameters
    ----------
    seed, stream : int
        Another seed or stream gives independent bits at the same places.
    width, height : int
        Lattice places per tile; the value at (column, row) does not depend on them.

    Returns
    -------
    (height, width) uint32

    Notes
    -----
    The finaliser is the 32-bit one of MurmurHash3 (public domain, A. Appleby), run twice.
    """
    with np.errstate(over="ignore"):
        x = np.arange(width, dtype=np.uint32)[None, :] * np.uint32(_M1)
        y = np.arange(height, dtype=np.uint32)[:, None] * np.uint32(_M2)
        return _mix(_mix(x ^ _start(seed, stream)) + y)


def _mix(h: np.ndarray) -> np.ndarray:
    h = h ^ (h >> np.uint32(16))
    h = h * np.uint32(0x85EBCA6B)
    h ^= h >> np.uint32(13)
    h *= np.uint32(0xC2B2AE35)
    h ^= h >> np.uint32(16)
    return h


def _start(seed: int, stream: int) -> np.uint32:
    """The bits from which those of a seed and stream begin."""
    return np.uint32((seed * _M3 + stream * 0x27D4EB2F + 0x165667B1) & 0xFFFFFFFF)


def _unit(bits: np.ndarray) -> np.ndarray:
    """Random bits as values in 0..1: float32."""
    return (bits >> np.uint32(8)).astype(np.float32) * np.float32(2.0**-24)


def unit_chances(seed: int, ids: np.ndarray, stream: int = 0) -> np.ndarray:
    """A random value in 0..1 for each whole number, which does not depend on the others: (N,) float32."""
    low, high = (ids & 0xFFFFFFFF).astype(np.uint32), ((ids >> 32) & 0xFFFFFFFF).astype(np.uint32)
    with np.errstate(over="ignore"):
        return _unit(_mix(_mix((low * np.uint32(_M1) ^ _start(seed, stream)) + high * np.uint32(_M2))))


def unit_lattice(seed: int, width: int, height: int, stream: int = 0) -> np.ndarray:
    """A random value in 0..1 for every place of a lattice: (height, width) float32."""
    return _unit(hash_lattice(seed, width, height, stream))


def hash_seed(seed: int, octave: int) -> int:
    """The seed of one octave, unlike that of its neighbours."""
    return (seed * 0x2545F491 + octave * 0x9E3779B9 + 0x632BE5AB) & 0x7FFFFFFF
