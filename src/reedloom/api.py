"""The public functions; `reedloom` itself offers them under short names."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

import numpy as np

from reedloom.delivery.recipe import deliver_document
from reedloom.errors import EvaluationError
from reedloom.kernels.jit import Stop
from reedloom.kit.channels import CHANNELS
from reedloom.kit.values import convert
from reedloom.loom.run import Outcome, evaluate_ends
from reedloom.weave.graph import parse_end
from reedloom.weave.weave import Weave

Size = int | tuple[int, int]
Progress = Callable[[float], None]


def evaluate(
    weave: Weave, output: str, size: Size = 512, *, stop: Stop | None = None, progress: Progress | None = None
) -> Any:
    """One output of a weave as an array.

    Parameters
    ----------
    output : str
        "node" or "node.port"; the first output is the default.
    size : int or (width, height)
        Samples of the tile, 1 to 8192.
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
    end = parse_end(weave.document, output, output=True)
    outcome = evaluate_ends(weave.document, [end], size, stop=stop, progress=progress)
    _raise_failure(outcome)
    return outcome.results[end]


def evaluate_maps(
    weave: Weave, size: Size = 1024, *, stop: Stop | None = None, progress: Progress | None = None
) -> dict[str, np.ndarray]:
    """Every map tied to the map rail, by channel: grey (H, W) or colour (H, W, 3) float32."""
    ties = weave.document.ties
    outcome = evaluate_ends(weave.document, ties.values(), size, stop=stop, progress=progress)
    _raise_failure(outcome)
    return {c: convert(outcome.results[ties[c]], CHANNELS[c].data) for c in CHANNELS if c in ties}


def _raise_failure(outcome: Outcome) -> None:
    for node, reason in outcome.failures.items():
        raise EvaluationError(node, reason)


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
        As the weave's own recipe where not given; formats are listed in `deliver.recipe.FORMATS`.
    maps : iterable of str, optional
        Channels to write; all tied ones by default.
    overwrite : bool
        If false, a file that is there already is an error and nothing is written.
    """
    return deliver_document(
        weave.document,
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
