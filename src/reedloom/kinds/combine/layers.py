"""Layers: up to twelve maps laid over one another, each with its own mode, strength and curve."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.curves import curve_table, read_table
from reedloom.kinds.combine.modes import COLOUR_MODES, MODES, Mode
from reedloom.kit import GREY, STRAIGHT_CURVE, Choice, Context, Float, Port, Switch, ToneCurve, kind
from reedloom.kit.parameters import Parameter

MOST = 12
GREY_MODES = tuple(mode for mode in MODES if mode not in COLOUR_MODES)


def layer_parameters(number: int) -> tuple[Parameter, ...]:
    """What is set for one layer."""
    row: dict[str, Any] = {"series": number, "group": f"Layer {number}"}
    return (
        Switch(f"on_{number}", True, label="On", help="Whether the layer takes part.", **row),
        Choice(
            f"mode_{number}",
            "normal" if number == 1 else "add",
            GREY_MODES,
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
        ToneCurve(
            f"curve_{number}",
            STRAIGHT_CURVE,
            label="Curve",
            help="The layer's own tones before they are laid on.",
            **row,
        ),
    )


@kind(
    id="layers",
    label="Layers",
    family="combine",
    version=1,
    purpose="Lays up to twelve maps over one another, each with its own mode, strength and tone curve.",
    inputs=tuple(Port(f"layer_{n}", GREY, optional=n > 1, series=n) for n in range(1, MOST + 1)),
    outputs=(Port("map", GREY),),
    parameters=tuple(p for n in range(1, MOST + 1) for p in layer_parameters(n)),
    synonyms=("stack", "mix", "sum", "composite", "add up"),
)
def layers(context: Context, *maps: np.ndarray | None, **values: Any) -> np.ndarray:
    rows = [
        (map, *(values[f"{name}_{number}"] for name in ("mode", "strength", "curve")))
        for number, map in enumerate(maps, start=1)
        if map is not None and values[f"on_{number}"]
    ]
    plans = [
        (map, MODES[mode], np.float32(strength), None if curve == STRAIGHT_CURVE else curve_table(curve))
        for map, mode, strength, curve in rows
    ]
    out = context.empty()

    def band(y0: int, y1: int) -> None:
        total = out[y0:y1]
        first, rest = (plans[0], plans[1:]) if starts_plain(plans) else (None, plans)
        total[...] = 0 if first is None else first[0][y0:y1]
        for map, mode, strength, table in rest:
            layer = map[y0:y1] if table is None else read_table(table, map[y0:y1])
            total += strength * (mode(total, layer) - total)

    context.bands(band, band_rows=max(1, 2**15 // context.width))
    return out


def starts_plain(plans: list[tuple[np.ndarray, Mode, np.float32, np.ndarray | None]]) -> bool:
    """Whether the first layer is taken just as it is, which is most often so."""
    if not plans:
        return False
    _, mode, strength, table = plans[0]
    return mode is MODES["normal"] and strength == 1 and table is None
