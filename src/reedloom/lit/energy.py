"""How much light a rough mirror keeps: the table that scales image-based reflections.

For every view angle and roughness two numbers, A and B, so that a mirror of reflectance F0 seen in
an even white room returns F0 A + B by single scattering. What is missing to 1 for F0 = 1 was scattered
more than once; the shader gives it back (C. Fdez-Agüera, *A multiple-scattering microfacet model for
real-time image-based lighting*, JCGT 2019).
"""

from __future__ import annotations

from functools import cache

import numpy as np

SIDE = 32
"""Steps of roughness (rows) and of the view's cosine (columns)."""
SAMPLES = 1024


def smith_masking(cosine: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    """Smith's G1 for the GGX distribution (B. Walter and others, EGSR 2007)."""
    return 2 * cosine / (cosine + np.sqrt(alpha**2 + (1 - alpha**2) * cosine**2))


@cache
def energy_table() -> np.ndarray:
    """A and B for each roughness and view cosine: (SIDE, SIDE, 2) float32, sampled at cell centres.

    The GGX distribution is sampled by its normals at the points of a Hammersley set.
    """
    i = np.arange(SAMPLES)
    bits = np.array([int(f"{k:010b}"[::-1], 2) for k in i]) / SAMPLES
    cosines = (np.arange(SIDE) + 0.5) / SIDE
    table = np.zeros((SIDE, SIDE, 2))
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
            table[row, column] = (share * (1 - fresnel)).mean(), (share * fresnel).mean()
    return table.astype(np.float32)
