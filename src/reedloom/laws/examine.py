"""Examines kinds: every law and promise for each of them, with what was found."""

from __future__ import annotations

import logging
from collections.abc import Iterable, Iterator

from msgspec import Struct

from reedloom.kit.kind import Kind
from reedloom.laws.breach import BrokenLaw
from reedloom.laws.laws import RULES
from reedloom.laws.memory import MEMORY
from reedloom.laws.promises import PROMISES

log = logging.getLogger(__name__)


class Finding(Struct, frozen=True):
    """How a kind stands to a law or promise.

    Attributes
    ----------
    rule : str
        What it says, in one sentence.
    trouble : str
        Where it does not hold; empty where it does.
    """

    kind: Kind
    rule: str
    trouble: str


def examine(kinds: Iterable[Kind]) -> Iterator[Finding]:
    """Ask every law and promise of each kind, one finding after another."""
    for kind in kinds:
        for rule in (*RULES, *PROMISES, *MEMORY):
            sentence = (rule.__doc__ or rule.__name__).split("\n")[0]
            try:
                rule(kind)
                trouble = ""
            except BrokenLaw as broken:
                trouble = str(broken)
            except Exception as error:  # a kind's own mistake is a finding too
                log.exception("%s could not be examined", kind.id)
                trouble = f"It failed with {type(error).__name__}: {error}"
            yield Finding(kind, sentence, trouble)
