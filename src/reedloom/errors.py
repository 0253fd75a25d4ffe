"""The one family of errors: each is one sentence that says what, where and what to do."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Mapping

SENTENCE, NAME = 700, 60
"""Characters of a message, and of a name in it, beyond which they are cut."""
NEAR = 0.72
"""How alike two words are, from 0 to 1, of which one may be meant by the other."""
JOINERS = "\u200c\u200d"
"""Signs without a shape that words of some languages are written with."""


def readable(text: str, most: int = NAME) -> str:
    """A text as one line that shows all it holds: cut in its middle, and signs without a shape spelt out.

    Control signs, signs that turn the direction of writing and halves of characters are given as escapes.
    """
    if len(text) > most:
        text = f"{text[: most - most // 3 - 1]}…{text[-(most // 3) :]}"
    if text.isprintable():
        return text
    return "".join(c if c.isprintable() or c in JOINERS or _is_blank(c) else _spelt(c) for c in text)


def _is_blank(sign: str) -> bool:
    return unicodedata.category(sign) == "Zs"


def _spelt(sign: str) -> str:
    return repr(sign)[1:-1] if sign < "\x80" else f"\\u{ord(sign):04x}"


class ReedError(Exception):
    """Anything Reed Loom can explain to its user; the text is the whole message."""

    def __init__(self, text: str = "") -> None:
        super().__init__(readable(text, SENTENCE))


class UnknownNameError(ReedError):
    """A kind, node, port, parameter or channel that does not exist."""


class ValueRangeError(ReedError):
    """A parameter value of the wrong type or out of its hard range."""


class ConnectError(ReedError):
    """A thread that cannot be tied, with the reason."""


class FileError(ReedError):
    """A weave or picture file that cannot be read or written."""


class ProtectedError(FileError):
    """A file that is write-protected; it may be written if its owner says so."""


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


def unknown(
    what: str,
    name: object,
    allowed: Iterable[str],
    where: str = "",
    known_as: Mapping[str, Iterable[str]] | None = None,
) -> UnknownNameError:
    """The error for a name that is not among `allowed`, with those that may have been meant.

    known_as : for names the labels and other words that a person knows them by.
    """
    names, name = sorted(allowed), name if isinstance(name, str) else repr(name)
    meant = _meant(name[: 2 * NAME], names[:1000], known_as or {})
    place = f" {where}" if where else ""
    if meant:
        hint = f"you may mean {' or '.join(map(readable, meant))}."
    elif names:
        hint = f"use one of: {', '.join(map(readable, names[:12]))}{', ...' if len(names) > 12 else ''}."
    else:
        hint = "there is none."
    return UnknownNameError(f"There is no {what} '{readable(name)}'{place}; {hint}")


def _meant(name: str, names: list[str], known_as: Mapping[str, Iterable[str]]) -> list[str]:
    """The names that somebody may have meant: by another word for one, or by a slip of the keys."""
    plain = name.casefold().replace("_", " ").strip()
    own = {n: n.casefold().replace("_", " ") for n in names}
    words = {n: {word.casefold() for word in known_as.get(n, ())} | {own[n]} for n in names}
    called = [n for n in names if plain in words[n]] or [n for n in names if plain in own[n].split()]
    if called:
        return called[:3]
    from difflib import get_close_matches

    near = get_close_matches(plain, [word for n in names for word in words[n]], n=3, cutoff=NEAR)
    return list(dict.fromkeys(n for word in near for n in names if word in words[n]))[:3]
