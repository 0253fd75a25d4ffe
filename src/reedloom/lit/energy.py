"""How much light rough mirrors and sheen keep: the table that scales image-based reflections.

For every view angle and roughness two numbers, A and B, so that a mirror of reflectance F0 seen in
an even white room returns F0 A + B by single scattering. What is missing to 1 for F0 = 1 was scattered
more than once; the shader gives it back (C. Fdez-Agüera, *A multiple-scattering microfacet model for
real-time image-based lighting*, JCGT 2019). A third number, for every view angle
alone, is what sheen returns.
"""

from __future__ import annotations

from functools import cache

import numpy as np

SIDE = 32
"""Steps of roughness (rows) and of the view's cosine (columns)."""
SAMPLES = 1024
SHEEN_WIDTH = 0.5
"""Roughness of the fibres of sheen; as in the shader."""


def smith_masking(cosine: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    """Smith's G1 for the GGX distribution (B. Walter and others, EGSR 2007)."""
    return 2 * cosine / (cosine + np.sqrt(alpha**2 + (1 - alpha**2) * cosine**2))


@cache
def energy_table() -> np.ndarray:
    """A, B and sheen for each roughness and view cosine: (SIDE, SIDE, 3) float32, at cell centres.

    The GGX distribution is sampled by its normals at the points of a Hammersley set.
    """
    i = np.arange(SAMPLES)
    bits = np.array([int(f"{k:010b}"[::-1], 2) for k in i]) / SAMPLES
    cosines = (np.arange(SIDE) + 0.5) / SIDE
    table = np.zeros((SIDE, SIDE, 3))
    for row in range(SIDE):
        alpha = max(((row + 0.5) / SIDE) ** 2, 1e-3)
        cos_h = np.sqrt((1 - bits) / (1 + (alpha**2 - 1) * bits))
        sin_h = np.sqrt(1 - cos_h**2)
        phi = 2 * np.pi * (i + 0.5) / SAMPLES
        half = np.stack([sin_h * np.cos(phi), sin_h * np.sin(phi), cos_h], -1)
        for column, v in enumerate(cosines):
            view = np.array([np.sqrt(1 - v * v), 0, v])
            v_dot_h = np.clip(half @ view, 1e-6, 1)
            n_dot_l = 2 * v_dot_h * cos_h - v
            lit = n_dot_l > 0
            masked = smith_masking(np.where(lit, n_dot_l, 1), np.asarray(alpha)) * smith_masking(
                np.asarray(v), np.asarray(alpha)
            )
            share = np.where(lit, masked * v_dot_h / (cos_h * v), 0)
            fresnel = (1 - v_dot_h) ** 5
            table[row, column, :2] = (share * (1 - fresnel)).mean(), (share * fresnel).mean()
    table[..., 2] = sheen_kept(cosines)
    return table.astype(np.float32)


def sheen_kept(cosines: np.ndarray, steps: int = 64) -> np.ndarray:
    """What sheen returns of an even white room, seen at each cosine, by summing over directions.

    The fibres' distribution is that of A. Conty Estevez and C. Kulla (SIGGRAPH 2017), their masking
    that of M. Ashikhmin (2007); the shader has the same.
    """
    z, phi = np.meshgrid((np.arange(steps) + 0.5) / steps, (np.arange(2 * steps) + 0.5) / steps * np.pi)
    light = np.stack([np.sqrt(1 - z * z) * np.cos(phi), np.sqrt(1 - z * z) * np.sin(phi), z], -1)
    kept = []
    for v in cosines:
        half = light + np.array([np.sqrt(1 - v * v), 0, v])
        nh = half[..., 2] / np.linalg.norm(half, axis=-1)
        power = 1 / SHEEN_WIDTH
        fibres = (2 + power) * np.maximum(1 - nh * nh, 1e-4) ** (power / 2) / (2 * np.pi)
        kept.append((fibres / (4 * (z + v - z * v)) * z).mean() * 2 * np.pi)
    return np.array(kept)
