"""What the lit view shows and from where, as plain frozen data."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from reedloom.lit.lights import direction_of

OBJECTS = {
    "sheet": "Flat sheet",
    "cube": "Rounded cube",
    "ball": "Ball",
    "cylinder": "Cylinder",
    "cloth": "Draped cloth",
}
TONE_MAPPINGS = {"filmic": "Filmic", "plain": "Plain"}


@dataclass(frozen=True, slots=True)
class LitState:
    """Everything a frame depends on, besides the maps.

    Attributes
    ----------
    repeats : int
        Tiles across the object.
    depth : float
        Times the weave's own depth; 1 is true.
    middle : float
        The height that stays at the object's own surface.
    exposure : float
        In stops.
    yaw, pitch : float
        Where the camera stands around its target, in degrees.
    distance : float
        From the target; objects are about 2 across.
    turn : float
        How far the surroundings and the key light are turned, in degrees.
    key : (azimuth, elevation) or None
        Where the key light stands; the light set's own place when None.
    """

    object: str = "ball"
    light_set: str = "soft_window"
    repeats: int = 2
    depth: float = 1.0
    middle: float = 0.5
    exposure: float = 0.0
    tone_mapping: str = "filmic"
    yaw: float = 62.0
    pitch: float = 18.0
    distance: float = 3.7
    target: tuple[float, float, float] = (0.0, 0.0, 0.0)
    turn: float = 0.0
    key: tuple[float, float] | None = None
    shadow: bool = True


def camera_of(state: LitState) -> tuple[np.ndarray, np.ndarray]:
    """The eye, and the camera's right, up and forward axes as rows."""
    out = direction_of(state.yaw, state.pitch)
    forward = -out
    right = np.cross(forward, [0.0, 1.0, 0.0])
    right /= max(np.linalg.norm(right), 1e-9)
    return np.array(state.target) + out * state.distance, np.stack([right, np.cross(right, forward), forward])
