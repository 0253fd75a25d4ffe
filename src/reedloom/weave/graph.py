"""Questions about a graph: which way threads run, what data they carry, whether one may be tied."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping

from reedloom.errors import ConnectError, ReedError, UnknownNameError
from reedloom.kinds.catalogue import Kinds
from reedloom.kit.channels import CHANNELS, get_channel
from reedloom.kit.data import ANY, COLOUR, GREY, MATERIAL, Data, SameAs
from reedloom.kit.ports import Port
from reedloom.weave.document import End, Graph, Thread
from reedloom.weave.memo import remembered


@remembered(8)
def inputs_by_node(graph: Graph) -> dict[str, dict[str, End]]:
    """For every node what is tied to each of its inputs."""
    found: dict[str, dict[str, End]] = {node_id: {} for node_id in graph.nodes}
    for thread in graph.threads:
        found[thread.target.node][thread.target.port] = thread.source
    return found


def upstream_order(inputs: Mapping[str, Mapping[str, End]], roots: Iterable[str]) -> list[str]:
    """The nodes that `roots` need, themselves included, each after all it needs.

    Parameters
    ----------
    inputs : mapping
        For each node what is tied to its inputs, as `inputs_by_node` gives it.

    Raises
    ------
    ReedError
        If there is a cycle; the text names a node on it.
    """
    order: list[str] = []
    state: dict[str, int] = {}
    stack = [(root, False) for root in reversed(list(dict.fromkeys(roots)))]
    while stack:
        node, leaving = stack.pop()
        if leaving:
            state[node] = 2
            order.append(node)
        elif state.get(node) == 1:
            raise ReedError(f"The threads run in a circle through node '{node}'; untie one of them.")
        elif node not in state:
            state[node] = 1
            stack.append((node, True))
            for source in inputs[node].values():
                if state.get(source.node) == 1:
                    raise ReedError(
                        f"The threads run in a circle through node '{source.node}'; untie one of them."
                    )
                if source.node not in state:
                    stack.append((source.node, False))
        # A node waiting twice on the stack is simply met again when done.
    return order


def downstream(graph: Graph, starts: Iterable[str]) -> set[str]:
    """All nodes that `starts` can change, themselves included."""
    followers: dict[str, list[str]] = {}
    for thread in graph.threads:
        followers.setdefault(thread.source.node, []).append(thread.target.node)
    seen = set(starts)
    waiting = list(seen)
    while waiting:
        for follower in followers.get(waiting.pop(), ()):
            if follower not in seen:
                seen.add(follower)
                waiting.append(follower)
    return seen


@remembered(8)
def output_data(graph: Graph, kinds: Kinds) -> dict[tuple[str, str], Data]:
    """What every output of every node carries, by (node, port).

    Raises
    ------
    ReedError
        If the threads run in a circle.
    """
    inputs = inputs_by_node(graph)
    found: dict[tuple[str, str], Data] = {}
    for node_id in upstream_order(inputs, graph.nodes):
        for port in kinds.of(graph.nodes[node_id]).outputs:
            found[node_id, port.name] = carried_data(port, inputs[node_id], found)
    return found


def carried_data(port: Port, tied: Mapping[str, End], known: Mapping[tuple[str, str], Data]) -> Data:
    """What an output carries, from what is tied before it.

    Parameters
    ----------
    tied : mapping of port to End
        What is tied to its node's inputs.
    known : mapping of (node, port) to Data
        Of all earlier outputs.
    """
    if not isinstance(port.data, SameAs):
        return port.data
    sources = [known[tied[name].node, tied[name].port] for name in port.data.ports if name in tied]
    return COLOUR if COLOUR in sources else GREY


def carried_channels(graph: Graph, kinds: Kinds, end: End) -> list[str]:
    """The channels that a material has, as far as they can be told from what is tied before it."""
    inputs = inputs_by_node(graph)
    found: set[str] = set()
    for node_id in upstream_order(inputs, [end.node]):
        gives_material = any(p.data == MATERIAL for p in kinds.of(graph.nodes[node_id]).outputs)
        found |= (inputs[node_id].keys() & CHANNELS.keys()) if gives_material else set()
    return [channel for channel in CHANNELS if channel in found]


def accepts(port: Port, data: Data) -> bool:
    """Whether an input takes such data, converted between grey and colour if need be."""
    assert isinstance(port.data, Data)
    return bool(port.data & data) or bool(data & (GREY | COLOUR) and port.data & (GREY | COLOUR))


def converts(port: Port, data: Data) -> bool:
    """Whether such data must be converted for an input."""
    return isinstance(port.data, Data) and not port.data & data


def check_thread(graph: Graph, kinds: Kinds, source: End, target: End) -> None:
    """See that an output may be tied to an input.

    Raises
    ------
    ConnectError
        If it does not fit, or would close a circle.
    UnknownNameError
        If there is no such node or port.
    """
    giver, taker = graph.node(source.node), graph.node(target.node)
    kinds.of(giver).output(source.port)
    port = kinds.of(taker).input(target.port)
    if source.node in downstream(graph, [target.node]):
        raise ConnectError(f"Tying '{source}' to '{target}' would make the threads run in a circle.")
    check_fit(port, output_data(graph, kinds)[source.node, source.port], source, target)


def check_threads(graph: Graph, kinds: Kinds, threads: Iterable[Thread]) -> None:
    """See that threads of a graph are sound.

    Raises
    ------
    ConnectError
        If one does not fit, or they run in a circle.
    UnknownNameError
        If there is no such node or port.
    """
    for _, error in faulty_threads(graph, kinds, threads):
        raise error


def faulty_threads(
    graph: Graph, kinds: Kinds, threads: Iterable[Thread]
) -> Iterator[tuple[Thread | None, ReedError]]:
    """The threads that cannot be, each with the reason; None stands for all, where they run in a circle."""
    sound = []
    for thread in threads:
        try:
            kinds.of(graph.node(thread.source.node)).output(thread.source.port)
            sound.append((thread, kinds.of(graph.node(thread.target.node)).input(thread.target.port)))
        except ReedError as error:
            yield thread, error
    try:
        data = output_data(graph, kinds)
    except ReedError as error:
        yield None, ConnectError(str(error))
        return
    for thread, port in sound:
        try:
            check_fit(port, data[thread.source.node, thread.source.port], thread.source, thread.target)
        except ReedError as error:
            yield thread, error


def check_fit(port: Port, data: Data, source: End, target: End) -> None:
    """See that an input takes such data.

    Raises
    ------
    ConnectError
        If it does not; the text says what to do.
    """
    if not accepts(port, data):
        assert isinstance(port.data, Data)
        raise ConnectError(
            f"'{source}' gives {data.word} but '{target}' takes {port.data.word}; "
            "put a node between them that turns one into the other."
        )


def check_end(graph: Graph, kinds: Kinds, source: End, channel: str) -> None:
    """See that an output may be tied to a slot of the map rail.

    Raises
    ------
    ConnectError
        If the map is of another kind.
    UnknownNameError
        If there is no such node, port or slot.
    """
    slot = get_channel(channel)
    kinds.of(graph.node(source.node)).output(source.port)
    data = output_data(graph, kinds)[source.node, source.port]
    if not data & (GREY | COLOUR):
        raise ConnectError(f"'{source}' gives {data.word} but the map '{slot.label}' takes {slot.data.word}.")


def parse_end(graph: Graph, kinds: Kinds, text: str, output: bool) -> End:
    """Read "node" or "node.port"; the first output or input is the default.

    Parameters
    ----------
    text : str
        "node" or "node.port".
    output : bool
        Whether an output is meant, or an input.

    Raises
    ------
    UnknownNameError
        If there is no such node or port.
    """
    node_id, _, port = text.partition(".")
    declared = kinds.of(graph.node(node_id))
    ports = declared.outputs if output else declared.inputs
    if not port:
        if not ports:
            raise UnknownNameError(f"Node '{node_id}' has no {'output' if output else 'input'} to tie.")
        port = ports[0].name
    (declared.output if output else declared.input)(port)
    return End(node=node_id, port=port)


def with_stand_ins(kinds: Kinds, graphs: Iterable[Graph]) -> Kinds:
    """A set of kinds with a stand-in for each that nodes name and that is not here.

    A stand-in has the notches that threads are tied to, of any kind of data, besides those it had before.
    """
    wanted: dict[tuple[str, int], tuple[dict[str, None], dict[str, None]]] = {}
    for graph in graphs:
        used = {(node.kind, node.version) for node in graph.nodes.values()}
        absent = {key for key in used if kinds.exact(*key) is None}
        if not absent:
            continue
        lost = {
            node.id: wanted.setdefault((node.kind, node.version), ({}, {}))
            for node in graph.nodes.values()
            if (node.kind, node.version) in absent
        }
        for thread in graph.threads:
            if thread.target.node in lost:
                lost[thread.target.node][0][thread.target.port] = None
            if thread.source.node in lost:
                lost[thread.source.node][1][thread.source.port] = None
        for end in graph.ends.values():
            if end.node in lost:
                lost[end.node][1][end.port] = None
    stand_ins = dict(kinds.stand_ins)
    for key, (tied_inputs, tied_outputs) in wanted.items():
        old = stand_ins.get(key)
        before = (old.inputs, old.outputs) if old is not None else ((), ())
        inputs = dict.fromkeys(p.name for p in before[0]) | tied_inputs
        outputs = dict.fromkeys(p.name for p in before[1]) | tied_outputs
        if old is None or len(inputs) > len(old.inputs) or len(outputs) > len(old.outputs):
            stand_ins[key] = kinds.missing(*key).with_ports(
                tuple(Port(name, ANY, optional=True) for name in inputs),
                tuple(Port(name, ANY) for name in outputs),
            )
    return kinds if stand_ins == kinds.stand_ins else kinds.standing_in(stand_ins)
