"""Writes docs/nodes.md, the reference of every node kind, with pictures made by the engine."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from reedloom.delivery.png import write_png
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.data import SameAs
from reedloom.kit.families import FAMILIES
from reedloom.kit.kind import Kind
from reedloom.kit.parameters import STRAIGHT_CURVE, Number, Parameter
from reedloom.kit.ports import Port
from reedloom.loom.run import evaluate_ends
from reedloom.preview.encodings import rgb_picture
from reedloom.preview.samples import choice_samples, sample_graph
from reedloom.preview.stand_ins import as_map
from reedloom.weave.document import Document
from reedloom.weave.resolve import resolve

DOCS = Path(__file__).resolve().parents[1] / "docs"
LARGE, SMALL, GAP, ACROSS = 128, 60, 4, 8
PAPER = 34


def page() -> str:
    """The whole page."""
    return "\n".join(_lines()) + "\n"


def _lines() -> Iterator[str]:
    yield "# The node kinds"
    yield ""
    yield "Made from the declarations by `tools/nodes_page.py`. Lengths are shares of the tile. The large"
    yield "picture shows the kind, the small ones, in their order, the words of its foremost choice."
    yield "Notches go by their label in scripts, with _ for blanks, unless another name stands beside it."
    for family in FAMILIES.values():
        members = [kind for kind in built_in_kinds() if kind.family == family.id]
        if not members:
            continue
        yield ""
        yield f"## {family.label}"
        yield ""
        yield f"{family.purpose}."
        for kind in members:
            yield from _kind_lines(kind)


def _kind_lines(kind: Kind) -> Iterator[str]:
    yield ""
    yield f"### {kind.label}"
    yield ""
    yield f"`{kind.id}` · {kind.purpose}"
    yield ""
    yield f"![{kind.label}](nodes/{kind.id}.png)"
    choices = choice_samples(kind)
    if choices:
        yield ""
        yield "Small pictures: " + ", ".join(label.lower() for label, _ in choices) + "."
    yield ""
    for title, ports in (("In", kind.inputs), ("Out", kind.outputs)):
        if ports:
            yield f"{title}: " + "; ".join(_port_words(p) for p in _unrowed(ports)) + "."
    shown = _unrowed(kind.parameters)
    if shown:
        yield ""
        yield "| value | in scripts | | from | to | typed | |"
        yield "|---|---|---|---|---|---|---|"
        for parameter in shown:
            yield _parameter_row(parameter)


def _unrowed(items: tuple) -> list:  # type: ignore[type-arg]
    """Of rows that are all alike, such as layers, only the first."""
    return [item for item in items if item.series <= 1]


def _port_words(port: Port) -> str:
    data = f"as {port.data.ports[0]}" if isinstance(port.data, SameAs) else port.data.word
    more = " and so on" if port.series else ""
    help_ = f": {port.help[:1].lower()}{port.help[1:].rstrip('.')}" if port.help else ""
    named = "" if port.label.lower().replace(" ", "_") == port.name else f" `{port.name}`"
    return f"**{port.label}**{named} ({data}{', optional' if port.optional else ''}){more}{help_}"


def _parameter_row(parameter: Parameter) -> str:
    name = f"{parameter.title} (each)" if parameter.series else parameter.title
    if isinstance(parameter, Number):
        unit = f" {parameter.unit}" if parameter.unit else ""
        low, high = parameter.useful
        hard_low, hard_high = parameter.hard
        cells = (f"{parameter.default:g}{unit}", f"{low:g}", f"{high:g}", f"{hard_low:g} to {hard_high:g}")
    elif parameter.words:
        cells = (parameter.default, "", "", ", ".join(parameter.words))
    else:
        cells = (_default_words(parameter), "", "", "")
    return (
        "| " + " | ".join((name, f"`{parameter.name}`", *cells, parameter.help)).replace("||", "| |") + " |"
    )


def _default_words(parameter: Parameter) -> str:
    value = parameter.default
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, str):
        return f"`{value}`" if value else ""
    if value == STRAIGHT_CURVE:
        return "a straight line"
    return parameter.word


def picture(kind: Kind) -> np.ndarray:
    """The kind's own picture and, beside it, those of its choices: (H, W, 3) bytes."""
    choices = choice_samples(kind)
    lines = max(1, -(-len(choices) // ACROSS))
    across = min(len(choices), ACROSS)
    height = max(LARGE, lines * (SMALL + GAP) - GAP)
    width = LARGE + (GAP * 2 + across * (SMALL + GAP) if choices else 0)
    sheet = np.full((height, width, 3), PAPER, np.uint8)
    sheet[:LARGE, :LARGE] = _look(kind, None, LARGE)
    for number, (_, values) in enumerate(choices):
        line, place = divmod(number, ACROSS)
        y, x = line * (SMALL + GAP), LARGE + GAP * 3 + place * (SMALL + GAP)
        sheet[y : y + SMALL, x : x + SMALL] = _look(kind, values, SMALL)
    return sheet


def _look(kind: Kind, values: dict[str, object] | None, side: int) -> np.ndarray:
    kinds = built_in_kinds()
    graph, end = sample_graph(kind.id, kinds, values)
    flat = resolve(Document(graph=graph), kinds)
    array = as_map(evaluate_ends(flat, [end], side * 2).results[end], side * 2, side * 2)
    rgb = rgb_picture(array, plain=flat.output(end).plain)
    return rgb.reshape(side, 2, side, 2, 3).mean(axis=(1, 3)).astype(np.uint8)


def main() -> None:
    """Write the page, and all pictures or those of the kinds named."""
    (DOCS / "nodes.md").write_text(page())
    (DOCS / "nodes").mkdir(exist_ok=True)
    for kind in built_in_kinds():
        if len(sys.argv) < 2 or kind.id in sys.argv[1:]:
            made = picture(kind)
            path = DOCS / "nodes" / f"{kind.id}.png"
            rows = np.ascontiguousarray(made)
            size = (made.shape[1], made.shape[0])
            write_png(path, size, 3, 8, True, lambda y0, y1, r=rows: r[y0:y1], lambda _: None)
    print(DOCS / "nodes.md")


if __name__ == "__main__":
    main()
