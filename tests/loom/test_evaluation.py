"""Evaluation: what is computed, kept, stopped and said."""

from __future__ import annotations

import gc
import pickle
import threading
import time
import tracemalloc
import weakref
from collections import Counter
from itertools import pairwise
from typing import Any

import numpy as np
import pytest

import reedloom as rl
from reedloom.kernels.curves import curve_table
from reedloom.kit.formulas import LARGEST
from reedloom.loom.background import TELL_EVERY, Background, Report, Stage
from reedloom.loom.cache import Cache
from reedloom.loom.plan import CONVERT, plan_ends
from reedloom.loom.run import evaluate_ends, shared_cache
from reedloom.loom.tasks import BEYOND, carry_out
from reedloom.weave.document import Document, End, Surface
from reedloom.weave.edits import AddNode, Connect, SetDocument, SetNode, SetParameters
from reedloom.weave.resolve import resolve
from weaving import KINDS, after, evaluate


def tie(source: str, target: str) -> Connect:
    """The edit that ties "node.port" to "node.port"."""
    return Connect(*(End(node=t.split(".")[0], port=t.split(".")[1]) for t in (source, target)))


def chain() -> Document:
    """Noise, blur, levels, normal, hanging on one another."""
    return after(
        Document(),
        AddNode("noise", "gradient_noise"),
        AddNode("soft", "blur"),
        AddNode("tone", "levels"),
        AddNode("normal", "normal"),
        tie("noise.noise", "soft.map"),
        tie("soft.map", "tone.map"),
        tie("tone.map", "normal.height"),
    )


LAST = End(node="normal", port="normal")


def counted(document: Document, cache: Cache, *ends: End, size: int = 32, **more: Any) -> Counter[str]:
    """How often each kind was really computed for some outputs."""
    ran: Counter[str] = Counter()
    evaluate(
        document, ends or (LAST,), size, cache=cache, on_task=lambda task: ran.update([task.kind]), **more
    )
    return ran


ALL_FOUR = Counter(["gradient_noise", "blur", "levels", "normal"])


def test_only_what_changed_is_computed() -> None:
    cache, document = Cache(), chain()
    assert counted(document, cache) == ALL_FOUR
    assert counted(document, cache) == {}
    changed = after(document, SetParameters("tone", {"gamma": 2.0}))
    assert counted(changed, cache) == Counter(["levels", "normal"])
    assert counted(after(document, SetDocument(surface=Surface(depth=0.3))), cache) == Counter(["normal"])
    assert counted(after(document, SetNode("soft", name="Softer")), cache) == {}
    assert counted(document, cache, size=64) == ALL_FOUR


def test_a_kept_end_needs_nothing_of_its_evicted_chain() -> None:
    """A budget of two maps and a chain of five: the second call takes the end and computes nothing."""
    document = after(chain(), AddNode("more", "blur"), tie("normal.normal", "more.map"))
    end, side = End(node="more", port="map"), 32
    cache = Cache(budget=2 * side * side * 3 * 4)
    assert sum(counted(document, cache, end).values()) == 5
    assert len(cache) < 5
    assert counted(document, cache, end) == {}
    longer = after(document, AddNode("last", "levels"), tie("more.map", "last.map"))
    assert counted(longer, cache, End(node="last", port="map")) == {"levels": 1}


def test_nodes_of_equal_content_are_computed_once() -> None:
    document = after(
        chain(), AddNode("twin", "gradient_noise", parameters={"seed": 0}), AddNode("mix", "blend")
    )
    document = after(document, tie("noise.noise", "mix.below"), tie("twin.noise", "mix.above"))
    ran = counted(document, Cache(), End(node="mix", port="map"), End(node="twin", port="noise"))
    assert ran == {"gradient_noise": 1, "blend": 1}


def test_conversions_are_kept_by_keys_of_their_own() -> None:
    """A colour's luminance is made once, for whoever needs it and whenever."""
    document = after(Document(), AddNode("paint", "solid"), AddNode("cut", "threshold"))
    document = after(document, AddNode("slope", "normal"), tie("paint.colour", "cut.map"))
    document = after(document, tie("paint.colour", "slope.height"))
    ends, cache = (End(node="cut", port="mask"), End(node="slope", port="normal")), Cache()
    assert counted(document, Cache(), *ends)[CONVERT] == 1
    assert counted(document, cache, ends[0])[CONVERT] == 1
    assert counted(document, cache, ends[1]) == {"normal": 1}


def test_a_plan_is_plain_data_that_can_be_carried_out_elsewhere() -> None:
    plan = plan_ends(resolve(chain(), KINDS), [LAST], (24, 16), Cache())
    tasks = pickle.loads(pickle.dumps(tuple(plan.tasks)))
    assert list(tasks) == plan.tasks
    made: dict[tuple[str, str], Any] = {}
    for task in tasks:
        inputs = {port: made[ref] for port, ref in task.inputs}
        result = carry_out(task, KINDS.exact(task.kind, task.version), inputs)
        made |= {(task.key, name): value for name, value in result.outputs.items()}
    wanted = evaluate(chain(), [LAST], (24, 16), cache=Cache()).results[LAST]
    assert np.array_equal(made[plan.asked[LAST]], wanted)


@pytest.mark.filterwarnings("ignore:overflow")
def test_maps_that_came_in_are_passed_on_and_others_are_held_within_measure() -> None:
    """A map beyond what 32 bits can tell is held, and goes on as it is."""
    document = after(
        Document(),
        AddNode("much", "formula"),
        AddNode("square", "blend"),
        AddNode("more", "blend"),
        AddNode("muted", "blur"),
        *(tie("much.map", f"square.{port}") for port in ("below", "above")),
        *(tie("square.map", f"more.{port}") for port in ("below", "above")),
        tie("more.map", "muted.map"),
        SetNode("muted", muted=True),
        SetParameters("much", {"formula": "1e18 + v"}),
        *(SetParameters(node, {"mode": "multiply"}) for node in ("square", "more")),
    )
    ends = [End(node=node, port="map") for node in ("more", "muted")]
    outcome = evaluate(document, ends, 16)
    more, muted = (outcome.results[end] for end in ends)
    assert more.max() == np.float32(LARGEST) and np.isfinite(more).all()
    assert muted is more and BEYOND in outcome.notes["more"]


def test_unwanted_outputs_are_not_computed_and_can_come_later() -> None:
    document, cache = after(Document(), AddNode("cells", "cellular_noise")), Cache()
    for port in ("nearest", "border"):
        ran = counted(document, cache, End(node="cells", port=port), size=16)
        assert ran == {"cellular_noise": 1} and ("cells", port) not in ran
    assert {port for _, port in cache._entries} == {"nearest", "border"}


def test_the_cache_keeps_to_its_budget_and_lets_cheap_bulky_things_go_first() -> None:
    cache = Cache(budget=10_000)
    cache.put(("dear", "a"), np.zeros(1000, np.float32), seconds=1.0)
    for number in range(20):
        cache.put((f"cheap{number}", "a"), np.zeros(1000, np.float32), seconds=0.001)
    assert cache.held <= 10_000
    assert cache.get(("dear", "a")) is not None
    assert cache.get(("cheap0", "a")) is None
    before = len(cache)
    cache.put(("huge", "a"), np.zeros(5000, np.float32), seconds=9.0)
    assert len(cache) == before and cache.get(("huge", "a")) is None  # nor has it flushed the others


def test_what_the_screen_holds_stays_and_counts() -> None:
    cache = Cache(budget=10_000)
    cache.put(("shown", "a"), np.zeros(1000, np.float32), seconds=0.0)
    cache.keep_in_use("a view", [("shown", "a")])
    cache.keep_in_use("another view", [("dear0", "a")])  # nor does one holder take another's away
    for number in range(9):
        cache.put((f"dear{number}", "a"), np.zeros(1000, np.float32), seconds=1.0)
    assert cache.get(("shown", "a")) is not None and cache.held <= 10_000
    cache.keep_in_use("a view", ())
    cache.keep_in_use("another view", ())
    cache.bound(4_000)
    assert cache.held <= 4_000 and len(cache) == 1


def test_scripts_bound_and_clear_the_cache() -> None:
    weave = rl.Weave()
    noise = weave.add("gradient_noise")
    budget = shared_cache().budget
    rl.clear_cache()  # what a window still has in use would stay
    try:
        rl.bound_cache(0.001)
        rl.evaluate(weave, noise, 64)
        assert shared_cache().held <= 1048
        rl.bound_cache(10)
        first = rl.evaluate(weave, noise, 64)
        assert rl.evaluate(weave, noise, 64) is first
        rl.clear_cache()
        assert rl.evaluate(weave, noise, 64) is not first
        for wrong in (-1, float("nan")):
            with pytest.raises(rl.ReedError, match="from 0 up"):
                rl.bound_cache(wrong)
    finally:
        shared_cache().bound(budget)


def test_a_delivery_frees_what_nobody_needs_any_more() -> None:
    cache = Cache()
    outcome = evaluate(chain(), [LAST], 32, cache=cache, keep=False)
    assert len(cache) == 0 and list(outcome.results) == [LAST]


def test_a_failing_node_keeps_its_reason_and_the_rest_goes_on() -> None:
    document = chain()
    document = after(document, AddNode("lonely", "blur"), AddNode("other", "disc"))
    document = AddNode("after", "levels").apply(document, KINDS)
    document = Connect(End(node="lonely", port="map"), End(node="after", port="map")).apply(document, KINDS)
    ends = [LAST, End(node="after", port="map"), End(node="other", port="mask")]
    outcome = evaluate(document, ends, 16, cache=Cache())
    assert outcome.failures == {"lonely": "Tie something to: Map.", "after": "It waits for 'Blur'."}
    assert set(outcome.results) == {LAST, End(node="other", port="mask")}


def test_a_muted_node_passes_its_first_input_on() -> None:
    document = SetNode("soft", muted=True).apply(chain(), KINDS)
    ends = [End(node="noise", port="noise"), End(node="soft", port="map")]
    outcome = evaluate(document, ends, 16, cache=Cache())
    assert np.array_equal(*outcome.results.values())
    quiet = SetNode("noise", muted=True).apply(document, KINDS)
    assert not evaluate(quiet, ends, 16, cache=Cache()).results[ends[0]].any()


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
            evaluate(document, [LAST], 1500, cache=Cache(0), stop=stop, progress=on_progress)
    asker.join()
    assert len(cache) == 0


def test_the_background_always_ends_with_the_newest_document() -> None:
    reports: list[Report] = []
    done, errand = threading.Event(), threading.Event()
    document = chain()

    def take(report: Report) -> None:
        reports.append(report)
        if report.stage.name == "full" and report.token == 29:
            done.set()

    background = Background(on_report=take, cache=Cache())
    for step in range(30):
        flat = resolve(after(document, SetParameters("noise", {"seed": step})), KINDS)
        stages = (
            Stage("coarse", flat, (LAST,), (32, 32), patient=True),
            Stage("full", flat, (LAST,), (128, 128)),
        )
        background.submit(step, stages)
    background.add_errand(lambda stop: errand.set())
    assert done.wait(30) and errand.wait(30)
    background.close()
    fulls = [r for r in reports if r.stage.name == "full"]
    assert fulls[-1].token == 29 and len(fulls) < 30


def test_a_coarse_stage_is_left_out_where_the_full_one_is_kept() -> None:
    names: list[str] = []
    ended = threading.Event()

    def take(report: Report) -> None:
        names.append(report.stage.name)
        if report.stage.name == "full":
            ended.set()

    flat = resolve(chain(), KINDS)
    stages = (
        Stage("coarse", flat, (LAST,), (32, 32), patient=True, unless=(64, 64)),
        Stage("full", flat, (LAST,), (64, 64)),
    )
    background = Background(on_report=take, cache=Cache())
    for wanted in (["coarse", "full"], ["coarse", "full", "full"]):
        ended.clear()
        background.submit(None, stages)
        assert ended.wait(30)
        assert names == wanted
    background.close()


def test_a_stop_meant_for_an_old_stage_never_stops_the_new_one() -> None:
    """The worker goes on to the newest job while whoever gave it still looks at what was running."""
    reports: list[Report] = []
    arrived, first, second = threading.Event(), threading.Event(), threading.Event()

    def take(report: Report) -> None:
        reports.append(report)
        arrived.set()

    def old(stop: rl.Stop) -> None:
        first.set()
        assert second.wait(30)

    class Slow(tuple[Stage, ...]):
        """Stages that are looked through until the worker is at them."""

        def __contains__(self, stage: object) -> bool:
            second.set()
            until = time.monotonic() + 0.3
            while background._running[0] not in tuple(self) and time.monotonic() < until:
                time.sleep(0.001)
            return super().__contains__(stage)

    background = Background(on_report=take, cache=Cache())
    background.add_errand(old)
    assert first.wait(30)
    background.submit("newest", Slow([Stage("full", resolve(chain(), KINDS), (LAST,), (512, 512))]))
    assert arrived.wait(30)
    background.close()
    assert [report.token for report in reports] == ["newest"]


def test_the_background_hears_whatever_goes_wrong_and_goes_on() -> None:
    """A report that cannot be taken, an errand and a stage that break: each is told, none ends the worker."""
    told: list[str] = []
    arrived, heard = threading.Event(), threading.Semaphore(0)
    breaking = [True]

    def take(report: Report) -> None:
        if breaking:
            breaking.clear()
            raise RuntimeError("the report")
        arrived.set()

    def on_trouble(error: Exception) -> None:
        told.append(str(error))
        heard.release()

    def broken(stop: rl.Stop) -> None:
        raise RuntimeError("the errand")

    background = Background(on_report=take, on_trouble=on_trouble, cache=Cache())
    stage = Stage("full", resolve(chain(), KINDS), (LAST,), (32, 32))
    background.submit(None, (stage,))
    assert heard.acquire(timeout=30)
    background.add_errand(broken)
    assert heard.acquire(timeout=30)
    background.submit(None, (stage,))
    assert arrived.wait(30)
    background.close()
    assert told == ["the report", "the errand"]


def test_progress_is_told_now_and_then_and_never_goes_back() -> None:
    told: list[tuple[float, float]] = []
    done = threading.Event()

    def on_progress(_: str, share: float) -> None:
        told.append((time.monotonic(), share))

    background = Background(lambda _: done.set(), on_progress, cache=Cache())
    flat = resolve(chain(), KINDS)
    background.submit("only", (Stage("full", flat, (LAST,), (1024, 1024)),))
    assert done.wait(60)
    background.close()
    times, shares = [at for at, _ in told], [share for _, share in told]
    assert shares == sorted(shares) and all(0 < share <= 1 for share in shares)
    assert all(b - a >= TELL_EVERY * 0.9 for a, b in pairwise(times))


@pytest.mark.parametrize("threads", [1, 4])
def test_progress_goes_on_however_often_a_kind_goes_over_its_map(threads: int) -> None:
    told: list[float] = []
    document = after(
        chain(), SetNode("soft", muted=True), AddNode("worn", "wear"), tie("tone.map", "worn.height")
    )
    end = End(node="worn", port="height")
    evaluate_ends(
        resolve(document, KINDS), [end], (600, 600), cache=Cache(), progress=told.append, threads=threads
    )
    assert told == sorted(set(told)) and told[-1] == 1.0 and len(told) > 9


def test_a_plan_keeps_no_node_that_the_weave_has_let_go() -> None:
    flat = resolve(chain(), KINDS)
    gone = weakref.ref(flat.nodes["tone"])
    assert plan_ends(flat, [LAST], (24, 16), Cache()).tasks
    del flat
    for level in range(6):  # more than are remembered
        resolve(after(chain(), SetParameters("tone", {"gamma": 1.1 + level / 10})), KINDS)
    gc.collect()
    assert gone() is None


def test_a_kept_table_is_not_changed_by_who_reads_it() -> None:
    knots = ((0.0, 0.25, 0.0), (0.5, 1.0, 0.0), (1.0, 0.5, 0.0))
    first = curve_table(knots)
    assert first[0] == 0.25 and abs(first[len(first) // 2] - 1) < 1e-3 and first[-1] == 0.5
    first[:] = 0
    assert curve_table([list(knot) for knot in knots])[0] == 0.25


# -- materials ---


GREYS = ("roughness", "metallic", "height", "ambient_occlusion", "opacity", "specular_level", "coat_weight")


def mixes() -> tuple[Document, list[End]]:
    """Two materials of noises, laid over one another both ways round; so both mixes need both."""
    edits: list[Any] = []
    for seed, name in enumerate(("old", "new")):
        edits.append(AddNode(name, "material"))
        for number, channel in enumerate(GREYS):
            node = f"{name}{number}"
            edits += [
                AddNode(node, "value_noise", {"seed": 10 * seed + number}),
                tie(f"{node}.noise", f"{name}.{channel}"),
            ]
    for name, below, above in (("one", "old", "new"), ("other", "new", "old")):
        edits += [
            AddNode(name, "mix_materials", {"strength": 0.5}),
            tie(f"{below}.material", f"{name}.below"),
            tie(f"{above}.material", f"{name}.above"),
        ]
    return after(Document(), *edits), [End(node=name, port="material") for name in ("one", "other")]


@pytest.mark.parametrize("keep", [True, False])
def test_a_material_that_two_mixes_need_is_whole_for_both(keep: bool) -> None:
    document, ends = mixes()
    both = evaluate(document, ends, 32, cache=Cache(), keep=keep).results
    for end in ends:
        alone = evaluate(document, [end], 32, cache=Cache(), keep=keep).results[end]
        assert set(both[end]) == set(GREYS)
        assert all(np.array_equal(both[end][name], alone[name]) for name in GREYS)


def test_a_mix_lets_go_of_channels_as_it_goes_where_nobody_else_needs_them() -> None:
    document, ends = mixes()
    size, count = 1024, len(GREYS)  # beside which what bands need in passing is little
    evaluate(document, ends[:1], size, cache=Cache(), keep=False)  # what is loaded once is not counted
    gc.collect()
    tracemalloc.start()
    evaluate(document, ends[:1], size, cache=Cache(), keep=False)
    maps = tracemalloc.get_traced_memory()[1] / (4 * size * size)
    tracemalloc.stop()
    # All of both, what is mixed of a channel, and the share; not a third material beside them.
    assert 2 * count < maps < 2.7 * count


def dragged(document: Document, cutoff: float) -> Document:
    """The chain while the third of its four nodes is dragged."""
    return after(document, SetParameters("tone", {"from_low": cutoff}))


def test_results_of_a_drag_go_with_the_next_step_and_what_it_rests_on_stays() -> None:
    """Nothing was computed before the drag began: what its steps share is made once, and stays."""
    cache, start = Cache(), chain()
    ran = [counted(dragged(start, step / 10), cache, passing=True) for step in range(5)]
    assert ran[0] == {"gradient_noise": 1, "blur": 1, "levels": 1, "normal": 1}
    assert all(later == {"levels": 1, "normal": 1} for later in ran[1:])
    refs: dict[End, Any] = {}
    flat = resolve(dragged(start, 0.4), KINDS)
    evaluate_ends(flat, [LAST, End(node="soft", port="map")], 32, cache=cache, refs=refs, passing=True)
    assert len(cache) == 3 and all(cache.get(ref) is not None for ref in refs.values())
    assert cache.held == sum(entry.array.nbytes for entry in cache._entries.values())


def test_a_drag_that_is_recorded_stays_and_one_that_is_dropped_goes() -> None:
    cache, start = Cache(), chain()
    for step in range(3):
        counted(dragged(start, step / 10), cache, passing=True)
    recorded = dragged(start, 0.2)
    assert not counted(recorded, cache)
    wide = after(recorded, SetParameters("normal", {"strength": 2.0}))
    assert [counted(wide, cache, passing=True), counted(recorded, cache)] == [{"normal": 1}, {}]
    wider = after(recorded, SetParameters("normal", {"strength": 3.0}))
    assert counted(wider, cache, passing=True) == {"normal": 1}  # the first one's, only, went
    assert [counted(recorded, cache), counted(wide, cache)] == [{}, {"normal": 1}]


def test_what_the_screen_shows_of_a_drag_stays_until_it_shows_another() -> None:
    cache, refs = Cache(), {}
    flat = resolve(dragged(chain(), 0.1), KINDS)
    evaluate_ends(flat, [LAST], 32, cache=cache, refs=refs, passing=True)
    cache.keep_in_use("screen", refs.values())
    counted(dragged(chain(), 0.2), cache, passing=True)
    assert cache.get(refs[LAST]) is not None
    cache.keep_in_use("screen", ())
    kept = [entry for *_, entry in cache._queue]
    counted(dragged(chain(), 0.3), cache, passing=True)
    assert cache.get(refs[LAST]) is None
    assert len(cache._queue) < len(kept) + 2  # the row of what may go holds no map that went
