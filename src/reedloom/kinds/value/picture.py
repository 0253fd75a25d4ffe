"""Picture: an imported file."""

from __future__ import annotations

import math
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np

from reedloom.errors import ReedError
from reedloom.files import home_path
from reedloom.kernels.colours import linear_from_srgb
from reedloom.kernels.places import tile_places
from reedloom.kernels.pyramid import read_covered
from reedloom.kernels.resize import resize_map
from reedloom.kit import (
    COLOUR,
    GREY,
    VECTOR,
    Angle,
    Change,
    Choice,
    Context,
    Count,
    File,
    Float,
    Length,
    Port,
    Role,
    Switch,
    kind,
)
from reedloom.kit.values import convert
from reedloom.picture_files import Picture, read_picture

ROWS = 64
"""Rows that are decoded at once, so that a large picture is not held several times."""
WORLD = "it is a view of the world outside, and tiles only if the file does; Close seams makes it tile"


QUARTERS = ("none", "a quarter", "a half", "three quarters")
SHARE = "a share of the whole"


@kind(
    id="picture",
    label="Picture",
    family="value",
    version=2,
    purpose="Brings a picture file in: a photograph, a scan, a map from elsewhere.",
    inputs=(
        Port(
            "place",
            VECTOR,
            optional=True,
            help="Where to read the picture, at its own resolution; the plain tile if nothing is tied.",
            role=Role.PLACE,
        ),
    ),
    outputs=(
        Port("colour", COLOUR),
        Port("grey", GREY),
        Port("alpha", GREY, help="Where the picture is solid; 1 if it has no alpha."),
    ),
    parameters=(
        File("file", help="PNG, JPEG, TIFF, EXR and others, of 8, 16 or 32 bits."),
        Choice(
            "reading",
            "by its kind",
            ("by its kind", "sRGB", "plain"),
            help="sRGB for colours, plain for numbers; by its kind takes 8 and 16-bit colour as sRGB.",
        ),
        Count("repeat_u", 1, (1, 8), (1, 256), help="How often the picture repeats across."),
        Count("repeat_v", 1, (1, 8), (1, 256), help="How often the picture repeats downwards."),
        Switch("keep_shape", False, help="Cuts the longer sides off, so that the picture is not stretched."),
        Float("from_left", 0.0, (0, 1), (0, 1), group="Part", help=f"Where the part begins, {SHARE}."),
        Float("from_top", 0.0, (0, 1), (0, 1), group="Part", help=f"Where the part begins, {SHARE}."),
        Float("part_width", 1.0, (0.01, 1), (0, 1), group="Part", help=f"How wide the part is, {SHARE}."),
        Float("part_height", 1.0, (0.01, 1), (0, 1), group="Part", help=f"How high the part is, {SHARE}."),
        Choice("quarter_turns", "none", QUARTERS, group="Placing", help="Turns the part clockwise first."),
        Angle("turn", group="Placing", help="Turns it clockwise, about the tile's middle."),
        Float("scale", 1.0, (0.1, 4), (0.005, 64), unit="×", group="Placing", help="Above 1 it is larger."),
        Length("offset_u", 0.0, (-0.5, 0.5), (-64, 64), group="Placing", help="Moves it to the right."),
        Length("offset_v", 0.0, (-0.5, 0.5), (-64, 64), group="Placing", help="Moves it down."),
        Switch("flip_green", False, help="For normals whose green runs the other way; read them plain."),
    ),
    physical=True,
    at_once=True,
    exempt={"idle": "without a file it has nothing to read", "tiles": WORLD},
    synonyms=("image", "bitmap", "import", "photo", "texture", "file", "crop", "scan"),
    changes={2: Change("A picture can be cut, turned and read at a place; nothing looks otherwise.")},
)
def picture(context: Context, place: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    if not values["file"]:
        context.report("No picture is chosen yet.")
        grey = context.full(0.5)
        colour = convert(grey, COLOUR, context.map_bands)
        return {"colour": colour, "grey": grey, "alpha": context.full(1.0)}
    found = read_picture(locate(values["file"], context.folder), context.stop.check)
    samples = part_of(found.samples, values)
    samples = cut_to_shape(samples, context.physical) if values["keep_shape"] else samples
    colour, alpha = apart(Picture(samples, found.whole, found.alpha), values["reading"])
    if values["flip_green"] and colour.ndim == 3:
        colour[..., 1] = 1 - colour[..., 1]
    laid = lay(context, place, values)
    read = read_there(context, colour, laid, values)
    return {
        "colour": convert(read, COLOUR, context.map_bands),
        "grey": convert(read, GREY, context.map_bands),
        "alpha": context.full(1.0) if alpha is None else read_there(context, alpha, laid, values),
    }


def part_of(samples: np.ndarray, values: Mapping[str, Any]) -> np.ndarray:
    """The chosen part of a picture, at least one sample of it, turned by quarters."""

    def span(start: float, length: float, count: int) -> slice:
        first = min(int(start * count + 0.5), count - 1)
        return slice(first, max(first + 1, min(count, int((start + length) * count + 0.5))))

    height, width = samples.shape[:2]
    rows = span(values["from_top"], values["part_height"], height)
    columns = span(values["from_left"], values["part_width"], width)
    part: np.ndarray = np.rot90(samples[rows, columns], -QUARTERS.index(values["quarter_turns"]))
    return part


def lay(context: Context, place: np.ndarray | None, values: Mapping[str, Any]) -> np.ndarray | None:
    """Where each sample is read, in pictures; none if the picture just fills the tile so many times."""
    turn, scale = math.radians(values["turn"]), values["scale"]
    offset = np.array([values["offset_u"], values["offset_v"]])
    if place is None and turn == 0 and scale == 1 and not offset.any():
        return None
    c, s = math.cos(turn) / scale, math.sin(turn) / scale
    matrix = np.array([[c, s * context.aspect], [-s / context.aspect, c]])
    matrix = matrix * np.array([[values["repeat_u"]], [values["repeat_v"]]])
    if np.abs(matrix - np.round(matrix)).max() > 1e-4:
        context.report("Turned or scaled so, the picture does not close at the seam; Close seams mends that.")
    middle = (0.5 + offset).astype(np.float32)
    centre = np.array([values["repeat_u"] % 2, values["repeat_v"] % 2], np.float32) / 2
    there = tile_places(context.width, context.height) if place is None else place
    by = matrix.T.astype(np.float32)
    return context.map_bands(lambda rows: (rows - middle) @ by + centre, there)


def read_there(
    context: Context, map: np.ndarray, laid: np.ndarray | None, values: Mapping[str, Any]
) -> np.ndarray:
    """A picture's map where it is laid, or over the whole tile."""
    if laid is not None:
        return read_covered(context.bands, map, laid, "cubic")
    repeats = values["repeat_u"], values["repeat_v"]
    return resize_map(map, context.width, context.height, *repeats, context.bands)


def locate(file: str, folder: str) -> Path:
    """The file a path means: from the weave's folder, unless it begins at the root."""
    path = home_path(file)
    if path.is_absolute():
        return path
    if not folder:
        raise ReedError(
            f"'{file}' is looked for beside the weave's file; save the weave, or choose the picture again."
        )
    return Path(folder) / path


def apart(picture: Picture, reading: str) -> tuple[np.ndarray, np.ndarray | None]:
    """A picture's colour (or grey) in linear light, and its alpha."""
    samples, number = picture.samples, picture.alpha
    alpha = None if number is None else np.ascontiguousarray(samples[..., number])
    others = [c for c in range(samples.shape[2]) if c != number]
    if not others:
        raise ReedError("The picture has an alpha but no colour; use one that has either.")
    colour = samples[..., others[:3]] if len(others) >= 3 else samples[..., others[0]]
    encoded = reading == "sRGB" or (reading == "by its kind" and picture.whole and colour.ndim == 3)
    if not encoded:
        return np.ascontiguousarray(colour), alpha
    colour = np.array(colour)
    for y in range(0, len(colour), ROWS):
        colour[y : y + ROWS] = linear_from_srgb(colour[y : y + ROWS])
    return colour, alpha


def cut_to_shape(samples: np.ndarray, physical: tuple[float, float]) -> np.ndarray:
    """The middle of a picture, of the tile's own proportion."""
    height, width = samples.shape[:2]
    wanted = physical[0] / physical[1]
    if width / height > wanted:
        keep = max(1, round(height * wanted))
        start = (width - keep) // 2
        return samples[:, start : start + keep]
    keep = max(1, round(width / wanted))
    start = (height - keep) // 2
    return samples[start : start + keep]
