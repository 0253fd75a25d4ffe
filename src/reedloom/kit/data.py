"""The kinds of data that flow through threads."""

from __future__ import annotations

import enum
from typing import Any

from msgspec import Struct


class Data(enum.Flag):
    """What flows through a thread; a port may accept several."""

    GREY = enum.auto()
    COLOUR = enum.auto()
    VECTOR = enum.auto()
    POINTS = enum.auto()
    PATHS = enum.auto()
    ISLANDS = enum.auto()
    MATERIAL = enum.auto()

    @property
    def word(self) -> str:
        """The name a person reads, such as ``grey or colour``."""
        return " or ".join(str(part.name).lower() for part in self)


GREY, COLOUR, VECTOR = Data.GREY, Data.COLOUR, Data.VECTOR
POINTS, PATHS, ISLANDS, MATERIAL = Data.POINTS, Data.PATHS, Data.ISLANDS, Data.MATERIAL
ANY = GREY | COLOUR | VECTOR | POINTS | PATHS | ISLANDS | MATERIAL
"""What a port takes of which nothing is known, because its kind is missing."""


class Material(dict[str, Any]):
    """Several channels that travel together: channel name to array, all of one size.

    Attributes
    ----------
    is_spare : bool
        Whether nobody but its holder needs it, so that its arrays can be let go one by one.
    """

    is_spare = False

    @classmethod
    def spare(cls, other: Material) -> Material:
        """The same channels, to be taken out of it."""
        made = cls(other)
        made.is_spare = True
        return made

    def let_go(self, name: str) -> None:
        """Forget a channel that is needed no more, if this is spare."""
        if self.is_spare:
            self.pop(name, None)

    @property
    def nbytes(self) -> int:
        """The bytes that its arrays hold."""
        return sum(int(array.nbytes) for array in self.values())


class SameAs(Struct, frozen=True):
    """An output's data kind that follows the inputs of these names: colour if any of them is."""

    ports: tuple[str, ...]


def SAME_AS(*ports: str) -> SameAs:  # noqa: N802 - declarations read as words
    """Declare an output that carries the same kind of data as the named inputs."""
    return SameAs(ports)
