"""The words in which a node kind is declared: data kinds, ports, parameters and the kind itself.

The board, the settings panel, the creel, the command line, the file format, the reference page and
the law checks all read these declarations; none of them knows any kind by name.
"""

from __future__ import annotations

import enum
import inspect
import itertools
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, TypeVar

from reedloom.errors import ReedError, ValueRangeError, unknown
from reedloom.kit.families import FAMILIES
from reedloom.kit.formulas import FormulaError, read_formula

if TYPE_CHECKING:
    from reedloom.kit.context import Context


class Data(enum.Flag):
    """What flows through a thread; a port may accept several."""

    GREY = enum.auto()
    COLOUR = enum.auto()
    VECTOR = enum.auto()
    POINTS = enum.auto()
    PATHS = enum.auto()
    ISLANDS = enum.auto()
    MATERIAL = enum.auto()

    @property
    def word(self) -> str:
        """The name a person reads, such as ``grey or colour``."""
        return " or ".join(str(part.name).lower() for part in self)


GREY, COLOUR, VECTOR = Data.GREY, Data.COLOUR, Data.VECTOR
POINTS, PATHS, ISLANDS, MATERIAL = Data.POINTS, Data.PATHS, Data.ISLANDS, Data.MATERIAL


class Material(dict[str, Any]):
    """Several channels that travel together: channel name to array, all of one size."""

    @property
    def nbytes(self) -> int:
        """The bytes that its arrays hold."""
        return sum(int(array.nbytes) for array in self.values())


@dataclass(frozen=True, slots=True)
class SameAs:
    """An output's data kind that follows the inputs of these names: colour if any of them is."""

    ports: tuple[str, ...]


def SAME_AS(*ports: str) -> SameAs:
    """Declare an output that carries the same kind of data as the named inputs."""
    return SameAs(ports)


@dataclass(frozen=True, slots=True)
class Port:
    """A notch on a card: an input or an output.

    Inputs and parameters of one `series` number, from 1, belong to one row of a list, such as a layer.

    `plain` colour holds numbers rather than light, such as normals: it is shown without the sRGB transfer.
    `exempt` maps a law ("tiles", "resolution", "shift", "away") to the reason why it cannot hold here.
    """

    name: str
    data: Data | SameAs
    optional: bool = False
    help: str = ""
    series: int = 0
    plain: bool = False
    exempt: Mapping[str, str] = field(default_factory=dict)

    @property
    def label(self) -> str:
        """The port's name as a person reads it."""
        return self.name.replace("_", " ").capitalize()


class ParameterType(enum.Enum):
    """Which values a parameter takes, and so which editor it gets."""

    FLOAT = "float"
    INTEGER = "integer"
    CHOICE = "choice"
    BOOLEAN = "boolean"
    COLOUR = "colour"
    ANGLE = "angle"
    SEED = "seed"
    TONE_CURVE = "tone curve"
    GRADIENT = "gradient"
    TEXT = "text"
    FORMULA = "formula"
    FILE = "file"
    LENGTH = "length"
    COUNT = "count"
    DRAFT = "draft"


_WHOLE = {ParameterType.INTEGER, ParameterType.SEED, ParameterType.COUNT}
_TEXTS = {ParameterType.TEXT, ParameterType.FILE, ParameterType.FORMULA}
_NUMERIC = _WHOLE | {ParameterType.FLOAT, ParameterType.ANGLE, ParameterType.LENGTH}


@dataclass(frozen=True, slots=True)
class Parameter:
    """One value a maker can set on a node.

    Attributes
    ----------
    useful : (low, high)
        What the slider spans.
    hard : (low, high)
        What may be typed, and what a file may hold.
    unit : str
        Shown after the number.
    tries : tuple
        The values the try strip shows; five across the useful range when empty.
    names : tuple of str
        The inputs a formula may use.
    series : int
        The row of a list that the value belongs to; see `Port`.
    mark : bool
        Whether the value is a tone of the first input, drawn as a mark on its histogram.
    """

    name: str
    type: ParameterType
    default: Any
    help: str
    label: str = ""
    useful: tuple[float, float] = (0.0, 1.0)
    hard: tuple[float, float] = (-math.inf, math.inf)
    unit: str = ""
    choices: tuple[str, ...] = ()
    names: tuple[str, ...] = ()
    group: str = ""
    tries: tuple[Any, ...] = ()
    mark: bool = False
    series: int = 0

    @property
    def title(self) -> str:
        """The label, made from the name unless declared."""
        return self.label or self.name.replace("_", " ").capitalize()

    @property
    def is_number(self) -> bool:
        """Whether the value is one number that a slider can move."""
        return self.type in _NUMERIC

    @property
    def is_file(self) -> bool:
        """Whether the value names a file."""
        return self.type is ParameterType.FILE

    @property
    def is_whole(self) -> bool:
        """Whether only whole numbers are legal."""
        return self.type in _WHOLE

    def check(self, value: Any, where: str = "") -> Any:
        """Return `value` in its plain stored form.

        Raises
        ------
        ValueRangeError
            One sentence naming the parameter, the value and what would be allowed.
        """
        place = f"{where}.{self.name}" if where else self.name
        if self.is_number:
            return self._check_number(value, place)
        checkers: dict[ParameterType, Callable[[Any], Any]] = {
            ParameterType.COLOUR: _plain_colour,
            ParameterType.TONE_CURVE: _plain_curve,
            ParameterType.GRADIENT: _plain_gradient,
            ParameterType.DRAFT: _plain_draft,
        }
        if self.type in checkers:
            try:
                return checkers[self.type](value)
            except (TypeError, ValueError) as error:
                raise ValueRangeError(f"'{place}' cannot be {_short(value)}: {error}.") from None
        if self.type is ParameterType.BOOLEAN and not isinstance(value, bool):
            raise ValueRangeError(f"'{place}' cannot be {_short(value)}; use true or false.")
        if self.type is ParameterType.CHOICE and value not in self.choices:
            raise ValueRangeError(
                f"'{place}' cannot be {_short(value)}; use one of: {', '.join(self.choices)}."
            )
        if self.type in _TEXTS and not isinstance(value, str):
            raise ValueRangeError(f"'{place}' cannot be {_short(value)}; use a text.")
        if self.type is ParameterType.FORMULA:
            try:
                read_formula(value, frozenset(self.names))
            except FormulaError as error:
                raise ValueRangeError(f"'{place}' cannot be {_short(value)}. {error}") from None
        return value

    def _check_number(self, value: Any, place: str) -> float | int:
        low, high = self.hard
        allowed = f"use a {'whole ' if self.is_whole else ''}number from {low:g} to {high:g}"
        if isinstance(value, bool) or not isinstance(value, (int, float)) or not math.isfinite(value):
            raise ValueRangeError(f"'{place}' cannot be {_short(value)}; {allowed}.")
        if not low <= value <= high or (self.is_whole and value != int(value)):
            raise ValueRangeError(f"'{place}' cannot be {_short(value)}; {allowed}.")
        return int(value) if self.is_whole else float(value)


def _short(value: Any) -> str:
    text = repr(value)
    return text if len(text) <= 40 else text[:37] + "..."


def _floats(values: Any, count: int) -> tuple[float, ...]:
    numbers = tuple(float(v) for v in values)
    if len(numbers) != count or not all(math.isfinite(v) for v in numbers):
        raise ValueError(f"every entry needs {count} finite numbers")
    return numbers


def _plain_colour(value: Any) -> tuple[float, ...]:
    return _floats(value, 3)


def _plain_curve(value: Any) -> tuple[tuple[float, ...], ...]:
    """Knots (x, y, sharp) sorted by x; sharp is 0 for a smooth knot and 1 for a corner."""
    knots = tuple(sorted(_floats((*knot, 0)[:3], 3) for knot in value))
    if not 2 <= len(knots) <= 64:
        raise ValueError("a tone curve has 2 to 64 knots")
    if any(b[0] - a[0] <= 0 for a, b in itertools.pairwise(knots)):
        raise ValueError("two knots of a tone curve cannot share one place")
    return knots


def _plain_gradient(value: Any) -> tuple[tuple[float, ...], ...]:
    """Stops (place 0..1, red, green, blue) in linear light, sorted by place."""
    stops = tuple(sorted((_floats(stop, 4) for stop in value), key=lambda stop: stop[0]))
    if not 1 <= len(stops) <= 64:
        raise ValueError("a gradient has 1 to 64 stops")
    return stops


def _plain_draft(value: Any) -> tuple[str, ...]:
    """Rows of a binding draft: # and . of one length, at most 16 by 16."""
    rows = tuple(value)
    if not 1 <= len(rows) <= DRAFT_LIMIT or not all(isinstance(row, str) for row in rows):
        raise ValueError(f"a draft has 1 to {DRAFT_LIMIT} rows of text")
    if len({len(row) for row in rows}) != 1 or not 1 <= len(rows[0]) <= DRAFT_LIMIT:
        raise ValueError(f"the rows of a draft are of one length, 1 to {DRAFT_LIMIT}")
    if set("".join(rows)) - set("#."):
        raise ValueError("a draft is made of # and .")
    return rows


DRAFT_LIMIT = 16
_Named = TypeVar("_Named", Port, Parameter)


def Float(
    name: str,
    default: float,
    useful: tuple[float, float],
    hard: tuple[float, float] = (-1e6, 1e6),
    *,
    help: str,
    **more: Any,
) -> Parameter:
    """A plain number."""
    return Parameter(name, ParameterType.FLOAT, float(default), help, useful=useful, hard=hard, **more)


def Length(
    name: str,
    default: float,
    useful: tuple[float, float],
    hard: tuple[float, float],
    *,
    help: str,
    **more: Any,
) -> Parameter:
    """A length as a share of the tile."""
    return Parameter(
        name, ParameterType.LENGTH, float(default), help, useful=useful, hard=hard, unit="tile", **more
    )


def Count(
    name: str,
    default: int,
    useful: tuple[float, float],
    hard: tuple[float, float] = (1, 4096),
    *,
    help: str,
    **more: Any,
) -> Parameter:
    """A whole number of things per tile, so that they close at the seam."""
    return Parameter(name, ParameterType.COUNT, default, help, useful=useful, hard=hard, **more)


def Integer(
    name: str, default: int, useful: tuple[float, float], hard: tuple[float, float], *, help: str, **more: Any
) -> Parameter:
    """A whole number."""
    return Parameter(name, ParameterType.INTEGER, default, help, useful=useful, hard=hard, **more)


def Angle(
    name: str, default: float = 0.0, *, help: str, useful: tuple[float, float] = (-180.0, 180.0), **more: Any
) -> Parameter:
    """An angle in degrees, clockwise from the right, since rows run down."""
    return Parameter(
        name,
        ParameterType.ANGLE,
        float(default),
        help,
        useful=useful,
        hard=(-3600.0, 3600.0),
        unit="°",
        **more,
    )


def Seed(
    name: str = "seed",
    default: int = 0,
    *,
    help: str = "Another number gives another arrangement.",
    **more: Any,
) -> Parameter:
    """A whole number from which all randomness of the node is hashed."""
    return Parameter(name, ParameterType.SEED, default, help, useful=(0, 100), hard=(0, 2**31 - 1), **more)


def Choice(name: str, default: str, choices: tuple[str, ...], *, help: str, **more: Any) -> Parameter:
    """One of a few words."""
    return Parameter(name, ParameterType.CHOICE, default, help, choices=choices, **more)


def Switch(name: str, default: bool, *, help: str, **more: Any) -> Parameter:
    """On or off."""
    return Parameter(name, ParameterType.BOOLEAN, default, help, **more)


def ColourValue(name: str, default: tuple[float, float, float], *, help: str, **more: Any) -> Parameter:
    """A colour in linear light; the window shows it in sRGB."""
    return Parameter(name, ParameterType.COLOUR, default, help, **more)


def ToneCurve(name: str, default: tuple[tuple[float, ...], ...], *, help: str, **more: Any) -> Parameter:
    """A drawn curve from 0..1 to any value."""
    return Parameter(name, ParameterType.TONE_CURVE, _plain_curve(default), help, **more)


def Gradient(name: str, default: tuple[tuple[float, ...], ...], *, help: str, **more: Any) -> Parameter:
    """Colour stops from 0 to 1 in linear light."""
    return Parameter(name, ParameterType.GRADIENT, _plain_gradient(default), help, **more)


def FormulaText(name: str, default: str, names: tuple[str, ...], *, help: str, **more: Any) -> Parameter:
    """An expression over named inputs; see `kit/formulas.py`."""
    return Parameter(name, ParameterType.FORMULA, default, help, names=names, **more)


def File(name: str, *, help: str, **more: Any) -> Parameter:
    """A file, by a path from the weave's folder or from the root; empty for none."""
    return Parameter(name, ParameterType.FILE, "", help, **more)


def Draft(name: str, default: tuple[str, ...], *, help: str, **more: Any) -> Parameter:
    """A small binding draft: rows of # and ."""
    return Parameter(name, ParameterType.DRAFT, default, help, **more)


STRAIGHT_CURVE = ((0.0, 0.0, 0.0), (1.0, 1.0, 0.0))


@dataclass(frozen=True, slots=True)
class KnotPlaces:
    """Where the knots of a curve lie on the form that is drawn by it, so that they can be dragged there.

    Attributes
    ----------
    parameter : str
        The curve.
    to_form, from_form : callable
        From the values and a knot's (x, y) to the way from the form's middle, before it is turned, and back.
    shown : callable
        Whether the curve draws the form at all, with these values.
    closed : callable
        Whether the curve's end is its beginning, so that both are one handle.
    """

    parameter: str
    to_form: Callable[[Mapping[str, Any], float, float], tuple[float, float]]
    from_form: Callable[[Mapping[str, Any], float, float], tuple[float, float]]
    shown: Callable[[Mapping[str, Any]], bool] = lambda values: True
    closed: Callable[[Mapping[str, Any]], bool] = lambda values: False


@dataclass(frozen=True, slots=True)
class Kind:
    """Everything about a node kind; see docs/adding-a-node.md.

    Attributes
    ----------
    compute : callable
        ``compute(context, *inputs, **parameters)``; an array for one output, else a mapping of
        the wanted outputs by name. Inputs are read-only arrays or None.
    physical : bool
        Whether the result depends on the weave's size and depth in metres.
    synonyms : tuple of str
        Other words under which the finder finds it.
    sample : mapping
        Parameter values for its picture in the creel.
    exempt : mapping
        Laws that cannot hold for the kind, each with the reason.
    shows_histogram : bool
        Whether the settings show the first input's histogram behind the values.
    knots : KnotPlaces, optional
        How the knots of its outline can be dragged on the tile.
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
    synonyms: tuple[str, ...] = ()
    sample: Mapping[str, Any] = field(default_factory=dict)
    exempt: Mapping[str, str] = field(default_factory=dict)
    shows_histogram: bool = False
    knots: KnotPlaces | None = None

    def input(self, name: str) -> Port:
        """The input port of that name; `UnknownNameError` if there is none."""
        return _named(self.inputs, name, "input", self.id)

    def output(self, name: str) -> Port:
        """The output port of that name; `UnknownNameError` if there is none."""
        return _named(self.outputs, name, "output", self.id)

    def parameter(self, name: str) -> Parameter:
        """The parameter of that name; `UnknownNameError` if there is none."""
        return _named(self.parameters, name, "parameter", self.id)

    def defaults(self) -> dict[str, Any]:
        """Every parameter's default by name."""
        return {p.name: p.default for p in self.parameters}


def _named(items: tuple[_Named, ...], name: str, what: str, kind_id: str) -> _Named:
    for item in items:
        if item.name == name:
            return item
    raise unknown(what, name, (item.name for item in items), f"on the kind '{kind_id}'")


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
    for parameter in declared.parameters:
        parameter.check(parameter.default, declared.id)
        if not parameter.help.endswith("."):
            raise ReedError(f"{where}: the help of '{parameter.name}' is not a sentence.")
    names = [p.name for p in declared.outputs]
    if len(set(names)) != len(names) or len(set(wanted)) != len(wanted):
        raise ReedError(f"{where} uses one name twice.")


@dataclass(frozen=True, slots=True)
class Result:
    """What a compute function gave, with what it has to say about it."""

    outputs: Mapping[str, Any]
    notes: tuple[str, ...] = ()


def run_kind(
    declared: Kind, context: Context, inputs: Mapping[str, Any], values: Mapping[str, Any]
) -> Result:
    """Call the compute function and name its outputs."""
    given = [inputs.get(port.name) for port in declared.inputs]
    made = declared.compute(context, *given, **values)
    if isinstance(made, Material) or not isinstance(made, Mapping):
        made = {declared.outputs[0].name: made}
    return Result(made, tuple(context.notes))
