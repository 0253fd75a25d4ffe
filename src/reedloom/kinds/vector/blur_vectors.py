"""Blur vectors: a steadier flow."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.gauss import gaussian_blur
from reedloom.kinds.vector.vector_parts import VECTORS_IN, VECTORS_OUT
from reedloom.kit import Context, Length, kind


@kind(
    id="blur_vectors",
    label="Blur vectors",
    family="vector",
    version=1,
    purpose="Makes a flow steadier: each vector becomes the mean of those around it.",
    inputs=(VECTORS_IN,),
    outputs=(VECTORS_OUT,),
    parameters=(
        Length("radius", 0.02, (0, 0.1), (0, 0.5), help="Standard deviation of the Gaussian.", neutral=0.0),
    ),
    sample={"radius": 0.06},
    synonyms=("smooth", "soften", "average"),
)
def blur_vectors(context: Context, vectors: np.ndarray, *, radius: float) -> np.ndarray:
    if radius == 0:
        return vectors
    parts = (np.ascontiguousarray(vectors[..., axis]) for axis in range(2))
    return np.stack([gaussian_blur(part, context.shares(radius), context.bands) for part in parts], axis=-1)
