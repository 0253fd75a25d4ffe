"""Dragged values in the open window: some parameters of some nodes of every demo weave."""

from __future__ import annotations

import os
import random
from collections.abc import Iterator
from functools import partial
from typing import TYPE_CHECKING, Any

from benchmarks.disturbance import undisturbed
from benchmarks.timing import Row, limited
from benchmarks.window import rest, seconds_to_pictures, settle
from reedloom.data import shipped_weaves
from reedloom.weave.document import Document
from reedloom.weave.graph import inputs_by_node, upstream_order
from weaving import KINDS  # type: ignore[import-not-found]

if TYPE_CHECKING:
    from reedloom.desk.frame.window import Window

DRAGS = 40
"""Parameters dragged in each weave."""
COARSE, FULL = (0.04, 0.08), (0.15, 0.35)
"""Seconds that the median, and nine of ten, may take."""


def rows() -> Iterator[Row]:
    """Four rows for each demo weave, and four over all."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    taken: list[tuple[float, float]] = []
    for name, path in shipped_weaves().items():
        some = drag_some(path)
        taken += some
        yield from rows_of(name, some)
    yield from rows_of("every demo weave", taken)


def rows_of(name: str, taken: list[tuple[float, float]]) -> Iterator[Row]:
    """Median and ninth of ten, of the coarse picture and of the full one."""
    for number, (picture, limits) in enumerate((("coarse", COARSE), ("full 512²", FULL))):
        seconds = sorted(pair[number] for pair in taken)
        yield limited(f"{name}, a value dragged, {picture}, median", seconds[len(seconds) // 2], limits[0])
        yield limited(
            f"{name}, a value dragged, {picture}, nine of ten", seconds[len(seconds) * 9 // 10], limits[1]
        )


def numbers_of(document: Document) -> list[tuple[str, str]]:
    """Every number that a slider moves, as node and parameter, of nodes that the outputs need."""
    needed = upstream_order(
        inputs_by_node(document.graph), [end.node for end in document.graph.ends.values()]
    )
    return [
        (node_id, parameter.name)
        for node_id in needed
        for parameter in KINDS.of(document.graph.nodes[node_id]).parameters
        if parameter.is_number
    ]


def drag_some(path: Any) -> list[tuple[float, float]]:
    """Seconds to the coarse and to the full picture for each of some drags."""
    from reedloom.desk.frame.app import make_application
    from reedloom.desk.frame.window import Window

    make_application()
    window = Window()
    window.show()
    w = window.workplace
    window.documents.open_now(path, as_copy=True)
    settle(w)
    chance, found = random.Random(path.stem), []
    choices = numbers_of(w.document)
    for node_id, name in chance.sample(choices, min(DRAGS, len(choices))):
        seen = undisturbed(partial(drag, window, node_id, name, chance))
        rest(150)
        w.session.drop_preview()
        rest(150)
        if seen.keys() >= {"coarse", "full"}:  # else the value changes nothing, or was seen before
            found.append((seen["coarse"], seen["full"]))
    w.session.mark_saved()
    window.close()
    return found


def drag(window: Window, node_id: str, name: str, chance: random.Random) -> dict[str, float]:
    """Drag a number to some value within its useful range; seconds to each picture.

    Each time to another one: what was seen before is kept, and would not be computed.
    """
    from reedloom.weave.edits import SetParameters

    parameter = KINDS.of(window.workplace.document.graph.nodes[node_id]).parameter(name)
    low, high = parameter.useful
    value = round(chance.uniform(low, high)) if parameter.is_whole else chance.uniform(low, high)
    return seconds_to_pictures(window, SetParameters(node_id, {name: parameter.plain(value)}))
