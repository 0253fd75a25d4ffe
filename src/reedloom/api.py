"""The public functions; `reedloom` itself offers them under short names."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import Any

import numpy as np

from reedloom.arguments import takes
from reedloom.delivery.recipe import Delivered, deliver_weave, dressed
from reedloom.errors import EvaluationError, ReedError
from reedloom.kernels.jit import Stop
from reedloom.kit.channels import CHANNELS
from reedloom.kit.values import convert
from reedloom.loom.run import Outcome, evaluate_ends, shared_cache
from reedloom.weave.resolve import FlatGraph, resolve
from reedloom.weave.weave import Weave

Size = int | tuple[int, int]
Progress = Callable[[float], None]


Turned = Mapping[str, Any]
"""Values of dials by id or label."""

Notes = dict[str, tuple[str, ...]]
"""By node: what it says of its result, such as that a value was snapped so that the tile closes."""


@takes(
    weave=Weave, output="text", colourway="text", dials=dict, stop=Stop, progress="function", notes=dict
)  # fmt: skip
def evaluate(
    weave: Weave,
    output: str,
    size: Size = 512,
    *,
    colourway: str | None = None,
    dials: Turned | None = None,
    stop: Stop | None = None,
    progress: Progress | None = None,
    notes: Notes | None = None,
) -> Any:
    """One output of a weave as an array.

    Parameters
    ----------
    output : str
        "node" or "node.port"; the first output is the default.
    size : int or (width, height)
        Samples across the tile, 1 to 8192, with as many down as keep them square; or both.
    colourway : str, optional
        The id or name of one; the dials as they are turned in the weave if not given.
    dials : mapping, optional
        Values of dials by id or label, which go before all others.
    stop : Stop, optional
        Set it from another thread to end the evaluation within 50 ms.
    notes : dict, optional
        Takes by node what it says of its result: values that were snapped, ranges that were held.

    Returns
    -------
    Read-only: (H, W) float32 for grey, (H, W, 3) for colour, (H, W, 2) for a vector, (H, W) int32 for
    islands; a structured array (N,) for points and paths (`POINT` and `VERTEX` in `kernels.points`); a
    mapping of channels to maps for a material.

    Raises
    ------
    EvaluationError
        If the node or one it needs cannot be computed; the text says why.
    """
    end = weave.end(output)
    outcome = evaluate_ends(_resolved(weave, colourway, dials), [end], size, stop=stop, progress=progress)
    _take_what_was_said(outcome, notes)
    return outcome.results[end]


@takes(weave=Weave, colourway="text", dials=dict, stop=Stop, progress="function", notes=dict)
def evaluate_maps(
    weave: Weave,
    size: Size = 1024,
    *,
    colourway: str | None = None,
    dials: Turned | None = None,
    stop: Stop | None = None,
    progress: Progress | None = None,
    notes: Notes | None = None,
) -> dict[str, np.ndarray]:
    """Compute every map that is tied to the map rail.

    Parameters
    ----------
    size : int or (width, height)
        As in `evaluate`.
    colourway, dials, stop, progress, notes : optional
        As in `evaluate`.

    Returns
    -------
    mapping of channel to a read-only map: grey (H, W) or colour (H, W, 3) float32, colour in linear sRGB

    Raises
    ------
    EvaluationError
        If one of them cannot be computed.
    """
    flat = _resolved(weave, colourway, dials)
    ties = flat.ends
    outcome = evaluate_ends(flat, ties.values(), size, stop=stop, progress=progress)
    _take_what_was_said(outcome, notes)
    return {c: convert(outcome.results[ties[c]], CHANNELS[c].data) for c in CHANNELS if c in ties}


def _resolved(weave: Weave, colourway: str | None, dials: Turned | None) -> FlatGraph:
    return resolve(weave.document, weave.kinds, colourway, dials)


def _take_what_was_said(outcome: Outcome, notes: Notes | None) -> None:
    if notes is not None:
        notes |= outcome.notes
    for node, reason in outcome.failures.items():
        raise EvaluationError(node, reason)


@takes(megabytes="number")
def bound_cache(megabytes: float) -> None:
    """Let kept results take no more memory than this.

    Parameters
    ----------
    megabytes : float
        From 0 up; a quarter of the machine's memory where it was never set.

    Raises
    ------
    ReedError
        If it is below 0 or no number.
    """
    if not megabytes >= 0:
        raise ReedError(f"The cache cannot be bounded to {megabytes!r} MB; use a number from 0 up.")
    shared_cache().bound(int(min(megabytes, 2**40) * 2**20))


def clear_cache() -> None:
    """Forget all kept results, so that the next evaluation computes everything."""
    shared_cache().clear()


@takes(
    weave=Weave, folder="path", format="text", maps="texts", name="text", normal_y="text", dials=dict,
    stop=Stop, progress="function",
)  # fmt: skip
def deliver(
    weave: Weave,
    folder: str | Path,
    size: int | None = None,
    *,
    format: str | None = None,
    maps: Iterable[str] | None = None,
    name: str | None = None,
    normal_y: str | None = None,
    colourways: str | Iterable[str] | None = None,
    dials: Turned | None = None,
    overwrite: bool = True,
    stop: Stop | None = None,
    progress: Progress | None = None,
) -> Delivered:
    """Write the map set as files, each whole or not at all, and return their paths.

    What is returned is a list of paths; its `cut` says of which maps values beyond 0 to 1 were cut, and how
    large a share; its `notes` what nodes say of their results.

    Parameters
    ----------
    folder : path
        Made if it is not there; its parts may hold ``{colourway}``.
    size, format, name, normal_y : optional
        As the weave's own recipe where not given; formats are listed in `delivery.encode.FORMATS`.
    maps : iterable of str, optional
        Channels to write; all tied ones by default.
    colourways : str or iterable of str, optional
        Names or ids of colourways, or "all"; what they share is computed once. The dials as they are turned
        if not given.
    dials : mapping, optional
        Values of dials by id or label, which go before all others.
    overwrite : bool
        If false, a file that is there already is an error and nothing is written.
    """
    return deliver_weave(
        weave.document,
        dressed(weave.document, weave.kinds, colourways, dict(dials or {})),
        Path(folder),
        size=size,
        format=format,
        maps=maps,
        name=name,
        normal_y=normal_y,
        overwrite=overwrite,
        stop=stop,
        progress=progress,
    )
