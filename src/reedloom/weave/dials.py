"""Dials and the formulas that read them: what a parameter is that follows a dial, or works one out."""

from __future__ import annotations

import ast
import json
import math
import re
from collections.abc import Iterable, Iterator, Mapping
from functools import cached_property, lru_cache
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from reedloom.errors import ReedError, unknown
from reedloom.kit.formulas import CONSTANTS, FUNCTIONS, FormulaError, read_formula
from reedloom.kit.parameters import Choice, Number, Parameter, Switch
from reedloom.weave.arithmetic import calculate
from reedloom.weave.document import Dial, Node, Surface
from reedloom.weave.memo import remembered

MEASURES = tuple(Surface().measures)
"""What formulas may read of the tile."""
WITHOUT_DIALS = {"formula"}
"""Types of parameters that cannot be dials: their values have no sense outside their node."""
SWITCH_WORDS = {"on": True, "yes": True, "true": True, "off": False, "no": False, "false": False}
GENERAL_HELP = "What this dial changes."


def _types(found: type[Parameter] = Parameter) -> Iterator[type[Parameter]]:
    yield found
    for inner in found.__subclasses__():
        yield from _types(inner)


TYPES: dict[str, type[Parameter]] = {
    cls.word: cls for cls in _types() if cls.word not in WITHOUT_DIALS | {Parameter.word}
}
"""The types a dial may have, by the word that its `type` is."""


def dial_parameter(key: str, dial: Dial) -> Parameter:
    """A dial as a parameter, by which its values are checked, edited and tried.

    Parameters
    ----------
    key : str
        The dial's id.

    Raises
    ------
    ReedError
        If its type, default or range cannot be.
    """
    known = _parameters.get((key, id(dial)))
    if known is not None:
        return known[1]
    if len(_parameters) > KEPT:
        _parameters.clear()
    parameter = _made_parameter(key, dial)
    _parameters[key, id(dial)] = (dial, parameter)
    return parameter


KEPT = 2000
_parameters: dict[tuple[str, int], tuple[Dial, Parameter]] = {}
"""What dials were made into; each is held here, so that no other can have its place in memory."""


def _made_parameter(key: str, dial: Dial) -> Parameter:
    if dial.type not in TYPES:
        raise unknown("type of dial", dial.type, TYPES)
    more: dict[str, Any] = {"label": dial.label, "group": dial.group, "help": dial.help or GENERAL_HELP}
    if issubclass(TYPES[dial.type], Number):
        if not dial.hard[0] <= dial.useful[0] <= dial.useful[1] <= dial.hard[1]:
            raise ReedError(
                f"the dial '{dial.label or key}' has a useful range that is not within its hard one."
            )
        more |= {"useful": dial.useful, "hard": dial.hard}
        more |= {"unit": dial.unit} if dial.unit else {}
    if issubclass(TYPES[dial.type], Choice):
        more["choices"] = dial.choices
    return TYPES[dial.type](key, dial.default, **more)


def dial_for(parameter: Parameter, value: Any, label: str, group: str = "") -> Dial:
    """A dial that offers what a parameter can be, with its present value as default.

    Raises
    ------
    ReedError
        If the parameter's type cannot be a dial.
    """
    if parameter.word not in TYPES:
        raise ReedError(f"A {parameter.word} cannot become a dial; it makes sense only within its node.")
    more: dict[str, Any] = {}
    if isinstance(parameter, Number):
        more = {"useful": parameter.useful, "hard": parameter.hard, "unit": parameter.unit}
        if parameter.measure.strip().startswith("In shares"):
            more["unit"] = "tile"
    return Dial(
        label=label, group=group, type=parameter.word, default=parameter.check(value),
        choices=parameter.words, help=parameter.help, **more,
    )  # fmt: skip


def plain_dials(dials: Mapping[str, Dial]) -> dict[str, Dial]:
    """Dials with their defaults in plain stored form; what cannot be stays as it is."""
    return {k: replace(dial, default=plain_value(k, dial, dial.default)) for k, dial in dials.items()}


def plain_values(dials: Mapping[str, Dial], values: Mapping[str, Any]) -> dict[str, Any]:
    """Values of dials in plain stored form; what no dial is, or none can have, stays as it is."""
    return {k: plain_value(k, dials[k], v) if k in dials else v for k, v in values.items()}


def plain_value(key: str, dial: Dial, value: Any) -> Any:
    """A value of a dial in plain stored form; as it is if the dial cannot have it."""
    try:
        return dial_parameter(key, replace(dial, default=value)).default
    except ReedError:
        return value


def read_value(key: str, dial: Dial, text: str) -> Any:
    """A dial's value as it is typed: arithmetic for a number, a word or a colour as it is, else JSON.

    Raises
    ------
    ReedError
        If it is none that the dial can have.
    """
    parameter = dial_parameter(key, dial)
    try:
        return parameter.check(text)
    except ReedError:
        pass
    if isinstance(parameter, Number):
        number = calculate(text)
        return parameter.check(round(number) if number == round(number) else number)
    if isinstance(parameter, Switch) and text.lower() in SWITCH_WORDS:
        return SWITCH_WORDS[text.lower()]
    try:
        return parameter.check(json.loads(text))
    except ValueError:
        return parameter.check(text)


def blend_settings(
    dials: Mapping[str, Dial], first: Mapping[str, Any], second: Mapping[str, Any], share: float
) -> dict[str, Any]:
    """Values of dials between two colourways: numbers run straight, colours in OKLab, all else at the half.

    Parameters
    ----------
    first, second : mapping
        Values of some dials; the others have their defaults.
    share : float
        The first at 0, the second at 1.

    Returns
    -------
    mapping
        Only values that differ from the defaults.
    """
    found = {}
    for key, dial in dials.items():
        if key not in first and key not in second:
            continue
        parameter = dial_parameter(key, dial)
        a, b = (parameter.check(held.get(key, dial.default)) for held in (first, second))
        value = parameter.check(parameter.blend(a, b, min(max(share, 0.0), 1.0)))
        if value != parameter.default:
            found[key] = value
    return found


def free_dial_id(label: str, taken: Iterable[str]) -> str:
    """An id for a new dial, by which formulas read it, such as ``crack_width``."""
    stem = re.sub(r"[^a-z0-9]+", "_", label.lower()).strip("_") or "dial"
    stem = f"dial_{stem}" if not stem[0].isalpha() else stem[:60]
    barred = {*taken, *MEASURES, *CONSTANTS, *FUNCTIONS, "if", "else", "and", "or", "not", "in", "is"}
    key, number = stem, 2
    while key in barred:
        key, number = f"{stem}_{number}", number + 1
    return key


def find_by_name(items: Mapping[str, Any], name: str, what: str, where: str = "in this weave") -> str:
    """The id of the dial, colourway or motif of that id or label.

    Raises
    ------
    UnknownNameError
        If there is none; the text has the nearest ones.
    """
    if name in items:
        return name
    for key, item in items.items():
        if name.casefold() == (getattr(item, "label", "") or getattr(item, "title", "")).casefold():
            return key
    labels = {k: (getattr(i, "label", ""), getattr(i, "title", "")) for k, i in items.items()}
    raise unknown(what, name, items, where, labels)


class Scope(Struct, frozen=True, eq=False, dict=True):
    """What formulas of one graph may read.

    Attributes
    ----------
    values : mapping
        Dials by id, and the tile's measures in metres.
    faults : mapping
        For dials whose value cannot be used the reason.
    """

    values: Mapping[str, Any]
    faults: Mapping[str, str]

    @cached_property
    def numbers(self) -> dict[str, float]:
        """Those values that are numbers."""
        return {key: float(v) for key, v in self.values.items() if _is_number(v)}

    @cached_property
    def names(self) -> frozenset[str]:
        """What formulas may call numbers by."""
        return frozenset({*self.numbers, *self.faults})


@remembered(16)
def scope_of(dials: Mapping[str, Dial], given: Mapping[str, Any], surface: Surface) -> Scope:
    """The dials of a weave or motif as they are turned, and the tile's measures.

    Parameters
    ----------
    given : mapping
        Values of some dials; the others have their defaults. A value that a dial cannot have is a
        fault of that dial alone.
    """
    values: dict[str, Any] = dict(surface.measures)
    faults: dict[str, str] = {}
    for key, dial in dials.items():
        try:
            values[key] = dial_parameter(key, dial).check(given.get(key, dial.default))
        except ReedError as error:
            faults[key] = str(error)
    return Scope(values, faults)


def drive(parameter: Parameter, formula: str, scope: Scope) -> tuple[Any, str]:
    """A parameter's value by its formula, and a sentence where that had to be held within its range.

    Parameters
    ----------
    formula : str
        The id of a dial, whose value is taken as it is, or arithmetic over numbers; of a switch it says
        on where it is not 0.

    Raises
    ------
    ReedError
        If it cannot be worked out.
    """
    name = formula.strip()
    if name in scope.faults:
        raise ReedError(f"the dial that '{parameter.title}' follows cannot be used: {scope.faults[name]}")
    if name in scope.values and not (isinstance(parameter, Number) and _is_number(scope.values[name])):
        return parameter.check(scope.values[name]), ""
    value = _work_out(parameter, formula, scope)
    if isinstance(parameter, Switch):
        return value != 0, ""
    if not isinstance(parameter, Number):
        raise ReedError(
            f"'{parameter.title}' is a {parameter.word}; it can follow a dial of that type, no arithmetic."
        )
    low, high = parameter.hard
    held = min(max(round(value) if parameter.is_whole else value, low), high)
    note = (
        "" if low <= value <= high else f"'{parameter.title}' would be {value:.4g}; it is held at {held:g}."
    )
    return parameter.check(held), note


def _is_number(value: Any) -> bool:
    return isinstance(value, (int, float))


def _work_out(parameter: Parameter, formula: str, scope: Scope) -> float:
    try:
        read = read_formula(formula, scope.names)
        faulty = sorted(read.names & scope.faults.keys())
        if faulty:
            raise ReedError(f"the dial '{faulty[0]}' cannot be used: {scope.faults[faulty[0]]}")
        value = float(read(scope.numbers))
    except FormulaError as error:
        raise ReedError(f"the formula of '{parameter.title}' cannot be worked out: {error}") from None
    if not math.isfinite(value):
        raise ReedError(f"the formula of '{parameter.title}' has no finite value.")
    return value


@lru_cache(4096)
def names_in(formula: str) -> frozenset[str]:
    """The names that a formula reads, whether or not they stand for anything."""
    try:
        tree = ast.parse(f"({formula.replace('^', '**')})", mode="eval")
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        return frozenset(re.findall(r"[A-Za-z_]\w*", formula)) - FUNCTIONS.keys()
    return frozenset(n.id for n in ast.walk(tree) if isinstance(n, ast.Name)) - FUNCTIONS.keys()


def driven_by(nodes: Mapping[str, Node], dial: str) -> list[tuple[str, str]]:
    """The nodes and parameters whose formulas read a dial."""
    return [
        (node_id, name)
        for node_id, node in nodes.items()
        for name, formula in node.formulas.items()
        if dial in names_in(formula)
    ]
