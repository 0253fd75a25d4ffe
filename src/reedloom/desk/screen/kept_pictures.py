"""Small pictures kept on disk by content key, so that they are there at once the next time."""

from __future__ import annotations

import os
from contextlib import suppress
from pathlib import Path

from PySide6.QtGui import QImage

from reedloom.delivery.thumbnails import is_current, thumbnail_path
from reedloom.desk.look.fitting import PAINTED

MOST = 4000
"""Pictures kept; the oldest go first."""
CHECKED_EVERY = 64


def folder() -> Path:
    """Where they lie: below the environment's REEDLOOM_CACHE, or the user's folder for caches."""
    import platformdirs

    root = os.environ.get("REEDLOOM_CACHE") or platformdirs.user_cache_dir("reedloom")
    return Path(root) / "pictures"


def load(key: str) -> QImage | None:
    """The picture of a content key, if it is kept; using it makes it young again."""
    path = folder() / f"{key}.png"
    image = QImage(str(path))
    if image.isNull():
        return None
    with suppress(OSError):
        path.touch()
    return image.convertToFormat(PAINTED)


_kept = [0]


def keep(key: str, image: QImage) -> None:
    """Keep a picture; where that cannot be, it is made again the next time."""
    place = folder()
    part = place / f".{key}.{os.getpid()}.part"
    with suppress(OSError):
        place.mkdir(parents=True, exist_ok=True)
        if image.save(str(part), "PNG"):  # type: ignore[call-overload]
            part.replace(place / f"{key}.png")
        _kept[0] += 1
        if _kept[0] % CHECKED_EVERY == 1:
            _forget_oldest(place)


def _forget_oldest(place: Path) -> None:
    found = sorted(place.glob("*.png"), key=lambda p: p.stat().st_mtime)
    for path in found[: max(0, len(found) - MOST)]:
        path.unlink(missing_ok=True)


def thumbnail(path: Path) -> QImage | None:
    """The picture of a file as the desktop keeps it, if that is of the file as it is now."""
    image = QImage(str(thumbnail_path(path)))
    if image.isNull() or not is_current(path, {key: image.text(key) for key in image.textKeys()}):
        return None
    return image.convertToFormat(PAINTED)
