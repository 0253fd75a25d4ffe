"""Swirl: a map turned about a centre, most in the middle."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.jit import kernel
from reedloom.kernels.places import read_at, short_way, tile_places
from reedloom.kernels.quick import cosine_of_turn, sine_of_turn
from reedloom.kinds.place.place_parts import CENTRE
from reedloom.kinds.warp.warp_parts import HELD, READING
from reedloom.kit import (
    COLOUR,
    GREY,
    SAME_AS,
    Angle,
    Context,
    FormHandles,
    Length,
    Port,
    driving,
    kind,
    multiplies,
)


@kind(
    id="swirl",
    label="Swirl",
    family="warp",
    version=2,
    purpose="Turns a map about a centre, most in the middle and not at all from a radius on.",
    inputs=(
        Port("map", GREY | COLOUR),
        driving("amount_map", multiplies("turn"), "Multiplies the turn, point by point."),
    ),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Angle("turn", 180.0, useful=(-720, 720), help="How far the middle is turned clockwise."),
        Length("radius", 0.4, (0.05, 0.5), (0.001, 0.5), help="Where the turning ends."),
        *CENTRE,
        READING,
    ),
    exempt={
        "metric": "there is one centre on the tile, of whatever shape",
        "shift": "the centre stays where it is",
    },
    synonyms=("twirl", "whirl", "vortex", "knot", "twist"),
    handles=FormHandles(("centre_u", "centre_v"), size="radius"),
    changes={2: HELD},
)
def swirl(
    context: Context,
    map: np.ndarray,
    amount_map: np.ndarray | None,
    *,
    turn: float,
    radius: float,
    centre_u: float,
    centre_v: float,
    reading: str,
) -> np.ndarray:
    most = 0.5 * min(1.0, context.aspect)
    if radius > most:
        context.report(f"The radius is snapped to {most:.4g}, so that the turning ends on the tile.")
        radius = most

    numbers = np.array([centre_u, centre_v, context.aspect, radius, -turn / 360], np.float32)
    plain = np.ones((1, 1), np.float32)

    def there(y0: int, y1: int) -> np.ndarray:
        place = tile_places(context.width, context.height, range(y0, y1))
        turn_places(place, plain if amount_map is None else amount_map[y0:y1], numbers)
        return place

    return read_at(context.bands, map, there, "cubic" if reading == "smooth" else "linear")


@kernel
def turn_places(place, amount, numbers):  # type: ignore[no-untyped-def]
    """Turn places (n, W, 2) about a middle, less and less towards a radius.

    amount : (n, W), or (1, 1) for all; numbers : the middle's u and v, the tile's height in widths, the
    radius in widths, and the turn in the middle in whole turns.
    """
    centre_u, centre_v, aspect, radius, most = numbers
    each = amount.shape[0] * amount.shape[1] > 1
    one, slim = np.float32(1.0), np.float32(1.0) / aspect
    n = place.shape[1]
    us, vs, share = np.empty(n, np.float32), np.empty(n, np.float32), np.full(n, amount[0, 0], np.float32)
    for y in range(place.shape[0]):
        if each:
            share[:] = amount[y]
        for x in range(n):
            us[x], vs[x] = place[y, x, 0] - centre_u, place[y, x, 1] - centre_v
        for x in range(n):  # by itself, since loops over pairs give no vectors
            u, v = short_way(us[x]), short_way(vs[x]) * aspect
            fall = max(one - np.float32(math.sqrt(u * u + v * v)) / radius, np.float32(0.0))
            angle = most * fall * fall * (np.float32(3.0) - fall - fall) * share[x]
            c, s = cosine_of_turn(angle), sine_of_turn(angle)
            us[x], vs[x] = c * u - s * v - u, (s * u + c * v - v) * slim
        for x in range(n):
            place[y, x, 0] += us[x]
            place[y, x, 1] += vs[x]
