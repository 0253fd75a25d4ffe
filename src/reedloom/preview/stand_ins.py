"""Maps that stand in for what is none: points as marks, paths as lines, islands and materials as colours."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.marks import draw_courses, draw_marks
from reedloom.kit.data import ISLANDS, MATERIAL, PATHS, POINTS
from reedloom.kit.values import data_of
from reedloom.preview.encodings import lit_material


def as_map(value: Any, width: int, height: int) -> np.ndarray:
    """A value as a map to look at: points as marks, islands and materials as colours; maps as they are."""
    data = data_of(value)
    if data is POINTS:
        return draw_marks(value, width, height)
    if data is PATHS:
        return draw_courses(value, width, height)
    if data is ISLANDS:
        return island_colours(value)
    if data is MATERIAL:
        if not value:
            return np.zeros((height, width, 3), np.float32)
        return np.clip(lit_material(value), 0, 1)
    return value


def island_colours(labels: np.ndarray) -> np.ndarray:
    """A colour for every label, black for 0: (H, W, 3) float32."""
    golden = np.float32(0.6180339887)
    hue = (labels.astype(np.float32) * golden) % 1
    shade = np.stack(
        [np.float32(0.24) + np.float32(0.15) * np.cos(2 * np.pi * (hue + k / 3)) for k in range(3)], axis=-1
    )
    return np.where(labels[..., None] > 0, shade, np.float32(0)).astype(np.float32)
