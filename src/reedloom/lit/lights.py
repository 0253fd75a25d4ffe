"""Light sets: surroundings as small linear pictures, and one key light each.

The pictures are shipped as half-float EXR files, made by formula by `tools/light_sets.py`. A picture is
an equirectangular (ROWS, COLUMNS, 3) float32 map of radiance; row 0 looks straight up,
the columns turn around the upright axis. It is filtered once for each roughness, and once into nine
spherical harmonics for matt light (R. Ramamoorthi and P. Hanrahan, SIGGRAPH 2001).
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

import numpy as np
from msgspec import Struct

from reedloom.data import FOLDER
from reedloom.picture_files import read_map

ROWS, COLUMNS = 64, 128
LEVELS = 7
"""Pictures by roughness: 0 is the sharp one, LEVELS - 1 that of roughness 1."""
Direction = tuple[float, float]


class LightSet(Struct, frozen=True):
    """Surroundings and a key light.

    Attributes
    ----------
    key : (azimuth, elevation) in degrees, where the key light stands.
    key_colour : linear irradiance of the key light on a surface that faces it.
    """

    id: str
    label: str
    key: Direction
    key_colour: tuple[float, float, float]


def direction_of(azimuth: float, elevation: float) -> np.ndarray:
    """The unit vector towards an azimuth and elevation in degrees."""
    a, e = np.radians(azimuth), np.radians(elevation)
    return np.array([np.cos(e) * np.cos(a), np.sin(e), np.cos(e) * np.sin(a)])


def grid_directions(rows: int = ROWS, columns: int = COLUMNS) -> np.ndarray:
    """The direction of every sample of a picture: (rows, columns, 3)."""
    theta = (np.arange(rows) + 0.5) / rows * np.pi
    phi = (np.arange(columns) + 0.5) / columns * 2 * np.pi
    sin = np.sin(theta)[:, None]
    return np.stack(
        [sin * np.cos(phi), np.broadcast_to(np.cos(theta)[:, None], (rows, columns)), sin * np.sin(phi)], -1
    )


def solid_angles(rows: int = ROWS, columns: int = COLUMNS) -> np.ndarray:
    """How much of the sphere each sample covers; they add up to 4 pi."""
    edges = np.cos(np.linspace(0, np.pi, rows + 1))
    return np.repeat(((edges[:-1] - edges[1:]) * 2 * np.pi / columns)[:, None], columns, axis=1)


LIGHT_SETS: dict[str, LightSet] = {
    s.id: s
    for s in (
        LightSet("soft_window", "Soft window", (140, 34), (1.2, 1.24, 1.28)),
        LightSet("overcast", "Overcast", (120, 55), (0.4, 0.4, 0.42)),
        LightSet("low_sun", "Low sun", (150, 14), (3.6, 2.5, 1.5)),
        LightSet("workshop", "Two lamps", (125, 48), (2.4, 1.8, 1.2)),
        LightSet("dark_rim", "Dark, with a rim", (100, 30), (0.55, 0.5, 0.45)),
    )
}


def picture_of(set_id: str) -> Path:
    """The file that holds a shipped light set's radiance."""
    return FOLDER / "lights" / f"{set_id.replace('_', '-')}.exr"


class Surroundings(Struct, frozen=True, eq=False):
    """A light set ready for the renderer.

    Attributes
    ----------
    levels : (LEVELS, ROWS, COLUMNS, 3) float32
        The picture as a mirror of each roughness sees it, with the surface seen straight on.
    harmonics : (9, 3) float32
        Irradiance over pi as a polynomial of the normal; see `irradiance`.
    """

    levels: np.ndarray
    harmonics: np.ndarray


def harmonic_basis(d: np.ndarray) -> np.ndarray:
    """The nine real spherical harmonics of order 0 to 2 at unit directions: (..., 9)."""
    x, y, z = d[..., 0], d[..., 1], d[..., 2]
    parts = [
        np.full_like(x, 0.282095), 0.488603 * y, 0.488603 * z, 0.488603 * x,
        1.092548 * x * y, 1.092548 * y * z, 0.315392 * (3 * z * z - 1), 1.092548 * x * z,
        0.546274 * (x * x - y * y),
    ]  # fmt: skip
    return np.stack(parts, -1)


def project_harmonics(picture: np.ndarray) -> np.ndarray:
    """A picture's harmonics, each order scaled by what a matt surface leaves of it, over pi: (9, 3)."""
    weights = solid_angles(*picture.shape[:2])[..., None]
    basis = harmonic_basis(grid_directions(*picture.shape[:2]))
    raw = np.einsum("ijk,ijc->kc", basis, picture * weights)
    matt = np.array([1.0] + [2 / 3] * 3 + [0.25] * 5)
    return (raw * matt[:, None]).astype(np.float32)


def irradiance(harmonics: np.ndarray, normal: np.ndarray) -> np.ndarray:
    """Irradiance over pi on a surface that faces `normal`."""
    return harmonic_basis(normal) @ harmonics


def filter_by_roughness(picture: np.ndarray) -> np.ndarray:
    """The picture as mirrors of rising roughness see it: (LEVELS, rows, columns, 3).

    Each sample is the mean over all directions, weighted by the GGX lobe around its own with the
    surface seen straight on, as is usual for image-based light.
    """
    levels = [picture.astype(np.float32)]
    small = picture.reshape(ROWS // 2, 2, COLUMNS // 2, 2, 3).mean(axis=(1, 3))
    towards = grid_directions(*small.shape[:2]).reshape(-1, 3)
    weights = solid_angles(*small.shape[:2]).reshape(-1)
    colours = small.reshape(-1, 3)
    cosines = np.clip(towards @ towards.T, -1, 1).astype(np.float32)
    for level in range(1, LEVELS):
        alpha = (level / (LEVELS - 1)) ** 2
        half = np.sqrt((1 + cosines) / 2)  # the cosine of half the angle: normal to half vector
        lobe = (
            alpha**2
            / (half**2 * (alpha**2 - 1) + 1) ** 2
            * np.clip(cosines, 0, 1)
            * weights.astype(np.float32)
        )
        lobe /= lobe.sum(axis=1, keepdims=True)
        seen = (lobe @ colours.astype(np.float32)).reshape(*small.shape)
        levels.append(np.repeat(np.repeat(seen, 2, axis=0), 2, axis=1))
    return np.stack(levels).astype(np.float32)


@cache
def surroundings(set_id: str) -> Surroundings:
    """A shipped light set, read and filtered once per process."""
    return make_surroundings(read_map(picture_of(set_id)))


def make_surroundings(picture: np.ndarray) -> Surroundings:
    """Filter a picture of radiance."""
    return Surroundings(filter_by_roughness(picture), project_harmonics(picture))
