"""The one family of errors: each is one sentence that says what, where and what to do."""

from __future__ import annotations

from collections.abc import Iterable
from difflib import get_close_matches


class ReedError(Exception):
    """Anything Reed Loom can explain to its user; the text is the whole message."""


class UnknownNameError(ReedError):
    """A kind, node, port, parameter or channel that does not exist."""


class ValueRangeError(ReedError):
    """A parameter value of the wrong type or out of its hard range."""


class ConnectError(ReedError):
    """A thread that cannot be tied, with the reason."""


class FileError(ReedError):
    """A weave or picture file that cannot be read or written."""


class EvaluationError(ReedError):
    """A node that could not be computed; ``node`` names it."""

    def __init__(self, node: str, reason: str) -> None:
        super().__init__(f"Node '{node}' could not be computed: {reason}")
        self.node = node
        self.reason = reason


class Cancelled(ReedError):  # noqa: N818 - asked for by the user, so not an error in name
    """The evaluation was stopped before its end; nothing of it was kept."""

    def __init__(self) -> None:
        super().__init__("The computation was stopped.")


def unknown(what: str, name: str, allowed: Iterable[str], where: str = "") -> UnknownNameError:
    """The error for a name that is not among `allowed`, with the nearest ones suggested."""
    names = sorted(allowed)
    near = get_close_matches(name, names, n=3) or names
    shown = ", ".join(near[:12]) + (", ..." if len(near) > 12 else "")
    place = f" {where}" if where else ""
    hint = f"use one of: {shown}" if names else "there is none"
    return UnknownNameError(f"There is no {what} '{name}'{place}; {hint}.")
