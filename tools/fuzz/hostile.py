"""What hostile input is made of, and what must hold of every answer to it."""

from __future__ import annotations

import random
import re
import string
from typing import Any

import reedloom as rl

NUMBERS: tuple[Any, ...] = (
    0, -1, 1, 2**31, -(2**63), 10**29, 10**400, 0.1, -0.0, 1e-320, 1e12, 1e13, 1e300, -1e308, True, None,
)  # fmt: skip
TEXTS: tuple[str, ...] = (
    "", " ", ".", "..", "/", "~", "~nobody/x.png", "a.b", "a\0b", "x" * 5000, "\ud800", "\u202egnp.x",
    "\u0007bell", "<img src='/dev/zero'>", "&amp;<b>", "{map}", "{weave.__class__}", "%s%n", "../../x",
    "/dev/zero", "1e999", "ﬀ", "🪢" * 40, "__class__", "nodes", "blur_1.map", "line\nline", "null",
)  # fmt: skip
NEST = "nested "
SENTENCE = re.compile(r"^[^\x00-\x1f\ud800-\udfff\u202a-\u202e]{10,1000}\.$", re.S)
PYTHON = re.compile(
    r"object is not|NoneType|has no attribute|codec can't|Traceback|invalid literal|unexpected keyword|"
    r"Errno|\bint too large|0x[0-9a-f]{8}|unforeseen|maximum recursion|not supported between"
)
"""Words of Python's own, which no sentence for a maker holds."""


class FaultError(Exception):
    """Something a fuzzer found: what was done, and what came of it."""


def value(chance: random.Random, depth: int = 0) -> Any:
    """Some JSON that nobody asked for."""
    roll = chance.random()
    if roll < 0.35:
        return chance.choice(NUMBERS)
    if roll < 0.65:
        return chance.choice(TEXTS)
    if roll < 0.7:
        return "".join(chance.choices(string.printable, k=chance.randrange(40)))
    if depth > 3:
        return []
    if roll < 0.85:
        return [value(chance, depth + 1) for _ in range(chance.randrange(5))]
    if roll < 0.99:
        return {chance.choice(TEXTS): value(chance, depth + 1) for _ in range(chance.randrange(4))}
    return f"{NEST}{chance.choice((20, 60, 900, 3000))}"


def unfolded(text: str) -> str:
    """A text of JSON in which what stands for deep nesting has become it."""
    return re.sub(rf'"{NEST}(\d+)"', lambda m: "[" * int(m[1]) + "1" + "]" * int(m[1]), text)


def in_a_sentence(error: BaseException, doing: str) -> None:
    """Raise a fault unless an error is one of ours and a plain sentence."""
    if not isinstance(error, rl.ReedError):
        raise FaultError(f"{doing}: {type(error).__name__}: {error}") from error
    text = str(error)
    if not SENTENCE.match(text) or PYTHON.search(text):
        raise FaultError(f"{doing}: this is no plain sentence: {text!r}")


def mutated_bytes(data: bytes, chance: random.Random) -> bytes:
    """Bytes with some of them changed, taken out, doubled or cut off."""
    out = bytearray(data)
    for _ in range(chance.choice((1, 1, 2, 4, 16))):
        at, length = chance.randrange(max(1, len(out))), chance.choice((1, 1, 2, 8, 200))
        roll = chance.random()
        if roll < 0.5:
            out[at : at + length] = chance.randbytes(length)
        elif roll < 0.65:
            del out[at : at + length]
        elif roll < 0.8:
            out[at:at] = out[max(0, at - length) : at]
        elif roll < 0.9:
            out[at : at + length] = chance.choice((b"\0", b"\xff", b"\x7f")) * length
        else:
            del out[at:]
    return bytes(out)
