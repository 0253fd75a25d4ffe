"""Light and the eye: the CIE 1931 observer, daylight D65, and colours of thin films on a base.

The observer is the multi-lobe fit of C. Wyman, P.-P. Sloan and P. Shirley (*Simple analytic approximations
to the CIE XYZ color matching functions*, JCGT 2013); D65 is tabulated by CIE 15.
"""

from __future__ import annotations

from functools import cache, lru_cache

import numpy as np

D65 = np.array([
    49.98, 54.65, 82.75, 91.49, 93.43, 86.68, 104.86, 117.01, 117.81, 114.86, 115.92, 108.81, 109.35, 107.80,
    104.79, 107.69, 104.41, 104.05, 100.00, 96.33, 95.79, 88.69, 90.01, 89.60, 87.70, 83.29, 83.70, 80.03,
    80.21, 82.28, 78.28, 69.72, 71.61, 74.35, 61.60, 69.89, 75.09, 63.59, 46.42, 66.81, 63.38,
])  # fmt: skip
"""Relative power of daylight from 380 to 780 nm in steps of 10."""
WAVES = np.arange(380.0, 781.0, 5.0)
"""Wavelengths in nanometres over which light is summed."""
RGB_FROM_XYZ = np.array([
    [3.2404542, -1.5371385, -0.4985314],
    [-0.9692660, 1.8760108, 0.0415560],
    [0.0556434, -0.2040259, 1.0572252],
])  # fmt: skip
"""To linear sRGB (IEC 61966-2-1)."""


def _lobe(wave: np.ndarray, middle: float, below: float, above: float) -> np.ndarray:
    t = (wave - middle) * np.where(wave < middle, below, above)
    return np.exp(-0.5 * t * t)


def observer(wave: np.ndarray) -> np.ndarray:
    """The colour matching functions x, y, z at wavelengths in nanometres: (..., 3)."""
    x = (
        0.362 * _lobe(wave, 442.0, 0.0624, 0.0374)
        + 1.056 * _lobe(wave, 599.8, 0.0264, 0.0323)
        - 0.065 * _lobe(wave, 501.1, 0.0490, 0.0382)
    )
    y = 0.821 * _lobe(wave, 568.8, 0.0213, 0.0247) + 0.286 * _lobe(wave, 530.9, 0.0613, 0.0322)
    z = 1.217 * _lobe(wave, 437.0, 0.0845, 0.0278) + 0.681 * _lobe(wave, 459.0, 0.0385, 0.0725)
    return np.stack([x, y, z], axis=-1)


@cache
def _weights() -> np.ndarray:
    """What each wavelength of reflectance adds to linear sRGB under daylight: (waves, 3)."""
    power = np.interp(WAVES, np.arange(380.0, 781.0, 10.0), D65)
    xyz = observer(WAVES) * power[:, None]
    rgb = (xyz / xyz[:, 1].sum()) @ RGB_FROM_XYZ.T
    return rgb / rgb.sum(axis=0)  # so that a white surface is white


def colour_of(reflectance: np.ndarray) -> np.ndarray:
    """Linear sRGB of a reflectance over WAVES (..., waves) in daylight; (1, 1, 1) for a white one."""
    return np.asarray(reflectance @ _weights())


def film_reflectance(thickness: np.ndarray, film: float, base: complex, cosine: float = 1.0) -> np.ndarray:
    """Reflectance over WAVES of a clear film on a base, light unpolarised (Airy's sum, Fresnel's amplitudes).

    Parameters
    ----------
    thickness : (n,) in nanometres
    film : float
        Refractive index of the film.
    base : complex
        Index of the base, n + ik.
    cosine : float
        Of the angle of sight to the normal.

    Returns
    -------
    (n, waves) float32
    """
    sine = np.sqrt(1 - cosine**2)
    inside, below = np.sqrt(1 - (sine / film) ** 2), np.sqrt(1 - (sine / base) ** 2 + 0j)
    turns = 2 * film * inside * thickness[:, None] / WAVES
    turn = (2 * np.pi * (turns - np.floor(turns))).astype(np.float32)  # whose cosine is found in vectors
    across, along = np.cos(turn), np.sin(turn)
    total = np.zeros(turn.shape, np.float32)
    for senkrecht in (True, False):
        a, b = ((cosine, film * inside), (film * inside, base * below)) if senkrecht else (
            (film * cosine, inside), (base * inside, film * below)
        )  # fmt: skip
        top, foot = (a[0] - a[1]) / (a[0] + a[1]), (b[0] - b[1]) / (b[0] + b[1])
        # |top + foot e^(i turn)|² over |1 + top foot e^(i turn)|², whose parts with the turn are the same.
        wave = float(2 * top * foot.real) * across - float(2 * top * foot.imag) * along
        total += (float(top**2 + abs(foot) ** 2) + wave) / (float(1 + top**2 * abs(foot) ** 2) + wave)
    return total / 2


@lru_cache(64)
def film_colours(limit: float, count: int, film: float, base: complex, cosine: float = 1.0) -> np.ndarray:
    """Colours of films from 0 to `limit` nanometres in `count` even steps: (count, 3) linear sRGB.

    Parameters
    ----------
    limit : float
        Nanometres.
    film : float
        Index of refraction of the film.
    base : complex
        Of what is below it.
    cosine : float
        Of the angle within the film.

    Returns
    -------
    (count, 3) float32, not to be written
    """
    reflectance = film_reflectance(np.linspace(0, limit, count), film, base, cosine)
    table = colour_of(reflectance).astype(np.float32)
    table.flags.writeable = False
    return table
