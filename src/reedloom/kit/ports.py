"""Notches on a card: which data they carry and what part they play."""

from __future__ import annotations

import enum
from collections.abc import Mapping

from msgspec import Struct, field

from reedloom.kit.data import GREY, Data, SameAs


class Role(enum.Enum):
    """What a port is for, where that is more than its kind of data says."""

    VALUE = "value"
    """Nothing more than its data."""
    PLACE = "place"
    """A place on the tile: whole steps are the same place. As an input, where to compute."""
    WITHIN = "within"
    """A place within an element, 0 to 1 each way."""
    WAY = "way"
    """A displacement, by which something is moved."""
    MASK = "mask"
    """How much of something is there, 0 to 1."""
    SOURCE = "source"
    """Where something begins, as a mask of separate spots."""
    DISTANCE = "distance"
    """Signed distance to a form's edge, negative inside."""
    DRAWING = "drawing"
    """A drawn form that is set into other places."""
    CHANCE = "chance"
    """One random value for each element."""
    HEIGHT = "height"
    """A surface."""


class Driver(Struct, frozen=True):
    """How an input drives a parameter point by point.

    Attributes
    ----------
    parameter : str
        The parameter's name; empty where it drives several at once.
    neutral : float
        What the map must be everywhere to change nothing: 1 where it multiplies, 0 where it is added.
    """

    parameter: str
    neutral: float


def multiplies(parameter: str = "") -> Driver:
    """Declare that an input multiplies a parameter, point by point."""
    return Driver(parameter, 1.0)


def adds_to(parameter: str = "") -> Driver:
    """Declare that an input is added to a parameter, point by point."""
    return Driver(parameter, 0.0)


class Port(Struct, frozen=True):
    """A notch on a card: an input or an output.

    Attributes
    ----------
    data : Data or SameAs
        What it takes or gives; an output may follow the inputs.
    optional : bool
        Whether an input may be left untied.
    series : int
        Inputs and parameters of one number, from 1, belong to one row of a list, such as a layer.
    plain : bool
        Whether colour holds numbers rather than light, such as normals; shown without the sRGB transfer.
    role : Role
        What it is for.
    drives : Driver, optional
        The parameter that an input drives.
    exempt : mapping
        Laws ("tiles", "resolution", "shift", "away") that cannot hold here, each with the reason.
    title : str
        What a person calls it, where that is not made from its name.
    """

    name: str
    data: Data | SameAs
    optional: bool = False
    help: str = ""
    series: int = 0
    plain: bool = False
    role: Role = Role.VALUE
    drives: Driver | None = None
    exempt: Mapping[str, str] = field(default_factory=dict)
    title: str = ""

    @property
    def label(self) -> str:
        """The port's name as a person reads it: its title, if it has one."""
        return self.title or self.name.replace("_", " ").capitalize()


def driving(name: str, drives: Driver, help: str) -> Port:
    """An input for a grey map that drives a parameter point by point, and may be left untied."""
    return Port(name, GREY, optional=True, help=help, drives=drives)
