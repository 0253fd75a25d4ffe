"""Rain erosion: gullies, and what they wash down."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.gauss import gaussian_blur
from reedloom.kernels.hashing import unit_lattice
from reedloom.kernels.places import tile_places
from reedloom.kernels.rain import rain_on
from reedloom.kernels.reading import read_at
from reedloom.kernels.resize import resize_map
from reedloom.kinds.height.height_parts import HEIGHT_IN, HEIGHT_OUT
from reedloom.kit import GREY, Context, Count, Float, Port, Seed, kind

WIDTH = 1.3
"""How far gullies are softened, in cells."""


@kind(
    id="erode",
    label="Rain erosion",
    family="height",
    version=1,
    physical=True,
    purpose="Rain cuts gullies into the surface and lays down below what it took above; nothing is lost.",
    inputs=(HEIGHT_IN, Port("rain_map", GREY, optional=True, help="Where how much rain falls.")),
    outputs=(HEIGHT_OUT, Port("deposits", GREY, help="Where something was laid down, 1 where it is most.")),
    parameters=(
        Float("amount", 1.0, (0, 1), (0, 4), help="How much of the change is taken."),
        Count("steps", 120, (20, 240), (1, 1000), help="How long it rains."),
        Count("detail", 256, (64, 256), (16, 512), help="Cells across in which water is followed."),
        Float(
            "steepness", 4.0, (0.5, 16), (0.01, 1000), help="Times the true relief: steeper is cut faster."
        ),
        Float("rain", 0.02, (0.002, 0.1), (0, 1), help="How much falls in each step."),
        Float("dissolving", 0.3, (0, 1), (0, 1), help="How readily water takes up ground."),
        Float("carrying", 1.5, (0, 6), (0, 100), help="How much water can carry."),
        Float("drying", 0.03, (0.005, 0.2), (0, 1), help="The share of the water that dries in each step."),
        Seed(help="Drops fall a little unevenly; another number lets them fall elsewhere."),
    ),
    exempt={
        "metric": "rain falls by chance, which differs from place to place",
        "shift": "the drops fall where they fall",
        "resolution": "water finds its way by hairs, and takes another on a smoother copy of the surface",
    },
    synonyms=("hydraulic", "gully", "water", "weathering", "terrain", "sediment"),
)
def erode(
    context: Context,
    height: np.ndarray,
    rain_map: np.ndarray | None,
    *,
    amount: float,
    steps: int,
    detail: int,
    steepness: float,
    rain: float,
    dissolving: float,
    carrying: float,
    drying: float,
    seed: int,
) -> dict[str, np.ndarray]:
    # Water is followed on a grid of its own, the same at every size; the map takes only the change.
    across, down = detail, max(1, round(detail * context.physical[1] / context.physical[0]))
    scale = steepness * context.depth / context.physical[0] * detail
    ground = resize_map(height, across, down, bands=context.bands).astype(np.float64) * scale
    falls = rain * (0.5 + unit_lattice(seed, across, down, 70).astype(np.float64))
    if rain_map is not None:
        falls *= np.maximum(resize_map(rain_map, across, down, bands=context.bands), 0)
    worn = rain_on(
        ground,
        falls,
        steps,
        dissolving=dissolving,
        carrying=carrying,
        drying=drying,
        check=context.stop.check,
    )
    change = ((worn - ground) / max(scale, 1e-9)).astype(np.float32)
    # Gullies one cell wide would show the grid; a little blur takes nothing from the sum.
    change = gaussian_blur(change, (WIDTH / across, WIDTH / down), context.within().bands)
    size = (context.width, context.height)
    whole = read_at(context.bands, change, lambda y0, y1: tile_places(*size, range(y0, y1)), "cubic", size)
    most = np.float32(max(float(whole.max()), 1e-6))
    return {
        "height": context.map_bands(lambda h, c: h + np.float32(amount) * c, height, whole),
        "deposits": context.map_bands(lambda c: np.maximum(c, 0) / most, whole),
    }
