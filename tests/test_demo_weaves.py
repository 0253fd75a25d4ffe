"""The shipped weaves: each computes, tiles, keeps its looks at every size, and is tidy on the board."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from reedloom.data import shipped_weaves
from reedloom.kit.channels import CHANNELS
from reedloom.kit.values import convert
from reedloom.loom.cache import Cache
from reedloom.weave.document import Document
from reedloom.weave.fileformat import load_document
from weaving import evaluate

WEAVES = [pytest.param(path, id=name) for name, path in shipped_weaves().items()]
EVERYDAY = {"base_colour", "roughness", "normal", "height", "ambient_occlusion"}


def maps_of(document: Document, size: int) -> dict[str, np.ndarray]:
    """All maps of a weave; nothing may fail."""
    outcome = evaluate(document, document.graph.ends.values(), size, cache=Cache())
    assert not outcome.failures
    return {c: convert(outcome.results[end], CHANNELS[c].data) for c, end in document.graph.ends.items()}


@pytest.mark.parametrize("path", WEAVES)
def test_shipped_weaves_make_whole_map_sets_that_tile(path) -> None:  # type: ignore[no-untyped-def]
    document = load_document(path)
    assert document.graph.ends.keys() >= EVERYDAY
    maps = maps_of(document, 192)
    for channel, map in maps.items():
        assert np.isfinite(map).all() and map.min() > -0.05 and map.max() < 1.3, channel
        for axis in (0, 1):
            steps = np.abs(np.diff(map, axis=axis, append=map.take([0], axis=axis)))
            sizes = steps.mean(axis=tuple(i for i in range(map.ndim) if i != axis))
            # The seam is a step like all others.
            assert sizes[-1] <= 1.15 * sizes[:-1].max() + 1e-4, (channel, axis)
    assert np.ptp(maps["height"]) > 0.2 and maps["base_colour"].std() > 0.02
    normal = maps["normal"] * 2 - 1
    assert np.allclose((normal**2).sum(axis=-1), 1, atol=0.02)


@pytest.mark.parametrize("path", WEAVES)
def test_shipped_weaves_look_the_same_at_every_size(path) -> None:  # type: ignore[no-untyped-def]
    document = load_document(path)
    small, large = (maps_of(document, n) for n in (128, 256))
    for channel in ("height", "base_colour", "roughness"):
        rows, columns = small[channel].shape[:2]
        fours = large[channel].reshape(rows, 2, columns, 2, -1)
        averaged = fours.mean(axis=(1, 3)).reshape(small[channel].shape)
        error = np.sqrt(np.mean((averaged - small[channel]) ** 2))
        # Many steps in a row, some of them edges finer than these samples.
        assert error < 0.12 * np.ptp(averaged), (channel, error)
        assert abs(averaged.mean() - small[channel].mean()) < 0.03, channel


@pytest.mark.parametrize("path", WEAVES)
def test_shipped_weaves_are_tidy(path) -> None:  # type: ignore[no-untyped-def]
    document = load_document(path)
    names = [node.name for node in document.graph.nodes.values()]
    assert all(names) and len(set(names)) == len(names)
    assert len(document.graph.nodes) >= 30 and document.graph.notes and document.graph.bays
    for node in document.graph.nodes.values():
        x, y = node.x + 63, node.y + 67  # a card's middle
        around = [
            bay
            for bay in document.graph.bays.values()
            if bay.x <= x <= bay.x + bay.width and bay.y <= y <= bay.y + bay.height
        ]
        assert len(around) == 1, node.name
    for one, other in itertools.combinations(document.graph.nodes.values(), 2):
        assert abs(one.x - other.x) >= 120 or abs(one.y - other.y) >= 130, (one.name, other.name)
