"""Finds kinds by what a maker types: labels first, then synonyms, then purposes."""

from __future__ import annotations

from collections.abc import Iterable

from reedloom.kit.kind import Kind


def score(kind: Kind, words: Iterable[str]) -> int:
    """How well a kind fits typed words, higher is better; 0 if a word fits nowhere."""
    label = kind.label.lower()
    parts = label.replace(",", " ").split()
    words = list(words)
    total = 200 if " ".join(words) in {label, kind.id.replace("_", " ")} else 0
    for word in words:
        if parts[0] == word:
            best = 150 - len(label)
        elif label.startswith(word):
            best = 100 - len(label)
        elif any(part.startswith(word) for part in parts):
            best = 60
        elif any(name.startswith(word) for name in kind.synonyms):
            best = 40
        elif word in label or kind.family.startswith(word):
            best = 20
        elif word in kind.purpose.lower() or any(word in name for name in kind.synonyms):
            best = 10
        else:
            return 0
        total += best
    return total


def find_kinds(text: str, among: Iterable[Kind]) -> list[Kind]:
    """The kinds that fit the text, best first; all of them for an empty text."""
    words = text.lower().split()
    if not words:
        return list(among)
    scored = [(score(kind, words), kind) for kind in among]
    return [kind for points, kind in sorted(scored, key=lambda pair: -pair[0]) if points]
