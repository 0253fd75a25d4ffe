"""File names from a template such as ``{weave}_{map}``."""

from __future__ import annotations

import re
import string
import unicodedata
from pathlib import Path

from reedloom.errors import ReedError

TOKENS = {
    "weave": "the weave's name",
    "colourway": "the colourway's name",
    "map": "the map's name, such as base_colour",
    "size": "the size in samples",
    "depth": "the format, such as png16",
}


def plain_name(text: str) -> str:
    """A text as a file name: lower case, words joined by underscores, no signs."""
    folded = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode()
    return re.sub(r"[^a-z0-9]+", "_", folded.lower()).strip("_") or "untitled"


def plain_part(folder: Path) -> Path:
    """The part of a folder's path before the first one that holds a token."""
    parts = folder.parts
    count = next(
        (i for i, part in enumerate(parts) if "{colourway}" in part or "{weave}" in part), len(parts)
    )
    return Path(*parts[:count])


def fill_folder(folder: Path, values: dict[str, str]) -> Path:
    """A folder whose path holds the tokens ``{colourway}`` or ``{weave}``; other signs stay as they are."""
    first = plain_part(folder)
    filled = [
        part.replace("{colourway}", values["colourway"]).replace("{weave}", values["weave"])
        for part in folder.parts[len(first.parts) :]
    ]
    return first.joinpath(*filled)


def fill_template(template: str, values: dict[str, str]) -> str:
    """The name a template gives.

    Raises
    ------
    ReedError
        If it has an unknown token, or gives no legal file name.
    """
    try:
        parts = list(string.Formatter().parse(template))
    except ValueError as error:
        raise ReedError(f"The name template '{template}' is not well formed: {error}.") from None
    for _, token, spec, conversion in parts:
        if token is not None and (token not in values or spec or conversion):
            raise ReedError(
                f"The name template has the unknown token '{{{token}}}'; "
                f"use {', '.join('{' + t + '}' for t in TOKENS)}."
            )
    name = template.format(**values)
    odd = not name or "/" in name or not name.isprintable() or name in {".", ".."}
    if odd or len(name.encode(errors="replace")) > 200:
        raise ReedError(
            f"The name template gives '{name[:60]}', which is no file name; leave out '/' and keep it short."
        )
    return name
