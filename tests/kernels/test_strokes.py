"""Short pieces of a stroke looked at together, against each by itself."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import pytest

import reedloom.kit.context
from reedloom.kernels.points import starts_of
from reedloom.kernels.stroke_pieces import Pieces
from reedloom.kernels.strokes import AREAS, Brush, Drawn, fill_areas, stroke_rows
from reedloom.kinds.path.draw_paths import courses_of
from reedloom.kinds.path.path_parts import make_paths
from reedloom.kit import Context
from reedloom.kit.kind import run_kind
from weaving import KINDS

WIDTH, HEIGHT = 96, 48


def winding(corners: int, seed: int) -> np.ndarray:
    """Paths that wind around the tile and over its seams, now wider and now narrower, some of few corners."""
    chance = np.random.default_rng(seed)
    courses = []
    for count in (corners, corners // 3, 6, 3, 2):
        t = np.linspace(0, 1, count)
        a, b, c = chance.uniform(0.2, 1.2, 3)
        courses.append((a + 0.3 * np.cos(9 * t * b) + 0.4 * t, c + 0.35 * np.sin(7 * t * a) - 0.3 * t))
    paths = make_paths(courses)
    paths["width"] = 0.6 + 0.4 * np.sin(np.arange(len(paths)) / 11)
    paths["height"] = chance.uniform(0.5, 1, len(paths))
    return paths


def drawn_with(pieces: Pieces, courses: object, rows: int) -> Drawn:
    """All paths drawn in bands of so many rows."""
    areas = np.empty(AREAS)
    fill_areas(1, np.zeros(2, np.float32), np.zeros(3), areas)
    brush = Brush(1, np.zeros(2, np.float32), areas, 1, np.float32(0), np.float32(0), True, True)
    empty = (np.zeros((HEIGHT, WIDTH), np.float32) for _ in range(4))
    drawn = Drawn(*empty, np.full((HEIGHT, WIDTH), -1, np.int32))
    for y0 in range(0, HEIGHT, rows):
        stroke_rows(np.arange(5), courses, pieces, brush, drawn, y0, min(y0 + rows, HEIGHT))
    return drawn


@pytest.mark.parametrize("width", [0.01, 0.06, 0.3])
@pytest.mark.parametrize("rows", [HEIGHT, 7])
def test_pieces_looked_at_together_draw_what_each_draws_by_itself(width: float, rows: int) -> None:
    for seed, corners in enumerate((300, 900, 4000)):
        paths = winding(corners, seed)
        values = KINDS.get("draw_paths").defaults() | {"width": width}
        courses = courses_of(Context(WIDTH, HEIGHT), paths, starts_of(paths), values)
        pieces = Pieces.of(courses, (HEIGHT, WIDTH))
        assert pieces.together.any()
        alone = drawn_with(pieces._replace(together=np.zeros_like(pieces.together)), courses, rows)
        for map, wanted in zip(drawn_with(pieces, courses, rows), alone, strict=True):
            assert np.abs(map - wanted).max() < 1e-4
            assert wanted.max() > 0.3


def test_many_corners_are_drawn_in_bands_that_others_share_in_on_small_maps_too(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """What a small map takes is told by its corners, and the picture is the same in any bands."""
    kind, told = KINDS.get("draw_paths"), []
    plain = reedloom.kit.context.run_bands

    def noted(band: Callable[[int, int], None], rows: int, **how: Any) -> None:
        told.append(-(-rows // how["band_rows"]))
        plain(band, rows, **how)

    def draw(corners: int) -> np.ndarray:
        context = Context(WIDTH, WIDTH, wanted=frozenset(["height"]), threads=1)
        return run_kind(kind, context, {"paths": winding(corners, 2)}, kind.defaults()).outputs["height"]

    monkeypatch.setattr("reedloom.kit.context.run_bands", noted)
    draw(60)
    parted = draw(90_000)
    monkeypatch.setattr("reedloom.kinds.path.draw_paths.CORNER_WORK", 0)
    whole = draw(90_000)
    assert told == [1, 3, 1] and np.abs(parted - whole).max() < 1e-4
