"""Colour balance: shadows, middle tones and lights moved towards other colours."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.colours import luminance
from reedloom.kit import COLOUR, Context, Float, Port, Switch, kind
from reedloom.kit.parameters import Parameter

RANGES = ("dark", "middle", "light")
AXES = (("red", "cyan"), ("green", "magenta"), ("blue", "yellow"))


def axis_parameters() -> tuple[Parameter, ...]:
    """Nine amounts: three axes of colour for each range of tones."""
    return tuple(
        Float(
            f"{tones}_{towards}",
            0.0,
            (-1, 1),
            (-4, 4),
            label=f"{towards.capitalize()}",
            group=f"{tones.capitalize()} tones",
            help=f"Moves {tones} tones towards {towards} above 0 and {away} below it.",
        )
        for tones in RANGES
        for towards, away in AXES
    )


@kind(
    id="colour_balance",
    label="Colour balance",
    family="colour",
    version=1,
    purpose="Moves dark, middle and light tones towards other colours, each by itself.",
    inputs=(Port("colour", COLOUR),),
    outputs=(Port("colour", COLOUR),),
    parameters=(
        *axis_parameters(),
        Switch("keep_luminance", True, help="Keeps every point as bright as it was."),
    ),
    synonyms=("grade", "shadows", "highlights", "warm", "cool"),
    sample={"dark_blue": 0.6, "light_red": 0.5},
)
def colour_balance(context: Context, *maps: np.ndarray, **values: float) -> np.ndarray:
    amounts = np.array(
        [[values[f"{tones}_{towards}"] for towards, _ in AXES] for tones in RANGES], np.float32
    )

    def balance(rows: np.ndarray) -> np.ndarray:
        before = luminance(rows)
        tone = np.clip(np.sqrt(np.maximum(before, 0)), 0, 1)
        shares = np.stack([(1 - tone) ** 2, 2 * tone * (1 - tone), tone**2], axis=-1)
        changed = np.maximum(rows, 0) * np.exp2(shares @ amounts)
        if values["keep_luminance"]:
            changed *= (np.maximum(before, 0) / np.maximum(luminance(changed), np.float32(1e-9)))[..., None]
        return changed

    return context.map_bands(balance, maps[0])
