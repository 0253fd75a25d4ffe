"""Vector lengths: measured, and brought into another range."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.vector.vector_parts import VECTORS_IN, VECTORS_OUT, lengths_of
from reedloom.kit import GREY, Context, Float, Length, Port, kind


@kind(
    id="vector_lengths",
    label="Vector lengths",
    family="vector",
    version=1,
    purpose="Levels for vectors: brings their lengths into another range and leaves where they point.",
    inputs=(VECTORS_IN,),
    outputs=(
        VECTORS_OUT,
        Port("length", GREY, help="How long each is afterwards, 1 for the longest allowed."),
    ),
    parameters=(
        Length(
            "shortest", 0.0, (0, 0.2), (0, 64), help="Vectors of this length, and shorter ones, become 0."
        ),
        Length(
            "longest",
            0.1,
            (0.001, 0.5),
            (1e-6, 64),
            help="Vectors of this length, and longer ones, become full.",
        ),
        Float(
            "middle", 1.0, (0.2, 4), (0.01, 64), help="Above 1 those between become shorter, below 1 longer."
        ),
        Length("full", 0.1, (0, 0.5), (0, 64), help="How long the longest become."),
    ),
    sample={"shortest": 0.3, "longest": 1.2, "full": 1.5},
    synonyms=("levels", "normalise", "limit", "magnitude", "clamp"),
)
def vector_lengths(
    context: Context, vectors: np.ndarray, *, shortest: float, longest: float, middle: float, full: float
) -> dict[str, np.ndarray]:
    span = np.float32(max(longest - shortest, 1e-6))
    outputs = {n: context.empty(2 if n == "vectors" else 1) for n in sorted(context.wanted)}

    def band(y0: int, y1: int) -> None:
        rows = vectors[y0:y1]
        # Each step in the rows of the one before: new ones for each take as long as the steps themselves.
        before = lengths_of(context, rows)
        after = before - np.float32(shortest)
        after /= span
        np.clip(after, 0, 1, out=after)
        if middle != 1:
            after **= np.float32(middle)
        if "length" in outputs:
            outputs["length"][y0:y1] = after
        if "vectors" in outputs:
            after *= np.float32(full)
            after /= np.maximum(before, np.float32(1e-9), out=before)
            made = outputs["vectors"][y0:y1]
            for axis in (0, 1):
                np.multiply(rows[..., axis], after, out=made[..., axis])

    context.bands(band, band_rows=32)
    return outputs
