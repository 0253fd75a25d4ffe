"""Picture: an imported file."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from reedloom.errors import ReedError
from reedloom.files import home_path
from reedloom.kernels.colours import linear_from_srgb, luminance
from reedloom.kernels.resize import resize_map
from reedloom.kit import COLOUR, GREY, Choice, Context, Count, File, Port, Switch, kind
from reedloom.picture_files import Picture, read_picture

ROWS = 64
"""Rows that are decoded at once, so that a large picture is not held several times."""
WORLD = "it is a view of the world outside, and tiles only if the file does; Close seams makes it tile"


@kind(
    id="picture",
    label="Picture",
    family="value",
    version=1,
    purpose="Brings a picture file in: a photograph, a scan, a map from elsewhere.",
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
    ),
    physical=True,
    at_once=True,
    exempt={"idle": "without a file it has nothing to read", "tiles": WORLD},
    synonyms=("image", "bitmap", "import", "photo", "texture", "file"),
)
def picture(
    context: Context, *, file: str, reading: str, repeat_u: int, repeat_v: int, keep_shape: bool
) -> dict[str, np.ndarray]:
    if not file:
        context.report("No picture is chosen yet.")
        grey = context.full(0.5)
        return {"colour": np.repeat(grey[..., None], 3, axis=2), "grey": grey, "alpha": context.full(1.0)}
    found = read_picture(locate(file, context.folder), context.stop.check)
    samples = cut_to_shape(found.samples, context.physical) if keep_shape else found.samples
    colour, alpha = apart(Picture(samples, found.whole, found.alpha), reading)
    shape = (context.width, context.height, repeat_u, repeat_v)
    check = context.stop.check
    resized = resize_map(colour, *shape, check=check)
    grey = resized if resized.ndim == 2 else luminance(resized)
    return {
        "colour": resized if resized.ndim == 3 else np.repeat(grey[..., None], 3, axis=2),
        "grey": grey,
        "alpha": context.full(1.0) if alpha is None else resize_map(alpha, *shape, check=check),
    }


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
