"""The material's maps as textures: which there are, and uploading only those that changed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, TypeVar

import numpy as np

from reedloom.kernels.colours import grey_as_colour, luminance
from reedloom.kit.channels import CHANNELS
from reedloom.lit.calls import Calls

TEXTURES = {
    "height_map": ("height",),
    "normal_map": ("normal",),
    "colour_map": ("base_colour",),
    "emission_map": ("emission",),
    "data_map": ("roughness", "metallic", "ambient_occlusion", "opacity"),
    "layer_map": ("coat_weight", "coat_roughness", "sheen", "subsurface"),
    "film_map": ("film_thickness", "specular_level", "anisotropy", "anisotropy_angle"),
    "coat_tint": ("coat_colour",),
    "sheen_tint": ("sheen_colour",),
    "below_tint": ("subsurface_colour",),
    "reach_map": ("subsurface_reach",),
}
"""The channels each texture carries."""
_Heights = TypeVar("_Heights", float, np.ndarray)


class Textures:
    """One material on the graphics side."""

    def __init__(self, context: Any, calls: Calls) -> None:
        self._context, self._calls = context, calls
        self.made: dict[str, Any] = {}
        self.shapes: dict[str, tuple[int, ...]] = {}
        self.channels: frozenset[str] = frozenset()
        self.heights = (0.0, 0.0)
        """The least height and the greatest, which are 0 and 1 in the texture."""
        self._sources: dict[str, tuple[object, ...]] = {}

    def take(self, maps: Mapping[str, np.ndarray]) -> list[str]:
        """Take a material's maps; returns the textures that had to be uploaded.

        maps : channel to (H, W) or (H, W, 3) float32, of one size. Missing ones fall back.
        """
        if "displacement" in maps:  # what stands out is apart from what only shades
            maps = {**maps, "height": maps["displacement"]}
        self.channels = frozenset(maps)
        shape = next((m.shape[:2] for m in maps.values()), (1, 1))
        uploaded = []
        for name, channels in TEXTURES.items():
            present = [maps.get(c) for c in channels]
            size = shape if any(m is not None for m in present) else (1, 1)
            before = self._sources.get(name)
            if before is not None and before[0] == size and _same(before[1:], present):
                continue
            self._sources[name] = (size, *present)
            picture = _picture(channels, maps, size)
            if name == "height_map":
                self.heights = (float(picture.min()), float(picture.max()))
                picture = self.share(picture)
            self._upload(name, picture)
            uploaded.append(name)
        return uploaded

    def has(self, *names: str) -> bool:
        """Whether any channel of some textures is there, rather than its fallback."""
        return any(c in self.channels for name in names for c in TEXTURES[name])

    @property
    def rise(self) -> float:
        """From the least height to the greatest; never quite nothing."""
        low, high = self.heights
        return max(high - low, 1e-9)

    def share(self, heights: _Heights) -> _Heights:
        """Where heights lie from the least to the greatest, as 0 to 1: how the texture holds them."""
        return (heights - self.heights[0]) / self.rise

    def _upload(self, name: str, picture: np.ndarray) -> None:
        texture = self.made.get(name)
        if texture is None:
            texture = self._context.texture((1, 1), picture.shape[2], None, alignment=1, dtype="f4")
            texture.filter = (self._context.LINEAR_MIPMAP_NEAREST, self._context.LINEAR)
            self.made[name] = texture
        self._calls.fill(texture, picture, self.shapes.get(name) == picture.shape)
        self.shapes[name] = picture.shape

    def release(self) -> None:
        """Give the textures back."""
        for texture in self.made.values():
            texture.release()
        self.made.clear()
        self.shapes.clear()
        self._sources.clear()


def _same(before: tuple[object, ...], now: list[np.ndarray | None]) -> bool:
    return all(a is b for a, b in zip(before, now, strict=True))


def _picture(channels: tuple[str, ...], maps: Mapping[str, np.ndarray], shape: tuple[int, ...]) -> np.ndarray:
    """The samples of one texture: (h, w, components) float32."""
    if len(channels) == 1:
        channel = CHANNELS[channels[0]]
        if channel.id not in maps:
            return np.array(channel.fallback, np.float32).reshape(1, 1, -1)
        array = maps[channel.id]
        if len(channel.fallback) == 1:
            return np.ascontiguousarray(_grey(array)[..., None])
        return np.ascontiguousarray(array if array.ndim == 3 else grey_as_colour(array))
    picture = np.empty((*shape, len(channels)), np.float32)
    for number, name in enumerate(channels):
        picture[..., number] = _grey(maps[name]) if name in maps else CHANNELS[name].fallback[0]
    return picture


def _grey(array: np.ndarray) -> np.ndarray:
    return array if array.ndim == 2 else luminance(array)
