"""Renders a material on an object into a picture, on an off-screen OpenGL context.

Two passes: where each pixel's ray meets the relief, and what colour it is there. All GL objects are
made, used and released in the thread that made the renderer.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

import numpy as np

from reedloom.errors import ReedError
from reedloom.lit.calls import HALVES, STORED, Calls
from reedloom.lit.energy import energy_table
from reedloom.lit.lights import LEVELS, LIGHT_SETS, Surroundings, direction_of, surroundings
from reedloom.lit.outline import object_points, screen_triangles
from reedloom.lit.shaders import GIVEN, Shaders, put_together
from reedloom.lit.state import OBJECTS, TONE_MAPPINGS, Box, camera_of
from reedloom.lit.textures import Textures
from reedloom.weave.document import LitState

LENS = 0.36
"""Half the view's height at distance 1."""
STRIP = 640 * 320
"""Pixels drawn at once, in whole rows; between strips a frame can be stopped."""
CORNERS = 1024
"""Most corners of the triangles that cover an object."""
SPANS = {"sheet": 2.0, "cube": 1.56, "ball": np.pi, "cylinder": 2.2, "cloth": 2.1}
"""Object units across the object, which `repeats` tiles share; as in the shader."""
STEPS, STRIDE, SHADOW_STEPS = (12, 24), (8.0, 4.0), (6, 12)
"""Most steps through the shell, texels to a step, and steps towards the lamp: coarse and fine."""
VARIANTS = {
    "NORMAL": ("normal_map",),
    "LAYERS": ("layer_map",),
    "FILM": ("film_map",),
    "TINTS": ("coat_tint", "sheen_tint", "below_tint", "reach_map"),
    "BELOW": ("below_tint",),
    "EMISSION": ("emission_map",),
}
"""What is compiled in only when a texture is there: each costs every pixel, used or not."""
LAMP_SPREAD = 1.2
"""Degrees by which the lamp is moved about for soft shadow, when a frame is made of many."""
GOLDEN = (0.7548776662, 0.5698402910)
"""Steps of the sequence that places samples in a pixel (M. Roberts, 2018)."""


class NoOpenGLError(ReedError):
    """There is no OpenGL 3.3 here."""


class _Pass(NamedTuple):
    """One of the two passes: its program over the corners, and what that can be told, by name."""

    array: Any
    uniforms: dict[str, Any]


class Renderer:
    """One context with one material on it."""

    def __init__(self) -> None:
        self.context, self._calls = _make_context()
        self._corners = self.context.buffer(reserve=CORNERS * 8, dynamic=True)
        self._passes: dict[tuple[object, ...], tuple[_Pass, _Pass]] = {}
        self.materials = tuple(Textures(self.context, self._calls) for _ in range(2))
        """Two, so that they can be compared without uploading again."""
        self.textures = self.materials[0]
        self._frame: Any = None
        self._met: Any = None
        table = energy_table()
        self._energy = self.context.texture(
            table.shape[1::-1], 3, table.tobytes(), alignment=1, dtype="f4", internal_format=STORED[3]
        )
        self._energy.repeat_x = self._energy.repeat_y = False
        self._mirrors: Any = None
        linear = self.context.LINEAR
        self._whole_only = self.context.sampler(filter=(linear, linear))  # for a third less work
        self._surroundings: Surroundings | None = None

    def set_maps(self, maps: Mapping[str, np.ndarray], number: int = 0) -> list[str]:
        """Take the first or second material's maps, and show it; see `Textures.take`."""
        self.textures = self.materials[number]
        return self.textures.take(maps)

    def set_surroundings(self, around: Surroundings) -> None:
        """Take a light set's filtered pictures."""
        if around is self._surroundings:
            return
        self._surroundings = around
        picture = around.levels.reshape(-1, *around.levels.shape[2:])
        if self._mirrors is not None:
            self._mirrors.release()
        halves = picture.astype(np.float16).tobytes()
        self._mirrors = self.context.texture(
            picture.shape[1::-1], 3, halves, alignment=1, dtype="f2", internal_format=HALVES
        )
        self._mirrors.repeat_y = False

    # -- drawing --------------------------------------------------------------------------------------

    def render(
        self,
        state: LitState,
        size: tuple[int, int],
        *,
        surface: tuple[float, float] = (1.0, 0.05),
        aspect: float = 1.0,
        fine: bool = True,
        sample: int = 0,
        box: Box | None = None,
        background: tuple[float, float, float] = (0.1, 0.1, 0.1),
        around: Surroundings | None = None,
        key_colour: tuple[float, float, float] | None = None,
        stopped: Callable[[], bool] = lambda: False,
    ) -> np.ndarray | None:
        """A frame of one sample a pixel, or None if it was stopped.

        Parameters
        ----------
        size : (width, height) in pixels
        surface : (width, depth)
            The tile's width and the height's range in metres.
        aspect : float
            The tile's height in widths.
        fine : bool
            With close steps, as at rest; else fast, as while moving.
        sample : int
            Each moves the rays within their pixels and the lamp within its breadth; the mean over many
            is smooth and has soft shadows. 0 is the middle of both.
        box : (left, top, right, bottom), optional
            Draw only these pixels; what is returned has the box's size.
        background : encoded sRGB, 0..1
        around, key_colour : optional
            In place of the light set's own, for tests.

        Returns
        -------
        (height, width, 3) uint8, sRGB, row 0 at the top.
        """
        self.set_surroundings(around or surroundings(state.light_set))
        self._make_frames(size)
        both = self._both_passes(state.object)
        self._set_uniforms(both, state, size, surface, aspect, fine, background, key_colour, sample)
        corners = self._cover(state, size, surface)
        left, top, right, bottom = box or (0, 0, *size)
        self._frame.use()
        self._frame.scissor = None
        self._frame.clear(*background)
        rows = max(STRIP // size[0], 1)
        for y in range(size[1] - bottom, size[1] - top, rows):
            if stopped():
                return None
            # Where rays meet nothing the first pass says so itself: what it draws to needs no clearing.
            for target, drawn in zip((self._met, self._frame), both, strict=True):
                target.use()
                target.scissor = (left, y, right - left, min(rows, size[1] - top - y))
                self._calls.draw(drawn.array, corners)
        data = np.frombuffer(self._frame.read(components=3, alignment=1), np.uint8)
        return data.reshape(size[1], size[0], 3)[::-1][top:bottom, left:right].copy()

    def _make_frames(self, size: tuple[int, int]) -> None:
        if self._frame is not None and self._frame.size == size:
            return
        # The new ones first: making one binds again what was bound, which must still be there.
        frame = self.context.simple_framebuffer(size, 3)
        met = self.context.framebuffer([self.context.texture(size, 1, dtype="f4")])
        frame.use()
        self._release_frames()
        self._frame, self._met = frame, met

    def _both_passes(self, name: str) -> tuple[_Pass, _Pass]:
        """The two passes for an object and the layers there are, compiled when first wanted."""
        present = tuple(self.textures.has(*names) for names in VARIANTS.values())
        key = (name, *present)
        if key not in self._passes:
            fixed = {"OBJECT": list(OBJECTS).index(name), "LEVELS": LEVELS}
            fixed |= dict(zip(VARIANTS, map(int, present), strict=True))
            relief, surface = (self._pass(put_together(shader, fixed)) for shader in ("relief", "surface"))
            self._calls.check("compile the shaders of the lit view")
            self._passes[key] = relief, surface
        return self._passes[key]

    def _pass(self, shaders: Shaders) -> _Pass:
        program = self.context.program(vertex_shader=shaders.vertex, fragment_shader=shaders.fragment)
        array = self.context.vertex_array(program, [(self._corners, "2f", "corner")])
        # Looked up once: each look goes through all names.
        return _Pass(array, {name.removeprefix(GIVEN): program[name] for name in program if name != "corner"})

    def _cover(self, state: LitState, size: tuple[int, int], surface: tuple[float, float]) -> int:
        """Lay triangles over what the object can cover; returns the number of their corners."""
        eye, axes = camera_of(state)
        _, rise = self._rises(state, surface)
        points = object_points(state.object, rise, _depth(state, surface), eye)
        triangles = screen_triangles(points, eye, axes, LENS, size[0] / size[1])
        self._corners.write(triangles[:CORNERS].astype(np.float32).tobytes())
        return min(len(triangles), CORNERS)

    def _rises(self, state: LitState, surface: tuple[float, float]) -> tuple[float, float]:
        """How deep the relief goes below the bare object and how high above, in object units."""
        if not self.textures.has("height_map"):
            return (0.0, 0.0)
        (low, high), depth = self.textures.heights, _depth(state, surface)
        return depth * max(state.middle - low, 0.0), depth * max(high - state.middle, 0.0)

    def _set_uniforms(
        self,
        both: tuple[_Pass, _Pass],
        state: LitState,
        size: tuple[int, int],
        surface: tuple[float, float],
        aspect: float,
        fine: bool,
        background: tuple[float, float, float],
        key_colour: tuple[float, float, float] | None,
        sample: int,
    ) -> None:
        light = LIGHT_SETS[state.light_set]
        eye, axes = camera_of(state)
        azimuth, elevation = state.key or light.key
        assert self._surroundings is not None
        shapes, has_height = self.textures.shapes, self.textures.has("height_map")
        depth, (hollow, crest) = _depth(state, surface), self._rises(state, surface)
        sway = (np.mod(0.5 + sample * np.array(GOLDEN[::-1]), 1.0) - 0.5) * 2 * LAMP_SPREAD
        textures = {
            **self.textures.made,
            "energy": self._energy,
            "mirrors": self._mirrors,
            "met_map": self._met.color_attachments[0],
            "relief_map": self.textures.made["height_map"],
        }
        for number, texture in enumerate(textures.values()):
            texture.use(number)
        self._whole_only.use(list(textures).index("relief_map"))
        values: dict[str, Any] = {
            "rays": _rays(axes, size, sample), "eye": tuple(eye),
            "repeats": float(state.repeats), "aspect": aspect, "depth": depth,
            "lift": depth * self.textures.rise if has_height else 0.0,
            "middle": self.textures.share(state.middle),
            "hollow": hollow, "crest": crest, "slope_scale": state.depth,
            "footprint": 2 * LENS / size[1] * state.repeats / SPANS[state.object] * shapes["colour_map"][1],
            "harmonics": [tuple(map(float, h)) for h in self._surroundings.harmonics],
            "turn": state.turn / 360.0,
            "key_direction": tuple(direction_of(azimuth + state.turn + sway[0], elevation + sway[1])),
            "key_colour": key_colour or light.key_colour, "exposure": state.exposure,
            "tone": list(TONE_MAPPINGS).index(state.tone_mapping),
            "steps": STEPS[fine], "stride": STRIDE[fine],
            "shadow_steps": SHADOW_STEPS[fine] if state.shadow and has_height else 0,
            "texels": float(shapes["height_map"][1]),
            "background": background,
        } | {name: number for number, name in enumerate(textures)}  # fmt: skip
        for drawn in both:
            for name, uniform in drawn.uniforms.items():
                uniform.value = values[name]

    def _release_frames(self) -> None:
        if self._frame is not None:
            for frame in (self._frame, self._met):
                for attachment in frame.color_attachments:
                    attachment.release()
                frame.release()

    def release(self) -> None:
        """Give every GL object back."""
        for material in self.materials:
            material.release()
        self._release_frames()
        for drawn in (one for both in self._passes.values() for one in both):
            drawn.array.program.release()
            drawn.array.release()
        for thing in (self._corners, self._energy, self._mirrors, self._whole_only):
            if thing is not None:
                thing.release()
        self.context.release()


def _rays(axes: np.ndarray, size: tuple[int, int], sample: int) -> list[tuple[float, ...]]:
    """The ray of a frame's lower left pixel, and what each pixel to the right and upward adds to it.

    axes : the camera's right, up and forward axes as rows
    sample : moves where in its pixel a ray goes
    """
    right, up, forward = axes
    step = 2 * LENS / size[1]
    across, upward = step * (np.mod(0.5 + sample * np.array(GOLDEN), 1.0) - np.array(size) / 2)
    first = forward + across * right + upward * up
    return [tuple(map(float, way)) for way in (first, step * right, step * up)]


def _make_context() -> tuple[Any, Calls]:
    try:
        import glcontext  # type: ignore[import-untyped]
        import moderngl

        native = glcontext.get_backend_by_name("egl")(glversion=330, mode="standalone")
        settings: dict[str, Any] = {"context": native}
        return moderngl.create_context(require=330, standalone=True, **settings), Calls(native)
    except Exception as error:
        reason = str(error).splitlines()[0] if str(error) else type(error).__name__
        raise NoOpenGLError(
            f"The lit view needs OpenGL 3.3, which this computer does not offer ({reason}); "
            "install a graphics driver, or libegl1 and libgl1-mesa-dri for software rendering."
        ) from None


def _depth(state: LitState, surface: tuple[float, float]) -> float:
    """From height 0 to height 1 in object units, true to the weave's metres."""
    return max(1e-5, surface[1] / surface[0] * SPANS[state.object] / state.repeats * state.depth)
