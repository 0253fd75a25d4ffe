"""Evaluation: what is computed, kept, stopped and said."""

from __future__ import annotations

import threading

import numpy as np
import pytest

import reedloom as rl
from reedloom.loom.background import Background, Report, Stage
from reedloom.loom.cache import Cache
from reedloom.loom.run import evaluate_ends
from reedloom.weave.document import Document, End
from reedloom.weave.edits import AddNode, Connect, SetDocument, SetNode, SetParameters, Surface


def chain() -> Document:
    """Noise, blur, levels, normal, hanging on one another."""
    document = Document()
    for node, kind in (
        ("noise", "gradient_noise"),
        ("soft", "blur"),
        ("tone", "levels"),
        ("normal", "normal"),
    ):
        document = AddNode(node, kind).apply(document)
    for source, target in (
        ("noise.noise", "soft.map"),
        ("soft.map", "tone.map"),
        ("tone.map", "normal.height"),
    ):
        a, b = (End(node=t.split(".")[0], port=t.split(".")[1]) for t in (source, target))
        document = Connect(a, b).apply(document)
    return document


LAST = End(node="normal", port="normal")


def computed(document: Document, cache: Cache, size: int = 32) -> set[str]:
    """Which nodes a run really computed: those whose result was not kept before."""
    before = {key for key, _ in cache._entries}
    evaluate_ends(document, [LAST], size, cache=cache)
    from reedloom.loom.keys import node_keys
    from reedloom.weave.graph import inputs_by_node, upstream_order

    order = upstream_order(document, ["normal"])
    keys = node_keys(document, order, inputs_by_node(document), (size, size))
    return {node for node in order if keys[node] not in before}


def test_only_what_changed_is_computed() -> None:
    cache, document = Cache(), chain()
    assert computed(document, cache) == {"noise", "soft", "tone", "normal"}
    assert computed(document, cache) == set()
    assert computed(SetParameters("tone", {"gamma": 2.0}).apply(document), cache) == {"tone", "normal"}
    assert computed(SetDocument(surface=Surface(depth=0.3)).apply(document), cache) == {"normal"}
    assert computed(SetNode("soft", name="Softer").apply(document), cache) == set()
    assert computed(document, cache, size=64) == {"noise", "soft", "tone", "normal"}


def test_unwanted_outputs_are_not_computed_and_can_come_later() -> None:
    document, cache = AddNode("cells", "cellular_noise").apply(Document()), Cache()
    evaluate_ends(document, [End(node="cells", port="nearest")], 16, cache=cache)
    assert {port for _, port in cache._entries} == {"nearest"}
    evaluate_ends(document, [End(node="cells", port="border")], 16, cache=cache)
    assert {port for _, port in cache._entries} == {"nearest", "border"}


def test_the_cache_keeps_to_its_budget_and_lets_cheap_bulky_things_go_first() -> None:
    cache = Cache(budget=10_000)
    cache.put(("dear", "a"), np.zeros(1000, np.float32), seconds=1.0)
    for number in range(20):
        cache.put((f"cheap{number}", "a"), np.zeros(1000, np.float32), seconds=0.001)
    assert cache.held <= 10_000
    assert cache.get(("dear", "a")) is not None
    assert cache.get(("cheap0", "a")) is None
    cache.put(("huge", "a"), np.zeros(5000, np.float32), seconds=0.1)
    assert cache.held <= 10_000


def test_a_delivery_frees_what_nobody_needs_any_more() -> None:
    cache = Cache()
    outcome = evaluate_ends(chain(), [LAST], 32, cache=cache, keep=False)
    assert len(cache) == 0 and list(outcome.results) == [LAST]


def test_a_failing_node_keeps_its_reason_and_the_rest_goes_on() -> None:
    document = chain()
    document = AddNode("other", "disc").apply(AddNode("lonely", "blur").apply(document))
    document = AddNode("after", "levels").apply(document)
    document = Connect(End(node="lonely", port="map"), End(node="after", port="map")).apply(document)
    ends = [LAST, End(node="after", port="map"), End(node="other", port="mask")]
    outcome = evaluate_ends(document, ends, 16, cache=Cache())
    assert outcome.failures == {"lonely": "Tie something to: Map.", "after": "It waits for 'Blur'."}
    assert set(outcome.results) == {LAST, End(node="other", port="mask")}


def test_a_muted_node_passes_its_first_input_on() -> None:
    document = SetNode("soft", muted=True).apply(chain())
    ends = [End(node="noise", port="noise"), End(node="soft", port="map")]
    outcome = evaluate_ends(document, ends, 16, cache=Cache())
    assert np.array_equal(*outcome.results.values())
    quiet = SetNode("noise", muted=True).apply(document)
    assert not evaluate_ends(quiet, ends, 16, cache=Cache()).results[ends[0]].any()


def test_grey_and_colour_convert_on_the_way() -> None:
    weave = rl.Weave()
    paint, level = weave.add("solid", colour=(0.2, 0.4, 0.6)), weave.add("number", value=0.5)
    mix = weave.add("blend", mode="average")
    weave.connect(paint, f"{mix}.below")
    weave.connect(level, f"{mix}.above")
    assert rl.evaluate(weave, mix, 4)[0, 0] == pytest.approx([0.35, 0.45, 0.55])
    cut = weave.add("threshold", level=0.3)
    weave.connect(paint, cut)
    assert rl.evaluate(weave, cut, 4).shape == (4, 4)
    weave.tie(level, "base_colour")
    weave.tie(paint, "roughness")
    maps = rl.evaluate_maps(weave, 4)
    assert maps["base_colour"].shape == (4, 4, 3)
    assert maps["roughness"][0, 0] == pytest.approx(0.2 * 0.2126 + 0.4 * 0.7152 + 0.6 * 0.0722, abs=1e-5)


def test_results_are_read_only_and_sizes_checked() -> None:
    weave = rl.Weave()
    disc = weave.add("disc")
    array = rl.evaluate(weave, disc, (12, 7))
    assert array.shape == (7, 12)
    with pytest.raises(ValueError, match="read-only"):
        array[0, 0] = 1
    for size in (0, 8193, -5, (16, 0)):
        with pytest.raises(rl.ReedError, match="from 1 to 8192"):
            rl.evaluate(weave, disc, size)
    lonely = weave.add("blur")
    with pytest.raises(
        rl.EvaluationError, match="Node 'blur_1' could not be computed: Tie something to: Map"
    ):
        rl.evaluate(weave, lonely, 8)


def test_stopping_from_another_thread_keeps_nothing() -> None:
    document, cache, stop = chain(), Cache(), rl.Stop()
    begun = threading.Event()

    def on_progress(share: float) -> None:
        begun.set()

    def ask() -> None:
        begun.wait(10)
        stop.set()

    asker = threading.Thread(target=ask)
    asker.start()
    with pytest.raises(rl.Cancelled):
        for _ in range(50):
            evaluate_ends(document, [LAST], 1500, cache=Cache(0), stop=stop, progress=on_progress)
    asker.join()
    assert len(cache) == 0


def test_the_background_always_ends_with_the_newest_document() -> None:
    reports: list[Report] = []
    done = threading.Event()

    def take(report: Report) -> None:
        reports.append(report)
        if report.current and report.stage.name == "full" and report.job.document is newest:
            done.set()

    background = Background(on_report=take)
    document = chain()
    newest = document
    for step in range(30):
        newest = SetParameters("noise", {"seed": step}).apply(document)
        background.submit(
            newest, (Stage("coarse", (LAST,), (32, 32), patient=True), Stage("full", (LAST,), (128, 128)))
        )
    errand = threading.Event()
    background.add_errand(lambda stop: errand.set())
    assert done.wait(30) and errand.wait(30)
    background.close()
    fulls = [r for r in reports if r.stage.name == "full"]
    assert fulls[-1].job.document is newest and len(fulls) < 30
