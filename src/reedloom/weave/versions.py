"""Brings nodes of former versions of their kinds up to date, or leaves them with their own picture."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from reedloom.errors import ReedError
from reedloom.kinds.catalogue import Kinds
from reedloom.kit.kind import Change, Kind, own_seed
from reedloom.kit.parameters import Seed
from reedloom.weave.document import Node


def brought_up_to_date(node: Node, kinds: Kinds) -> tuple[Node, str]:
    """A node as it is with today's kinds, and a sentence about what became of it, or none.

    A version whose own picture can still be made keeps it. One that cannot is migrated, change by change,
    as the kind's declaration says. Nodes whose kind, or version, is not here stay as they are. Values
    are put into their plain form; those that cannot be are left for `check` to name.
    """
    known = kinds.known.get(node.kind)
    if known is None or not 1 <= node.version <= known.version:
        return node, ""
    node = replace(node, parameters=known.renamed(node.parameters), formulas=known.renamed(node.formulas))
    exact = kinds.exact(node.kind, node.version)
    if exact is not None:
        kept = "" if exact is known else f"Keeps its picture of version {node.version}; now {known.version}."
        return replace(node, parameters=plain_parameters(node.parameters, exact)), kept
    values, notes = dict(node.parameters), []
    for version in range(node.version + 1, known.version + 1):
        change = known.changes.get(version)
        if change is not None:
            values = _migrated(values, change, node)
            notes.append(change.note)
    told = f"Made with version {node.version}, now {known.version}: {' '.join(notes)}"
    return replace(node, version=known.version, parameters=plain_parameters(values, known)), told


def with_seeds_as_they_were(node: Node, kinds: Kinds) -> tuple[Node, str]:
    """A node of a file written before kinds were hashed into seeds, so that it looks as it did.

    Returns it and a sentence about what could not be kept, or none: a seed that follows a formula.
    """
    if node.kind not in kinds.known:
        return node, ""
    declared = kinds.of(node)
    seeds = [p for p in declared.parameters if isinstance(p, Seed)]
    values = {p.name: own_seed(node.kind, node.parameters.get(p.name, p.default)) for p in seeds}
    followed = [name for name in values if name in node.formulas]
    told = f"It is arranged otherwise: its {' and '.join(followed)} follows a formula." if followed else ""
    return replace(node, parameters=plain_parameters({**node.parameters, **values}, declared)), told


def _migrated(values: dict[str, Any], change: Change, node: Node) -> dict[str, Any]:
    if change.migrate is None:
        return values
    try:
        return change.migrate(values)
    except (ArithmeticError, LookupError, TypeError, ValueError) as error:
        raise ReedError(
            f"the values of '{node.id}' are none of version {node.version} of '{node.kind}' ({error})."
        ) from None


def plain_parameters(values: dict[str, Any], kind: Kind) -> dict[str, Any]:
    """Values in their plain form, without those that are defaults."""
    defaults = kind.defaults()
    found = {}
    for name, value in values.items():
        try:
            plain = kind.parameter(name).check(value)
        except ReedError:
            plain = value
        if name not in defaults or plain != defaults[name]:
            found[name] = plain
    return found
