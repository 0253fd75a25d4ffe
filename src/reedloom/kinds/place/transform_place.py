"""Move, turn, scale: a place carried elsewhere, snapped so that what is drawn there still tiles."""

from __future__ import annotations

import cmath
import itertools
import math
from collections.abc import Mapping
from typing import Any

import numpy as np

from reedloom.kinds.place.place_parts import places_of
from reedloom.kit import (
    VECTOR,
    Angle,
    Context,
    Count,
    Float,
    Length,
    Port,
    Role,
    Switch,
    adds_to,
    driving,
    kind,
    multiplies,
)
from reedloom.kit.handles import FreeHandles, Mark
from reedloom.kit.stops import Stop
from reedloom.kit.ways import number_of, numbers_of, towards, ways_of


def snap_turn_and_scale(turn: float, scale: float) -> complex:
    """The whole-lattice transform nearest to a turn (degrees) and scale.

    A lattice maps onto itself under the matrix [[a, -b], [b, a]] just when a and b are whole, so
    the transform is the Gaussian integer a + bi nearest to exp(-i turn) / scale, and never 0.
    """
    wanted = cmath.rect(1 / scale, -math.radians(turn))
    nearest = complex(round(wanted.real), round(wanted.imag))
    if nearest == 0:
        nearest = min((1 + 0j, -1 + 0j, 1j, -1j), key=lambda unit: abs(unit - wanted))
    return nearest


def snap_lattice(context: Context, wanted: np.ndarray) -> np.ndarray:
    """The nearest matrix of whole numbers, by how far it moves things in widths; never a flat one."""
    weight = np.array([[1, 1 / context.aspect], [context.aspect, 1]])
    choices = [(math.floor(e), math.ceil(e)) for e in wanted.ravel()]
    found = [np.array(m, float).reshape(2, 2) for m in itertools.product(*choices)]
    found = [m for m in found if abs(np.linalg.det(m)) > 0.5] or [np.eye(2)]
    nearest = min(found, key=lambda m: float((((m - wanted) * weight) ** 2).sum()))
    if np.abs(nearest - wanted).max() > 1e-3:
        turn = math.degrees(math.atan2(-nearest[1, 0] * context.aspect, nearest[0, 0]))
        context.report(
            f"Turn and scale are snapped, to {turn + 0:.4g}° at the left, so that the tile closes."
        )
    return nearest


MOST_STOPS = 5
"""How many times smaller than the tile a drawing is at most at a stop."""
RIM = 0.2
"""How far from its middle, in widths, a drawing of scale 1 is taken to be turned and scaled by hand."""


def closing_stops(values: Mapping[str, Any], aspect: float) -> dict[str, tuple[Stop, ...]]:
    """The turns that close at the seam, each with the scale nearest to the present one, and their scales."""
    if not values["keep_tiling"]:
        return {}
    reach = range(-MOST_STOPS, MOST_STOPS + 1)
    closing = [complex(a, b) for a in reach for b in reach if 0 < math.hypot(a, b) <= MOST_STOPS]
    closing = [z for z in closing if is_whole(z.imag * aspect) and is_whole(z.imag / aspect)]
    shortest: dict[float, complex] = {}
    for z in sorted(closing, key=abs):
        shortest.setdefault(round(-math.degrees(cmath.phase(z)), 4) + 0.0, z)
    turns = []
    for turn, z in sorted(shortest.items()):
        times = max(1, round(1 / max(values["scale"], 1e-3) / abs(z)))
        scale = round(1 / (times * abs(z)), 5)
        turns.append(Stop(turn, f"{turn:.4g}° at {scale:.3g}×", {"scale": scale}))
    present = min(turns, key=lambda stop: abs((stop.value - values["turn"] + 180) % 360 - 180))
    least = abs(shortest[present.value])
    scales = [round(1 / (times * least), 5) for times in range(1, 1 + int(10 / least))]
    also = {"turn": present.value}
    return {
        "turn": tuple(turns),
        "scale": tuple(Stop(s, f"{s:.3g}× at {present.value:.4g}°", also) for s in reversed(scales)),
    }


def is_whole(number: float) -> bool:
    """Whether a number is whole but for rounding."""
    return abs(number - round(number)) < 1e-9


def _centre(values: Mapping[str, Any], aspect: float) -> tuple[float, float]:
    return values["pivot_u"] + values["offset_u"], values["pivot_v"] + values["offset_v"]


def _moved(values: Mapping[str, Any], u: float, v: float, aspect: float) -> dict[str, Any]:
    return {"offset_u": round(u - values["pivot_u"], 4), "offset_v": round(v - values["pivot_v"], 4)}


def _rim(values: Mapping[str, Any], aspect: float) -> tuple[float, float]:
    u, v = _centre(values, aspect)
    way = cmath.rect(RIM * values["scale"], math.radians(values["turn"]))
    return u + way.real, v + way.imag / aspect


def _turned(values: Mapping[str, Any], u: float, v: float, aspect: float) -> dict[str, Any]:
    """Turn and scale by hand; where they must close at the seam, at the nearest that do."""
    from_u, from_v = _centre(values, aspect)
    way = complex(u - from_u, (v - from_v) * aspect)
    scale, turn = max(abs(way) / RIM, 0.01), math.degrees(cmath.phase(way))
    if values["keep_tiling"] and aspect == 1:
        z = snap_turn_and_scale(turn, scale)
        turn, scale = -math.degrees(cmath.phase(z)) + 0.0, 1 / abs(z)
    return {"turn": round(turn, 4), "scale": round(scale, 5)}


@kind(
    id="transform_place",
    label="Move, turn, scale",
    family="place",
    version=1,
    purpose="Moves, turns, scales and repeats whatever is drawn at the place.",
    inputs=(
        Port("place", VECTOR, optional=True, role=Role.PLACE),
        driving("turn_map", adds_to("turn"), "Added to the turn, point by point: 1 is a whole turn."),
        driving("scale_map", multiplies("scale"), "Multiplies the scale, point by point."),
    ),
    outputs=(Port("place", VECTOR, role=Role.PLACE),),
    parameters=(
        Length("offset_u", 0.0, (-0.5, 0.5), (-64, 64), help="Moves the drawing to the right."),
        Length("offset_v", 0.0, (-0.5, 0.5), (-64, 64), help="Moves the drawing down."),
        Angle("turn", help="Turns the drawing clockwise."),
        Float(
            "scale", 1.0, (0.1, 1.0), (0.005, 64), unit="×", help="Draws larger above 1 and smaller below it."
        ),
        Count("repeat_u", 1, (1, 16), (1, 1024), help="How often the drawing repeats across."),
        Count("repeat_v", 1, (1, 16), (1, 1024), help="How often the drawing repeats downwards."),
        Length("pivot_u", 0.5, (0, 1), (-64, 64), help="The point from the left that stays in its place."),
        Length("pivot_v", 0.5, (0, 1), (-64, 64), help="The point from the top that stays in its place."),
        Switch(
            "keep_tiling",
            True,
            help="Snaps turn and scale to the nearest values that still close at the seam.",
        ),
    ),
    exempt={"away": "turned point by point, a place a whole tile away is turned about another point"},
    synonyms=("rotate", "translate", "offset", "tile", "mapping"),
    sample={"turn": 45.0, "scale": 0.6},
    handles=FreeHandles(
        (
            Mark("centre", ("offset_u", "offset_v"), _centre, _moved),
            Mark("rim", ("turn", "scale"), _rim, _turned),
        ),
        of_place=True,
    ),
    stops=closing_stops,
)
def transform_place(
    context: Context,
    place: np.ndarray | None,
    turn_map: np.ndarray | None,
    scale_map: np.ndarray | None,
    *,
    offset_u: float,
    offset_v: float,
    turn: float,
    scale: float,
    repeat_u: int,
    repeat_v: int,
    pivot_u: float,
    pivot_v: float,
    keep_tiling: bool,
) -> np.ndarray:
    z, aspect = cmath.rect(1 / scale, -math.radians(turn)), context.aspect
    if keep_tiling and aspect == 1:
        wanted, z = z, snap_turn_and_scale(turn, scale)
        if abs(z - wanted) > 1e-3:
            context.report(
                f"Turn and scale are snapped to {-math.degrees(cmath.phase(z)) + 0:.4g}° and "
                f"{1 / abs(z):.4g} so that the tile closes."
            )
    source = places_of(context, place)
    # In widths it turns and scales; in shares of the tile, what goes across counts otherwise than down.
    turned = np.array([[z.real, -z.imag * aspect], [z.imag / aspect, z.real]])
    if keep_tiling and aspect != 1:
        turned = snap_lattice(context, turned)
    matrix = (turned * [repeat_u, repeat_v]).astype(np.float32)
    pivot = number_of(pivot_u, pivot_v)
    start = number_of(pivot_u + offset_u, pivot_v + offset_v)

    def move(rows: np.ndarray, *drives: np.ndarray) -> np.ndarray:
        """The whole transform, then each point's own turn and scale about the pivot."""
        away, rest = ways_of(numbers_of(rows) - start).reshape(-1, 2) @ matrix.T, list(drives)
        away = away.reshape(rows.shape)
        if turn_map is not None:
            back = towards(rest.pop(0) * np.float32(-2 * math.pi), np.float32(1))
            away = context.in_tiles(ways_of(numbers_of(context.in_widths(away)) * back))
        moved = numbers_of(away)
        if scale_map is not None:
            moved = moved / np.maximum(rest.pop(0), np.float32(1e-3))
        return ways_of(moved + pivot)

    return context.map_bands(move, source, *(m for m in (turn_map, scale_map) if m is not None))
