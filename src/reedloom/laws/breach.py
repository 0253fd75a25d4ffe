"""What is raised when a kind breaks a law or a promise."""

from __future__ import annotations

from reedloom.errors import ReedError


class BrokenLaw(ReedError):  # noqa: N818 - a finding about a kind rather than an error of the program
    """A law, or a promise, that a kind does not keep; the text says where and with which values."""


def require(holds: object, *where: object) -> None:
    """Raise `BrokenLaw` naming the output, the values and what else `where` holds, if it does not hold."""
    if not holds:
        raise BrokenLaw("It does not hold for " + ", ".join(map(str, where)) + ".")
