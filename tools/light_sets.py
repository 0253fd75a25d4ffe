"""Makes the shipped light sets by formula: small half-float EXR pictures in `data/lights/`."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np

from reedloom.delivery.encode import FORMATS, write_map
from reedloom.lit.lights import Direction, direction_of, grid_directions, picture_of


def _glow(d: np.ndarray, azimuth: float, elevation: float, width: float) -> np.ndarray:
    """A soft round lamp: 1 in its middle, falling off over `width` degrees."""
    towards = np.clip(d @ direction_of(azimuth, elevation), -1, 1)
    return np.exp(-((np.degrees(np.arccos(towards)) / width) ** 2))[..., None]


def _pane(d: np.ndarray, azimuth: float, elevation: float, size: Direction) -> np.ndarray:
    """A soft-edged rectangle of `size` degrees."""
    a = np.degrees(np.arctan2(d[..., 2], d[..., 0]))
    e = np.degrees(np.arcsin(np.clip(d[..., 1], -1, 1)))
    across = np.abs((a - azimuth + 180) % 360 - 180)
    soft = [
        1 / (1 + np.exp((x - half) / 2.5))
        for x, half in ((across, size[0] / 2), (np.abs(e - elevation), size[1] / 2))
    ]
    return (soft[0] * soft[1])[..., None]


def _sky(d: np.ndarray, below: object, horizon: object, above: object) -> np.ndarray:
    """Three colours from straight down to straight up."""
    y = d[..., 1:2]
    up, down = np.clip(y, 0, 1) ** 0.6, np.clip(-y * 6, 0, 1)
    return np.asarray(horizon) * (1 - up) * (1 - down) + np.asarray(above) * up + np.asarray(below) * down


def _soft_window(d: np.ndarray) -> np.ndarray:
    room = _sky(d, (0.16, 0.14, 0.12), (0.24, 0.23, 0.22), (0.30, 0.30, 0.30))
    window = _pane(d, 140, 32, (70, 56)) * np.array([6.5, 6.9, 7.2])
    return 0.72 * (room + window + _pane(d, -35, 20, (40, 30)) * np.array([0.7, 0.6, 0.5]))


def _overcast(d: np.ndarray) -> np.ndarray:
    """The CIE overcast sky: three times as bright overhead as at the horizon."""
    sky = (1 + 2 * np.clip(d[..., 1:2], 0, 1)) / 3 * np.array([0.86, 0.89, 0.93])
    return np.where(d[..., 1:2] > 0, sky, np.array([0.15, 0.14, 0.13]))


def _low_sun(d: np.ndarray) -> np.ndarray:
    sky = _sky(d, (0.16, 0.12, 0.08), (0.75, 0.56, 0.40), (0.16, 0.27, 0.50))
    return (
        sky
        + _glow(d, 150, 10, 24) * np.array([2.6, 1.5, 0.7])
        + _glow(d, 150, 11, 5) * np.array([22.0, 13.0, 6.0])
    )


def _workshop(d: np.ndarray) -> np.ndarray:
    room = _sky(d, (0.05, 0.04, 0.035), (0.08, 0.07, 0.06), (0.06, 0.06, 0.06))
    warm = _glow(d, 125, 48, 13) * np.array([17.0, 12.0, 7.4])
    return room + warm + _glow(d, -20, 30, 10) * np.array([5.0, 6.4, 8.4])


def _dark_rim(d: np.ndarray) -> np.ndarray:
    rims = _pane(d, -62, 18, (16, 92)) * np.array([4.4, 5.6, 7.4]) + _pane(d, -118, 18, (16, 92)) * np.array(
        [7.0, 5.2, 3.6]
    )
    return rims + np.array([0.018, 0.019, 0.021])


RADIANCE: dict[str, Callable[[np.ndarray], np.ndarray]] = {
    "soft_window": _soft_window,
    "overcast": _overcast,
    "low_sun": _low_sun,
    "workshop": _workshop,
    "dark_rim": _dark_rim,
}
"""From unit directions (..., 3), y up, to linear radiance (..., 3)."""


def make_picture(set_id: str) -> np.ndarray:
    """The radiance of a light set: (ROWS, COLUMNS, 3) float32."""
    return np.ascontiguousarray(RADIANCE[set_id](grid_directions()), np.float32)


def main(folder: Path | None = None) -> None:
    """Write them all."""
    for set_id in RADIANCE:
        path = picture_of(set_id) if folder is None else folder / picture_of(set_id).name
        path.parent.mkdir(exist_ok=True)
        write_map(path, make_picture(set_id), FORMATS["exr_half"], srgb=False)
        print(path.name)


if __name__ == "__main__":
    main()
