"""Plans backwards from what is asked, and stops at what the cache holds.

A plan is a row of tasks, each after all it needs. A task is frozen plain data that can be pickled, so
that it can be carried out here or elsewhere; cache, progress and stopping are around it (`run.py`).
Nodes of equal content share one task.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any
from weakref import WeakKeyDictionary

from msgspec import Struct, field

from reedloom.kit.data import COLOUR, GREY, Data, SameAs
from reedloom.kit.kind import Kind
from reedloom.loom.cache import Cache, Entry
from reedloom.loom.keys import Ref, Size, conversion_key, node_key
from reedloom.weave.document import End
from reedloom.weave.graph import carried_data, upstream_order
from reedloom.weave.resolve import FlatGraph, Resolved

CONVERT = "convert"
"""The kind of a task that turns grey into colour or back, and its only output."""


class Task(Struct, frozen=True):
    """One computation, as plain data.

    Attributes
    ----------
    key : str
        Its content key.
    kind, version : str, int
        The node kind; `CONVERT` for a conversion.
    values : tuple of (name, value)
        Every parameter's value; for a conversion the name of the data that is wanted.
    inputs : tuple of (port, Ref)
        What comes into it.
    wanted : tuple of str
        The outputs to make, sorted.
    size : (width, height)
        In samples.
    muted : bool
        Whether it only passes its first input on.
    surface : (width, height, depth)
        In metres.
    folder : str
        Where paths of files begin.
    """

    key: str
    kind: str
    version: int
    values: tuple[tuple[str, Any], ...]
    inputs: tuple[tuple[str, Ref], ...]
    wanted: tuple[str, ...]
    size: Size
    muted: bool = False
    surface: tuple[float, float, float] = (1.0, 1.0, 0.05)
    folder: str = ""


class Plan(Struct):
    """What is to be done for some asked outputs.

    Attributes
    ----------
    tasks : list of Task
        Each after all it needs.
    asked : End to Ref
        Where each asked output comes from; those that cannot be are left out.
    ready : Ref to Entry
        What the cache holds of what is needed; held here, so that it cannot go meanwhile.
    nodes : key to node ids
        Whose results a task makes.
    kinds : (id, version) to Kind
        The declarations behind the tasks.
    knots : node id to _Knot
        What was found of each node that can be computed.
    failures : node id to reason
        Nodes that cannot be computed, as far as can be told before.
    """

    tasks: list[Task] = field(default_factory=list)
    asked: dict[End, Ref] = field(default_factory=dict)
    ready: dict[Ref, Entry] = field(default_factory=dict)
    nodes: dict[str, list[str]] = field(default_factory=dict)
    kinds: dict[tuple[str, int], Kind] = field(default_factory=dict)
    knots: dict[str, _Knot] = field(default_factory=dict)
    failures: dict[str, str] = field(default_factory=dict)

    @property
    def data(self) -> dict[Ref, Data]:
        """What each output, and each conversion, holds; few ask, so it is told when it is asked for."""
        found: dict[Ref, Data] = {}
        for knot in self.knots.values():
            for ref, (_, name) in knot.conversions.items():
                found[ref] = COLOUR if name == "colour" else GREY
            for port, data in knot.data.items():
                found[knot.key, port] = data
        return found


class _Knot(Struct, frozen=True, eq=False):
    """A node of the graph on the way to its task; never changed, since it is kept as long as the node is.

    What is the same as before is the same object, so that knots after it are found by that.

    Attributes
    ----------
    kind : Kind
        The node's. (The node itself, held here, would never be let go.)
    conversions : Ref to (Ref, str)
        For inputs that are converted: what comes in, and the name of the data wanted.
    data : port to Data
        What each output carries.
    reads_files : bool
        Whether its key has to be found anew each time, since a file may have changed.
    """

    kind: Kind
    key: str
    inputs: dict[str, Ref]
    conversions: dict[Ref, tuple[Ref, str]]
    data: dict[str, Data]
    reads_files: bool


def plan_ends(flat: FlatGraph, ends: Iterable[End], size: Size, cache: Cache) -> Plan:
    """The plan for some outputs of a graph at a size.

    Raises
    ------
    ReedError
        If the threads run in a circle.
    UnknownNameError
        If there is no such node or output.
    """
    plan = Plan()
    asked = _behind(flat, ends, plan)
    inputs = {node_id: node.inputs for node_id, node in flat.nodes.items()}
    order = upstream_order(inputs, [source.node for source in asked.values()])
    knots = plan.knots = _tie_knots(flat, order, size, plan)
    plan.asked = {
        end: (knots[source.node].key, source.port) for end, source in asked.items() if source.node in knots
    }
    wanted: dict[str, set[str]] = {}
    for ref in plan.asked.values():
        wanted.setdefault(ref[0], set()).add(ref[1])
    conversions: dict[str, Task] = {}
    missing = _pull(knots, order, wanted, conversions, plan, cache, size)
    done: set[str] = set()
    for node_id in order:
        knot = knots.get(node_id)
        if knot is None or knot.key in done or not missing.get(knot.key):
            continue
        done.add(knot.key)
        for ref in knot.inputs.values():
            if ref[0] in conversions and ref[0] not in done:
                done.add(ref[0])
                plan.tasks.append(conversions[ref[0]])
        plan.tasks.append(_task(flat, flat.nodes[node_id], knot, missing[knot.key], size))
    return plan


def _behind(flat: FlatGraph, ends: Iterable[End], plan: Plan) -> dict[End, End]:
    """For each asked output the one that stands behind it, within motifs; those without one fail."""
    found: dict[End, End] = {}
    for end in dict.fromkeys(ends):
        source = flat.source(end)
        if source is None:
            plan.failures[end.node] = f"Nothing is tied to '{end.port}' within its motif."
        else:
            flat.output(end)
            found[end] = source
    return found


def _tie_knots(flat: FlatGraph, order: list[str], size: Size, plan: Plan) -> dict[str, _Knot]:
    """From the sources on: what each node's inputs are, converted where need be, and its key."""
    knots: dict[str, _Knot] = {}
    for node_id in order:
        node = flat.nodes[node_id]
        about = (flat.surface, *[knots.get(end.node) for end in node.inputs.values()])
        knot = _kept_knot(node, about, size)
        if knot is None:
            reason = _blocked(flat, node, plan.failures)
            if reason:
                plan.failures[node_id] = reason
                continue
            knot = _tie_knot(flat, node, knots, about, size)
        knots[node_id] = knot
        for ref in knot.conversions:
            tied = [end.node for port, end in node.inputs.items() if knot.inputs[port] == ref]
            plan.nodes.setdefault(ref[0], []).extend(tied)
        plan.nodes.setdefault(knot.key, []).append(node_id)
        plan.kinds[node.kind.id, node.kind.version] = node.kind
    return knots


def _kept_knot(node: Resolved, about: _About, size: Size) -> _Knot | None:
    """The knot made of a node before, where the same comes into it; none where it reads a file."""
    known = _known.get(node, _NOTHING_KNOWN).get(size)
    if known is None or known[1].reads_files or known[0] != about:
        return None
    return known[1]


def _tie_knot(
    flat: FlatGraph, node: Resolved, knots: Mapping[str, _Knot], about: _About, size: Size
) -> _Knot:
    """A new knot of a node; one that reads a file whose content is as before has its old one."""
    data: dict[tuple[str, str], Data] = {
        (end.node, end.port): knots[end.node].data[end.port] for end in node.inputs.values()
    }
    accepted = _accepted(node, data)
    inputs: dict[str, Ref] = {}
    conversions: dict[Ref, tuple[Ref, str]] = {}
    for name, end in node.inputs.items():
        source = (knots[end.node].key, end.port)
        if not data[end.node, end.port] & accepted[name]:
            wanted = "colour" if COLOUR in accepted[name] else "grey"
            converted = (conversion_key(source, wanted), CONVERT)
            conversions[converted] = (source, wanted)
            source = converted
        inputs[name] = source
    made = {port.name: carried_data(port, node.inputs, data) for port in node.kind.outputs}
    files = any(parameter.is_file for parameter in node.kind.parameters)
    knot = _Knot(node.kind, node_key(flat, node, inputs, size), inputs, conversions, made, files)
    known = _known.get(node, _NOTHING_KNOWN)
    if size in known and known[size][0] == about and known[size][1].key == knot.key:
        return known[size][1]
    if size not in known:  # a few sizes are enough: of cards, views, and what is delivered
        known = dict(list(known.items())[1 - KNOWN_SIZES :])
    _known[node] = {**known, size: (about, knot)}
    return knot


KNOWN_SIZES = 4
_About = tuple[object, ...]
"""What a node's knot depends on beside the node itself: the surface, and the knots that come into it."""
_Known = dict[Size, tuple[_About, _Knot]]
_known: WeakKeyDictionary[Resolved, _Known] = WeakKeyDictionary()
_NOTHING_KNOWN: _Known = {}


def _blocked(flat: FlatGraph, node: Resolved, failures: Mapping[str, str]) -> str:
    """Why a node cannot be computed at all, if so."""
    if node.trouble:
        return node.trouble[:1].upper() + node.trouble[1:]
    for source in node.inputs.values():
        if source.node in failures:
            return waits_for(flat, source.node)
    if node.muted:
        return ""
    empty = [p.label for p in node.kind.inputs if not p.optional and p.name not in node.inputs]
    return f"Tie something to: {', '.join(empty)}." if empty else ""


def waits_for(flat: FlatGraph, node_id: str) -> str:
    """What is said of a node that needs one that failed."""
    return f"It waits for '{flat.nodes[node_id].title}'."


def _accepted(node: Resolved, data: Mapping[tuple[str, str], Data]) -> dict[str, Data]:
    """What each input takes; inputs that an output follows together agree on colour if any of them is."""
    accepted: dict[str, Data] = {}
    for port in node.kind.inputs:
        assert isinstance(port.data, Data)
        accepted[port.name] = port.data
    for output in node.kind.outputs:
        if not isinstance(output.data, SameAs):
            continue
        group = [name for name in output.data.ports if name in node.inputs]
        if any(COLOUR in data[node.inputs[n].node, node.inputs[n].port] & accepted[n] for n in group):
            accepted |= {name: COLOUR for name in group if accepted[name] & (GREY | COLOUR)}
    return accepted


def _pull(
    knots: Mapping[str, _Knot],
    order: list[str],
    wanted: dict[str, set[str]],
    conversions: dict[str, Task],
    plan: Plan,
    cache: Cache,
    size: Size,
) -> dict[str, set[str]]:
    """From what is asked back: which outputs of which keys must be made, since the cache has them not."""
    missing: dict[str, set[str]] = {}
    for node_id in reversed(order):
        knot = knots.get(node_id)
        if knot is None:
            continue
        for port in wanted.get(knot.key, ()):
            if port in missing.get(knot.key, ()) or _is_ready((knot.key, port), plan, cache):
                continue
            together = [p.name for p in knot.kind.outputs] if knot.kind.at_once else [port]
            missing.setdefault(knot.key, set()).update(together)
            for ref in knot.inputs.values():
                source = _pull_conversion(ref, knot, conversions, plan, cache, size)
                if source is not None:
                    wanted.setdefault(source[0], set()).add(source[1])
    return missing


def _is_ready(ref: Ref, plan: Plan, cache: Cache) -> bool:
    """Whether the cache has a result, which is then held for the plan."""
    if ref not in plan.ready:
        entry = cache.get(ref)
        if entry is None:
            return False
        plan.ready[ref] = entry
    return True


def _pull_conversion(
    ref: Ref, knot: _Knot, conversions: dict[str, Task], plan: Plan, cache: Cache, size: Size
) -> Ref | None:
    """What an input needs of a node: what is converted, unless the cache has it converted already."""
    if ref not in knot.conversions:
        return ref
    if _is_ready(ref, plan, cache):
        return None
    source, data = knot.conversions[ref]
    conversions[ref[0]] = Task(ref[0], CONVERT, 1, (("data", data),), (("value", source),), (CONVERT,), size)
    return source


def _task(flat: FlatGraph, node: Resolved, knot: _Knot, missing: Iterable[str], size: Size) -> Task:
    surface = flat.surface
    return Task(
        knot.key,
        node.kind.id,
        node.kind.version,
        tuple(sorted(node.values.items())),
        tuple(knot.inputs.items()),
        tuple(sorted(missing)),
        size,
        node.muted,
        (surface.width, surface.height, surface.depth),
        flat.folder,
    )
