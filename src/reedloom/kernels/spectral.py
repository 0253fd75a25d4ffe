"""Periodic transforms in bands, so that they can be stopped: a map's waves, the surface of given slopes."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.maps import empty_map

BLOCK = 32
"""Rows or columns transformed at once: few enough to cancel fast, enough for the processor's vectors."""


def change_waves(
    size: tuple[int, int],
    kept: int,
    rows: Callable[[int, int], np.ndarray],
    change: Callable[[np.ndarray, slice], None],
    put: Callable[[int, int, np.ndarray], None],
    bands: Callable[..., None],
    columns: int = BLOCK // 2,
) -> None:
    """Change the waves of a map around the tile, band by band while the processor's cache holds it.

    Parameters
    ----------
    size : (int, int)
        The map's height and width.
    kept : int
        Of so many waves across; finer ones are lost.
    rows : callable
        Rows y0 to y1 of the map, float32.
    change : callable
        Changes in place these of all waves across, (H, kept) complex64. They are waves along rows only; for
        those along columns too see `in_both_ways`.
    put : callable
        Takes rows y0 to y1 of the result.
    bands : callable
        Runs band functions to the end.
    columns : int
        How many waves across are changed at once.
    """
    import scipy.fft  # its import takes longer than all other kernels', and only few kinds need it

    height, width = size
    spectrum = empty_map((height, kept), np.complex64)

    def across(y0: int, y1: int) -> None:
        spectrum[y0:y1] = scipy.fft.rfft(rows(y0, y1), axis=1)[:, :kept]

    def back(y0: int, y1: int) -> None:
        put(y0, y1, scipy.fft.irfft(spectrum[y0:y1], n=width, axis=1))

    bands(across, rows=height, band_rows=BLOCK)
    bands(lambda x0, x1: change(spectrum, slice(x0, x1)), rows=kept, band_rows=columns)
    bands(back, rows=height, band_rows=BLOCK)


def in_both_ways(change: Callable[[np.ndarray, slice], np.ndarray]) -> Callable[[np.ndarray, slice], None]:
    """For `change_waves`, what becomes of (H, n) complex64 waves in both directions; it may work in place."""

    def through(spectrum: np.ndarray, which: slice) -> None:
        import scipy.fft

        waves = change(scipy.fft.fft(spectrum[:, which], axis=0), which)
        spectrum[:, which] = scipy.fft.ifft(waves, axis=0, overwrite_x=True)

    return through


def integrate_slopes(slope: np.ndarray, dx: float, dy: float, bands: Callable[..., None]) -> np.ndarray:
    """The periodic surface whose central differences come nearest to given slopes, with mean 0.

    Solves Poisson's equation in the frequency domain (R. Frankot and R. Chellappa, 1988).

    Parameters
    ----------
    slope : (H, W, 2) float32
        The rise per unit along columns and rows.
    dx, dy : float
        Between samples, in that unit.
    bands : callable
        Runs band functions to the end.

    Returns
    -------
    (H, W) float32
    """
    import scipy.fft

    height, width = slope.shape[:2]
    kept = width // 2 + 1  # of waves across; the others mirror them
    across = np.sin(2 * np.pi * np.arange(kept) / width) / dx
    down = np.sin(2 * np.pi * np.arange(height) / height) / dy
    least = 1e-6 * max(across.max(initial=0.0), down.max(initial=0.0), 1e-12) ** 2
    waves, out = empty_map((2, height, kept), np.complex64), empty_map((height, width))

    def take(y0: int, y1: int) -> None:
        for axis in (0, 1):
            waves[axis, y0:y1] = scipy.fft.rfft(slope[y0:y1, :, axis], axis=1)

    def solve(x0: int, x1: int) -> None:
        rise, fall = across[None, x0:x1], down[:, None]
        power = rise**2 + fall**2
        # Waves that central differences cannot see, the constant among them, stay out.
        share = np.where(power > least, -1 / np.maximum(power, least), 0)
        along_u, along_v = scipy.fft.fft(waves[:, :, x0:x1], axis=1)
        surface = along_u * (rise * share).astype(np.float32) + along_v * (fall * share).astype(np.float32)
        waves[0, :, x0:x1] = scipy.fft.ifft(np.complex64(1j) * surface, axis=0)

    def back(y0: int, y1: int) -> None:
        out[y0:y1] = scipy.fft.irfft(waves[0, y0:y1], n=width, axis=1)

    bands(take, rows=height, band_rows=BLOCK)
    bands(solve, rows=kept, band_rows=BLOCK // 2)
    bands(back, rows=height, band_rows=BLOCK)
    return out
