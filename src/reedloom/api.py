"""The public functions; `reedloom` itself offers them under short names."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

import numpy as np

from reedloom.arguments import takes
from reedloom.delivery.recipe import deliver_weave
from reedloom.errors import EvaluationError, ReedError
from reedloom.kernels.jit import Stop
from reedloom.kit.channels import CHANNELS
from reedloom.kit.values import convert
from reedloom.loom.run import Outcome, evaluate_ends, shared_cache
from reedloom.weave.resolve import FlatGraph, resolve
from reedloom.weave.weave import Weave

Size = int | tuple[int, int]
Progress = Callable[[float], None]


@takes(weave=Weave, output="text", stop=Stop, progress="function")
def evaluate(
    weave: Weave, output: str, size: Size = 512, *, stop: Stop | None = None, progress: Progress | None = None
) -> Any:
    """One output of a weave as an array.

    Parameters
    ----------
    output : str
        "node" or "node.port"; the first output is the default.
    size : int or (width, height)
        Samples across the tile, 1 to 8192, with as many down as keep them square; or both.
    stop : Stop, optional
        Set it from another thread to end the evaluation within 50 ms.

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
    outcome = evaluate_ends(_resolved(weave), [end], size, stop=stop, progress=progress)
    _raise_failure(outcome)
    return outcome.results[end]


@takes(weave=Weave, stop=Stop, progress="function")
def evaluate_maps(
    weave: Weave, size: Size = 1024, *, stop: Stop | None = None, progress: Progress | None = None
) -> dict[str, np.ndarray]:
    """Compute every map that is tied to the map rail.

    Parameters
    ----------
    size : int or (width, height)
        As in `evaluate`.
    stop, progress : optional
        As in `evaluate`.

    Returns
    -------
    mapping of channel to a read-only map: grey (H, W) or colour (H, W, 3) float32, colour in linear sRGB

    Raises
    ------
    EvaluationError
        If one of them cannot be computed.
    """
    flat = _resolved(weave)
    ties = flat.ends
    outcome = evaluate_ends(flat, ties.values(), size, stop=stop, progress=progress)
    _raise_failure(outcome)
    return {c: convert(outcome.results[ties[c]], CHANNELS[c].data) for c in CHANNELS if c in ties}


def _resolved(weave: Weave) -> FlatGraph:
    return resolve(weave.document, weave.kinds)


def _raise_failure(outcome: Outcome) -> None:
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
    weave=Weave, folder="path", format="text", maps="texts", name="text", normal_y="text",
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
    overwrite: bool = True,
    stop: Stop | None = None,
    progress: Progress | None = None,
) -> list[Path]:
    """Write the map set as files, each whole or not at all, and return their paths.

    Parameters
    ----------
    folder : path
        Made if it is not there.
    size, format, name, normal_y : optional
        As the weave's own recipe where not given; formats are listed in `delivery.encode.FORMATS`.
    maps : iterable of str, optional
        Channels to write; all tied ones by default.
    overwrite : bool
        If false, a file that is there already is an error and nothing is written.
    """
    return deliver_weave(
        weave.document,
        _resolved(weave),
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
