"""What all parameters share: a name, a default, a sentence of help, and when they matter."""

from __future__ import annotations

import random
from collections.abc import Mapping
from typing import Any, ClassVar

import numpy as np
from msgspec import Struct, field
from msgspec.structs import force_setattr

from reedloom.errors import ReedError, ValueRangeError, readable


class UnfitError(ValueError):
    """A value that a parameter cannot take; the text says what it takes instead, as part of a sentence."""


TRIES = 5
"""How many values the try strip shows."""
LARGEST = 1e6
"""Of any number in a colour, a gradient or a curve: what is computed of it stays finite."""
Tried = list[tuple[str, Any]]
"""Values worth trying, each after what it is called."""


class _Told(Struct, frozen=True, kw_only=True):
    """What is told of a parameter by name; see `Parameter`."""

    help: str
    label: str = ""
    group: str = ""
    tries: tuple[Any, ...] = ()
    mark: bool = False
    series: int = 0
    shown_if: Mapping[str, Any] = field(default_factory=dict)
    neutral: float | None = None
    former: tuple[str, ...] = ()


class Parameter(_Told, frozen=True):
    """One value a maker can set on a node. Each subclass is a type of value.

    A new type is one subclass here, with `plain`, `found_tries` and `draw`, and one editor in
    `desk/settings/editors/`; values are kept as what JSON can hold.

    Attributes
    ----------
    default : Any
        In its plain stored form.
    help : str
        One sentence.
    group : str
        Parameters of one group stand together under its name.
    tries : tuple
        The values the try strip shows, where the type's own are not the best.
    mark : bool
        Whether the value is a tone of the first input, drawn as a mark on its histogram.
    series : int
        The row of a list, from 1, that the value belongs to; see `Port`.
    shown_if : mapping of a parameter's name to a value, or a tuple of values
        The value matters only while each of these parameters has one of these values.
    neutral : float, optional
        Where the step leaves its first input as it came.
    former : tuple of str
        Names that it had before, which are still read.
    """

    word: ClassVar[str] = "value"
    is_number: ClassVar[bool] = False
    is_whole: ClassVar[bool] = False
    is_file: ClassVar[bool] = False

    name: str
    default: Any

    def __post_init__(self) -> None:
        force_setattr(self, "default", self.check(self.default))

    @property
    def title(self) -> str:
        """The label, made from the name unless declared."""
        return self.label or self.name.replace("_", " ").capitalize()

    @property
    def words(self) -> tuple[str, ...]:
        """The words it may be, for a choice; none for all else."""
        return ()

    @property
    def measure(self) -> str:
        """What is said of the unit after the help."""
        return ""

    def matters(self, values: Mapping[str, Any]) -> bool:
        """Whether the value can change anything beside these other values."""
        for name, wanted in self.shown_if.items():
            allowed = wanted if isinstance(wanted, tuple) else (wanted,)
            if values[name] not in allowed:
                return False
        return True

    def check(self, value: Any, where: str = "") -> Any:
        """Return `value` in its plain stored form.

        Raises
        ------
        ValueRangeError
            One sentence naming the parameter, the value and what would be allowed.
        """
        place = f"{where}.{self.name}" if where else self.name
        try:
            return self.plain(value)
        except UnfitError as error:
            allowed = str(error)
        except (TypeError, ValueError, ArithmeticError, LookupError, AttributeError):
            allowed = self.wanted  # Python's own words are no help to a maker
        raise ValueRangeError(f"'{readable(place)}' cannot be {shorten(value)}; {allowed}.")

    @property
    def wanted(self) -> str:
        """What is said of a value that is none of this type at all."""
        return f"use a {self.word}"

    def plain(self, value: Any) -> Any:
        """A value in its stored form.

        Raises
        ------
        UnfitError
            If it is none, with what would be; any error of Python's own is told as `wanted`.
        """
        return value

    def try_values(self, value: Any, folder: str = "") -> Tried:
        """Up to five legal values with what each is called.

        value : the present one, near which seeds, colours, gradients and choices are tried.
        folder : where the weave lies, for files.
        """
        found = [(self.caption(t), t) for t in self.tries] if self.tries else self.found_tries(value, folder)
        legal: Tried = []
        for caption, tried in found[:TRIES]:
            try:
                legal.append((caption, self.check(tried)))
            except ReedError:
                continue
        return legal

    def found_tries(self, value: Any, folder: str) -> Tried:
        """The values that are worth trying for this type; none unless it says so."""
        return []

    def caption(self, value: Any) -> str:
        """What a value is called beneath its picture."""
        if isinstance(value, str):
            return value[:1].upper() + value[1:]
        return f"{value:.3g}" if isinstance(value, float) else str(value)

    def blend(self, first: Any, second: Any, share: float) -> Any:
        """A value between two: the first at 0, the second at 1; it changes at the half unless it can run.

        share : from 0 to 1.
        """
        return first if share < 0.5 else second

    def ends(self) -> tuple[Any, ...]:
        """The values at the ends of what is legal, or each that is; the default where there are none."""
        return (self.default,)

    def draw(self, chance: random.Random) -> Any:
        """A likely value by chance, as checks want it."""
        return self.default


def shorten(value: Any) -> str:
    """A value as a person reads it, cut to a length that fits a sentence."""
    if isinstance(value, int) and abs(value) > 10**15:
        return f"a number of {len(str(min(abs(value), 10**4000)))} digits"
    return readable(repr(value), 40)


def finite_floats(values: Any, count: int) -> tuple[float, ...]:
    """Just so many finite numbers, none so large that what is computed of it would not be finite.

    Raises
    ------
    UnfitError
        If they are not.
    """
    numbers = tuple(values)
    if len(numbers) != count or not all(_is_usable(v) for v in numbers):
        raise UnfitError(f"every entry needs {count} numbers from -{LARGEST:g} to {LARGEST:g}")
    return tuple(float(v) for v in numbers)


def _is_usable(value: Any) -> bool:
    if isinstance(value, bool) or not isinstance(value, (int, float, np.integer, np.floating)):
        return False
    return abs(float(value)) <= LARGEST
