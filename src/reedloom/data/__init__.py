"""What ships with the application: weaves, fonts, icons."""

from __future__ import annotations

from pathlib import Path

from reedloom.errors import unknown

FOLDER = Path(__file__).parent


def shipped_weave(name: str) -> Path:
    """The path of a shipped weave by its name, such as ``lakebed-clay``."""
    weaves = {path.stem: path for path in sorted((FOLDER / "weaves").glob("*.reed"))}
    if name not in weaves:
        raise unknown("shipped weave", name, weaves)
    return weaves[name]
