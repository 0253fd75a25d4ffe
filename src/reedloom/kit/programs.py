"""Formulas over grey maps as programs: short lists of steps that a kernel runs in one pass over the maps.

What has no step of its own, and what holds colours or vectors, is worked out by the formula itself.
"""

from __future__ import annotations

import ast
from collections.abc import Callable, Mapping
from functools import lru_cache
from types import CodeType
from typing import Any

import numpy as np
from msgspec import Struct

from reedloom.kernels import programs as do
from reedloom.kernels.maps import empty_map
from reedloom.kernels.programs import run_program
from reedloom.kit.formulas import LARGEST, Formula, call_of, code_of, evaluate

Row = tuple[str, int]
"""A map's, a number's or a step's row, by its place among those."""


class Program(Struct, frozen=True, eq=False):
    """What a formula asks for, step by step.

    Attributes
    ----------
    steps : (s, 5) int64
        As `run_program` takes them.
    numbers : tuple of code
        What is worked out of numbers alone.
    divisors : frozenset of int
        Which of them nothing can be divided by if they are 0.
    rows : int
        How many rows it needs.
    """

    steps: np.ndarray
    numbers: tuple[CodeType, ...]
    divisors: frozenset[int]
    rows: int


class Reader(Struct, frozen=True, eq=False):
    """What works a formula out for rows of maps.

    Attributes
    ----------
    read : callable
        From each map's rows, (n, W, channels) float32, to the value: the same, or what numbers alone give; it
        raises ReedError as the formula itself does. Room for (n, W, 1) may be given, and is filled if it is
        what comes back.
    in_one_pass : bool
        Whether it goes over all maps at once, and makes none between.
    """

    read: Callable[..., Any]
    in_one_pass: bool


def reader_of(
    formula: Formula, maps: tuple[str, ...], numbers: Mapping[str, Any], *, are_grey: bool
) -> Reader:
    """What works a formula out for rows of maps.

    Parameters
    ----------
    maps : tuple of names
        Those that are maps.
    numbers : mapping of name to number
        Its other names.
    are_grey : bool
        Whether all maps have one channel.
    """
    program = program_of(formula, maps) if maps and are_grey else None
    known = [evaluate(code, numbers) for code in program.numbers] if program else []
    if program is None or any(known[number] == 0 for number in program.divisors):
        return Reader(lambda rows, room=None: formula({**rows, **numbers}), False)
    steps, count = program.steps, program.rows
    with np.errstate(over="ignore"):
        told = np.array(known, np.float32)

    def read(rows: Mapping[str, np.ndarray], room: np.ndarray | None = None) -> np.ndarray:
        given = [np.ascontiguousarray(rows[name], np.float32) for name in maps]
        out = empty_map(given[0].shape) if room is None else room
        where = np.array([map.ctypes.data for map in given])
        run_program(steps, where, told, count, np.float32(LARGEST), out.reshape(-1))
        return out

    return Reader(read, True)


@lru_cache(128)
def program_of(formula: Formula, maps: tuple[str, ...]) -> Program | None:
    """The program of a formula over these maps, or None where one is missing a step."""
    writer = _Writer(maps)
    try:
        result = writer.write(formula.body)
    except _NoStepError:
        return None
    if result[0] == "map":  # the last step gives the result: a map alone needs one
        writer.step(do.HIGHER, result, result)
    return writer.program()


class _NoStepError(Exception):
    """A part of a formula has no step."""


class _Writer:
    """Writes a checked formula down as steps."""

    def __init__(self, maps: tuple[str, ...]) -> None:
        self.maps = maps
        self.steps: list[tuple[int, tuple[Row, ...]]] = []
        self.numbers: dict[str, CodeType] = {}
        self.divisors: set[int] = set()

    def write(self, node: ast.expr) -> Row:
        """The row of what a part of the formula gives."""
        if not any(isinstance(part, ast.Name) and part.id in self.maps for part in ast.walk(node)):
            return self.number(node)
        if isinstance(node, ast.Name):
            return ("map", self.maps.index(node.id))
        if not isinstance(node, ast.Call) or not isinstance(node.func, ast.Name):
            raise _NoStepError
        name = node.func.id
        if name == "_f_smoothstep":
            return self._rise(*node.args)
        if name == "_pow" and isinstance(power := node.args[1], ast.Constant) and power.value == 2:
            base = self.write(node.args[0])
            return self.step(do.MULTIPLY, base, base)
        if name not in WAYS:
            raise _NoStepError
        parts = [self.write(part) for part in node.args]
        if name in {"_div", "_mod"} and parts[1][0] == "number":
            self.divisors.add(parts[1][1])
        return WAYS[name](self, *parts)

    def number(self, node: ast.expr) -> Row:
        """The row of what numbers alone give."""
        told = ast.dump(node)
        if told not in self.numbers:
            self.numbers[told] = code_of(node)
        return ("number", list(self.numbers).index(told))

    def plain(self, value: float) -> Row:
        """The row of a plain number."""
        return self.number(ast.Constant(value))

    def step(self, what: int, *rows: Row) -> Row:
        """Do something to rows; the row of what comes of it."""
        self.steps.append((what, rows))
        return ("step", len(self.steps) - 1)

    def _rise(self, low: ast.expr, high: ast.expr, x: ast.expr) -> Row:
        begin, wide = self.write(low), self.write(call_of("_width", low, high))
        if begin[0] != "number" or wide[0] != "number":
            raise _NoStepError
        return self.step(do.RISE, self.write(x), begin, wide)

    def program(self) -> Program:
        """The steps with their rows numbered, a row taking the place of one that is no longer needed."""
        first = len(self.maps) + len(self.numbers)
        last = {row: number for number, (_, rows) in enumerate(self.steps) for row in rows}
        places = {("map", n): n for n in range(len(self.maps))}
        places |= {("number", n): len(self.maps) + n for n in range(len(self.numbers))}
        free: list[int] = []
        count, table = first, np.zeros((len(self.steps), 5), np.int64)
        for number, (what, rows) in enumerate(self.steps):
            if free:
                into = free.pop()
            else:
                into, count = count, count + 1
            places["step", number] = into
            table[number, :2] = what, into
            table[number, 2 : 2 + len(rows)] = [places[row] for row in rows]
            free += {places[row] for row in rows if row[0] == "step" and last[row] == number}
        return Program(table, tuple(self.numbers.values()), frozenset(self.divisors), count)


def _two(what: int) -> Callable[..., Row]:
    return lambda w, a, b: w.step(what, a, b)


def _one(what: int) -> Callable[..., Row]:
    return lambda w, a: w.step(what, a)


def _folded(what: int) -> Callable[..., Row]:
    def fold(w: _Writer, first: Row, *others: Row) -> Row:
        for other in others:
            first = w.step(what, first, other)
        return first

    return fold


def _clamped(w: _Writer, x: Row, low: Row | None = None, high: Row | None = None) -> Row:
    raised = w.step(do.HIGHER, x, low or w.plain(0.0))
    return w.step(do.LOWER, raised, high or w.plain(1.0))


def _mixed(w: _Writer, a: Row, b: Row, t: Row) -> Row:
    return w.step(do.ADD, a, w.step(do.MULTIPLY, w.step(do.SUBTRACT, b, a), t))


def _left(w: _Writer, a: Row, b: Row) -> Row:
    whole = w.step(do.FLOOR, w.step(do.DIVIDE, a, b))
    return w.step(do.SUBTRACT, a, w.step(do.MULTIPLY, b, whole))


def _shows(w: _Writer, a: Row) -> Row:
    return w.step(do.DIFFERS, a, w.plain(0.0))


WAYS: dict[str, Callable[..., Row]] = {
    "_add": _two(do.ADD),
    "_minus": _two(do.SUBTRACT),
    "_mul": _two(do.MULTIPLY),
    "_div": _two(do.DIVIDE),
    "_mod": _left,
    "_f_mod": _left,
    "_lt": _two(do.IS_LESS),
    "_le": _two(do.IS_LEAST),
    "_gt": lambda w, a, b: w.step(do.IS_LESS, b, a),
    "_ge": lambda w, a, b: w.step(do.IS_LEAST, b, a),
    "_f_step": lambda w, edge, x: w.step(do.IS_LEAST, edge, x),
    "_eq": _two(do.IS_EQUAL),
    "_ne": _two(do.DIFFERS),
    "_where": lambda w, c, a, b: w.step(do.CHOOSE, c, a, b),
    "_and": lambda w, a, b: w.step(do.MULTIPLY, _shows(w, a), _shows(w, b)),
    "_or": lambda w, a, b: w.step(do.HIGHER, _shows(w, a), _shows(w, b)),
    "_not": lambda w, a: w.step(do.IS_EQUAL, a, w.plain(0.0)),
    "_neg": lambda w, a: w.step(do.MULTIPLY, a, w.plain(-1.0)),
    "_f_abs": _one(do.SIZE),
    "_f_floor": _one(do.FLOOR),
    "_f_sqrt": _one(do.ROOT),
    "_f_fract": lambda w, a: w.step(do.SUBTRACT, a, w.step(do.FLOOR, a)),
    "_f_min": _folded(do.LOWER),
    "_f_max": _folded(do.HIGHER),
    "_f_clamp": _clamped,
    "_f_mix": _mixed,
}
"""How what a formula calls is written in steps."""
