"""Questions about the graph: which way threads run, what data they carry, whether one may be tied."""

from __future__ import annotations

from collections.abc import Iterable

from reedloom.errors import ConnectError, ReedError, UnknownNameError
from reedloom.kit.channels import CHANNELS
from reedloom.kit.data import COLOUR, GREY, MATERIAL, Data, SameAs
from reedloom.kit.ports import Port
from reedloom.weave.document import Document, End


def inputs_by_node(document: Document) -> dict[str, dict[str, End]]:
    """For every node what is tied to each of its inputs."""
    found: dict[str, dict[str, End]] = {node_id: {} for node_id in document.nodes}
    for thread in document.threads:
        found[thread.target.node][thread.target.port] = thread.source
    return found


def upstream_order(document: Document, roots: Iterable[str]) -> list[str]:
    """The nodes that `roots` need, themselves included, each after all it needs.

    Raises
    ------
    ReedError
        If there is a cycle; the text names a node on it.
    """
    inputs = inputs_by_node(document)
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


def downstream(document: Document, starts: Iterable[str]) -> set[str]:
    """All nodes that `starts` can change, themselves included."""
    followers: dict[str, list[str]] = {}
    for thread in document.threads:
        followers.setdefault(thread.source.node, []).append(thread.target.node)
    seen = set(starts)
    waiting = list(seen)
    while waiting:
        for follower in followers.get(waiting.pop(), ()):
            if follower not in seen:
                seen.add(follower)
                waiting.append(follower)
    return seen


def output_data(document: Document) -> dict[tuple[str, str], Data]:
    """What every output of every node carries, by (node, port)."""
    inputs = inputs_by_node(document)
    found: dict[tuple[str, str], Data] = {}
    for node_id in upstream_order(document, document.nodes):
        for port in document.nodes[node_id].declaration.outputs:
            found[node_id, port.name] = _resolve(port, inputs[node_id], found)
    return found


def _resolve(port: Port, tied: dict[str, End], known: dict[tuple[str, str], Data]) -> Data:
    if not isinstance(port.data, SameAs):
        return port.data
    sources = [known[tied[name].node, tied[name].port] for name in port.data.ports if name in tied]
    return COLOUR if COLOUR in sources else GREY


def carried_channels(document: Document, end: End) -> list[str]:
    """The channels that a material has, as far as they can be told from what is tied before it."""
    inputs = inputs_by_node(document)
    found: set[str] = set()
    for node_id in upstream_order(document, [end.node]):
        gives_material = any(p.data == MATERIAL for p in document.nodes[node_id].declaration.outputs)
        found |= (inputs[node_id].keys() & CHANNELS.keys()) if gives_material else set()
    return [channel for channel in CHANNELS if channel in found]


def accepts(port: Port, data: Data) -> bool:
    """Whether an input takes such data, converted between grey and colour if need be."""
    assert isinstance(port.data, Data)
    return bool(port.data & data) or bool(data & (GREY | COLOUR) and port.data & (GREY | COLOUR))


def converts(port: Port, data: Data) -> bool:
    """Whether such data must be converted for an input."""
    return isinstance(port.data, Data) and not port.data & data


def check_thread(document: Document, source: End, target: End) -> None:
    """Raise `ConnectError` or `UnknownNameError` with the reason if the two cannot be tied."""
    giver, taker = document.node(source.node), document.node(target.node)
    giver.declaration.output(source.port)
    port = taker.declaration.input(target.port)
    if source.node in downstream(document, [target.node]):
        raise ConnectError(f"Tying '{source}' to '{target}' would make the threads run in a circle.")
    data = output_data(document)[source.node, source.port]
    if not accepts(port, data):
        assert isinstance(port.data, Data)
        raise ConnectError(
            f"'{source}' gives {data.word} but '{target}' takes {port.data.word}; "
            "put a node between them that turns one into the other."
        )


def parse_end(document: Document, text: str, output: bool) -> End:
    """Read "node" or "node.port"; the first output or input is the default."""
    node_id, _, port = text.partition(".")
    declared = document.node(node_id).declaration
    ports = declared.outputs if output else declared.inputs
    if not port:
        if not ports:
            raise UnknownNameError(f"Node '{node_id}' has no {'output' if output else 'input'} to tie.")
        port = ports[0].name
    (declared.output if output else declared.input)(port)
    return End(node=node_id, port=port)
