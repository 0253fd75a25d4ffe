"""Finds kinds by what a maker types: labels first, then synonyms, then purposes."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import TypeVar

from reedloom.kit.kind import Kind

Thing = TypeVar("Thing")


def score(kind: Kind, words: Sequence[str]) -> int:
    """How well a kind fits typed words, higher is better; 0 if a word fits nowhere."""
    names = (kind.label.lower(), kind.id.replace("_", " "))
    return how_well(words, names, kind.synonyms, kind.family, kind.purpose.lower())


def best_first(among: Iterable[Thing], points: Callable[[Thing], int]) -> list[Thing]:
    """The things that have any points, those with most first."""
    scored = [(points(thing), thing) for thing in among]
    return [thing for got, thing in sorted(scored, key=lambda pair: -pair[0]) if got]


def how_well(
    words: Sequence[str], names: Sequence[str], synonyms: Iterable[str], family: str, purpose: str = ""
) -> int:
    """How well typed words fit something, higher is better; 0 if a word fits nowhere.

    Parameters, all in small letters
    ----------
    names : what it is called, its label first
    synonyms, family, purpose : what else it might be called, where it belongs, what it is for
    """
    label = names[0]
    parts = label.replace(",", " ").split()
    total = 200 if " ".join(words) in names else 0
    for word in words:
        if parts[0] == word:
            best = 150 - len(label)
        elif label.startswith(word):
            best = 100 - len(label)
        elif any(part.startswith(word) for part in parts):
            best = 60
        elif any(name.startswith(word) for name in synonyms):
            best = 40
        elif word in label or family.startswith(word):
            best = 20
        elif word in purpose or any(word in name for name in synonyms):
            best = 10
        else:
            return 0
        total += best
    return total


def find_kinds(text: str, among: Iterable[Kind]) -> list[Kind]:
    """The kinds that fit the text, best first; all of them for an empty text."""
    words = text.lower().split()
    return best_first(among, lambda kind: score(kind, words)) if words else list(among)
