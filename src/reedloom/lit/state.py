"""The objects, tone mappings and shipped view points, and what a state of the lit view may hold."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import asdict, replace

from reedloom.lit.lights import LIGHT_SETS, direction_of
from reedloom.weave.document import LitState, Viewpoint

OBJECTS = {
    "sheet": "Flat sheet",
    "cube": "Rounded cube",
    "ball": "Ball",
    "cylinder": "Cylinder",
    "cloth": "Draped cloth",
}
TONE_MAPPINGS = {"filmic": "Filmic", "plain": "Plain"}
DISTANCES = (1.15, 12.0)
PITCHES = (-88.0, 88.0)
LIMITS = {
    "pitch": PITCHES, "distance": DISTANCES, "repeats": (1, 16), "depth": (0.0, 16.0), "middle": (0.0, 1.0),
    "exposure": (-12.0, 12.0),
}  # fmt: skip
Box = tuple[int, int, int, int]
"""A part of a frame: left, top, right, bottom."""
RAKED = (140.0, 7.0)
"""Where the key light stands to graze a surface."""


def _shipped() -> dict[str, dict[str, Viewpoint]]:
    """View points by object and name: what a maker looks at again and again."""
    solid = {
        "Whole": Viewpoint(),
        "Close": Viewpoint(yaw=70.0, pitch=12.0, distance=1.9),
        "Outline": Viewpoint(yaw=62.0, pitch=4.0, distance=1.7, target=(0.0, 0.72, 0.0)),
        "Raked": Viewpoint(yaw=70.0, pitch=10.0, distance=2.4, key=RAKED),
    }
    level = {
        "Whole": Viewpoint(yaw=62.0, pitch=38.0, distance=3.9),
        "From above": Viewpoint(yaw=90.0, pitch=88.0, distance=3.1),
        "Close": Viewpoint(yaw=70.0, pitch=42.0, distance=1.5),
        "Low": Viewpoint(yaw=62.0, pitch=12.0, distance=2.6),
        "Raked": Viewpoint(yaw=70.0, pitch=40.0, distance=2.2, key=RAKED),
    }
    return {name: level if name in {"sheet", "cloth"} else solid for name in OBJECTS}


VIEWPOINTS = _shipped()


def look_from(state: LitState, viewpoint: Viewpoint) -> LitState:
    """The state seen from a view point."""
    places = {k: v for k, v in asdict(viewpoint).items() if k != "extras"}
    return replace(state, **places)


def viewpoint_of(state: LitState) -> Viewpoint:
    """From where a state looks."""
    return Viewpoint(**{k: getattr(state, k) for k in Viewpoint.__struct_fields__ if k != "extras"})


def sound(state: LitState) -> LitState:
    """A state whose every value can be shown; what a file holds may come from anywhere."""
    fresh = LitState()
    values = asdict(state)
    for name, known in (("object", OBJECTS), ("light_set", LIGHT_SETS), ("tone_mapping", TONE_MAPPINGS)):
        if values[name] not in known:
            values[name] = getattr(fresh, name)
    for name, value in values.items():
        if isinstance(value, float) and not math.isfinite(value):
            values[name] = getattr(fresh, name)
        if name in LIMITS:
            low, high = LIMITS[name]
            values[name] = min(max(values[name], low), high)
        if isinstance(value, tuple) and not all(math.isfinite(v) and abs(v) <= 360 for v in value):
            values[name] = getattr(fresh, name)
    return LitState(**values)


def camera_of(state: Viewpoint) -> tuple[np.ndarray, np.ndarray]:
    """The eye, and the camera's right, up and forward axes as rows."""
    out = direction_of(state.yaw, state.pitch)
    x, y, z = -out
    level = max(math.hypot(x, z), 1e-9)
    right = (-z / level, 0.0, x / level)  # level, as the camera never leans
    up = (right[1] * z - right[2] * y, right[2] * x - right[0] * z, right[0] * y - right[1] * x)
    return np.array(state.target) + out * state.distance, np.array([right, up, (x, y, z)])
