"""Layers: up to twelve maps laid over one another, each with its mask, place, mode, strength and curve."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np

from reedloom.kernels.curves import curve_table, read_table
from reedloom.kernels.maps import empty_like
from reedloom.kernels.pyramid import read_covered
from reedloom.kinds.combine.modes import MODES, Mode, lay_on, mode_for
from reedloom.kinds.tone.normalise import measure_extremes
from reedloom.kit import (
    COLOUR,
    GREY,
    SAME_AS,
    STRAIGHT_CURVE,
    VECTOR,
    Choice,
    Context,
    Float,
    Port,
    Role,
    Switch,
    ToneCurve,
    kind,
)
from reedloom.kit.parameters import Parameter

MOST = 12
AS_IT_COMES, HELD, FITTED = "as it comes", "held from 0 to 1", "fitted from 0 to 1"
TOLD = 0.001
"""The share of a result beyond 0 to 1 from which the maker is told."""


def layer_ports(number: int) -> tuple[Port, ...]:
    """What may be tied for one layer."""
    return (
        Port(f"layer_{number}", GREY | COLOUR, optional=number > 1, series=number),
        Port(
            f"mask_{number}",
            GREY,
            optional=True,
            help="Where the layer shows; everywhere if not tied.",
            role=Role.MASK,
            series=number,
        ),
        Port(
            f"place_{number}",
            VECTOR,
            optional=True,
            help="Where the layer is read: moves, turns or repeats it.",
            role=Role.PLACE,
            series=number,
        ),
    )


def layer_parameters(number: int) -> tuple[Parameter, ...]:
    """What is set for one layer."""
    row: dict[str, Any] = {"series": number, "group": f"Layer {number}"}
    return (
        Switch(f"on_{number}", True, label="On", help="Whether the layer takes part.", **row),
        Choice(
            f"mode_{number}",
            "normal" if number == 1 else "add",
            tuple(MODES),
            label="Mode",
            help="How the layer and the sum of those before it become one.",
            **row,
        ),
        Float(
            f"strength_{number}",
            1.0,
            (0, 1),
            (-16, 16),
            label="Strength",
            help="How much of the change the layer makes is taken.",
            **row,
        ),
        Float(
            f"level_{number}",
            0.0,
            (-1, 1),
            (-16, 16),
            label="Level",
            help="Added to the layer's tones: raises or lowers it before it is laid on.",
            **row,
        ),
        ToneCurve(
            f"curve_{number}",
            STRAIGHT_CURVE,
            label="Curve",
            help="The layer's own tones before they are laid on.",
            **row,
        ),
    )


class Layer(NamedTuple):
    """One layer, ready to be laid on."""

    map: np.ndarray
    mask: np.ndarray | None
    mode: Mode
    strength: np.float32
    level: np.float32
    table: np.ndarray | None

    @property
    def is_plain(self) -> bool:
        """Whether, as the first, it is taken just as it is, which is most often so."""
        plain = self.mode is MODES["normal"] and self.strength == 1 and self.level == 0
        return plain and self.mask is None and self.table is None

    def lay(self, total: np.ndarray, y0: int, y1: int) -> None:
        """Lay some rows on those of the sum."""
        rows = self.map[y0:y1]
        if self.table is not None:
            rows = read_table(self.table, rows)
        if self.level:
            rows = rows + self.level
        share = None if self.mask is None else self.mask[y0:y1]
        lay_on(total, self.mode(total, rows), share, self.strength, total)


@kind(
    id="layers",
    label="Layers",
    family="combine",
    version=1,
    purpose="Lays up to twelve maps over one another, each with its mask, place, mode and curve.",
    inputs=tuple(port for n in range(1, MOST + 1) for port in layer_ports(n)),
    outputs=(Port("map", SAME_AS(*(f"layer_{n}" for n in range(1, MOST + 1)))),),
    parameters=(
        Choice(
            "range",
            AS_IT_COMES,
            (AS_IT_COMES, HELD, FITTED),
            help="What becomes of a sum beyond 0 to 1; as it comes, the card tells how much of it is.",
        ),
        *(p for n in range(1, MOST + 1) for p in layer_parameters(n)),
    ),
    exempt={"shift": "a layer with a place stays there while its map is shifted"},
    synonyms=("stack", "mix", "sum", "composite", "add up"),
)
def layers(context: Context, *tied: np.ndarray | None, **values: Any) -> np.ndarray:
    plan = [
        made
        for number in numbers_of(tied)
        if (made := layer_of(context, number, tied[3 * number - 3 : 3 * number], values)) is not None
    ]
    first = next(map for map in tied[::3] if map is not None)
    out = empty_like(first)

    def band(y0: int, y1: int) -> None:
        total = out[y0:y1]
        begins = 1 if plan and plan[0].is_plain else 0
        total[...] = plan[0].map[y0:y1] if begins else 0
        for layer in plan[begins:]:
            layer.lay(total, y0, y1)

    context.bands(band, band_rows=1)
    return ranged(context, out, values["range"])


def numbers_of(tied: tuple[np.ndarray | None, ...]) -> list[int]:
    """The layers that have a map, from 1."""
    return [number for number, map in enumerate(tied[::3], start=1) if map is not None]


def layer_of(
    context: Context, number: int, tied: tuple[np.ndarray | None, ...], values: dict[str, Any]
) -> Layer | None:
    """A layer that takes part, read at its place; None if it is off."""
    map, mask, place = tied
    if map is None or not values[f"on_{number}"]:
        return None
    if place is not None:
        map = read_covered(context.bands, map, place, "linear")
    curve = values[f"curve_{number}"]
    return Layer(
        map,
        mask,
        mode_for(context, values[f"mode_{number}"], map),
        np.float32(values[f"strength_{number}"]),
        np.float32(values[f"level_{number}"]),
        None if curve == STRAIGHT_CURVE else curve_table(curve),
    )


def ranged(context: Context, map: np.ndarray, how: str) -> np.ndarray:
    """A result brought within 0 to 1, or told how much of it lies beyond."""
    if how == HELD:
        return context.map_bands(lambda rows: np.clip(rows, 0, 1), map)
    if how == FITTED:
        low, high = measure_extremes(context, map)
        scale, start = np.float32(1 / max(high - low, 1e-9)), np.float32(low)
        return context.map_bands(lambda rows: (rows - start) * scale, map)
    beyond = [0]

    def count(y0: int, y1: int) -> None:
        rows = map[y0:y1]
        beyond.append(int(np.count_nonzero(rows < 0) + np.count_nonzero(rows > 1)))

    context.bands(count)
    share = sum(beyond) / map.size
    if share >= TOLD:
        context.report(f"{100 * share:.2g} % of the result lies beyond 0 to 1.")
    return map
