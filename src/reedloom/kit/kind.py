"""A node kind: one declaration beside its compute function, read by all that deals with kinds."""

from __future__ import annotations

import inspect
import zlib
from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any, TypeVar

from msgspec import Struct, field
from msgspec.structs import replace

from reedloom.errors import ReedError, unknown
from reedloom.kit.data import Material
from reedloom.kit.families import FAMILIES
from reedloom.kit.handles import FormHandles, FreeHandles
from reedloom.kit.parameters import Parameter, Seed
from reedloom.kit.ports import Port
from reedloom.kit.stops import Stops

if TYPE_CHECKING:
    from reedloom.kit.context import Context

SCRATCH = 288 * 2**20
"""Bytes that any kind may take beside what grows with the map."""
_Named = TypeVar("_Named", Port, Parameter)
_Value = TypeVar("_Value")


class Change(Struct, frozen=True):
    """What became different with a version of a kind.

    Attributes
    ----------
    note : str
        One sentence for the maker of a weave that was made with the version before.
    migrate : callable, optional
        From the values of the version before (only those that are no defaults) to those that come nearest
        in this one. Values carry over as they are if there is none.
    """

    note: str
    migrate: Callable[[Mapping[str, Any]], dict[str, Any]] | None = None


class Kind(Struct, frozen=True):
    """Everything about a node kind; see docs/adding-a-node.md.

    Attributes
    ----------
    compute : callable
        ``compute(context, *inputs, **parameters)``; an array for one output, else a mapping of
        the wanted outputs by name. Inputs are read-only arrays or None.
    physical : bool
        Whether the result depends on the weave's size and depth in metres.
    at_once : bool
        Whether all outputs are made whenever one is wanted, since they share what takes long.
    memory : int
        Bytes for each sample of a map that it takes at most while it runs, its outputs included, besides
        the `SCRATCH` of bands, tables and compiled loops.
    synonyms : tuple of str
        Other words under which the finder finds it.
    sample : mapping
        Parameter values for its picture in the creel.
    exempt : mapping
        Laws that cannot hold for the kind, each with the reason.
    shows_histogram : bool
        Whether the settings show the first input's histogram behind the values.
    handles : FormHandles or FreeHandles, optional
        Which of its values can be dragged on the tile.
    stops : callable, optional
        At which values its sliders stop.
    changes : mapping of version to Change
        For every version after the first: what a weave of the version before is told, and how its values
        carry over.
    earlier : tuple of Kind
        Declarations of former versions that still give their own picture; weaves made with them keep it.
    missing : str
        Why the kind cannot be computed, of a stand-in for one that is not here; else empty.
    """

    id: str
    label: str
    family: str
    version: int
    purpose: str
    inputs: tuple[Port, ...]
    outputs: tuple[Port, ...]
    parameters: tuple[Parameter, ...]
    compute: Callable[..., Any]
    physical: bool = False
    at_once: bool = False
    memory: int = 96
    synonyms: tuple[str, ...] = ()
    sample: Mapping[str, Any] = field(default_factory=dict)
    exempt: Mapping[str, str] = field(default_factory=dict)
    shows_histogram: bool = False
    handles: FormHandles | FreeHandles | None = None
    stops: Stops | None = None
    changes: Mapping[int, Change] = field(default_factory=dict)
    earlier: tuple[Kind, ...] = ()
    missing: str = ""

    def input(self, name: str) -> Port:
        """The input port of that name; `UnknownNameError` if there is none."""
        return _named(self.inputs, name, "input", self.id)

    def output(self, name: str) -> Port:
        """The output port of that name; `UnknownNameError` if there is none."""
        return _named(self.outputs, name, "output", self.id)

    def parameter(self, name: str) -> Parameter:
        """The parameter of that name, or that had it before; `UnknownNameError` if there is none."""
        named = (p for p in self.parameters if p.name == name or name in p.former)
        return next(named, None) or _named(self.parameters, name, "parameter", self.id)

    def renamed(self, values: Mapping[str, _Value]) -> dict[str, _Value]:
        """What is kept by parameters' names, by those they have today."""
        names = {old: p.name for p in self.parameters for old in p.former}
        return {names.get(name, name): value for name, value in values.items()}

    def with_ports(self, inputs: tuple[Port, ...], outputs: tuple[Port, ...]) -> Kind:
        """This kind with other ports, as a stand-in gets those that threads are tied to."""
        return replace(self, inputs=inputs, outputs=outputs)

    def defaults(self) -> dict[str, Any]:
        """Every parameter's default by name."""
        return {p.name: p.default for p in self.parameters}


def _named(items: tuple[_Named, ...], name: str, what: str, kind_id: str) -> _Named:
    for item in items:
        if item.name == name:
            return item
    words = {item.name: (item.label, getattr(item, "title", "")) for item in items}
    raise unknown(what, name, words, f"on the kind '{kind_id}'", words)


def kind(
    *,
    id: str,
    label: str,
    family: str,
    version: int,
    purpose: str,
    outputs: tuple[Port, ...],
    inputs: tuple[Port, ...] = (),
    parameters: tuple[Parameter, ...] = (),
    **more: Any,
) -> Callable[[Callable[..., Any]], Kind]:
    """Declare the decorated compute function as a node kind.

    Raises
    ------
    ReedError
        At import, when the function's signature does not match the declaration.
    """

    def declare(compute: Callable[..., Any]) -> Kind:
        declared = Kind(
            id=id,
            label=label,
            family=family,
            version=version,
            purpose=purpose,
            inputs=inputs,
            outputs=outputs,
            parameters=parameters,
            compute=compute,
            **more,
        )
        _check_declaration(declared)
        return declared

    return declare


def _check_declaration(declared: Kind) -> None:
    where = f"The declaration of the kind '{declared.id}'"
    if declared.family not in FAMILIES:
        raise ReedError(f"{where} names the unknown family '{declared.family}'; add it to families.py.")
    wanted = ["context", *(p.name for p in declared.inputs), *(p.name for p in declared.parameters)]
    signature = inspect.signature(declared.compute)
    kinds = {p.kind for p in signature.parameters.values()}
    open_ = {inspect.Parameter.VAR_POSITIONAL, inspect.Parameter.VAR_KEYWORD}
    found = [name for name, p in signature.parameters.items() if p.kind not in open_]
    # The last inputs may be taken together, and the last parameters too.
    named = () if inspect.Parameter.VAR_KEYWORD in kinds else declared.parameters
    placed = () if inspect.Parameter.VAR_POSITIONAL in kinds else declared.inputs
    least = 1 + len(placed) + len(named)
    if found != wanted[: len(found)] or len(found) < least:
        raise ReedError(f"{where} and its function differ: declared {wanted}, function {found}.")
    _check_references(declared, where)
    for parameter in declared.parameters:
        if not parameter.help.endswith("."):
            raise ReedError(f"{where}: the help of '{parameter.name}' is not a sentence.")
    names = [p.name for p in declared.outputs]
    if len(set(names)) != len(names) or len(set(wanted)) != len(wanted):
        raise ReedError(f"{where} uses one name twice.")


def _check_references(declared: Kind, where: str) -> None:
    """Names that one part of a declaration uses for another must be there."""
    names = {p.name for p in declared.parameters}
    used = {name for p in declared.parameters for name in p.shown_if}
    used |= {p.drives.parameter for p in declared.inputs if p.drives and p.drives.parameter}
    used |= set(declared.handles.parameters) if declared.handles is not None else set()
    if used - names:
        raise ReedError(
            f"{where} refers to parameters that it does not have: {', '.join(sorted(used - names))}."
        )
    if not all(isinstance(change, Change) for change in declared.changes.values()):
        raise ReedError(f"{where} tells what changed by something that is no Change.")
    kept = {kind.version for kind in declared.earlier}
    told = {v for v in range(2, declared.version + 1) if v in declared.changes or v - 1 in kept}
    if told != set(range(2, declared.version + 1)) or not declared.changes.keys() <= told:
        raise ReedError(f"{where} does not say for every version after the first what changed.")


class Result(Struct, frozen=True):
    """What a compute function gave, with what it has to say about it."""

    outputs: Mapping[str, Any]
    notes: tuple[str, ...] = ()


def own_seed(kind_id: str, seed: int) -> int:
    """A seed from 0 to 2³¹ - 1 with the kind hashed into it: no two kinds make the same chances of one seed.

    Applied twice it gives back what was there, so that files from before it was done can be read.
    """
    return (int(seed) ^ zlib.crc32(kind_id.encode())) & 0x7FFFFFFF


def with_own_seeds(declared: Kind, values: Mapping[str, Any]) -> dict[str, Any]:
    """A node's values with the kind hashed into each seed."""
    seeds = {p.name for p in declared.parameters if isinstance(p, Seed)}
    return {n: own_seed(declared.id, v) if n in seeds else v for n, v in values.items()}


def run_kind(
    declared: Kind, context: Context, inputs: Mapping[str, Any], values: Mapping[str, Any]
) -> Result:
    """Call the compute function, if nobody asked to stop by now, and name its outputs."""
    context.stop.check()
    given = [inputs.get(port.name) for port in declared.inputs]
    made = declared.compute(context, *given, **values)
    if isinstance(made, Material) or not isinstance(made, Mapping):
        made = {declared.outputs[0].name: made}
    return Result(made, tuple(context.notes))
