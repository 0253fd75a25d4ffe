"""What flows through threads besides maps: points, paths, islands and materials."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import reedloom as rl
from reedloom.errors import ReedError
from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import POINT, VERTEX, make_points, read_at
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.context import Context
from reedloom.kit.data import COLOUR, GREY, ISLANDS, MATERIAL, PATHS, POINTS, VECTOR, Data, Material
from reedloom.kit.ports import Role
from reedloom.kit.values import convert, data_of, frozen
from reedloom.laws.draws import some_islands, some_paths, some_points
from reedloom.loom.cache import Cache
from reedloom.preview.stand_ins import as_map
from reedloom.weave.document import End
from reedloom.weave.edits import SetNode
from reedloom.weave.graph import carried_channels, output_data
from weaving import KINDS, evaluate, sample

EXAMPLES: dict[Data, Any] = {
    GREY: np.full((4, 6), 0.5),
    COLOUR: np.full((4, 6, 3), 0.5, np.float32),
    VECTOR: np.zeros((4, 6, 2), np.float32),
    POINTS: some_points(),
    PATHS: some_paths(),
    ISLANDS: some_islands(6, 4),
    MATERIAL: Material(height=np.zeros((4, 6)), base_colour=np.ones((4, 6, 3))),
}


@pytest.mark.parametrize("data", list(EXAMPLES), ids=lambda d: d.word)
def test_every_kind_of_data_is_told_apart_frozen_and_shown(data: Data) -> None:
    value = frozen(EXAMPLES[data])
    assert data_of(value) == data
    arrays = list(value.values()) if isinstance(value, Material) else [value]
    for array in arrays:
        assert not array.flags.writeable and array.flags.c_contiguous
        assert array.dtype in {np.dtype(np.float32), np.dtype(np.int32), POINT, VERTEX}
    shown = as_map(value, 6, 4)
    assert shown.shape[:2] == (4, 6) and np.isfinite(shown).all()
    assert convert(value, data) is value


def test_only_grey_and_colour_turn_into_one_another() -> None:
    for data, value in EXAMPLES.items():
        for wanted in (GREY, COLOUR, VECTOR, POINTS, PATHS, ISLANDS, MATERIAL):
            if data == wanted or {data, wanted} == {GREY, COLOUR}:
                assert data_of(convert(frozen(value), wanted)) == wanted
            else:
                with pytest.raises(ReedError, match="cannot become"):
                    convert(frozen(value), wanted)


@pytest.mark.parametrize("size", [(5, 3), (600, 200)])
def test_large_maps_are_converted_as_small_ones(size: tuple[int, int]) -> None:
    width, height = size
    colour = frozen(np.random.default_rng(3).uniform(-1, 2, (height, width, 3)))
    for value, wanted in ((colour, GREY), (frozen(colour[..., 1]), COLOUR)):
        found = convert(value, wanted, Context(width, height).map_bands)
        assert found == pytest.approx(convert(value, wanted), abs=1e-6)
        assert not found.flags.writeable and data_of(found) == wanted


def test_marks_show_points_where_they_are_and_which_way_they_face() -> None:
    points = make_points(np.array([0.25, 0.75]), np.array([0.25, 0.75]))
    points["turn"] = [0.0, 90.0]
    shown = as_map(points, 200, 200)
    assert shown[50, 50] == 1 and shown[150, 150] == 1 and shown[100, 100] == 0
    to_right, below = shown[50, 50:80].sum(), shown[50:80, 50].sum()
    assert to_right > 1.5 * below
    assert shown[150:180, 150].sum() > 1.5 * shown[150, 150:180].sum()
    assert as_map(points[:0], 32, 32).max() == 0
    line = as_map(some_paths(), 128, 128)
    assert line[int(0.3 * 128), 0] > 0.3 and line[5, 60] == 0


def test_islands_are_shown_in_colours_of_their_own() -> None:
    labels = some_islands(64, 64)
    shown = as_map(labels, 64, 64)
    assert (shown[labels == 0] == 0).all()
    colours = {tuple(np.round(shown[labels == k][0], 3)) for k in range(1, labels.max() + 1)}
    assert len(colours) == labels.max()


def test_chances_are_even_and_belong_to_their_ids_alone() -> None:
    ids = np.arange(40_000) * 977
    chance = unit_chances(3, ids)
    assert chance.min() >= 0 and chance.max() < 1
    assert np.abs(np.histogram(chance, 20, (0, 1))[0] / 2000 - 1).max() < 0.1
    assert np.array_equal(unit_chances(3, ids[::7]), chance[::7])
    other = unit_chances(3, ids, 1)
    assert (
        abs(np.corrcoef(chance, other)[0, 1]) < 0.02
        and abs(np.corrcoef(chance[1:], chance[:-1])[0, 1]) < 0.02
    )


def test_maps_are_read_at_points_between_their_samples_and_around_the_tile() -> None:
    map = np.arange(12, dtype=np.float32).reshape(3, 4)
    u, v = (np.arange(4) + 0.5) / 4, np.full(4, 0.5)
    assert np.allclose(read_at(map, u, v), map[1])
    assert np.allclose(read_at(map, np.array([1.0]), np.array([0.5])), (map[1, 3] + map[1, 0]) / 2)
    assert read_at(np.stack([map] * 3, axis=-1), u, v).shape == (4, 3)


def test_a_muted_node_passes_on_what_fits_or_nothing() -> None:
    for kind_id in ("vary_points", "keep_islands", "mix_materials", "path_points", "stamp"):
        document, _ = sample(kind_id)
        document = SetNode("shown", muted=True).apply(document, KINDS)
        ends = [End(node="shown", port=p.name) for p in KINDS.of(document.graph.nodes["shown"]).outputs]
        outcome = evaluate(document, ends, 32, cache=Cache())
        assert not outcome.failures
        for end in ends:
            assert data_of(outcome.results[end]) & output_data(document.graph, KINDS)["shown", end.port]
    document, _ = sample("vary_points")
    muted = SetNode("shown", muted=True).apply(document, KINDS)
    first, end = document.graph.incoming("shown")["points"], End(node="shown", port="points")
    passed = evaluate(muted, [first, end], 32, cache=Cache()).results
    assert np.array_equal(passed[first], passed[end])


def test_the_cache_counts_the_maps_of_a_material() -> None:
    document, end = sample("mix_materials")
    cache = Cache()
    made = evaluate(document, [end], 64, cache=cache).results[end]
    assert made.nbytes == 64 * 64 * 4 * 4 and cache.held >= made.nbytes
    small = Cache(1000)
    evaluate(document, [end], 64, cache=small)
    assert small.held <= 1000


def test_points_and_materials_are_tied_only_where_they_fit() -> None:
    weave = rl.Weave()
    points, mix, noise = weave.add("scatter_points"), weave.add("mix_materials"), weave.add("gradient_noise")
    stamp, bound = weave.add("stamp"), weave.add("material")
    weave.connect(points, stamp)
    with pytest.raises(rl.ConnectError, match="gives points but"):
        weave.connect(points, f"{stamp}.drawing")
    with pytest.raises(rl.ConnectError, match="takes material"):
        weave.connect(noise, f"{mix}.below")
    with pytest.raises(rl.ConnectError, match="gives material but the map"):
        weave.tie(mix, "height")
    weave.connect(noise, f"{bound}.roughness")
    weave.connect(bound, f"{mix}.above")
    end = End(node=mix, port="material")
    assert carried_channels(weave.document.graph, KINDS, end) == ["roughness"]
    weave.connect(noise, f"{bound}.height")
    end = End(node=mix, port="material")
    assert carried_channels(weave.document.graph, KINDS, end) == [
        "roughness",
        "height",
    ]
    with pytest.raises(rl.ReedError):
        rl.evaluate(weave, mix, size=16)  # the material below is not tied
    laid = rl.evaluate(weave, points, size=16)
    assert laid.dtype == POINT and len(laid) == 200


@pytest.mark.parametrize(
    "kind", [k for k in built_in_kinds() if k.outputs[0].data in {POINTS, PATHS}], ids=lambda k: k.id
)
def test_points_do_not_depend_on_the_size_of_the_map(kind: Any) -> None:
    if kind.id in {"map_points", "contour_path"}:
        return  # found among samples; their own tests say how well
    document, end = sample(kind.id)
    small, large = (evaluate(document, [end], n, cache=Cache()).results[end] for n in (48, 192))
    assert len(small) == len(large)
    if kind.outputs[0].data is PATHS and any(p.role is Role.WAY for p in kind.inputs):
        # Along a flow they go as finely as it is sampled, and may part where it does.
        assert np.median(np.abs(small["u"] - large["u"])) < 0.005
    elif kind.id != "island_points":  # centres of islands are as fine as their samples
        assert np.array_equal(small["u"], large["u"]) and np.array_equal(small["v"], large["v"])
    else:
        assert np.abs(small["u"] - large["u"]).max() < 0.02
