"""What formulas of the graph on the board may read, as the dials are turned there at present."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from reedloom.desk.screen.workplace import Workplace
from reedloom.errors import ReedError
from reedloom.weave.dials import Scope, scope_of
from reedloom.weave.edits import EachOf, Edit, SetParameters, TurnDials
from reedloom.weave.edits.dials import Owner, owner_of
from reedloom.weave.resolve import STEP


def present_owner(workplace: Workplace) -> Owner:
    """Whose dials the formulas on the board read: the weave's, or those of the motif one is in."""
    return owner_of(workplace.document, workplace.session.motif)


def present_scope(workplace: Workplace) -> Scope:
    """The dials that formulas on the board may read, with their present values.

    Inside a motif these are the values at the use one came from.
    """
    document, path = workplace.document, workplace.session.path
    if not path:
        return scope_of(document.dials, document.settings, document.surface)
    given = workplace.flat.values(STEP.join(path)) or {}
    return scope_of(present_owner(workplace).dials, given, document.surface)


def present_values(workplace: Workplace, node_id: str) -> dict[str, Any]:
    """The values of a node on the board by name, formulas worked out."""
    own = workplace.kinds.values(workplace.graph.nodes[node_id])
    return {**own, **(workplace.flat.values(workplace.flat_id(node_id)) or {})}


def value_edit(workplace: Workplace, node_id: str, values: Mapping[str, Any]) -> Edit:
    """The edit that gives parameters of a node on the board new values.

    One that follows a dial as it is turns that dial; of other formulas a hand is told to let them go first.

    Raises
    ------
    ReedError
        If one follows a formula that is more than a dial.
    """
    node = workplace.graph.nodes[node_id]
    plain = {name: value for name, value in values.items() if name not in node.formulas}
    driven = {name: value for name, value in values.items() if name in node.formulas}
    if not driven:
        return SetParameters(node_id, plain)
    dials, motif = present_owner(workplace).dials, workplace.session.motif
    turned = {}
    for name, value in driven.items():
        key = node.formulas[name]
        if key not in dials or motif:
            title = workplace.kinds.of(node).parameter(name).title
            raise ReedError(f"'{title}' follows {key}; let it go first, at the end of its row.")
        turned[key] = value
    edits: tuple[Edit, ...] = (TurnDials(turned),)
    return edits[0] if not plain else EachOf("Set values", (*edits, SetParameters(node_id, plain)))


def dial_labels(workplace: Workplace) -> dict[str, str]:
    """The names of the dials that formulas on the board may read, by their ids."""
    return {key: dial.label for key, dial in present_owner(workplace).dials.items()}
