"""Colour balance: shadows, middle tones and lights moved towards other colours."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.colours import LUMINANCE
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.maps import empty_like
from reedloom.kernels.quick import power_of_two
from reedloom.kernels.shades import AT_ONCE, put_together, room_for_channels, take_apart
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

    colour, keep = maps[0], bool(values["keep_luminance"])
    out = empty_like(colour)

    def band(y0: int, y1: int) -> None:
        balance_rows(colour[y0:y1].reshape(-1, 3), amounts, keep, out[y0:y1].reshape(-1, 3))

    context.bands(band)
    return out


@kernel
def balance_rows(colour, amounts, keep_luminance, out):  # type: ignore[no-untyped-def]
    """Move dark, middle and light colours (n, 3) by amounts (3 ranges, 3 channels) in powers of two."""
    one, zero = np.float32(1.0), np.float32(0.0)
    channels = room_for_channels()
    red, green, blue = channels
    kept = one if keep_luminance else zero
    for start in range(0, out.shape[0], AT_ONCE):
        n = min(AT_ONCE, out.shape[0] - start)
        take_apart(colour, start, n, channels)
        for k in range(n):
            before = max(_light(red[k], green[k], blue[k]), zero)
            tone = min(np.float32(math.sqrt(before)), one)
            rest = one - tone
            shares = (rest * rest, np.float32(2.0) * tone * rest, tone * tone)
            r = _moved(red[k], shares, amounts, 0)
            g = _moved(green[k], shares, amounts, 1)
            b = _moved(blue[k], shares, amounts, 2)
            scale = one + kept * (before / max(_light(r, g, b), np.float32(1e-9)) - one)
            red[k], green[k], blue[k] = r * scale, g * scale, b * scale
        put_together(channels, start, n, out)


@inlined
def _moved(value, shares, amounts, channel):  # type: ignore[no-untyped-def]
    by = shares[0] * amounts[0, channel] + shares[1] * amounts[1, channel] + shares[2] * amounts[2, channel]
    return max(value, np.float32(0.0)) * power_of_two(by)


@inlined
def _light(red, green, blue):  # type: ignore[no-untyped-def]
    return LUMINANCE[0] * red + LUMINANCE[1] * green + LUMINANCE[2] * blue
