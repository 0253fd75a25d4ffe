"""Picture files for tests, written by the library itself, so that ours is not checked by itself."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import OpenImageIO as oiio  # noqa: N813


def write_picture(path: Path, array: np.ndarray, kind: str) -> None:
    """A picture written by the library itself, so that ours is not checked by itself."""
    spec = oiio.ImageSpec(array.shape[1], array.shape[0], array.shape[2], kind)
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec) and out.write_image(np.ascontiguousarray(array)) and out.close()
