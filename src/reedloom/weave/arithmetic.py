"""Simple arithmetic as typed into a number field: "1/3", "2*0.15", "-(3 + 1)". Nothing else runs."""

from __future__ import annotations

import ast
import math
import operator

from reedloom.errors import ReedError

LENGTH_LIMIT = 80
_OPERATORS = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
}


def calculate(text: str) -> float:
    """The value of an arithmetic expression.

    Raises
    ------
    ReedError
        If it is anything but numbers, + - * /, brackets, or has no finite value.
    """
    source = text.strip().replace(",", ".").replace("−", "-")
    if not source or len(source) > LENGTH_LIMIT:
        raise ReedError("Type a number or simple arithmetic, such as 1/3.")
    try:
        value = _value(ast.parse(source, mode="eval").body, source)
    except (SyntaxError, ValueError, RecursionError):
        raise ReedError(f"'{source}' is not a number; type one, or simple arithmetic such as 1/3.") from None
    except (ZeroDivisionError, OverflowError):
        raise ReedError(f"'{source}' has no value; a division by 0 or a number too large.") from None
    if not math.isfinite(value):
        raise ReedError(f"'{source}' has no finite value.")
    return value


def _value(node: ast.expr, source: str) -> float:
    if isinstance(node, ast.Constant) and type(node.value) in {int, float}:
        return float(node.value)  # type: ignore[arg-type]
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, (ast.USub, ast.UAdd)):
        value = _value(node.operand, source)
        return -value if isinstance(node.op, ast.USub) else value
    if isinstance(node, ast.BinOp) and type(node.op) in _OPERATORS:
        return float(_OPERATORS[type(node.op)](_value(node.left, source), _value(node.right, source)))
    raise ReedError(
        f"'{source}' has something other than numbers, + - * / and brackets "
        f"at character {node.col_offset + 1}."
    )
