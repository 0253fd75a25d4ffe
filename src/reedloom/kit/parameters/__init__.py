"""Types of parameters; each class holds its check, its tries and its random draw."""

from reedloom.kit.parameters.base import Parameter
from reedloom.kit.parameters.colours import ColourValue, Gradient
from reedloom.kit.parameters.curves import DRAFT_LIMIT, STRAIGHT_CURVE, Draft, ToneCurve
from reedloom.kit.parameters.drawn import DrawnPaths
from reedloom.kit.parameters.numbers import Angle, Count, Float, Integer, Length, Number, Seed
from reedloom.kit.parameters.words import Choice, File, FormulaText, Switch, Text

__all__ = [
    "DRAFT_LIMIT",
    "STRAIGHT_CURVE",
    "Angle",
    "Choice",
    "ColourValue",
    "Count",
    "Draft",
    "DrawnPaths",
    "File",
    "Float",
    "FormulaText",
    "Gradient",
    "Integer",
    "Length",
    "Number",
    "Parameter",
    "Seed",
    "Switch",
    "Text",
    "ToneCurve",
]
