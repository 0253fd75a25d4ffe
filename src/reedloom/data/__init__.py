"""What ships with the application: weaves, fonts, icons."""

from __future__ import annotations

from pathlib import Path

from reedloom.errors import unknown

FOLDER = Path(__file__).parent


def shipped_weaves() -> dict[str, Path]:
    """The paths of all shipped weaves by name, in the order of their names."""
    return {path.stem: path for path in sorted((FOLDER / "weaves").glob("*.reed"))}


def shipped_weave(name: str) -> Path:
    """The path of a shipped weave by its name, such as ``lakebed-clay``."""
    weaves = shipped_weaves()
    if name not in weaves:
        raise unknown("shipped weave", name, weaves)
    return weaves[name]
