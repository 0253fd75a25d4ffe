"""Drawn paths as values: what hands do with them, and what is refused."""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from itertools import pairwise

import pytest

from reedloom.errors import ValueRangeError
from reedloom.kit import drawing
from reedloom.kit.parameters import DrawnPaths
from reedloom.kit.parameters.drawn import Drawn

PARAMETER = DrawnPaths("paths", (), help="Paths.")
OPEN = ((0.1, 0.1), (0.4, 0.2), (0.7, 0.1), (0.9, 0.3))
RING = ((0.3, 0.3), (0.6, 0.3), (0.6, 0.6), (0.3, 0.6), (0.3, 0.3))
ACROSS = ((0.2, 0.7), (0.6, 0.8), (1.2, 0.7))


def drawn(*paths: object) -> Drawn:
    """Paths in their plain form."""
    return PARAMETER.check(paths)


def places(path: tuple[tuple[float, ...], ...]) -> list[tuple[float, float]]:
    """The places of a path's knots."""
    return [(k[0], k[1]) for k in path]


def test_a_knot_needs_only_its_place_and_wrong_ones_are_refused_in_a_sentence() -> None:
    assert drawn(OPEN)[0][0] == (0.1, 0.1, 0.0, 1.0, 1.0)
    for wrong in (
        [[(0.1,)]],
        [[(0.1, "x")]],
        3,
        [[(0.1, 0.2, 2.0)]],
        [[(0, 0, 0, -1)]],
        [[(99, 0)]],
        [[(0.0, float("nan"))]],
        [[(0, 0)]] * 2000,
    ):
        with pytest.raises(ValueRangeError, match="paths"):
            PARAMETER.check(wrong)


def test_what_ends_where_it_began_or_tiles_from_there_is_closed() -> None:
    paths = drawn(OPEN, RING, ACROSS, ((0.0, 0.5), (1.0, 0.5)), ((0.5, 0.5), (0.5, 0.5)))
    assert [drawing.closing_of(path) for path in paths] == [None, (0, 0), (1, 0), (1, 0), None]
    assert [len(drawing.knots_of(path)) for path in paths] == [4, 4, 2, 1, 2]


def test_moving_the_first_knot_of_a_closed_path_keeps_it_closed() -> None:
    for path in (RING, ACROSS):
        moved = drawing.moved(drawn(path), frozenset({(0, 0)}), 0.05, -0.02)[0]
        assert drawing.closing_of(moved) == drawing.closing_of(drawn(path)[0])
        assert moved[0][0] == pytest.approx(path[0][0] + 0.05) and moved[1] == drawn(path)[0][1]


def test_a_full_turn_and_twice_half_the_size_bring_paths_back() -> None:
    paths = drawn(OPEN, ACROSS)
    every = drawing.all_of(paths, (0, 1))
    back = drawing.turned(paths, every, 0.0, 1.0, 0.5)
    for _ in range(6):
        back = drawing.turned(back, every, 60.0, 1.0, 0.5)
    back = drawing.turned(drawing.turned(back, every, 0.0, 0.5, 0.5), every, 0.0, 2.0, 0.5)
    for one, other in zip(paths, back, strict=True):
        for a, b in zip(one, other, strict=True):
            assert a == pytest.approx(b, abs=1e-5)
    # On a tile half as high as wide a quarter turn makes of 0.2 across 0.4 down.
    level = drawn(((0.4, 0.5), (0.6, 0.5)))
    quarter = drawing.turned(level, drawing.all_of(level, (0,)), 90, 1, 0.5)
    assert places(quarter[0]) == [pytest.approx((0.5, 0.3)), pytest.approx((0.5, 0.7))]


def test_cutting_parts_an_open_path_and_opens_a_closed_one() -> None:
    apart = drawing.cut(drawn(OPEN), frozenset({(0, 1)}))
    assert [places(path) for path in apart] == [list(OPEN[:2]), list(OPEN[2:])]
    opened = drawing.cut(drawn(RING), frozenset({(0, 1)}))
    assert [places(path) for path in opened] == [[RING[2], RING[3], RING[0], RING[1]]]
    over = drawing.cut(drawn(ACROSS), frozenset({(0, 0)}))
    assert places(over[0]) == [(0.6, 0.8), (1.2, 0.7)]
    assert len(drawing.cut(drawn(OPEN), drawing.all_of(drawn(OPEN), (0,)))) == 0


def test_joining_goes_the_shortest_way_around_the_tile_and_closes_a_path_of_its_own() -> None:
    found = drawing.joined(drawn(OPEN, ((0.15, 0.35), (0.4, 0.5))), frozenset({(0, 3), (1, 0)}))
    assert found is not None
    (whole,) = found[0]
    assert places(whole)[:4] == list(OPEN) and places(whole)[4:] == [(1.15, 0.35), (1.4, 0.5)]
    turned = drawing.joined(drawn(OPEN, ((0.3, 0.3), (0.1, 0.1))), frozenset({(0, 0), (1, 1)}))
    assert turned is not None  # ends in one place become one knot
    assert places(turned[0][0]) == [*reversed(OPEN), (0.3, 0.3)]
    closed = drawing.joined(drawn(OPEN), frozenset({(0, 0), (0, 3)}))
    assert closed is not None and drawing.closing_of(closed[0][0]) == (1, 0)
    assert drawing.joined(drawn(OPEN), frozenset({(0, 1), (0, 3)})) is None
    assert drawing.joined(drawn(RING), frozenset({(0, 0), (0, 3)})) is None


def test_a_path_goes_on_from_either_end_and_closes_on_its_other() -> None:
    paths, chosen = drawing.continued(drawn(OPEN), 0, 3, 1.1, 0.1)
    assert drawing.closing_of(paths[0]) == (1, 0) and chosen == {(0, 0)}
    paths, chosen = drawing.continued(drawn(OPEN), 0, 0, 0.0, 0.0)
    assert places(paths[0])[0] == (0.0, 0.0) and chosen == {(0, 0)} and len(paths[0]) == 5
    paths, chosen = drawing.begun((), 0.2, 0.2)
    paths, chosen = drawing.continued(paths, 0, 0, 0.4, 0.2)
    assert places(paths[0]) == [(0.2, 0.2), (0.4, 0.2)] and chosen == {(0, 1)}


def test_places_are_drawn_to_ends_on_any_tile_and_to_the_edges() -> None:
    paths = drawn(OPEN)
    reach = (0.02, 0.02)
    assert drawing.snapped(paths, drawing.NONE, 1.11, 0.09, reach) == pytest.approx((1.1, 0.1))
    assert drawing.snapped(paths, frozenset({(0, 0)}), 1.11, 0.09, reach) == (1.11, 0.09)
    assert drawing.snapped(paths, drawing.NONE, 0.99, 0.5, reach) == (1.0, 0.5)
    assert drawing.snapped(drawn(RING), drawing.NONE, 0.31, 0.3, reach) == (0.31, 0.3)


def test_few_knots_stand_for_what_a_hand_drew() -> None:
    hand = [(0.1 + 0.001 * i, 0.5 + 0.2 * math.sin(0.012 * i)) for i in range(600)]
    kept = drawing.simplified(hand, 0.004)
    assert len(kept) < 20 and kept[0] == hand[0] and kept[-1] == hand[-1]
    for u, v in hand:
        away = min(
            abs((b[0] - a[0]) * (v - a[1]) - (b[1] - a[1]) * (u - a[0])) / math.dist(a, b)
            for a, b in pairwise(kept)
            if a[0] <= u <= b[0]
        )
        assert away <= 0.004 + 1e-9


def some_change(chance: random.Random, paths: Drawn, chosen: drawing.Chosen) -> drawing.Change:
    """What one of all changes makes of paths."""
    p, k = min(chosen)
    changes: tuple[Callable[[], drawing.Change], ...] = (
        lambda: (drawing.cut(paths, chosen), drawing.NONE),
        lambda: (drawing.removed(paths, chosen), drawing.NONE),
        lambda: drawing.joined(paths, chosen) or (paths, chosen),
        lambda: drawing.from_end_to_start(paths, chosen),
        lambda: drawing.doubled(paths, chosen),
        lambda: drawing.added(paths, p, k, chance.random(), chance.random()),
        lambda: (drawing.sharpened(paths, chosen), chosen),
    )
    return chance.choice(changes)()


def test_whatever_hands_do_is_a_legal_value_and_chosen_knots_are_there() -> None:
    chance = random.Random(4)
    for _ in range(300):
        paths = PARAMETER.check(PARAMETER.draw(chance))
        for _ in range(6):
            every = sorted(drawing.all_of(paths, range(len(paths))))
            if not every:
                break
            chosen = frozenset(chance.sample(every, chance.randint(1, min(3, len(every)))))
            found, now_chosen = some_change(chance, paths, chosen)
            paths = PARAMETER.check(found)
            assert paths == found
            assert drawing.still_there(paths, now_chosen) == now_chosen
