"""Formulas: one small expression language for number fields, formula nodes and plotted shapes.

Arithmetic, comparisons, `x if condition else y`, and a short list of mathematical functions over named
inputs. Python's own parser reads the text and a whitelist lets through only what is listed here: no
attribute, no item, no other name; size and powers are bounded. So no formula can reach anything else.
"""

from __future__ import annotations

import ast
import math
from collections.abc import Callable, Iterable, Mapping
from functools import lru_cache
from types import CodeType
from typing import Any

import numpy as np
from msgspec import Struct

from reedloom.errors import ReedError
from reedloom.kernels.tones import held_finite, smoothed
from reedloom.kit.map_formulas import MAP_FUNCTIONS

LENGTH_LIMIT = 400
NODE_LIMIT = 200
POWER_LIMIT = 64
"""Greatest exponent that may be written as a number."""
LARGEST = 1e18
"""Results are held within this, so that what follows stays finite."""

CONSTANTS = {"pi": math.pi, "e": math.e}


def _width(low: Any, high: Any) -> Any:
    """How far a smooth rise goes; plain numbers leave maps at 32 bits."""
    wide = high - low
    return float(wide) or 1e-9 if np.ndim(wide) == 0 else np.where(np.equal(wide, 0), np.float32(1e-9), wide)


def _smoothstep(low: Any, high: Any, x: Any) -> Any:
    wide = _width(low, high)
    if np.ndim(wide) == 0 and np.ndim(low) == 0 and isinstance(x, np.ndarray) and x.dtype == np.float32:
        return smoothed(x, low, wide)
    t = np.minimum(np.maximum((x - low) / wide, 0), 1)
    return t * t * (3 - 2 * t)


FUNCTIONS: dict[str, tuple[Callable[..., Any], int, int]] = {
    "sin": (np.sin, 1, 1),
    "cos": (np.cos, 1, 1),
    "tan": (np.tan, 1, 1),
    "asin": (lambda x: np.arcsin(np.clip(x, -1, 1)), 1, 1),
    "acos": (lambda x: np.arccos(np.clip(x, -1, 1)), 1, 1),
    "atan": (np.arctan, 1, 1),
    "atan2": (np.arctan2, 2, 2),
    "sqrt": (lambda x: np.sqrt(np.maximum(x, 0)), 1, 1),
    "exp": (np.exp, 1, 1),
    "log": (lambda x: np.log(np.maximum(x, 1e-30)), 1, 1),
    "abs": (np.abs, 1, 1),
    "sign": (np.sign, 1, 1),
    "floor": (np.floor, 1, 1),
    "ceil": (np.ceil, 1, 1),
    "round": (np.round, 1, 1),
    "fract": (lambda x: x - np.floor(x), 1, 1),
    "hypot": (np.hypot, 2, 2),
    "min": (lambda *all_: _fold(np.minimum, all_), 2, 12),
    "max": (lambda *all_: _fold(np.maximum, all_), 2, 12),
    "clamp": (lambda x, low=0.0, high=1.0: np.minimum(np.maximum(x, low), high), 1, 3),
    "mix": (lambda a, b, t: a + (b - a) * t, 3, 3),
    "smoothstep": (_smoothstep, 3, 3),
}
"""Each function with the least and the greatest number of its arguments."""


def _fold(pair: Callable[[Any, Any], Any], values: tuple[Any, ...]) -> Any:
    result = values[0]
    for value in values[1:]:
        result = _weak(pair)(result, value)
    return result


def _weak(function: Callable[..., Any]) -> Callable[..., Any]:
    """Of numbers alone a plain number, beside which a map stays at 32 bits."""

    def answer(*values: Any) -> Any:
        found = function(*values)
        return float(found) if np.ndim(found) == 0 else found

    return answer


class FormulaError(ReedError):
    """A formula that cannot be read; `at` is the character (from 0) where the trouble is."""

    def __init__(self, reason: str, at: int) -> None:
        super().__init__(f"At character {at + 1}: {reason}.")
        self.at = at


class Formula(Struct, frozen=True, eq=False):
    """A formula that was read and found sound.

    Attributes
    ----------
    body : ast.expr
        The text as calls of what formulas know.
    names : frozenset of str
        The inputs it uses.
    """

    text: str
    body: ast.expr
    code: CodeType
    names: frozenset[str]

    def __call__(self, values: Mapping[str, Any]) -> Any:
        """The value for named numbers or arrays; never NaN, and within ±1e18.

        Raises
        ------
        ReedError
            If it divides by the number 0, or puts a vector and a colour together.
        """
        raw = evaluate(self.code, values)
        if type(raw) is float:  # as dials give: NumPy would take longer than all the formula
            return 0.0 if math.isnan(raw) else min(max(raw, -LARGEST), LARGEST)
        if isinstance(raw, np.ndarray) and raw.dtype == np.float32:
            return held_finite(raw, LARGEST)
        return np.clip(np.nan_to_num(raw, nan=0.0, posinf=LARGEST, neginf=-LARGEST), -LARGEST, LARGEST)


@lru_cache(512)
def read_formula(text: str, names: frozenset[str] = frozenset(), of_maps: bool = False) -> Formula:
    """Read a formula over the inputs `names`; one of maps has `MAP_FUNCTIONS` too.

    Raises
    ------
    FormulaError
        Naming the character and the reason.
    """
    if not text.strip():
        raise FormulaError("there is no formula; write one, such as (a + b) / 2", 0)
    if len(text) > LENGTH_LIMIT:
        raise FormulaError(f"the formula is longer than {LENGTH_LIMIT} characters", LENGTH_LIMIT)
    source = text.replace("−", "-").replace("×", "*").replace("^", "**")
    try:
        tree = ast.parse("(" + source.replace("\n", " ") + ")", mode="eval")
    except (SyntaxError, ValueError) as error:
        at = (getattr(error, "offset", None) or 1) - 2
        raise FormulaError(_syntax_reason(source, error), min(max(at, 0), len(text) - 1)) from None
    except (RecursionError, MemoryError):
        raise FormulaError("the formula is nested too deeply", 0) from None
    checker = _Checker(names, FUNCTIONS | MAP_FUNCTIONS if of_maps else FUNCTIONS)
    body = checker.check(tree.body)
    return Formula(text, body, code_of(body), frozenset(checker.used))


def code_of(body: ast.expr) -> CodeType:
    """What a checked part of a formula is worked out by."""
    return compile(ast.fix_missing_locations(ast.Expression(body)), "<formula>", "eval")


def evaluate(code: CodeType, values: Mapping[str, Any]) -> Any:
    """What a part of a formula gives for named numbers or arrays; may be no number.

    Raises
    ------
    ReedError
        As a formula does.
    """
    with np.errstate(all="ignore"):
        try:
            return eval(code, _ENVIRONMENT, values)
        except ZeroDivisionError:
            raise ReedError("The formula has no value: a division by 0.") from None
        except ValueError:
            raise ReedError(
                "The formula puts a vector and a colour together; take parts, as in red(a) or across(a)."
            ) from None


def _syntax_reason(source: str, error: Exception) -> str:
    opened, closed = source.count("("), source.count(")")
    if opened != closed:
        return "one bracket too many is closed" if closed > opened else "a bracket is not closed"
    if isinstance(error, SyntaxError):
        return "this cannot be read; an operator or a value is missing"
    return "it holds a sign that no formula can hold"


_BINARY: dict[type[ast.operator], str] = {
    ast.Add: "_add", ast.Sub: "_minus", ast.Mult: "_mul", ast.Div: "_div", ast.Mod: "_mod", ast.Pow: "_pow",
}  # fmt: skip
_COMPARE: dict[type[ast.cmpop], str] = {
    ast.Lt: "_lt", ast.LtE: "_le", ast.Gt: "_gt", ast.GtE: "_ge", ast.Eq: "_eq", ast.NotEq: "_ne",
}  # fmt: skip


def _as_numbers(compare: Callable[[Any, Any], Any]) -> Callable[[Any, Any], Any]:
    def answer(a: Any, b: Any) -> Any:
        found = compare(a, b)
        return float(found) if np.ndim(found) == 0 else np.asarray(found, np.float32)

    return answer


def _divide(a: Any, b: Any) -> Any:
    """Where a map used as divisor is 0, the result is 0: a map with one such sample is still a map."""
    if np.ndim(b) == 0 and b == 0:
        raise ZeroDivisionError
    if np.ndim(a) == 0 and np.ndim(b) == 0:
        return float(a) / float(b)  # a number is no map: it keeps all its digits
    return np.where(np.equal(b, 0), np.float32(0), np.divide(a, np.where(np.equal(b, 0), np.float32(1), b)))


def _choose(condition: Any, a: Any, b: Any) -> Any:
    if np.ndim(condition) == 0:
        return a if condition != 0 else b
    # Two plain numbers would give a map of 64 bits.
    a, b = (np.float32(x) if np.ndim(x) == 0 else x for x in (a, b))
    return np.where(np.not_equal(condition, 0), a, b)


def _power(a: Any, b: Any) -> Any:
    """Of a negative number only whole powers exist; others give 0."""
    result = np.power(a, b)
    if np.ndim(result) == 0:
        return 0.0 if np.isnan(result) else float(result)
    return np.where(np.isnan(result), np.float32(0), result)


_ENVIRONMENT: dict[str, Any] = {
    "__builtins__": {},
    "_add": _weak(np.add), "_minus": _weak(np.subtract), "_mul": _weak(np.multiply),
    "_div": _divide, "_pow": _power,
    "_mod": _weak(lambda a, b: a - b * np.floor(_divide(a, b))),
    "_lt": _as_numbers(np.less), "_le": _as_numbers(np.less_equal), "_gt": _as_numbers(np.greater),
    "_ge": _as_numbers(np.greater_equal), "_eq": _as_numbers(np.equal), "_ne": _as_numbers(np.not_equal),
    "_where": _choose,
    "_and": _as_numbers(np.logical_and), "_or": _as_numbers(np.logical_or),
    "_not": lambda a: _as_numbers(np.equal)(a, 0),
    "_neg": _weak(np.negative), "_width": _width,
    **{f"_f_{name}": _weak(function) for name, (function, _, _) in {**FUNCTIONS, **MAP_FUNCTIONS}.items()},
}  # fmt: skip


class _Checker:
    """Turns a parsed expression into calls of the functions above, or says what it will not have."""

    def __init__(self, names: Iterable[str], functions: Mapping[str, tuple[Any, int, int]]) -> None:
        self.names, self.functions = frozenset(names), functions
        self.used: set[str] = set()
        self.count = 0

    def check(self, node: ast.expr) -> ast.expr:
        at = max(0, node.col_offset - 1)
        self.count += 1
        if self.count > NODE_LIMIT:
            raise FormulaError(f"the formula has more than {NODE_LIMIT} parts", at)
        handler = getattr(self, f"_{type(node).__name__.lower()}", None)
        if handler is None:
            raise FormulaError(f"{_refusal(node)} cannot stand in a formula", at)
        made: ast.expr = handler(node, at)
        return made

    def _constant(self, node: ast.Constant, at: int) -> ast.expr:
        if isinstance(node.value, bool) or not isinstance(node.value, (int, float)):
            raise FormulaError("only numbers can stand here", at)
        try:
            value = float(node.value)
        except OverflowError:
            value = math.inf
        if not abs(value) <= LARGEST:
            raise FormulaError("the number is too large", at)
        return ast.Constant(value)

    def _name(self, node: ast.Name, at: int) -> ast.expr:
        if node.id in self.names:
            self.used.add(node.id)
            return ast.Name(node.id, ast.Load())
        if node.id in CONSTANTS:
            return ast.Constant(CONSTANTS[node.id])
        known = ", ".join(sorted(self.names | CONSTANTS.keys()))
        hint = f"; write {node.id}(...)" if node.id in self.functions else f"; there is: {known}"
        raise FormulaError(f"'{node.id}' is unknown here{hint}", at)

    def _binop(self, node: ast.BinOp, at: int) -> ast.expr:
        name = _BINARY.get(type(node.op))
        if name is None:
            raise FormulaError("of operators there are + - * / % and ** here", node.right.col_offset - 2)
        if isinstance(node.op, ast.Pow):
            exponent = node.right.operand if isinstance(node.right, ast.UnaryOp) else node.right
            written = exponent.value if isinstance(exponent, ast.Constant) else 0
            if isinstance(written, (int, float)) and abs(written) > POWER_LIMIT:
                raise FormulaError(f"powers go up to {POWER_LIMIT}", max(0, node.right.col_offset - 1))
        return call_of(name, self.check(node.left), self.check(node.right))

    def _unaryop(self, node: ast.UnaryOp, at: int) -> ast.expr:
        inner = self.check(node.operand)
        if isinstance(node.op, ast.UAdd):
            return inner
        if isinstance(node.op, ast.Invert):
            raise FormulaError("'~' cannot stand in a formula", at)
        return call_of("_neg" if isinstance(node.op, ast.USub) else "_not", inner)

    def _compare(self, node: ast.Compare, at: int) -> ast.expr:
        terms = [self.check(t) for t in (node.left, *node.comparators)]
        result: ast.expr | None = None
        for number, op in enumerate(node.ops):
            name = _COMPARE.get(type(op))
            if name is None:
                raise FormulaError("of comparisons there are < <= > >= == and != here", at)
            part = call_of(name, terms[number], terms[number + 1])
            result = part if result is None else call_of("_and", result, part)
        assert result is not None
        return result

    def _boolop(self, node: ast.BoolOp, at: int) -> ast.expr:
        name = "_and" if isinstance(node.op, ast.And) else "_or"
        result = self.check(node.values[0])
        for value in node.values[1:]:
            result = call_of(name, result, self.check(value))
        return result

    def _ifexp(self, node: ast.IfExp, at: int) -> ast.expr:
        return call_of("_where", self.check(node.test), self.check(node.body), self.check(node.orelse))

    def _call(self, node: ast.Call, at: int) -> ast.expr:
        if not isinstance(node.func, ast.Name) or node.func.id not in self.functions:
            shown = node.func.id if isinstance(node.func, ast.Name) else "this"
            raise FormulaError(f"there is no function '{shown}'; there is: {', '.join(self.functions)}", at)
        _, least, most = self.functions[node.func.id]
        starred = any(isinstance(a, ast.Starred) for a in node.args)
        if node.keywords or starred or not least <= len(node.args) <= most:
            wanted = str(least) if least == most else f"{least} to {most}"
            raise FormulaError(f"'{node.func.id}' takes {wanted} value(s)", at)
        return call_of(f"_f_{node.func.id}", *(self.check(a) for a in node.args))


def call_of(name: str, *arguments: ast.expr) -> ast.expr:
    """A call of what formulas know by this name."""
    return ast.Call(ast.Name(name, ast.Load()), list(arguments), [])


def _refusal(node: ast.expr) -> str:
    words = {
        "Attribute": "a full stop after a name", "Subscript": "square brackets", "Lambda": "'lambda'",
        "List": "a list", "Tuple": "a comma outside a function", "Dict": "curly brackets",
        "Set": "curly brackets", "JoinedStr": "a text", "NamedExpr": "an assignment",
    }  # fmt: skip
    return words.get(type(node).__name__, "this")
