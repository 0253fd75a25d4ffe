"""Rows that are moved aside: how many there are and how far each goes, so that the last meets the first."""

from __future__ import annotations

import numpy as np

from reedloom.kit import Change, Choice, Context

EVERY = {"every second": 2, "every third": 3}
SHIFTED = Choice(
    "shifted",
    "every second",
    (*EVERY, "cumulative"),
    help="Which rows are moved; cumulative moves each on from the one above.",
)
CLOSING = Change("Rows that do not fit their shift are snapped to as many as do, and the node says so.")


def fitting(context: Context, count: int, every: int, what: str = "rows") -> int:
    """The nearest number that is whole groups of `every`, the higher of two; told where it differs."""
    fit = every * max(1, (2 * count + every) // (2 * every))
    if fit != count:
        context.report(f"{count} {what} are snapped to {fit}, so that the last meets the first.")
    return fit


def fitting_rows(context: Context, rows: int, shift: float, shifted: str = "every second") -> int:
    """How many rows there are, where every so many is moved by a share of a cell."""
    if shifted not in EVERY or abs(shift - round(shift)) < 1e-6:
        return rows
    return fitting(context, rows, EVERY[shifted])


def row_shifts(context: Context, rows: int, shift: float, shifted: str) -> np.ndarray:
    """How far each of the rows that fit is moved, in cells; whole over the tile where it runs on."""
    rows = fitting_rows(context, rows, shift, shifted)
    number = np.arange(rows)
    if shifted == "cumulative":
        whole = round(shift * rows)
        if abs(whole - shift * rows) > 1e-6:
            context.report(
                f"The shift is snapped to {whole / rows:.4g} so that the last row meets the first."
            )
        return (number * whole / rows).astype(np.float32)
    every = EVERY[shifted]
    return np.where(number % every == every - 1, shift, 0).astype(np.float32)
