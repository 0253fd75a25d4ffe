"""Formulas of any signs: each has a finite value, or is refused in a sentence."""

from __future__ import annotations

import random

import numpy as np
from hostile import TEXTS, FaultError, in_a_sentence

from reedloom.kit.formulas import FUNCTIONS, read_formula
from reedloom.weave.arithmetic import calculate

PIECES = (
    *FUNCTIONS, "a", "b", "pi", "e", "(", ")", "(", ")", "+", "-", "*", "/", "**", "%", "^", ",", ".", " ",
    "0", "1", "2.5", "1e308", "1e999", "9" * 400, "if", "else", "and", "or", "not", "<", ">=", "==", "~", "[",
    "]", "lambda x: x", "__import__('os')", "a.b", "\n", "\\", "'", '"', "#", "@", ":", "=", "…", *TEXTS[:20],
)  # fmt: skip
NAMES = frozenset("ab")


def run(count: int, seed: int) -> int:
    """Try so many formulas; returns how many had a value."""
    known = 0
    maps = {"a": np.linspace(-2, 2, 12, dtype=np.float32), "b": np.float32(0)}
    for number in range(seed, seed + count):
        chance = random.Random(number)
        text = " ".join(chance.choices(PIECES, k=chance.randrange(1, 14)))
        if chance.random() < 0.02:
            text = chance.choice(("(", "-", "a+", "not ")) * chance.choice((50, 190, 399)) + "a"
        for work in (lambda t: read_formula(t, NAMES)(maps), calculate):
            try:
                got = np.asarray(work(text), np.float64)
            except Exception as error:
                in_a_sentence(error, f"formula {number} ({text[:80]!r})")
                continue
            known += 1
            if not np.isfinite(got).all():
                raise FaultError(f"formula {number} ({text[:80]!r}) gives {got}")
    return known
