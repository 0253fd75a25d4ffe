"""Conic gradient: a value that rises around a middle."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.jit import kernel, read_only
from reedloom.kernels.polar import seen_around
from reedloom.kernels.reach import measure_footprint
from reedloom.kinds.place.place_parts import places_of
from reedloom.kinds.shape.shape_parts import CENTRE, SHAPE_INPUTS
from reedloom.kit import GREY, Angle, Choice, Context, Count, FormHandles, Port, kind

TURNS = {
    "tiles": "it turns about one centre, and jumps back along a line from it across the seam",
    "resolution": "it turns infinitely fast at its centre",
}


@kind(
    id="conic_gradient",
    label="Conic gradient",
    family="shape",
    version=1,
    purpose="A value that rises around a middle, once or several times: rays, fans, dials.",
    inputs=SHAPE_INPUTS,
    outputs=(Port("gradient", GREY, exempt=TURNS),),
    parameters=(
        Count("repeats", 1, (1, 24), (1, 1024), help="How often it rises in one turn."),
        Choice("profile", "rise", ("rise", "tent"), help="Rises and falls back at once, or rises and sinks."),
        *CENTRE,
        Angle("turn", help="Turns it clockwise about its middle."),
    ),
    exempt={"shift": "the centre stays where it is"},
    synonyms=("angular", "radial rays", "fan", "sweep"),
    sample={"repeats": 6},
    handles=FormHandles(("centre_u", "centre_v"), turn="turn"),
)
def conic_gradient(
    context: Context,
    place: np.ndarray | None,
    *,
    repeats: int,
    profile: str,
    centre_u: float,
    centre_v: float,
    turn: float,
) -> np.ndarray:
    source = places_of(context, place)
    sample = np.full(source.shape[:2], context.sample, np.float32)
    if place is not None:
        sample = measure_footprint(place, context.bands, context.aspect)

    out = context.empty()
    numbers = np.array([turn / 360, repeats, repeats / (2 * math.pi)], np.float32)

    def band(y0: int, y1: int) -> None:
        radius, way = seen_around(source[y0:y1], (centre_u, centre_v), context.aspect)
        rise_rows(radius, way, read_only(sample[y0:y1]), numbers, profile == "tent", out[y0:y1])

    context.bands(band, band_rows=32)
    return out


@kernel
def rise_rows(radius, way, sample, numbers, tent, out):  # type: ignore[no-untyped-def]
    """Values that rise around a middle.

    Parameters
    ----------
    radius, way : (n, W) float32
        How far places are from the middle, in widths, and in which direction, in turns.
    sample : (n, W) float32
        How far each sample reaches, in widths.
    numbers : (3,) float32
        Where the first rise begins, in turns; how often it rises in a turn, and in each width of the circle
        about the middle that has a radius of 1.
    tent : bool
        Sinks again as it rose; otherwise it falls back within a sample.
    out : (n, W) float32
        Filled, from 0 to 1.
    """
    begins, repeats, around = numbers
    zero, one = np.float32(0.0), np.float32(1.0)
    for y in range(out.shape[0]):
        line, ways, far, wide = out[y], way[y], radius[y], sample[y]
        for x in range(line.shape[0]):
            t = (ways[x] - begins) * repeats
            line[x] = t - np.floor(t)
        if tent:
            for x in range(line.shape[0]):
                line[x] = one - abs(line[x] + line[x] - one)
            continue
        for x in range(line.shape[0]):
            width = min(wide[x] * around / max(far[x], np.float32(1e-9)), one)
            back = (line[x] - (one - width)) / max(width, np.float32(1e-9))
            line[x] *= one - min(max(back, zero), one)
