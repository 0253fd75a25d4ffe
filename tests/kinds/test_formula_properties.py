"""Random formulas: over maps they give at each sample what they give for that sample's numbers.

And run as a program, step by step, what they give worked out whole.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as some

import reedloom as rl
from reedloom.data import shipped_weaves
from reedloom.errors import ReedError
from reedloom.kernels.programs import RUN
from reedloom.kit.formulas import FUNCTIONS, LARGEST, FormulaError, read_formula
from reedloom.kit.map_formulas import MAP_FUNCTIONS
from reedloom.kit.programs import program_of, reader_of

NAMES = frozenset("ab")
FORMULAS = sorted(
    {
        values["formula"]
        for path in shipped_weaves().values()
        for node in rl.open_weave(path).document.graph.nodes.values()
        if node.kind == "formula" and "sin" not in (values := dict(node.parameters)).get("formula", "sin")
    }
)
"""What the shipped weaves' own formulas ask for, but for sines."""
STEADY = sorted(FUNCTIONS.keys() - {"tan", "floor", "ceil", "round", "fract", "sign"})
"""Functions without a jump, where maps of 32 bits and numbers of 64 would fall to different sides."""
WRITTEN = ("abs", "floor", "sqrt", "fract", "min", "max", "clamp", "mix", "mod", "step", "smoothstep")
"""Functions that programs have steps for."""
NUMBERS = (0.0, 1.0, 0.25, 2.0, 0.5, 3.0, 1e-3, 12.5)


def texts() -> some.SearchStrategy[str]:
    """Formulas over a, b and plain numbers."""
    leaf = some.sampled_from(["a", "b", "pi", *map(repr, NUMBERS)])
    return some.recursive(leaf, _larger, max_leaves=12)


def _larger(inner: some.SearchStrategy[str]) -> some.SearchStrategy[str]:
    pairs = some.tuples(inner, some.sampled_from("+-*/"), inner).map(lambda p: f"({p[0]} {p[1]} {p[2]})")
    choices = some.tuples(inner, inner).map(lambda p: f"({p[0]} if a > 0.31 else {p[1]})")
    signs = inner.map(lambda text: f"(-{text})")
    return some.one_of(pairs, choices, signs, some.sampled_from(STEADY).flatmap(lambda n: _calls(n, inner)))


def _calls(name: str, inner: some.SearchStrategy[str]) -> some.SearchStrategy[str]:
    _, least, most = (FUNCTIONS | MAP_FUNCTIONS)[name]
    many = some.lists(inner, min_size=least, max_size=min(most, least + 1))
    return many.map(lambda given: f"{name}({', '.join(given)})")


def close(got: float, wanted: float, size: float) -> bool:
    """Equal to what 32 bits can tell, where steps in between may have been `size` large."""
    return math.isclose(got, wanted, rel_tol=2e-3, abs_tol=2e-5 * max(1.0, size))


@settings(max_examples=300, deadline=None)
@given(texts())
def test_a_formula_over_maps_is_the_formula_of_each_samples_numbers(text: str) -> None:
    a = np.linspace(-0.4, 1.3, 12, dtype=np.float32).reshape(3, 4, 1)
    b = np.linspace(0.9, 0.05, 12, dtype=np.float32).reshape(3, 4, 1)
    try:
        read = read_formula(text, NAMES, True)
    except FormulaError as error:
        assert "too many" in str(error) or "longer" in str(error) or "more than" in str(error)
        return
    try:
        together = np.broadcast_to(np.asarray(read({"a": a, "b": b})), a.shape)
    except ReedError as error:
        assert "division by 0" in str(error)  # of numbers alone, whatever the maps are
        return
    assert np.isfinite(together).all() and np.abs(together).max() <= LARGEST
    for at in np.ndindex(3, 4):
        here = {"a": float(a[at][0]), "b": float(b[at][0])}
        nudged = [{name: value * (1 + step) for name, value in here.items()} for step in (-3e-6, 3e-6)]
        try:
            alone, *beside = (float(read(values)) for values in (here, *nudged))
        except ReedError:
            continue  # where a number is 0 a map gives 0, and goes on
        if max(abs(alone - other) for other in beside) > 1e-4 * max(1.0, abs(alone)):
            continue  # too steep here for any check
        assert close(float(together[at][0]), alone, abs(alone)), (text, here)


def programs() -> some.SearchStrategy[str]:
    """Formulas over a, b, the number p and plain numbers, of what programs have steps for."""
    leaf = some.sampled_from(["a", "b", "p", *map(repr, NUMBERS)])
    signs = ("+", "-", "*", "/", "%", "<", "<=", ">", ">=", "==", "!=", "and", "or")

    def larger(inner: some.SearchStrategy[str]) -> some.SearchStrategy[str]:
        pairs = some.tuples(inner, some.sampled_from(signs), inner).map(lambda p: f"({p[0]} {p[1]} {p[2]})")
        choices = some.tuples(inner, inner, inner).map(lambda p: f"({p[0]} if {p[1]} else {p[2]})")
        single = some.tuples(some.sampled_from(["-", "not "]), inner).map(lambda p: f"({p[0]}{p[1]})")
        squares = inner.map(lambda text: f"({text} ** 2)")
        calls = some.sampled_from(WRITTEN).flatmap(lambda name: _calls(name, inner))
        return some.one_of(pairs, choices, single, squares, calls)

    return some.recursive(leaf, larger, max_leaves=12)


@settings(max_examples=300, deadline=None)
@given(programs())
def test_a_program_gives_what_its_formula_gives(text: str) -> None:
    """NumPy's own arithmetic is the reference: the same numbers, whatever order rows are used in."""
    maps = {
        "a": np.linspace(-0.4, 1.3, RUN + 88, dtype=np.float32).reshape(3, 200, 1),
        "b": np.round(np.linspace(0.9, -0.3, RUN + 88, dtype=np.float32), 1).reshape(3, 200, 1),
    }
    own = {"p": np.float32(0.3)}
    try:
        read = read_formula(text, NAMES | {"p"}, True)
        wanted = np.broadcast_to(np.asarray(read({**maps, **own})), maps["a"].shape)
    except ReedError:
        return
    used = {name: map for name, map in maps.items() if name in read.names}
    reader, room = reader_of(read, tuple(used), own, are_grey=True), np.empty(wanted.shape, np.float32)
    for found in (reader.read(used), reader.read(used, room)):
        got = np.broadcast_to(np.asarray(found), wanted.shape)
        assert got == pytest.approx(wanted, rel=2e-6, abs=1e-6), text
    assert not reader.in_one_pass or found is room


@pytest.mark.parametrize("text", [*FORMULAS, "a if a > 0.2 and not b > p else -b % 0.3"])
def test_what_weaves_ask_for_is_run_as_programs(text: str) -> None:
    read = read_formula(text, frozenset("abcdfghkuvpqrs"), True)
    assert program_of(read, tuple(sorted(read.names - set("pqrs")))) is not None


@pytest.mark.parametrize("text", ["a / 0", "a % 0"])
def test_a_program_divides_by_no_number_0(text: str) -> None:
    reader = reader_of(read_formula(text, NAMES, True), ("a",), {}, are_grey=True)
    with pytest.raises(ReedError, match="division by 0"):
        reader.read({"a": np.ones((2, 2, 1), np.float32)})
