"""Five values worth trying for any parameter: what the try strip shows."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from reedloom.errors import ReedError
from reedloom.kernels.colours import linear_from_oklch, linear_from_srgb, oklch_from_linear, srgb_from_linear
from reedloom.kit.declare import Parameter, ParameterType

COUNT = 5
CURVES = (
    ((0.0, 0.0, 0.0), (1.0, 1.0, 0.0)),
    ((0.0, 0.0, 0.0), (0.3, 0.7, 0.0), (1.0, 1.0, 0.0)),
    ((0.0, 0.0, 0.0), (0.7, 0.3, 0.0), (1.0, 1.0, 0.0)),
    ((0.0, 0.0, 0.0), (0.5, 1.0, 1.0), (1.0, 0.0, 0.0)),
    ((0.0, 1.0, 0.0), (1.0, 0.0, 0.0)),
)
PICTURES = {".png", ".jpg", ".jpeg", ".tif", ".tiff", ".exr", ".hdr"}


def tries_of(parameter: Parameter, value: Any, folder: str = "") -> list[tuple[str, Any]]:
    """Up to five legal values with what each is called.

    value : the present one, near which seeds, colours, gradients and choices are tried.
    folder : where the weave lies, for files.
    """
    if parameter.tries:
        found = [(_caption(parameter, t), t) for t in parameter.tries[:COUNT]]
    elif parameter.is_number:
        found = _numbers(parameter, value)
    else:
        maker = _MAKERS.get(parameter.type)
        found = maker(parameter, value, folder) if maker is not None else []
    legal = []
    for caption, tried in found:
        try:
            legal.append((caption, parameter.check(tried)))
        except ReedError:
            continue
    return legal


def _caption(parameter: Parameter, value: Any) -> str:
    if isinstance(value, str):
        return value[:1].upper() + value[1:]
    return f"{value:.3g}" if isinstance(value, float) else str(value)


def _numbers(parameter: Parameter, value: Any) -> list[tuple[str, Any]]:
    if parameter.type is ParameterType.SEED:
        return [(str(v), v) for v in ((int(value) + step) % 2**31 for step in range(1, COUNT + 1))]
    low, high = parameter.useful
    spread = [low + (high - low) * share for share in (0.0, 0.25, 0.5, 0.75, 1.0)]
    if parameter.is_whole and low >= 1 and high / low > 8:
        spread = list(np.geomspace(low, high, COUNT))  # counts differ by ratios
    values = [round(v) for v in spread] if parameter.is_whole else [round(float(v), 6) for v in spread]
    return [(f"{v:.4g}", v) for v in dict.fromkeys(values)]


def _choices(parameter: Parameter, value: Any, folder: str) -> list[tuple[str, Any]]:
    """The present choice and those after it."""
    names = parameter.choices
    start = names.index(value) if value in names else 0
    ordered = [names[(start + i) % len(names)] for i in range(min(COUNT, len(names)))]
    return [(_caption(parameter, name), name) for name in ordered]


def _switch(parameter: Parameter, value: Any, folder: str) -> list[tuple[str, Any]]:
    return [("Off", False), ("On", True)]


def _shifted(colour: Any, light: float, rich: float, turn: float) -> tuple[float, ...]:
    lch = oklch_from_linear(np.maximum(np.array(colour, np.float64), 0))
    lch = np.array([max(lch[0] + light, 0), lch[1] * rich, lch[2] + turn])
    return tuple(float(round(v, 6)) for v in np.clip(linear_from_oklch(lch), 0, 1))


COLOUR_SHIFTS = (
    ("Darker", (-0.15, 1.0, 0.0)),
    ("Lighter", (0.15, 1.0, 0.0)),
    ("Duller", (0.0, 0.4, 0.0)),
    ("Richer", (0.0, 1.6, 0.0)),
    ("Other hue", (0.0, 1.0, 0.08)),
)


def _colours(parameter: Parameter, value: Any, folder: str) -> list[tuple[str, Any]]:
    return [(name, _shifted(value, *shift)) for name, shift in COLOUR_SHIFTS]


def _gradients(parameter: Parameter, value: Any, folder: str) -> list[tuple[str, Any]]:
    stops = [tuple(stop) for stop in value]
    turned = [(1 - s[0], *s[1:]) for s in reversed(stops)]
    flat = [
        (s[0], *(float(v) for v in linear_from_srgb(0.5 + 0.6 * (srgb_from_linear(np.array(s[1:])) - 0.5))))
        for s in stops
    ]
    return [
        ("Turned", turned),
        ("Paler", flat),
        *((name, [(s[0], *_shifted(s[1:], *shift)) for s in stops]) for name, shift in COLOUR_SHIFTS[2:]),
    ]


def _curves(parameter: Parameter, value: Any, folder: str) -> list[tuple[str, Any]]:
    return list(zip(("Straight", "Lifted", "Sunk", "Peak", "Turned"), CURVES, strict=True))


def _files(parameter: Parameter, value: Any, folder: str) -> list[tuple[str, Any]]:
    """The pictures beside the present one."""
    here = Path(folder) / value if value else None
    if here is None or not here.parent.is_dir():
        return []
    names = sorted(p for p in here.parent.iterdir() if p.suffix.lower() in PICTURES)
    start = names.index(here) if here in names else 0
    ordered = [names[(start + i) % len(names)] for i in range(min(COUNT, len(names)))]
    return [(path.stem, str(Path(value).parent / path.name)) for path in ordered]


def _drafts(parameter: Parameter, value: Any, folder: str) -> list[tuple[str, Any]]:
    rows = list(value)
    return [
        ("Turned", tuple("".join(row[i] for row in rows) for i in range(len(rows[0])))),
        ("Other face", tuple(row.translate(str.maketrans("#.", ".#")) for row in rows)),
        ("Moved", tuple(row[-i % len(row) :] + row[: -i % len(row)] for i, row in enumerate(rows))),
        ("Doubled", tuple("".join(c * 2 for c in row) for row in rows for _ in (0, 1))),
        ("Plain", ("#.", ".#")),
    ]


_MAKERS: dict[ParameterType, Callable[[Parameter, Any, str], list[tuple[str, Any]]]] = {
    ParameterType.CHOICE: _choices,
    ParameterType.BOOLEAN: _switch,
    ParameterType.COLOUR: _colours,
    ParameterType.GRADIENT: _gradients,
    ParameterType.TONE_CURVE: _curves,
    ParameterType.FILE: _files,
    ParameterType.DRAFT: _drafts,
}
