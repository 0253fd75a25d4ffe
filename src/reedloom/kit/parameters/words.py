"""Parameters that are words: choices, switches, texts, formulas, files."""

from __future__ import annotations

import random
from difflib import get_close_matches
from pathlib import Path
from typing import Any, ClassVar

from reedloom.errors import NEAR, ReedError
from reedloom.files import home_path
from reedloom.kit.formulas import Formula, FormulaError, read_formula
from reedloom.kit.parameters.base import Parameter, Tried, UnfitError

PICTURES = {".png", ".jpg", ".jpeg", ".tif", ".tiff", ".exr", ".hdr"}


class Choice(Parameter, frozen=True):
    """One of a few words."""

    word: ClassVar[str] = "choice"

    choices: tuple[str, ...] = ()

    @property
    def words(self) -> tuple[str, ...]:
        return self.choices

    def plain(self, value: Any) -> str:
        if not isinstance(value, str) or value not in self.choices:
            near = get_close_matches(str(value), self.choices, n=1, cutoff=NEAR)
            meant = f"you may mean {near[0]}; there is: " if near else "use one of: "
            raise UnfitError(meant + ", ".join(self.choices))
        return str(value)

    def found_tries(self, value: Any, folder: str) -> Tried:
        """The present choice and those after it."""
        start = self.choices.index(value) if value in self.choices else 0
        return [(self.caption(name), name) for name in (*self.choices[start:], *self.choices[:start])]

    def ends(self) -> tuple[Any, ...]:
        return self.choices

    def draw(self, chance: random.Random) -> str:
        return chance.choice(self.choices)


class Switch(Parameter, frozen=True):
    """On or off."""

    word: ClassVar[str] = "boolean"

    def plain(self, value: Any) -> bool:
        if not isinstance(value, bool):
            raise UnfitError("use true or false")
        return value

    def found_tries(self, value: Any, folder: str) -> Tried:
        return [("Off", False), ("On", True)]

    def ends(self) -> tuple[Any, ...]:
        return (False, True)


class Text(Parameter, frozen=True):
    """A line of text."""

    word: ClassVar[str] = "text"

    default: str = ""

    def plain(self, value: Any) -> str:
        if not isinstance(value, str):
            raise UnfitError("use a text")
        return value


class File(Text, frozen=True):
    """A file, by a path from the weave's folder or from the root; empty for none."""

    word: ClassVar[str] = "file"
    is_file: ClassVar[bool] = True

    def found_tries(self, value: Any, folder: str) -> Tried:
        """The pictures beside the present one."""
        if not value:
            return []
        try:
            here = Path(folder) / home_path(value)
            names = sorted(p for p in here.parent.iterdir() if p.suffix.lower() in PICTURES)
        except (ReedError, OSError, ValueError):
            return []  # there is nothing beside what is not there
        start = names.index(here) if here in names else 0
        ordered = [*names[start:], *names[:start]]
        return [(path.stem, str(Path(value).parent / path.name)) for path in ordered]


class FormulaText(Text, frozen=True):
    """An expression over named inputs; see `kit/formulas.py`."""

    word: ClassVar[str] = "formula"

    names: tuple[str, ...] = ()
    of_maps: bool = False
    """Whether it is of maps, with colours and vectors among them."""

    def read(self, text: str) -> Formula:
        """The formula of a text; `FormulaError` where it cannot be read."""
        return read_formula(text, frozenset(self.names), self.of_maps)

    def plain(self, value: Any) -> str:
        text = super().plain(value)
        try:
            self.read(text)
        except FormulaError as error:
            raise UnfitError(str(error).rstrip(".")) from None
        return text
