"""Drift: a map carried along the slope of a guide in small steps."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from reedloom.kernels.jit import kernel
from reedloom.kernels.maps import empty_map
from reedloom.kernels.places import join_places, part_places, slope_rows, tile_places
from reedloom.kernels.reading import read_at
from reedloom.kinds.filter.filter_parts import soften
from reedloom.kinds.warp.warp_parts import HELD, READING
from reedloom.kit import GREY, Choice, Context, Count, Length, Port, driving, kind, multiplies

KEEPS = ("highest", "lowest", "average", "last")


@kind(
    id="drift",
    label="Drift",
    family="warp",
    version=2,
    purpose="Carries a map along the slope of a guide, keeping what is highest or lowest on the way.",
    inputs=(
        Port("map", GREY),
        Port(
            "guide", GREY, optional=True, help="Whose slope is followed; the map itself if nothing is tied."
        ),
        driving("distance_map", multiplies("distance"), "Multiplies the distance, point by point."),
    ),
    outputs=(Port("map", GREY),),
    parameters=(
        Length(
            "distance",
            0.02,
            (-0.1, 0.1),
            (-1, 1),
            help="How far it is carried: above 0 away from heights, below 0 towards them.",
        ),
        Choice("keeps", "highest", KEEPS, help="What stays of all that passes over a point on the way."),
        Count("steps", 12, (2, 32), (1, 256), help="More steps are smoother; the look stays."),
        Length(
            "smoothing",
            0.005,
            (0, 0.03),
            (0, 0.5),
            help="How much the guide is softened before its slope is taken.",
        ),
        READING,
    ),
    synonyms=("smear", "swell", "shrink", "erode edges", "bubbles", "flow along"),
    sample={"distance": 0.05},
    changes={2: HELD},
)
def drift(
    context: Context,
    map: np.ndarray,
    guide: np.ndarray | None,
    distance_map: np.ndarray | None,
    *,
    distance: float,
    keeps: str,
    steps: int,
    smoothing: float,
    reading: str,
) -> np.ndarray:
    follows_itself = guide is None
    way = places_downhill(context, map if guide is None else guide, smoothing, distance / steps, distance_map)
    how = "cubic" if reading == "smooth" else "linear"
    spare = [empty_map((*map.shape, 1)) for _ in range(2)]
    # What swells or shrinks pushes on by its own new form.
    grows = follows_itself and keeps in {"highest", "lowest"}
    carried, kept = map, map if grows or keeps == "last" else map.copy()
    for number in range(steps):
        context.stop.check()
        out = spare[number % 2]
        new, share = out[..., 0], np.float32(1 / (number + 2))
        keeping = keeper(new, carried, keeps, share) if grows else keeper(kept, new, keeps, share)
        carried = read_at(
            context.bands, carried, way, how, out=out, then=None if keeps == "last" else keeping
        )
    return carried if grows or keeps == "last" else kept


def keeper(kept: np.ndarray, new: np.ndarray, how: str, share: np.float32) -> Callable[[int, int], None]:
    """What puts into rows of a map the higher or the lower of it and another, or goes a share of the way."""

    def band(y0: int, y1: int) -> None:
        rows = kept[y0:y1]
        if how == "average":
            rows += share * (new[y0:y1] - rows)
        else:
            (np.maximum if how == "highest" else np.minimum)(rows, new[y0:y1], out=rows)

    return band


def places_downhill(
    context: Context, guide: np.ndarray, smoothing: float, step: float, amount: np.ndarray | None
) -> np.ndarray:
    """The place from which a step down a guide leads to each sample; the step is short where it is level.

    Parameters
    ----------
    guide : (H, W) float32
    smoothing, step : float
        In widths.
    amount : (H, W) float32, optional
        Multiplies the step.

    Returns
    -------
    (H, W, 2) float32, in tiles
    """
    soft, way = soften(context, guide, smoothing), context.empty(2)
    slim = np.float32(1 / context.aspect)

    def band(y0: int, y1: int) -> None:
        rows = way[y0:y1]
        slope_rows(soft, *context.spacing, way, y0, y1)
        level_rows(rows, np.float32(-step), slim)
        if amount is not None:
            rows *= amount[y0:y1, :, None]
        tile_places(context.width, context.height, range(y0, y1), against=rows, out=rows)

    context.bands(band, band_rows=32)
    return way


@kernel
def level_rows(slope, step, slim):  # type: ignore[no-untyped-def]
    """Make slopes (n, W, 2) ways of `step` widths, less where they are faint; in tiles."""
    one = np.float32(1.0)
    us, vs = np.empty(slope.shape[1], np.float32), np.empty(slope.shape[1], np.float32)
    for y in range(slope.shape[0]):
        pairs = slope[y].reshape(-1)
        part_places(pairs, us, vs)
        for x in range(us.shape[0]):
            u, v = us[x], vs[x]
            scale = step / np.float32(math.sqrt(u * u + v * v + one))
            us[x], vs[x] = u * scale, v * scale * slim
        join_places(us, vs, pairs)
