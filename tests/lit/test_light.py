"""The lit preview against formulas: energy, matt light, gloss, tone mapping, filtering, uploads."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator

import numpy as np
import pytest

from reedloom.kernels.colours import srgb_from_linear
from reedloom.kernels.observer import WAVES, film_reflectance
from reedloom.lit.calls import OpenGLError
from reedloom.lit.energy import energy_table, sheen_kept
from reedloom.lit.lights import (
    COLUMNS,
    LEVELS,
    LIGHT_SETS,
    ROWS,
    Surroundings,
    direction_of,
    grid_directions,
    harmonic_basis,
    irradiance,
    make_surroundings,
    picture_of,
    project_harmonics,
    solid_angles,
    surroundings,
)
from reedloom.lit.outline import FULL, folds
from reedloom.lit.renderer import LENS, SPANS, VARIANTS, NoOpenGLError, Renderer
from reedloom.lit.shaders import put_together
from reedloom.lit.state import OBJECTS, VIEWPOINTS, camera_of, look_from, sound, viewpoint_of
from reedloom.picture_files import read_map
from reedloom.weave.document import LitState

GREY = (0.0, 0.0, 0.0)
DARK = Surroundings(np.zeros((LEVELS, ROWS, COLUMNS, 3), np.float32), np.zeros((9, 3), np.float32))


@pytest.fixture(scope="module")
def renderer() -> Iterator[Renderer]:
    """One renderer for all tests here."""
    try:
        made = Renderer()
    except NoOpenGLError as error:
        pytest.skip(str(error))
    yield made
    made.release()


def white_room() -> Surroundings:
    """Radiance of 0.5 from everywhere."""
    return make_surroundings(np.full((ROWS, COLUMNS, 3), 0.5, np.float32))


def decode(pixels: np.ndarray) -> np.ndarray:
    """sRGB bytes as linear light."""
    v = pixels.astype(np.float64) / 255
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)


def flat_maps(side: int = 4, **values: float) -> dict[str, np.ndarray]:
    """Maps of one value each."""
    colour = values.pop("base_colour", 1.0)
    maps = {c: np.full((side, side), v, np.float32) for c, v in values.items()}
    return maps | {"base_colour": np.full((side, side, 3), colour, np.float32)}


PLAIN = LitState(object="ball", tone_mapping="plain", shadow=False)


def shoot(
    renderer: Renderer, maps: dict[str, np.ndarray], state: LitState = PLAIN, size: int = 96, **more
) -> np.ndarray:  # type: ignore[no-untyped-def]
    renderer.set_maps(maps)
    settings = {"background": GREY, "around": DARK, "key_colour": GREY} | more
    frame = renderer.render(state, (size, size), **settings)
    assert frame is not None
    return frame


@pytest.mark.parametrize("roughness", [0.05, 0.2, 0.4, 0.6, 0.8, 1.0])
def test_a_white_mirror_in_a_white_room_vanishes(renderer: Renderer, roughness: float) -> None:
    """The furnace: all light comes back, to 2 %, whatever the roughness."""
    frame = shoot(renderer, flat_maps(roughness=roughness, metallic=1.0), around=white_room())
    middle = decode(frame[30:66, 30:66])
    assert np.abs(middle.mean() / 0.5 - 1) < 0.02
    assert np.abs(middle / 0.5 - 1).max() < 0.05


def test_white_dielectrics_keep_their_energy_too(renderer: Renderer) -> None:
    for roughness in (0.2, 0.7, 1.0):
        frame = shoot(renderer, flat_maps(roughness=roughness, metallic=0.0), around=white_room())
        assert np.abs(decode(frame[30:66, 30:66]).mean() / 0.5 - 1) < 0.02


def pixel_normal(state: LitState, x: float, y: float, size: int) -> np.ndarray:
    """The normal of the bare ball under a pixel."""
    eye, axes = camera_of(state)
    at = np.array([(2 * (x + 0.5) - size) / size * LENS, (size - 2 * (y + 0.5)) / size * LENS])
    way = at[0] * axes[0] + at[1] * axes[1] + axes[2]
    way /= np.linalg.norm(way)
    b = eye @ way
    return eye + way * (-b - math.sqrt(b * b - eye @ eye + 1))


def test_a_matt_ball_follows_the_cosine(renderer: Renderer) -> None:
    """Base 0.5, fully rough: the matt part is base × (1 − Fresnel) × cosine, and gloss is small."""
    state = LitState(object="ball", tone_mapping="plain", shadow=False, key=(95.0, 30.0))
    size = 128
    frame = decode(
        shoot(
            renderer,
            flat_maps(base_colour=0.5, roughness=1.0),
            state,
            size,
            key_colour=(1.0, 1.0, 1.0),
        )
    )
    towards = direction_of(95.0, 30.0)
    for x, y in ((64, 64), (50, 40), (80, 60), (64, 90), (45, 70)):
        cosine = max(0.0, float(pixel_normal(state, x, y, size) @ towards))
        got = frame[y, x, 0]
        assert got == pytest.approx(0.5 * cosine * 0.96 + 0.01 * cosine, abs=0.02)


def slow_gloss(normal: np.ndarray, view: np.ndarray, light: np.ndarray, roughness: float) -> float:
    """GGX of a white mirror with height-correlated Smith masking, straight from the papers."""
    alpha = roughness**2
    half = (view + light) / np.linalg.norm(view + light)
    nh, nl, nv, vh = normal @ half, normal @ light, normal @ view, view @ half
    spread = alpha**2 / (math.pi * (nh**2 * (alpha**2 - 1) + 1) ** 2)

    def lam(c: float) -> float:
        return (-1 + math.sqrt(1 + alpha**2 * (1 - c**2) / c**2)) / 2

    masking = 1 / (1 + lam(nl) + lam(nv))
    assert vh > 0
    return spread * masking / (4 * nl * nv) * nl * math.pi


def test_highlights_are_ggx(renderer: Renderer) -> None:
    """A white metal's highlight, less what multiple scattering adds, against the formula."""
    state = LitState(object="ball", tone_mapping="plain", shadow=False, key=(80.0, 25.0), exposure=-2.0)
    size, roughness = 128, 0.5
    frame = decode(shoot(renderer, flat_maps(roughness=roughness, metallic=1.0), state, size,
                         key_colour=(1.0, 1.0, 1.0))) * 4  # fmt: skip
    eye, _ = camera_of(state)
    for x, y in ((64, 64), (60, 58), (70, 66), (56, 70)):
        normal = pixel_normal(state, x, y, size)
        view = (eye - normal) / np.linalg.norm(eye - normal)
        wanted = slow_gloss(normal, view, direction_of(80.0, 25.0), roughness)
        table = energy_table()
        row, column = min(31, int(roughness * 32)), min(31, int(float(normal @ view) * 32))
        kept = float(table[row, column, :2].sum())
        assert frame[y, x, 0] == pytest.approx(wanted / kept, rel=0.06, abs=0.01)


def test_tone_mappings_are_their_formulas(renderer: Renderer) -> None:
    maps = flat_maps(base_colour=0.0) | {
        "emission": np.full((4, 4, 3), 0.3, np.float32),
        "roughness": np.ones((4, 4), np.float32),
    }
    for exposure in (-1.0, 0.0, 1.0):
        light = 0.3 * 2**exposure
        plain = shoot(renderer, maps, LitState(object="ball", tone_mapping="plain", exposure=exposure))
        filmic = shoot(renderer, maps, LitState(object="ball", tone_mapping="filmic", exposure=exposure))
        curve = light * (2.51 * light + 0.03) / (light * (2.43 * light + 0.59) + 0.14)
        for frame, wanted in ((plain, light), (filmic, curve)):
            encoded = float(srgb_from_linear(np.array([wanted]))[0]) * 255
            assert abs(float(frame[48, 48, 0]) - encoded) <= 1.5


@pytest.mark.parametrize("layer", ["coat_weight", "sheen", "subsurface"])
def test_layers_take_from_below_what_they_give_back(renderer: Renderer, layer: str) -> None:
    """A white surface in a white room stays white under a full layer of any sort."""
    for roughness in (0.2, 0.8):
        frame = shoot(
            renderer, flat_maps(roughness=roughness, metallic=0.0, **{layer: 1.0}), around=white_room()
        )
        assert np.abs(decode(frame[30:66, 30:66]).mean() / 0.5 - 1) < 0.02


def test_sheen_keeps_what_a_sum_over_random_directions_says() -> None:
    chance = np.random.default_rng(3)
    z, phi = chance.random(400_000), chance.random(400_000) * 2 * np.pi
    light = np.stack([np.sqrt(1 - z * z) * np.cos(phi), np.sqrt(1 - z * z) * np.sin(phi), z], -1)
    for v in (0.15, 0.5, 0.95):
        half = light + np.array([np.sqrt(1 - v * v), 0, v])
        half /= np.linalg.norm(half, axis=1, keepdims=True)
        sine = np.sqrt(np.clip(1 - half[:, 2] ** 2, 0, 1))
        value = (2 + 1 / 0.5) * sine ** (1 / 0.5) / (2 * np.pi) / (4 * (z + v - z * v)) * z
        assert sheen_kept(np.array([v]))[0] == pytest.approx(value.mean() * 2 * np.pi, rel=0.03)


def film_by_airy(f0: float, thickness: float, cosine: float, wave: float) -> float:
    """Both reflections of a film of index 1.42 summed without end, as complex amplitudes."""
    index = (1 + math.sqrt(f0)) / (1 - math.sqrt(f0))
    top, foot = (1 - 1.42) / (1 + 1.42), (1.42 - index) / (1.42 + index)
    phase = 4 * math.pi * 1.42 * thickness * math.sqrt(1 - (1 - cosine**2) / 1.42**2) / wave
    turned = complex(math.cos(phase), math.sin(phase))
    return abs((top + foot * turned) / (1 + top * foot * turned)) ** 2


@pytest.mark.parametrize("thickness", [0.12, 0.25, 0.4])
def test_a_film_colours_metal_as_interference_says(renderer: Renderer, thickness: float) -> None:
    """A grey mirror in a white room under a thin film; orders hardly blur yet at these thicknesses."""
    state = LitState(object="sheet", repeats=1, pitch=88.0, tone_mapping="plain", shadow=False)
    maps = flat_maps(base_colour=0.5, roughness=0.05, metallic=1.0, film_thickness=thickness)
    got = decode(shoot(renderer, maps, state, around=white_room())[48, 48]) / 0.5
    for channel, wave in enumerate((612.0, 549.0, 465.0)):
        assert got[channel] == pytest.approx(film_by_airy(0.5, thickness * 1000, 1.0, wave), abs=0.04)
    assert got.max() - got.min() > 0.05


@pytest.mark.parametrize("base", [1.5 + 0j, 2.9 + 3.1j])
def test_reflectance_of_a_film_is_both_polarisations_summed_without_end(base: complex) -> None:
    """Each wave and polarisation by itself as complex amplitudes (Fresnel, Airy), at a slant."""
    film, cosine = 1.46, 0.6
    thickness = np.array([0.0, 90.0, 613.0, 1490.0])
    got = film_reflectance(thickness, film, base, cosine)
    sine = math.sqrt(1 - cosine**2)
    inside, below = math.sqrt(1 - (sine / film) ** 2), np.sqrt(1 - (sine / base) ** 2)
    for n, nanometres in enumerate(thickness):
        for k in range(0, len(WAVES), 13):
            turned = np.exp(4j * math.pi * film * inside * nanometres / WAVES[k])
            powers = []
            for a, b, c, d in ((1, film, film, base), (film, 1, base, film)):
                first = (a * cosine - b * inside) / (a * cosine + b * inside)
                second = (c * inside - d * below) / (c * inside + d * below)
                powers.append(abs((first + second * turned) / (1 + first * second * turned)) ** 2)
            assert got[n, k] == pytest.approx(sum(powers) / 2, abs=2e-6)


def test_light_below_the_surface_reaches_past_the_terminator(renderer: Renderer) -> None:
    state = LitState(object="ball", tone_mapping="plain", shadow=False, key=(152.0, 18.0))
    light = {"key_colour": (1.0, 1.0, 1.0)}
    hard = decode(shoot(renderer, flat_maps(roughness=1.0), state, **light)).mean(axis=2)
    soft = decode(shoot(renderer, flat_maps(roughness=1.0, subsurface=1.0), state, **light)).mean(axis=2)
    dark = (hard < 1e-3) & (soft > 0.01)
    assert dark.sum() > 100 and soft.max() < hard.max()


def test_brushed_metal_spreads_its_highlight_across_the_grain(renderer: Renderer) -> None:
    """Stretched along u (level, on the ball), a highlight keeps its power but changes its shape."""
    state = LitState(object="ball", tone_mapping="plain", shadow=False, key=(62.0, 18.0), exposure=-3.0)
    light = {"key_colour": (1.0, 1.0, 1.0)}
    spread = []
    for amount in (0.0, 0.9):
        maps = flat_maps(roughness=0.4, metallic=1.0, anisotropy=amount)
        bright = decode(shoot(renderer, maps, state, **light)).mean(axis=2)
        y, x = np.mgrid[:96, :96] - 47.5
        spread.append((bright * x**2).sum() / (bright * y**2).sum())
    assert spread[0] == pytest.approx(1.0, abs=0.15) and spread[1] > 2 * spread[0]


def test_a_grain_turned_by_a_quarter_spreads_the_other_way(renderer: Renderer) -> None:
    state = LitState(object="ball", tone_mapping="plain", shadow=False, key=(62.0, 18.0), exposure=-3.0)
    spread = []
    for turn in (0.0, 0.25, 0.5):
        maps = flat_maps(roughness=0.4, metallic=1.0, anisotropy=0.9, anisotropy_angle=turn)
        bright = decode(shoot(renderer, maps, state, key_colour=(1.0, 1.0, 1.0))).mean(axis=2)
        y, x = np.mgrid[:96, :96] - 47.5
        spread.append((bright * x**2).sum() / (bright * y**2).sum())
    assert spread[0] > 2 and spread[1] < 0.6 and spread[2] == pytest.approx(spread[0], rel=0.1)


def test_coat_sheen_and_what_lies_below_have_colours_of_their_own(renderer: Renderer) -> None:
    """Red ones in a white room take green and blue from what they cover, and only where they are."""
    red = np.full((4, 4, 3), (1.0, 0.2, 0.2), np.float32)

    def greens(name: str, **layer: float) -> tuple[float, float]:
        maps = flat_maps(roughness=1.0, **layer)
        plain, tinted = (
            decode(shoot(renderer, m, around=white_room())[40:56, 40:56]).mean(axis=(0, 1))
            for m in (maps, maps | {name: red})
        )
        assert tinted[0] == pytest.approx(plain[0], abs=0.04)
        return float(plain[1]), float(tinted[1])

    for name, layer in (("coat_colour", "coat_weight"), ("subsurface_colour", "subsurface")):
        plain, tinted = greens(name, **{layer: 1.0})
        assert tinted < 0.45 * plain, name
        plain, tinted = greens(name, **{layer: 0.0})
        assert tinted == pytest.approx(plain, abs=0.01), name
    dark = flat_maps(base_colour=0.0, roughness=1.0, sheen=1.0) | {"sheen_colour": red}
    edge = decode(shoot(renderer, dark, around=white_room())).reshape(-1, 3)
    brightest = edge[edge[:, 0].argmax()]
    assert brightest[0] > 0.05 and brightest[1] < 0.5 * brightest[0]


def test_a_greater_reach_lights_more_beyond_the_terminator(renderer: Renderer) -> None:
    state = LitState(object="ball", tone_mapping="plain", shadow=False, key=(152.0, 18.0))
    areas = []
    for reach in (0.0, 0.5, 1.0):
        maps = flat_maps(roughness=1.0, subsurface=1.0, subsurface_reach=reach)
        shown = decode(shoot(renderer, maps, state, key_colour=(1.0, 1.0, 1.0))).mean(axis=2)
        areas.append(int((shown > 0.01).sum()))
    assert areas[0] < areas[1] < areas[2]


def test_displacement_moves_what_height_only_shades(renderer: Renderer) -> None:
    """An outline follows the displacement where there is one, whatever the height says."""
    wave = np.repeat((np.arange(64) // 16 % 2).astype(np.float32)[None], 64, axis=0)
    level = LitState(object="sheet", repeats=1, pitch=20, yaw=0, tone_mapping="plain")

    def outline(**maps: np.ndarray) -> np.ndarray:
        surface = {"base_colour": np.ones((64, 64, 3), np.float32), **maps}
        return shoot(renderer, surface, level, 96, around=white_room(), surface=(1.0, 0.2)).any(axis=2)

    flat = np.full_like(wave, 0.5)
    assert np.array_equal(outline(height=flat, displacement=wave), outline(height=wave))
    assert (outline(height=wave, displacement=flat) != outline(height=wave)).sum() > 50


def test_rays_look_for_the_relief_just_where_its_heights_lie(
    renderer: Renderer, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What lies beyond 0 to 1 is met too, and what keeps within a part of it looks as if it did not."""
    state = LitState(object="ball", tone_mapping="plain", middle=0.0)
    deep = {"around": white_room(), "surface": (1.0, 0.05)}
    low, high = (
        shoot(renderer, flat_maps(height=height), state, 128, **deep).any(axis=2).sum()
        for height in (1.0, 3.0)
    )
    assert high > 1.1 * low
    small = flat_maps(64, roughness=0.6)
    small["height"] = 0.4 + 0.2 * np.random.default_rng(3).random((64, 64), np.float32)
    seen = shoot(renderer, small, state, 128, **deep).astype(int)
    monkeypatch.setattr(renderer, "_rises", lambda *_: (0.0, 0.05 * SPANS["ball"] / state.repeats))
    wide = renderer.render(state, (128, 128), background=GREY, key_colour=GREY, **deep)
    assert wide is not None and np.abs(seen - wide).mean() < 1.5


def test_relief_is_the_same_wherever_its_heights_lie(renderer: Renderer) -> None:
    """The texture holds them from the least to the greatest; how far apart these are makes no difference."""
    height = np.random.default_rng(3).random((64, 64), np.float32)
    deep = {"around": white_room(), "surface": (1.0, 0.05)}
    usual = shoot(renderer, flat_maps(64) | {"height": height}, LitState(object="ball"), 128, **deep)
    for scale, low in ((0.25, 0.5), (5.0, -2.0)):
        state = LitState(object="ball", depth=1 / scale, middle=low + 0.5 * scale)
        other = shoot(renderer, flat_maps(64) | {"height": low + scale * height}, state, 128, **deep)
        assert np.abs(usual.astype(int) - other).mean() < 0.1


@pytest.mark.parametrize("name", ["relief", "surface"])
def test_numbers_reach_pixels_by_way_of_the_corners_and_are_not_too_many(name: str) -> None:
    """What OpenGL 3.3 lets corners hand on is 60 numbers; only samplers stay with the pixels."""
    shaders = put_together(name, {"LEVELS": LEVELS, **dict.fromkeys(VARIANTS, 1)})
    assert not re.findall(r"uniform (?!sampler2D)", shaders.fragment)
    sizes = {"float": 1, "int": 1, "vec2": 2, "vec3": 3}
    handed = re.findall(r"^flat out (\w+) \w+(?:\[(\d+)\])?;", shaders.vertex, re.MULTILINE)
    assert 20 < sum(sizes[kind] * int(many or 1) for kind, many in handed) <= 60


def test_a_steps_shadow_ends_where_geometry_says(renderer: Renderer) -> None:
    """From straight above: a step of height h under a key light at elevation e throws h / tan(e)."""
    height = np.zeros((256, 256), np.float32)
    height[:, 64:128] = 1.0
    maps = flat_maps(256, base_colour=1.0, roughness=1.0) | {"height": height}
    size, elevation, rise = 400, 30.0, 0.08
    state = LitState(object="sheet", repeats=1, pitch=88.0, yaw=90.0, middle=0.0, distance=5.0,
                     tone_mapping="plain", key=(180.0, elevation))  # fmt: skip
    maps["normal"] = np.full((256, 256, 3), (0.5, 0.5, 1.0), np.float32)
    frame = decode(shoot(renderer, maps, state, size, surface=(1.0, rise), key_colour=(1.0, 1.0, 1.0)))
    row = frame[size // 2 - 4 : size // 2 + 4].mean(axis=(0, 2))
    # The light comes from low x: the shadow begins at the step's far side, x = 0 of -1..1.
    units = 2 * LENS * 5.0 / size
    middle = size / 2
    begin, wanted = middle, 2.0 * rise / math.tan(math.radians(elevation))
    lit = row[int(middle + (wanted + 0.25) / units)]
    shaded = np.flatnonzero(row[int(begin) :] > 0.5 * lit)
    edge = shaded[shaded > 4][0] * units
    assert edge == pytest.approx(wanted, abs=0.03)


def test_samples_are_the_same_picture_smoother_and_a_box_is_a_part_of_it(renderer: Renderer) -> None:
    renderer.set_maps({"height": np.random.default_rng(5).random((32, 32), np.float32)})
    state, surface = LitState(object="cube"), (1.0, 0.05)

    def draw(sample: int, box: tuple[int, int, int, int] | None = None) -> np.ndarray:
        frame = renderer.render(state, (120, 90), surface=surface, sample=sample, box=box)
        assert frame is not None
        return frame.astype(int)

    whole = draw(3)
    assert np.array_equal(draw(3, (30, 20, 81, 66)), whole[20:66, 30:81])
    means = [np.mean([draw(s) for s in range(i, i + 8)], axis=0) for i in (0, 8)]
    assert np.abs(means[0] - means[1]).mean() < 0.4 * np.abs(draw(0) - draw(8)).mean()


def test_the_shipped_light_sets_are_what_their_formulas_give() -> None:
    from light_sets import RADIANCE, make_picture

    assert set(RADIANCE) == set(LIGHT_SETS)
    for set_id in RADIANCE:
        assert np.allclose(read_map(picture_of(set_id)), make_picture(set_id), rtol=1e-3, atol=1e-4)


def test_states_from_any_file_can_be_shown(renderer: Renderer) -> None:
    wild = LitState(
        object="teapot", light_set="moon", tone_mapping="?", repeats=10**9, depth=-1.0, pitch=400.0,
        distance=math.inf, target=(math.inf, 0.0, 0.0), key=(0.0, 1e30), exposure=math.nan,
    )  # fmt: skip
    state = sound(wild)
    assert (state.object, state.light_set, state.repeats, state.key) == ("ball", "soft_window", 16, None)
    assert shoot(renderer, flat_maps(), state).shape == (96, 96, 3)
    for name, points in VIEWPOINTS.items():
        for point in points.values():
            seen = sound(look_from(LitState(object=name), point))
            assert viewpoint_of(seen) == point
            assert shoot(renderer, flat_maps(), seen, around=white_room()).max() > 100


def test_relief_changes_the_outline_and_casts_shadow(renderer: Renderer) -> None:
    wave = (np.arange(64) // 16 % 2).astype(np.float32)
    maps = {"height": np.repeat(wave[None], 64, axis=0), "base_colour": np.ones((64, 64, 3), np.float32)}
    level = LitState(
        object="sheet", repeats=1, pitch=20, yaw=0, shadow=True, key=(90.0, 12.0), tone_mapping="plain"
    )
    white = {"around": DARK, "key_colour": (1.0, 1.0, 1.0), "surface": (1.0, 0.1)}
    lit = shoot(
        renderer,
        maps,
        LitState(object="sheet", repeats=1, pitch=60, yaw=0, shadow=False, key=(0.0, 12.0)),
        128,
        **white,
    )
    dark = shoot(
        renderer,
        maps,
        LitState(object="sheet", repeats=1, pitch=60, yaw=0, shadow=True, key=(0.0, 12.0)),
        128,
        **white,
    )
    assert dark.astype(int).sum() < 0.9 * lit.astype(int).sum()
    flat = shoot(renderer, maps, level, 128, around=white_room(), surface=(1.0, 0.0))
    deep = shoot(renderer, maps, level, 128, around=white_room(), surface=(1.0, 0.2))
    assert (deep.any(axis=2) != flat.any(axis=2)).sum() > 100


@pytest.mark.parametrize("name", OBJECTS)
def test_every_object_is_drawn_the_same_twice(renderer: Renderer, name: str) -> None:
    chance = np.random.default_rng(1)
    maps = {
        "height": chance.random((32, 32), np.float32),
        "base_colour": chance.random((32, 32, 3), np.float32),
    }
    state = LitState(object=name, pitch=35)
    renderer.set_maps(maps)
    first, second = (renderer.render(state, (80, 60), surface=(1.0, 0.05)) for _ in range(2))
    assert first is not None and second is not None and np.array_equal(first, second)
    assert first.shape == (60, 80, 3) and len(np.unique(first.reshape(-1, 3), axis=0)) > 100


@pytest.mark.parametrize("name", OBJECTS)
@pytest.mark.parametrize("distance", [1.2, 2.6, 9.0])
def test_nothing_of_an_object_lies_beside_what_is_laid_over_it(
    renderer: Renderer, monkeypatch: pytest.MonkeyPatch, name: str, distance: float
) -> None:
    """The same picture as where every pixel of the frame is asked for, all of the relief outward or flat."""
    for height, middle in ((1.0, 0.0), (0.5, 0.5)):
        renderer.set_maps(flat_maps(height=height))
        for yaw, pitch, depth in ((20.0, 15.0, 0.1), (200.0, 70.0, 4.0), (0.0, -50.0, 1.0), (62.0, 4.0, 4.0)):
            state = LitState(object=name, yaw=yaw, pitch=pitch, distance=distance, depth=depth, middle=middle)
            drawn = renderer.render(state, (150, 90), surface=(1.0, 0.05))
            with monkeypatch.context() as all_of_it:
                all_of_it.setattr("reedloom.lit.renderer.screen_triangles", lambda *_: FULL)
                whole = renderer.render(state, (150, 90), surface=(1.0, 0.05))
            assert drawn is not None and np.array_equal(drawn, whole)


@pytest.mark.parametrize("name", ["sheet", "cloth"])
def test_edges_are_seen_down_to_where_they_are_cut_off(renderer: Renderer, name: str) -> None:
    """Deep relief makes deep edges, however little of it the heights use: their lowest corner is covered."""
    renderer.set_maps(flat_maps(height=0.5))
    state = LitState(object=name, yaw=45.0, pitch=4.0, distance=9.0, depth=12.0)
    frame = renderer.render(state, (200, 200), surface=(1.0, 0.05), background=(0.0, 0.0, 0.0))
    assert frame is not None
    eye, axes = camera_of(state)
    depth = 0.05 * SPANS[name] * 12.0 / state.repeats
    corners = np.array([(x, 0.0, z) for x in (-0.95, 0.95) for z in (-0.95, 0.95)])
    corners[:, 1] = (folds(corners[:, 0], corners[:, 2]) if name == "cloth" else 0.0) - depth
    seen = (corners - eye) @ axes.T
    across, up = (seen[:, :2] / seen[:, 2:] / LENS).T
    columns, rows = ((across + 1) * 100).astype(int), ((1 - up) * 100).astype(int)
    assert frame[rows, columns].any(axis=-1).all()


def test_only_changed_maps_are_uploaded_and_nothing_piles_up(renderer: Renderer) -> None:
    maps = flat_maps(roughness=0.5, height=0.5)
    renderer.set_maps(maps)
    assert renderer.set_maps(dict(maps)) == []
    assert renderer.set_maps(maps | {"height": np.zeros((4, 4), np.float32)}) == ["height_map"]
    assert renderer.set_maps({"base_colour": maps["base_colour"]}) == ["height_map", "data_map"]
    names = set(renderer.textures.made)
    before = {n: t.glo for n, t in renderer.textures.made.items()}
    for step in range(500):
        renderer.set_maps(flat_maps(base_colour=step / 500, roughness=0.5))
    assert set(renderer.textures.made) == names
    assert max(t.glo for t in renderer.textures.made.values()) <= max(before.values()) + 4


def test_a_stopped_frame_is_none(renderer: Renderer) -> None:
    renderer.set_maps(flat_maps())
    assert renderer.render(PLAIN, (64, 64), stopped=lambda: True) is None


def test_without_opengl_it_says_what_to_install(monkeypatch: pytest.MonkeyPatch) -> None:
    import moderngl

    def refuse(*args: object, **more: object) -> None:
        raise ValueError("no such device\nmore")

    monkeypatch.setattr(moderngl, "create_context", refuse)
    with pytest.raises(NoOpenGLError, match=r"OpenGL 3\.3.*no such device\); install a graphics driver"):
        Renderer()


def test_the_sphere_is_covered_and_harmonics_give_matt_light() -> None:
    assert solid_angles().sum() == pytest.approx(4 * math.pi)
    assert np.abs(np.linalg.norm(grid_directions(), axis=-1) - 1).max() < 1e-9
    basis = harmonic_basis(grid_directions()).reshape(-1, 9)
    product = (basis * solid_angles().reshape(-1, 1)).T @ basis
    assert np.abs(product - np.eye(9)).max() < 5e-3
    lamp = np.clip(grid_directions() @ direction_of(40, 30), 0, 1)[..., None] ** 2 * np.ones(3)
    harmonics = project_harmonics(lamp)
    for normal in (direction_of(40, 30), direction_of(100, -20), np.array([0.0, 1.0, 0.0])):
        cosine = np.clip(grid_directions() @ normal, 0, None)
        wanted = (lamp[..., 0] * cosine * solid_angles()).sum() / math.pi
        assert irradiance(harmonics, normal)[0] == pytest.approx(wanted, abs=0.02)


@pytest.mark.parametrize("name", LIGHT_SETS)
def test_light_sets_are_sound_and_rougher_mirrors_see_softer(name: str) -> None:
    around = surroundings(name)
    assert np.isfinite(around.levels).all() and (around.levels >= 0).all()
    weights = solid_angles()[..., None]
    means = (around.levels * weights).sum(axis=(1, 2)) / (4 * math.pi)
    assert np.abs(means / means[0] - 1).max() < 0.2
    spread = around.levels.std(axis=(1, 2)).mean(axis=-1)
    assert (np.diff(spread) < 0.02 * spread[0]).all()


def test_the_energy_table_is_the_integral() -> None:
    """Single scattering of a white mirror by brute force over directions, at some roughness and angle."""
    table = energy_table()
    for row, column in ((15, 24), (24, 12), (30, 28)):
        roughness, v = (row + 0.5) / 32, (column + 0.5) / 32
        view = np.array([math.sqrt(1 - v * v), 0, v])
        theta, phi = np.meshgrid(
            (np.arange(400) + 0.5) / 400 * math.pi / 2, (np.arange(400) + 0.5) / 400 * 2 * math.pi
        )
        light = np.stack([np.sin(theta) * np.cos(phi), np.sin(theta) * np.sin(phi), np.cos(theta)], -1)
        half = light + view
        half /= np.linalg.norm(half, axis=-1, keepdims=True)
        alpha = roughness**2
        spread = alpha**2 / (math.pi * (half[..., 2] ** 2 * (alpha**2 - 1) + 1) ** 2)

        def masking(c: np.ndarray, a: float = alpha) -> np.ndarray:
            return 2 * c / (c + np.sqrt(a * a + (1 - a * a) * c * c))

        value = spread * masking(light[..., 2]) * masking(np.asarray(v)) / (4 * v)
        total = (value * np.sin(theta)).sum() * (math.pi / 2 / 400) * (2 * math.pi / 400)
        assert float(table[row, column, :2].sum()) == pytest.approx(total, abs=0.015)


def test_what_the_driver_refuses_is_an_error_and_not_a_black_picture() -> None:
    renderer = Renderer()
    too_wide = np.zeros((1, 2**20, 1), np.float32)
    texture = renderer.context.texture((1, 1), 1, None, alignment=1, dtype="f4")
    with pytest.raises(OpenGLError, match=r"a map of 1048576 × 1 samples .*; try a smaller view size"):
        renderer._calls.fill(texture, too_wide, same_size=False)
    renderer._calls.check("go on")  # the error was read, and does not come again
    renderer.release()
