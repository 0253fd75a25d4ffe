"""Renders a material on an object into a picture, on an off-screen OpenGL context.

All GL objects are made, used and released in the thread that made the renderer. Frames are drawn in
strips with a breath between them, because the library keeps the interpreter lock while it draws.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from reedloom.data import FOLDER
from reedloom.errors import ReedError
from reedloom.kernels.colours import luminance
from reedloom.lit.energy import energy_table
from reedloom.lit.lights import LEVELS, LIGHT_SETS, Surroundings, direction_of, surroundings
from reedloom.lit.outline import screen_triangles
from reedloom.lit.state import OBJECTS, TONE_MAPPINGS, LitState, camera_of
from reedloom.weave.channels import CHANNELS

LENS = 0.36
"""Half the view's height at distance 1."""
COARSE_STRIP, FINE_STRIP = 128, 8
"""Rows drawn at once: so few that the window does not stall meanwhile."""
BREATH = 0.002
CORNERS = 1024
"""Most corners of the triangles that cover an object."""
SPANS = {"sheet": 2.0, "cube": 1.56, "ball": np.pi, "cylinder": 2.2, "cloth": 2.0}
"""Object units across the object, which `repeats` tiles share; as in the shader."""
SOURCES = {
    "height_map": "height",
    "normal_map": "normal",
    "colour_map": "base_colour",
    "emission_map": "emission",
}
DATA = ("roughness", "metallic", "ambient_occlusion", "opacity")


class NoOpenGLError(ReedError):
    """There is no OpenGL 3.3 here."""


class Renderer:
    """One context with one material on it."""

    def __init__(self) -> None:
        self.context = _make_context()
        vertex, fragment = ((FOLDER / "shaders" / f"lit.{kind}").read_text() for kind in ("vert", "frag"))
        self._program = self.context.program(vertex_shader=vertex, fragment_shader=fragment)
        self._corners = self.context.buffer(reserve=CORNERS * 8, dynamic=True)
        self._array = self.context.vertex_array(self._program, [(self._corners, "2f", "corner")])
        self._textures: dict[str, Any] = {}
        self._sources: dict[str, tuple[object, ...]] = {}
        self._present = [0.0, 0.0, 0.0, 0.0]
        self._frame: Any = None
        table = self.context.texture(energy_table().shape[1::-1], 2, energy_table().tobytes(), dtype="f4")
        table.repeat_x = table.repeat_y = False
        self._textures["energy"] = table
        self._surroundings: Surroundings | None = None

    # -- what is shown --------------------------------------------------------------------------------

    def set_maps(self, maps: Mapping[str, np.ndarray]) -> list[str]:
        """Take a material's maps; only those that changed are uploaded. Returns what was uploaded.

        maps : channel to (H, W) or (H, W, 3) float32, of one size. Missing ones fall back.
        """
        uploaded = []
        shape = next((m.shape[:2] for m in maps.values()), (1, 1))
        wanted: dict[str, tuple[object, ...]] = {name: (maps.get(c),) for name, c in SOURCES.items()}
        wanted["data_map"] = (*(maps.get(c) for c in DATA), shape)
        for name, sources in wanted.items():
            before = self._sources.get(name)
            if (
                before is not None
                and len(before) == len(sources)
                and all(
                    a is b or (isinstance(a, tuple) and a == b) for a, b in zip(before, sources, strict=True)
                )
            ):
                continue
            self._sources[name] = sources
            self._upload(name, self._picture(name, maps, shape))
            uploaded.append(name)
        self._present[:3] = [float(c in maps) for c in ("height", "normal", "emission")]
        return uploaded

    def _picture(self, name: str, maps: Mapping[str, np.ndarray], shape: tuple[int, ...]) -> np.ndarray:
        """The samples of one texture, (h, w, components)."""
        if name == "data_map":
            layers = [
                _grey(maps[c]) if c in maps else np.full(shape, CHANNELS[c].fallback[0], np.float32)
                for c in DATA
            ]
            return np.stack(layers, axis=-1)
        channel = SOURCES[name]
        if channel not in maps:
            return np.array(CHANNELS[channel].fallback, np.float32).reshape(1, 1, -1)
        array = maps[channel]
        if channel == "height":
            return _grey(array)[..., None]
        return array if array.ndim == 3 else np.repeat(array[..., None], 3, axis=2)

    def _upload(self, name: str, picture: np.ndarray) -> None:
        height, width, components = picture.shape
        kind = "f4"
        data = np.ascontiguousarray(picture, np.float32 if kind == "f4" else np.float16)
        old = self._textures.get(name)
        if old is not None and (old.size, old.components) == ((width, height), components):
            old.write(data.tobytes())
            texture = old
        else:
            if old is not None:
                old.release()
            texture = self.context.texture(
                (width, height), components, data.tobytes(), alignment=1, dtype=kind
            )
            self._textures[name] = texture
        texture.build_mipmaps()
        texture.filter = (self.context.LINEAR_MIPMAP_NEAREST, self.context.LINEAR)

    def set_surroundings(self, around: Surroundings) -> None:
        """Take a light set's filtered pictures."""
        if around is self._surroundings:
            return
        self._surroundings = around
        picture = around.levels.reshape(-1, *around.levels.shape[2:])
        if "mirrors" in self._textures:
            self._textures["mirrors"].release()
        size = (picture.shape[1], picture.shape[0])
        texture = self.context.texture(size, 3, picture.astype(np.float16).tobytes(), alignment=1, dtype="f2")
        texture.repeat_y = False
        self._textures["mirrors"] = texture

    # -- drawing --------------------------------------------------------------------------------------

    def render(
        self,
        state: LitState,
        size: tuple[int, int],
        *,
        surface: tuple[float, float] = (1.0, 0.05),
        fine: bool = True,
        background: tuple[float, float, float] = (0.1, 0.1, 0.1),
        around: Surroundings | None = None,
        key_colour: tuple[float, float, float] | None = None,
        stopped: Callable[[], bool] = lambda: False,
        samples: int | None = None,
    ) -> np.ndarray | None:
        """A frame, or None if it was stopped.

        Parameters
        ----------
        size : (width, height) in pixels
        surface : (width, depth)
            The tile's width and the height's range in metres.
        fine : bool
            With soft shadow and several samples a pixel, as at rest; else fast, as while moving.
        background : encoded sRGB, 0..1
        around, key_colour : optional
            In place of the light set's own, for tests.

        Returns
        -------
        (height, width, 3) uint8, sRGB, row 0 at the top.
        """
        self.set_surroundings(around or surroundings(state.light_set))
        self._set_uniforms(state, size, surface, fine, background, key_colour, samples)
        if self._frame is None or self._frame.size != size:
            if self._frame is not None:
                self._frame.release()
            self._frame = self.context.simple_framebuffer(size, 3)
        self._frame.use()
        self._frame.clear(*background)
        corners = self._cover(state, size, surface)
        for number, texture in enumerate(self._textures.values()):
            texture.use(number)
        for number, name in enumerate(self._textures):
            self._set(name, number)
        strip = FINE_STRIP if fine else COARSE_STRIP
        for y in range(0, size[1], strip):
            if stopped():
                return None
            self._frame.scissor = (0, y, size[0], min(strip, size[1] - y))
            self._array.render(vertices=corners)
            self.context.finish()
            time.sleep(BREATH)
        self._frame.scissor = None
        data = np.frombuffer(self._frame.read(components=3, alignment=1), np.uint8)
        return data.reshape(size[1], size[0], 3)[::-1].copy()

    def _cover(self, state: LitState, size: tuple[int, int], surface: tuple[float, float]) -> int:
        """Lay triangles over what the object can cover; returns the number of their corners."""
        crust = _depth(state, surface) * max(state.middle, 1 - state.middle)
        triangles = screen_triangles(state.object, crust, *camera_of(state), LENS, size[0] / size[1])
        self._corners.write(triangles[:CORNERS].astype(np.float32).tobytes())
        return min(len(triangles), CORNERS)

    def _set_uniforms(
        self,
        state: LitState,
        size: tuple[int, int],
        surface: tuple[float, float],
        fine: bool,
        background: tuple[float, float, float],
        key_colour: tuple[float, float, float] | None,
        samples: int | None,
    ) -> None:
        light = LIGHT_SETS[state.light_set]
        eye, axes = camera_of(state)
        azimuth, elevation = state.key or light.key
        assert self._surroundings is not None
        values: dict[str, Any] = {
            "size": size, "eye": tuple(eye), "axes": tuple(axes.reshape(-1)), "lens": LENS,
            "object": list(OBJECTS).index(state.object), "repeats": float(state.repeats),
            "depth": _depth(state, surface), "middle": state.middle, "slope_scale": state.depth,
            "present": tuple(self._present),
            "levels": float(LEVELS),
            "harmonics": [tuple(map(float, h)) for h in self._surroundings.harmonics],
            "turn": state.turn / 360.0,
            "key_direction": tuple(direction_of(azimuth + state.turn, elevation)),
            "key_colour": key_colour or light.key_colour, "exposure": state.exposure,
            "tone": list(TONE_MAPPINGS).index(state.tone_mapping), "steps": 26 if fine else 14,
            "shadow_steps": (16 if fine else 7) if state.shadow else 0,
            "samples": samples or (3 if fine else 1),
            "background": background,
        }  # fmt: skip
        for name, value in values.items():
            self._set(name, value)

    def _set(self, name: str, value: Any) -> None:
        # What the compiler found unused has no uniform.
        if name in self._program:
            self._program[name].value = value

    def release(self) -> None:
        """Give every GL object back."""
        for texture in self._textures.values():
            texture.release()
        self._textures.clear()
        if self._frame is not None:
            self._frame.release()
        for thing in (self._array, self._corners, self._program):
            thing.release()
        self.context.release()


def _make_context() -> Any:
    try:
        import moderngl

        settings: dict[str, Any] = {"backend": "egl"}
        return moderngl.create_context(require=330, standalone=True, **settings)
    except Exception as error:
        reason = str(error).splitlines()[0] if str(error) else type(error).__name__
        raise NoOpenGLError(
            f"The lit view needs OpenGL 3.3, which this computer does not offer ({reason}); "
            "install a graphics driver, or libegl1 and libgl1-mesa-dri for software rendering."
        ) from None


def _depth(state: LitState, surface: tuple[float, float]) -> float:
    """From height 0 to height 1 in object units, true to the weave's metres."""
    return max(1e-5, surface[1] / surface[0] * SPANS[state.object] / state.repeats * state.depth)


def _grey(array: np.ndarray) -> np.ndarray:
    return array if array.ndim == 2 else luminance(array)
