"""A number as typed into a field: "1/3", "2*0.15", "sqrt(2)/2", in the language of formulas."""

from __future__ import annotations

import math

from reedloom.errors import ReedError
from reedloom.kit.formulas import LARGEST, FormulaError, read_formula


def calculate(text: str) -> float:
    """The value of a formula without inputs.

    Parameters
    ----------
    text : str
        Such as ``1/3 + sqrt(2)``.

    Returns
    -------
    float

    Raises
    ------
    ReedError
        If it cannot be read or has no finite value.
    """
    source = text.strip().replace(",", ".") if "(" not in text else text.strip()
    if not source:
        raise ReedError("Type a number or simple arithmetic, such as 1/3.")
    try:
        value = float(read_formula(source)({}))
    except FormulaError as error:
        raise ReedError(f"'{source}' is not a number. {error}") from None
    if not math.isfinite(value) or abs(value) >= 0.999 * LARGEST:
        raise ReedError(f"'{source}' has no value that can be used; it is too large.")
    return value
